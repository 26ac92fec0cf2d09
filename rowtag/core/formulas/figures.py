"""Figures of several values: across the variables of a record. Those down the records are in `down`."""

from collections.abc import Callable, Sequence

import numpy as np
import numpy.typing as npt

from rowtag.core.formulas.digits import summed, without_noise
from rowtag.core.formulas.values import Kind, Numbers, Value, numbers

Groups = npt.NDArray[np.int64]

PICKED = ("first", "last", "previous")
"""What picks the value of a record."""
WEIGHTED = ("count", "sum", "mean", "share")
"""What records can weigh in, each by its weight."""
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
    "first": "the first, or the first in order of another",
    "last": "the last, or the last in order of another",
    "previous": "that of the record before, or of the one before in order of another",
    "share": "the share that meets a condition, of those for which it is known",
    "z": "how many standard deviations (n − 1) it lies above the mean",
    "quantile": "in which of so many parts of equal size it lies, 1 for the smallest",
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
        return numbers(_FIGURES[what](np.where(known, data, np.nan), valid), enough, kind_of_figure(what, each[0].kind))


def kind_of_figure(what: str, kind: Kind) -> Kind:
    """The kind of a figure of values of a kind."""
    return kind if what in (*PICKED, "min", "max", "median") else "number"


def _mean(data: Numbers, valid: Groups) -> Numbers:
    found: Numbers = summed(data) / valid
    return found


def _median(data: Numbers, valid: Groups) -> Numbers:
    """Of each column; NaN stands behind when sorted."""
    ordered = np.sort(data, axis=0)
    columns = np.arange(data.shape[1])
    low = ordered[np.maximum(valid - 1, 0) // 2, columns]
    found: Numbers = (low + ordered[np.minimum(valid // 2, len(data) - 1), columns]) / 2
    return found


def _sd(data: Numbers, valid: Groups) -> Numbers:
    mean = _mean(data, valid)
    around = np.stack([without_noise(row - mean, row, mean) for row in data])
    found: Numbers = np.sqrt(summed(around**2) / np.where(valid > 1, valid - 1, np.nan))
    return found


_FIGURES: dict[str, Callable[[Numbers, Groups], Numbers]] = {
    "sum": lambda data, _: summed(data),
    "mean": _mean,
    "median": _median,
    "sd": _sd,
    "min": lambda data, _: np.fmin.reduce(data),
    "max": lambda data, _: np.fmax.reduce(data),
}
