"""Intake: what a file is, what it holds, and what each column looks like. Screen and command line share this."""

import threading
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace
from functools import cached_property
from importlib import import_module
from pathlib import Path
from typing import Literal

from rowtag.core.column import Column
from rowtag.core.errors import UnreadableFile
from rowtag.core.names import working_names
from rowtag.core.propose import Proposal, propose
from rowtag.core.study import Origin, Records, Study, Variable
from rowtag.core.tag import Marks, Type
from rowtag.formats.table import Picture, Reader, Settings, Table, Watch, each_column, part_of, unwatched

Kind = Literal["delimited", "fixed", "workbook", "parquet"]

READERS: dict[Kind, str] = {
    "delimited": "DelimitedReader",
    "fixed": "FixedReader",
    "workbook": "WorkbookReader",
    "parquet": "ParquetReader",
}
"""All readers under the kind that settings name, which is the name of their module, too. Each is loaded with the first
file of its kind: who reads text waits for no library of workbooks."""

_TEXT = (".csv", ".tsv", ".tab", ".txt", ".dat", ".asc")
ENDINGS: dict[str, Kind] = {
    **dict.fromkeys(_TEXT, "delimited"),
    **dict.fromkeys((".xlsx", ".xlsm", ".xlsb", ".xls", ".ods"), "workbook"),
    ".parquet": "parquet",
}
PACKED = ".gz"
"""The ending of packed text; the ending before it says what is packed."""


def column_id(number: int) -> str:
    """The id that a column of a file (from 1) has as a variable, until it is brought in."""
    return f"column-{number}"


@dataclass(frozen=True)
class Holding:
    """What a file holds: its table, and per column a proposal under a working name."""

    table: Table
    proposals: list[Proposal]

    @cached_property
    def study(self) -> Study:
        """A study that holds the file as it was proposed, with its columns in their order."""
        columns = zip(self.proposals, self.table.columns, self.table.heads, strict=True)
        variables = [
            (column_id(at), Variable(tag=each.tag, origin=Origin(kind="source", column=at, name=head)), column)
            for at, (each, column, head) in enumerate(columns, 1)
        ]
        return Study(records=Records(self.table.records)).with_variables(variables)

    def proposal(self, number: int, kind: Type | None = None, marks: Marks | None = None) -> Proposal:
        """The proposal for a column (from 1), made anew where a type or marks are given."""
        before, column = self.proposals[number - 1], self.table.columns[number - 1]
        if (kind is None or kind == before.tag.type) and marks is None:
            return before
        tag = before.tag
        counts = column.counts(None, self.table.records)
        kind, first = kind or tag.type, number == 1
        return propose(column, counts, tag.name, tag.label, tag.question, kind=kind, marks=marks, first=first)


class Opened:
    """A file that somebody looks at. What was read of it is kept, so that a look again costs little."""

    def __init__(self, path: Path, name: str) -> None:
        self.path = path
        self.name = name
        self._readers: dict[Kind, Reader] = {}
        self._held: tuple[Settings, Holding] | None = None
        self._lock = threading.Lock()

    def close(self) -> None:
        """Lets go of everything."""
        self._held = None
        for reader in self._readers.values():
            reader.close()
        self._readers.clear()

    def rest(self) -> None:
        """Lets go of entries that were read, not of the file."""
        self._held = None
        self._readers.pop("workbook", None)

    def guess(self, kind: Kind | None = None) -> Settings:
        """How this file is probably to be read, by its ending and what it holds (or as one kind)."""
        wanted = kind or kind_of(self.name)
        settings = self._reader(wanted).guess()
        if kind is None and wanted == "delimited" and self._looks_fixed(settings):
            fixed = self._reader("fixed").guess()
            return fixed if len(fixed.fields) > 1 else settings
        return settings

    def heads(self, settings: Settings) -> Settings:
        """The same settings with names, wordings and begin of the data guessed anew."""
        return self._reader(settings.kind).heads(settings)

    def picture(self, settings: Settings) -> Picture:
        """The first rows."""
        return self._reader(settings.kind).picture(settings)

    def read(self, settings: Settings, watch: Watch = unwatched) -> Holding:
        """All entries and a proposal for each column; what was read last is kept."""
        with self._lock:
            if self._held is None or self._held[0] != settings:
                self._held = None
                self._held = settings, _holding(self._reader(settings.kind), settings, watch)
            return self._held[1]

    def table(self, settings: Settings) -> Table:
        """All entries, without proposals."""
        return self._reader(settings.kind).read(settings, unwatched)

    def _reader(self, kind: Kind) -> Reader:
        if kind not in self._readers:
            reader: type[Reader] = getattr(import_module(f"rowtag.formats.{kind}"), READERS[kind])
            self._readers[kind] = reader(self.path, self.name)
        return self._readers[kind]

    def _looks_fixed(self, settings: Settings) -> bool:
        """Whether text stands in columns: nothing separates it, or its lines are of one length to the character."""
        if settings.separator != " ":
            return self.picture(settings).width <= 1
        lines = [row[0] for row in self._reader("fixed").picture(Settings(kind="fixed")).rows if row[0].strip()]
        return len(lines) > 2 and len({len(line) for line in lines}) == 1 and settings.runs


def kind_of(name: str) -> Kind:
    """The kind of file that a name's ending tells."""
    path = Path(name.lower())
    ending = Path(path.stem).suffix or ".txt" if path.suffix == PACKED else path.suffix
    kind = ENDINGS.get(ending)
    if kind is None or (path.suffix == PACKED and kind != "delimited"):
        known = ", ".join([*ENDINGS, ".csv.gz"])
        raise UnreadableFile(
            f"“{name}” has an ending Row Tag does not read.", remedy=f"It reads {known}; save the data as one of these."
        )
    return kind


@contextmanager
def opened(path: Path, name: str) -> Iterator[Opened]:
    """A file, opened for a while."""
    file = Opened(path, name)
    try:
        yield file
    finally:
        file.close()


def guess(path: Path, name: str) -> Settings:
    """How a file is probably to be read."""
    with opened(path, name) as file:
        return file.guess()


def read(path: Path, name: str, settings: Settings, watch: Watch = unwatched) -> Holding:
    """All entries of a file and a proposal for each column."""
    with opened(path, name) as file:
        return file.read(settings, watch)


def _holding(reader: Reader, settings: Settings, watch: Watch) -> Holding:
    table = reader.read(settings, part_of(watch, 0, 0.5))
    names = working_names(table.heads)
    renamed = [
        f"“{head}” is called {new}" if head.strip() else f"column {number}, which has no name, is called {new}"
        for number, (head, new) in enumerate(zip(table.heads, names, strict=True), 1)
        if head.strip() != new
    ]
    if renamed and any(head.strip() for head in table.heads):
        shown = "; ".join(renamed[:5]) + (f"; and {len(renamed) - 5:,} more" if len(renamed) > 5 else "")
        table = replace(table, notes=[*table.notes, shown])

    def proposal(item: tuple[int, str, str, str, Column]) -> Proposal:
        number, head, new, wording, column = item
        label = wording.strip() if head.strip() == new else head.strip()
        counts = column.counts(None, table.records)
        return propose(column, counts, new, label, wording.strip(), first=number == table.numbers[0])

    items = zip(table.numbers, table.heads, names, table.wordings, table.columns, strict=True)
    proposals = each_column(proposal, items, table.records, part_of(watch, 0.5, 1), "proposing tags")
    return Holding(table, proposals)
