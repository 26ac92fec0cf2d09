"""Numbers of a column: distinct values, and which of them may be missing codes."""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from rowtag.core.propose.facts import Suspect
from rowtag.core.propose.thresholds import THRESHOLDS
from rowtag.core.reading import SegmentReading, State, distinct

_NEGATIVE_CODES = (*range(-9, 0), *range(-99, -90), -66, -77, -88, *range(-999, -990), -888, -777)
"""Negative numbers that are used as missing codes."""


@dataclass(frozen=True, eq=False)
class Values:
    """Distinct valid numbers in ascending order (float64, n), and how often each occurs (int64, n)."""

    values: npt.NDArray[np.float64]
    counts: npt.NDArray[np.int64]


def valid_values(reading: SegmentReading, counts: npt.NDArray[np.int64]) -> Values:
    """The valid numbers (or days, or seconds) of a column whose tokens occur `counts` times; none of text."""
    if reading.parsed is None:
        return Values(np.empty(0), np.empty(0, np.int64))
    chosen = (reading.states == State.VALID) & (counts > 0)
    return Values(*distinct(reading.parsed.values[chosen], counts[chosen]))


def suspect_numbers(numbers: Values) -> tuple[Suspect, ...]:
    """Negative codes among numbers that are never negative, and 9, 99, 999 … apart from the rest."""
    values, times = numbers.values, numbers.counts
    found: list[Suspect] = []
    codes = np.isin(values, _NEGATIVE_CODES)
    others = values[~codes]
    if 0 < codes.sum() < others.size and codes.sum() <= THRESHOLDS.most_negative_codes and (others >= 0).all():
        pairs = zip(values[codes].tolist(), times[codes].tolist(), strict=True)
        found += [
            Suspect(f"{value:.0f}", count, "a negative code among positive numbers", number=True)
            for value, count in pairs
        ]
    for nines in (9, 99, 999, 9999):
        at = np.flatnonzero(values == nines)
        below = values[(values < nines) & (values >= 0)]
        if at.size and below.size and values[-1] == nines and _apart(float(below[-1]), nines, len(below)):
            found.append(Suspect(str(nines), int(times[at[0]]), "stands apart from the other numbers", number=True))
    return tuple(found)


def _apart(highest: float, nines: int, below: int) -> bool:
    """Whether a value of nines lies too far above the highest other value to belong to it."""
    return highest <= (nines - 2 if nines == 9 and below <= 8 else nines * THRESHOLDS.nines_apart)
