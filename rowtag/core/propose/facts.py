"""What proposals are made from: the entries of a column that occur, and words that often stand for missing."""

from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
import numpy.typing as npt
import pyarrow.compute as pc

from rowtag.core.column import Column
from rowtag.core.reading import SegmentReading, State, read_segment
from rowtag.core.tag import Lens, Marks, Type
from rowtag.core.tokens import Texts, bytes_of, edges_of, large_texts, lengths_of

MISSING_WORDS = large_texts(
    """na|n/a|n.a.|.|..|-|–|—|--|---|?|null|none|nan|nil|missing|#n/a|#null!|unknown|refused|dk|don't know|don’t know
    |not asked|no answer|not applicable|not stated|prefer not to say|no response""".replace("\n    ", "").split("|")
)
"""Texts (in lower case) that often stand for a missing answer."""
_LONGEST_WORD = int(pc.max(pc.binary_length(MISSING_WORDS)).as_py())
"""Bytes of the longest of them."""


@dataclass(frozen=True)
class Suspect:
    """An entry that may stand for a missing answer; it reads as it reads until somebody says so."""

    entry: str
    count: int
    why: str
    number: bool = False


@dataclass(frozen=True, eq=False)
class Facts:
    """The entries that occur, neither blank nor a suspect word: `used` (bool, tokens) of `counts`."""

    reading: SegmentReading
    counts: npt.NDArray[np.int64]
    used: npt.NDArray[np.bool_]
    words: tuple[Suspect, ...] = field(default=())

    @cached_property
    def entries(self) -> int:
        """How many entries there are."""
        return int(self.counts[self.used].sum())

    @cached_property
    def lengths(self) -> npt.NDArray[np.int64]:
        """Characters of every token."""
        return lengths_of(self.reading.texts)

    def share_holding(self, text: str) -> float:
        """Share of the entries that hold a text."""
        hits = pc.match_substring(self.reading.texts, text).to_numpy(zero_copy_only=False)
        return float(self.counts[hits & self.used].sum() / self.entries)


def plain_lens(kind: Type, marks: Marks = Marks()) -> Lens:
    """How entries read under a type alone: no codes, no limits, nothing missing."""
    return Lens(kind, marks, (), False, None, None, ())


def missing_words(texts: Texts) -> npt.NDArray[np.bool_]:
    """Which of n tidied texts often stand for a missing answer: bool (n)."""
    first, last = edges_of(texts)
    likely = np.flatnonzero(_BEGINS[first] & _ENDS[last] & (np.diff(bytes_of(texts)[0]) <= _LONGEST_WORD))
    out = np.zeros(len(texts), bool)
    if likely.size:
        out[likely] = pc.is_in(pc.ascii_lower(pc.take(texts, likely)), MISSING_WORDS).to_numpy(zero_copy_only=False)
    return out


def _among(edges: npt.NDArray[np.uint8]) -> npt.NDArray[np.bool_]:
    """Which bytes are among those at one end of the words, in capitals too: bool (256)."""
    out = np.zeros(256, bool)
    out[[*edges, *bytes(edges).upper()]] = True
    return out


_BEGINS, _ENDS = (_among(edges) for edges in edges_of(MISSING_WORDS))


def facts_of(column: Column, counts: npt.NDArray[np.int64]) -> Facts:
    """The facts of a column in one segment whose tokens occur `counts` times."""
    reading = read_segment(column.segments[0], plain_lens("text"))
    used = (counts > 0) & (reading.states != State.BLANK)
    suspect = np.flatnonzero(missing_words(reading.texts) & used)
    if not suspect.size:
        return Facts(reading, counts, used)
    used[suspect] = False
    words: dict[str, int] = {}
    for token, text in zip(suspect.tolist(), pc.take(reading.texts, suspect).to_pylist(), strict=True):
        words[text] = words.get(text, 0) + int(counts[token])
    suspects = tuple(Suspect(text, count, "often stands for a missing answer") for text, count in words.items())
    return Facts(reading, counts, used, suspects)
