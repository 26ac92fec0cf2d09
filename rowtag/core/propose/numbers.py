"""Numbers of a column: distinct values, and which of them may be missing codes."""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from rowtag.core.propose.facts import Suspect
from rowtag.core.propose.thresholds import THRESHOLDS
from rowtag.core.reading import SegmentReading, State, distinct

_NEGATIVE_CODES = {*range(-9, 0), *range(-99, -90), -66, -77, -88, *range(-999, -990), -888, -777}
"""Negative numbers that are used as missing codes."""
_NINES = (9, 99, 999, 9999)
"""Highest numbers that are."""


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
    negative = int(np.searchsorted(values, 0))
    codes = values[:negative].tolist()
    few = 0 < negative < len(values) - negative and negative <= THRESHOLDS.most_negative_codes
    if few and _NEGATIVE_CODES.issuperset(codes):
        found += [
            Suspect(f"{value:.0f}", count, "a negative code among positive numbers", number=True)
            for value, count in zip(codes, times[:negative].tolist(), strict=True)
        ]
    below = len(values) - negative - 1
    if below > 0 and values[-1] in _NINES and _apart(float(values[-2]), int(values[-1]), below):
        found.append(Suspect(f"{values[-1]:.0f}", int(times[-1]), "stands apart from the other numbers", number=True))
    return tuple(found)


def _apart(highest: float, nines: int, below: int) -> bool:
    """Whether a value of nines lies too far above the highest other value to belong to it."""
    return highest <= (nines - 2 if nines == 9 and below <= 8 else nines * THRESHOLDS.nines_apart)
