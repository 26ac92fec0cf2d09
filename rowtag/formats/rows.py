"""Which rows of a file are what: titles, names, wordings, data, notes below. Guessed here, for every kind of file.

The rules stand in docs/proposals.md; nothing is left out that the picture does not show as left out.
"""

import re
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import pyarrow.compute as pc

from rowtag.core.column import Column
from rowtag.core.names import RULES
from rowtag.core.words import counted
from rowtag.formats.repeating import FIGURE, Profile, Row, first_of_table
from rowtag.formats.table import FOOT_ROWS, PICTURE_CELL, PICTURE_COLUMNS, Settings, Table

DENSE = 0.5
"""Share of the fullest row's filled cells (below the data: of the usual number) from which a row is of the table."""
FIGURES = 0.2
"""Share of figures among its filled cells above which a row does not hold names."""
WORDED = 0.6
"""Share of filled cells with several words from which a row holds wordings."""
MORE_WORDS = 1.5
"""How many times as many words as the entries beneath wordings have."""
REPEATED = 0.3
"""Share of its cells that recur beneath from which the first row holds data, not names."""
REPEATED_NAMES = 0.6
"""The same where every cell could be a name."""
LONG_NOTE = 25
"""Characters from which a lone cell below the table is a note."""
_TOTAL = re.compile(r"(grand |sub)?totals?\b|sum\b|average\b|mean\b|\d+ (?:rows|records)\b", re.I)
_NOTE = re.compile(r"notes?\b|source\b|\*|n ?= ?\d", re.I)


@dataclass(frozen=True)
class Heads:
    """Where heads stand and the data begin; rows count from 1."""

    names_row: int | None
    wordings_row: int | None
    data_row: int


def guess_heads(rows: Sequence[Row]) -> Heads:
    """Where names, wordings and data stand among the first rows of a file, below what is said above its table."""
    above = first_of_table(rows)
    found = _heads_from(rows[above:])

    def lower(number: int | None) -> int | None:
        return None if number is None else number + above

    return Heads(lower(found.names_row), lower(found.wordings_row), found.data_row + above)


def _heads_from(rows: Sequence[Row]) -> Heads:
    filled = [sum(1 for cell in row if cell.strip()) for row in rows]
    fullest = max(filled, default=0)
    dense = [number for number, count in enumerate(filled) if count and count >= DENSE * fullest]
    if not dense:
        return Heads(1 if rows else None, None, 2)
    first, *following = dense
    second = following[0] if following else None
    below = [rows[number] for number in following[1:]]
    if second is not None and _worded(rows[second], below) and _heads(rows[first], below):
        return Heads(first + 1, second + 1, second + 2)
    if second is not None and _worded(rows[first], below) and _all_names(rows[second]) and below:
        return Heads(second + 1, first + 1, second + 2)
    if _heads(rows[first], [rows[number] for number in following]):
        return Heads(first + 1, None, first + 2)
    return Heads(None, None, first + 1)


