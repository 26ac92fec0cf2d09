"""Lists told once: which variables a list of codes reaches that stands apart from them."""

import re
from collections.abc import Iterable, Sequence
from itertools import islice

from rowtag.documents.blocks import Block, bare
from rowtag.documents.codes import NUMBER, Code
from rowtag.documents.heads import names_in
from rowtag.documents.layouts.entry import REFERENCE, Entry, codes_in_lines, codes_in_rows
from rowtag.documents.meaning import read_meaning
from rowtag.documents.turned import without_told

_RANGE = re.compile(r"\b(?P<names>[^\W\d]\w*?\d+[a-z]?\s*(?:-|–|to|through|do|bis|à)\s*(?:[^\W\d]\w*?)?\d*[a-z]?)\b")
_ALL = re.compile(
    r"\b(?:all|every|each)\s+(?:of\s+the\s+)?(?:variables?|items?|questions?|columns?|statements?)\b", re.I
)
_BUT = re.compile(r"\bexcept(?:\s+for)?\s+(?P<names>[\w.,\s]+?)(?=[:;.]|\s\d)", re.I)
_ITEMS = re.compile(r"\b(?:items?|statements?)\b", re.I)


_TO = re.compile(r"\s*(?:–|to|through|do|bis|à)\s*")


_FACTOR = re.compile(r"(?:an?\s+)?(?:ordered\s+)?(?:factor|variable)?(?:\s+with)?\s*(?:the)?", re.I)


def share(entries: Sequence[Entry], blocks: Sequence[Block]) -> None:
    """Gives entries the lists that are told for them elsewhere."""
    _told_apart(_Reach(entries), blocks)
    _referred(entries)
    _as_above(entries)


class _Reach:
    """The entries of a document, by name and by the line they begin on."""

    def __init__(self, entries: Sequence[Entry]) -> None:
        self.entries = entries
        self.by_name = {name.casefold(): entry for entry in entries for name in entry.names}
        self.by_line = {entry.lines[0]: entry for entry in entries}
        self.items = _items(entries)

    def called(self, names: Iterable[str]) -> list[Entry]:
        """The entries of these names, each once."""
        found = (self.by_name.get(name.casefold()) for name in names)
        return list({id(entry): entry for entry in found if entry is not None}.values())


def _told_apart(reach: _Reach, blocks: Sequence[Block]) -> None:
    inside = {line for entry in reach.entries for line in range(entry.lines[0], entry.lines[1] + 1)}
    for at, block in enumerate(blocks):
        if block.kind == "table":
            for row in block.rows:
                if sum(map(bool, row.cells)) == 1:
                    _give_among(reach, "".join(row.cells))
            continue
        if block.kind not in ("text", "item", "heading") or block.line in inside:
            continue
        _tell(reach, block.text)
        codes = list(read_meaning(bare(block.text).replace("\n", "  ")).codes)
        below = blocks[at + 1] if at + 1 < len(blocks) else None
        if len(codes) < 2 and below is not None and below.kind == "table" and below.line not in inside:
            codes = codes_in_rows(below) or codes
        if len(codes) < 2 and block.text.rstrip().endswith(":"):
            codes = _listed_below(blocks, at) or codes
        if codes and 2 * sum((code.code or "").casefold() in reach.by_name for code in codes) <= len(codes):
            _give_told(reach, blocks, at, codes)


def _give_told(reach: _Reach, blocks: Sequence[Block], at: int, codes: list[Code]) -> None:
    """Gives a list to those that its text calls or names, else to the family below it, else to the items."""
    set_as = without_told(blocks[at].text)
    text = bare(set_as)
    called = reach.called(re.findall(r"`([^`\s]+)`", set_as))
    if called and len(codes) > 1 and not any(entry.codes for entry in called):
        _give(called, text, codes)
    elif not _give(_named(reach, text), text, codes) and len(codes) > 1:
        items = reach.items if _ITEMS.search(text) and len(codes) > 2 else []
        _give(_below(reach, blocks, at) or items, text, codes)


_IS = re.compile(r"`(?P<name>[^`\s]+)`\s+(?:is|are|was|measures|gives|contains|records)\s+(?P<said>.+)", re.S)


def _tell(reach: _Reach, text: str) -> None:
    """Takes what a text says elsewhere of a variable that has no meaning of its own: `x` is …"""
    found = _IS.match(text)
    for entry in reach.called([found["name"]]) if found else ():
        if found and not entry.given.get("label") and not entry.given.get("question"):
            entry.given["label"] = read_meaning(" ".join(found["said"].split())).rest


def _below(reach: _Reach, blocks: Sequence[Block], at: int) -> list[Entry]:
    """The entries right below a block, up to the next heading or text, where none of them says its own codes."""
    below: list[Entry] = []
    for block in islice(blocks, at + 1, None):
        entry = reach.by_line.get(block.line)
        if block.kind == "heading" or (block.kind == "text" and entry is None):
            break
        if entry is not None:
            below.append(entry)
    stem = _stem(below[0].names[0]) if below else ""
    family = [entry for entry in below if _stem(entry.names[0]) == stem]
    below = family if stem and len(family) > 1 else below
    return below if len(below) > 1 and not any(entry.codes or entry.limits for entry in below) else []


