"""Questionnaires as respondents saw them: numbered questions with their options, in lines, columns or grids."""

import re
from collections import defaultdict
from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass, field, replace
from itertools import pairwise

from rowtag.core.tag import Reason
from rowtag.documents.blocks import Block, Row, bare
from rowtag.documents.codes import Code
from rowtag.documents.layouts.entry import Entry, names_of
from rowtag.documents.meaning import read_meaning
from rowtag.documents.reasons import missing_reason

COUNTED = "codes counted in the order of the answers, none is printed"
"""Noted where options bear no codes."""
FEWEST = 3
"""Questions in a row below which a numbering is no questionnaire."""
_BOX = r"[□☐◻○◯❑❏▢☑☒]|\[\s?\]|\(\s\)"
_BLANK = r"(?:_{2,}|\|(?:__?\|)+|\.{5,}|…{2,})"
_NUMBER = re.compile(r"^(?P<prefix>[A-Za-z]{0,3}?)(?P<number>\d{1,3})(?P<letter>[a-z]?)(?P<sign>[.:)]?)$")
_BEGIN = re.compile(r"^(?P<mark>[A-Za-z]{0,3}?\d{1,3}[a-z]?(?:[.:)]|(?=\t)))\s+(?P<text>\S.*)$", re.S)
_OPTION = re.compile(r"^(?P<mark>-?\d{1,3}[.)]?)\s+(?P<text>\S.*)$")
_ROOM = re.compile(rf"^(?:\(|\d{{0,3}}{_BLANK})")
_CALLED = re.compile(r"^(?P<name>[A-Z][A-Z0-9_]{2,20})[.:]\s+(?=\S)")
_NAMED = re.compile(r"\s*\[(?P<name>[^\W\d]\w{0,40})\]\s*$")
_CODE_BEHIND = re.compile(r"^(?P<label>.*?\S)\s*\(\s*(?P<code>-?\d{1,4})\s*\)\s*(?P<rest>.*)$", re.S)
_SKIP = re.compile(
    r"\s*(?:→|⇒|->|=>|>>)\s*(?P<said>.*)$"
    r"|\s*\((?P<aside>[^()]*\b(?:go (?:on|to)|continue|skip|passez|weiter|przejdź)\b[^()]*)\)\s*",
    re.I | re.S,
)
_MULTI = re.compile(
    r"\b(?:all|everything|any|those) that appl"
    r"|\b(?:several|multiple|more than one) (?:answers?|responses?|options?|boxes)|tick (?:all|each)"
    r"|plusieurs réponses|mehrere? (?:antworten|nennungen)|mehrfachnennung|kilka odpowiedzi",
    re.I,
)
_RANKED = re.compile(r"\b(?:write|put|enter)\s+1\b|\brank\b|\bin order of\b|in the order of", re.I)
_TOLD = re.compile(
    r"^\(?\s*(?:please\s+)?(?:only\s+)?(?:tick|circle|mark|check|cross|choose|select|write|enter|put|give"
    r"|one (?:number|figure|answer|box|cross|tick)|several answers|multiple answers|only one"
    r"|cochez|entourez|une (?:croix|seule)|un seul|plusieurs réponses|bitte|mehrfach|zaznacz|proszę)\b",
    re.I,
)
_SENTENCE = re.compile(
    r"(?<=[.?!…:])\s+(?=[A-ZÀ-Ý(])|(?<=\))\s+(?=[A-ZÀ-Ý(])|\s+(?=\((?:Une|Plusieurs|Tick|Please|Circle|Mark|One)\b)"
)
_SCALE = re.compile(r"^(?P<low>\D{2,60}?)\s+(?P<codes>-?\d+(?:\s+\d+){2,})\s+(?P<high>\D{2,60})$")
_ITEM = re.compile(r"^\(?(?P<letter>[a-z]|[A-Z])[.)]\s+(?P<text>\S.*)$", re.S)


@dataclass
class _Option:
    """An answer as it is printed: what it says, its code, its own name, whether there is room to write in."""

    label: str
    code: str = ""
    name: str = ""
    letter: str = ""
    boxed: bool = False
    blank: bool = False
    listed: bool = False
    skip: str = ""


@dataclass
class _Question:
    """A question with its number as it is seen, its wording, and what stands below."""

    number: str
    text: str
    block: Block
    body: list[Block] = field(default_factory=list)


def see(blocks: Sequence[Block]) -> list[Entry]:
    """The variables of a questionnaire, where a numbering of questions runs through the document."""
    questions = _named_in_brackets(_questions(_begun_apart(blocks)))
    if len(questions) < FEWEST:
        return []
    entries = [entry for question in questions for entry in _variables(question)]
    answered = sum(bool(entry.codes) or entry.given.get("open") is not None for entry in entries)
    asking = sum("?" in question.text or "…" in question.text for question in questions)
    if asking < 0.4 * len(questions) or answered < 0.5 * len(entries):
        return []
    for entry in entries:
        entry.given.pop("open", None)
    return _renamed(entries, blocks)


