"""Delimited text, read to the letter: Arrow splits it where it can, an exact reader where it cannot."""

import codecs
import csv
import io
import mmap
from collections.abc import Iterator
from itertools import islice
from pathlib import Path
from typing import Any

import pyarrow as pa
import pyarrow.csv as pa_csv

from rowtag.core.column import Column, column_of_texts
from rowtag.core.errors import Place, TooLarge, UnreadableFile
from rowtag.formats.table import (
    PICTURE_CELL,
    PICTURE_COLUMNS,
    PICTURE_ROWS,
    Picture,
    Settings,
    Table,
    Watch,
    on_both_cores,
)

SEPARATORS = {",": "comma", ";": "semicolon", "\t": "tab", "|": "bar"}
ENCODINGS = ("utf-8", "utf-16", "cp1252", "iso-8859-15", "mac-roman")
MOST_COLUMNS = 20_000
_SAMPLE = 256 * 1024
_BLOCK_ROWS = 20_000
_MAGIC = {
    b"PK\x03\x04": "a ZIP archive or workbook",
    b"\xd0\xcf\x11\xe0": "an older or password-protected workbook",
    b"\x89PNG": "a picture",
    b"\xff\xd8\xff": "a picture",
    b"GIF8": "a picture",
    b"%PDF": "a PDF document",
    b"\x1f\x8b": "a compressed file",
    b"PAR1": "a Parquet file",
    b"SQLite format 3": "a database",
}


class DelimitedReader:
    """Reads text whose entries are separated by one character."""

    def guess(self, path: Path, name: str) -> Settings:
        """Encoding and separator, judged from the file; UnreadableFile where it is no text."""
        with path.open("rb") as file:
            head = file.read(_SAMPLE)
        if not head.strip():
            raise UnreadableFile("The file is empty.", remedy="Choose a file that holds data.", where=Place(name))
        for magic, what in _MAGIC.items():
            if head.startswith(magic):
                raise UnreadableFile(
                    f"This is not delimited text: it begins like {what}.",
                    remedy="Give it the ending it should have, or save it as .csv or .xlsx first.",
                    where=Place(name),
                )
        encoding = _guess_encoding(path, head)
        text = head.decode(encoding, "ignore")
        if encoding != "utf-16" and "\0" in text:
            at = head.index(b"\0") + 1
            raise UnreadableFile(
                "This is not text: it holds NUL bytes.",
                remedy="Save it as .csv (UTF-8) or .xlsx in the program that made it.",
                where=Place(name, character=at),
            )
        return Settings(kind="delimited", separator=_guess_separator(text), encoding=encoding)

    def picture(self, path: Path, name: str, settings: Settings) -> Picture:
        """The first rows; reads no further."""
        rows = list(islice(_exact_rows(path, name, settings), PICTURE_ROWS))
        width = max((len(row) for row in rows), default=0)
        return Picture(settings, [[cell[:PICTURE_CELL] for cell in row[:PICTURE_COLUMNS]] for row in rows], width)

    def read(self, path: Path, name: str, settings: Settings, watch: Watch) -> Table:
        """All entries, to the letter. Short rows are filled with blanks, longer ones widen the table."""
        watch(0.0, "reading")
        arrays = _read_fast(path, settings)
        notes: list[str] = []
        if arrays is None:
            arrays, notes = _read_exactly(path, name, settings, watch)
        if len(arrays) > MOST_COLUMNS:
            raise TooLarge(f"{len(arrays):,} columns are more than the {MOST_COLUMNS:,} allowed.", where=Place(name))
        skipped = settings.names_row or 0
        heads = [array[skipped - 1].as_py() if skipped and len(array) >= skipped else "" for array in arrays]
        records = max(len(arrays[0]) - skipped, 0) if arrays else 0

        def column(number: int) -> Column:
            array, arrays[number] = arrays[number], None  # so that its memory can go
            return column_of_texts(array[skipped:])

        columns = on_both_cores(column, range(len(arrays)), watch, "reading")
        return Table(heads, columns, records, notes)


def _guess_encoding(path: Path, head: bytes) -> str:
    """UTF-16 by its mark, UTF-8 when the whole file is, else Windows-1252."""
    if head.startswith((codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE)):
        return "utf-16"
    decoder = codecs.getincrementaldecoder("utf-8")()
    try:
        with path.open("rb") as file:
            while block := file.read(1 << 20):
                decoder.decode(block)
            decoder.decode(b"", final=True)
    except UnicodeDecodeError:
        return "cp1252"
    return "utf-8"


def _guess_separator(text: str) -> str:
    """The separator that splits the first lines most evenly into most entries."""
    lines = text.splitlines()[:40]
    lines = lines[:-1] if len(lines) > 1 else lines
    best, score = ",", (0.0, 0)
    for separator in SEPARATORS:
        try:
            widths = [len(row) for row in csv.reader(lines, delimiter=separator) if row]
        except csv.Error:
            continue
        usual = max(set(widths), key=widths.count, default=1)
        here = (widths.count(usual) / len(widths) if usual > 1 else 0.0, usual)
        if here > score:
            best, score = separator, here
    return best


