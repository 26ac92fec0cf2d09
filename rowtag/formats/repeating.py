"""The block that repeats: which rows of a file are of its table, and which are remarks above or below it.

A table is where rows hold the same kinds of things in the same columns. Several on one sheet stand apart by blank
rows and columns.
"""

import re
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from itertools import groupby

Row = Sequence[str]

FIGURE = re.compile(r"\W{0,3}\d[\d.,:/\-\s]*\W{0,3}|\d{1,4}[-/.]\d{1,2}[-/.]\d{1,4}.*")
"""An entry that is a figure: a number, an amount, a date."""
DECIDED = 0.8
"""Share of a column's entries that are figures from which it is a column of figures."""
AGREEING = 0.5
"""Share of a row's entries in such columns that are figures, from which it is a row of the table."""
HALF, COVERED = 0.5, 0.8
"""Share of the table's columns that a row fills which may be its heads; that rows further up fill which may be, too."""
_NOTHING = frozenset(["na", "n/a", "nan", "null", "none", "missing", ".", "..", "-", "--"])
"""What stands for nothing among figures."""
MOST_SHAPES, SHAPED, FEWEST_SHAPED, SPARSE = 3, 0.95, 8, 0.2
"""Shapes that a column may have, the share of its entries that have them, of how many at least; and the share of the
columns that a sparse row fills."""
FEWEST = 3
"""Rows that agree below which nothing repeats."""


@dataclass(frozen=True)
class Profile:
    """What the columns of a table hold: those that most rows fill, those where nearly all entries are figures, and of
    these the ones that number the rows: no figure occurs twice."""

    columns: frozenset[int]
    figures: frozenset[int]
    numbering: frozenset[int]
    shapes: Mapping[int, frozenset[str]] = field(default_factory=dict)
    """The shapes that nearly all entries of a column have, of columns that have few."""

    @classmethod
    def of(cls, rows: Sequence[Row]) -> "Profile":
        """The profile of rows of which most are of one table."""
        columns, figures, numbering, shapes = [], [], [], {}
        for at in range(max(map(len, rows), default=0)):
            cells = [row[at].strip() for row in rows if at < len(row) and row[at].strip()]
            if 2 * len(cells) >= len(rows):
                columns.append(at)
            if len(cells) >= FEWEST and sum(bool(FIGURE.fullmatch(cell)) for cell in cells) >= DECIDED * len(cells):
                figures.append(at)
                if len(set(cells)) == len(cells):
                    numbering.append(at)
            usual = Counter(shape_of(cell) for cell in cells).most_common(MOST_SHAPES)
            if len(cells) >= FEWEST_SHAPED and sum(times for _, times in usual) >= SHAPED * len(cells):
                shapes[at] = frozenset(shape for shape, _ in usual)
        return cls(frozenset(columns), frozenset(figures), frozenset(numbering), shapes)

    def covered(self, row: Row) -> float:
        """The share of the table's columns that a row fills."""
        return len(self.columns & filled(row)) / len(self.columns) if self.columns else 0.0

    def agrees(self, row: Row) -> bool:
        """Whether what a row holds in the columns of figures is figures there, as far as it holds anything."""
        cells = [row[at].strip() for at in self.figures & filled(row)]
        there = [bool(FIGURE.fullmatch(cell)) for cell in cells if cell.casefold() not in _NOTHING]
        return not there or sum(there) >= AGREEING * len(there)

    def is_other(self, row: Row) -> bool:
        """Whether a sparse row is of another kind: what it holds has none of the shapes that its columns have."""
        there = filled(row)
        if len(there) > max(1, SPARSE * len(self.columns)) or not there <= self.shapes.keys():
            return False
        return all(shape_of(row[at].strip()) not in self.shapes[at] for at in there)

    def is_full(self, row: Row) -> bool:
        """Whether a row is one of the table for sure: where it has figures, at least one stands where these belong."""
        if not self.figures:
            return not self.refuses(row)
        return self.agrees(row) and any(FIGURE.fullmatch(row[at].strip()) for at in self.figures & filled(row))

    def refuses(self, row: Row) -> bool:
        """Whether a row is none of the table's: words stand where rows are numbered, and hardly a figure where these
        belong. Words among figures alone may be a stray."""
        words = [row[at].strip() for at in self.numbering & filled(row)]
        there = any(not any(sign.isdigit() for sign in word) and word.casefold() not in _NOTHING for word in words)
        return there and not self.agrees(row)


