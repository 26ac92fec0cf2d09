"""Reading documents as people write them: one pass over their lines that proposes what they say of variables.

Nothing is applied, and nothing is made up: a line that cannot be placed is left, and said to be.
"""

import re
from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass, field, replace
from itertools import groupby, pairwise

from rowtag.core.codebook.described import Described, Understood
from rowtag.core.propose.orders import is_band
from rowtag.core.tag import Level, Parts, Type
from rowtag.documents.blocks import Row
from rowtag.documents.codes import NUMBER, NUMBERED, Code, code_line
from rowtag.documents.hands.found import Said
from rowtag.documents.heads import Head, heads_of
from rowtag.documents.layouts.entry import REFERENCE, Entry, codes_in_lines
from rowtag.documents.layouts.tables import rows_read
from rowtag.documents.lines import Line, lines_of
from rowtag.documents.meaning import read_meaning
from rowtag.documents.once import each_once
from rowtag.documents.reasons import missing_reason
from rowtag.documents.saying import LEVELS, TYPES, parts_from, said_level, said_type
from rowtag.documents.settling import described, settled
from rowtag.documents.table import Role, is_codebook, roles_of

_KEY = re.compile(
    r"^(?P<key>type|label|question|range|valid range|limits|missing(?: values?| codes?| data)?|level"
    r"|measurement(?: level)?|values?|codes?|coding|categories|unit|units|width|note|notes|description|meaning"
    r"|columns?|position|location|record|deck|format)"
    r"\s*[:=]\s*(?P<rest>.*)$",
    re.I,
)
_KEYS_INSIDE = re.compile(r"(?:^|\s{2,}|[;,]\s+)(?=(?:type|width|decimals|range|missing|level)\s*[:=])", re.I)
_TABLE_HEAD = re.compile(r"^\s*(?:value|code)s?\b.*\b(?:labels?|freq\w*|count|percent|n|meaning)\b", re.I)
_WORD_TYPE = re.compile(
    rf"[(\[,;]\s*(?P<word>{'|'.join([*LEVELS, *TYPES, 'numeric', 'continuous', 'factor'])})\s*(?=[)\],;]|$)", re.I
)


_TYPE_AHEAD = re.compile(
    r"([(\[])\s*(?:numeric|binary|nominal|ordinal|categorical|integer|continuous)\s*:\s*(?=[)\]]|$)", re.I
)


@dataclass
class Block:
    """A variable, or several, as far as the lines read so far say."""

    head: Head
    certainty: float
    reason: str
    text: list[str] = field(default_factory=list)
    codes: list[Code] = field(default_factory=list)
    said: dict[str, str] = field(default_factory=dict)
    limits: tuple[str | None, str | None] | None = None
    last: int = 0
    ended: bool = False
    in_table: bool = False
    level: Level | None = None
    type: Type | None = None
    sign: str = ""
    code_indent: int | None = None
    wording: str = ""
    options: list[str] = field(default_factory=list)
    asked: bool = False
    parted: bool = False
    same_as: str = ""
    closed: bool = False


def read_document(text: str, known: Collection[str] = ()) -> Understood:
    """What a document says of variables. Names of the study at hand (`known`) make a likely line a sure one."""
    lines = lines_of(text)
    tables = dict(_tables(lines))
    listed = _in_lists(lines)
    heads = {head.line.number: (head, sure, why) for head, sure, why in heads_of(lines, known)}
    found: list[Described] = []
    walk = _Walk(lines)
    for line in lines:
        if line.number in tables:
            rows, roles, numbers = tables[line.number]
            set_out = [Row(tuple(cells), number) for number, cells in zip(numbers, rows, strict=True)]
            entries = rows_read(set_out, roles, 0.95, "a row of a table with headings", headed=True)
            found += [each for entry in entries for each in described(settled(entry))]
            walk.placed |= {line.number, *numbers}
            walk.current = None
        elif line.number in walk.placed:
            continue
        elif line.number in heads:
            walk.begin(Block(*heads[line.number], last=line.number))
        elif line.empty:
            walk.pause(line)
        elif walk.current is not None and _belongs(walk.current, line, line.number in listed):
            walk.placed.add(line.number)
            walk.current.last = line.number
        else:
            walk.leave(line)
    for block in walk.blocks:
        _settle(block)
    _tell_questions(walk.blocks)
    walk.share()
    _refer(walk.blocks)
    variables = each_once((*found, *(each for block in walk.blocks for each in _described(block))))
    unplaced = tuple(
        line.number for line in lines if line.unread or (not line.empty and line.number not in walk.placed)
    )
    return Understood(tuple(sorted(variables, key=lambda each: each.lines)), {}, unplaced)