def _usual(counts: list[int]) -> int:
    """The number of filled cells that most rows reach: the upper quartile."""
    return sorted(counts)[len(counts) * 3 // 4] if counts else 0


def _heads(row: Row, below: Sequence[Row]) -> bool:
    """Whether a row holds names of columns rather than data."""
    filled = [(column, cell.strip()) for column, cell in enumerate(row) if cell.strip()]
    if sum(bool(FIGURE.fullmatch(cell)) for _, cell in filled) > FIGURES * len(filled):
        return False
    if _all_names([cell for _, cell in filled]) and len({cell for _, cell in filled}) == len(filled) > 1:
        return not _recurs(filled, below, REPEATED_NAMES)
    return not _recurs(filled, below, REPEATED)


def _recurs(filled: list[tuple[int, str]], below: Sequence[Row], share: float) -> bool:
    """Whether many cells occur again further down in their columns, as answers do."""
    again = sum(any(column < len(row) and row[column].strip() == cell for row in below) for column, cell in filled)
    return again > share * len(filled)


def _worded(row: Row, below: Sequence[Row]) -> bool:
    """Whether a row holds question wordings: several words each, more than stand beneath, and none that recurs."""
    filled = [column for column, cell in enumerate(row) if cell.strip()]
    several = [column for column in filled if len(row[column].split()) >= 2 and not FIGURE.fullmatch(row[column])]
    if not filled or len(several) < WORDED * len(filled) or not below:
        return False
    if _recurs([(column, row[column].strip()) for column in several], below, 0.0):
        return False
    beneath = [each[column] for each in below for column in several if column < len(each) and each[column].strip()]
    words = sum(len(row[column].split()) for column in several) / len(several)
    return words >= MORE_WORDS * sum(len(cell.split()) for cell in beneath) / max(len(beneath), 1)


def _all_names(row: Row) -> bool:
    """Whether every filled cell of a row could be a variable's name."""
    return all(RULES["open"].pattern.fullmatch(cell.strip()) for cell in row if cell.strip())


def guess_below(head: Sequence[Row], foot: Sequence[Row]) -> int:
    """How many rows at the end are notes or totals; `head` and `foot` are the first and last rows of the data.

    Behind the last full row, rows count from the first that a word, its length or a blank row sets apart:
    an interview broken off early is data. Blank rows themselves do not count.
    """
    counts = [sum(1 for cell in row if cell.strip()) for row in head]
    usual, profile = _usual(counts), Profile.of(head)
    if usual < 2 or (usual == 2 and not profile.figures):
        return 0
    full = [
        number
        for number, row in enumerate(foot)
        if sum(1 for cell in row if cell.strip()) >= DENSE * usual
        and not _TOTAL.match(_first(row))
        and profile.is_full(row)
    ]
    below, apart = 0, False
    for row in foot[full[-1] + 1 if full else 0 :]:
        if not _first(row):
            apart = True
        elif below or apart or _is_below(row, profile, head):
            below += 1
    return below


def _is_below(row: Row, profile: Profile, head: Sequence[Row]) -> bool:
    """Whether a row is set apart from the data above it by what it holds."""
    first = _first(row)
    return profile.refuses(row) or profile.is_other(row) or bool(_TOTAL.match(first)) or _is_note(first, head)


def _first(row: Row) -> str:
    """The first filled cell of a row, empty where it is blank."""
    return next((cell.strip() for cell in row if cell.strip()), "")


def _is_note(cell: str, head: Sequence[Row]) -> bool:
    """Whether a cell at the begin of a sparse row is a remark on the table."""
    firsts = [len(_first(row)) for row in head]
    return bool(_NOTE.match(cell)) or (len(cell) > LONG_NOTE and len(cell) > 2 * max(firsts, default=0))


def framed(
    settings: Settings,
    heads: Sequence[Row],
    columns: list[Column],
    records: int,
    notes: list[str],
    foot: Sequence[Row],
    called: Sequence[str] = (),
) -> Table:
    """A table from the rows above its data and the columns of its data, which may be `called` something already.

    Blank rows are left out where asked, columns without a name or an entry always. `settings.rows_below` is known
    by now, and those rows are not in `columns`.
    """
    width = len(columns)
    names = _row(heads, settings.names_row, width)
    if called:
        names = [own or head.strip() for own, head in zip(called, names, strict=True)]
    wordings = _row(heads, settings.wordings_row, width)
    if settings.blank_rows == "leave out":
        blank = blank_rows(columns, records)
        inner = blank[: int(np.flatnonzero(~blank)[-1]) + 1] if not blank.all() else blank[:0]
        if blank.any():
            columns, records = [column.kept(~blank, records) for column in columns], int((~blank).sum())
        if inner.any():
            notes = [*notes, f"{counted(int(inner.sum()), 'blank row')} among the data left out"]
    numbers = [
        number
        for number, column in enumerate(columns, 1)
        if names[number - 1].strip() or wordings[number - 1].strip() or not _all_blank(column)
    ] or list(range(1, width + 1))
    if len(numbers) < width:
        notes = [*notes, f"{counted(width - len(numbers), 'column')} without a name or an entry left out"]
        names, wordings = ([row[number - 1] for number in numbers] for row in (names, wordings))
        columns = [columns[number - 1] for number in numbers]
    if settings.rows_below:
        notes = [*notes, f"{counted(settings.rows_below, 'row')} below the data left out"]
    shown = [[cell[:PICTURE_CELL] for cell in row[:PICTURE_COLUMNS]] for row in foot[-FOOT_ROWS:]]
    return Table(settings, names, columns, records, numbers, wordings, notes, shown)


def _all_blank(column: Column) -> bool:
    """Whether no entry of a column holds more than spaces."""
    return all(not chunk.indexes.any() for chunk in column.chunks) or bool(blank_rows([column], column.length).all())


def _row(heads: Sequence[Row], number: int | None, width: int) -> list[str]:
    """One of the rows above the data, as wide as the table."""
    row = list(heads[number - 1]) if number and number <= len(heads) else []
    return [*row[:width], *[""] * (width - len(row))]


def blank_rows(columns: Sequence[Column], records: int) -> np.ndarray[tuple[int], np.dtype[np.bool_]]:
    """Which records are blank in every column (bool, records)."""
    left = np.arange(records)
    for column in columns:
        if not left.size:
            break
        blank = np.concatenate(
            [pc.equal(pc.utf8_trim_whitespace(segment.texts), "").to_numpy(False) for segment in column.segments]
        )
        left = left[blank[column.indexes(0, records)[left]]]
    out = np.zeros(records, bool)
    out[left] = True
    return out


def texts_of(columns: Sequence[Column], first: int, last: int) -> list[list[str]]:
    """Some records of columns as rows of texts."""
    cells = [column.texts_at(column.indexes(first, last)) for column in columns]
    return [list(row) for row in zip(*cells, strict=True)]


def without_below(settings: Settings, head: Sequence[Row], foot: Sequence[Row], records: int) -> tuple[Settings, int]:
    """Settings that know how many rows below the data are left out, and how many records stay.

    `foot` are the last rows of `records`; blank rows between the rows left out go with them.
    """
    below = guess_below(head, foot) if settings.rows_below is None else settings.rows_below
    stay, left = records, below
    for row in reversed(foot):
        if not left:
            break
        left -= any(cell.strip() for cell in row)
        stay -= 1
    return settings.model_copy(update={"rows_below": below - left}), stay


def with_heads(settings: Settings, rows: Sequence[Row]) -> Settings:
    """Settings with heads, begin of data and blank rows as guessed from the first rows."""
    heads = guess_heads(rows)
    width = max((len(row) for row in rows), default=0)
    return settings.model_copy(
        update={
            "names_row": heads.names_row,
            "wordings_row": heads.wordings_row,
            "data_row": heads.data_row,
            "rows_below": None,
            "blank_rows": "keep" if width <= 1 else "leave out",
        }
    )