def shape_of(cell: str) -> str:
    """The shape of an entry: of which kinds of signs it is made, in their order. F007 and K12 are of one shape."""
    kinds = ("9" if sign.isdigit() else "a" if sign.isalpha() else " " if sign.isspace() else sign for sign in cell)
    return "".join(kind for kind, _ in groupby(kinds))


def filled(row: Row) -> frozenset[int]:
    """The columns that a row fills."""
    return frozenset(at for at, cell in enumerate(row) if cell.strip())


def first_of_table(rows: Sequence[Row]) -> int:
    """Where the table begins with its heads (from 0), below titles, filters and remarks; 0 where nothing tells."""
    runs = [list(run) for whole, run in groupby(range(len(rows)), lambda at: bool(filled(rows[at]))) if whole]
    if not runs:
        return 0
    longest = max(runs, key=len)
    profile = Profile.of([rows[at] for at in longest[len(longest) // 2 :]])  # its heads are no longer there
    if not profile.figures or len(profile.columns) < 2:
        told = len(longest) > 2 * FEWEST and len(profile.columns) > 1
        above = (at for at in range(longest[0]) if profile.covered(rows[at]) > HALF and not _remark(rows[at]))
        return next(above, longest[0]) if told else 0  # words alone: what may be heads or records is kept
    some = [at for at in range(len(rows)) if filled(rows[at])]
    agreeing = {at for at in some if _is_of(rows[at], profile)}
    near = {at: some[number : number + FEWEST + 1] for number, at in enumerate(some)}
    first = next((at for at in some if at in agreeing and len(agreeing.intersection(near[at])) >= FEWEST), None)
    if first is None:
        return 0
    begin, headed = first, False
    for at in range(first - 1, -1, -1):  # up through records of strays to the heads, and wordings above these
        if not filled(rows[at]):
            if begin < first:
                break
            continue
        figures = any(FIGURE.fullmatch(cell.strip()) for cell in rows[at])
        if (
            profile.covered(rows[at]) < (HALF if begin == first else COVERED)
            or _remark(rows[at])
            or (headed and figures)
        ):
            break
        begin, headed = at, headed or not figures
    return begin


def _is_of(row: Row, profile: Profile) -> bool:
    """Whether a row is one of the data: half the columns are filled, and there are figures where these belong."""
    return profile.covered(row) >= HALF and profile.agrees(row) and bool(profile.figures & filled(row))


def _remark(row: Row) -> bool:
    """Whether a row says how a file was made, not what its columns hold: `Filter: | gate = North`."""
    cells = [cell.strip() for cell in row if cell.strip()]
    return cells[0].endswith(":") or sum("=" in cell for cell in cells) >= 0.3 * len(cells)


def tabled(rows: Sequence[Row]) -> int:
    """How many cells of some rows are of a table, for telling which of several sheets holds one: those of rows that
    fill half of the columns that most rows fill, where these are several; of lines of text one at most."""
    counts = [len(filled(row)) for row in rows if filled(row)]
    profile = Profile.of([row for row in rows if filled(row)])
    if len(profile.columns) < LEAST_COLUMNS:
        return min(1, len(counts))
    return sum(len(profile.columns & filled(row)) for row in rows if profile.covered(row) >= HALF)


def describes(rows: Sequence[Row], others: Sequence[Row]) -> bool:
    """Whether a column of a sheet lists most heads of another one, as a codebook lists its variables."""
    begin = first_of_table(others)
    heads = {cell.strip().casefold() for cell in (others[begin] if begin < len(others) else ())} - {""}
    if len(heads) < LEAST_COLUMNS:
        return False
    for at in range(max(map(len, rows), default=0)):
        listed = {row[at].strip().casefold() for row in rows[1:] if at < len(row)}
        if 2 * len(heads & listed) >= len(heads):
            return True
    return False


# Several tables on a sheet -----------------------------------------------------------------------

LEAST_ROWS, LEAST_COLUMNS = 4, 2
"""Rows with the heads, and columns, from which a block of cells is a table."""
LEAST_FILLED = 0.6
"""Share of its cells that a table fills."""


@dataclass(frozen=True)
class Block:
    """A rectangle of cells: its first row and column, and behind the last ones (from 0)."""

    top: int
    left: int
    bottom: int
    right: int


def tables_in(rows: Sequence[Row]) -> list[Block]:
    """The tables that stand on a sheet, where there are several: from above, then from the left; else none."""
    found: list[Block] = []
    for whole, run in groupby(range(len(rows)), lambda at: bool(filled(rows[at]))):
        if whole:
            band = list(run)
            found += _side_by_side(rows, band[0], band[-1] + 1)
    tables = [block for block in _going_on(rows, found) if _is_table(rows, block)]
    return tables if len(tables) > 1 else []


def _side_by_side(rows: Sequence[Row], top: int, bottom: int) -> list[Block]:
    """The blocks that blank columns part in a band of rows; those of the same height are one with a gap in it."""
    used = sorted(set().union(*(filled(row) for row in rows[top:bottom])))
    out: list[Block] = []
    for _, run in groupby(enumerate(used), lambda pair: pair[1] - pair[0]):
        columns = [column for _, column in run]
        block = _trimmed(rows, Block(top, columns[0], bottom, columns[-1] + 1))
        if out and (out[-1].top, out[-1].bottom) == (block.top, block.bottom):
            block = Block(block.top, out.pop().left, block.bottom, block.right)
        out.append(block)
    return out


def _trimmed(rows: Sequence[Row], block: Block) -> Block:
    """A block without blank rows at its ends and without titles, which fill one cell above several."""
    counts = [len(_within(filled(row), block)) for row in rows[block.top : block.bottom]]
    top, bottom = block.top, block.bottom
    while counts and not counts[-1]:
        counts.pop()
        bottom -= 1
    while counts and (not counts[0] or (counts[0] == 1 and max(counts) > 1)):
        counts.pop(0)
        top += 1
    return Block(top, block.left, bottom, block.right)


def _within(columns: frozenset[int], block: Block) -> frozenset[int]:
    return frozenset(at for at in columns if block.left <= at < block.right)


def _cells(rows: Sequence[Row], block: Block) -> list[list[str]]:
    return [list(row[block.left : block.right]) for row in rows[block.top : block.bottom]]


def _going_on(rows: Sequence[Row], blocks: Sequence[Block]) -> list[Block]:
    """Blocks, one that goes on with the rows of one above it put together with that: a blank row parts no table. Of
    tables of words alone nothing tells that another begins."""
    out: list[Block] = []
    for block in blocks:
        above = next((each for each in reversed(out) if each.left < block.right and block.left < each.right), None)
        if above is not None and block.bottom > block.top:
            profile = Profile.of(_cells(rows, above)[1:])
            first = list(rows[block.top][above.left : above.right])
            if _is_of(first, profile) or not profile.figures:
                left, right = min(above.left, block.left), max(above.right, block.right)
                out[out.index(above)] = Block(above.top, left, block.bottom, right)
                continue
        out.append(block)
    return out


def _is_table(rows: Sequence[Row], block: Block) -> bool:
    height, width = block.bottom - block.top, block.right - block.left
    if height < LEAST_ROWS or width < LEAST_COLUMNS:
        return False
    full = sum(len(filled(cells)) for cells in _cells(rows, block))
    return full >= LEAST_FILLED * height * width and len(filled(_cells(rows, block)[0])) >= LEAST_COLUMNS
