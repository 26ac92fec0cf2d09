"""Looking at records: pages of entries with their readings, and where strays stand."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import numpy.typing as npt

from rowtag.core.frame import Frame
from rowtag.core.reading import State
from rowtag.core.study import Study


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


def page(study: Study, ids: Sequence[str], start: int, stop: int) -> tuple[list[int], list[PageColumn]]:
    """Record numbers and entries at positions start..stop-1, for some variables."""
    numbers = record_numbers(study, start, stop)
    return numbers.tolist(), [_page_column(study, id, numbers - 1) for id in ids]


def _page_column(study: Study, id: str, rows: npt.NDArray[np.int64]) -> PageColumn:
    column, reading = study.column(id), study.reading(id)
    tokens, index = np.unique(column.tokens_at(rows), return_inverse=True)
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


def position_of(study: Study, record: int) -> int | None:
    """Where a record number stands among the records that are there (from 0); None where it is not."""
    present = study.records.present
    if not 1 <= record <= study.records.arrived or (present is not None and not present[record - 1]):
        return None
    return record - 1 if present is None else int(present[: record - 1].sum())


@dataclass(frozen=True, eq=False)
class Strays:
    """Where the strays of a study stand, variable by variable."""

    study: Study

    @cached_property
    def tokens(self) -> dict[str, npt.NDArray[np.int64]]:
        """Per variable that has strays: their tokens that occur."""
        out = {}
        for id in self.study.order:
            reading, counts = self.study.reading(id), self.study.counts(id)
            tokens = np.flatnonzero((reading.states >= State.UNREADABLE) & (counts > 0))
            if tokens.size:
                out[id] = tokens
        return out

    def next_after(self, record: int, variable: str | None) -> tuple[int, str] | None:
        """The next stray in reading order (along a record, then the next), behind a cell; None at the end."""
        order = {id: number for number, id in enumerate(self.study.order)}
        here = order.get(variable or "", -1)
        best: tuple[int, int] | None = None
        for id, tokens in self.tokens.items():
            after = record - 1 if order[id] > here else record
            found = Frame(self.study).numbers_of(id, tokens, most=1, after=max(after, 0))
            if found and (best is None or (found[0], order[id]) < best):
                best = (found[0], order[id])
        return None if best is None else (best[0], self.study.order[best[1]])