# Which blocks are questions ----------------------------------------------------------------------


def _questions(blocks: Sequence[Block]) -> list[_Question]:
    """The questions of the numbering that runs furthest; those that bear a name where others do too."""
    styles: dict[tuple[str, str, int], list[tuple[int, int, str, str]]] = defaultdict(list)
    for at, block in enumerate(blocks):
        if (begun := _begun(block)) is not None:
            mark, text = begun
            found = _NUMBER.match(mark)
            if found:
                depth = block.depth if block.kind == "item" else -1
                styles[found["prefix"], found["sign"], depth].append((at, int(found["number"]), mark, text))
    chain = max((_chain(candidates) for candidates in styles.values()), key=len, default=[])
    starts = {at: (mark, text) for at, _, mark, text in chain}
    named = sum(bool(_NAMED.search(text)) for _, text in starts.values())
    if named > 2:
        for at, block in enumerate(blocks):
            asked = (
                block.kind in ("text", "item")
                and _NAMED.search(block.text)
                and not re.search(rf"{_BOX}|\t", block.text)
            )
            if asked and at not in starts and at > min(starts):
                starts[at] = ("", block.text.lstrip("* "))
    out: list[_Question] = []
    for at, block in enumerate(blocks):
        if at in starts:
            mark, text = starts[at]
            out.append(_Question(mark.strip("*.:) \t"), text, block))
        elif out and block.kind == "heading":
            out.append(_Question("", "", block))  # what follows belongs to no question
        elif out and not _tells_names(block, {mark.strip("*.:) \t") for mark, _ in starts.values()}):
            out[-1].body.append(block)
    return [_parted(question) for question in out if question.text]


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


def _named_in_brackets(questions: list[_Question]) -> list[_Question]:
    """Questions nearly all of which end in a word of their own in round brackets are called by these words."""
    found = [_ROUND.search(question.text) for question in questions]
    names = [one["name"] for one in found if one]
    if len(names) < max(FEWEST, 0.8 * len(questions)) or len(set(names)) < len(names):
        return questions
    return [
        replace(question, text=f"{question.text[: one.start()]} [{one['name']}]") if one else question
        for question, one in zip(questions, found, strict=True)
    ]


def _parted(question: _Question) -> _Question:
    """A question whose options stand on the lines right below its wording has them in its body."""
    first, *rest = question.text.split("\n")
    while rest and not (_OPTION.match(rest[0]) or _ROOM.match(rest[0])):
        first = f"{first} {rest.pop(0)}"
    body: list[Block] = []
    for line, text in enumerate(rest, question.block.last - len(rest) + 1):
        found = _OPTION.match(text)
        body.append(
            Block("item", found["text"], line, line, mark=found["mark"]) if found else Block("text", text, line, line)
        )
    return _Question(question.number, first, question.block, [*body, *question.body])


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


def _chain(candidates: list[tuple[int, int, str, str]]) -> list[tuple[int, int, str, str]]:
    """Those that count on, from one of the first numbers."""
    out: list[tuple[int, int, str, str]] = []
    for each in candidates:
        if not out:
            if each[1] <= 2:
                out.append(each)
        elif out[-1][1] < each[1] <= out[-1][1] + 3:
            out.append(each)
    return out


# What a question asks for --------------------------------------------------------------------------


