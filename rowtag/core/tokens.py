"""Segments: the distinct texts of a column, in order of arrival, append-only."""

import itertools
from collections.abc import Callable, Iterable, Sequence
from typing import Any

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

Texts = Any  # pa.LargeStringArray; pyarrow carries no types

_serial = itertools.count()


def large_texts(texts: Iterable[str]) -> Texts:
    """An Arrow large string array of the given texts."""
    return pa.array(list(texts), type=pa.large_string())


def joined(arrays: Sequence[Texts]) -> Texts:
    """Several Arrow arrays of texts as one."""
    return arrays[0] if len(arrays) == 1 else pa.concat_arrays(arrays)


def bytes_of(texts: Texts) -> tuple[npt.NDArray[np.int64], npt.NDArray[np.uint8]]:
    """Where each of n Arrow large strings begins and the last one ends (int64, n + 1), and the bytes they lie in."""
    _, offsets, data = texts.buffers()
    ends = np.frombuffer(offsets, np.int64)[texts.offset : texts.offset + len(texts) + 1]
    return ends, np.frombuffer(data or b"", np.uint8)


def edges_of(texts: Texts) -> tuple[npt.NDArray[np.uint8], npt.NDArray[np.uint8]]:
    """The first and the last byte of each of n Arrow large strings (uint8, n), 0 where it is empty."""
    ends, data = bytes_of(texts)
    filled = np.flatnonzero(ends[1:] > ends[:-1])
    first, last = np.zeros((2, len(texts)), np.uint8)
    first[filled] = data[ends[filled]]
    last[filled] = data[ends[filled + 1] - 1]
    return first, last


def is_ascii(texts: Texts) -> bool:
    """Whether no character of some Arrow large strings lies beyond ASCII."""
    ends, data = bytes_of(texts)
    return bool(data[ends[0] : ends[-1]].max(initial=0) < 128) if len(texts) else True


def lengths_of(texts: Texts) -> npt.NDArray[np.int64]:
    """Characters of each of n Arrow large strings: int64 (n)."""
    if is_ascii(texts):
        return np.diff(bytes_of(texts)[0])
    lengths: npt.NDArray[np.int64] = pc.utf8_length(texts).to_numpy().astype(np.int64)
    return lengths


def taken(arrays: Sequence[Texts], positions: npt.NDArray[Any]) -> Texts:
    """The texts at some positions of arrays that lie one behind the other, in the order asked for.

    Costs what is asked for, not what the arrays hold.
    """
    if len(arrays) == 1 or not positions.size or positions.max() < len(arrays[0]):
        return pc.take(arrays[0], pa.array(positions, pa.int64()))
    starts = np.cumsum([0, *(len(array) for array in arrays[:-1])])
    owner = np.searchsorted(starts, positions, side="right") - 1
    places = [np.flatnonzero(owner == number) for number in range(len(arrays))]
    pieces = [
        pc.take(array, pa.array(positions[place] - start, pa.int64()))
        for array, start, place in zip(arrays, starts.tolist(), places, strict=True)
    ]
    return pc.take(pa.concat_arrays(pieces), pa.array(np.argsort(np.concatenate(places)), pa.int64()))


class Segment:
    """A run of tokens that never changes. What was kept on disk is fetched at its first use.

    `serial` tells segments apart within this process (for caches); `size` is known without fetching.
    """

    __slots__ = ("_fetch", "_texts", "key", "serial", "size")

    def __init__(
        self, size: int, *, texts: Texts = None, fetch: Callable[[], Texts] | None = None, key: str | None = None
    ) -> None:
        assert texts is not None or fetch is not None
        assert texts is None or len(texts) == size
        self.serial = next(_serial)
        self.size = size
        self.key = key
        self._texts = texts
        self._fetch = fetch

    @classmethod
    def of(cls, texts: Texts) -> "Segment":
        """A segment made from texts in memory."""
        return cls(len(texts), texts=texts)

    @property
    def texts(self) -> Texts:
        """The tokens, fetched when they are not in memory yet."""
        if self._texts is None:
            assert self._fetch is not None
            self._texts = self._fetch()
            self._fetch = None
        return self._texts

    def extended(self, more: Texts) -> "Segment":
        """A new segment that holds these tokens and then `more`."""
        return Segment.of(pa.concat_arrays([self.texts, more]))


BLANK_SEGMENT = Segment.of(large_texts([""]))
