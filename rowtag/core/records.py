"""Looking at records: pages of entries with their readings, and where strays stand."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import numpy.typing as npt
import pyarrow.compute as pc

from rowtag.core.frame import Frame
from rowtag.core.reading import State, canonical_code, tidy_one
from rowtag.core.study import Study
from rowtag.core.tokens import large_texts
from rowtag.core.worked_out import entries, reading, worked_out


@dataclass(frozen=True)
class PageColumn:
    """One variable on a page of n records.

    `texts`: distinct entries on the page, as recorded; `index`: per record the number of its entry in
    `texts`. Per entry: `states` (members of `State`), `codes` (canonical), `labels`.
    """

    id: str
    texts: list[str]
    codes: list[str]
    labels: list[str]
    states: list[int]
    index: list[int]


def record_numbers(study: Study, start: int, stop: int) -> npt.NDArray[np.int64]:
    """The record numbers at positions start..stop-1 of the records that are present."""
    present = study.records.present
    if present is None:
        return np.arange(start, min(stop, study.records.arrived)) + 1
    numbers: npt.NDArray[np.int64] = np.flatnonzero(present)[start:stop] + 1
    return numbers


def page_of(study: Study, ids: Sequence[str], numbers: npt.NDArray[np.int64]) -> list[PageColumn]:
    """The entries of some records, for some variables."""
    return [_page_column(study, id, numbers - 1) for id in ids]


def _page_column(study: Study, id: str, rows: npt.NDArray[np.int64]) -> PageColumn:
    column, reading = study.column(id), study.reading(id)
    tokens, index = np.unique(column.tokens_in(rows), return_inverse=True)
    states = reading.states[tokens].tolist()
    lines = reading.lines[tokens].tolist()
    codes, missing = study.codes(id), study.tag(id).missing

    def label(state: int, line: int) -> str:
        if line < 0:
            return ""
        return missing[line].label or missing[line].reason if state == State.MISSING else codes[line].label

    return PageColumn(
        id=id,
        texts=column.texts_at(tokens),
        codes=reading.canonical(tokens).to_pylist(),
        labels=[label(state, line) for state, line in zip(states, lines, strict=True)],
        states=states,
        index=index.tolist(),
    )


def texts_in(study: Study, id: str, numbers: npt.NDArray[np.int64]) -> list[str]:
    """The entries of some records in a variable, as recorded; removed records have them too."""
    column = study.column(id)
    return column.texts_at(column.tokens_in(numbers - 1))


def position_of(study: Study, record: int) -> int | None:
    """Where a record number stands among the records that are there (from 0); None where it is not."""
    present = study.records.present
    if not 1 <= record <= study.records.arrived or (present is not None and not present[record - 1]):
        return None
    return record - 1 if present is None else int(present[: record - 1].sum())


def record_called(study: Study, text: str, *, by_number: bool = True) -> int | None:
    """The first record whose identifier is a text, compared as it is read; else the record of that number, if any."""
    identifier = next((id for id in study.order if study.tag(id).use == "identifier"), None)
    if identifier is not None:
        kind = study.tag(identifier).type
        wanted = large_texts({tidy_one(text), canonical_code(text, kind) or ""} - {""})
        column, canonical = study.column(identifier), study.reading(identifier).canonical()
        met = np.flatnonzero(pc.or_(pc.is_in(column.texts(), wanted), pc.is_in(canonical, wanted)).to_numpy(False))
        if found := Frame(study).numbers_of(identifier, met, most=1) if met.size else []:
            return found[0]
    number = text.strip().replace(",", "")
    return int(number) if by_number and number.isdecimal() and position_of(study, int(number)) is not None else None


@worked_out(reading, entries)
def stray_records(study: Study, id: str) -> npt.NDArray[np.int64]:
    """The numbers of the records in which a variable has a stray (ascending)."""
    stray = (study.reading(id).states >= State.UNREADABLE) & (study.counts(id) > 0)
    if not stray.any():
        return np.empty(0, np.int64)
    found = [block.positions[stray[block.tokens(id)]] + 1 for block in Frame(study).blocks()]
    return np.concatenate(found) if found else np.empty(0, np.int64)


@dataclass(frozen=True)
class StrayCell:
    """A stray on a walk through all: its record and variable, and the how-manieth of how many it is."""

    record: int
    variable: str
    number: int
    of: int


@dataclass(frozen=True, eq=False)
class Strays:
    """A walk through the strays of a study, in reading order: along a record, then the next."""

    study: Study

    @cached_property
    def records(self) -> list[npt.NDArray[np.int64]]:
        """The records that hold strays of each variable, in the order of the variables."""
        return [stray_records(self.study, id) for id in self.study.order]

    def beside(self, record: int, variable: str | None, *, back: bool = False) -> StrayCell | None:
        """The next stray behind a cell, or the one before it; None at the end."""
        order = {id: number for number, id in enumerate(self.study.order)}
        here = order.get(variable or "", -1)
        best: tuple[int, int] | None = None
        for number, records in enumerate(self.records):
            if back:  # the last in a record before, or in this one where the variable stands further left
                at = int(np.searchsorted(records, record, "right" if number < here else "left")) - 1
            else:
                at = int(np.searchsorted(records, record, "left" if number > here else "right"))
            if 0 <= at < records.size:
                found = (int(records[at]), number)
                best = found if best is None else max(best, found) if back else min(best, found)
        if best is None:
            return None
        before = sum(
            int(np.searchsorted(records, best[0], "right" if number <= best[1] else "left"))
            for number, records in enumerate(self.records)
        )
        return StrayCell(best[0], self.study.order[best[1]], before, sum(records.size for records in self.records))