def read_lines(text: str, known: Collection[str] = ()) -> Parts:
    """What some lines of a document say of one variable, whether they name it or not."""
    named = read_document(text, known).variables
    if len(named) == 1:
        return named[0].parts
    said = [line.strip() for line in text.split("\n") if line.strip()]
    if not named and len(said) > 2 and codes_in_lines(said[1:]):
        return described(settled(Entry(("",), ["\n".join(said)], (0, 0), 1.0, "")))[0].parts
    nameless = Head(Line(0, -1, ""), ("",), "", "alone")
    block = Block(nameless, 1.0, "")
    lines = lines_of(text)
    listed = _in_lists(lines)
    for line in lines:
        if not line.empty and not _belongs(block, line, line.number in listed):
            block.text.append(line.text)
    _settle(block)
    return _described(block)[0].parts


def _tables(lines: Sequence[Line]) -> Iterator[tuple[int, tuple[list[tuple[str, ...]], dict[Role, int], list[int]]]]:
    """Tables that describe variables, under the number of their heading row: rows, columns, and the rows' lines."""
    for rowed, run in groupby(
        (line for line in lines if not line.empty or line.blank), key=lambda line: bool(line.cells)
    ):
        head, *rows = run
        if not (rowed and rows):
            continue
        cells = [row.cells for row in rows]
        roles = roles_of(head.cells, cells)
        if is_codebook(roles):
            yield head.number, (cells, roles, [row.number for row in rows])


def _in_lists(lines: Sequence[Line]) -> set[int]:
    """Lines that look like codes and have others of their kind right beside them: signed alike, or counting on."""
    kinds: dict[int, tuple[int, str]] = {}
    steps: dict[int, tuple[int, int]] = {}
    for line in lines:
        coded = None if line.empty else code_line(line.text)
        if coded and coded[1] in ("=", ":", "-", "  ", "\t") and len(coded[0].label.split()) <= 8:
            kinds[line.number] = (line.indent, coded[1])
        elif coded and coded[1] == " " and (coded[0].code or "").isdigit():
            steps[line.number] = (line.indent, int(coded[0].code or 0))
    counted = {at for at, (indent, code) in steps.items() if steps.get(at + 1) == (indent, code + 1)}
    counted |= {at + 1 for at in counted}
    return counted | {at for at, kind in kinds.items() if kind in (kinds.get(at - 1), kinds.get(at + 1))}


# Lines beneath a head ----------------------------------------------------------------------------


def _belongs(block: Block, line: Line, in_list: bool) -> bool:
    """Takes a line into the variable above it, where it belongs there."""
    inner = line.indent > block.head.line.indent
    if block.closed or (line.indent < block.head.line.indent and block.ended):
        return False
    if block.parted and not inner and not block.head.asked and not _unfinished(" ".join(block.text)):
        return False
    if _TABLE_HEAD.match(line.plain) and (inner or not block.ended):
        block.in_table = True
        return True
    if _takes_keys(block, line, inner):
        return True
    if not block.ended and ("__" in line.plain or line.plain.endswith(".....")):
        return True  # room to write in
    if not block.ended and block.text and not block.codes and _unfinished(block.text[-1]):
        coded = code_line(line.text) if in_list else None
        if coded is None or coded[1] != " ":  # codes that count on are no more of the text
            block.text.append(line.text)
            return True
    if inner and not block.ended and not block.codes and _listing(block.text):
        block.text.append(line.text)  # a list in running text that goes on below
        return True
    took = _takes_codes(block, line, inner, in_list)
    if took is not None:
        return took
    if block.ended and not (inner and not block.codes):
        return False
    return inner and _takes_words(block, line)


def _takes_keys(block: Block, line: Line, inner: bool) -> bool:
    """Takes a line that says parts by their names, `Label: How held`, `Range: 0-80`."""
    said = ":" in line.plain or "=" in line.plain
    if not (said and (inner or not block.ended) and _KEY.match(line.plain)):
        return False
    for part in _KEYS_INSIDE.split(line.text):
        if key := _KEY.match(part.strip()):
            block.said[key["key"].casefold().split()[0]] = key["rest"].strip()
    block.ended = False
    return True


