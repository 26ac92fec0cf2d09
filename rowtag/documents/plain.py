"""Plain text as blocks, with the signs by which people set it: headings, bullets, bars, grids, terms and meanings."""

import re
from collections.abc import Sequence
from dataclasses import dataclass, field
from itertools import pairwise

from rowtag.documents.blocks import Block, Row, plain, strong_of
from rowtag.documents.lines import MOST_READ, shortened

_HEADING = re.compile(r"(?P<level>#{1,6})\s+(?P<text>\S.*?)\s*#*$")
_UNDERLINE = re.compile(r"([=\-~^\"'#*+])\1{2,}\s*")
_RULES = frozenset("=-~^\"'#*+")
_ITEM = re.compile(
    r"(?P<mark>[-*+•‣◦▪–](?=\s)|\(?(?:\d{1,3}|[A-Za-z]|[ivx]{2,4})[.)](?=\s)"
    r"|(?:\*\*)?[A-Za-z]{0,3}\d{1,3}[a-z]?[.)]?(?:\*\*)?(?=\t))\s+(?=\S)"
)
_GRID = re.compile(r"\+(?:[-=]{2,}\+)+")
_BARS = re.compile(r"\|?\s*:?-{2,}:?\s*(?:\|\s*:?-{2,}:?\s*)*\|?")
_TERM = re.compile(r":\s+(?=\S)")
_FENCE = re.compile(r"(?:```|~~~)")
_PAGE = re.compile(r"(?<![-\s—])[-\s—]*(?:(?:page|p\.)\s*)?\d{1,4}(?:\s*(?:of|/)\s*\d{1,4})?[-\s—]*", re.I)
_SPAN = re.compile(r"(?<!\\)\|")


@dataclass
class _Going:
    """Where somebody is who goes through the lines of a text: what is gathered of the block at hand."""

    lines: Sequence[str]
    at: int = 0
    blocks: list[Block] = field(default_factory=list)

    def __post_init__(self) -> None:
        self.bodies = [line.strip() for line in self.lines]

    @property
    def body(self) -> str:
        """The line at hand without the blanks around it."""
        return self.bodies[self.at]

    @property
    def below(self) -> str:
        """The line below without the blanks around it; nothing behind the last."""
        return self.bodies[self.at + 1] if self.at + 1 < len(self.bodies) else ""

    @property
    def line(self) -> str:
        """The line at hand."""
        return self.lines[self.at]

    def ahead(self, by: int = 1) -> str:
        """A line further on; nothing behind the last."""
        return self.lines[self.at + by] if self.at + by < len(self.lines) else ""


def blocks_of(text: str) -> list[Block]:
    """The blocks of a plain text. Lines longer than any that tells of variables are left out."""
    raw = text.replace("\r\n", "\n").replace("\r", "\n").replace("\f", "\n").split("\n")
    going = _Going([_begun(shortened(line)) if len(line) <= MOST_READ else "" for line in raw])
    while going.at < len(going.lines):
        if not going.body or _skipped(going):
            going.at += 1
        elif not (_fenced(going) or _heading(going) or _grid(going) or _barred(going) or _entry(going)):
            _paragraph(going)
    return going.blocks


def _begun(line: str) -> str:
    """A line with blanks for the tabs before its first word; those within, which part columns, stay."""
    body = line.lstrip()
    return line[: len(line) - len(body)].expandtabs(8) + body.rstrip()


def _skipped(going: _Going) -> bool:
    """A number of a page or a rule, which say nothing."""
    body = going.body
    if len(body) < 40 and body[-1] in "0123456789-— " and _PAGE.fullmatch(body):
        return not (going.bodies[going.at - 1] if going.at else "")
    return len(body) > 2 and not (body[0].isalnum() or any(sign.isalnum() or sign in "|+" for sign in body))


def _fenced(going: _Going) -> bool:
    """Lines between fences are set as they stand: a program, or a list; they are read as text."""
    if not _FENCE.match(going.body):
        return False
    going.at += 1
    return True


def _heading(going: _Going) -> bool:
    """`## Heading`, or a line with a rule of signs below it. What stands far in is a program, `#` its remark."""
    body = going.body
    if body[0] == "#" and not going.line.startswith("    ") and (found := _HEADING.fullmatch(body)):
        going.blocks.append(
            Block("heading", plain(found["text"]), going.at + 1, going.at + 1, depth=len(found["level"]))
        )
        going.at += 1
        return True
    under = going.below
    if _underlines(under, body) and len(body) < 120 and "|" not in body:
        level = 1 if under[0] in "=#*" else 2
        going.blocks.append(Block("heading", plain(body), going.at + 1, going.at + 2, depth=level))
        going.at += 2
        return True
    return False


