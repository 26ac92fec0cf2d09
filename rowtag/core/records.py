"""Looking at records: pages of entries with their readings, and which records hold certain entries."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
import numpy.typing as npt

from rowtag.core.column import CHUNK, Column
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
    tokens, index = np.unique(tokens_at(column, rows), return_inverse=True)
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


def tokens_at(column: Column, rows: npt.NDArray[np.int64]) -> npt.NDArray[np.int64]:
    """The tokens of some records (0-based, ascending)."""
    if not rows.size:
        return np.empty(0, np.int64)
    first = int(rows[0])
    return column.indexes(first, int(rows[-1]) + 1)[rows - first].astype(np.int64)


def records_with(study: Study, id: str, tokens: Iterable[int], most: int = 20, after: int = 0) -> list[int]:
    """The first record numbers behind `after` whose entry is one of these tokens."""
    column, present = study.column(id), study.records.present
    wanted = np.zeros(column.token_count, bool)
    wanted[list(tokens)] = True
    found: list[int] = []
    for number, chunk in enumerate(column.chunks):
        first = number * CHUNK
        if first + chunk.size <= after:
            continue
        hits = wanted[chunk.indexes]
        if present is not None:
            hits &= present[first : first + chunk.size]
        numbers = np.flatnonzero(hits) + first + 1
        found += numbers[numbers > after][: most - len(found)].tolist()
        if len(found) >= most:
            return found
    return found + _blank_beyond(study, column, wanted, most - len(found), after)


def _blank_beyond(study: Study, column: Column, wanted: npt.NDArray[Any], most: int, after: int) -> list[int]:
    """Records beyond the end of a short column, when the blank is wanted."""
    if not wanted[0]:
        return []
    out: list[int] = []
    removed = set(study.records.removed)
    for record in range(max(column.length, after) + 1, study.records.arrived + 1):
        if len(out) >= most:
            break
        if record not in removed:
            out.append(record)
    return out


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
            found = records_with(self.study, id, tokens.tolist(), most=1, after=max(after, 0))
            if found and (best is None or (found[0], order[id]) < best):
                best = (found[0], order[id])
        return None if best is None else (best[0], self.study.order[best[1]])