def _takes_codes(block: Block, line: Line, inner: bool, in_list: bool) -> bool | None:
    """Takes a line of one code or several; None where that is not told by its codes."""
    listed = read_meaning(line.text) if _MAY_LIST.search(line.plain) else Said(line.text)
    several = len(listed.codes) > 1 and not listed.rest
    apart = several and (not block.codes or all(code.reason or missing_reason(code.label)[0] for code in listed.codes))
    if (inner or not block.ended) and not apart:
        coded = None if _banded(line) else code_line(line.text, table=block.in_table)
        if coded and _listed_or_fits(block, line, *coded, in_list=in_list):
            block.codes.append(coded[0])
            block.sign, block.code_indent = coded[1], line.indent
            return True
    if block.codes and not inner:
        return False
    if len(listed.codes) > 1 and (inner or not block.ended) and (not block.codes or not listed.rest):
        block.codes += [code for code in listed.codes if code.key not in {each.key for each in block.codes}]
        block.limits = block.limits or listed.limits
        if listed.rest:
            block.text.append(listed.rest)
        return True
    return None


def _takes_words(block: Block, line: Line) -> bool:
    """Takes an indented line of words: a label wrapped, a wording, an answer without a code, more of the meaning."""
    if block.codes:
        if block.code_indent is None or line.indent <= block.code_indent + 1:
            return False
        last = block.codes[-1]
        block.codes[-1] = replace(last, label=f"{last.label} {line.text}")
    elif line.text.endswith("?") and any(block.text) and not block.wording:
        block.wording = line.text
    elif line.indent == block.code_indent or _banded(line):
        block.options, block.code_indent = [*block.options, line.text], line.indent
    else:
        block.text.append(line.text)
    return True


_MAY_LIST = re.compile(r"[,;=/|)]|\S\s{2,}\S.*\s{2,}\S|\b(?:levels|missing)\b|:\s")


def _banded(line: Line) -> bool:
    """Whether a line is an answer without a code that is a band of numbers."""
    return "  " not in line.text and is_band(line.text)


def _listing(texts: Sequence[str]) -> bool:
    """Whether a list of codes runs on in some lines of text: its last line says two or more."""
    return bool(texts) and len(_SAID_IN_TEXT.findall(texts[-1])) > 1


_SAID_IN_TEXT = re.compile(r"\d\s?=\s?\S")


def _unfinished(text: str) -> bool:
    """Whether a text goes on in the next line."""
    return text.count("(") > text.count(")") or bool(_GOING_ON.search(text.strip()))


_GOING_ON = re.compile(r"[,;:(=/-]$|\b(?:and|or|of|the|to|a|in|with|for)$")


def _listed_or_fits(block: Block, line: Line, code: Code, sign: str, *, in_list: bool) -> bool:
    """Whether a code line among its like is one of this block, or fits it by itself."""
    alike = not block.codes or (block.sign, block.code_indent) == (sign, line.indent)
    new = code.key not in {each.key for each in block.codes}
    return (in_list and alike and new and line.indent > block.head.line.indent) or _fits(block, line, code, sign)


def _fits(block: Block, line: Line, code: Code, sign: str) -> bool:
    """Whether a line that may be a code is one here: of one kind with those before, not a sentence of its own."""
    if any(code.key == each.key for each in block.codes):
        return False
    inner = line.indent > block.head.line.indent
    number = bool(NUMBERED.match(code.code or code.low or code.high or ""))
    if number:
        return inner or sign in ("=", ":", ")", "()", "-", ".", "\t", "  ") or bool(block.codes) or block.head.asked
    if not inner:
        return False
    if block.codes and not any(each.code and NUMBERED.match(each.code) for each in block.codes):
        return sign == block.sign and line.indent == block.code_indent
    wordy = len(code.label.split()) > 8 or code.label.endswith(".")
    return (
        not block.codes
        and not wordy
        and (
            sign in ("=", ":", "-")
            or (sign in ("  ", " ", "\t") and len(code.code or "") <= 2 and (code.code or "").isupper())
        )
    )


# A scale stated once -----------------------------------------------------------------------------


