"""Reading: what Row Tag makes of an entry under its tag. One function, once per token.

The order is law: blank, coded missing, unreadable, unlisted, valid. Tables, checks, exports, screen
and command line all read through `read_segment`; `tests/reference.py` says the same slowly.
"""

from collections.abc import Callable
from dataclasses import dataclass
from decimal import Decimal
from enum import IntEnum
from functools import lru_cache
from typing import Any

import numpy as np
import numpy.typing as npt
import pyarrow.compute as pc

from rowtag.core.column import Column
from rowtag.core.grammar import (
    EXACT_DIGITS,
    Flags,
    Parsed,
    Values,
    canonical_dates,
    canonical_number,
    parse_dates,
    parse_numbers,
)
from rowtag.core.memo import Memo
from rowtag.core.tag import DATE_TYPES, NUMBER_TYPES, Lens, Marks
from rowtag.core.tokens import Segment, Texts, edges_of, is_ascii, joined, large_texts, lengths_of, taken


class State(IntEnum):
    """What one entry reads as. The two kinds of stray are told apart."""

    VALID = 0
    MISSING = 1
    BLANK = 2
    UNREADABLE = 3
    UNLISTED = 4

    @property
    def stray(self) -> bool:
        """Whether the tag cannot account for the entry."""
        return self >= State.UNREADABLE


@dataclass(frozen=True)
class Fill:
    """The four shares of a variable; they add up to the number of records."""

    valid: int = 0
    missing: int = 0
    blank: int = 0
    unreadable: int = 0
    unlisted: int = 0

    @property
    def stray(self) -> int:
        """Entries the tag cannot account for."""
        return self.unreadable + self.unlisted

    def __add__(self, other: "Fill") -> "Fill":
        return Fill(
            self.valid + other.valid,
            self.missing + other.missing,
            self.blank + other.blank,
            self.unreadable + other.unreadable,
            self.unlisted + other.unlisted,
        )


@dataclass(frozen=True)
class SegmentReading:
    """How the n tokens of a segment read.

    `states`: uint8 (n), members of `State`. `lines`: int32 (n), for a valid token its code line, for a
    coded missing one its missing line, -1 where none. `parsed`: what the type made of them; None for text.
    """

    texts: Texts
    states: npt.NDArray[np.uint8]
    lines: npt.NDArray[np.int32]
    parsed: Parsed | None

    def canonical(self, tokens: npt.NDArray[Any] | None = None) -> Texts:
        """One spelling per value for what fits the type, else the trimmed text: Arrow texts of all n tokens,
        or of those asked for."""
        if self.parsed is None:
            return self.texts if tokens is None else taken([self.texts], tokens)
        found = [self.parsed.canonical, self.texts]
        return pc.coalesce(*(found if tokens is None else (taken([texts], tokens) for texts in found)))

    @property
    def nbytes(self) -> int:
        """Memory this holds beside what its segment's readings share, for caches."""
        return int(self.states.nbytes + self.lines.nbytes)


@dataclass(frozen=True)
class Reading:
    """How the n tokens of a column read: its segments' readings, one behind the other.

    `states` and `lines` as in `SegmentReading`. `values`: float64 (n), the number, or the days or seconds
    of a date or time; NaN where there is none; None for text.
    """

    parts: tuple[SegmentReading, ...]
    states: npt.NDArray[np.uint8]
    lines: npt.NDArray[np.int32]
    values: Values | None

    @classmethod
    def of(cls, parts: tuple[SegmentReading, ...]) -> "Reading":
        """Several readings under one lens as one."""
        if len(parts) == 1:
            (only,) = parts
            return cls(parts, only.states, only.lines, only.parsed.values if only.parsed else None)
        values = [part.parsed.values for part in parts if part.parsed is not None]
        return cls(
            parts,
            np.concatenate([part.states for part in parts]),
            np.concatenate([part.lines for part in parts]),
            np.concatenate(values) if values else None,
        )

    @property
    def nbytes(self) -> int:
        """Memory this holds beyond its parts, for caches."""
        return 0 if len(self.parts) == 1 else 13 * len(self.states)

    def texts(self, tokens: npt.NDArray[Any]) -> Texts:
        """Tidied texts of some tokens, in the order asked for."""
        return taken([part.texts for part in self.parts], tokens)

    def canonical(self, tokens: npt.NDArray[Any] | None = None) -> Texts:
        """Canonical texts of all tokens, or of those asked for, in that order."""
        if len(self.parts) == 1:
            return self.parts[0].canonical(tokens)
        texts = [part.canonical() for part in self.parts]
        return joined(texts) if tokens is None else taken(texts, tokens)


_memo = Memo(limit=512 * 2**20)


def forget() -> None:
    """Forgets all cached readings (for measuring from cold)."""
    _memo.clear()


