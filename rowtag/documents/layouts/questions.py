"""Questionnaires as respondents saw them: questions in a numbering, or without one, with what answers them."""

import re
from bisect import bisect_left
from collections import defaultdict
from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

from rowtag.documents.blocks import Block, bare
from rowtag.documents.layouts.answers import BLANK, BOX, CODED, NAMED, Question, option_on, variables_of, wording_of
from rowtag.documents.layouts.asked import asked, rows_apart, shows_answers
from rowtag.documents.layouts.entry import Entry, names_of
from rowtag.documents.layouts.onward import instruction, is_instruction, lead_on
from rowtag.documents.wording import name_from

FEWEST = 3
"""Questions in a row below which a numbering is no questionnaire."""
_NUMBER = re.compile(r"^(?P<prefix>[A-Za-z]{0,3}?)(?P<number>\d{1,3})(?P<letter>[a-z]?)(?P<sign>[.:)]?)$")
_BEGIN = re.compile(r"^(?P<mark>[A-Za-z]{0,3}?\d{1,3}[a-z]?(?:[.:)]|(?=\t)))\s+(?P<text>\S.*)$", re.S)
_ROOM = re.compile(rf"^(?:\(|\d{{0,3}}{BLANK}|{BOX})")
_SECTION = re.compile(
    r"^(?:section|part|block|module|chapter|teil|abschnitt|partie|rubrique|część|dział)\s+"
    r"(?P<sign>[A-Z]|\d{1,2}|[IVX]{1,4})\b(?P<said>.{0,80})$|^(?P<letter>[A-Z])[.:)]\s+(?P<title>[^?]{2,80})$",
    re.I,
)


@dataclass(frozen=True)
class _Start:
    """Where a question of a numbering begins: the block, its number as one and as it is seen, its wording, letters
    before the number, and how the section is called in which the numbering began anew."""

    at: int
    count: int
    mark: str
    text: str
    prefix: str = ""
    section: str = ""


def see(blocks: Sequence[Block]) -> list[Entry]:
    """The variables of a questionnaire in whose questions a numbering runs through."""
    blocks = rows_apart(blocks)
    return _renamed(_asked_for(_named_in_brackets(_numbered(_begun_apart(blocks)))), blocks)


def see_unnumbered(blocks: Sequence[Block]) -> list[Entry]:
    """The variables of a questionnaire without numbers, named by the words of its questions: a last resort, as names
    that a document prints are worth more."""
    questions = _named_by_words(asked(rows_apart(blocks)))
    return [entry for question in questions for entry in variables_of(question)] if len(questions) >= FEWEST else []


def _asked_for(questions: Sequence[Question]) -> list[Entry]:
    """The variables of numbered questions; none where too little is asked, or nothing shows where to answer."""
    if len(questions) < FEWEST or not shows_answers(questions):
        return []
    asking = sum("?" in question.text or "…" in question.text for question in questions)
    if asking < 0.4 * len(questions):
        return []
    made = [variables_of(question) for question in questions]
    lead_on([(question.number, question.section) for question in questions], made)
    return [entry for entries in made for entry in entries]


def _named_by_words(questions: list[Question]) -> list[Question]:
    """Questions without numbers, each called by key words of its wording; one without any is left out."""
    names: set[str] = set()
    out = []
    for question in questions:
        name = name_from(wording_of(question.text), names)
        if name:
            names.add(name)
            out.append(replace(question, base=name))
    return out


# Which blocks are questions ----------------------------------------------------------------------


def _numbered(blocks: Sequence[Block]) -> list[Question]:
    """The questions of the numbering that runs furthest; those that bear a name where others do too."""
    starts = {start.at: start for start in _furthest(blocks)}
    if sum(bool(NAMED.search(start.text)) for start in starts.values()) > 2:
        for at in range(min(starts), len(blocks)):
            text = blocks[at].text
            named = blocks[at].kind in ("text", "item") and NAMED.search(text)
            if named and at not in starts and not re.search(rf"{BOX}|\t", text):
                starts[at] = _Start(at, 0, "", text.lstrip("* "))
    numbers = {_bare_mark(start.mark) for start in starts.values()}
    out: list[Question] = []
    section = ""
    for at, block in enumerate(blocks):
        if start := starts.get(at):
            number = _bare_mark(start.mark)
            base = f"{start.section}{number}" if start.section and number else ""
            out.append(Question(number, start.text, block, base=base, section=section))
        elif not is_instruction(block) and (block.kind == "heading" or _section_of(block) is not None):
            section = _section_of(block) or ""
            out.append(Question("", "", block))  # what follows belongs to no question
        elif out and not _tells_names(block, numbers):
            out[-1].body.append(block)
    _tell_next(out)
    return [_parted(question) for question in out if question.text]


