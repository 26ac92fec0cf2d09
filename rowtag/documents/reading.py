"""Reads a document: of all ways in which it may be set, the one that explains most of it."""

from bisect import bisect_right
from collections.abc import Collection, Sequence
from dataclasses import replace

from rowtag.core.codebook import Described, Understood
from rowtag.documents.blocks import Block, bare
from rowtag.documents.commands import blocks_of_commands, is_set_with_commands
from rowtag.documents.layouts import alone, columns, items, questions, runin, tables, terms
from rowtag.documents.layouts.asked import asking_in
from rowtag.documents.layouts.entry import Entry
from rowtag.documents.once import each_once
from rowtag.documents.plain import blocks_of
from rowtag.documents.scope import share
from rowtag.documents.settling import described, settled, titled
from rowtag.documents.tolerant import read_document as read_lines
from rowtag.documents.turned import with_reversed
from rowtag.documents.wording import spelt

LAYOUTS = (terms, tables, alone, runin, items, questions, columns)


def read_document(text: str, known: Collection[str] = ()) -> Understood:
    """What a document says of variables; `known` are names of the study at hand."""
    if any(chr(sign) in text for sign in _UNSEEN):
        text = text.translate(_UNSEEN)
    commanded = is_set_with_commands(text)
    blocks = blocks_of_commands(text) if commanded else blocks_of(text)
    telling = _telling(blocks)
    found = _read(text, blocks, telling, _entries(telling, known), known, by_lines=not commanded)
    named = _NAMED * len(found.variables)
    if asking_in(text) > named and len(unnamed := questions.see_unnumbered(telling)) > named:
        _called_as_known(unnamed, known)
        found = _read(text, blocks, telling, unnamed, known, by_lines=False)
    return replace(found, variables=with_reversed(_in_sections(found.variables, telling), telling))


def _read(
    text: str,
    blocks: Sequence[Block],
    telling: Sequence[Block],
    entries: Sequence[Entry],
    known: Collection[str],
    *,
    by_lines: bool,
) -> Understood:
    """What entries say of variables; or what the lines say one `by_lines`, where that is more, or nothing else is."""
    for entry in entries:
        settled(entry)
    _without_names(entries)
    if entries:
        share(entries, blocks)
    found = each_once([each for entry in entries for each in described(entry)])
    if by_lines or not entries:
        lines = read_lines(_without(text, blocks, telling), known)
        within = {
            line for entry in entries for line in range(entry.lines[0] + (not entry.set_apart), entry.lines[1] + 1)
        }
        numbers = {entry.also for entry in entries}
        others = [each for each in lines.variables if each.lines[0] not in within and each.name not in numbers]
        if _worth(others, known) > 1.25 * _worth(found, known):
            return lines
    placed = {line for entry in entries for line in range(entry.lines[0], entry.lines[1] + 1)}
    said = [number for number, line in enumerate(text.split("\n"), 1) if line.strip()]
    return Understood(tuple(found), unplaced=tuple(number for number in said if number not in placed))


_NAMED = 3
"""How many times as many questions as names there must be for the questions to be named by their words."""


def _in_sections(found: Sequence[Described], blocks: Sequence[Block]) -> tuple[Described, ...]:
    """Variables with the heading above them, where several headings divide the variables of a document."""
    headings = [block for block in blocks if block.kind == "heading"]
    lines = [block.line for block in headings]
    above = [bisect_right(lines, each.lines[0]) - 1 for each in found]
    parts = set(above)
    if len(parts) < 2 or 2 * len(parts) > len(found):
        return tuple(found)
    titles = [titled(bare(headings[at].text)) if at >= 0 else None for at in above]
    return tuple(replace(each, section=title) for each, title in zip(found, titles, strict=True))


_UNSEEN = dict.fromkeys([0xAD, 0x200B, 0x2060, 0xFEFF])
"""Signs that nobody sees: places where a word may break or must not."""


def _without_names(entries: Sequence[Entry]) -> None:
    """A list with meanings most of whose codes are names of variables is a list of these."""
    names = {name.casefold() for entry in entries for name in entry.names if len(name) > 2}
    for entry in entries:
        told = [code for code in entry.codes if code.label and (code.code or "").casefold() in names]
        if 2 * len(told) > len(entry.codes):
            entry.codes = []


_ASIDE = frozenset(
    ["usage", "examples", "example", "references", "source", "sources", "see also", "author", "authors", "arguments"]
)


def _telling(blocks: Sequence[Block]) -> list[Block]:
    """The blocks of a document without those sections that are never about variables."""
    out: list[Block] = []
    aside = 0
    for block in blocks:
        if block.kind == "heading":
            if aside and block.depth > aside:
                continue
            aside = block.depth if block.text.strip(" :").casefold() in _ASIDE else 0
        if not aside:
            out.append(block)
    return out


def _without(text: str, blocks: Sequence[Block], telling: Sequence[Block]) -> str:
    """A text whose lines in blocks that tell nothing are blank."""
    kept = {id(block) for block in telling}
    aside = {line for block in blocks if id(block) not in kept for line in range(block.line, block.last + 1)}
    if not aside:
        return text
    return "\n".join("" if number in aside else line for number, line in enumerate(text.split("\n"), 1))


def _entries(blocks: Sequence[Block], known: Collection[str]) -> list[Entry]:
    """The variables by the layout that tells most of them; other layouts add what stands elsewhere."""
    found = [layout.see(blocks) for layout in LAYOUTS]
    found.sort(key=lambda entries: -_entries_worth(entries, known))
    out: list[Entry] = []
    names: set[str] = set()
    for entries in found:
        placed = {line for entry in out for line in range(entry.lines[0], entry.lines[1] + 1)}
        fresh = [entry for entry in entries if not names.intersection(entry.names) and entry.lines[0] not in placed]
        if out and len(fresh) < 3:
            continue
        names.update(name for entry in fresh for name in entry.names)
        out += fresh
    _called_as_known(out, known)
    return sorted(out, key=lambda entry: entry.lines)


def _called_as_known(entries: Sequence[Entry], known: Collection[str]) -> None:
    """Questions without a printed name are called as the study calls what their words spell, surely enough to ask."""
    met = {name.casefold() for entry in entries for name in (*entry.names, entry.also)}
    free = [name for name in known if name.casefold() not in met]
    there = {name.casefold() for name in known}
    unnamed = [entry for entry in entries if entry.proposed and entry.names[0].casefold() not in there]
    wordings = [str(entry.given.get("label") or entry.given.get("question") or "") for entry in unnamed]
    for at, name in spelt(wordings, free).items():
        entry = unnamed[at]
        entry.names, entry.also = (name,), entry.names[0]
        entry.reason, entry.certainty = "a question whose words spell the name", 0.7


def _entries_worth(entries: Sequence[Entry], known: Collection[str]) -> float:
    there = set(known)
    return sum(entry.certainty * (2.0 if name in there else 1.0) for entry in entries for name in entry.names)


def _worth(variables: Sequence[Described], known: Collection[str]) -> float:
    """How much of a document descriptions explain: surely, with meanings and codes, of variables that are known."""
    there = set(known)
    worth = 0.0
    for each in variables:
        said = each.parts.model_fields_set
        rich = 0.4 + 0.3 * bool(said & {"label", "question"}) + 0.3 * bool(said & {"codes", "missing", "limits"})
        worth += each.certainty * rich * (2.0 if each.name in there else 1.0)
    return worth
