"""Workbooks (.xlsx, .ods and what the same reader takes): every cell becomes the entry a person would see."""

import io
import math
import re
from collections import defaultdict
from collections.abc import Callable, Iterable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from datetime import datetime, time, timedelta
from decimal import Decimal
from functools import cached_property
from itertools import count
from pathlib import Path
from typing import Any

import numpy as np
import numpy.typing as npt
from python_calamine import CalamineError, CalamineWorkbook

from rowtag.core.column import Column, column_of
from rowtag.core.errors import BadInput, NotThere, Place, RowTagError, TooLarge, UnreadableFile
from rowtag.core.grammar import FLOAT_DIGITS
from rowtag.core.tokens import large_texts
from rowtag.core.words import counted
from rowtag.formats import sheetxml
from rowtag.formats.odsreach import Far, without_far_cells
from rowtag.formats.reach import MOST_CELLS, MOST_WIDE, Book, reach_of, without_far
from rowtag.formats.repeating import Block, describes, tabled, tables_in
from rowtag.formats.rows import framed, texts_of, with_heads, without_below
from rowtag.formats.table import MOST_BELOW, PICTURE_ROWS, Picture, Settings, Table, Watch, part_of, unwatched

OLD_MAGIC = b"\xd0\xcf\x11\xe0"
_LARGE = 1 << 20
"""Bytes of a workbook from which its first rows are looked at alone."""
MOST_TABLED = 2_000
"""Rows of a sheet up to which several tables are looked for on it."""
MOST_SHEETS = 50
"""Sheets that are looked at for the one with the table."""
_BLOCK = 1_000
"""Rows that are turned into columns at once."""


@dataclass(frozen=True)
class Sheet:
    """All cells of a sheet as columns of entries, from the cell A1."""

    columns: list[Column]
    rows: int
    notes: list[str]


@dataclass(frozen=True)
class Span:
    """A range of cells: first row and column, and behind the last ones (from 0; None is open)."""

    top: int = 0
    left: int = 0
    bottom: int | None = None
    right: int | None = None


