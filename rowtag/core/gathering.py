"""Columns from what comes out block by block, in the memory of their different values and a small index a record."""

from collections.abc import Callable, Iterable
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

    `coded` gives the different ones of what stands in several parts, and for each part the indexes of its values among
    them, one part after the other; `segment` the tokens that different ones are.
    """

    records: int
    coded: Callable[[list[Values]], tuple[Values, Iterable[npt.NDArray[Any]]]]
    segment: Callable[[Values], Segment]
    _parts: list[tuple[Values, Indexes]] = field(default_factory=list)
    _blocks: list[tuple[npt.NDArray[np.int64], Values]] = field(default_factory=list)

    @property
    def size(self) -> int:
        """Bytes of what was gathered so far, as far as it is different."""
        return sum(part.nbytes for part, _ in self._parts)  # type: ignore[attr-defined]

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
        different, indexes = self.coded([values for _, values in self._blocks])
        tokens[where] = np.concatenate(list(indexes)) + 1
        self._blocks.clear()
        self._parts.append((different, smallest(tokens)))

    def column(self) -> tuple[Column, Values | None]:
        """The column, and its different values (None where there is none)."""
        if self._blocks:
            self._code()
        if not any(len(part) for part, _ in self._parts):  # type: ignore[arg-type]
            return Column((BLANK_SEGMENT,), ()), None
        different, indexes = self.coded([part for part, _ in self._parts])
        chunks = []
        for (_, tokens), index in zip(self._parts, indexes, strict=True):
            of = smallest(np.concatenate([[0], index + 1]))
            chunks.append(Chunk(tokens.size, base=smallest(of[tokens])))
        return Column((BLANK_SEGMENT, self.segment(different)), tuple(chunks)), different


def numbers(
    records: int, segment: Callable[[npt.NDArray[np.float64]], Segment] = Segment.of_numbers
) -> Gathered[npt.NDArray[np.float64]]:
    """A column that grows by finite numbers (float64); its tokens stand by size."""

    def coded(parts: list[npt.NDArray[np.float64]]) -> tuple[npt.NDArray[np.float64], Iterable[npt.NDArray[Any]]]:
        different = np.concatenate(parts)
        different += 0.0  # no -0.0 among them
        different.sort()
        different = different[np.append(True, different[1:] != different[:-1])[: different.size]]
        return different, (np.searchsorted(different, part) for part in parts)

    return Gathered(records, coded, segment)


def texts(records: int) -> Gathered[Texts]:
    """A column that grows by texts that are not blank."""

    def coded(parts: list[Texts]) -> tuple[Texts, Iterable[npt.NDArray[Any]]]:
        found = pc.dictionary_encode(pa.concat_arrays(parts))
        index = found.indices.to_numpy(zero_copy_only=False)
        return found.dictionary, np.split(index, np.cumsum([len(part) for part in parts])[:-1])

    return Gathered(records, coded, Segment.of)
