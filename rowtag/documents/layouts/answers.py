"""What a question asks for: its options in lines, columns or grids, things to tick or to rank, room to write in."""

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from itertools import pairwise

from rowtag.core.propose.orders import is_band, natural_order
from rowtag.core.tag import Reason
from rowtag.documents.blocks import Block, Row, bare
from rowtag.documents.codes import Code
from rowtag.documents.layouts.entry import Entry
from rowtag.documents.layouts.onward import GOES, instruction, is_instruction, said_alone
from rowtag.documents.meaning import read_meaning
from rowtag.documents.reasons import missing_reason
from rowtag.documents.wording import key_words

COUNTED = "codes counted in the order of the answers, none is printed"
"""Noted where options bear no codes."""
BOX = r"[□☐◻○◯❑❏▢☑☒]|\[\s{0,3}\]|\(\s{1,3}\)"
BLANK = r"(?:_{2,}|\|(?:__?\|)+|\.{5,}|…{2,})"
CODED = re.compile(r"^(?P<mark>-?\d{1,3}[.)]?)\s+(?P<text>\S.*)$")
NAMED = re.compile(r"\s*\[(?P<name>[^\W\d]\w{0,40})\]\s*$")
_CALLED = re.compile(r"^(?P<name>[A-Z][A-Z0-9_]{2,20})[.:]\s+(?=\S)")
_CODE_BEHIND = re.compile(r"^(?P<label>.*?\S)\s*\(\s*(?P<code>-?\d{1,4})\s*\)\s*(?P<rest>.*)$", re.S)
_SKIP = re.compile(
    rf"\s*(?:→|⇒|->|=>|>>)\s*(?P<said>.*)$|(?:\s*[,;:.–-]\s*(?:please\s+)?|\s{{2,}}|\s(?-i:(?=[GSP][A-Zo-z])))(?P<plain>{GOES}\s.*)$"
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
TOLD = re.compile(
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
class Question:
    """A question with its number as it is seen, its wording, and what stands below.

    `base`: what its variables are called after, where that is not its number. `told`: what interviewers are told of it.
    """

    number: str
    text: str
    block: Block
    body: list[Block] = field(default_factory=list)
    base: str = ""
    told: list[str] = field(default_factory=list)
    section: str = ""

    @property
    def called(self) -> str:
        """What its variables are called after; empty where nothing tells."""
        number = self.number
        return self.base or (number if number[:1].isalpha() else f"q{number}" if number else "")

    @property
    def said(self) -> tuple[str, str, str]:
        """The name that is printed with it, empty where none is; its wording; what is told about filling in."""
        name, text = "", self.text
        if found := NAMED.search(text):
            name, text = found["name"], text[: found.start()]
        elif found := _CALLED.match(text):
            name, text = found["name"], text[found.end() :]
        wording, told = _wording_and_told(text)
        return name, wording, "; ".join(filter(None, [*self.told, told]))


def option_on(text: str, line: int) -> Block:
    """A line below a question: an option with its printed code is an item."""
    found = CODED.match(text)
    return Block("item", found["text"], line, line, mark=found["mark"]) if found else Block("text", text, line, line)


def variables_of(question: Question) -> list[Entry]:
    """The variables that a question makes."""
    question.told += [instruction(block) for block in question.body if is_instruction(block)]
    question.body = [block for block in question.body if not is_instruction(block)]
    (name, wording, told), base = question.said, question.called
    lines = (question.block.line, question.block.last)
    out: list[Entry] = []
    for block in question.body:
        if block.kind == "table" and len(block.rows) > 1:
            out += _grid(question, block, first=len(out))
    if out:
        out[0].lines = (lines[0], out[0].lines[1])
        return out
    if not (name or base):
        return []
    options = [option for block in question.body if not said_alone(block) for option in _options(block)]
    rows = [option for option in options if option.blank and option.label and not option.boxed and option.letter]
    chosen = [
        option
        for option in options
        if option.label and (option.boxed or option.code or option.letter or not option.blank)
    ]
    scale = _scale_in(question.body)
    if scale is None and len(rows) > 1 and len(rows) == len(options):
        ranked = _ends_of_rank(question.text, len(rows)) if _RANKED.search(question.text) else []
        return _parts(question, rows, ranked, [lines] * len(rows))
    multi = bool(_MULTI.search(question.text)) or sum(bool(option.name) for option in options) > 1
    if scale is None and multi and len(chosen) > 1:
        ticked = [Code("", code="1"), Code("", code="0")]
        return _parts(question, chosen, ticked, [lines] * len(chosen))
    last = max((block.last for block in question.body), default=lines[1])
    reason = "a question" if question.number or name else "a question, named by its words"
    sure = 0.9 if name else 0.85 if question.number else 0.8
    entry = Entry((name or base,), [], (lines[0], max(lines[1], last)), sure, reason, also=base if name else "")
    entry.given["question"], entry.proposed = wording, not name
    return [_noted(_answered(entry, question.body, scale, chosen), told)]


def _answered(entry: Entry, body: Sequence[Block], scale: re.Match[str] | None, chosen: Sequence[_Option]) -> Entry:
    """The variable of a question with one answer, with what its body says of that."""
    for block in body:
        if block.kind == "text" and (re.search(BLANK, block.text) or block.text.startswith("(")):
            said = read_meaning(re.sub(BLANK, " ", block.text))
            entry.limits = entry.limits or said.limits
            entry.codes += [code for code in said.codes if code.reason]
    if scale:
        entry.codes = _scaled(scale)
        return entry
    entry.codes = _codes(chosen) or entry.codes
    entry.leads = [(option.label, option.skip) for option in chosen if option.skip]
    entry.leads += [lead for block in body if (lead := said_alone(block))]
    if entry.codes and chosen and not any(option.code for option in chosen):
        entry.given["note"] = COUNTED
    return entry


def _scale_in(body: Sequence[Block]) -> re.Match[str] | None:
    """A scale of numbers between two words, where one is printed."""
    lines = (line for block in body for line in block.text.split("\n"))
    return next((found for line in lines if (found := _SCALE.match(line.replace("\t", " ").strip()))), None)


def _parts(
    question: Question,
    options: Sequence[_Option],
    codes: Sequence[Code],
    lines: Sequence[tuple[int, int]],
    first: int = 0,
) -> list[Entry]:
    """The variables that a question makes, one for each of its options or rows, with codes in common."""
    base, (_, battery, told) = question.called, question.said
    letters = [option.letter.lower() or _letter(number) for number, option in enumerate(options, first)]
    names = [f"{base}{letter}" for letter in letters]
    if question.base and not question.number:
        words = [
            next(iter(key_words(option.label)), letter)[:12] for option, letter in zip(options, letters, strict=True)
        ]
        ends = words if len(set(words)) == len(words) else letters
        names = [f"{base}_{end}" for end in ends]
    out = []
    for option, name, where in zip(options, names, lines, strict=True):
        entry = Entry((option.name or name,), [], where, 0.85, "an option or item of a question")
        entry.also, entry.proposed = name if option.name else "", not option.name
        entry.given["label"], entry.battery, entry.codes = option.label, battery, list(codes)
        out.append(_noted(entry, told))
    return out


def _noted(entry: Entry, told: str) -> Entry:
    """A variable with what its question tells about filling in as a note."""
    if told:
        entry.given["note"] = "; ".join(filter(None, [f"instruction: {told}", str(entry.given.get("note", ""))]))
    return entry


def _letter(number: int) -> str:
    return chr(ord("a") + number % 26) if number < 26 else f"_{number + 1}"


def wording_of(text: str) -> str:
    """A question's wording without instructions for filling in."""
    return _wording_and_told(text)[0]


def _wording_and_told(text: str) -> tuple[str, str]:
    """A question's wording, and what is told with it about filling in, empty where nothing is."""
    text = " ".join(bare(text).split())
    parts = [part for part in _SENTENCE.split(text) if part]
    kept = [part for part in parts if not TOLD.match(part)]
    told = [part for part in parts if TOLD.match(part)] if kept else []
    said = " ".join(kept) if kept else text
    aside = re.search(r"\s*\((?P<told>[^()]*)\)\s*$", said)
    if aside and "?" in said[: aside.start()]:
        said = said[: aside.start()]
        told.append(aside["told"])
    if behind := re.search(r"(?<=[?.…])\s+(?P<told>(?:Tick|Circle|Mark|Check|One)\b[^?.]*)$", said):
        said = said[: behind.start()]
        told.append(behind["told"])
    return said.strip().removesuffix(":").rstrip(), " ".join(part.strip(" ()") for part in told)


def _options(block: Block) -> Iterator[_Option]:
    """The answers that a block prints, one a line or several."""
    if block.kind == "table":
        for row in block.rows:
            yield from _pieces("\t".join(filter(None, row.cells)), "", listed=False)
        return
    lines = block.text.split("\n")
    if block.kind == "text" and len(lines) > 1 and all(CODED.match(line.strip()) for line in lines):
        for number, line in enumerate(lines, block.line):
            yield from _options(option_on(line.strip(), number))
        return
    for number, line in enumerate(lines):
        yield from _pieces(line, block.mark if number == 0 else "", listed=block.kind == "item")


def _pieces(line: str, mark: str, *, listed: bool) -> Iterator[_Option]:
    """The answers of a line: they are parted by boxes or wide gaps; codes and names alone belong to the one before."""
    lettered = _ITEM.match(line) if not mark else None
    if lettered:
        mark, line = f"{lettered['letter']})", lettered["text"]
    parts = [part for part in re.split(rf"(?=(?:{BOX}))|\t", line) if part and part.strip()]
    out: list[_Option] = []
    for part in parts:
        said = part.strip()
        if out and re.fullmatch(r"-?\d{1,4}", said):
            out[-1].code = said
        elif out and (named := re.fullmatch(r"\[(\w+)\]", said)):
            out[-1].name = named[1]
        elif out and re.match(rf"(?:→|->|=>|>>|{GOES}\s)", said, re.I):
            out[-1].skip = said.lstrip("→->= ")
        elif out and re.fullmatch(rf"(?:{BLANK}|\s)+", said):
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
    if found := re.match(rf"(?:{BOX})\s*", said):
        option.boxed, said = True, said[found.end() :]
    if found := NAMED.search(said):
        option.name, said = found["name"], said[: found.start()]
    if found := _SKIP.search(said):
        option.skip = (found["said"] or found["plain"] or found["aside"] or "").strip()
        said = said[: found.start()] + (" " + said[found.end() :] if found["aside"] else "")
    if found := _CODE_BEHIND.match(said.strip()):
        option.code, said = found["code"], f"{found['label']} {found['rest']}"
    if re.search(BLANK, said):
        option.blank = True
        before = re.split(BLANK, said)[0].strip()
        said = before or re.sub(BLANK, " ", said)
        said = "" if not before and not re.search(r"[^\W\d_]{3}", said) else said
    said = re.sub(r",?\s*(?:namely|please specify which|which|welche|lequel)\s*:?\s*$", "", said.strip())
    option.label = " ".join(said.split()).strip(" :.,;") if option.blank else " ".join(said.split())
    return option


def _codes(options: Sequence[_Option]) -> list[Code]:
    """Codes of the options; those without printed codes are counted."""
    if not options:
        return []
    coded = [option for option in options if option.code]
    if coded or len(options) < 2 or not all(option.label and option.listed for option in options):
        pairs = [(option.code, option.label) for option in coded]
    else:
        pairs = counted([option.label for option in options])
    out = [Code(label, code=code, reason=_reason(label)) for code, label in pairs if label]
    return out if len({code.key for code in out}) == len(out) else []


def counted(labels: Sequence[str]) -> list[tuple[str, str]]:
    """Answers with codes counted in their order, low for low: from below where their words run from high to low.

    Answers that give no answer stay behind the others.
    """
    given = [label for label in labels if missing_reason(label)[0] is None]
    scale = natural_order(given)
    ranks = [rank for rank in scale[1] if rank is not None] if scale else []
    falling = len(ranks) == len(given) > 1 and all(before > after for before, after in pairwise(ranks))
    numbers = list(range(1, len(labels) + 1))
    if falling and list(labels[: len(given)]) == given:
        numbers[: len(given)] = reversed(numbers[: len(given)])
    return [(str(number), label) for number, label in zip(numbers, labels, strict=True)]


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


def _grid(question: Question, block: Block, first: int) -> list[Entry]:
    """The items of a grid, which share the codes at its head."""
    head, *rows = [row for row in block.rows if any(row.cells)]
    items: list[_Option] = []
    lines: list[tuple[int, int]] = []
    for row in rows:
        name = next((found["name"] for cell in row.cells if (found := NAMED.search(f" {cell}"))), "")
        label = NAMED.sub("", bare(row.cells[0]).strip() if row.cells else "")
        if label and (question.called or name):
            lettered = _ITEM.match(label)
            said, letter = (lettered["text"], lettered["letter"]) if lettered else (label, "")
            items.append(_Option(" ".join(said.split()), name=name, letter=letter))
            lines.append((row.line, row.line))
    out = _parts(question, items, _heads(head, rows), lines, first)
    for entry in out:
        entry.reason, entry.certainty = "an item of a grid", 0.9
    return out


_CODE_AT_END = re.compile(r"\(?(?<![\d-])(?P<code>-?\d{1,4})\)?$")


def _heads(head: Row, rows: Sequence[Row]) -> list[Code]:
    """The codes at the head of a grid: printed with the words, or in the cells below, or counted."""
    texts: list[str] = []
    pairs: list[tuple[str, str]] = []
    for at, cell in enumerate(head.cells[1:], 1):
        text = " ".join(bare(cell).split())
        if not text or NAMED.fullmatch(text):
            continue
        texts.append(text)
        found = _CODE_AT_END.search(text) if not is_band(text) else None
        label = text[: found.start()].strip() if found else ""
        below = {bare(row.cells[at]).strip() for row in rows if at < len(row.cells)} - {""}
        alone = next(iter(below)) if len(below) == 1 else ""
        code = found["code"] if found and label else alone if re.fullmatch(r"-?\d{1,4}", alone) else ""
        pairs.append((code, label or text))
    if not all(code for code, _ in pairs):
        pairs = counted(texts)
    return [Code(label, code=code, reason=_reason(label)) for code, label in pairs]
