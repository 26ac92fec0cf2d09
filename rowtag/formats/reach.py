"""How far the cells of a sheet (.xlsx) reach, told from its XML before any cell is read.

A workbook's reader holds the whole rectangle from A1 to the last row and the last column: one forgotten cell in
XFD1048576 would make it hold seventeen thousand million. Lone cells far away are left out, and that is said.
"""

import io
import re
import zipfile
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import IO

from rowtag.formats.sheetxml import column_at, matters

MOST_CELLS = 30_000_000
"""Cells of the rectangle that a sheet may fill."""
MOST_LOOKED_THROUGH = 16 << 20
"""Bytes of a sheet's XML up to which it is looked through, whatever it says of its extent."""
MOST_LONE = 20
"""Rows that may hold cells far away, or lie far away, to be left out."""
MOST_WIDE = 16_384
"""Columns that a workbook can have; a reference beyond these names no cell."""
MOST_HIGH = 1_048_576
_BLOCK = 1 << 20
_MOST_OF_ROW = 16 << 20
"""Bytes of XML that a row can take."""
_ROW_END = re.compile(rb"</(?:\w+:)?row>|</(?:\w+:)?sheetData>")
_ROW = re.compile(rb'<(?:\w+:)?row\b(?:[^>]*?\br="(\d+)")?')
_CELL = re.compile(rb'<(?:\w+:)?c\b(?:[^>]*?\br="([A-Za-z]+)(\d+)")?[^>]*?(?:/>|>.*?</(?:\w+:)?c>)', re.S)
_CELL_BEGIN = re.compile(rb'<(?:\w+:)?c\b(?:[^>]*?\br="([A-Za-z]+)\d+")?')
_REFERENCE = re.compile(rb'\br="([A-Za-z]+)(\d+)"')
_BEYOND = 1 << 40
_DIMENSION = re.compile(rb'<(?:\w+:)?dimension ref="(?:[A-Z]+\d+:)?([A-Z]{1,3})(\d{1,7})"')

Book = Path | bytes
"""A workbook: its file, or its bytes."""


@dataclass(frozen=True)
class SheetRow:
    """A row of a sheet: its number and its last column (from 1), and where it stands in the sheet's XML."""

    number: int
    width: int
    begin: int
    end: int


@dataclass(frozen=True)
class Reach:
    """How far a sheet goes, and how far it goes without the cells far away; None where too much would be left out."""

    rows: list[SheetRow]
    height: int
    width: int
    kept: tuple[int, int] | None


def archive_of(book: Book) -> zipfile.ZipFile:
    """The archive that a workbook is."""
    return zipfile.ZipFile(io.BytesIO(book) if isinstance(book, bytes) else book)


def reach_of(book: Book, part: str) -> Reach | None:
    """How far a sheet's part reaches; None where it can be held as it is."""
    with archive_of(book) as archive:
        with archive.open(part) as stream:
            claimed = _DIMENSION.search(stream.read(4_096))
        trusted = archive.getinfo(part).file_size > MOST_LOOKED_THROUGH
        if trusted and claimed and int(claimed[2]) * _column(claimed[1]) <= MOST_CELLS:
            return None
        with archive.open(part) as stream:
            rows = list(_rows(stream, closely=not trusted))
    height = max((row.number for row in rows), default=0)
    width = max((row.width for row in rows), default=0)
    if fits(height, width):
        return None
    return Reach(rows, height, width, without_lone(rows))


def without_far(book: Book, part: str, reach: Reach) -> tuple[bytes, list[str]]:
    """A workbook without the cells of a sheet that lie far away, and what these are called."""
    assert reach.kept is not None
    with archive_of(book) as archive:
        data, gone = _cut(archive.read(part), reach.rows, *reach.kept)
    return remade(book, part, data), gone


def remade(book: Book, part: str, data: bytes) -> bytes:
    """A workbook in which a part is another; what can hold no cells is left out."""
    out = io.BytesIO()
    with archive_of(book) as whole, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as short:
        for name in filter(matters, whole.namelist()):
            short.writestr(name, data if name == part else whole.read(name))
    return out.getvalue()