def _variables(question: _Question) -> list[Entry]:
    """The variables that a question makes."""
    text, name, battery = question.text, "", ""
    if found := _NAMED.search(text):
        text, name = text[: found.start()], found["name"]
    elif found := _CALLED.match(text):
        text, name = text[found.end() :], found["name"]
    wording = _wording(text)
    base = (
        question.number if re.match(r"[A-Za-z]", question.number) else f"q{question.number}" if question.number else ""
    )
    grids = [block for block in question.body if block.kind == "table" and len(block.rows) > 1]
    lines = (question.block.line, question.block.last)
    out: list[Entry] = []
    for grid in grids:
        battery = wording
        out += _grid(grid, base, battery, first=len(out))
    if out:
        out[0].lines = (lines[0], out[0].lines[1])
        return out
    options = [option for block in question.body for option in _options(block)]
    entry = Entry((name or base,), [], lines, 0.9 if name else 0.85, "a question", also=base if name else "")
    entry.given["question"] = wording
    for block in question.body:
        entry.lines = (entry.lines[0], max(entry.lines[1], block.last))
    if not (name or base):
        return []
    for block in question.body:
        if block.kind == "text" and (re.search(_BLANK, block.text) or block.text.startswith("(")):
            said = read_meaning(re.sub(_BLANK, " ", block.text))
            entry.limits = entry.limits or said.limits
            entry.codes += [code for code in said.codes if code.reason]
    scale = next(
        (
            found
            for block in question.body
            for line in block.text.split("\n")
            if (found := _SCALE.match(line.replace("\t", " ").strip()))
        ),
        None,
    )
    if scale:
        entry.codes = _scaled(scale)
        return [entry]
    rows = [option for option in options if option.blank and option.label and not option.boxed and option.letter]
    if len(rows) > 1 and len(rows) == len(options):
        ranked = _ends_of_rank(question.text, len(rows)) if _RANKED.search(question.text) else []
        return [_part(base, option, number, wording, lines, ranked) for number, option in enumerate(rows)]
    multi = bool(_MULTI.search(question.text)) or sum(bool(option.name) for option in options) > 1
    chosen = [
        option
        for option in options
        if option.label and (option.boxed or option.code or option.letter or not option.blank)
    ]
    if multi and len(chosen) > 1:
        ticked = [Code("", code="1"), Code("", code="0")]
        return [_part(base, option, number, wording, lines, ticked) for number, option in enumerate(chosen)]
    entry.codes = _codes(chosen) or entry.codes
    if not entry.codes:
        entry.given["open"] = True
    notes = [f"{option.label}: {option.skip}" for option in chosen if option.skip]
    if entry.codes and chosen and not any(option.code for option in chosen):
        notes.append(COUNTED)
    if notes:
        entry.given["note"] = "; ".join(notes)
    return [entry]


def _part(base: str, option: _Option, number: int, battery: str, lines: tuple[int, int], codes: list[Code]) -> Entry:
    """One of the variables that a question makes, one for each of its options or rows."""
    letter = option.letter.lower() or _letter(number)
    entry = Entry((option.name or f"{base}{letter}",), [], lines, 0.85, "an option or item of a question")
    entry.also = f"{base}{letter}" if option.name else ""
    entry.given["label"], entry.battery = option.label, battery
    entry.codes = list(codes)
    if not codes:
        entry.given["open"] = True
    return entry


def _letter(number: int) -> str:
    return chr(ord("a") + number % 26) if number < 26 else f"_{number + 1}"


def _wording(text: str) -> str:
    """A question's wording without instructions for filling in."""
    text = " ".join(bare(text).split())
    parts = [part for part in _SENTENCE.split(text) if part]
    kept = [part for part in parts if not _TOLD.match(part)]
    said = " ".join(kept) if kept else text
    said = (
        re.sub(r"\s*\([^()]*\)\s*$", "", said)
        if said.rstrip().endswith(")") and "?" in said and said.index("?") < said.rindex("(")
        else said
    )
    return re.sub(r"(?<=[?.…])\s+(?:Tick|Circle|Mark|Check|One)\b[^?.]*$", "", said).strip()


def _options(block: Block) -> Iterator[_Option]:
    """The answers that a block prints, one a line or several."""
    if block.kind == "table":
        for row in block.rows:
            yield from _pieces("\t".join(filter(None, row.cells)), "", listed=False)
        return
    for number, line in enumerate(block.text.split("\n")):
        yield from _pieces(line, block.mark if number == 0 else "", listed=block.kind == "item")


def _pieces(line: str, mark: str, *, listed: bool) -> Iterator[_Option]:
    """The answers of a line: they are parted by boxes or wide gaps; codes and names alone belong to the one before."""
    lettered = _ITEM.match(line) if not mark else None
    if lettered:
        mark, line = f"{lettered['letter']})", lettered["text"]
    parts = [part for part in re.split(rf"(?=(?:{_BOX}))|\t", line) if part and part.strip()]
    out: list[_Option] = []
    for part in parts:
        said = part.strip()
        if out and re.fullmatch(r"-?\d{1,4}", said):
            out[-1].code = said
        elif out and (named := re.fullmatch(r"\[(\w+)\]", said)):
            out[-1].name = named[1]
        elif out and re.fullmatch(rf"(?:{_BLANK}|\s)+", said):
            out[-1].blank = True
        else:
            out.append(_option(said))
    if out and mark and mark != "-":
        sign = mark.strip("().:")
        out[0].letter = sign if sign.isalpha() and len(sign) == 1 else out[0].letter
        out[0].code = out[0].code or (sign if sign.isdigit() else "")
    for option in out:
        option.listed = listed or option.boxed
        if option.label or option.blank:
            yield option