def _tell_next(questions: Sequence[Question]) -> None:
    """What interviewers are told behind the answers to a question, or below the head of a section, is told of the
    next question."""
    for question, following in pairwise(questions):
        answers = [at for at, block in enumerate(question.body) if not is_instruction(block)]
        in_lines = not question.text or "\n" in question.text
        behind = answers[-1] + 1 if answers else 0 if in_lines else len(question.body)
        following.told += [instruction(block) for block in question.body[behind:] if is_instruction(block)]
        question.body = question.body[:behind]


def _bare_mark(mark: str) -> str:
    return mark.strip("*.:) \t")


def _furthest(blocks: Sequence[Block]) -> list[_Start]:
    """The questions that count on furthest, all in one way; below the head of a section they may begin anew."""
    styles: dict[tuple[bool, str, int], list[_Start]] = defaultdict(list)
    sections: list[tuple[int, str]] = []
    for at, block in enumerate(blocks):
        begun = _begun(block)
        if begun is not None and (found := _NUMBER.match(begun[0])):
            depth = block.depth if block.kind == "item" else -1
            start = _Start(at, int(found["number"]), *begun, prefix=found["prefix"].upper())
            styles[bool(start.prefix), found["sign"], depth].append(start)
        if (sign := _section_of(block)) is not None:
            sections.append((at, sign))
    return max((_chain(candidates, sections) for candidates in styles.values()), key=len, default=[])


def _section_of(block: Block) -> str | None:
    """The letter or number of a section at whose head a block stands, empty where it has none; None of any other."""
    if block.kind == "table" or "\n" in block.text or len(block.text) > 100:
        return None
    text = f"{block.mark} {block.text}" if block.kind == "item" else bare(block.text)
    found = _SECTION.match(text.strip())
    if found:
        sign = found["sign"] or found["letter"]
        # "I. What I think" may be an item; a letter alone is the head of a section where it is set as one
        return sign if found["sign"] or block.kind == "heading" else None
    return "" if block.kind == "heading" else None


def _chain(candidates: list[_Start], sections: Sequence[tuple[int, str]]) -> list[_Start]:
    """Those that count on, from one of the first numbers, anew under another letter; where they begin anew below the
    heads of sections, with the name of these."""
    out: list[_Start] = []
    begun: list[tuple[int, str]] = []
    letters: set[str] = set()
    places = [at for at, _ in sections]
    for each in candidates:
        last = bisect_left(places, each.at) - 1
        above = sections[last] if last >= 0 and places[last] > (out[-1].at if out else -1) else None
        lettered = bool(out) and each.prefix != out[-1].prefix
        if not out or lettered or (each.count == 1 and out[-1].count > 1 and above):
            if each.count <= (1 if lettered else 2) and not (lettered and each.prefix in letters):
                if not lettered:
                    begun.append((len(out), above[1] if above else ""))
                letters.add(each.prefix)
                out.append(each)
        elif out[-1].count < each.count <= out[-1].count + 3:
            out.append(each)
    if len(begun) < 2:
        return out
    signs = [sign.lower() for _, sign in begun]
    named = all(sign.isalpha() for sign in signs) and len(set(signs)) == len(signs)
    ends = [first for first, _ in begun[1:]] + [len(out)]
    return [
        replace(start, section=signs[number] if named else f"s{number + 1}q")
        for number, ((first, _), end) in enumerate(zip(begun, ends, strict=True))
        for start in out[first:end]
    ]


_LETTERED = re.compile(r"^[A-Za-z]{1,3}\d{1,3}[a-z]?[.:)]\s+\S", re.M)


