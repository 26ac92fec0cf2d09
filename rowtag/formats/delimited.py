"""Delimited text, read to the letter: Arrow splits it where it can, an exact reader where it cannot."""

import csv
import re
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass
from itertools import islice, pairwise
from pathlib import Path
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.csv as pa_csv

from rowtag.core.column import Column, column_of_texts
from rowtag.core.errors import Place, TooLarge, UnreadableFile
from rowtag.formats.rows import framed, guess_below, with_heads
from rowtag.formats.table import (
    MOST_BELOW,
    MOST_COLUMNS,
    PICTURE_ROWS,
    Picture,
    Settings,
    Table,
    Watch,
    each_column,
    part_of,
)
from rowtag.formats.text import SAMPLE, Bytes, Lines, Text, begin_of, last_filled

SEPARATORS = {",": "comma", ";": "semicolon", "\t": "tab", "|": "bar"}
"""Separators that are told from the file at once; others where none of these is."""
_RARER = (" ", ":", "^", "~")
_EVEN = 0.9
"""Share of lines that a rarer separator must split alike."""
_BLOCK_ROWS = 20_000
_BLOCK = 1 << 20
_SLICE = 64 << 20
"""Bytes that Arrow splits at once, between two reports of progress."""

csv.field_size_limit(1 << 30)


@dataclass(frozen=True)
class Line:
    """One row as it stands: its cells (none where it is blank), the line it begins on, the offset it begins at.

    A comment is a row of one cell that is never data.
    """

    cells: list[str]
    line: int
    begin: int
    comment: bool = False


class DelimitedReader:
    """Reads text whose entries are separated by a character."""

    def __init__(self, path: Path, name: str) -> None:
        self.name = name
        self.text = Text(path, name)

    def close(self) -> None:
        """Lets go of the file."""
        self.text.close()

    def guess(self) -> Settings:
        """Encoding, separator, comment sign and heads, judged from the first lines."""
        encoding = self.text.guess_encoding()
        head = self.text.head(encoding)
        comment = "#" if head.startswith("#") and _commented(head) else ""
        separator, runs = _guess_separator(head, comment)
        return self.heads(Settings(separator=separator, runs=runs, encoding=encoding, comment=comment))

    def heads(self, settings: Settings) -> Settings:
        """The same settings with names, wordings and begin of the data guessed from the first rows."""
        return with_heads(settings, [[] if line.comment else line.cells for line in self._first(settings)[0]])

    def picture(self, settings: Settings) -> Picture:
        """The first rows; reads no further. Where they cannot be split they are shown line by line."""
        lines, problem = self._first(settings)
        return Picture.of(settings, [line.cells for line in lines], problem=problem)

    def _first(self, settings: Settings) -> tuple[list[Line], str]:
        """The first rows, and what is wrong with them."""
        head = self.text.head(settings.encoding)
        problem = "Some characters cannot be read so: choose another encoding." if "\ufffd" in head else ""
        data = head.encode()
        whole = len(self.text.bytes) <= SAMPLE
        stop = len(data) if whole else max(data.rfind(b"\n"), data.rfind(b"\r")) + 1 or len(data)
        found: list[Line] = []
        try:
            found.extend(islice(rows_of(data, 0, stop, settings, self.name), PICTURE_ROWS))
        except UnreadableFile as error:
            if whole or len(found) < 3 or "never closed" not in error.what:
                problem = str(error)
                lines = islice(Lines(data, 0, stop), len(found), PICTURE_ROWS)
                found += [Line([line.rstrip("\r\n")], 0, 0) for line in lines]
        return found, problem

    def read(self, settings: Settings, watch: Watch) -> Table:
        """All entries, to the letter. Short rows are filled with blanks, longer ones widen the table."""
        watch(0.0, "reading")
        data = self.text.utf8(settings.encoding)
        rows = rows_of(data, begin_of(data), len(data), settings, self.name)
        heads = [row.cells for row in islice(rows, settings.first_data_row - 1)]
        first = next(rows, None)
        start = len(data) if first is None else first.begin
        for row in (*heads, first.cells if first else []):
            _refuse_wide(len(row), self.name)
        stop = len(data)
        if settings.blank_rows == "leave out":
            stop = last_filled(data, start, b" \t" + settings.separator.encode())
        foot = _foot(data, start, stop, settings, self.name)
        settings, stop = _below(data, start, stop, settings, foot, self.name)

        arrays = _split_fast(data, start, stop, settings, part_of(watch, 0, 0.5))
        notes: list[str] = []
        if arrays is None:
            first_line = first.line if first else 1
            arrays, notes = _split_exactly(data, start, stop, settings, self.name, first_line, part_of(watch, 0, 0.5))
        self.text.rest()
        records = len(arrays[0]) if arrays else 0
        width = max(len(arrays), *(len(heads[at - 1]) for at in _named(settings) if at <= len(heads)), 0)
        _refuse_wide(width, self.name)
        arrays += [pa.nulls(records, pa.string()).fill_null("")] * (width - len(arrays))

        def column(number: int) -> Column:
            array, arrays[number] = arrays[number], None  # so that its memory can go
            return column_of_texts(array)

        columns = each_column(column, range(width), records, part_of(watch, 0.5, 1), "reading")
        return framed(settings, heads, columns, records, notes, [line.cells for line in foot])


