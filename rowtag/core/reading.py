"""Reading: what Row Tag makes of an entry under its tag. One function, once per token.

The order is law: blank, coded missing, unreadable, unlisted, valid. Tables, checks, exports, screen
and command line all read through `read_segment`; `tests/reference.py` says the same slowly.
"""

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from enum import IntEnum
from functools import lru_cache, partial
from typing import Any

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from rowtag.core.column import Column
from rowtag.core.engine import Same, engine
from rowtag.core.grammar import (
    EXACT_DIGITS,
    FLOAT_DIGITS,
    Flags,
    Parsed,
    Values,
    canonical_dates,
    canonical_number,
    parse_dates,
    parse_numbers,
    parse_values,
)
from rowtag.core.tag import DATE_TYPES, NUMBER_TYPES, Lens, Marks, Span
from rowtag.core.tokens import Segment, Texts, bytes_of, edges_of, gathered, is_ascii, joined, large_texts, lengths_of
from rowtag.core.tokens import spelled as spelled_numbers


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

    def among(self, records: int) -> "Fill":
        """The same entries among so many records: the rest are blank."""
        return replace(self, blank=records - self.valid - self.missing - self.stray)

    def __sub__(self, other: "Fill") -> "Fill":
        return Fill(
            self.valid - other.valid,
            self.missing - other.missing,
            self.blank - other.blank,
            self.unreadable - other.unreadable,
            self.unlisted - other.unlisted,
        )

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

    `source` holds their texts. `states`: uint8 (n), members of `State`. `lines`: int32 (n), for a valid token its code
    line, for a coded missing one its missing line, -1 where none. `parsed`: what the type made of them; None for text.
    """

    source: "Entries"
    states: npt.NDArray[np.uint8]
    lines: npt.NDArray[np.int32]
    parsed: Parsed | None

    @property
    def texts(self) -> Texts:
        """The tidied texts of all tokens."""
        return self.source.texts

    def canonical(self, tokens: npt.NDArray[Any] | None = None) -> Texts:
        """One spelling per value for what fits the type, else the trimmed text: Arrow texts of all n tokens,
        or of those asked for."""
        if self.parsed is None:
            return self.texts if tokens is None else self.source.at(tokens)
        spelled = self.parsed.canonical(tokens)
        if not spelled.null_count:
            return spelled
        return pc.coalesce(spelled, self.texts if tokens is None else self.source.at(tokens))

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

    @property
    def coarse(self) -> bool:
        """Whether floats may not tell all its numbers apart."""
        return any(part.parsed is not None and part.parsed.coarse is not None for part in self.parts)

    def exact(self, tokens: npt.NDArray[Any]) -> npt.NDArray[Any]:
        """The values of some tokens that have one: int64 where they are whole numbers too long for floats."""
        assert self.values is not None
        chosen: npt.NDArray[Any] = self.values[tokens]
        if not self.coarse:
            return chosen
        if (chosen != np.floor(chosen)).any() or (np.abs(chosen) > 10.0**EXACT_DIGITS).any():
            return chosen
        wholes: npt.NDArray[np.int64] = pc.cast(self.canonical(tokens), pa.int64()).to_numpy(zero_copy_only=False)
        return wholes

    def texts(self, tokens: npt.NDArray[Any]) -> Texts:
        """Tidied texts of some tokens, in the order asked for."""
        return self._gathered(tokens, lambda part, at: part.source.at(at))

    def canonical(self, tokens: npt.NDArray[Any] | None = None) -> Texts:
        """Canonical texts of all tokens, or of those asked for, in that order."""
        if tokens is None:
            return joined([part.canonical() for part in self.parts])
        return self._gathered(tokens, SegmentReading.canonical)

    @property
    def decimals(self) -> npt.NDArray[np.int8]:
        """How many digits each number has behind the mark (int8, n), up to 18; zeros at the end are none."""
        return np.concatenate([part.parsed.decimals for part in self.parts if part.parsed is not None])

    def groups(self) -> npt.NDArray[np.int64]:
        """A number for each token, the same for those of one canonical text: int64 (n).

        Of the first segment, by far the longest, it is remembered; those behind it are looked up in it.
        """
        first = self.parts[0]
        known = engine.get(("grouped", Same(first)), lambda: pc.dictionary_encode(first.canonical()))
        groups: npt.NDArray[np.int64] = known.indices.to_numpy().astype(np.int64)
        if len(self.parts) == 1:
            return groups
        rest = pc.dictionary_encode(joined([part.canonical() for part in self.parts[1:]]))
        met = pc.index_in(known.dictionary, rest.dictionary).fill_null(-1).to_numpy()
        of_rest = len(known.dictionary) + np.arange(len(rest.dictionary))
        of_rest[met[met >= 0]] = np.flatnonzero(met >= 0)
        return np.concatenate([groups, of_rest[rest.indices.to_numpy()]])

    def _gathered(self, tokens: npt.NDArray[Any], take: Callable[[SegmentReading, Any], Texts]) -> Texts:
        return gathered(self.parts, [len(part.states) for part in self.parts], tokens, take)


class Entries:
    """n texts as they are read: tidied. Numbers that nobody wrote are spelled only where their texts are wanted."""

    def __init__(self, texts: Callable[[], Texts], size: int, numbers: Values | None = None) -> None:
        self._texts, self.size, self.numbers = texts, size, numbers

    @property
    def texts(self) -> Texts:
        """All of them."""
        return self._texts()

    @property
    def blank(self) -> Flags:
        """Which are empty."""
        if self.numbers is not None:
            return np.zeros(self.size, bool)
        return np.asarray(np.diff(bytes_of(self.texts)[0]) == 0)

    def at(self, tokens: npt.NDArray[Any]) -> Texts:
        """Some of them, in the order asked for."""
        if self.numbers is not None:
            return spelled_numbers(self.numbers[tokens])
        return pc.take(self.texts, pa.array(tokens, pa.int64()))

    def parsed(self, kind: str, marks: Marks) -> Parsed:
        """What a type of numbers, dates or times makes of them."""
        if self.numbers is not None and kind in NUMBER_TYPES:
            return parse_values(self.numbers, whole=kind == "integer")
        if kind in NUMBER_TYPES:
            return parse_numbers(self.texts, marks, whole=kind == "integer")
        return parse_dates(self.texts, kind, marks)


def read_segment(segment: Segment, lens: Lens) -> SegmentReading:
    """How the tokens of a segment read under a lens; remembered, since neither ever changes.

    What the type makes of them is remembered apart: another code list does not parse anything again.
    """
    entries = _entries(segment)

    def parse(kind: str) -> Parsed:
        return engine.get(("parsed", Same(segment), kind, lens.marks), lambda: entries.parsed(kind, lens.marks))

    return engine.get(("read", Same(segment), lens), lambda: _read(entries, lens, parse))


def read_column(column: Column, lens: Lens) -> Reading:
    """How all tokens of a column read under a lens."""
    if len(column.segments) == 1:
        return Reading.of((read_segment(column.segments[0], lens),))
    segments = tuple(map(Same, column.segments))
    return engine.latest(
        ("read all", segments[0], lens),
        segments,
        lambda: Reading.of(tuple(read_segment(segment, lens) for segment in column.segments)),
    )


def _entries(segment: Segment) -> Entries:
    """The tidied texts of a segment, which all its readings share."""
    texts = partial(engine.get, ("tidied", Same(segment)), lambda: tidy(segment.texts))
    return Entries(texts, segment.size, segment.numbers if segment.numeric else None)


def text_lengths(column: Column) -> npt.NDArray[np.int64]:
    """Characters of each of the n tokens of a column, spaces at their ends not counted: int64 (n)."""
    return per_segment(column, "lengths", lengths_of)


def per_segment(column: Column, what: str, work: Callable[[Texts], npt.NDArray[Any]]) -> npt.NDArray[Any]:
    """Something worked out on the tidied texts of a column, remembered under `what` for each segment."""

    def of(segment: Segment) -> npt.NDArray[Any]:
        return engine.get((what, Same(segment)), lambda: work(_entries(segment).texts))

    parts = [of(segment) for segment in column.segments]
    return parts[0] if len(parts) == 1 else np.concatenate(parts)


def read_texts(texts: Texts, lens: Lens) -> SegmentReading:
    """How n texts read under a lens."""
    trimmed = tidy(texts)
    entries = Entries(lambda: trimmed, len(trimmed))
    return _read(entries, lens, lambda kind: entries.parsed(kind, lens.marks))


def _read(entries: Entries, lens: Lens, parse: Callable[[str], Parsed]) -> SegmentReading:
    """How n entries read under a lens: the one reading function. `parse` gives what a type makes of them."""
    parsed = None if lens.type == "text" else parse(lens.type)
    states = np.full(entries.size, State.VALID, np.uint8)

    missing = _missing_lines(entries, lens, parse)
    listed = _code_lines(entries, parsed, lens)
    unreadable = ~parsed.fits if parsed is not None else np.zeros(entries.size, bool)
    unlisted = (listed < 0) if lens.complete else np.zeros(entries.size, bool)
    if parsed is not None:
        unlisted = unlisted | _outside(parsed, lens)

    lines = listed
    states[unlisted] = State.UNLISTED
    states[unreadable] = State.UNREADABLE
    states[missing >= 0] = State.MISSING
    states[entries.blank] = State.BLANK
    stray = (states == State.UNLISTED) | (states == State.UNREADABLE) | (states == State.BLANK)
    lines[stray] = -1
    coded = states == State.MISSING
    lines[coded] = missing[coded]
    states.setflags(write=False)
    lines.setflags(write=False)
    return SegmentReading(entries, states, lines, parsed)


_MAY_BE_SPACE = np.ones(256, bool)
"""Bytes at the ends of a text that may belong to a space: not those of visible ASCII, nor 0, which means no text."""
_MAY_BE_SPACE[0] = False
_MAY_BE_SPACE[0x21:0x7F] = False


def tidy(texts: Texts) -> Texts:
    """Texts as they are read: without spaces at their ends, composed (NFC)."""
    if any(_MAY_BE_SPACE[edge].any() for edge in edges_of(texts)):
        texts = pc.utf8_trim_whitespace(texts)
    return texts if is_ascii(texts) else pc.utf8_normalize(texts, "NFC")


@lru_cache(maxsize=65_536)
def tidy_one(text: str) -> str:
    """One text as it is read."""
    tidied: str = tidy(large_texts([text]))[0].as_py()
    return tidied


def _missing_lines(entries: Entries, lens: Lens, parse: Callable[[str], Parsed]) -> npt.NDArray[np.int32]:
    """For each text the first missing line that it matches, else -1.

    Codes match by exact value where the type is a number, else by text. Ranges concern numbers under
    every type.
    """
    if not lens.missing:
        return np.full(entries.size, -1, np.int32)
    numbers = lens.type in NUMBER_TYPES
    parsed = parse("decimal") if numbers or any(span.code is None for span in lens.missing) else None
    first = _equal_codes(entries, parsed if numbers else None, lens.missing, "decimal")
    for number, span in reversed(list(enumerate(lens.missing))):
        if span.code is None and _holds(span, "decimal"):
            assert parsed is not None
            hits = _within(parsed, span.low, span.high, "decimal")
            first[hits & ((first < 0) | (first > number))] = number
    return first


def _code_lines(entries: Entries, parsed: Parsed | None, lens: Lens) -> npt.NDArray[np.int32]:
    """For each text the code line that allows it, else -1. A single code goes before a range."""
    lines = np.full(entries.size, -1, np.int32)
    if not lens.codes:
        return lines
    for number, span in reversed(list(enumerate(lens.codes))):
        if span.code is None and parsed is not None and _holds(span, lens.type):
            lines[_within(parsed, span.low, span.high, lens.type)] = number
    single = _equal_codes(entries, parsed, lens.codes, lens.type)
    return np.where(single >= 0, single, lines).astype(np.int32, copy=False)


def _equal_codes(entries: Entries, parsed: Parsed | None, spans: Sequence[Span], kind: str) -> npt.NDArray[np.int32]:
    """For each of n texts the first line whose single code it equals, else -1: by exact value where both it and the
    code are of that type (numbers, dates), else by text."""
    lines = np.full(entries.size, -1, np.int32)
    by_value: dict[str, int] = {}
    by_text: dict[str, int] = {}
    valued: dict[str, int] = {}
    for number, span in enumerate(spans):
        if span.code is not None:
            canonical = None if parsed is None else canonical_code(span.code, kind)
            if canonical is None:
                by_text.setdefault(tidy_one(span.code), number)
            else:
                by_value.setdefault(canonical, number)
                valued.setdefault(tidy_one(span.code), number)
    if by_value and parsed is not None:
        found = _equal_values(parsed, list(by_value), kind)
        lines = np.append(np.array(list(by_value.values()), np.int32), np.int32(-1))[found]
        other = np.flatnonzero(~parsed.fits)  # such as 2.5 where the decimal mark is a comma
        if other.size:
            lines[other] = _equal_texts(entries.at(other), valued)
    if by_text and (entries.numbers is None or parsed is None):
        same = _equal_texts(entries.texts, by_text)
        lines = np.where((lines < 0) | ((same >= 0) & (same < lines)), same, lines)
    return lines


def _equal_texts(texts: Texts, wanted: dict[str, int]) -> npt.NDArray[np.int32]:
    """What is wanted for each of n texts, -1 where nothing is: int32 (n)."""
    numbers = np.append(np.array(list(wanted.values()), np.int32), np.int32(-1))
    found = pc.fill_null(pc.index_in(texts, large_texts(wanted)), len(wanted)).to_numpy(zero_copy_only=False)
    return np.asarray(numbers[found])


def _equal_values(parsed: Parsed, codes: list[str], kind: str) -> npt.NDArray[np.int64]:
    """For each parsed entry the number of the code (canonical, each different) that has exactly its value, else -1."""
    values = np.array([value_of(code, kind) for code in codes])
    order = np.argsort(values, kind="stable")
    at = np.minimum(np.searchsorted(values[order], parsed.values), len(codes) - 1)
    found = np.where(values[order][at] == parsed.values, order[at], -1)
    if kind in DATE_TYPES:
        return found
    long = len(np.unique(values)) < len(values) or any(len(code) > FLOAT_DIGITS for code in codes)
    tied = np.flatnonzero((found >= 0) & (True if long or parsed.coarse is None else parsed.coarse))
    if tied.size and (long or parsed.coarse is not None):  # these floats are too coarse to tell
        exact = pc.index_in(parsed.canonical(tied), large_texts(codes))
        found[tied] = pc.fill_null(exact, -1).to_numpy(zero_copy_only=False)
    return found


def _outside(parsed: Parsed, lens: Lens) -> Flags:
    """Which entries lie outside the limits."""
    if lens.low is None and lens.high is None:
        return np.zeros(len(parsed.fits), bool)
    return ~_within(parsed, lens.low, lens.high, lens.type)


def _holds(span: Span, kind: str) -> bool:
    """Whether a range holds anything of a type: one with an end of another type holds nothing."""
    return all(end is None or canonical_code(end, kind) is not None for end in (span.low, span.high))


def _within(parsed: Parsed, low: str | None, high: str | None, kind: str) -> Flags:
    """Which parsed entries lie between two ends, both included. An end of another type bounds nothing."""
    inside = parsed.fits.copy()
    for end, sign in ((low, 1), (high, -1)):
        canonical = None if end is None else canonical_code(end, kind)
        if canonical is not None:
            bound = value_of(canonical, kind)
            inside &= parsed.values * sign >= bound * sign
            inside[_ties(parsed, canonical, bound, kind, sign)] = False
    return inside


def _ties(parsed: Parsed, canonical: str, value: float, kind: str, sign: int) -> list[int]:
    """Entries whose float equals a bound's without telling that they lie beyond it: beyond 15 digits floats are too
    coarse, and the numbers themselves are compared."""
    if kind in DATE_TYPES:
        return []
    long = len(canonical) > FLOAT_DIGITS
    coarse = parsed.coarse
    if not long and coarse is None:
        return []
    at = np.flatnonzero((parsed.values == value) & (True if long or coarse is None else coarse))
    bound = Decimal(canonical)
    spelled = parsed.canonical(at).to_pylist()
    return [tie for tie, text in zip(at.tolist(), spelled, strict=True) if (Decimal(text) - bound) * sign < 0]


_PLAIN_CODE = re.compile(r"0|-?[1-9]\d{0,14}", re.ASCII)
"""Codes that are canonical numbers as they stand."""


@lru_cache(maxsize=65_536)
def canonical_code(code: str, kind: str) -> str | None:
    """A code's canonical spelling under a type, or None where it does not fit the type."""
    if kind in NUMBER_TYPES and _PLAIN_CODE.fullmatch(code):
        return code
    code = tidy_one(code)
    if kind in NUMBER_TYPES:
        return canonical_number(code)
    if kind in DATE_TYPES:
        spelled: str | None = parse_dates(large_texts([code]), kind, Marks()).canonical()[0].as_py()
        return spelled
    return code


