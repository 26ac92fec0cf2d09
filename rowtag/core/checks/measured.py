"""Measured values: far outliers, zeros that stand apart, heaping, dates to come."""

from typing import Any

import numpy as np
import numpy.typing as npt

from rowtag.core.checks.base import Finding, Threshold, Tokens, about_entries, register, threshold
from rowtag.core.checks.missing import is_measured, undeclared_tokens
from rowtag.core.reading import State, canonical_code, value_of
from rowtag.core.study import Study
from rowtag.core.summary import quantile
from rowtag.core.words import counted
from rowtag.core.worked_out import entries, reading, words

FEWEST = 30
"""Values below which nothing is far out."""
FAR, FAR_IN_LOGARITHMS, ALONE, MOST_FAR = 6.0, 5.0, 2.0, 0.01
"""Robust deviations from the median, of the values and of their logarithms, from which a value may be far out; how many
times as far as the outermost other value on its side it lies then; and the share of values that are no exception."""
MOST_OF_FEW, CLOSE, APART = 12, 1.5, 4.0
"""Few whole numbers: how many different ones, how wide they are strewn for their number, and how many times as far from
the median as the outermost of them another one is far out."""
LEAP, LOW, MOST_ZEROS = 10, 0.3, 0.05
"""Zeros stand apart where the next value lies this many usual steps above, and above this share of the median, and
where no more than this share are zeros."""
HEAPED, FEWEST_HEAPED = 0.5, 200
"""The share of multiples of ten from which whole numbers are heaped, and how many values it takes."""
SCALE = 1.4826
"""Makes the median absolute deviation of normal values their standard deviation."""


def deviations(values: npt.NDArray[np.float64], counts: npt.NDArray[np.int64]) -> npt.NDArray[np.float64]:
    """How far values lie from their median, in median absolute deviations scaled to standard deviations (Leys et al.
    2013, Journal of Experimental Social Psychology 49, 764-766): float64, 0 where more than half are the same."""
    middle = float(quantile(values, counts, 0.5))
    away = np.abs(values - middle)
    order = np.argsort(away, kind="stable")
    spread = SCALE * float(quantile(away[order], counts[order], 0.5))
    return away / spread if spread > 0 else np.zeros(away.size)


def _alone(values: npt.NDArray[np.float64], middle: float, far: npt.NDArray[np.bool_]) -> npt.NDArray[np.bool_]:
    """Which values lie much further from the middle than the outermost on their side that is not far out."""
    away = values - middle
    near = away[~far]
    above, below = max(near.max(initial=0.0), 0.0), min(near.min(initial=0.0), 0.0)
    alone: npt.NDArray[np.bool_] = (away > ALONE * above) | (away < ALONE * below)
    return alone


def _apart_from_few(
    values: npt.NDArray[np.float64], counts: npt.NDArray[np.int64], middle: float
) -> npt.NDArray[np.bool_]:
    """Which ascending whole numbers lie far above a few low ones that stand close together, such as 40 children among 0
    to 4: of these more than half are often the same, and logarithms tell nothing."""
    share = np.cumsum(counts[::-1])[::-1] / counts.sum()
    apart = np.zeros(values.size, bool)
    for first in range(1, min(values.size, MOST_OF_FEW + 1)):
        usual = values[:first]
        close = usual[-1] - usual[0] + 1 <= CLOSE * first
        if close and share[first] <= MOST_FAR and values[first] - middle > APART * max(usual[-1] - middle, 1.0):
            apart[first:] = True
            break
    return apart


def _holding(study: Study, id: str, values: npt.NDArray[Any]) -> Tokens:
    """Valid tokens that hold one of some values."""
    found = study.reading(id)
    if found.values is None or not values.size:
        return np.empty(0, np.int64)
    return np.flatnonzero((found.states == State.VALID) & (study.counts(id) > 0) & np.isin(found.values, values))