def _refuse_wide(width: int, name: str) -> None:
    if width > MOST_COLUMNS:
        raise TooLarge(
            f"{width:,} columns are more than the {MOST_COLUMNS:,} allowed.",
            remedy="Choose another separator, or leave out columns you do not need.",
            where=Place(name),
        )


def _named(settings: Settings) -> list[int]:
    """The rows that hold heads."""
    return [row for row in (settings.names_row, settings.wordings_row) if row]


# Guessing ---------------------------------------------------------------------------------------


def _commented(head: str) -> bool:
    """Whether the first lines are comments, and not names that begin with #."""
    lines = [line for line in head.splitlines()[:PICTURE_ROWS] if line.strip()]
    plain = [line for line in lines if not line.startswith("#")]
    return len(plain) >= 2


def _guess_separator(head: str, comment: str) -> tuple[str, bool]:
    """The separator that splits the first lines most evenly into most entries, and whether runs of it count once.

    A rarer one is taken only where it splits nearly all lines alike, and more evenly than the usual ones.
    """
    lines = [line for line in head.splitlines()[:PICTURE_ROWS] if not (comment and line.startswith(comment))]
    best, score, runs = ",", (0.0, 0), False
    decimal = not re.search(r"(^|\D),|,(\D|$)", "\n".join(lines))  # commas only between digits are decimal marks
    for separator in SEPARATORS:
        here = _evenness(lines, separator, False)
        if here > score or (decimal and best == "," and here[0] >= _EVEN):
            best, score = separator, here
    for rarer in _RARER if score[0] < _EVEN else ():
        for together in (False, True) if rarer == " " else (False,):
            here = _evenness(lines, rarer, together)
            if here[0] >= _EVEN and here > score:
                best, score, runs = rarer, here, together
    return best, runs


def _evenness(lines: list[str], separator: str, runs: bool) -> tuple[float, int]:
    """The share of lines with the usual number of entries, and that number."""
    try:
        rows = [row for row in csv.reader(lines, delimiter=separator, skipinitialspace=runs) if row]
    except csv.Error:
        return 0.0, 0
    widths = [len(row) - (runs and row[-1] == "") for row in rows]
    several = [width for width in widths if width > 1]
    if not several:
        return 0.0, 0
    usual = max(set(several), key=lambda width: (several.count(width), width))
    return widths.count(usual) / len(widths), usual


# The exact way ----------------------------------------------------------------------------------