class WorkbookReader:
    """Reads one sheet of a workbook, or a range of it. What was read of a sheet is kept until it is closed."""

    def __init__(self, path: Path, name: str) -> None:
        self.path = path
        self.name = name
        self._sheets: dict[str, Sheet] = {}
        self._mended: bytes | None = None
        self._lacking = ""
        self._gone: dict[str, list[str]] = {}
        self._found: dict[str, list[Block]] = {}
        with path.open("rb") as file:
            self._zipped = file.read(4) == b"PK\x03\x04"
        if self._zipped:
            sheetxml.guard(path, name)

    def close(self) -> None:
        """Lets go of what was read."""
        self._sheets.clear()
        self._forget_head()

    def guess(self) -> Settings:
        """The sheet whose first rows hold most of a table, unless they describe the columns of another; of several
        tables on it the largest, and its heads."""
        sheets = [Settings(kind="workbook", sheet=sheet) for sheet in self._names()[:MOST_SHEETS]]
        rows = {str(each.sheet): self._first(each) for each in sheets}
        described = {name for name in rows for other in rows if name != other and describes(rows[other], rows[name])}
        held = [(str(each.sheet) in described, tabled(rows[str(each.sheet)]), each) for each in sheets]
        _, most, settings = max(held, key=lambda each: each[:2], default=(False, 0, None))  # of several alike the first
        if settings is not None and most:
            tables = self._tables(str(settings.sheet))
            largest = max(
                tables, key=lambda block: (block.bottom - block.top) * (block.right - block.left), default=None
            )
            return self.heads(settings.model_copy(update={"range": _range_of(largest) if largest else ""}))
        raise UnreadableFile(
            "No sheet of this workbook holds an entry; pictures and charts are no data.",
            remedy="Choose a workbook whose cells hold the data.",
            where=Place(self.name),
        )

    def heads(self, settings: Settings) -> Settings:
        """The same settings with names, wordings and begin of the data guessed from the first rows."""
        return with_heads(settings, self._first(settings))

    def picture(self, settings: Settings) -> Picture:
        """The first rows of the chosen sheet or range."""
        names = self._names()
        rows = self._first(settings)
        tables = [_range_of(block) for block in self._tables(self._chosen(settings))]
        return Picture.of(settings, rows, sheets=names, first_row=_span(settings, self.name).top + 1, tables=tables)

    def read(self, settings: Settings, watch: Watch) -> Table:
        """All entries of the chosen sheet or range."""
        watch(0.0, "reading")
        name = self._chosen(settings)
        sheet = self._whole(name, watch)
        span = self._within(sheet, settings)
        columns = sheet.columns[span.left : span.right]
        bottom = sheet.rows if span.bottom is None else min(span.bottom, sheet.rows)
        begin = min(span.top + settings.first_data_row - 1, bottom)
        heads = texts_of(columns, span.top, begin)
        head = texts_of(columns, begin, min(begin + PICTURE_ROWS, bottom))
        foot = texts_of(columns, max(begin, bottom - 2 * MOST_BELOW), bottom)
        settings, records = without_below(settings, head, foot, bottom - begin)
        wanted = np.zeros(sheet.rows, bool)
        wanted[begin : begin + records] = True
        taken = [column.kept(wanted, sheet.rows) for column in columns]
        watch(0.98, "reading")
        return framed(settings, heads, taken, records, sheet.notes, foot)

    # Within ---------------------------------------------------------------------------------

    def _names(self) -> list[str]:
        return list(self._use(lambda book: book.sheet_names, head=True))

    def _chosen(self, settings: Settings) -> str:
        """The sheet that settings name, the first where they name none."""
        names = self._names()
        if settings.sheet is not None and settings.sheet not in names:
            raise NotThere(
                f"There is no sheet “{settings.sheet}”.",
                remedy=f"Sheets: {', '.join(names)}.",
                where=Place(self.name),
            )
        return settings.sheet or names[0]

    def _first(self, settings: Settings) -> list[list[str]]:
        """The first rows of a sheet or range, without blank ones at their end."""
        name = self._chosen(settings)
        span = _span(settings, self.name)
        if span.top or name in self._sheets:  # a range further down wants the whole sheet, which is kept
            sheet = self._whole(name, unwatched)
            span = self._within(sheet, settings)
            bottom = min(span.bottom or sheet.rows, sheet.rows, span.top + PICTURE_ROWS)
            rows = texts_of(sheet.columns[span.left : span.right], span.top, bottom)
        else:
            rows = [row[span.left : span.right] for row in self._rows(name, PICTURE_ROWS)][: span.bottom]
        while rows and not any(rows[-1]):
            rows.pop()
        return rows

    def _tables(self, name: str) -> list[Block]:
        """The tables on a sheet, where there are several; a sheet that goes on behind the rows looked at has one."""
        if name not in self._found:
            large = self.path.stat().st_size > _LARGE
            rows = [] if large else self._rows(name, MOST_TABLED + 1)
            self._found[name] = tables_in(rows) if len(rows) <= MOST_TABLED else []
        return self._found[name]

    def _rows(self, name: str, most: int) -> list[list[str]]:
        """The first rows of a sheet from its cell A1."""
        cells = self._use(
            lambda book: book.get_sheet_by_name(name).to_python(skip_empty_area=False, nrows=most),
            head=True,
            sheet=name,
        )
        return [[entry_of(cell) for cell in row] for row in cells]

    def _within(self, sheet: Sheet, settings: Settings) -> Span:
        """The range that settings name; refused where it lies outside the sheet."""
        span = _span(settings, self.name)
        if span.top >= sheet.rows or span.left >= len(sheet.columns):
            last = f"{sheetxml.letters_of(len(sheet.columns) - 1)}{sheet.rows}"
            raise BadInput(
                f"The range {settings.range} lies outside the sheet, which goes to {last}.",
                remedy="Choose a range within it, or none to take all cells.",
                where=Place(self.name, settings.sheet),
            )
        return span

    def _whole(self, name: str, watch: Watch) -> Sheet:
        """All cells of a sheet, error cells among them; the sheet read last is kept."""
        if name not in self._sheets:
            self._sheets.clear()
            self._sheets[name] = self._read(name, watch)
        return self._sheets[name]

    def _read(self, name: str, watch: Watch) -> Sheet:
        part = sheetxml.sheet_part(self.path, name) if self._zipped else None
        try:
            with ThreadPoolExecutor(1) as aside:
                looking = aside.submit(sheetxml.has_errors, self.path, part) if part else None
                rows = self._use(
                    lambda book: book.get_sheet_by_name(name).to_python(skip_empty_area=False), head=False, sheet=name
                )
                errors: Iterable[tuple[int, int, str]] = ()
                if looking and part and looking.result():
                    errors = sheetxml.error_cells(self.path, part)
                elif self._zipped and self.path.suffix == ".ods":
                    errors = sheetxml.document_errors(self.path, name)
            while rows and not any(cell != "" for cell in rows[-1]):
                rows.pop()
            if not rows:
                raise UnreadableFile(
                    "This sheet is empty; pictures and charts are no data.",
                    remedy="Choose another sheet.",
                    where=Place(self.name, name),
                )
            watch(0.5, "reading")
            height = len(rows)
            columns = _with_errors(columns_of_rows(rows, part_of(watch, 0.5, 0.95)), height, errors)
        except sheetxml.DAMAGED as error:
            raise self._unreadable(error) from None
        notes = [f"The workbook lacks {self._lacking}"] if self._lacking else []
        gone = self._gone.get(name, [])
        if gone:
            shown = ", ".join(gone[:3]) + (" and others" if len(gone) > 3 else "")
            notes.append(
                f"{counted(len(gone), 'cell')} far away, {shown}, {'was' if len(gone) == 1 else 'were'} left out"
            )
        return Sheet(columns, height, notes)

    @cached_property
    def _head(self) -> Book:
        """The workbook, or of a large one its first rows."""
        if self._zipped and self.path.stat().st_size > _LARGE and self.path.suffix in (".xlsx", ".xlsm"):
            short = sheetxml.first_rows(self.path, PICTURE_ROWS)
            if short is not None:
                try:
                    _opened(short)
                    return short
                except CalamineError:
                    pass  # laid out otherwise: the whole is read
        return self._mended or self.path

    @cached_property
    def _head_book(self) -> CalamineWorkbook:
        return _opened(self._head)

    def _book(self, *, head: bool, sheet: str | None) -> CalamineWorkbook:
        """The workbook, or of a large one its first rows, without cells of a sheet too far away to be held."""
        book: Book = self._head if head else self._mended or self.path
        if self._zipped and self.path.suffix == ".ods":
            return self._document_book
        part = sheetxml.sheet_part(self.path, sheet) if self._zipped and sheet is not None else None
        if part is None or not part.endswith(".xml"):
            return self._head_book if head else _opened(book)
        reach = reach_of(book, part)
        if reach is None:
            return self._head_book if head else _opened(book)
        if reach.kept is None:
            raise self._too_far(sheet, reach.height, reach.width)
        short, self._gone[sheet or ""] = without_far(book, part, reach)
        return _opened(short)

    @cached_property
    def _document_book(self) -> CalamineWorkbook:
        """The workbook of an OpenDocument file, whose sheets are opened all at once."""
        try:
            found = without_far_cells(self.path)
        except Far as far:
            raise self._too_far(far.sheet, far.height, far.width) from None
        if found is None:
            return _opened(self.path)
        short, self._gone = found
        return _opened(short)

    def _too_far(self, sheet: str | None, height: int, width: int) -> TooLarge:
        column = sheetxml.letters_of(width - 1) if width <= MOST_WIDE else f"{width:,}"
        return TooLarge(
            f"The cells of this sheet reach to column {column} and row {height:,}, a rectangle of more than the"
            f" {MOST_CELLS:,} cells allowed.",
            remedy="Clear what lies far away from the data, or save them alone as .csv.",
            where=Place(self.name, sheet),
        )

    def _use(self, what: Callable[[CalamineWorkbook], Any], *, head: bool, sheet: str | None = None) -> Any:
        """What somebody wants of the workbook, or of one of its sheets; one that lacks parts is mended first."""
        try:
            return what(self._book(head=head, sheet=sheet))
        except (CalamineError, *sheetxml.DAMAGED) as error:
            if self._mend():
                return self._use(what, head=head, sheet=sheet)
            raise self._unreadable(error) from None

    def _mend(self) -> bool:
        """Puts missing parts back, once; whether any were missing."""
        try:
            found = sheetxml.mended(self.path) if self._zipped and self._mended is None else None
        except sheetxml.DAMAGED:
            found = None
        if found is None:
            return False
        self._mended, self._lacking = found
        self._forget_head()
        return True

    def _forget_head(self) -> None:
        for name in ("_head", "_head_book", "_document_book"):
            self.__dict__.pop(name, None)

    def _unreadable(self, error: Exception) -> RowTagError:
        with self.path.open("rb") as file:
            old = file.read(4) == OLD_MAGIC
        if "Cell limit exceeded" in str(error):
            return TooLarge(
                f"The cells of a sheet reach too far: more than the {MOST_CELLS:,} cells allowed.",
                remedy="Clear what lies far away from the data, or save them alone as .csv.",
                where=Place(self.name),
            )
        if old:
            return UnreadableFile(
                "The workbook is protected by a password, or damaged.",
                remedy="Open it in the program that made it, take the password off and save it again.",
                where=Place(self.name),
            )
        return UnreadableFile(
            "This is no readable workbook; it may be damaged or cut short.",
            remedy="Open it in the program that made it and save it again, or save the sheet as .csv.",
            where=Place(self.name),
            details=[str(error)],
        )