def far_tokens(study: Study, id: str) -> Tokens:
    """Valid entries that lie far from all others, of the values and, where all are positive, of their logarithms."""
    if not is_measured(study, id):
        return np.empty(0, np.int64)
    values, counts = study.values(id)
    values = values.astype(np.float64)
    total = int(counts.sum())
    if total < FEWEST:
        return np.empty(0, np.int64)
    far = deviations(values, counts) > threshold(study, "far outliers", "deviations")
    above = values > 0
    if above.sum() > 1 and counts[above].sum() > 0.5 * total:
        logs = np.zeros(values.size)
        logs[above] = deviations(np.log(values[above]), counts[above])
        far &= (logs > FAR_IN_LOGARITHMS) | ~above
    middle = float(quantile(values, counts, 0.5))
    far &= _alone(values, middle, far)
    if study.tag(id).type == "integer":
        far |= _apart_from_few(values, counts, middle)
    if counts[far].sum() > MOST_FAR * total:
        return np.empty(0, np.int64)
    found = _holding(study, id, values[far])
    return np.setdiff1d(found, undeclared_tokens(study, id))


@register(
    "far outliers",
    "measured values",
    reading,
    words,
    entries,
    tokens=far_tokens,
    thresholds={"deviations": Threshold(FAR, "robust deviations from the median", 3, 50)},
)
def far_out(study: Study, id: str) -> Finding | None:
    """Values that lie so far from all others that a slip of the keys is likelier than an answer."""

    def say(count: int) -> str:
        return f"{counted(count, 'value lies', 'values lie')} far from all others"

    return about_entries(study, id, far_out, "warning", say)


def zero_tokens(study: Study, id: str) -> Tokens:
    """Zeros of a ratio variable that stand apart from all other values."""
    if not is_measured(study, id) or study.tag(id).level != "ratio":
        return np.empty(0, np.int64)
    values, counts = study.values(id)
    if values.size < 5 or values[0] != 0 or counts.sum() < FEWEST or counts[0] > MOST_ZEROS * counts.sum():
        return np.empty(0, np.int64)
    rest, weights = values[1:].astype(np.float64), counts[1:]
    step = float(np.median(np.diff(rest[: max(5, rest.size // 2)])))
    if rest[0] <= LEAP * step or rest[0] <= LOW * float(quantile(rest, weights, 0.5)):
        return np.empty(0, np.int64)
    return np.setdiff1d(_holding(study, id, np.zeros(1)), undeclared_tokens(study, id))


@register("zeros apart", "measured values", reading, words, entries, tokens=zero_tokens)
def zeros_apart(study: Study, id: str) -> Finding | None:
    """Zeros far below all other values: they may stand for a missing answer."""

    def say(count: int) -> str:
        return f"{counted(count, 'zero stands', 'zeros stand')} apart from all other values"

    return about_entries(study, id, zeros_apart, "warning", say)


@register(
    "heaping",
    "measured values",
    reading,
    words,
    entries,
    thresholds={"share": Threshold(HEAPED, "share of multiples of ten", 0.15, 1)},
)
def heaping(study: Study, id: str) -> Finding | None:
    """Whole numbers that are mostly round: people guessed rather than counted."""
    if not is_measured(study, id) or study.tag(id).type != "integer":
        return None
    values, counts = study.values(id)
    total = int(counts.sum())
    wide = values.size and values[-1] - values[0] >= 50
    if total < FEWEST_HEAPED or not wide or values.size < 20:
        return None
    share = float(counts[values % 10 == 0].sum()) / total
    if share < threshold(study, "heaping", "share"):
        return None
    return Finding("heaping", "note", id, f"{share:.0%} of the values are multiples of ten")


def _brought(study: Study, id: str) -> str:
    source = study.shelves["source"].get(study.variable(id).origin.source or "")
    return source.brought_at[:10] if source is not None else ""


def coming_tokens(study: Study, id: str) -> Tokens:
    """Dates behind the day on which the file was brought in, where they are few."""
    if study.tag(id).type not in ("date", "datetime"):
        return np.empty(0, np.int64)
    day = canonical_code(_brought(study, id), "date")
    if day is None:
        return np.empty(0, np.int64)
    values, counts = study.values(id)
    end = value_of(day, "date") + 1
    last = end * 86_400 if study.tag(id).type == "datetime" else end
    later = values > last
    if not later.any() or counts[later].sum() > 0.05 * counts.sum():
        return np.empty(0, np.int64)
    return _holding(study, id, values[later])


@register("dates to come", "measured values", reading, words, entries, tokens=coming_tokens)
def dates_to_come(study: Study, id: str) -> Finding | None:
    """Dates later than the day on which the data were brought in."""

    def say(count: int) -> str:
        return f"{counted(count, 'date lies', 'dates lie')} behind {_brought(study, id)}, when the data were brought in"

    return about_entries(study, id, dates_to_come, "warning", say)