@dataclass
class Scale:
    """Codes stated once, for the items that follow at least as far in as the statement."""

    codes: list[Code]
    indent: int
    lines: list[int]
    users: list[Block] = field(default_factory=list)
    parted: bool = False
    """Whether there are gaps among its users, of which so many were looked at."""
    looked: int = 0

    def __post_init__(self) -> None:
        self.keys = {code.key for code in self.codes}

    def goes_on(self, codes: Sequence[Code], line: int) -> None:
        """States more codes, on a further line."""
        self.codes += codes
        self.keys.update(code.key for code in codes)
        self.lines.append(line)

    def ended_by(self, block: Block, lines: Sequence[Line]) -> bool:
        """Whether a gap parts a block from items that stood without gaps."""
        if len(self.users) < 2:
            return False
        places = [user.head.line.number for user in self.users]
        for a, b in pairwise(places[self.looked :]):
            self.parted = self.parted or any(line.blank for line in lines[a : b - 1])
        self.looked = len(places) - 1
        return not self.parted and any(line.blank for line in lines[places[-1] : block.head.line.number - 1])


def _scale(line: Line, before: Scale | None, above: Line | None) -> Scale | None:
    """The scale that holds behind a line that names no variable: what it states itself, or an unused one before it.

    One code a line begins a scale too where it is set with "=", as far in as the line `above` that it belongs to.
    """
    said = read_meaning(line.text)
    if len(said.codes) > 1:
        if before is not None and not before.users:
            before.goes_on(said.codes, line.number)
            return before
        return Scale(said.codes, line.indent, [line.number])
    coded = code_line(line.text)
    if before is not None and not before.users:
        if coded and NUMBERED.match(coded[0].code or "") and coded[0].key not in before.keys:
            before.goes_on([coded[0]], line.number)
        return before
    if coded and coded[1] == "=" and NUMBERED.match(coded[0].code or ""):
        indent = min(line.indent, above.indent) if above is not None else line.indent
        return Scale([coded[0]], indent, [line.number])
    return None


# Going through a document --------------------------------------------------------------------------


@dataclass
class _Walk:
    """Where somebody is who reads a document line by line: the variable at hand, and the scale that holds."""

    lines: Sequence[Line]
    blocks: list[Block] = field(default_factory=list)
    placed: set[int] = field(default_factory=set)
    current: Block | None = None
    scale: Scale | None = None
    scales: list[Scale] = field(default_factory=list)
    above: Line | None = None
    """The last line that belongs nowhere."""

    def begin(self, block: Block) -> None:
        """A variable begins."""
        block.text = [block.head.rest] if block.head.rest else []
        line = block.head.line
        self.current = block
        self.blocks.append(block)
        self.placed.add(line.number)
        if self.scale is not None and self.scale.ended_by(block, self.lines):
            self.scale = None
        if self.scale is not None and len(self.scale.codes) > 1 and self.scale.indent <= line.indent:
            self.scale.users.append(block)
            if not any(each is self.scale for each in self.scales):
                self.scales.append(self.scale)

    def pause(self, line: Line) -> None:
        """A line that says nothing: a blank one may end a list."""
        block = self.current
        if block is not None and line.blank:
            block.parted = True
            block.ended = block.ended or bool(block.codes) or bool(read_meaning(" ".join(block.text)).codes)

    def leave(self, line: Line) -> None:
        """A line of no variable: it may state a scale, and parts the variable above it from what follows."""
        self.scale = _scale(line, self.scale, self.above)
        self.above = line
        block = self.current
        if block is not None:
            block.ended = True
            block.closed = block.closed or (not block.codes and line.indent <= block.head.line.indent)

    def share(self) -> None:
        """Gives scales to those that stand behind them and have no codes of their own."""
        for scale in self.scales:
            self.placed.update(scale.lines)
            for block in scale.users:
                if not block.codes and block.limits is None:
                    block.codes = list(scale.codes)


def _refer(blocks: Sequence[Block]) -> None:
    """Gives codes to those that say where they stand: "same as tenure"."""
    by_name = {name.casefold(): block for block in blocks for name in block.head.names}
    for block in blocks:
        other = by_name.get(block.same_as.casefold())
        if other is not None and other is not block and not block.codes:
            block.codes = list(other.codes)


