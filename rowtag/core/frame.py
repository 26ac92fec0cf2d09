"""Frame: the one way in which whatever concerns records reads a study, block by block.

A block is at most so many records side by side (`BLOCK`), so that peak memory is a block however long a study is. What
is worked out once per token (readings, canonical texts) is carried to the records of a block by their tokens.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

import numpy as np
import numpy.typing as npt

from rowtag.core.chunk import BLOCK, CHUNK
from rowtag.core.reading import Fill, State, count_states, distinct
from rowtag.core.study import Study

Mask = npt.NDArray[np.bool_]


def at_every_position(study: Study, id: str, per_token: npt.NDArray[Any]) -> npt.NDArray[Any]:
    """What is known of each token of a variable, at every position, those of removed records among them."""
    column, out = study.column(id), np.empty(study.records.arrived, per_token.dtype)
    for first in range(0, out.size, CHUNK):
        at = np.arange(first, min(first + CHUNK, out.size))
        out[at] = per_token[column.tokens_at(at)]
    return out


@dataclass(frozen=True, eq=False)
class Block:
    """m records of a study, by their positions (0-based, ascending; int64, m)."""

    study: Study
    positions: npt.NDArray[np.int64]
    weight: str | None = None

    def tokens(self, id: str) -> npt.NDArray[np.int64]:
        """The tokens of a variable: int64 (m)."""
        return self.study.column(id).tokens_at(self.positions)

    def states(self, id: str) -> npt.NDArray[np.uint8]:
        """How its entries read, members of `State`: uint8 (m)."""
        return self.study.reading(id).states[self.tokens(id)]

    def lines(self, id: str) -> npt.NDArray[np.int32]:
        """The code line (valid entries) or missing line (coded missing ones) of each, -1 where none: int32 (m)."""
        return self.study.reading(id).lines[self.tokens(id)]

    def values(self, id: str) -> npt.NDArray[np.float64]:
        """The numbers (or days, or seconds) of valid entries, NaN where there is none: float64 (m)."""
        reading, tokens = self.study.reading(id), self.tokens(id)
        if reading.values is None:
            return np.full(tokens.size, np.nan)
        return np.where(reading.states[tokens] == State.VALID, reading.values[tokens], np.nan)

    @property
    def weights(self) -> npt.NDArray[np.float64]:
        """What each record weighs: float64 (m). Without a valid weight, or with a negative one, it weighs nothing."""
        if self.weight is None:
            return np.ones(self.positions.size)
        found = self.values(self.weight)
        return np.where(found > 0, found, 0.0)


@dataclass(frozen=True, eq=False)
class Frame:
    """The records of a study that are there, or those of them that are `chosen` (bool, by position), in blocks.

    `weight` is the id of a variable whose values say what each record weighs.
    """

    study: Study
    chosen: Mask | None = None
    weight: str | None = None

    @cached_property
    def _there(self) -> Mask | None:
        present = self.study.records.present
        if self.chosen is None or present is None:
            return present if self.chosen is None else self.chosen
        return present & self.chosen

    @property
    def size(self) -> int:
        """How many records there are."""
        return self.study.records.arrived if self._there is None else int(self._there.sum())

    def blocks(self, start: int = 0, size: int = BLOCK) -> Iterator[Block]:
        """The records from position `start` on, those of `size` positions at a time."""
        arrived = self.study.records.arrived
        for first in range(start, arrived, size):
            stop = min(first + size, arrived)
            positions = np.arange(first, stop)
            yield Block(
                self.study, positions if self._there is None else positions[self._there[first:stop]], self.weight
            )

    def counts(self, id: str) -> npt.NDArray[Any]:
        """How often each token of a variable occurs (int64), or what those records weigh (float64)."""
        if self.whole:
            return self.study.counts(id)
        out = np.zeros(self.study.column(id).token_count)
        for block in self.blocks():
            counted = np.bincount(block.tokens(id), weights=block.weights)
            out[: counted.size] += counted
        return out if self.weight is not None else out.astype(np.int64)

    def squares(self, id: str) -> float:
        """The sum of the squared weights of the records whose entry of a variable is valid."""
        return float(sum((block.weights[block.states(id) == State.VALID] ** 2).sum() for block in self.blocks()))

    @property
    def unweighted(self) -> "Frame":
        """The same records, each counting the same."""
        return self if self.weight is None else replace(self, weight=None)

    @property
    def whole(self) -> bool:
        """Whether it holds all records of its study, each weighing the same."""
        return self.chosen is None and self.weight is None

    def fill(self, id: str) -> Fill:
        """The four shares of a variable among its records, whatever they weigh."""
        if self.chosen is None:
            return self.study.fill(id)
        return count_states(self.study.reading(id).states, self.unweighted.counts(id))

    def values(self, id: str, *states: State) -> tuple[npt.NDArray[Any], npt.NDArray[Any]]:
        """The distinct numbers of entries in some states (valid ones unless said otherwise), ascending, and how often
        each occurs, or what those records weigh."""
        if self.whole:
            return self.study.values(id, *states)
        reading, counts = self.study.reading(id), self.counts(id)
        if reading.values is None:
            return np.empty(0), np.empty(0)
        chosen = np.flatnonzero(np.isin(reading.states, states or (State.VALID,)) & (counts > 0))
        return distinct(reading.exact(chosen), counts[chosen])

    def numbers_of(
        self, id: str, tokens: Sequence[int] | npt.NDArray[Any], most: int | None = None, after: int = 0
    ) -> list[int]:
        """The first record numbers (from 1) behind `after` whose entry is one of some tokens."""
        wanted = np.zeros(self.study.column(id).token_count, bool)
        wanted[np.asarray(tokens, np.int64)] = True
        found: list[int] = []
        for block in self.blocks(start=after):
            hits = block.positions[wanted[block.tokens(id)]] + 1
            found += hits[: None if most is None else most - len(found)].tolist()
            if most is not None and len(found) >= most:
                break
        return found