def _stem(name: str) -> str:
    """The part of a numbered name that its family has in common; nothing where it has no number."""
    found = re.search(r"(?<!\d)\d+[a-z]?$", name)
    return name[: found.start()] if found else ""


def _listed_below(blocks: Sequence[Block], at: int) -> list[Code]:
    """The codes that items right below a block list, one each, up to something else."""
    lines: list[str] = []
    for block in islice(blocks, at + 1, None):
        first, *rest = bare(block.text).split("\n")
        if block.kind == "item" and re.fullmatch(rf"{NUMBER}\*?[.)]?", block.mark):
            lines.append(f"{block.mark.rstrip('.)')} {first}")
        elif block.kind == "text" and re.match(rf"{NUMBER}\*?\s", first):
            lines.append(first)
        else:
            break
        if rest:
            break
    return codes_in_lines(lines)


def _named(reach: _Reach, text: str) -> list[Entry]:
    """The entries that a text names: by a range of their names, or as all of them."""
    names = [name for found in _RANGE.finditer(text) for name in names_in(_TO.sub("-", found["names"]))]
    if names:
        return reach.called(names)
    found = _ALL.search(text)
    if found is None:
        return []
    return list((_ITEMS.search(found[0]) and reach.items) or reach.entries)


def _give(reached: Sequence[Entry], text: str, codes: list[Code]) -> bool:
    """Gives a list to some entries, unless a text excepts them; whether there are any."""
    missing = all(code.reason for code in codes)
    if missing and len({len(code.code or "") for code in codes}) > 1:
        return True  # 9, 99, 999: which of them holds for which variable is not said
    but = {name.casefold() for found in _BUT.finditer(text) for name in re.findall(r"[\w.]+", found["names"])}
    for entry in reached:
        if but.intersection(name.casefold() for name in entry.names):
            continue
        if missing:
            keys = {code.key for code in entry.codes}
            entry.codes += [code for code in codes if code.key not in keys]
        elif not entry.codes and entry.limits is None:
            entry.codes = list(codes)
    return bool(reached)


def _give_among(reach: _Reach, text: str) -> None:
    """Gives the one list that some of the entries named in a text have to the others among them."""
    for found in _RANGE.finditer(text):
        named = reach.called(names_in(_TO.sub("-", found["names"])))
        having = [entry for entry in named if entry.codes]
        if len(having) == 1:
            for entry in named:
                if not entry.codes and entry.limits is None:
                    entry.codes = list(having[0].codes)


def _items(entries: Sequence[Entry]) -> list[Entry]:
    """Entries whose names are numbered in families of three or more."""
    families: dict[str, list[Entry]] = {}
    for entry in entries:
        if stem := _stem(entry.names[0]):
            families.setdefault(stem, []).append(entry)
    return [entry for family in families.values() if len(family) > 2 for entry in family]


_AS = re.compile(r"(?:as|like|=)\s+(?P<name>[^\W\d]\w*(?:\.\w+)*)\.?", re.I)
"""A cell that only names another variable."""


def _referred(entries: Sequence[Entry]) -> None:
    """`the same levels as trace`, `see mode_m`: what was said there holds here."""
    by_name = {name.casefold(): entry for entry in entries for name in entry.names}
    for entry in entries:
        texts = [*entry.texts, *(str(value) for value in entry.given.values())]
        for text in texts:
            said = " ".join(bare(text).split())
            found = REFERENCE.search(said) or _AS.fullmatch(said)
            other = by_name.get(found["name"].casefold()) if found else None
            if found and other is not None and other is not entry and not entry.codes and other.codes:
                entry.codes = list(other.codes)
                _without_reference(entry, found[0])


_ABOVE = re.compile(
    r"[(\[]?(?:ditto|(?:the )?(?:same )?(?:codes? |values? )?as (?:above|before)|same|idem|see above|wie oben|jw\.?"
    r"|″|\")[)\]]?\.?",
    re.I,
)


def _as_above(entries: Sequence[Entry]) -> None:
    """`as above`: what was listed last holds here too."""
    last: Entry | None = None
    for entry in entries:
        if entry.codes:
            last = entry
        elif last is not None and any(_ABOVE.fullmatch(bare(text).strip()) for text in entry.texts[:4]):
            entry.codes = list(last.codes)


def _without_reference(entry: Entry, said: str) -> None:
    for role in ("label", "question"):
        value = entry.given.get(role)
        if isinstance(value, str) and said in value:
            before, _, behind = value.partition(said)
            before = re.split(r"\s+-\s+|[,;(]", before)[0]
            before = "" if _FACTOR.fullmatch(before.strip()) else before
            entry.given[role] = (before or behind).strip(" ,;-.)")
