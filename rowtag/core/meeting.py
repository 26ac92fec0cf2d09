"""Which records of two files, or of a file and a study, are the same: told by their identifiers, or by their order."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from rowtag.core.column import Column, column_of_texts
from rowtag.core.reading import State, read_column
from rowtag.core.study import Study
from rowtag.core.tag import Lens
from rowtag.core.tokens import Texts, large_texts

Rows = npt.NDArray[np.int64]
Doubled = Literal["first", "last", "neither"]
"""Which of several records of a file with one identifier counts."""

_TELLING = (State.VALID, State.UNLISTED)
"""States of an identifier that tells records apart."""


def identifiers(column: Column, lens: Lens, records: int) -> Texts:
    """The identifiers of so many records as they are read; null where there is none that tells records apart."""
    reading = read_column(column, lens)
    texts = pc.if_else(pa.array(np.isin(reading.states, _TELLING)), reading.canonical(), None)
    return pc.take(texts, pa.array(column.indexes(0, records).astype(np.int64)))


def identifiers_of(study: Study, id: str) -> Texts:
    """The identifiers of all records that have arrived in a study; null for those that were removed."""
    texts = identifiers(study.column(id), study.lens(id), study.records.arrived)
    present = study.records.present
    return texts if present is None else pc.if_else(pa.array(present), texts, None)


def same_rows(old: Texts, new: Texts) -> Rows:
    """For each of m new identifiers the place of the old one that it is, -1 where there is none: int64 (m).

    Of several that are equal the first is the first of the old ones, the second the second, and so on.
    """
    both = pc.dictionary_encode(pa.concat_arrays([old, new]))
    codes = pc.fill_null(both.indices, -1).to_numpy(zero_copy_only=False).astype(np.int64)
    size = max(codes.size, 1)
    before, after = codes[: len(old)] * size, codes[len(old) :] * size
    before, after = before + _occurrence(before), after + _occurrence(after)
    known = np.flatnonzero(before >= 0)
    known = known[np.argsort(before[known])]
    if not known.size:
        return np.full(after.size, -1, np.int64)
    at = np.minimum(np.searchsorted(before[known], after), known.size - 1)
    return np.where((before[known[at]] == after) & (after >= 0), known[at], -1)


def _occurrence(codes: Rows) -> Rows:
    """How many of the same stand before each of n numbers: int64 (n)."""
    order = np.argsort(codes, kind="stable")
    new = np.ones(codes.size, bool)
    new[1:] = codes[order][1:] != codes[order][:-1]
    begins = np.flatnonzero(new)
    out = np.empty(codes.size, np.int64)
    out[order] = np.arange(codes.size) - np.repeat(begins, np.diff(np.append(begins, codes.size)))
    return out


def column_telling(study: Study, identifier: str, columns: Sequence[Column], records: int) -> int | None:
    """The place of the column, of those of a file with so many records, whose entries tell the records of a study by
    an identifier: among the first records nearly all of its entries differ, and it has the most that the study knows,
    more than half of them; None where there is none."""
    own = identifiers_of(study, identifier)
    best, place = 0, None
    for at, column in enumerate(columns):
        first = column_of_texts(column.texts_at(column.indexes(0, min(records, _ENOUGH))))
        named = identifiers(first, study.lens(identifier), min(records, _ENOUGH)).drop_null()
        different = named.unique()
        met = pc.sum(pc.is_in(different, own)).as_py() or 0
        if len(different) >= 0.9 * len(named) and met >= _FEWEST and 2 * met > len(different) and met > best:
            best, place = met, at
    return place


_ENOUGH, _FEWEST = 500, 3
"""Records by which a column is told, and identifiers that must be known of them."""


@dataclass(frozen=True, eq=False)
class Beside:
    """How the n records of a file stand beside those of a study: told by an identifier, of which the file may hold
    several of one kind, and the study, too; then its record stands beside each of these."""

    study: Study
    identifier: str
    came: Column
    records: int
    doubled: Doubled = "first"

    @cached_property
    def rows(self) -> Rows:
        """Per record that has arrived in the study its row in the file, from 0; -1 where it has none: int64."""
        named, at = self._counting
        found = pc.index_in(self._own, named)
        met = pc.fill_null(pc.if_else(pc.is_valid(self._own), found, None), -1).to_numpy(zero_copy_only=False)
        return np.where(met >= 0, at[met], -1) if at.size else np.full(met.size, -1, np.int64)

    @property
    def matched(self) -> int:
        """Records of the study that have a row."""
        return int((self.rows >= 0).sum())

    @property
    def alone(self) -> int:
        """Records of the study that have none."""
        return self.study.records.count - self.matched

    @cached_property
    def without(self) -> Rows:
        """Rows of the file that stand beside no record of the study; those that do not count for their doubling are not
        among them."""
        known = pc.and_(pc.is_valid(self._named), pc.is_in(self._named, self._own)).to_numpy(zero_copy_only=False)
        return np.flatnonzero(~known)

    @property
    def lonely(self) -> Texts:
        """The identifiers of the study's records that have no row, null where they have none."""
        present = self.study.records.present
        there = self.rows < 0 if present is None else (self.rows < 0) & present
        return self._own.filter(pa.array(there))

    @property
    def strangers(self) -> Texts:
        """The identifiers of the rows that stand beside no record, null where they have none."""
        return self._named.take(pa.array(self.without))

    @property
    def shared(self) -> int:
        """How many rows stand beside more than one record of the study."""
        return int((np.bincount(self.rows[self.rows >= 0]) > 1).sum())

    @cached_property
    def doubles(self) -> tuple[tuple[str, ...], int]:
        """The identifiers that stand more than once in the file, and in how many rows."""
        counts = pc.value_counts(self._named.drop_null())
        many = counts.filter(pc.greater(counts.field("counts"), 1))
        return tuple(many.field("values").to_pylist()), int(pc.sum(many.field("counts")).as_py() or 0)

    @cached_property
    def _named(self) -> Texts:
        return identifiers(self.came, self.study.lens(self.identifier), self.records)

    @cached_property
    def _own(self) -> Texts:
        return identifiers_of(self.study, self.identifier)

    @cached_property
    def _counting(self) -> tuple[Texts, Rows]:
        """The different identifiers of the file, and the row of each that counts."""
        filled = np.flatnonzero(pc.is_valid(self._named).to_numpy(zero_copy_only=False))
        if not filled.size:
            return large_texts([]), np.empty(0, np.int64)
        coded = pc.dictionary_encode(self._named.take(pa.array(filled)))
        codes = coded.indices.to_numpy(zero_copy_only=False)
        at = np.empty(len(coded.dictionary), np.int64)
        if self.doubled == "last":
            at[codes] = filled
        else:
            at[codes[::-1]] = filled[::-1]  # what is written last stays: the first
        if self.doubled == "neither":
            at[np.bincount(codes, minlength=at.size) > 1] = -1
        return coded.dictionary, at
