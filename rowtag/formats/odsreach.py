"""How far the cells of an OpenDocument workbook (.ods) reach, told from its XML before any cell is read.

Its rows and cells say how often they are repeated, up to any number; its reader opens all sheets at once. Lone cells
far away are left out, as in `reach`.
"""

import re
from collections.abc import Iterator
from html import unescape

from rowtag.formats.reach import Book, SheetRow, archive_of, fits, remade, without_lone
from rowtag.formats.sheetxml import letters_of

CONTENT = "content.xml"
_TABLE = re.compile(rb'<table:table [^>]*?\btable:name="([^"]*)"')
_ROW = re.compile(rb"<table:table-row\b([^>]*)>")
_ROW_END = b"</table:table-row>"
_CELL = re.compile(rb"<table:(?:covered-)?table-cell\b([^>]*)>")
_CELL_BEGINS = (b"<table:table-cell", b"<table:covered-table-cell")
_CELL_END = re.compile(rb"</table:(?:covered-)?table-cell>")
_HOLDING = (b"office:value-type", b"<text:p")
_ROWS = re.compile(rb'number-rows-repeated="(\d+)"')
_CELLS = re.compile(rb'number-columns-repeated="(\d+)"')
_MOST = 1 << 40


class Far(Exception):
    """A sheet whose cells reach too far, and not by a few lone ones: its name, last row and last column (from 1)."""

    def __init__(self, sheet: str, height: int, width: int) -> None:
        super().__init__(sheet, height, width)
        self.sheet, self.height, self.width = sheet, height, width


def without_far_cells(book: Book) -> tuple[bytes, dict[str, list[str]]] | None:
    """A workbook without the cells that lie far away, and by sheet what these are called; None where there are none.

    Raises Far where too much would be left out.
    """
    with archive_of(book) as archive:
        if CONTENT not in archive.namelist():
            return None
        data = archive.read(CONTENT)
    gone: dict[str, list[str]] = {}
    pieces: list[bytes] = []
    at = 0
    for sheet, begin, end in _tables(data):
        rows = list(_rows(data, begin, end))
        height = max((row.number for row in rows), default=0)
        width = max((row.width for row in rows), default=0)
        if fits(height, width):
            continue
        kept = without_lone(rows)
        if kept is None:
            raise Far(sheet, height, width)
        for row in rows:
            if not (row.number <= kept[0] and row.width <= kept[1]):
                names = gone.setdefault(sheet, [])
                pieces += [data[at : row.begin], _cut(data[row.begin : row.end], row, *kept, names)]
                at = row.end
    return (remade(book, CONTENT, b"".join([*pieces, data[at:]])), gone) if gone else None


def _tables(data: bytes) -> Iterator[tuple[str, int, int]]:
    """The sheets: their names, and where they begin and end."""
    at = 0
    while (found := _TABLE.search(data, at)) is not None:
        end = data.find(b"</table:table>", found.end())
        at = end if end >= 0 else len(data)
        yield unescape(found[1].decode("utf-8", "replace")), found.end(), at


def _rows(data: bytes, begin: int, end: int) -> Iterator[SheetRow]:
    """The rows of a sheet that hold anything; one that is repeated counts with its last."""
    number, at = 0, begin
    while (close := data.find(_ROW_END, at, end)) >= 0:
        start, after = -1, close + len(_ROW_END)
        for tag in _ROW.finditer(data, at, close):
            number += _times(_ROWS, tag[1])
            start = tag.start()
        width = _width(data, start, close) if start >= 0 else 0
        if width:
            yield SheetRow(number, width, start, after)
        at = after


def _width(data: bytes, begin: int, end: int) -> int:
    """The column of the last cell of a row that holds something; 0 where none does."""
    last = max(data.rfind(sign, begin, end) for sign in _HOLDING)
    if last < 0:
        return 0
    cell = max(data.rfind(tag, begin, last) for tag in _CELL_BEGINS)
    return sum(_times(_CELLS, tag[1]) for tag in _CELL.finditer(data, begin, end) if tag.start() <= cell)


def _times(pattern: re.Pattern[bytes], attributes: bytes) -> int:
    """How often something is repeated."""
    found = pattern.search(attributes)
    return 1 if found is None else int(found[1]) if len(found[1]) <= 12 else _MOST


def _cut(row: bytes, place: SheetRow, height: int, width: int, gone: list[str]) -> bytes:
    """A row without its cells beyond a row and a column; what they are called is added to `gone`."""
    out: list[bytes] = []
    column = at = 0
    while (tag := _CELL.search(row, at)) is not None:
        first, column = column, column + _times(_CELLS, tag[1])
        after = tag.end()
        if not tag[1].endswith(b"/"):
            close = _CELL_END.search(row, after)
            if close is None:
                break  # this is no sheet as any program writes it
            after = close.end()
        out.append(row[at : tag.start()])
        if place.number <= height and column <= width:
            out.append(row[tag.start() : after])
        elif any(sign in row[tag.start() : after] for sign in _HOLDING):
            gone.append(f"{letters_of(first)}{place.number}")
        at = after
    return b"" if place.number > height else b"".join([*out, row[at:]])
