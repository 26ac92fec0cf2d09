"""Figures down the records, within groups of them.

The group of each record is worked out once. Every figure then goes through the records block by block and holds
something for each group only; the median and the rank, for which values have to be put in order, hold these, too.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import cached_property
from typing import Any, Literal

import numpy as np
import numpy.typing as npt

from rowtag.core.chunk import BLOCK
from rowtag.core.formulas.digits import as_large_as, without_noise
from rowtag.core.formulas.figures import PICKED, kind_of_figure
from rowtag.core.formulas.looking import Work
from rowtag.core.formulas.values import Kind, Numbers, Value, constant, in_a_row, numbers, unknown
from rowtag.core.frame import Block, Frame
from rowtag.core.reading import State
from rowtag.core.study import Study

Groups = npt.NDArray[np.int64]
Positions = npt.NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class Grouping:
    """The records that are there, parted by the valid entries of some variables; of none they are one group."""

    study: Study
    ids: tuple[str, ...]

    def of(self, block: Block) -> Groups:
        """The group of each record of a block, from 0; -1 where one of the entries is not valid."""
        return self._parted[0][block.positions].astype(np.int64)

    @property
    def size(self) -> int:
        """How many groups there are at most: some may be without a record."""
        return self._parted[1]

    @cached_property
    def _parted(self) -> tuple[npt.NDArray[np.int32], int]:
        """The group at every position, and how many there are."""
        arrived = self.study.records.arrived
        groups, size = np.zeros(arrived, np.int64), 1
        for id in self.ids:
            reading = self.study.reading(id)
            entries = np.where(reading.states == State.VALID, reading.groups(), -1)
            width = int(entries.max(initial=-1)) + 1
            for block in Frame(self.study).blocks():
                within, entry = groups[block.positions], entries[block.tokens(id)]
                groups[block.positions] = np.where((within >= 0) & (entry >= 0), within * width + entry, -1)
            size *= width
            if size > max(arrived, BLOCK):
                size = _renumbered(groups)
        return groups.astype(np.int32), size


def _renumbered(groups: Groups) -> int:
    """Gives those of n groups that occur numbers from 0 on, in place, and tells how many they are; -1 stays."""
    different = np.unique(groups)
    different = different[different >= 0]
    for first in range(0, groups.size, BLOCK):
        part = groups[first : first + BLOCK]
        groups[first : first + BLOCK] = np.where(part >= 0, np.searchsorted(different, part), -1)
    return int(different.size)


@dataclass(frozen=True, eq=False)
class Down:
    """A figure of what `of` gives for the records of each group (of none: the number of records). What is unknown
    counts for nothing. It is worked out when a block is asked for first, once.

    `kind` is that of what it looks at. `weight`: by what records weigh; one whose weight is no number from 0 on counts
    for nothing. `order`: what puts the records of a group in order, those alike as they arrived; one for which it is
    not known has no place. `parts`: how many parts of equal size there are.
    """

    what: str
    of: Work | None
    kind: Kind
    groups: Grouping
    weight: Work | None = None
    order: Work | None = None
    parts: int = 1

    def __call__(self, block: Block) -> Value:
        """The figure for each record of a block; unknown where it is in no group."""
        group = self.groups.of(block)
        if self.what in ("rank", "quantile"):
            ranks = self._ranks[block.positions]
            if self.what == "quantile":
                ranks = self._quantile(ranks, group)
            return numbers(ranks, ~np.isnan(ranks))
        if self.what == "previous":
            return self._column.at(self._before[block.positions])
        inside = group >= 0
        if not self.groups.size:
            return unknown(kind_of_figure(self.what, self.kind), group.size)
        at = np.maximum(group, 0)
        if self.what == "z":
            return self._standing(block, at, inside)
        found = self._found.at(at)
        return Value(found.kind, found.data, found.known & inside)

    @cached_property
    def _found(self) -> Value:
        """The figure of each group."""
        if self.what in PICKED:
            return self._first if self.order is None and self.what == "first" else self._picked
        figure: Numbers = _FIGURES[self.what](self)
        return numbers(figure, np.ones(figure.size, bool), kind_of_figure(self.what, self.kind))

    def _standing(self, block: Block, at: Groups, inside: npt.NDArray[np.bool_]) -> Value:
        """How many standard deviations each value lies above the mean of its group; unknown where all are alike."""
        value, (mean, sd) = self._of(block), self._mean_and_sd
        with np.errstate(all="ignore"):
            found = without_noise(value.data - mean[at], value.data, mean[at]) / sd[at]
        return numbers(found, value.known & inside & (sd[at] > 0))

    @cached_property
    def _mean_and_sd(self) -> tuple[Numbers, Numbers]:
        return _mean(self), _sd(self)

    def _quantile(self, ranks: Numbers, group: Groups) -> Numbers:
        """The part that a rank lies in: of n values the first n / parts are in the first, and so on; values alike are
        in the same, which is that of the mean of their places."""
        sizes = self.counts[np.maximum(group, 0)] if self.groups.size else np.ones(group.size)
        with np.errstate(all="ignore"):
            return np.where(group >= 0, np.ceil(ranks * self.parts / sizes), np.nan)

    def _known(self) -> Iterator[tuple[Numbers, Groups, Positions]]:
        """Block by block the known values of records that are in a group, their groups, and their positions. Of
        conditions those that are met, since these are counted."""
        for block in Frame(self.groups.study).blocks():
            group, value = self.groups.of(block), self._of(block)
            used = (group >= 0) & value.known
            if value.kind == "truth":
                used &= value.data
            yield value.data[used], group[used], block.positions[used]

    def _of(self, block: Block) -> Value:
        return constant("truth", True, block.positions.size) if self.of is None else self.of(block)

    def weighed(self, what: Literal["known", "met", "values"]) -> Numbers:
        """Of each group the weights of known values, of met conditions alone, or the weighted values; added up. Without
        a weight every record weighs 1."""

        def pieces() -> Iterator[tuple[Groups, Numbers]]:
            for block in Frame(self.groups.study).blocks():
                group, value = self.groups.of(block), self._of(block)
                weight = constant("number", 1.0, group.size) if self.weight is None else self.weight(block)
                used = (group >= 0) & value.known & weight.known & (weight.data >= 0)
                if what == "met" and value.kind == "truth":
                    used &= value.data
                yield group[used], (weight.data * value.data if what == "values" else weight.data)[used]

        return self._summed(pieces)

    @cached_property
    def counts(self) -> Groups:
        """How many values each group has."""
        counts = np.zeros(self.groups.size, np.int64)
        for _, group, _ in self._known():
            _add(counts, group)
        return counts

    def added(self, what: Callable[[Numbers, Groups], Numbers]) -> Numbers:
        """What comes of each value, added up in each group; NaN in a group that has none."""
        found = self._summed(lambda: ((group, what(values, group)) for values, group, _ in self._known()))
        return np.where(self.counts > 0, found, np.nan)

    def _summed(self, pieces: Callable[[], Iterator[tuple[Groups, Numbers]]]) -> Numbers:
        """The sum in each group of values that come block by block; where some are above 0 and some below, what cancels
        out is told to the 15th digit of all of it."""
        sums, signs = _Sums(self.groups.size), set[float]()
        for group, values in pieces():
            sums.add(group, values)
            if values.size:
                signs |= {float(np.sign(values.min())), float(np.sign(values.max()))}
        if not {-1.0, 1.0} <= signs:
            return sums.found
        sizes = _Sums(self.groups.size)
        for group, values in pieces():
            sizes.add(group, np.abs(values))
        return as_large_as(sums.found, sizes.found)

    def outermost(self, pick: Any) -> Numbers:
        """The smallest or largest value of each group, as a function of NumPy picks it of two."""
        out = np.full(self.groups.size, np.nan)
        for values, group, _ in self._known():
            pick.at(out, group, values)
        return out

    def ordered(self) -> tuple[Numbers, npt.NDArray[np.int32]]:
        """The values, group by group, and in each from the smallest on; and at which position the record of each is."""
        size = int(self.counts.sum())
        out, records, free = np.empty(size), np.empty(size, np.int32), self.begins.copy()
        for values, group, positions in self._known():
            order = np.argsort(group)
            met, begin, times = np.unique(group[order], return_index=True, return_counts=True)
            place = np.repeat(free[met] - begin, times) + np.arange(group.size)
            out[place], records[place] = values[order], positions[order]
            free[met] += times
        for first, last in self._runs():
            here = self._places(first, last)
            order = np.argsort(self._keys(out[here], first, last))
            out[here], records[here] = out[here][order], records[here][order]
        return out, records

    def _runs(self) -> Iterator[tuple[int, int]]:
        """Groups that follow one another, by the first and the one behind the last: as many as have a block of
        values together, or a single one."""
        last, ends = 0, np.cumsum(self.counts)
        while last < ends.size:
            first = last
            last = max(first + 1, int(np.searchsorted(ends, self.begins[first] + BLOCK, "right")))
            yield first, last

    def _places(self, first: int, last: int) -> slice:
        """Where the values of some groups stand among the ordered ones."""
        return slice(int(self.begins[first]), int(self.begins[last - 1] + self.counts[last - 1]))

    def _keys(self, values: Numbers, first: int, last: int) -> npt.NDArray[Any]:
        """Values of some groups as what stands by its group and then by size: of several groups complex numbers, which
        stand by their real part first."""
        if last - first == 1:
            return values
        return np.repeat(np.arange(first, last), self.counts[first:last]) + 1j * values

    @cached_property
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

    @cached_property
    def _column(self) -> Value:
        """What it looks at, at every position; behind the last one something unknown."""
        arrived = self.groups.study.records.arrived
        parts, where = [unknown(self.kind, 1)], np.zeros(arrived + 1, np.int64)
        size = 1
        for block in Frame(self.groups.study).blocks():
            parts.append(self._of(block))
            where[block.positions] = size + np.arange(block.positions.size)
            size += block.positions.size
        return in_a_row(parts).at(where)

    def _in_order(self) -> tuple[Positions, Groups]:
        """The positions of the records that have a place in a group, group by group and in order; and their groups."""
        arrived = self.groups.study.records.arrived
        groups, keys = np.full(arrived, -1, np.int64), np.zeros(arrived)
        for block in Frame(self.groups.study).blocks():
            group = self.groups.of(block)
            if self.order is not None:
                place = self.order(block)
                group = np.where(place.known, group, -1)
                keys[block.positions] = place.data
            groups[block.positions] = group
        there = np.flatnonzero(groups >= 0)
        order = there[np.lexsort((keys[there], groups[there]))]
        return order, groups[order]

    @cached_property
    def _before(self) -> Positions:
        """At every position that of the record before it in its group, or one behind the last."""
        arrived = self.groups.study.records.arrived
        out = np.full(arrived, arrived, np.int64)
        order, groups = self._in_order()
        follows = np.flatnonzero(groups[1:] == groups[:-1]) + 1
        out[order[follows]] = order[follows - 1]
        return out

    @cached_property
    def _picked(self) -> Value:
        """The first or last known value of each group, in order."""
        column, (order, groups) = self._column, self._in_order()
        known = column.known[order]
        order, groups = order[known], groups[known]
        where = np.full(self.groups.size, self.groups.study.records.arrived, np.int64)
        if self.what == "last":
            order, groups = order[::-1], groups[::-1]
        met, first = np.unique(groups, return_index=True)
        where[met] = order[first]
        return column.at(where)

    @cached_property
    def _ranks(self) -> Numbers:
        """At every position the place of its value within its group, NaN where there is none; equal ones share the
        mean of theirs."""
        out = np.full(self.groups.study.records.arrived, np.nan)
        values, records = self.ordered()
        for first, last in self._runs():
            here = self._places(first, last)
            keys, of = self._keys(values[here], first, last), records[here]
            begins = np.repeat(self.begins[first:last] - here.start, self.counts[first:last]) if last - first > 1 else 0
            for part in range(0, keys.size, BLOCK):  # of several groups there is only one
                some = slice(part, part + BLOCK)
                before, upto = (np.searchsorted(keys, keys[some], side) for side in ("left", "right"))
                out[of[some]] = (before + 1 + upto) / 2 - begins
        return out


class _Sums:
    """Sums of groups, to the last digit: of each block of values the leading parts, whole multiples of a power of two,
    add up exactly, and what is left of them by itself; blocks are added with what floats lose (Neumaier, 1974)."""

    def __init__(self, size: int) -> None:
        self._total, self._lost = np.zeros(size), np.zeros(size)

    def add(self, group: Groups, values: Numbers) -> None:
        """Adds a block of values to the sums of their groups."""
        largest = float(np.abs(values).max(initial=0.0))
        if not np.isfinite(largest) or largest > _LARGEST:
            return _add(self._total, group, values)
        if (values == np.floor(values)).all() and largest < 2.0**36:
            return self._gather(group, values)
        shift = 1.5 * 2.0 ** (int(np.frexp(largest)[1]) + 16)
        leading = (values + shift) - shift
        self._gather(group, leading)
        return _add(self._lost, group, values - leading)

    def _gather(self, group: Groups, values: Numbers) -> None:
        if self._total.size > BLOCK:  # few values in most of them
            return _add(self._total, group, values)
        each = np.bincount(group, weights=values, minlength=self._total.size)
        grown = self._total + each
        larger = np.abs(self._total) >= np.abs(each)
        self._lost += np.where(larger, (self._total - grown) + each, (each - grown) + self._total)
        self._total = grown
        return None

    @property
    def found(self) -> Numbers:
        """The sums."""
        whole = np.isfinite(self._total)
        found: Numbers = np.where(whole, self._total + np.where(whole, self._lost, 0.0), self._total)
        return found


_LARGEST = 1e290
"""Values beyond which no leading part is told apart."""


def _add(sums: npt.NDArray[Any], group: Groups, values: Any = None) -> None:
    """Adds each value (1 where there are none) to the sum of its group, in place."""
    if sums.size > BLOCK:  # as many groups as records: looking at every one of them with every block would be too much
        np.add.at(sums, group, 1 if values is None else values)
    else:
        sums += np.bincount(group, weights=values, minlength=sums.size)


def _sum(down: Down) -> Numbers:
    """The weighted sum; none where no value weighs anything."""
    return np.where(down.weighed("known") > 0, down.weighed("values"), np.nan)


def _share(down: Down) -> Numbers:
    known, met = down.weighed("known"), down.weighed("met")
    with np.errstate(invalid="ignore", divide="ignore"):
        return np.where(known > 0, met / known, np.nan)


def _mean(down: Down) -> Numbers:
    if down.weight is not None:
        weights, values = down.weighed("known"), down.weighed("values")
        with np.errstate(invalid="ignore", divide="ignore"):
            return np.where(weights > 0, values / weights, np.nan)
    with np.errstate(invalid="ignore"):
        return down.added(lambda values, _: values) / down.counts


def _sd(down: Down) -> Numbers:
    mean = _mean(down)
    around = down.added(lambda values, group: without_noise(values - mean[group], values, mean[group]) ** 2)
    found: Numbers = np.sqrt(around / np.where(down.counts > 1, down.counts - 1, np.nan))
    return found


def _median(down: Down) -> Numbers:
    begins, counts = down.begins, down.counts
    out = np.full(counts.size, np.nan)
    some = counts > 0
    low, high = begins + np.maximum(counts - 1, 0) // 2, begins + counts // 2
    values, _ = down.ordered()
    out[some] = (values[low[some]] + values[high[some]]) / 2
    return out


_FIGURES: dict[str, Callable[[Down], Any]] = {
    "count": lambda down: down.counts if down.weight is None else down.weighed("met"),
    "sum": lambda down: down.added(lambda values, _: values) if down.weight is None else _sum(down),
    "mean": _mean,
    "share": _share,
    "median": _median,
    "sd": _sd,
    "min": lambda down: down.outermost(np.fmin),
    "max": lambda down: down.outermost(np.fmax),
}
