"""Figures down the records, within groups of them.

Every figure goes through the records block by block and holds something for each group only; the median and the rank,
for which values have to be put in order, hold the values themselves, too.
"""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
import numpy.typing as npt

from rowtag.core.formulas.figures import kind_of_figure
from rowtag.core.formulas.looking import Work
from rowtag.core.formulas.values import Kind, Numbers, Value, constant, in_a_row, numbers, unknown
from rowtag.core.frame import Block, Frame
from rowtag.core.reading import State
from rowtag.core.study import Study

Groups = npt.NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class Grouping:
    """The records that are there, parted by the valid entries of some variables; of none they are one group."""

    study: Study
    ids: tuple[str, ...]

    def of(self, block: Block) -> Groups:
        """The group of each record of a block, from 0; -1 where one of the entries is not valid."""
        return self._by(block, self._levels)

    @property
    def size(self) -> int:
        """How many groups there are."""
        return len(self._levels[-1]) if self._levels else 1

    @cached_property
    def _levels(self) -> tuple[Groups, ...]:
        """For each variable the groups by it and those before it, as the numbers that come of both: ascending."""
        levels: tuple[Groups, ...] = ()
        for id in self.ids:
            keys = np.empty(0, np.int64)
            for block in Frame(self.study).blocks():
                found = self._key(block, id, self._by(block, levels))
                keys = np.union1d(keys, found[found >= 0])
            levels = (*levels, keys)
        return levels

    def _by(self, block: Block, levels: Sequence[Groups]) -> Groups:
        group = np.zeros(block.positions.size, np.int64)
        for id, keys in zip(self.ids, levels, strict=False):
            found = self._key(block, id, group)
            group = np.where(found >= 0, np.searchsorted(keys, found), -1)
        return group

    def _key(self, block: Block, id: str, group: Groups) -> Groups:
        """A number for a group and an entry, -1 where there is no group or the entry is not valid."""
        reading, tokens = self.study.reading(id), block.tokens(id)
        inside = (group >= 0) & (reading.states[tokens] == State.VALID)
        return np.where(inside, group * reading.states.size + reading.groups()[tokens], -1)


