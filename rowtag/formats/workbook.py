"""Workbooks (.xlsx and what the same reader takes): every cell becomes the entry a person would see."""

from collections import defaultdict
from collections.abc import Callable, Sequence
from datetime import datetime, time, timedelta
from decimal import Decimal
from itertools import count
from pathlib import Path
from typing import Any

import numpy as np
from python_calamine import CalamineError, CalamineSheet, CalamineWorkbook

from rowtag.core.column import Column, column_of
from rowtag.core.errors import NotThere, Place, UnreadableFile
from rowtag.core.reading import EXACT_DIGITS
from rowtag.core.tokens import large_texts
from rowtag.formats.table import (
    PICTURE_CELL,
    PICTURE_COLUMNS,
    PICTURE_ROWS,
    Picture,
    Settings,
    Table,
    Watch,
)

OLD_MAGIC = b"\xd0\xcf\x11\xe0"


class WorkbookReader:
    """Reads one sheet of a workbook."""

    def guess(self, path: Path, name: str) -> Settings:
        """The first sheet that holds anything; a workbook of one sheet is not read for that."""
        book = _open(path, name)
        for sheet in book.sheet_names:
            if len(book.sheet_names) == 1 or _sheet(book, sheet, name).end is not None:
                return Settings(kind="workbook", sheet=sheet)
        raise UnreadableFile("No sheet of this workbook holds an entry.", where=Place(name))

    def picture(self, path: Path, name: str, settings: Settings) -> Picture:
        """The first rows of the chosen sheet."""
        book = _open(path, name)
        sheet = _chosen(book, settings, name)
        rows = []
        for row in sheet.iter_rows():
            rows.append([entry_of(cell)[:PICTURE_CELL] for cell in row[:PICTURE_COLUMNS]])
            if len(rows) == PICTURE_ROWS:
                break
        width = sheet.end[1] + 1 if sheet.end else 0
        return Picture(settings, rows, width, list(book.sheet_names))

    def read(self, path: Path, name: str, settings: Settings, watch: Watch) -> Table:
        """All entries of the chosen sheet."""
        watch(0.0, "reading")
        sheet = _chosen(_open(path, name), settings, name)
        rows = sheet.to_python(skip_empty_area=False)
        while rows and not any(cell != "" for cell in rows[-1]):
            rows.pop()
        if not rows:
            raise UnreadableFile(
                "This sheet is empty.", remedy="Choose another sheet.", where=Place(name, settings.sheet)
            )
        watch(0.5, "reading")
        skipped = settings.names_row or 0
        heads = [entry_of(cell) for cell in rows[skipped - 1]] if skipped else [""] * len(rows[0])
        columns = []
        cells = list(zip(*rows[skipped:], strict=True)) if len(rows) > skipped else [()] * len(heads)
        del rows
        for number, values in enumerate(cells):
            columns.append(column_of_cells(values))
            watch(0.5 + 0.5 * (number + 1) / len(cells), "reading")
        return Table(heads, columns, len(cells[0]) if cells else 0)


def column_of_cells(values: Sequence[Any]) -> Column:
    """A column from cells as the workbook reader gives them; equal cells are spelled once."""
    number: defaultdict[Any, int] = defaultdict(count().__next__)  # a cell's number, in order of arrival
    cells = np.fromiter(map(number.__getitem__, values), np.int64, len(values))
    if (0 in number or 1 in number) and bool in set(map(type, values)):  # False and True equal 0 and 1 as keys
        return column_of_cells([entry_of(value) if isinstance(value, bool) else value for value in values])
    texts = [entry_of(value) for value in number]
    distinct = {text: index for index, text in enumerate(dict.fromkeys(texts))}
    lookup = np.array([distinct[text] for text in texts], np.int64)
    indexes = lookup[cells] if len(values) else cells
    return column_of(indexes, large_texts(distinct))


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
    if len(short) <= EXACT_DIGITS + 1 and "e" not in short:  # the usual case: no more digits than are exact
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


def _open(path: Path, name: str) -> CalamineWorkbook:
    try:
        return CalamineWorkbook.from_path(path)
    except (CalamineError, OSError, ValueError) as error:
        with path.open("rb") as file:
            old = file.read(4) == OLD_MAGIC
        if old:
            raise UnreadableFile(
                "The workbook is protected by a password, or damaged.",
                remedy="Open it in the program that made it, take the password off and save it again.",
                where=Place(name),
            ) from None
        raise UnreadableFile(
            "This is no readable workbook; it may be damaged or cut short.",
            remedy="Open it in the program that made it and save it again, or save the sheet as .csv.",
            where=Place(name),
            details=[str(error)],
        ) from None


def _chosen(book: CalamineWorkbook, settings: Settings, name: str) -> CalamineSheet:
    if settings.sheet is not None and settings.sheet not in book.sheet_names:
        raise NotThere(
            f"There is no sheet “{settings.sheet}”.",
            remedy=f"Sheets: {', '.join(book.sheet_names)}.",
            where=Place(name),
        )
    return _sheet(book, settings.sheet or book.sheet_names[0], name)


def _sheet(book: CalamineWorkbook, sheet: str, name: str) -> CalamineSheet:
    try:
        return book.get_sheet_by_name(sheet)
    except CalamineError as error:
        raise UnreadableFile(
            "This sheet cannot be read; the workbook may be damaged.", where=Place(name, sheet), details=[str(error)]
        ) from None