@lru_cache(maxsize=65_536)
def value_of(canonical: str, kind: str) -> float:
    """The value that a canonical number, date or time spells, as `Reading.values` gives it."""
    if kind in NUMBER_TYPES:
        return float(canonical)
    return float(parse_dates(large_texts([canonical]), kind, Marks()).values[0])


def spell(value: float | int, kind: str) -> str:
    """The canonical text of a value from `Reading.values`."""
    if kind in DATE_TYPES:
        text: str = canonical_dates(np.array([value]), kind)[0].as_py()
        return text
    return canonical_number(repr(value)) or ""


def distinct(values: npt.NDArray[Any], counts: npt.NDArray[Any]) -> tuple[npt.NDArray[Any], npt.NDArray[Any]]:
    """The different ones among n values (ascending), and how often each occurs when value i occurs counts[i] times."""
    found, group = np.unique(values, return_inverse=True)
    return found, np.bincount(group, weights=counts, minlength=len(found)).astype(counts.dtype)


def count_states(states: npt.NDArray[np.uint8], counts: npt.NDArray[np.int64]) -> Fill:
    """The fill of a column whose tokens read as `states` and occur `counts` times."""
    shares = np.bincount(states, weights=counts, minlength=len(State)).astype(np.int64)
    return Fill(*(int(shares[state]) for state in (0, 1, 2, 3, 4)))
