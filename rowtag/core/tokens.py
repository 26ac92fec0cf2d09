"""Segments: the distinct texts or numbers of a column, in order of arrival, append-only."""

import itertools
from collections.abc import Callable, Iterable, Sequence
from typing import Any, TypeVar

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

Texts = Any  # pa.LargeStringArray; pyarrow carries no types
Numbers = npt.NDArray[np.float64]
T = TypeVar("T")

LONGEST_ENTRY = 10_000_000
"""Characters of an entry at most."""
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


def gathered(
    parts: Sequence[T], sizes: Sequence[int], positions: npt.NDArray[Any], take: Callable[[T, Any], Texts]
) -> Texts:
    """The texts at some positions of parts that lie one behind the other, in the order asked for.

    `take` gives those at some positions (int64) of one part. Costs what is asked for, not what the parts hold.
    """
    positions = positions.astype(np.int64, copy=False)
    if len(parts) == 1 or not positions.size or positions.max() < sizes[0]:
        return take(parts[0], positions)
    starts = np.cumsum([0, *sizes[:-1]])
    owner = np.searchsorted(starts, positions, side="right") - 1
    owners = np.unique(owner).tolist()
    places = [np.flatnonzero(owner == number) for number in owners]
    pieces = [
        take(parts[number], positions[place] - starts[number]) for number, place in zip(owners, places, strict=True)
    ]
    return pc.take(pa.concat_arrays(pieces), pa.array(np.argsort(np.concatenate(places)), pa.int64()))


def taken(arrays: Sequence[Texts], positions: npt.NDArray[Any]) -> Texts:
    """The texts at some positions of Arrow arrays that lie one behind the other."""
    return gathered(arrays, [len(each) for each in arrays], positions, lambda each, at: pc.take(each, pa.array(at)))


class Segment:
    """A run of tokens that never changes: texts, or numbers that are spelled only when somebody looks at them.

    What was kept on disk is fetched at its first use. `serial` tells segments apart within this process (for caches);
    `size` is known without fetching. `numeric` ones hold finite float64 values, each once.
    """

    __slots__ = ("__weakref__", "_fetch", "_line", "_numbers", "_texts", "key", "numeric", "serial", "size")

    def __init__(
        self,
        size: int,
        *,
        texts: Texts = None,
        numbers: Numbers | None = None,
        fetch: Callable[[], Any] | None = None,
        key: str | None = None,
        numeric: bool = False,
    ) -> None:
        assert texts is not None or numbers is not None or fetch is not None
        assert texts is None or len(texts) == size
        self.serial = next(_serial)
        self.size = size
        self.key = key
        self.numeric = numeric or numbers is not None
        self._line: tuple[int, Any] = (self.serial, None)
        self._texts = texts
        self._numbers = numbers
        self._fetch = fetch

    @classmethod
    def of(cls, texts: Texts) -> "Segment":
        """A segment made from texts in memory."""
        return cls(len(texts), texts=texts)

    @classmethod
    def of_numbers(cls, values: Numbers) -> "Segment":
        """A segment made from n different finite numbers (float64)."""
        numbers = values + 0.0  # there is no minus zero
        numbers.setflags(write=False)
        return cls(len(numbers), numbers=numbers)

    def __reduce__(self) -> Any:
        """As another process takes it: its tokens, not how they are kept or what they continue."""
        if self is BLANK_SEGMENT:
            return "BLANK_SEGMENT"
        return (Segment.of_numbers, (self.numbers,)) if self.numeric else (Segment.of, (self.texts,))

    @property
    def texts(self) -> Texts:
        """The tokens as texts, fetched or spelled when they are not in memory yet."""
        if self._texts is None:
            self._texts = spelled(self.numbers) if self.numeric else self._fetched()
        return self._texts

    @property
    def numbers(self) -> Numbers:
        """The values of a numeric segment (float64, size)."""
        if self._numbers is None:
            assert self.numeric
            self._numbers = self._fetched()
        return self._numbers

    def texts_at(self, positions: npt.NDArray[np.int64]) -> Texts:
        """The texts at some positions; of numbers only these are spelled."""
        if self.numeric and self._texts is None:
            return spelled(self.numbers[positions])
        return pc.take(self.texts, pa.array(positions, pa.int64()))

    def find(self, wanted: Texts) -> npt.NDArray[np.int64]:
        """The position of each of n texts, -1 where the segment does not have it: int64 (n)."""
        if self.numeric and self._texts is None:
            return self._find_number(wanted)
        found = pc.fill_null(pc.index_in(wanted, self.texts), -1).to_numpy(zero_copy_only=False)
        return np.asarray(found, np.int64)

    def extended(self, more: Texts) -> "Segment":
        """A new segment that holds these tokens and then `more`."""
        longer = Segment.of(pa.concat_arrays([self.texts, more]))
        longer._line = (longer.serial, self._line)
        return longer

    def continues(self, earlier: "Segment") -> bool:
        """Whether this holds the tokens of an earlier segment, and perhaps more behind them."""
        line: Any = self._line
        while line is not None:
            if line[0] == earlier.serial:
                return True
            line = line[1]
        return False

    def _fetched(self) -> Any:
        fetch = self._fetch
        assert fetch is not None
        return fetch()

    def _find_number(self, wanted: Texts) -> npt.NDArray[np.int64]:
        out = np.full(len(wanted), -1, np.int64)
        likely = np.flatnonzero(pc.match_substring_regex(wanted, _SPELLED).to_numpy(zero_copy_only=False))
        if likely.size:
            texts = pc.take(wanted, pa.array(likely))
            values = pc.cast(texts, pa.float64()).to_numpy(zero_copy_only=False)
            order = np.argsort(self.numbers)
            at = order[np.minimum(np.searchsorted(self.numbers, values, sorter=order), self.size - 1)]
            same = (self.numbers[at] == values) & np.asarray(pc.equal(spelled(self.numbers[at]), texts))
            out[likely[same]] = at[same]
        return out


