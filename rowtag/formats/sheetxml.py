"""What lies in a workbook's archive: its size, its first rows alone, and the error cells that its reader loses."""

import io
import re
import zipfile
import zlib
from collections.abc import Iterator
from pathlib import Path
from typing import IO, Any
from xml.parsers import expat

from rowtag.core.errors import Place, TooLarge, UnreadableFile
from rowtag.core.words import megabytes

MOST_UNPACKED = 4 << 30
"""Bytes that the parts of a workbook may become together."""
MOST_RATIO = 400
"""How much smaller than its content a large part may be packed; rows of blank cells reach a fifth of this."""
_LARGE = 64 << 20
_BLOCK = 1 << 20
_ROW_END = re.compile(rb"</(?:\w+:)?row>")
_SHARED = re.compile(rb"""t="s"[^>]*>\s*<(?:\w+:)?v>(\d+)</""")
_TOLD = re.compile(
    r"\[Content_Types\]\.xml|(?:xl/)?_rels/[^/]*\.rels|xl/[^/]*|xl/worksheets/[^/]*|content\.xml|mimetype|META-INF/.*"
)
_ERROR = b't="e"'
_TEXT_END = re.compile(rb"</(?:\w+:)?si>|<(?:\w+:)?si\s*/>")
DAMAGED = (
    zipfile.BadZipFile, zlib.error, expat.ExpatError, EOFError, OSError, ValueError, LookupError, NotImplementedError,
    RuntimeError,
)  # fmt: skip
"""What looking into a damaged archive raises."""
LOST = "#LOST!"
"""Stands for a text of a workbook whose part with all texts is missing."""


def guard(path: Path, name: str) -> None:
    """Refuses an archive that would unpack to more than can be meant."""
    with _archive(path, name) as archive:
        parts = [part for part in archive.infolist() if matters(part.filename)]
    total, packed = sum(part.file_size for part in parts), sum(part.compress_size for part in parts)
    bomb = total > _LARGE and total > MOST_RATIO * packed
    if total > MOST_UNPACKED or bomb:
        raise TooLarge(
            f"Unpacked, the workbook would hold {megabytes(total)}"
            + (f"; {megabytes(MOST_UNPACKED)} are allowed." if total > MOST_UNPACKED else " of almost nothing."),
            remedy="Save the sheet with the data alone, as .xlsx or .csv.",
            where=Place(name),
        )


def matters(part: str) -> bool:
    """Whether a part of an archive can hold cells, or tell where they are; pictures and foreign parts cannot."""
    return _TOLD.fullmatch(part) is not None


def _archive(path: Path, name: str) -> zipfile.ZipFile:
    try:
        return zipfile.ZipFile(path)
    except DAMAGED as error:
        raise UnreadableFile(
            "This is no readable workbook; it may be damaged or cut short.",
            remedy="Open it in the program that made it and save it again, or save the sheet as .csv.",
            where=Place(name),
            details=[str(error)],
        ) from None


# The first rows alone ----------------------------------------------------------------------------


def first_rows(path: Path, rows: int) -> bytes | None:
    """A workbook (.xlsx) of the first rows of every sheet, made from the first bytes of its parts.

    None where the archive is not laid out as usual. The same reader takes it, so that every entry is spelled
    as in the whole.
    """
    out = io.BytesIO()
    try:
        with zipfile.ZipFile(path) as whole, zipfile.ZipFile(out, "w") as short:
            texts, most = "", -1
            for part in whole.namelist():
                if part.lower().endswith("sharedstrings.xml"):
                    texts = part
                elif "worksheets/" in part.lower() and part.lower().endswith(".xml"):
                    with whole.open(part) as stream:
                        data = _until(stream, _ROW_END, rows, b"</%ssheetData></%sworksheet>")
                    most = max([most, *map(int, _SHARED.findall(data))])
                    short.writestr(part, data)
                elif matters(part):
                    short.writestr(part, whole.read(part))
            if texts:
                with whole.open(texts) as stream:
                    short.writestr(texts, _until(stream, _TEXT_END, most + 1, b"</%ssst>"))
    except DAMAGED:
        return None
    return out.getvalue()