def _grid(going: _Going) -> bool:
    """A table drawn with corners: `+----+----+`, its cells of one line or several."""
    if going.body[0] != "+" or not _GRID.fullmatch(going.body):
        return False
    first = going.at
    indent = len(going.line) - len(going.line.lstrip())
    edges = [at for at, sign in enumerate(going.line) if sign == "+"]
    while going.at < len(going.lines) and going.line[indent : indent + 1] in ("+", "|"):
        going.at += 1
    body = going.lines[first : going.at]
    rules = [at for at, line in enumerate(body) if line.strip().startswith("+-") or line.strip().startswith("+=")]
    ruled = len(rules) > 3 or any("=" in body[at] for at in rules)
    rows: list[Row] = []
    for begin, end in zip(rules, [*rules[1:], len(body)], strict=True):
        lines = [(number, _cut(line, edges)) for number, line in enumerate(body[begin + 1 : end], first + begin + 2)]
        if ruled and lines:
            rows.append(
                Row(
                    tuple("\n".join(filter(None, cell)) for cell in zip(*[c for _, c in lines], strict=True)),
                    lines[0][0],
                )
            )
        else:
            rows += [Row(cells, number) for number, cells in lines]
    headed = len(rules) >= 3
    if rows:
        going.blocks.append(Block("table", "", first + 1, going.at, depth=indent, rows=tuple(rows), headed=headed))
    return True


def _cut(line: str, edges: Sequence[int]) -> tuple[str, ...]:
    return tuple(plain(line[a + 1 : b].strip().removeprefix("| ").strip()) for a, b in pairwise(edges))


def _barred(going: _Going) -> bool:
    """A table whose cells are parted by bars, with a rule beneath its first row."""
    if "|" not in going.line or not ("-" in going.below and _BARS.fullmatch(going.below)):
        return False
    first = going.at
    while going.at < len(going.lines) and going.line.strip() and not _HEADING.fullmatch(going.line.strip()):
        going.at += 1
    lines = going.lines[first : going.at]
    bordered = sum(line.strip().startswith("|") for line in lines[2:]) > len(lines[2:]) / 2 or (
        lines[0].strip().startswith("|")
    )
    rows: list[Row] = []
    for number, line in enumerate(lines, first + 1):
        body = line.strip()
        if number == first + 2:
            continue
        if "|" not in body and rows:  # a cell that goes on in a further line
            rows[-1] = Row((*rows[-1].cells[:-1], f"{rows[-1].cells[-1]} {plain(body)}".strip()), rows[-1].line)
            continue
        if bordered:
            body = body.removeprefix("|").removesuffix("|")
        cells = [plain(cell.strip().replace("\\|", "|")) for cell in _SPAN.split(body)]
        rows.append(Row(tuple(cell.replace("<br>", "\n") for cell in cells), number))
    going.blocks.append(Block("table", "", first + 1, going.at, rows=tuple(rows), headed=any(rows[0].cells)))
    return True


def _entry(going: _Going) -> bool:
    """A term on a line of its own, with its meaning below behind a colon."""
    at = going.at + 1
    while at < len(going.lines) and not going.lines[at].strip() and at <= going.at + 1:
        at += 1
    if at >= len(going.lines) or not _TERM.match(going.lines[at].lstrip()) or going.line.lstrip().startswith(":"):
        return False
    first, term = going.at, going.line.strip()
    indent = len(going.lines[at]) - len(going.lines[at].lstrip())
    texts = [going.lines[at].strip()[1:].strip()]
    at += 1
    while at < len(going.lines):
        line = going.lines[at]
        if line.strip() and len(line) - len(line.lstrip()) <= indent:
            break
        if not line.strip() and not going.lines[at + 1 : at + 2]:
            break
        if not line.strip() and len(going.lines[at + 1]) - len(going.lines[at + 1].lstrip()) <= indent:
            break
        texts.append(line.strip())
        at += 1
    going.at = at
    depth = len(going.lines[first]) - len(going.lines[first].lstrip())
    text = plain("\n".join(filter(None, texts)))
    going.blocks.append(Block("entry", text, first + 1, at, depth=depth, term=plain(term), strong=strong_of(term)))
    return True


def _may_begin(line: str) -> bool:
    """Whether a line may begin an item, a table or a heading: most do not, and are told by their first signs."""
    return not line[0].isalpha() or line[1:2] in (".", ")", "v", "i", "x") or "\t" in line[:10]


def _underlines(under: str, line: str) -> bool:
    """Whether a line is a rule of signs that makes a heading of the one above."""
    rule = under[:1] in _RULES and _UNDERLINE.fullmatch(under) is not None
    return rule and len(under) >= min(len(line), 60) * 0.7


def _paragraph(going: _Going) -> None:
    """Lines up to a blank one, a heading, a table or an item."""
    first, body = going.at, going.body
    depth = len(going.line) - len(going.line.lstrip())
    found = _ITEM.match(body)
    mark = found["mark"].strip("*") or "*" if found else ""
    texts = [body[found.end() :] if found else body]
    going.at += 1
    while going.at < len(going.lines) and going.body and not _skipped(going):
        line = going.body
        if _may_begin(line) and (_ITEM.match(line) or _GRID.fullmatch(line) or _HEADING.fullmatch(line)):
            break
        if _underlines(going.below, line) or (going.below[:1] == ":" and _TERM.match(going.below)):
            break
        if mark and len(going.line) - len(going.line.lstrip()) <= depth:
            break
        texts.append(line)
        going.at += 1
    joined = "\n".join(texts)
    going.blocks.append(
        Block(
            "item" if mark else "text",
            plain(joined),
            first + 1,
            going.at,
            depth=depth,
            mark=mark,
            strong=strong_of(joined),
        )
    )