def fits(height: int, width: int) -> bool:
    """Whether a sheet of so many rows and columns can be held."""
    return height * width <= MOST_CELLS and width <= MOST_WIDE and height <= MOST_HIGH


def _column(letters: bytes) -> int:
    """The number (from 1) of the column that letters name; of too many of them a number beyond any sheet."""
    return column_at(letters.decode()) + 1 if len(letters) <= 6 else _BEYOND


def _number(digits: bytes) -> int:
    return int(digits) if len(digits) <= 8 else _BEYOND


def _rows(stream: IO[bytes], *, closely: bool) -> Iterator[SheetRow]:
    """The rows of a sheet's part that hold anything; a row or cell without a number follows the one before it.

    Looked at `closely`, every cell counts with the row and column that it says, not the last one of a row alone.
    """
    data, start, number = b"", 0, 0
    while block := stream.read(_BLOCK):
        if len(data) > _MOST_OF_ROW:
            return  # this is no sheet as any program writes it
        data += block
        at = 0
        for end in _ROW_END.finditer(data):
            row = max(data.rfind(b"<row", at, end.start()), data.rfind(b":row ", at, end.start()))
            begin = data.rfind(b"<", at, row + 1) if row >= 0 else -1
            said = _ROW.match(data, begin, end.start()) if begin >= 0 else None
            if said:
                number = _number(said[1]) if said[1] else number + 1
                width, last = _width(data, begin, end.start()), number
                for letters, digits in _REFERENCE.findall(data, begin, end.start()) if closely and width else ():
                    width, last = max(width, _column(letters)), max(last, _number(digits))
                if width:
                    yield SheetRow(last, width, start + begin, start + end.end())
            at = end.end()
        data, start = data[at:], start + at


def _width(data: bytes, begin: int, end: int) -> int:
    """The column of the last cell of a row that holds something; 0 where none does."""
    close = max(data.rfind(b"</c>", begin, end), data.rfind(b":c>", begin, end))
    if close < 0:
        return 0
    last = max(data.rfind(b"<c", begin, close), data.rfind(b":c ", begin, close), data.rfind(b":c>", begin, close))
    found = _CELL_BEGIN.match(data, data.rfind(b"<", begin, last + 1), end) if last >= 0 else None
    return _column(found[1]) if found and found[1] else data.count(b"<c", begin, close)


def without_lone(rows: list[SheetRow]) -> tuple[int, int] | None:
    """The last row and column of the sheet that remains when as few rows as can be are cut short or left out."""
    best: tuple[int, int, int] | None = None
    by_number = sorted(rows, key=lambda row: row.number)
    for low in range(min(MOST_LONE, len(by_number) - 1) + 1):
        rest = by_number[: len(by_number) - low]
        height = rest[-1].number
        widths = sorted((row.width for row in rest), reverse=True)[: MOST_LONE + 1]
        for cut, width in enumerate(widths):
            if fits(height, width):
                if best is None or low + cut < best[0]:
                    best = low + cut, height, width
                break
    return None if best is None else best[1:]


def _cut(data: bytes, rows: list[SheetRow], height: int, width: int) -> tuple[bytes, list[str]]:
    """A sheet's XML without what lies beyond a row and a column, and the cells that were there."""
    out: list[bytes] = []
    gone: list[str] = []
    at = 0

    def kept(found: re.Match[bytes]) -> bytes:
        if found[1] is None or (_column(found[1]) <= width and _number(found[2]) <= height):
            return found[0]
        name = (found[1] + found[2]).decode()
        gone.append(name if len(name) <= 20 else f"{name[:20]}…")
        return b""

    for row in rows:
        if row.number <= height and row.width <= width:
            continue
        out.append(data[at : row.begin])
        out.append(_CELL.sub(kept, data[row.begin : row.end]))
        at = row.end
    return b"".join([*out, data[at:]]), gone
