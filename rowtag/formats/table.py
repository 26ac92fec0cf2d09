"""What every reader of a table gives, how files are read, and how long work is watched."""

from collections.abc import Callable, Iterable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from functools import partial
from pathlib import Path
from typing import Annotated, Any, Literal, Protocol

from pydantic import Field

from rowtag.core.column import Column
from rowtag.core.tag import Frozen

PICTURE_ROWS = 40
"""Rows shown before a file is accepted; heads and titles are looked for among them."""
PICTURE_COLUMNS = 200
"""Columns shown before a file is accepted."""
PICTURE_CELL = 200
"""Characters of an entry shown before a file is accepted."""
FOOT_ROWS = 6
"""Rows shown from the end of a file."""
MOST_COLUMNS = 20_000
MOST_BELOW = 100
"""Rows at the end that can be left out."""

RowNumber = Annotated[int, Field(ge=1, le=1_000)]


class FixedField(Frozen):
    """A field of fixed-column text: where it starts (characters, from 1), how wide it is, and its name if known."""

    start: Annotated[int, Field(ge=1, le=1_000_000)]
    width: Annotated[int, Field(ge=1, le=1_000_000)]
    name: Annotated[str, Field(max_length=200)] = ""


class Settings(Frozen):
    """How a file is read.

    `runs`: several separators in a row count as one. `quote`: what encloses entries; empty where quotes mean
    nothing. `comment`: lines that begin with it are no rows. `range` is a range of cells such as B3:H200.
    Rows count from 1, in the range; blank ones count too. Without `names_row` columns get names of their own;
    without `data_row` the data begin behind the heads. `rows_below` are left out at the end, blank ones not
    counted; None leaves them to Row Tag, which says how many it took for no data.
    """

    kind: Literal["delimited", "fixed", "workbook", "parquet"] = "delimited"
    separator: Annotated[str, Field(min_length=1, max_length=1)] = ","
    runs: bool = False
    quote: Literal['"', "'", ""] = '"'
    comment: Annotated[str, Field(max_length=8)] = ""
    encoding: str = "utf-8"
    fields: tuple[FixedField, ...] = ()
    sheet: str | None = None
    range: Annotated[str, Field(max_length=40)] = ""
    names_row: RowNumber | None = 1
    wordings_row: RowNumber | None = None
    data_row: RowNumber | None = None
    rows_below: Annotated[int, Field(ge=0, le=MOST_BELOW)] | None = 0
    blank_rows: Literal["leave out", "keep"] = "leave out"

    @property
    def first_data_row(self) -> int:
        """The row with which the data begin."""
        return self.data_row or max(self.names_row or 0, self.wordings_row or 0) + 1


@dataclass(frozen=True)
class Table:
    """A table as read: column heads and wordings as they stand, one column of entries each, how many records.

    `numbers` are the columns' numbers in the file (from 1); `notes` say what had to be done to make it a table;
    `foot` holds the last rows of the file, of which `settings.rows_below` were left out.
    """

    settings: Settings
    heads: list[str]
    columns: list[Column]
    records: int
    numbers: list[int]
    wordings: list[str] = field(default_factory=list)
    notes: list[str] = field(default_factory=list)
    foot: list[list[str]] = field(default_factory=list)


@dataclass(frozen=True)
class Picture:
    """The first rows of a file as they stand, what could be chosen, and how the file would be read.

    `first_row` is the number that the first row has in its sheet. `tables` are the ranges of the tables on it, where
    there are several. `problem` says what is wrong with these rows, where they could only be shown line by line.
    """

    settings: Settings
    rows: list[list[str]]
    width: int
    sheets: list[str] = field(default_factory=list)
    first_row: int = 1
    tables: list[str] = field(default_factory=list)
    problem: str = ""

    @classmethod
    def of(cls, settings: Settings, rows: Sequence[Sequence[str]], **more: Any) -> "Picture":
        """A picture of these rows, cut to what is shown."""
        width = max((len(row) for row in rows), default=0)
        shown = [[cell[:PICTURE_CELL] for cell in row[:PICTURE_COLUMNS]] for row in rows[:PICTURE_ROWS]]
        return cls(settings, shown, width, **more)


class Watch(Protocol):
    """Told how far long work is (0 to 1); raises Cancelled when the user stopped it."""

    def __call__(self, share: float, doing: str) -> None: ...


def unwatched(share: float, doing: str) -> None:
    """Nobody watches."""


class Reader(Protocol):
    """A file opened to be read one way. What it has read it may keep until it is closed."""

    def __init__(self, path: Path, name: str) -> None: ...

    def guess(self) -> Settings:
        """How this file is probably written."""
        ...

    def heads(self, settings: Settings) -> Settings:
        """The same settings with names, wordings and begin of the data guessed anew."""
        ...

    def picture(self, settings: Settings) -> Picture:
        """The first rows."""
        ...

    def read(self, settings: Settings, watch: Watch) -> Table:
        """All entries."""
        ...

    def close(self) -> None:
        """Lets go of what was kept."""
        ...


LONG_COLUMN = 6_000
"""Entries from which on two columns side by side are quicker than one after the other: Arrow's kernels then take
longer than what the interpreter does between them."""


def each_column(work: Callable[[Any], Any], items: Iterable[Any], records: int, watch: Watch, doing: str) -> list[Any]:
    """The results of `work` on each of some columns of so many records, in order; on both cores where they are long."""
    items = list(items)
    with ThreadPoolExecutor(2) as pool:
        long = records >= LONG_COLUMN
        waiting = [pool.submit(work, item).result if long else partial(work, item) for item in items]
        out = []
        try:
            for number, result in enumerate(waiting, 1):
                out.append(result())
                watch(number / len(items), doing)
        finally:
            pool.shutdown(cancel_futures=True)  # where one failed, or nobody waits any more
    return out


def part_of(watch: Watch, low: float, high: float) -> Watch:
    """A watch for a piece of the work that reaches from `low` to `high`."""
    return lambda share, doing: watch(low + share * (high - low), doing)