@dataclass(frozen=True, eq=False)
class Down:
    """A figure of what `of` gives for the records of each group (of none: the number of records). What is unknown
    counts for nothing. It is worked out when a block is asked for first, once."""

    what: str
    of: Work | None
    kind: Kind
    groups: Grouping

    def __call__(self, block: Block) -> Value:
        """The figure for each record of a block; unknown where it is in no group."""
        group = self.groups.of(block)
        if self.what == "rank":
            return self._ranks(block, group)
        inside = group >= 0
        if not self.groups.size:
            return unknown(self._kind, group.size)
        found = self._found.at(np.maximum(group, 0))
        return Value(found.kind, found.data, found.known & inside)

    @property
    def _kind(self) -> Kind:
        return self.kind if self.what == "first" else kind_of_figure(self.what, self.kind)

    @cached_property
    def _found(self) -> Value:
        """The figure of each group."""
        if self.what == "first":
            return self._first
        figure: Numbers = _FIGURES[self.what](self)
        return numbers(figure, np.ones(figure.size, bool), self._kind)

    def _known(self) -> Iterator[tuple[Numbers, Groups]]:
        """Block by block the known values of records that are in a group, and their groups. Of conditions those that
        are met, since these are counted."""
        for block in Frame(self.groups.study).blocks():
            group, value = self.groups.of(block), self._of(block)
            used = (group >= 0) & value.known
            if value.kind == "truth":
                used &= value.data
            yield value.data[used], group[used]

    def _of(self, block: Block) -> Value:
        return constant("truth", True, block.positions.size) if self.of is None else self.of(block)

    @cached_property
    def counts(self) -> Groups:
        """How many values each group has."""
        counts = np.zeros(self.groups.size, np.int64)
        for _, group in self._known():
            counts += np.bincount(group, minlength=counts.size)
        return counts

    def added(self, what: Callable[[Numbers, Groups], Numbers]) -> Numbers:
        """What comes of each value, added up in each group; NaN in a group that has none."""
        sums, counts = np.zeros(self.groups.size), np.zeros(self.groups.size, np.int64)
        for values, group in self._known():
            sums += np.bincount(group, weights=what(values, group), minlength=sums.size)
            counts += np.bincount(group, minlength=sums.size)
        return np.where(counts > 0, sums, np.nan)

    def outermost(self, pick: Any) -> Numbers:
        """The smallest or largest value of each group, as a function of NumPy picks it of two."""
        out = np.full(self.groups.size, np.nan)
        for values, group in self._known():
            pick.at(out, group, values)
        return out

    def ordered(self) -> npt.NDArray[np.complex128]:
        """The values group by group, each by size: as complex numbers, which stand by their real part, the group, and
        then by their imaginary part, the value."""
        out, filled = np.empty(int(self.counts.sum()), np.complex128), 0
        for values, group in self._known():
            place = slice(filled, filled + group.size)
            out.real[place], out.imag[place] = group, values
            filled += group.size
        out.sort()
        return out

    @property
    def begins(self) -> Groups:
        """Where each group begins among the ordered values."""
        return np.cumsum(self.counts) - self.counts

    @cached_property
    def _first(self) -> Value:
        """The first known value of each group."""
        where, parts, size = np.full(self.groups.size, -1), [unknown(self.kind, 1)], 1
        for block in Frame(self.groups.study).blocks():
            group, value = self.groups.of(block), self._of(block)
            met, at = np.unique(group[value.known], return_index=True)
            rows = np.flatnonzero(value.known)[at]
            new = (met >= 0) & (where[met] < 0)
            where[met[new]] = size + np.arange(int(new.sum()))
            parts.append(value.at(rows[new]))
            size += int(new.sum())
        return in_a_row(parts).at(np.where(where < 0, 0, where))

    def _ranks(self, block: Block, group: Groups) -> Value:
        """The place of each value within its group; equal ones share the mean of theirs."""
        value = self._of(block)
        known = (group >= 0) & value.known
        wanted = np.empty(int(known.sum()), np.complex128)
        wanted.real, wanted.imag = group[known], value.data[known]
        different, ranks = self._places
        out = np.zeros(group.size)
        out[known] = ranks[np.searchsorted(different, wanted)]
        return numbers(out, known)

    @cached_property
    def _places(self) -> tuple[npt.NDArray[np.complex128], Numbers]:
        """The different values of each group, as `ordered` has them, and the place of each: the mean of those that it
        takes in its group."""
        ordered = self.ordered()
        new = np.ones(ordered.size, bool)
        new[1:] = ordered[1:] != ordered[:-1]
        first = np.flatnonzero(new)
        different = ordered[first]
        times = np.diff(np.append(first, ordered.size))
        return different, first + (times + 1) / 2 - self.begins[different.real.astype(np.int64)]


def _mean(down: Down) -> Numbers:
    with np.errstate(invalid="ignore"):
        return down.added(lambda values, _: values) / down.counts


def _sd(down: Down) -> Numbers:
    mean = _mean(down)
    around = down.added(lambda values, group: (values - mean[group]) ** 2)
    found: Numbers = np.sqrt(around / np.where(down.counts > 1, down.counts - 1, np.nan))
    return found


def _median(down: Down) -> Numbers:
    begins, counts = down.begins, down.counts
    out = np.full(counts.size, np.nan)
    some = counts > 0
    low, high = begins + np.maximum(counts - 1, 0) // 2, begins + counts // 2
    values = down.ordered().imag
    out[some] = (values[low[some]] + values[high[some]]) / 2
    return out


_FIGURES: dict[str, Callable[[Down], Any]] = {
    "count": lambda down: down.counts,
    "sum": lambda down: down.added(lambda values, _: values),
    "mean": _mean,
    "median": _median,
    "sd": _sd,
    "min": lambda down: down.outermost(np.fmin),
    "max": lambda down: down.outermost(np.fmax),
}
