"""Fixed-column text: each entry stands at the same characters of its line, kept with the spaces that fill it up."""

from contextlib import suppress
from itertools import islice
from pathlib import Path

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
import pyarrow.csv as pa_csv

from rowtag.core.column import Column, column_of_texts
from rowtag.core.errors import BadInput, Place
from rowtag.core.words import counted
from rowtag.formats.rows import framed, with_heads, without_below
from rowtag.formats.table import (
    MOST_BELOW,
    PICTURE_CELL,
    PICTURE_ROWS,
    FixedField,
    Picture,
    Settings,
    Table,
    Watch,
    each_column,
    part_of,
)
from rowtag.formats.text import SAMPLE, Bytes, Lines, Text, begin_of, last_filled

_NEVER = "\x1f"
"""A separator that text files do not hold; a file that does is read line by line."""


class FixedReader:
    """Reads text in fixed columns. The picture shows whole lines; fields say where they are cut."""

    def __init__(self, path: Path, name: str) -> None:
        self.name = name
        self.text = Text(path, name)

    def close(self) -> None:
        """Lets go of the file."""
        self.text.close()

    def guess(self) -> Settings:
        """Encoding, and fields where blanks stand above each other in all first lines."""
        encoding = self.text.guess_encoding()
        settings = Settings(kind="fixed", encoding=encoding)
        return self.heads(settings.model_copy(update={"fields": guess_fields(self._first(settings))}))

    def heads(self, settings: Settings) -> Settings:
        """The same settings with names and begin of the data guessed; none where there is but one field."""
        if len(settings.fields) < 2 or any(field.name for field in settings.fields):
            return settings.model_copy(update={"names_row": None, "data_row": 1})
        return with_heads(settings, [cut(line, settings.fields) for line in self._first(settings)])

    def picture(self, settings: Settings) -> Picture:
        """The first lines, whole, each as one cell."""
        lines = self._first(settings)
        return Picture(settings, [[line[: PICTURE_CELL * 5]] for line in lines], len(settings.fields))

    def _first(self, settings: Settings) -> list[str]:
        head = self.text.head(settings.encoding).encode()
        stop = len(head) if len(self.text.bytes) <= SAMPLE else head.rfind(b"\n") + 1 or len(head)
        return [line.rstrip("\r\n") for line in islice(Lines(head, 0, stop), PICTURE_ROWS)]

    def read(self, settings: Settings, watch: Watch) -> Table:
        """All entries: the characters of each field, spaces included; beyond the end of a line they are blank."""
        watch(0.0, "reading")
        if not settings.fields:
            raise BadInput(
                "Nobody has said where the fields of this file begin.",
                remedy="Set breaks in the picture of its lines, or take the widths from a codebook.",
                where=Place(self.name),
            )
        data = self.text.utf8(settings.encoding)
        top = Lines(data, begin_of(data))
        heads = [cut(line, settings.fields) for line in islice(top, settings.first_data_row - 1)]
        stop = last_filled(data, top.offset, b" \t") if settings.blank_rows == "leave out" else len(data)
        lines = _lines(data, top.offset, stop, keep_blank=settings.blank_rows == "keep")
        foot = [cut(line, settings.fields) for line in lines[-2 * MOST_BELOW :].to_pylist()]
        head = [cut(line, settings.fields) for line in lines[:PICTURE_ROWS].to_pylist()]
        settings, records = without_below(settings, head, foot, len(lines))
        lines = lines[:records]
        self.text.rest()
        watch(0.4, "reading")

        def column(field: FixedField) -> Column:
            return column_of_texts(pc.utf8_slice_codeunits(lines, field.start - 1, field.start - 1 + field.width))

        columns = each_column(column, settings.fields, records, part_of(watch, 0.4, 1), "reading")
        called = [field.name for field in settings.fields]
        return framed(settings, heads, columns, records, _beyond(lines, settings.fields), foot, called)


def cut(line: str, fields: tuple[FixedField, ...]) -> list[str]:
    """A line as its fields."""
    line = line.rstrip("\r\n")
    return [line[field.start - 1 : field.start - 1 + field.width] for field in fields]


def guess_fields(lines: list[str]) -> tuple[FixedField, ...]:
    """Fields that begin behind each run of blanks common to the lines; one field where there is none.

    Lines shorter than half of the longest (titles, remarks) do not count.
    """
    longest = max((len(line) for line in lines), default=0)
    usual = [line for line in lines if len(line) >= longest / 2]
    if not longest:
        return ()
    filled = np.zeros(longest, bool)
    for line in usual:
        filled |= np.array([not character.isspace() for character in line.ljust(longest)])
    begins = [0] + [at for at in range(1, longest) if filled[at] and not filled[at - 1]]
    begins = begins[1:] if len(begins) > 1 and not filled[: begins[1]].any() else begins
    begins[0] = 0
    return fields_from(begins, longest)


def fields_from(begins: list[int], end: int) -> tuple[FixedField, ...]:
    """Fields that touch each other, from where each begins (characters from 0) and where the last ends."""
    return tuple(
        FixedField(start=begin + 1, width=after - begin)
        for begin, after in zip(begins, [*begins[1:], max(end, begins[-1] + 1)], strict=True)
    )


def _lines(data: Bytes, start: int, stop: int, *, keep_blank: bool) -> pa.ChunkedArray:
    """The lines of the data as Arrow texts."""
    if start < stop and data.find(_NEVER.encode(), start, stop) < 0:
        with suppress(pa.ArrowInvalid):
            return pa_csv.read_csv(
                pa.BufferReader(pa.py_buffer(data).slice(start, stop - start)),
                pa_csv.ReadOptions(autogenerate_column_names=True, block_size=4 << 20),
                pa_csv.ParseOptions(delimiter=_NEVER, quote_char=False, ignore_empty_lines=not keep_blank),
                pa_csv.ConvertOptions(default_column_type=pa.string(), null_values=[], strings_can_be_null=False),
            ).column(0)
    lines = (line.rstrip("\r\n") for line in Lines(data, start, stop))
    return pa.chunked_array([pa.array([line for line in lines if line or keep_blank], pa.string())])


def _beyond(lines: pa.ChunkedArray, fields: tuple[FixedField, ...]) -> list[str]:
    """A note where lines go on behind the last field."""
    end = max(field.start - 1 + field.width for field in fields)
    rest = pc.utf8_trim_whitespace(pc.utf8_slice_codeunits(lines, end, None)) if len(lines) else lines
    longer = np.flatnonzero(pc.not_equal(rest, "").to_numpy())
    if not longer.size:
        return []
    said = ", ".join(f"{at + 1:,}" for at in longer[:5].tolist()) + ("…" if longer.size > 5 else "")
    goes = counted(longer.size, "record goes", "records go")
    return [f"{goes} on behind the last field (record {said}); what stands there is not brought in"]