def read_segment(segment: Segment, lens: Lens) -> SegmentReading:
    """How the tokens of a segment read under a lens; remembered, since neither ever changes.

    What the type makes of them is remembered apart: another code list does not parse anything again.
    """

    def parse(kind: str) -> Parsed:
        key = (segment.serial, kind, lens.marks)
        return _memo.get(key, lambda: _parse(_tidied(segment), kind, lens.marks), lambda parsed: parsed.nbytes)

    return _memo.get((segment.serial, lens), lambda: _read(_tidied(segment), lens, parse), lambda part: part.nbytes)


def read_column(column: Column, lens: Lens) -> Reading:
    """How all tokens of a column read under a lens."""
    return _memo.get(
        (tuple(segment.serial for segment in column.segments), lens),
        lambda: Reading.of(tuple(read_segment(segment, lens) for segment in column.segments)),
        lambda reading: reading.nbytes,
    )


def _tidied(segment: Segment) -> Texts:
    """The tidied texts of a segment, which all its readings share."""
    return _memo.get((segment.serial, None), lambda: tidy(segment.texts), lambda texts: int(texts.nbytes))


def text_lengths(column: Column) -> npt.NDArray[np.int64]:
    """Characters of each of the n tokens of a column, spaces at their ends not counted: int64 (n)."""
    return per_segment(column, "lengths", lengths_of)


def per_segment(column: Column, what: str, work: Callable[[Texts], npt.NDArray[Any]]) -> npt.NDArray[Any]:
    """Something worked out on the tidied texts of a column, remembered under `what` for each segment."""

    def of(segment: Segment) -> npt.NDArray[Any]:
        return _memo.get((segment.serial, what), lambda: work(_tidied(segment)), lambda found: found.nbytes)

    parts = [of(segment) for segment in column.segments]
    return parts[0] if len(parts) == 1 else np.concatenate(parts)


def read_texts(texts: Texts, lens: Lens) -> SegmentReading:
    """How n texts read under a lens."""
    trimmed = tidy(texts)
    return _read(trimmed, lens, lambda kind: _parse(trimmed, kind, lens.marks))


def _read(trimmed: Texts, lens: Lens, parse: Callable[[str], Parsed]) -> SegmentReading:
    """How n tidied texts read under a lens: the one reading function. `parse` gives what a type makes of them."""
    parsed = None if lens.type == "text" else parse(lens.type)
    size = len(trimmed)
    states = np.full(size, State.VALID, np.uint8)
    lines = np.full(size, -1, np.int32)
    blank = pc.binary_length(trimmed).to_numpy() == 0

    missing = _missing_lines(trimmed, lens, parse)
    listed = _code_lines(trimmed, parsed, lens)
    unreadable = ~parsed.fits if parsed is not None else np.zeros(size, bool)
    unlisted = (listed < 0) if lens.complete else np.zeros(size, bool)
    if parsed is not None:
        unlisted = unlisted | _outside(trimmed, parsed, lens)

    lines[:] = listed
    states[unlisted] = State.UNLISTED
    states[unreadable] = State.UNREADABLE
    states[missing >= 0] = State.MISSING
    states[blank] = State.BLANK
    stray = (states == State.UNLISTED) | (states == State.UNREADABLE) | (states == State.BLANK)
    lines[stray] = -1
    coded = states == State.MISSING
    lines[coded] = missing[coded]
    states.setflags(write=False)
    lines.setflags(write=False)
    return SegmentReading(trimmed, states, lines, parsed)


_MAY_BE_SPACE = np.ones(256, bool)
"""Bytes at the ends of a text that may belong to a space: not those of visible ASCII, nor 0, which means no text."""
_MAY_BE_SPACE[0] = False
_MAY_BE_SPACE[0x21:0x7F] = False


def tidy(texts: Texts) -> Texts:
    """Texts as they are read: without spaces at their ends, composed (NFC)."""
    if any(_MAY_BE_SPACE[edge].any() for edge in edges_of(texts)):
        texts = pc.utf8_trim_whitespace(texts)
    return texts if is_ascii(texts) else pc.utf8_normalize(texts, "NFC")


@lru_cache(maxsize=4_096)
def tidy_one(text: str) -> str:
    """One text as it is read."""
    tidied: str = tidy(large_texts([text]))[0].as_py()
    return tidied


def _parse(trimmed: Texts, kind: str, marks: Marks) -> Parsed:
    """What a type of numbers, dates or times makes of the texts."""
    if kind in NUMBER_TYPES:
        return parse_numbers(trimmed, marks, whole=kind == "integer")
    return parse_dates(trimmed, kind, marks)


def _missing_lines(trimmed: Texts, lens: Lens, parse: Callable[[str], Parsed]) -> npt.NDArray[np.int32]:
    """For each text the first missing line that it matches, else -1.

    Codes match by exact value where the type is a number, else by text. Ranges concern numbers under
    every type.
    """
    lines = np.full(len(trimmed), -1, np.int32)
    if not lens.missing:
        return lines
    numbers = lens.type in NUMBER_TYPES
    ranged = any(span.code is None for span in lens.missing)
    parsed = parse("decimal") if numbers or ranged else None
    for number, span in reversed(list(enumerate(lens.missing))):
        if span.code is None:
            assert parsed is not None
            hits = _within(parsed, span.low, span.high, "decimal")
        else:
            hits = _equal_code(trimmed, parsed if numbers else None, span.code, "decimal")
        lines[hits] = number
    return lines