def _span(settings: Settings, name: str) -> Span:
    """The range that settings name: B3:H200, whole columns (B:H), whole rows (3:200), or all."""
    text = settings.range.strip().upper().replace("$", "")
    if not text:
        return Span()
    found = re.fullmatch(r"([A-Z]{0,3})(\d{0,7}):([A-Z]{0,3})(\d{0,7})", text)
    if found and bool(found[1]) == bool(found[3]) and bool(found[2]) == bool(found[4]) and (found[1] or found[2]):
        span = Span(
            int(found[2] or 1) - 1,
            sheetxml.column_at(found[1]) if found[1] else 0,
            int(found[4]) if found[4] else None,
            sheetxml.column_at(found[3]) + 1 if found[3] else None,
        )
        ordered = (span.bottom is None or span.bottom > span.top) and (span.right is None or span.right > span.left)
        if ordered and span.top >= 0:
            return span
    raise BadInput(
        f"“{settings.range}” is no range of cells.",
        remedy="Write it from its first to its last cell, such as B3:H200, B:H or 3:200.",
        where=Place(name, settings.sheet),
    )


def _range_of(block: Block) -> str:
    """A block of cells as a range such as B3:H200."""
    first, last = (sheetxml.letters_of(column) for column in (block.left, block.right - 1))
    return f"{first}{block.top + 1}:{last}{block.bottom}"


