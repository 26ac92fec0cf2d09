"""Parquet: columns with types of their own become entries, spelled like the cells of a workbook."""

import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
import pyarrow.parquet as pq

from rowtag.core.column import Column, column_of_texts
from rowtag.core.errors import Place, TooLarge, UnreadableFile
from rowtag.formats.rows import framed
from rowtag.formats.table import MOST_COLUMNS, PICTURE_ROWS, Picture, Settings, Table, Watch
from rowtag.formats.workbook import column_of_distinct, entry_of

_DAMAGED = (pa.ArrowException, OSError, ValueError, OverflowError)


class ParquetReader:
    """Reads a Parquet file; its columns have names, so that all its rows are data."""

    def __init__(self, path: Path, name: str) -> None:
        self.name = name
        try:
            self._file = pq.ParquetFile(path, memory_map=True)
        except (pa.ArrowInvalid, OSError) as error:
            raise UnreadableFile(
                "This is no readable Parquet file; it may be damaged or cut short.",
                remedy="Make it anew, or save the data as .csv.",
                where=Place(name),
                details=[str(error)],
            ) from None

    def close(self) -> None:
        """Lets go of the file."""
        self._file.close()

    def guess(self) -> Settings:
        """There is nothing to guess."""
        return Settings(kind="parquet", names_row=1, data_row=2)

    def heads(self, settings: Settings) -> Settings:
        """There is nothing to guess."""
        return settings

    def picture(self, settings: Settings) -> Picture:
        """The names and the first records."""
        try:
            batch = next(self._file.iter_batches(batch_size=PICTURE_ROWS - 1), None)
            columns = [] if batch is None else [[entry_of(cell) for cell in _cells(column)] for column in batch.columns]
        except _DAMAGED:
            raise self._damaged(None) from None
        rows = [list(row) for row in zip(*columns, strict=True)]
        return Picture.of(settings, [self._file.schema_arrow.names, *rows])

    def read(self, settings: Settings, watch: Watch) -> Table:
        """All entries, column by column."""
        names = self._file.schema_arrow.names
        if len(names) > MOST_COLUMNS:
            raise TooLarge(
                f"{len(names):,} columns are more than the {MOST_COLUMNS:,} allowed.", where=Place(self.name)
            )
        columns = []
        for number, name in enumerate(names):
            watch(number / len(names), "reading")
            try:
                columns.append(column_of_values(self._file.read([name]).column(0)))
            except _DAMAGED:
                raise self._damaged(name) from None
        records = self._file.metadata.num_rows
        return framed(settings.model_copy(update={"rows_below": 0}), [names], columns, records, [], [])

    def _damaged(self, column: str | None) -> UnreadableFile:
        return UnreadableFile(
            f"{'The file' if column is None else 'This column'} cannot be read; the file may be damaged.",
            remedy="Make it anew, or save the data as .csv.",
            where=Place(self.name, column=column),
        )


def column_of_values(values: pa.ChunkedArray) -> Column:
    """A column from Arrow values of any type; texts as they are, others spelled once per distinct value."""
    kind = values.type.value_type if pa.types.is_dictionary(values.type) else values.type
    if pa.types.is_string(kind) or pa.types.is_large_string(kind):
        return column_of_texts(pc.fill_null(values.cast(pa.large_string()), ""))
    if pa.types.is_nested(kind) or pa.types.is_dictionary(values.type):
        return column_of_texts(pa.array([entry_of(cell) for cell in _cells(values)], pa.large_string()))
    encoded = pc.dictionary_encode(values, null_encoding="encode").combine_chunks()
    encoded = encoded.chunk(0) if isinstance(encoded, pa.ChunkedArray) and encoded.num_chunks else encoded
    if not len(encoded):
        return column_of_texts([])
    indexes = encoded.indices.to_numpy(zero_copy_only=False).astype(np.int64)
    return column_of_distinct(indexes, _cells(encoded.dictionary))


def _cells(values: Any) -> list[Any]:
    """Arrow values as cells: nested ones as JSON text, bytes as text, 32-bit numbers as they were written."""
    spell: Callable[[Any], Any] | None = None
    if pa.types.is_nested(values.type):
        spell = lambda cell: None if cell is None else json.dumps(cell, ensure_ascii=False, default=str)  # noqa: E731
    elif pa.types.is_binary(values.type) or pa.types.is_large_binary(values.type):
        spell = lambda cell: None if cell is None else cell.decode("utf-8", "replace")  # noqa: E731
    elif pa.types.is_float32(values.type) or pa.types.is_float16(values.type):
        spell = lambda cell: None if cell is None else float(f"{cell:.7g}")  # noqa: E731
    elif pa.types.is_timestamp(values.type) and values.type.unit == "ns":
        values = values.cast(pa.timestamp("us", values.type.tz), safe=False)
    listed: list[Any] = values.to_pylist()
    return listed if spell is None else [spell(cell) for cell in listed]