def _begun_apart(blocks: Sequence[Block]) -> list[Block]:
    """Blocks, where a paragraph is a block of its own from each line on that begins with a letter and a number."""
    out: list[Block] = []
    for block in blocks:
        starts = [found.start() for found in _LETTERED.finditer(block.text)] if block.kind == "text" else []
        if not any(starts):
            out.append(block)
            continue
        for begin, end in pairwise(sorted({0, *starts, len(block.text) + 1})):
            first = block.line + block.text.count("\n", 0, begin)
            text = block.text[begin:end].rstrip("\n")
            out.append(replace(block, text=text, line=first, last=first + text.count("\n")))
    return out


_ROUND = re.compile(r"\s*\((?P<name>[a-z_]\w{1,30})\)\s*$")


def _named_in_brackets(questions: list[Question]) -> list[Question]:
    """Questions nearly all of which end in a word of their own in round brackets are called by these words."""
    found = [_ROUND.search(question.text) for question in questions]
    names = [one["name"] for one in found if one]
    if len(names) < max(FEWEST, 0.8 * len(questions)) or len(set(names)) < len(names):
        return questions
    return [
        replace(question, text=f"{question.text[: one.start()]} [{one['name']}]") if one else question
        for question, one in zip(questions, found, strict=True)
    ]


def _parted(question: Question) -> Question:
    """A question whose options stand on the lines right below its wording has them in its body."""
    first, *rest = question.text.split("\n")
    while rest and not (CODED.match(rest[0]) or _ROOM.match(rest[0])):
        first = f"{first} {rest.pop(0)}"
    body = [option_on(text, line) for line, text in enumerate(rest, question.block.last - len(rest) + 1)]
    return replace(question, text=first, body=[*body, *question.body])


def _tells_names(block: Block, numbers: Collection[str]) -> bool:
    """Whether a table says what the questions are called: its first column holds their numbers."""
    first = [bare(row.cells[0]).strip() for row in block.rows[1:] if row.cells]
    known = [cell for cell in first if cell in numbers or cell.rstrip("abcdefghijklmnopqrstuvwxyz") in numbers]
    return len(known) >= FEWEST and len(known) >= 0.6 * len(first)


def _begun(block: Block) -> tuple[str, str] | None:
    """The number and the wording where a block may be a question."""
    if block.kind == "item":
        return (block.mark, block.text) if block.mark not in ("-", "") else None
    if block.kind in ("text", "heading") and (found := _BEGIN.match(block.text)):
        return found["mark"], found["text"]
    return None


# Names told elsewhere ----------------------------------------------------------------------------


def _renamed(entries: list[Entry], blocks: Sequence[Block]) -> list[Entry]:
    """Variables under the names that a table gives for the numbers of questions, where there is one."""
    by_number = {entry.names[0].casefold(): entry for entry in entries}
    for block in blocks:
        if block.kind != "table":
            continue
        pairs = [
            (bare(row.cells[0]).strip(), bare(row.cells[1]).strip(), row) for row in block.rows if len(row.cells) > 1
        ]
        known = [pair for pair in pairs if pair[0].casefold() in by_number and names_of(pair[1])]
        if len(known) < 0.6 * len(pairs) or len(known) < FEWEST:
            continue
        out: list[Entry] = []
        named: set[str] = set()
        became: dict[int, Entry] = {}
        for number, name, _row in known:
            entry = by_number[number.casefold()]
            twice = number.casefold() in named
            named.add(number.casefold())
            again = Entry(
                (name,),
                [],
                entry.lines,
                0.9,
                "a question, named in a table",
                given=dict(entry.given),
                battery=entry.battery,
            )
            again.leads, again.skips = [], [] if twice else entry.skips
            became.setdefault(id(entry), again)
            again.also, again.codes = number, [] if twice else list(entry.codes)
            again.limits = None if twice else entry.limits
            out.append(again)
        out += [entry for key, entry in by_number.items() if key not in named]
        for entry in out:
            entry.skips = [(codes, became.get(id(to), to), said) for codes, to, said in entry.skips]
        return out
    return entries
