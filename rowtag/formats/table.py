"""What every reader of a table gives, and the one way to choose a reader."""

from collections.abc import Callable, Iterable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from pathlib import Path
from typing import Annotated, Any, Literal, Protocol

from pydantic import Field

from rowtag.core.column import Column
from rowtag.core.errors import Cancelled
from rowtag.core.tag import Frozen

PICTURE_ROWS = 12
"""Rows shown before a file is accepted."""
PICTURE_COLUMNS = 200
"""Columns shown before a file is accepted."""
PICTURE_CELL = 200
"""Characters of an entry shown before a file is accepted."""


class Settings(Frozen):
    """How a file is read. `names_row` counts from 1; without one, columns get names of their own."""

    kind: Literal["delimited", "workbook"] = "delimited"
    separator: Annotated[str, Field(min_length=1, max_length=1)] = ","
    encoding: str = "utf-8"
    sheet: str | None = None
    names_row: Annotated[int, Field(ge=1)] | None = 1


@dataclass(frozen=True)
class Table:
    """A table as read: column heads as they stand, one column of entries each, and how many records.

    `notes` say what had to be done to make it a table.
    """

    heads: list[str]
    columns: list[Column]
    records: int
    notes: list[str] = field(default_factory=list)


@dataclass(frozen=True)
class Picture:
    """The first rows of a file as they stand, what could be chosen, and how the file would be read."""

    settings: Settings
    rows: list[list[str]]
    width: int
    sheets: list[str] = field(default_factory=list)


class Watch(Protocol):
    """Told how far long work is (0 to 1); raises Cancelled when the user stopped it."""

    def __call__(self, share: float, doing: str) -> None: ...


def unwatched(share: float, doing: str) -> None:
    """Nobody watches."""


class Reader(Protocol):
    """One way to read files."""

    def guess(self, path: Path, name: str) -> Settings:
        """How this file is probably written."""
        ...

    def picture(self, path: Path, name: str, settings: Settings) -> Picture:
        """The first rows."""
        ...

    def read(self, path: Path, name: str, settings: Settings, watch: Watch) -> Table:
        """All entries."""
        ...


def on_both_cores(work: Callable[[Any], Any], items: Iterable[Any], watch: Watch, doing: str) -> list[Any]:
    """The results of `work` on each item, in order; Arrow's kernels run side by side."""
    items = list(items)
    out = []
    with ThreadPoolExecutor(2) as pool:
        futures = [pool.submit(work, item) for item in items]
        try:
            for number, future in enumerate(futures, 1):
                out.append(future.result())
                watch(number / len(items), doing)
        except (Cancelled, Exception):
            for future in futures:
                future.cancel()
            raise
    return out
