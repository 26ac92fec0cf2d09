"""Columns from what comes out block by block, in the memory of their different values and a small index a record."""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any, Generic, TypeVar

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from rowtag.core.chunk import BLOCK, CHUNK, Chunk, Indexes, smallest
from rowtag.core.column import Column
from rowtag.core.tokens import BLANK_SEGMENT, Segment, Texts

Values = TypeVar("Values")


@dataclass
class Gathered(Generic[Values]):
    """A column of so many records that grows by the blocks of a whole frame, in their order. What is not there, and the
    text of no length, is blank.

    `coded` gives the different ones of some values, and for each value its index among them; `joined` several of these
    behind one another; `segment` the tokens that they are.
    """

    records: int
    coded: Callable[[Values], tuple[Values, npt.NDArray[Any]]]
    joined: Callable[[list[Values]], Values]
    segment: Callable[[Values], Segment]
    _parts: list[tuple[Values, Indexes]] = field(default_factory=list)
    _blocks: list[tuple[npt.NDArray[np.int64], Values]] = field(default_factory=list)

    def add(self, positions: npt.NDArray[np.int64], values: Values) -> None:
        """Adds what comes out at some positions of the next block."""
        self._blocks.append((positions, values))
        if len(self._blocks) * BLOCK == CHUNK:
            self._code()

    def _code(self) -> None:
        """Makes one part of the blocks of a chunk."""
        first = len(self._parts) * CHUNK
        tokens = np.zeros(min(CHUNK, self.records - first), np.uint32)
        where = np.concatenate([positions for positions, _ in self._blocks]) - first
        values = self.joined([values for _, values in self._blocks])
        self._blocks.clear()
        different, index = self.coded(values)
        tokens[where] = index + np.uint32(1)
        self._parts.append((different, smallest(tokens)))

    def column(self) -> tuple[Column, Values | None]:
        """The column, and its different values (None where there is none)."""
        if self._blocks:
            self._code()
        parts = [part for part, _ in self._parts if len(part)]  # type: ignore[arg-type]
        if not parts:
            return Column((BLANK_SEGMENT,), ()), None
        different, index = self.coded(self.joined(parts))
        chunks, at = [], 0
        for part, tokens in self._parts:
            size = len(part)  # type: ignore[arg-type]
            of = smallest(np.concatenate([[0], index[at : at + size] + 1]))
            chunks.append(Chunk(tokens.size, base=smallest(of[tokens])))
            at += size
        return Column((BLANK_SEGMENT, self.segment(different)), tuple(chunks)), different


def numbers(
    records: int, segment: Callable[[npt.NDArray[np.float64]], Segment] = Segment.of_numbers
) -> Gathered[npt.NDArray[np.float64]]:
    """A column that grows by finite numbers (float64); its tokens stand by size."""

    def coded(values: npt.NDArray[np.float64]) -> tuple[npt.NDArray[np.float64], npt.NDArray[Any]]:
        found = pc.dictionary_encode(pa.array(values + 0.0))  # no -0.0 among them
        different = found.dictionary.to_numpy()
        order = np.argsort(different)
        place = np.empty(order.size, np.uint32)
        place[order] = np.arange(order.size)
        return different[order], place[found.indices.to_numpy()]

    return Gathered(records, coded, np.concatenate, segment)


def texts(records: int) -> Gathered[Texts]:
    """A column that grows by texts that are not blank."""

    def coded(values: Texts) -> tuple[Texts, npt.NDArray[Any]]:
        found = pc.dictionary_encode(values)
        return found.dictionary, found.indices.to_numpy(zero_copy_only=False).astype(np.uint32)

    return Gathered(records, coded, pa.concat_arrays, Segment.of)
