"""Intake: what a file is, what it holds, and what each column looks like. Screen and command line share this."""

from dataclasses import dataclass, replace
from pathlib import Path

from rowtag.core.column import Column
from rowtag.core.errors import UnreadableFile
from rowtag.core.names import working_names
from rowtag.core.propose import Proposal, plain_lens, propose
from rowtag.core.reading import State, read_column
from rowtag.formats.delimited import DelimitedReader
from rowtag.formats.table import Picture, Reader, Settings, Table, Watch, on_both_cores, unwatched
from rowtag.formats.workbook import WorkbookReader

READERS: dict[str, Reader] = {"delimited": DelimitedReader(), "workbook": WorkbookReader()}
"""All readers under the kind that settings name."""

ENDINGS = {
    ".csv": "delimited",
    ".tsv": "delimited",
    ".tab": "delimited",
    ".txt": "delimited",
    ".xlsx": "workbook",
    ".xlsm": "workbook",
    ".ods": "workbook",
}


@dataclass(frozen=True)
class Holding:
    """What a file holds: its table, and per column a proposal under a working name."""

    table: Table
    proposals: list[Proposal]

    def blanks(self, column: Column) -> int:
        """Entries of a column that read as blank."""
        states = read_column(column, plain_lens("text")).states
        return int(column.counts(None, self.table.records)[states == State.BLANK].sum())


def guess(path: Path, name: str) -> Settings:
    """How a file is probably to be read, by its ending and what it holds."""
    kind = ENDINGS.get(Path(name).suffix.lower())
    if kind is None:
        known = ", ".join(ENDINGS)
        raise UnreadableFile(
            f"“{name}” has an ending Row Tag does not read.", remedy=f"It reads {known}; save the data as one of these."
        )
    return READERS[kind].guess(path, name)


def picture(path: Path, name: str, settings: Settings) -> Picture:
    """The first rows of a file."""
    return READERS[settings.kind].picture(path, name, settings)


def read(path: Path, name: str, settings: Settings, watch: Watch = unwatched) -> Holding:
    """All entries of a file and a proposal for each column."""
    table = READERS[settings.kind].read(path, name, settings, lambda share, doing: watch(share * 0.5, doing))
    names = working_names(table.heads)
    renamed = [f"“{head}” is called {new}" for head, new in zip(table.heads, names, strict=True) if head != new]
    if renamed:
        shown = "; ".join(renamed[:5]) + (f"; and {len(renamed) - 5:,} more" if len(renamed) > 5 else "")
        table = replace(table, notes=[*table.notes, shown])

    def proposal(item: tuple[str, str, Column]) -> Proposal:
        head, new, column = item
        label = "" if head == new else head.strip()
        return propose(column, column.counts(None, table.records), new, label)

    items = zip(table.heads, names, table.columns, strict=True)
    proposals = on_both_cores(proposal, items, lambda share, doing: watch(0.5 + share * 0.5, doing), "proposing tags")
    return Holding(table, proposals)
