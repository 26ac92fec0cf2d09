"""Gaps: which records miss what, in an order that shows patterns; and the patterns with their counts.

A record misses a variable where it has no valid answer there: it is blank, or coded as missing, or a stray. Records
with the same gaps stand together, those patterns beside one another that begin alike in the variables that miss most.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from rowtag.core.frame import at_every_position
from rowtag.core.reading import State
from rowtag.core.rowsums import summed
from rowtag.core.study import Study
from rowtag.core.worked_out import entries, reading, records, worked_out

ROWS = 240
"""Rows of the picture, at most: bins of records."""
MOST_ORDERED = 20_000
"""Patterns up to which they are put in order by what they miss; beyond, by how many they miss."""
Shares = npt.NDArray[np.uint8]
Positions = npt.NDArray[np.int64]


@dataclass(frozen=True)
class Pattern:
    """Gaps that records have in common: in which variables, in how many records, and the first of these."""

    variables: tuple[str, ...]
    count: int
    first: int


@dataclass(frozen=True)
class Gaps:
    """The gaps of a study: for each of r rows of records and each of k variables the share that is `blank` or a stray,
    and that is `coded` as missing, from 0 to 255: uint8 (r × k). `patterns` are the commonest first."""

    variables: tuple[str, ...]
    sizes: npt.NDArray[np.int64]
    blank: Shares
    coded: Shares
    patterns: tuple[Pattern, ...]
    different: int

    @property
    def nbytes(self) -> int:
        """Memory this takes, for caches."""
        return self.blank.nbytes + self.coded.nbytes + self.sizes.nbytes + 500 * len(self.patterns)


MOST_PATTERNS = 60
"""Patterns that are told one by one."""


def _missed(study: Study, id: str) -> npt.NDArray[np.bool_]:
    """Which tokens of a variable are no valid answer."""
    missed: npt.NDArray[np.bool_] = study.reading(id).states != State.VALID
    return missed


def _mark(study: Study, id: str) -> npt.NDArray[np.uint64]:
    """One number for every token that is missed, 0 for others: the sum of these tells one pattern from another."""
    drawn = np.random.default_rng(list(id.encode())).integers(1, 2**63, 1, np.uint64)
    return np.where(_missed(study, id), drawn, np.uint64(0))


@worked_out(reading, entries, records)
def gaps(study: Study, ids: tuple[str, ...]) -> Gaps:
    """The gaps of the records that are there in some variables, at least one."""
    there = np.arange(study.records.arrived) if study.records.present is None else np.flatnonzero(study.records.present)
    marks = summed(study, ids, _mark)[there]
    _, first, pattern, counts = np.unique(marks, return_index=True, return_inverse=True, return_counts=True)
    order = there[np.argsort(_places(study, ids, there[first])[pattern], kind="stable")]
    rows = min(ROWS, max(order.size, 1))
    bounds = np.linspace(0, order.size, rows + 1).round().astype(np.int64)
    sizes = np.diff(bounds)
    blank, coded = (np.zeros((rows, len(ids)), np.uint8) for _ in range(2))
    for column, id in enumerate(ids):
        states = at_every_position(study, id, study.reading(id).states)[order]
        for shares, here in ((coded, states == State.MISSING), (blank, _missed_here(states))):
            shares[:, column] = _shares(here, bounds)
    commonest = np.argsort(-counts, kind="stable")[:MOST_PATTERNS]
    examples = there[first[commonest]]
    named = [tuple(id for id, missed in zip(ids, row, strict=True) if missed) for row in _table(study, ids, examples)]
    told = zip(named, counts[commonest].tolist(), (examples + 1).tolist(), strict=True)
    patterns = tuple(Pattern(variables, count, record) for variables, count, record in told)
    return Gaps(ids, sizes, blank, coded, patterns, len(counts))


def _missed_here(states: npt.NDArray[np.uint8]) -> npt.NDArray[np.bool_]:
    missed: npt.NDArray[np.bool_] = (states != State.VALID) & (states != State.MISSING)
    return missed


def _shares(here: npt.NDArray[np.bool_], bounds: Positions) -> Shares:
    """The share of records of each row: any at all is told by 1 at least, and not quite all by 254 at most."""
    sums = np.diff(np.concatenate([[0], np.cumsum(here)])[bounds])
    sizes = np.maximum(np.diff(bounds), 1)
    shares = np.round(sums / sizes * 255)
    shares = np.where((sums > 0) & (sums < sizes), np.clip(shares, 1, 254), shares)
    return shares.astype(np.uint8)


def _places(study: Study, ids: Sequence[str], examples: Positions) -> Positions:
    """The place of each pattern in an order that shows what they have in common, told by one record of each: int64."""
    table = _table(study, ids, examples)
    if examples.size > MOST_ORDERED:
        order = np.argsort(table.sum(axis=1), kind="stable")
    else:
        columns = np.argsort(-table.sum(axis=0), kind="stable")
        packed = np.packbits(table[:, columns], axis=1)
        order = np.lexsort(packed.T[::-1])
    places = np.empty(order.size, np.int64)
    places[order] = np.arange(order.size)
    return places


def _table(study: Study, ids: Sequence[str], positions: Positions) -> npt.NDArray[np.bool_]:
    """What some records miss: bool (records × variables)."""
    table = np.zeros((positions.size, len(ids)), bool)
    for column, id in enumerate(ids):
        table[:, column] = _missed(study, id)[study.column(id).tokens_in(positions)]
    return table