def _read_fast(path: Path, settings: Settings) -> list[Any] | None:
    """All columns as Arrow arrays of texts, or None where Arrow would not read to the letter."""
    if settings.encoding != "utf-8" or path.stat().st_size == 0:
        return None
    ragged: list[int] = []

    def note(row: Any) -> str:
        ragged.append(row.number or 0)
        return "skip"

    with path.open("rb") as file, mmap.mmap(file.fileno(), 0, access=mmap.ACCESS_READ) as data:
        quoted = data.find(b'"') >= 0
        single = data.find(settings.separator.encode()) < 0
    if quoted and _quotes_in(path) % 2:  # one is never closed, or stands within an entry
        return None
    try:
        table = pa_csv.read_csv(
            pa.memory_map(str(path)),
            pa_csv.ReadOptions(autogenerate_column_names=True, block_size=4 << 20),
            pa_csv.ParseOptions(
                delimiter=settings.separator,
                newlines_in_values=quoted,
                ignore_empty_lines=not single,
                invalid_row_handler=note,
            ),
            _AS_TEXTS,
        )
    except pa.ArrowInvalid:
        return None
    return None if ragged else list(table.columns)


def _quotes_in(path: Path) -> int:
    """How many quotes a file holds."""
    with path.open("rb") as file:
        return sum(block.count(b'"') for block in iter(lambda: file.read(1 << 20), b""))


_AS_TEXTS = pa_csv.ConvertOptions(
    default_column_type=pa.string(), null_values=[], strings_can_be_null=False, quoted_strings_can_be_null=False
)
"""Every column is text, and no text means "null"."""


def _exact_rows(path: Path, name: str, settings: Settings, lines: list[int] | None = None) -> Iterator[list[str]]:
    """Row after row, to the letter; blank lines are left out. `lines` learns each row's last line."""
    csv.field_size_limit(1 << 30)
    with path.open("rb") as raw:
        text = io.TextIOWrapper(raw, encoding=_codec(settings.encoding), newline="")
        reader = csv.reader(text, delimiter=settings.separator, strict=True)
        width = 0
        try:
            for row in reader:
                width = max(width, len(row))
                if row or width == 1:
                    if lines is not None:
                        lines.append(reader.line_num)
                    yield row or [""]
        except UnicodeDecodeError as error:
            raise UnreadableFile(
                f"The file is not {settings.encoding}: the bytes after line {reader.line_num:,} cannot be read.",
                remedy="Choose another encoding, such as Windows-1252.",
                where=Place(name, row=reader.line_num + 1, character=error.start + 1),
            ) from None
        except csv.Error as error:
            raise UnreadableFile(
                _quote_problem(str(error)), remedy=_QUOTE_REMEDY, where=Place(name, row=reader.line_num)
            ) from None


_QUOTE_REMEDY = "Close the quote, or double quotes that belong to the text."


def _quote_problem(error: str) -> str:
    """What the exact reader stumbled over, in words."""
    if "unexpected end" in error:
        return "A quote is opened and never closed."
    if "expected after" in error:
        return "Text follows a closing quote in the same entry."
    return f"The line cannot be split into entries ({error})."


def _codec(encoding: str) -> str:
    """The codec for an encoding; a byte-order mark is no part of the text."""
    return "utf-8-sig" if encoding == "utf-8" else encoding


def _read_exactly(path: Path, name: str, settings: Settings, watch: Watch) -> tuple[list[Any], list[str]]:
    """All columns by the exact reader, in blocks of rows, and what had to be mended."""
    size = max(path.stat().st_size, 1)
    lines: list[int] = []
    rows = _exact_rows(path, name, settings, lines)
    first = next(rows, [])
    width, blocks, pending, uneven = len(first), [], [first], []
    read = 0
    for number, row in enumerate(rows, 2):
        if len(row) != len(first):
            uneven.append(lines[-1])
            width = max(width, len(row))
        pending.append(row)
        if number % _BLOCK_ROWS == 0:
            read += sum(len(cell) + 1 for cells in pending for cell in cells)
            watch(min(read / size, 0.99), "reading")
            blocks.append(_block(pending, width))
            pending = []
    blocks.append(_block(pending, width))
    arrays = [pa.chunked_array([_block_column(block, number) for block in blocks]) for number in range(width)]
    notes = []
    if uneven:
        listed = ", ".join(f"{line:,}" for line in uneven[:5]) + ("…" if len(uneven) > 5 else "")
        notes.append(
            f"{len(uneven):,} rows have more or fewer entries than the first (lines {listed}); missing ones are blank"
        )
    return arrays, notes


def _block(rows: list[list[str]], width: int) -> list[Any]:
    """Rows as columns of Arrow texts."""
    for row in rows:
        if len(row) < width:
            row.extend([""] * (width - len(row)))
    return [pa.array(cells, pa.large_string()) for cells in zip(*rows, strict=True)]


def _block_column(block: list[Any], number: int) -> Any:
    """One column of a block; blank where the block is narrower than the table became."""
    if number < len(block):
        return block[number]
    return pa.array([""] * (len(block[0]) if block else 0), pa.large_string())
