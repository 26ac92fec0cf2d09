"""Figures of several values: across the variables of a record, and down the records, within groups of them."""

from collections.abc import Callable, Sequence

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from rowtag.core.formulas.values import Kind, Numbers, Value, numbers

Groups = npt.NDArray[np.int64]

ACROSS = {
    "sum": "the sum",
    "mean": "the mean",
    "median": "the median",
    "sd": "the standard deviation (n − 1)",
    "min": "the smallest",
    "max": "the largest",
    "count": "how many are valid, or meet a condition",
}
"""Figures across the variables of a record, or down the records."""
DOWN = {
    **ACROSS,
    "rank": "the place by size, 1 for the smallest; equal ones share the mean of theirs",
    "first": "the first",
}
"""Figures down the records."""


def across(what: str, each: Sequence[Value], needs: int | None) -> Value:
    """A figure of k values of each of m records; unknown where fewer than `needs` are valid (all, if not said).

    A count is always known: it tells how many are known, or, of conditions, are met.
    """
    known = np.stack([value.known for value in each])
    data = np.stack([value.data for value in each])
    valid = known.sum(axis=0)
    if what == "count":
        met = (known & data).sum(axis=0) if each[0].kind == "truth" else valid
        return numbers(met, np.ones(met.size, bool))
    enough = valid >= max(len(each) if needs is None else needs, 1)
    with np.errstate(all="ignore"):
        return numbers(_FIGURES[what](np.where(known, data, np.nan), valid), enough, _kind(what, each[0].kind))


def _kind(what: str, kind: Kind) -> Kind:
    return kind if what in ("min", "max", "median") else "number"


def _mean(data: Numbers, valid: Groups) -> Numbers:
    found: Numbers = np.nansum(data, axis=0) / valid
    return found


def _median(data: Numbers, valid: Groups) -> Numbers:
    """Of each column; NaN stands behind when sorted."""
    ordered = np.sort(data, axis=0)
    columns = np.arange(data.shape[1])
    low = ordered[np.maximum(valid - 1, 0) // 2, columns]
    found: Numbers = (low + ordered[np.minimum(valid // 2, len(data) - 1), columns]) / 2
    return found


def _sd(data: Numbers, valid: Groups) -> Numbers:
    around = data - _mean(data, valid)
    found: Numbers = np.sqrt(np.nansum(around**2, axis=0) / np.where(valid > 1, valid - 1, np.nan))
    return found


_FIGURES: dict[str, Callable[[Numbers, Groups], Numbers]] = {
    "sum": lambda data, _: np.nansum(data, axis=0),
    "mean": _mean,
    "median": _median,
    "sd": _sd,
    "min": lambda data, _: np.fmin.reduce(data),
    "max": lambda data, _: np.fmax.reduce(data),
}


def down(what: str, of: Value, groups: Groups) -> Value:
    """A figure of n records within their groups (from 0, -1 for none), given to each record of a group.

    Unknown values count for nothing; who is in no group gets nothing. `rank` is unknown for unknown values.
    """
    inside = groups >= 0
    size = int(groups.max(initial=-1)) + 1
    used = inside & of.known
    if what == "count":
        met = used & of.data if of.kind == "truth" else used
        return numbers(_given(np.bincount(groups[met], minlength=size), groups), inside)
    if what == "first":
        return _first(of, np.flatnonzero(used), groups, size)
    values, where = of.data[used], groups[used]
    if what == "rank":
        out = np.zeros(groups.size)
        out[used] = _ranks(values, where)
        return numbers(out, used)
    with np.errstate(all="ignore"):
        found = _given(_DOWN[what](values, where, size), groups)
    return numbers(found, inside, _kind(what, of.kind))


def _given(per_group: npt.NDArray[np.generic], groups: Groups) -> Numbers:
    if not per_group.size:
        return np.full(groups.size, np.nan)
    return np.where(groups >= 0, per_group[np.maximum(groups, 0)].astype(np.float64), np.nan)


def _sum_down(values: Numbers, where: Groups, size: int) -> Numbers:
    found = np.bincount(where, weights=values, minlength=size)
    return np.where(np.bincount(where, minlength=size) > 0, found, np.nan)


def _mean_down(values: Numbers, where: Groups, size: int) -> Numbers:
    found: Numbers = np.bincount(where, weights=values, minlength=size) / np.bincount(where, minlength=size)
    return found


def _sd_down(values: Numbers, where: Groups, size: int) -> Numbers:
    around = values - _mean_down(values, where, size)[where]
    counts = np.bincount(where, minlength=size)
    found: Numbers = np.sqrt(
        np.bincount(where, weights=around**2, minlength=size) / np.where(counts > 1, counts - 1, np.nan)
    )
    return found


def _ends(values: Numbers, where: Groups, size: int) -> tuple[Numbers, Groups, Groups]:
    """Values in the order of their groups and then by size; where each group begins, and how many it has."""
    counts = np.bincount(where, minlength=size)
    return values[np.lexsort([values, where])], np.cumsum(counts) - counts, counts


def _median_down(values: Numbers, where: Groups, size: int) -> Numbers:
    ordered, begins, counts = _ends(values, where, size)
    if not ordered.size:
        return np.full(size, np.nan)
    last = ordered.size - 1
    low = ordered[np.minimum(begins + np.maximum(counts - 1, 0) // 2, last)]
    high = ordered[np.minimum(begins + counts // 2, last)]
    return np.where(counts > 0, (low + high) / 2, np.nan)


def _outermost(values: Numbers, where: Groups, size: int, *, last: bool) -> Numbers:
    ordered, begins, counts = _ends(values, where, size)
    if not ordered.size:
        return np.full(size, np.nan)
    at = np.minimum(begins + (np.maximum(counts - 1, 0) if last else 0), ordered.size - 1)
    return np.where(counts > 0, ordered[at], np.nan)


def _first(of: Value, where: npt.NDArray[np.int64], groups: Groups, size: int) -> Value:
    """The first known value of its group, for each record; `where` tells the records that have one."""
    begins = np.full(size, -1)
    begins[groups[where][::-1]] = where[::-1]  # what is written last stays: the first
    at = np.where(groups >= 0, begins[np.maximum(groups, 0)], -1) if size else np.full(groups.size, -1)
    some = np.maximum(at, 0)
    data = pc.take(of.data, pa.array(some)) if of.kind == "text" else of.data[some]
    return Value(of.kind, data, at >= 0)


def _ranks(values: Numbers, where: Groups) -> Numbers:
    """The place of each value within its group; equal ones share the mean of theirs."""
    order = np.lexsort([values, where])
    ordered, groups = values[order], where[order]
    new = np.ones(order.size, bool)
    new[1:] = (ordered[1:] != ordered[:-1]) | (groups[1:] != groups[:-1])
    run = np.cumsum(new) - 1
    begins = np.flatnonzero(new)
    lengths = np.diff(np.append(begins, order.size))
    first = np.ones(order.size, bool)
    first[1:] = groups[1:] != groups[:-1]
    group_begins = np.flatnonzero(first)[np.cumsum(first) - 1]
    out = np.empty(order.size)
    out[order] = begins[run] - group_begins + (lengths[run] + 1) / 2
    return out


_DOWN: dict[str, Callable[[Numbers, Groups, int], Numbers]] = {
    "sum": _sum_down,
    "mean": _mean_down,
    "median": _median_down,
    "sd": _sd_down,
    "min": lambda values, where, size: _outermost(values, where, size, last=False),
    "max": lambda values, where, size: _outermost(values, where, size, last=True),
}