def _until(stream: IO[bytes], mark: re.Pattern[bytes], times: int, closing: bytes) -> bytes:
    """A part up to the n-th mark, closed behind it; the whole part where there are fewer."""
    data, found, at = b"", 0, 0
    while found < times:
        block = stream.read(_BLOCK // 4)
        if not block:
            return data
        data += block
        for match in mark.finditer(data, at):
            found, at = found + 1, match.end()
            if found == times:
                break
    if not times:
        data = stream.read(_BLOCK // 4)
        opened = re.search(rb"<(?:\w+:)?sst\b[^>]*>", data)
        at = opened.end() if opened else len(data)
    prefix = re.search(rb"<(\w+:)?(?:worksheet|sst)\b", data)
    return data[:at] + closing.replace(b"%s", (prefix[1] if prefix else None) or b"")


# What the reader loses ---------------------------------------------------------------------------


def sheet_part(path: Path, sheet: str) -> str | None:
    """The name of the part that holds a sheet, by the workbook's own list."""
    ids: dict[str, str] = {}
    targets: dict[str, str] = {}

    def listed(tag: str, attributes: dict[str, str]) -> None:
        if tag == "sheet":
            relation = next((value for key, value in attributes.items() if key.endswith(":id") or key == "id"), "")
            ids[attributes.get("name", "")] = relation
        elif tag == "Relationship":
            targets[attributes.get("Id", "")] = attributes.get("Target", "")

    try:
        with zipfile.ZipFile(path) as archive:
            for part in ("xl/workbook.xml", "xl/_rels/workbook.xml.rels"):
                with archive.open(part) as stream:
                    read_xml(stream, listed)
            target = targets.get(ids.get(sheet, ""), "")
            part = target.lstrip("/") if target.startswith("/") else f"xl/{target}"
            return part if part in archive.namelist() else None
    except DAMAGED:
        return None


def has_errors(path: Path, part: str) -> bool:
    """Whether a sheet's part holds error cells, without parsing it."""
    end = b""
    with zipfile.ZipFile(path) as archive, archive.open(part) as stream:
        while block := stream.read(_BLOCK):
            if _ERROR in block or _ERROR in end + block[: len(_ERROR)]:
                return True
            end = block[-len(_ERROR) :]
    return False


def error_cells(path: Path, part: str) -> Iterator[tuple[int, int, str]]:
    """Row and column (from 0) and text of each error cell of a sheet, from its XML."""
    found: list[tuple[int, int, str]] = []
    state: dict[str, Any] = {"at": None, "text": None}

    def begin(tag: str, attributes: dict[str, str]) -> None:
        if tag == "c":
            state["at"] = attributes.get("r") if attributes.get("t") == "e" else None
        elif tag == "v" and state["at"]:
            state["text"] = ""

    def text(data: str) -> None:
        if state["text"] is not None:
            state["text"] += data

    def end(tag: str) -> None:
        if tag == "v" and state["text"] is not None:
            place = cell_at(state["at"])
            if place:
                found.append((*place, state["text"]))
            state["text"] = None

    with zipfile.ZipFile(path) as archive, archive.open(part) as stream:
        read_xml(stream, begin, end, text)
    yield from found


def document_errors(path: Path, sheet: str) -> Iterator[tuple[int, int, str]]:
    """The same from an OpenDocument sheet."""
    found: list[tuple[int, int, str]] = []
    state: dict[str, Any] = {"sheet": "", "row": 0, "column": 0, "rows": 1, "cells": 1, "error": False, "text": ""}

    def begin(tag: str, attributes: dict[str, str]) -> None:
        if tag == "table":
            state.update(sheet=attributes.get("table:name"), row=0)
        elif tag == "table-row":
            state.update(column=0, rows=int(attributes.get("table:number-rows-repeated", 1)))
        elif tag in ("table-cell", "covered-table-cell"):
            state.update(
                cells=int(attributes.get("table:number-columns-repeated", 1)),
                error=attributes.get("calcext:value-type") == "error",
                text="",
            )

    def text(data: str) -> None:
        if state["error"]:
            state["text"] += data

    def end(tag: str) -> None:
        if tag in ("table-cell", "covered-table-cell"):
            if state["error"] and state["sheet"] == sheet:
                found.extend(
                    (state["row"] + row, state["column"] + column, state["text"].strip())
                    for row in range(min(state["rows"], 1_000))
                    for column in range(min(state["cells"], 1_000))
                )
            state["column"] += state["cells"]
            state["error"] = False
        elif tag == "table-row":
            state["row"] += state["rows"]

    with zipfile.ZipFile(path) as archive, archive.open("content.xml") as stream:
        read_xml(stream, begin, end, text)
    yield from found


def read_xml(stream: IO[bytes], begin: Any, end: Any = None, text: Any = None) -> None:
    """Tells about each element by its plain name; an XML that declares entities is refused."""
    parser = expat.ParserCreate()

    def declared(*_: Any) -> None:
        raise expat.ExpatError("entities are not allowed")

    parser.EntityDeclHandler = declared
    parser.StartElementHandler = lambda tag, attributes: begin(tag.rpartition(":")[2], attributes)
    if end is not None:
        parser.EndElementHandler = lambda tag: end(tag.rpartition(":")[2])
    if text is not None:
        parser.CharacterDataHandler = text
    parser.ParseFile(stream)


# Ranges ------------------------------------------------------------------------------------------


def cell_at(reference: str) -> tuple[int, int] | None:
    """Row and column (from 0) of a cell such as B3."""
    found = re.fullmatch(r"\$?([A-Za-z]{1,3})\$?(\d{1,7})", reference or "")
    return (int(found[2]) - 1, column_at(found[1])) if found else None


def column_at(letters: str) -> int:
    """The column (from 0) that letters name."""
    number = 0
    for letter in letters.upper():
        number = number * 26 + ord(letter) - 64
    return number - 1


def letters_of(column: int) -> str:
    """The letters of a column (from 0)."""
    out, number = "", column + 1
    while number:
        number, rest = divmod(number - 1, 26)
        out = chr(65 + rest) + out
    return out


# Missing parts -----------------------------------------------------------------------------------

_ROOT = b"""<?xml version="1.0"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">\
<Relationship Id="rId1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/officeDocument" \
Target="xl/workbook.xml"/></Relationships>"""


def mended(path: Path) -> tuple[bytes, str] | None:
    """A workbook (.xlsx) with its missing parts put back as far as that goes, and what was missing.

    Relations are told from the parts that are there; texts that are gone are shown as #LOST!.
    """
    out = io.BytesIO()
    lacking = []
    with zipfile.ZipFile(path) as archive, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as whole:
        names = archive.namelist()
        sheets = sorted(name for name in names if re.fullmatch(r"xl/worksheets/[^/]+\.xml", name))
        if "xl/workbook.xml" not in names or not sheets:
            return None
        for name in filter(matters, names):
            whole.writestr(name, archive.read(name))
        if "_rels/.rels" not in names:
            whole.writestr("_rels/.rels", _ROOT)
            lacking.append("_rels/.rels")
        if "xl/_rels/workbook.xml.rels" not in names:
            whole.writestr("xl/_rels/workbook.xml.rels", _relations(archive, sheets, names))
            lacking.append("xl/_rels/workbook.xml.rels")
        if "xl/sharedStrings.xml" not in names:
            most = max((int(number) for sheet in sheets for number in _SHARED.findall(archive.read(sheet))), default=-1)
            if most >= 0:
                line = f"<si><t>{LOST}</t></si>".encode()
                space = b'<sst xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main">'
                whole.writestr("xl/sharedStrings.xml", space + line * (most + 1) + b"</sst>")
                lacking.append("xl/sharedStrings.xml (its texts)")
    return (out.getvalue(), ", ".join(lacking)) if lacking else None


def _relations(archive: zipfile.ZipFile, sheets: list[str], names: list[str]) -> bytes:
    """The workbook's relations, sheets in order of their numbers."""
    ids: list[str] = []

    def listed(tag: str, attributes: dict[str, str]) -> None:
        if tag == "sheet":
            ids.append(next((value for key, value in attributes.items() if key.endswith(":id")), ""))

    with archive.open("xl/workbook.xml") as stream:
        read_xml(stream, listed)
    base = "http://schemas.openxmlformats.org/officeDocument/2006/relationships"
    ordered = sorted(sheets, key=lambda name: (len(name), name))
    lines = [
        f'<Relationship Id="{id}" Type="{base}/worksheet" Target="{name.removeprefix("xl/")}"/>'
        for id, name in zip(ids, ordered, strict=False)
    ]
    for part, kind in (("styles.xml", "styles"), ("sharedStrings.xml", "sharedStrings")):
        if f"xl/{part}" in names or kind == "sharedStrings":
            lines.append(f'<Relationship Id="own_{kind}" Type="{base}/{kind}" Target="{part}"/>')
    space = "http://schemas.openxmlformats.org/package/2006/relationships"
    return f'<Relationships xmlns="{space}">{"".join(lines)}</Relationships>'.encode()