def rows_of(data: Bytes, start: int, stop: int, settings: Settings, name: str, first_line: int = 1) -> Iterator[Line]:
    """Row after row, to the letter, blank ones and comments too."""
    lines = Lines(data, start, stop)
    reader = csv.reader(
        lines,
        delimiter=settings.separator,
        quotechar=settings.quote or None,
        quoting=csv.QUOTE_MINIMAL if settings.quote else csv.QUOTE_NONE,
        skipinitialspace=settings.runs,
        strict=True,
    )
    while (upcoming := lines.peek()) is not None:
        line, begin = first_line + lines.count, lines.offset
        if settings.comment and upcoming.startswith(settings.comment):
            next(lines)
            yield Line([upcoming.rstrip("\r\n")], line, begin, comment=True)
            continue
        try:
            cells = next(reader)
        except csv.Error as error:
            raise _cannot_split(str(error), upcoming, line, settings, name) from None
        if settings.runs and cells and cells[-1] == "":
            cells.pop()
        yield Line(cells, line, begin)


def _cannot_split(error: str, line: str, number: int, settings: Settings, name: str) -> UnreadableFile:
    """What the exact reader stumbled over in the row that begins with this line."""
    opened = len(next(csv.reader([line], delimiter=settings.separator, quotechar=settings.quote or None), [""]))
    if "unexpected end" in error:
        what = "A quote is opened and never closed."
    elif "expected after" in error:
        what = "Text follows a closing quote in the same entry."
    else:
        what = f"The line cannot be split into entries ({error})."
    return UnreadableFile(
        what,
        remedy="Close the quote or double quotes that belong to the text, or say that quotes mean nothing.",
        where=Place(name, row=number, column=str(opened)),
    )


def _split_exactly(
    data: Bytes, start: int, stop: int, settings: Settings, name: str, first_line: int, watch: Watch
) -> tuple[list[Any], list[str]]:
    """All columns by the exact reader, in blocks of rows, and what had to be mended."""
    keep_blank = settings.blank_rows == "keep"
    width, usual, blocks, pending, uneven, rows = 0, 0, [], [], [], 0
    for line in rows_of(data, start, stop, settings, name, first_line):
        if line.comment or not (line.cells or keep_blank):
            continue
        cells = line.cells or [""]
        usual = usual or len(cells)
        if len(cells) != usual and line.cells:
            uneven.append(line.line)
        width = max(width, len(cells))
        _refuse_wide(width, name)
        pending.append(cells)
        rows += 1
        if len(pending) == _BLOCK_ROWS:
            watch((line.begin - start) / (stop - start), "reading")
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


# Where the data end -----------------------------------------------------------------------------


def _foot(data: Bytes, start: int, stop: int, settings: Settings, name: str) -> list[Line]:
    """The last rows before `stop`, with the offsets they begin at; none where they cannot be told."""
    at = max(start, stop - SAMPLE)
    quote = settings.quote.encode()
    while at > start:
        at = data.find(b"\n", at, stop) + 1
        if not at:
            return []
        if not quote or data[at:stop].count(quote) % 2 == 0:
            break
    try:
        return list(rows_of(data, at, stop, settings, name))[-(MOST_BELOW * 2) :]
    except (UnreadableFile, UnicodeDecodeError):
        return []


def _below(data: Bytes, start: int, stop: int, settings: Settings, foot: list[Line], name: str) -> tuple[Settings, int]:
    """Settings that know how many rows below the data are left out, and where the data end."""
    rows = [line for line in foot if not line.comment]
    below = settings.rows_below
    if below is None:
        head = islice(rows_of(data, start, stop, settings, name), PICTURE_ROWS)
        below = guess_below(_readable(head), [line.cells for line in rows])
    filled = [line for line in rows if any(cell.strip() for cell in line.cells)]
    below = min(below, len(filled))
    end = filled[-below].begin if below else stop
    return settings.model_copy(update={"rows_below": below}), end


def _readable(rows: Iterator[Line]) -> list[list[str]]:
    """Rows as far as they can be read."""
    out: list[list[str]] = []
    with suppress(UnreadableFile):  # the reading proper says what is wrong, and where
        out.extend(line.cells for line in rows)
    return out


# The fast way -----------------------------------------------------------------------------------