_SPELLED = r"^-?\d+(\.\d+)?$"
_ZERO, _POINT, _NOTHING = (pa.scalar(text, pa.large_string()) for text in ("0", ".", ""))


def spelled(values: Numbers) -> Texts:
    """The shortest plain spelling of n finite numbers (float64), without an exponent: Arrow texts (n)."""
    return without_exponent(pc.cast(pa.array(values + 0.0), pa.large_string()))


def without_exponent(plain: Texts) -> Texts:
    """Numbers in plain notation (point, hyphen) with an exponent written out, exactly. Nulls stay null."""
    where = pc.match_substring_regex(plain, "[eE]")
    if not pc.any(where).as_py():
        return plain
    at = np.flatnonzero(pc.fill_null(where, False).to_numpy(zero_copy_only=False))
    parts = pc.extract_regex(pc.take(plain, pa.array(at)), r"^(?P<s>-?)\+?(?P<w>\d*)\.?(?P<f>\d*)[eE]\+?(?P<e>-?\d+)$")
    sign, whole, fraction, shift = (pc.struct_field(parts, name) for name in "swfe")
    digits = pc.binary_join_element_wise(whole, fraction, _NOTHING)
    size = pc.binary_length(digits).to_numpy(zero_copy_only=False).astype(np.int64)
    point = pc.binary_length(whole).to_numpy(zero_copy_only=False) + pc.cast(shift, pa.int64()).to_numpy()
    zeros = pa.array(np.full(len(at), "0", object), pa.large_string())
    before, behind = (pc.binary_repeat(zeros, pa.array(np.maximum(count, 0))) for count in (-point, point - size))
    digits = pc.binary_join_element_wise(before, digits, behind, _NOTHING)
    split = np.maximum(point, 0)
    # Arrow slices all texts at one place; those that share one are taken together.
    out = np.empty(len(at), object)
    for place in np.unique(split).tolist():
        here = np.flatnonzero(split == place)
        some = pc.take(digits, pa.array(here))
        left, right = pc.utf8_slice_codeunits(some, 0, place), pc.utf8_slice_codeunits(some, place)
        left = pc.if_else(pc.equal(left, ""), _ZERO, left)
        written = pc.if_else(pc.equal(right, ""), left, pc.binary_join_element_wise(left, right, _POINT))
        out[here] = pc.binary_join_element_wise(pc.take(sign, pa.array(here)), written, _NOTHING).to_numpy(False)
    filled = np.asarray(plain.to_numpy(zero_copy_only=False), object).copy()
    filled[at] = out
    return pa.array(filled, pa.large_string())


BLANK_SEGMENT = Segment.of(large_texts([""]))