def _opened(book: Book) -> CalamineWorkbook:
    return (
        CalamineWorkbook.from_filelike(io.BytesIO(book))
        if isinstance(book, bytes)
        else CalamineWorkbook.from_path(book)
    )


def _with_errors(columns: list[Column], height: int, errors: Iterable[tuple[int, int, str]]) -> list[Column]:
    """The columns with error cells as they are shown, which the reader gives as blank."""
    by_column: defaultdict[int, dict[int, str]] = defaultdict(dict)
    for row, column, text in errors:
        if row < height:
            by_column[column][row] = text
    for number, entries in by_column.items():
        if number < len(columns):
            grown = columns[number].with_entries(entries)
            columns[number] = column_of(grown.indexes(0, grown.length), grown.texts())  # in one segment again
    return columns


def columns_of_rows(rows: list[list[Any]], watch: Watch = unwatched) -> list[Column]:
    """Columns from rows of cells as the workbook reader gives them, which are used up; equal cells are spelled once.

    Rows are turned a block at a time, so that their cells are still at hand when they are numbered.
    """
    height, width = len(rows), len(rows[0])
    numbers: list[defaultdict[Any, int]] = [defaultdict(count().__next__) for _ in range(width)]
    indexes = [np.empty(height, np.int64) for _ in range(width)]
    for first in range(0, height, _BLOCK):
        block = rows[first : first + _BLOCK]
        rows[first : first + _BLOCK] = [()] * len(block)  # type: ignore[list-item]  # so that their memory can go
        for number, values in enumerate(zip(*block, strict=True)):
            known = numbers[number]
            if bool in set(map(type, values)):  # False and True equal 0 and 1 as keys
                values = tuple(entry_of(value) if isinstance(value, bool) else value for value in values)
            indexes[number][first : first + len(values)] = np.fromiter(
                map(known.__getitem__, values), np.int64, len(values)
            )
        watch(first / height, "reading")
    return [column_of_distinct(each, known) for each, known in zip(indexes, numbers, strict=True)]


def column_of_distinct(indexes: npt.NDArray[np.int64], cells: Iterable[Any]) -> Column:
    """A column from one index per record and the distinct cells they point to, which may be spelled alike."""
    texts = [entry_of(cell) for cell in cells]
    distinct = {text: index for index, text in enumerate(dict.fromkeys(texts))}
    lookup = np.array([distinct[text] for text in texts], np.int64)
    return column_of(lookup[indexes] if len(indexes) else indexes, large_texts(distinct))


def entry_of(cell: Any) -> str:
    """A cell as an entry: whole numbers without a mark, others to 15 significant digits, ISO dates."""
    return _SPELLED.get(type(cell), str)(cell)


def _moment(cell: datetime) -> str:
    """A date, with its time where that is not midnight."""
    return str(cell.date()) if cell.time() == time() else cell.isoformat(" ")


def _number(value: float) -> str:
    """A number in plain notation, to 15 significant digits."""
    if value.is_integer() and abs(value) < 1e15:
        return str(int(value))
    short = repr(value)
    if len(short) <= FLOAT_DIGITS + 1 and "e" not in short:  # the usual case: no more digits than are exact
        return short
    if not math.isfinite(value):
        return short
    text = format(Decimal(format(value, ".15g")), "f")
    return text.rstrip("0").rstrip(".") if "." in text else text


def _clock(span: timedelta) -> str:
    """A duration as hours, minutes and seconds."""
    seconds = round(span.total_seconds())
    sign = "-" if seconds < 0 else ""
    hours, rest = divmod(abs(seconds), 3600)
    return f"{sign}{hours:02d}:{rest // 60:02d}:{rest % 60:02d}"


_SPELLED: dict[type, Callable[[Any], str]] = {
    str: lambda text: text,
    float: _number,
    bool: lambda truth: "TRUE" if truth else "FALSE",
    datetime: _moment,
    timedelta: _clock,
    type(None): lambda _: "",
}
"""How each kind of cell is spelled; whole numbers, dates and times as Python writes them."""