_AS_TEXTS = pa_csv.ConvertOptions(
    default_column_type=pa.string(),
    null_values=[],
    strings_can_be_null=False,
    quoted_strings_can_be_null=False,
    check_utf8=False,
)
"""Every column is text, and no text means "null". That the bytes are UTF-8 is known."""


def _split_fast(data: Bytes, start: int, stop: int, settings: Settings, watch: Watch) -> list[Any] | None:
    """All columns as Arrow arrays of texts, or None where Arrow would not read to the letter."""
    quote = settings.quote.encode()
    if settings.runs or start >= stop or (settings.comment and _holds_comment(data, start, stop, settings)):
        return None
    quoted = bool(quote) and data.find(quote, start, stop) >= 0
    if quoted and not _well_quoted(data, start, stop, settings):
        return None
    cuts = _cuts(data, start, stop, quote if quoted else b"")
    tables: list[Any] = []
    buffer = pa.py_buffer(data)
    for number, (begin, end) in enumerate(pairwise(cuts)):
        ragged: list[bool] = []

        def note(_row: Any, ragged: list[bool] = ragged) -> str:
            ragged.append(True)
            return "skip"

        try:
            table = pa_csv.read_csv(
                pa.BufferReader(buffer.slice(begin, end - begin)),
                pa_csv.ReadOptions(autogenerate_column_names=True, block_size=4 << 20),
                pa_csv.ParseOptions(
                    delimiter=settings.separator,
                    quote_char=settings.quote or False,
                    newlines_in_values=quoted,
                    ignore_empty_lines=settings.blank_rows == "leave out",
                    invalid_row_handler=note,
                ),
                _AS_TEXTS,
            )
        except pa.ArrowInvalid:
            return None
        if ragged or (tables and table.num_columns != tables[0].num_columns):
            return None
        tables.append(table)
        watch((number + 1) / (len(cuts) - 1), "reading")
    return [
        pa.chunked_array([chunk for table in tables for chunk in table.column(number).chunks], pa.string())
        for number in range(tables[0].num_columns)
    ]


def _holds_comment(data: Bytes, start: int, stop: int, settings: Settings) -> bool:
    sign = settings.comment.encode()
    return data[start : start + len(sign)] == sign or any(
        data.find(end + sign, start, stop) >= 0 for end in (b"\n", b"\r")
    )


def _well_quoted(data: Bytes, start: int, stop: int, settings: Settings) -> bool:
    """Whether every quote opens an entry, closes one, or is doubled within one, and the last one is closed.

    Arrow takes a quote that is never closed, and text behind one that is, without a word.
    """
    quote = ord(settings.quote)
    edges = np.zeros(256, bool)
    edges[[ord("\n"), ord("\r"), quote, *settings.separator.encode()]] = True
    quotes = 0
    for at in range(start, stop, _BLOCK):
        end = min(at + _BLOCK, stop)
        first = at - (at > start)
        here = np.frombuffer(data[first : end + 1 if end < stop else end], np.uint8)
        places = np.flatnonzero(here[at - first : at - first + end - at] == quote) + (at - first)
        opening = (np.arange(places.size) + quotes) % 2 == 0
        before, behind = places[opening] - 1, places[~opening] + 1
        before, behind = before[before >= 0], behind[behind < here.size]
        if not (edges[here[before]].all() and edges[here[behind]].all()):
            return False
        quotes += places.size
    return quotes % 2 == 0


def _cuts(data: Bytes, start: int, stop: int, quote: bytes) -> list[int]:
    """Offsets between rows that cut the data into slices.

    A line end is one between rows where the quotes before it are even in number.
    """
    cuts, at, quotes, block = [start], start, 0, min(_BLOCK, _SLICE)
    while at < stop:
        end = min(at + block, stop)
        if end - cuts[-1] >= _SLICE and end < stop:
            while (end := data.find(b"\n", end, stop) + 1) and quote:
                if (quotes + data[at:end].count(quote)) % 2 == 0:
                    break
            end = end or stop
            cuts.append(end)
        if quote:
            quotes += data[at:end].count(quote)
        at = end
    if cuts[-1] < stop:
        cuts.append(stop)
    return cuts