def _option(said: str) -> _Option:
    option = _Option("")
    if found := re.match(rf"(?:{_BOX})\s*", said):
        option.boxed, said = True, said[found.end() :]
    if found := _NAMED.search(said):
        option.name, said = found["name"], said[: found.start()]
    if found := _SKIP.search(said):
        option.skip = (found["said"] or found["aside"] or "").strip()
        said = said[: found.start()] + (" " + said[found.end() :] if found["aside"] else "")
    if found := _CODE_BEHIND.match(said.strip()):
        option.code, said = found["code"], f"{found['label']} {found['rest']}"
    if re.search(_BLANK, said):
        option.blank = True
        before = re.split(_BLANK, said)[0].strip()
        said = before or re.sub(_BLANK, " ", said)
        said = "" if not before and not re.search(r"[^\W\d_]{3}", said) else said
    said = re.sub(r",?\s*(?:namely|please specify which|which|welche|lequel)\s*:?\s*$", "", said.strip())
    option.label = " ".join(said.split()).strip(" :.,;") if option.blank else " ".join(said.split())
    return option


def _codes(options: Sequence[_Option]) -> list[Code]:
    """Codes of the options; those without printed codes are counted in their order."""
    if not options:
        return []
    coded = [option for option in options if option.code]
    if coded or len(options) < 2 or not all(option.label and option.listed for option in options):
        pairs = [(option.code, option.label) for option in coded]
    else:
        pairs = [(str(number), option.label) for number, option in enumerate(options, 1)]
    out = [Code(label, code=code, reason=_reason(label)) for code, label in pairs if label]
    return out if len({code.key for code in out}) == len(out) else []


def _reason(label: str) -> Reason | None:
    reason, sure, _ = missing_reason(label)
    return reason if sure else None


def _scaled(found: re.Match[str]) -> list[Code]:
    """A scale of numbers between two words."""
    numbers = found["codes"].split()
    labels = {numbers[0]: found["low"].strip(" :…"), numbers[-1]: found["high"].strip(" :…")}
    return [Code(labels.get(number, ""), code=number) for number in numbers]


def _ends_of_rank(text: str, count: int) -> list[Code]:
    """The codes of a ranking: one for the first place, the number of things ranked for the last."""
    plain = " ".join(text.split())
    first = re.search(r"\b1 (?:beside|next to|for|to) (?:the )?(?P<what>[^,;.]+)", plain)
    last = re.search(r"\b(?P<number>\d+) (?:beside|next to|for|to) (?:the )?(?P<what>[^,;.]+)\.?$", plain)
    low = Code(first["what"].strip() if first else "", code="1")
    return [low, Code(last["what"].strip() if last else "", code=last["number"] if last else str(count))]


# Grids -------------------------------------------------------------------------------------------


def _grid(block: Block, base: str, battery: str, first: int) -> list[Entry]:
    """The items of a grid, which share the codes at its head."""
    head, *rows = [row for row in block.rows if any(row.cells)]
    options = _heads(head, rows)
    out: list[Entry] = []
    for row in rows:
        label = bare(row.cells[0]).strip() if row.cells else ""
        name = next((found["name"] for cell in row.cells if (found := _NAMED.search(f" {cell}"))), "")
        label = _NAMED.sub("", label)
        if not label:
            continue
        lettered = _ITEM.match(label)
        option = _Option(
            lettered["text"] if lettered else label, name=name, letter=lettered["letter"] if lettered else ""
        )
        option.label = " ".join(option.label.split())
        if base or name:
            entry = _part(base, option, first + len(out), battery, (row.line, row.line), options)
            entry.reason, entry.certainty = "an item of a grid", 0.9
            out.append(entry)
    return out


_CODE_AT_END = re.compile(r"\(?(?<![\d-])(?P<code>-?\d{1,4})\)?$")


def _heads(head: Row, rows: Sequence[Row]) -> list[Code]:
    """The codes at the head of a grid: printed with the words, or in the cells below, or counted."""
    pairs: list[tuple[str, str]] = []
    for at, cell in enumerate(head.cells[1:], 1):
        text = bare(cell).strip()
        if not text or _NAMED.fullmatch(text):
            continue
        found = _CODE_AT_END.search(text)
        label = text[: found.start()].strip() if found else ""
        below = {bare(row.cells[at]).strip() for row in rows if at < len(row.cells)} - {""}
        code = (
            found["code"]
            if found and label
            else next(iter(below))
            if len(below) == 1 and re.fullmatch(r"-?\d{1,4}", next(iter(below)))
            else ""
        )
        pairs.append((code, " ".join((label or text).split())))
    if not all(code for code, _ in pairs):
        pairs = [(str(number), label) for number, (_, label) in enumerate(pairs, 1)]
    return [Code(label, code=code, reason=_reason(label)) for code, label in pairs]


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
            again.also, again.codes = number, [] if twice else list(entry.codes)
            again.limits = None if twice else entry.limits
            out.append(again)
        return [*out, *(entry for key, entry in by_number.items() if key not in named)]
    return entries