# What a block says -------------------------------------------------------------------------------


def _settle(block: Block) -> None:
    """Reads the text of a block for codes, limits, level and type."""
    text = " ".join(part.strip() for part in block.text)
    if found := REFERENCE.search(text):
        block.same_as, text = found["name"], f"{text[: found.start()]}{text[found.end() :]}".strip(" .;,(")
    said = read_meaning(text)
    if [code for code in block.codes if not code.reason] and [code for code in said.codes if code.reason is None]:
        said = Said(rest=text)
    for code in said.codes:
        if code.key not in {each.key for each in block.codes}:
            block.codes.append(code)
    block.limits = said.limits or block.limits
    rest = _TYPE_AHEAD.sub(r"\1", said.rest)
    while found := _WORD_TYPE.search(rest):
        word = found["word"].casefold()
        block.level, block.type = said_level(word) or block.level, said_type(word) or block.type
        rest = re.sub(
            r"[(\[]\s*[)\]]",
            "",
            rest[: found.start()] + (rest[found.start()] if rest[found.start()] in "([" else "") + rest[found.end() :],
        )
    if len(block.options) > 1 and not block.codes:
        block.codes = [Code("", code=option) for option in block.options]
    meaning = tidy_meaning(rest)
    block.text = ["" if block.head.kind == "behind" and meaning == block.head.names[0] else meaning]
    for key, value in block.said.items():
        _keyed(block, key, value)


def _tell_questions(blocks: Sequence[Block]) -> None:
    """Says whose text is a question's wording: by how it is set, or since most set like it, with numbers, ask."""
    numbered = [block for block in blocks if block.head.other and any(block.text)]
    asking = sum(block.text[0].endswith("?") for block in numbered)
    for block in blocks:
        alike = bool(block.head.other) and asking > len(numbered) / 2 and not block.wording
        block.asked = block.head.asked or alike


def _keyed(block: Block, key: str, value: str) -> None:
    word = value.casefold().strip(" .")
    if key in ("label", "meaning", "description") and not block.text[0]:
        block.text = [value]
    elif key in ("values", "value", "codes", "code", "coding", "categories"):
        said, single = read_meaning(value), code_line(value)
        if not said.codes and single and NUMBERED.match(single[0].code or ""):
            said = Said(codes=[single[0]])
        block.codes = [code for code in said.codes if code.key not in {each.key for each in block.codes}] + block.codes
        block.limits = block.limits or said.limits
    elif key in ("range", "valid", "limits"):
        block.limits = read_meaning(f"range: {value}").limits or block.limits
    elif key == "missing":
        said = read_meaning(value)
        codes = said.codes or [
            Code("", code=code, reason="other") for code in re.findall(rf"(?<![\w.]){NUMBER}", value)
        ]
        for code in codes:
            reason = code.reason or missing_reason(code.label)[0] or "other"
            block.codes = [each for each in block.codes if each.key != code.key] + [replace(code, reason=reason)]
    elif key in ("level", "measurement"):
        block.level = said_level(word) or block.level
    elif key == "type":
        block.level, block.type = said_level(word) or block.level, said_type(word) or block.type


def tidy_meaning(text: str) -> str:
    """A meaning without loose signs at its ends."""
    text = re.sub(r"^[\s:;,=\-–—.]+(?=\s|\w|[\"'(])", "", text)
    text = re.sub(r"(?<![\s;:,=\-–—])[\s;:,=\-–—]+$", "", text)
    text = re.sub(r"^\((.*)\)$", r"\1", text) if text.count("(") == 1 else text
    return text.strip()


def _described(block: Block) -> list[Described]:
    """The variables of a block."""
    given: dict[str, object] = {}
    if block.text and block.text[0]:
        given["question" if block.asked else "label"] = block.text[0]
    if block.wording and "question" not in given:
        given["question"] = block.wording
    if block.level:
        given["level"] = block.level
    if block.type:
        given["type"] = block.type
    parts = parts_from(Said(codes=block.codes, limits=block.limits), given)
    certainty = round(min(1.0, block.certainty * (1.0 if parts.codes or given else 0.7)), 2)
    lines = (block.head.line.number, max(block.last, block.head.line.number))
    return [
        Described(name, parts, lines=lines, certainty=certainty, reason=block.reason, also=block.head.other)
        for name in block.head.names
    ]