def _code_lines(trimmed: Texts, parsed: Parsed | None, lens: Lens) -> npt.NDArray[np.int32]:
    """For each text the code line that allows it, else -1. A single code goes before a range."""
    lines = np.full(len(trimmed), -1, np.int32)
    for number, span in reversed(list(enumerate(lens.codes))):
        if span.code is None and parsed is not None:
            lines[_within(parsed, span.low, span.high, lens.type)] = number
    for number, span in reversed(list(enumerate(lens.codes))):
        if span.code is not None:
            lines[_equal_code(trimmed, parsed, span.code, lens.type)] = number
    return lines


def _equal_code(trimmed: Texts, parsed: Parsed | None, code: str, kind: str) -> Flags:
    """Which texts have the code's exact value (numbers, dates), or are the same text."""
    if parsed is not None:
        canonical = canonical_code(code, kind)
        if canonical is not None:
            return _has_value(parsed, canonical, kind)
    same: Flags = pc.equal(trimmed, tidy_one(code)).to_numpy(zero_copy_only=False)
    return same


def _has_value(parsed: Parsed, canonical: str, kind: str) -> Flags:
    """Which parsed entries have exactly the value that `canonical` spells."""
    value = value_of(canonical, kind)
    same: Flags = parsed.values == value
    for tied in _ties(parsed, canonical, value, kind):
        same[tied] = Decimal(parsed.plain[tied].as_py()) == Decimal(canonical)
    return same


def _outside(trimmed: Texts, parsed: Parsed, lens: Lens) -> Flags:
    """Which entries lie outside the limits."""
    if lens.low is None and lens.high is None:
        return np.zeros(len(trimmed), bool)
    return ~_within(parsed, lens.low, lens.high, lens.type)


def _within(parsed: Parsed, low: str | None, high: str | None, kind: str) -> Flags:
    """Which parsed entries lie between two ends, both included. An end of another type bounds nothing."""
    inside = parsed.fits.copy()
    for end, sign in ((low, 1), (high, -1)):
        canonical = None if end is None else canonical_code(end, kind)
        if canonical is not None:
            bound = value_of(canonical, kind)
            inside &= parsed.values * sign >= bound * sign
            for tied in _ties(parsed, canonical, bound, kind):
                inside[tied] &= (Decimal(parsed.plain[tied].as_py()) - Decimal(canonical)) * sign >= 0
    return inside


def _ties(parsed: Parsed, canonical: str, value: float, kind: str) -> list[int]:
    """Entries whose float equals a number's without telling whether they do: beyond 15 digits floats are too coarse."""
    if kind in DATE_TYPES:
        return []
    if len(canonical) > EXACT_DIGITS:
        return np.flatnonzero(parsed.values == value).tolist()
    coarse = parsed.coarse
    return [] if coarse is None else np.flatnonzero(coarse & (parsed.values == value)).tolist()


@lru_cache(maxsize=4_096)
def canonical_code(code: str, kind: str) -> str | None:
    """A code's canonical spelling under a type, or None where it does not fit the type."""
    code = tidy_one(code)
    if kind in NUMBER_TYPES:
        return canonical_number(code)
    if kind in DATE_TYPES:
        spelled: str | None = parse_dates(large_texts([code]), kind, Marks()).plain[0].as_py()
        return spelled
    return code


@lru_cache(maxsize=4_096)
def value_of(canonical: str, kind: str) -> float:
    """The value that a canonical number, date or time spells, as `Reading.values` gives it."""
    if kind in NUMBER_TYPES:
        return float(canonical)
    return float(parse_dates(large_texts([canonical]), kind, Marks()).values[0])


def spell(value: float, kind: str) -> str:
    """The canonical text of a value from `Reading.values`."""
    if kind in DATE_TYPES:
        text: str = canonical_dates(np.array([value]), kind)[0].as_py()
        return text
    return canonical_number(format(Decimal(repr(value)), "f")) or ""


def distinct(values: Values, counts: npt.NDArray[np.int64]) -> tuple[Values, npt.NDArray[np.int64]]:
    """The different ones among n values (ascending), and how often each occurs when value i occurs counts[i] times."""
    found, group = np.unique(values, return_inverse=True)
    return found, np.bincount(group, weights=counts, minlength=len(found)).astype(np.int64)


def count_states(states: npt.NDArray[np.uint8], counts: npt.NDArray[np.int64]) -> Fill:
    """The fill of a column whose tokens read as `states` and occur `counts` times."""
    shares = np.bincount(states, weights=counts, minlength=len(State)).astype(np.int64)
    return Fill(*(int(shares[state]) for state in (0, 1, 2, 3, 4)))
