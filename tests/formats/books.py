"""Workbooks for tests: written by a writer, changed in their parts, or made by hand."""

import io
import struct
import zipfile
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any
from xml.sax.saxutils import escape

import xlsxwriter

OPTIONS = {"strings_to_formulas": False, "strings_to_urls": False, "strings_to_numbers": False}


def xlsx(path: Path, sheets: dict[str, list[list[Any]]], **options: Any) -> Path:
    """A workbook whose sheets hold these rows."""
    with xlsxwriter.Workbook(str(path), {**OPTIONS, "default_date_format": "yyyy-mm-dd", **options}) as book:
        for name, rows in sheets.items():
            sheet = book.add_worksheet(name)
            for number, row in enumerate(rows):
                sheet.write_row(number, 0, row)
    return path


def changed(path: Path, change: Callable[[str, bytes], bytes | None]) -> Path:
    """The same workbook with parts changed, or dropped where the change gives None."""
    out = io.BytesIO()
    with zipfile.ZipFile(path) as old, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as new:
        for part in old.namelist():
            data = change(part, old.read(part))
            if data is not None:
                new.writestr(part, data)
    path.write_bytes(out.getvalue())
    return path


def without(path: Path, *parts: str) -> Path:
    """The same workbook without some parts."""
    return changed(path, lambda part, data: None if part in parts else data)


_SPACES = " ".join(
    f'xmlns:{short}="urn:oasis:names:tc:opendocument:xmlns:{long}:1.0"'
    for short, long in (("office", "office"), ("table", "table"), ("text", "text"))
)


def ods(path: Path, rows: Sequence[list[Any] | str], sheet: str = "Sheet1") -> Path:
    """An OpenDocument sheet; a cell is a text, number or date, or its XML in angle brackets, and so is a row."""
    lines = "".join(
        row if isinstance(row, str) else f"<table:table-row>{''.join(map(_ods_cell, row))}</table:table-row>"
        for row in rows
    )
    content = (
        f'<?xml version="1.0" encoding="UTF-8"?><office:document-content {_SPACES} '
        'xmlns:calcext="urn:org:documentfoundation:names:experimental:calc:xmlns:calcext:1.0">'
        f'<office:body><office:spreadsheet><table:table table:name="{sheet}">{lines}</table:table>'
        "</office:spreadsheet></office:body></office:document-content>"
    )
    kind = "application/vnd.oasis.opendocument.spreadsheet"
    manifest = (
        '<?xml version="1.0"?><manifest:manifest xmlns:manifest="urn:oasis:names:tc:opendocument:xmlns:manifest:1.0">'
        f'<manifest:file-entry manifest:full-path="/" manifest:media-type="{kind}"/></manifest:manifest>'
    )
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as book:
        book.writestr("mimetype", kind, zipfile.ZIP_STORED)
        book.writestr("content.xml", content)
        book.writestr("META-INF/manifest.xml", manifest)
    return path


def _ods_cell(cell: Any) -> str:
    if isinstance(cell, str) and cell.startswith("<table:"):
        return cell
    if isinstance(cell, int | float):
        kind, value = "float", f'office:value="{cell}"'
    elif hasattr(cell, "isoformat"):
        kind, value = "date", f'office:date-value="{cell.isoformat()}"'
    else:
        kind, value = "string", ""
    shown = f"<text:p>{escape(str(cell)).replace(' ', '<text:s/>')}</text:p>"
    return f'<table:table-cell office:value-type="{kind}" {value}>{shown}</table:table-cell>'


def xls(path: Path, rows: list[list[str | float]]) -> Path:
    """An older workbook of one sheet, as small as can be: a compound file that holds one stream of records."""

    def record(kind: int, data: bytes) -> bytes:
        return struct.pack("<HH", kind, len(data)) + data

    def begin(what: int) -> bytes:
        return record(0x0809, struct.pack("<HHHHII", 0x0600, what, 0, 0, 0, 0))

    def cell(row: int, column: int, value: str | float) -> bytes:
        at = struct.pack("<HHH", row, column, 0)
        if isinstance(value, str):
            return record(0x0204, at + struct.pack("<HB", len(value), 0) + value.encode("latin-1"))
        return record(0x0203, at + struct.pack("<d", value))

    def entry(name: str, kind: int, child: int, first: int, size: int) -> bytes:
        wide = name.encode("utf-16-le") + b"\0\0"
        links = struct.pack("<HBBIII", len(wide), kind, 1, _NONE, _NONE, child)
        return wide.ljust(64, b"\0") + links + b"\0" * 36 + struct.pack("<IQ", first, size)

    cells = b"".join(cell(row, column, value) for row, line in enumerate(rows) for column, value in enumerate(line))
    end, name = record(0x0A, b""), b"Data"
    head = begin(0x05)
    listed = record(0x85, struct.pack("<IBBBB", len(head) + 16 + len(name), 0, 0, len(name), 0) + name)
    book = head + listed + end + begin(0x10) + cells + end
    book = book.ljust(-(-max(len(book), 4096) // 512) * 512, b"\0")
    chain = [0xFFFFFFFD, _LAST, *range(3, len(book) // 512 + 2), _LAST]
    directory = entry("Root Entry", 5, 1, _LAST, 0) + entry("Workbook", 2, _NONE, 2, len(book)) + b"\0" * 256
    header = b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1" + b"\0" * 16
    header += struct.pack("<HHHHH6x", 0x3E, 3, 0xFFFE, 9, 6)
    header += struct.pack("<10I", 0, 1, 1, 0, 4096, _LAST, 0, _LAST, 0, 0)
    sectors = struct.pack(f"<{len(chain)}I", *chain).ljust(512, b"\xff")
    path.write_bytes(header.ljust(512, b"\xff") + sectors + directory + book)
    return path


_NONE, _LAST = 0xFFFFFFFF, 0xFFFFFFFE
