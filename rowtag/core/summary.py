"""Figures over numbers, each counted or weighed.

Under a weight, sums take the place of counts. Weights count by their proportions alone: the spread is worked out with
weights that are 1 in the mean, so that it does not depend on how large they are, and equal weights change nothing.
"""

from dataclasses import dataclass
from fractions import Fraction
from typing import Any

import numpy as np
import numpy.typing as npt

Numbers = npt.NDArray[Any]

_LARGEST = 1e150
"""Size of numbers beyond which their squares are none."""
_WHOLE = 2**53
"""Size of whole numbers beyond which floats have no fractions."""


@dataclass(frozen=True)
class Summary:
    """Figures over n valid numbers; None where there are too few entries, or no number is large enough to tell it.

    Variance and sd with n - 1; the standard error is sd by the square root of n, under a weight of the effective n,
    (sum w)² / sum w² (Kish 1965, Survey Sampling). Quantiles by linear interpolation between order statistics (Hyndman
    and Fan 1996, American Statistician 50, type 7), under a weight as its weighted kind (Akinshin 2023,
    arXiv:2304.07265). Skewness and kurtosis (0 for a normal distribution) are G1 and G2 of Joanes and Gill (1998, The
    Statistician 47). `mode` is the least of the `modes` values that are met most often; `weighed` what the records
    weigh together.
    """

    n: int
    mean: float | None = None
    sd: float | None = None
    min: float | int | None = None
    q1: float | int | None = None
    median: float | int | None = None
    q3: float | int | None = None
    max: float | int | None = None
    variance: float | None = None
    se: float | None = None
    range: float | int | None = None
    mode: float | int | None = None
    modes: int = 0
    skewness: float | None = None
    kurtosis: float | None = None
    low: float | int | None = None
    """The 5 % quantile."""
    high: float | int | None = None
    """The 95 % quantile."""
    weighed: float | None = None


@dataclass(frozen=True)
class Weighed:
    """What the records behind each of k distinct values weigh (float64, k; above 0), and the sum of all squares."""

    sums: npt.NDArray[np.float64]
    squares: float

    @property
    def effective(self) -> float:
        """How many records of equal weight would tell as much (Kish 1965)."""
        return float(self.sums.sum()) ** 2 / self.squares


SHARES = (0.05, 0.25, 0.5, 0.75, 0.95)


def figures_of(values: Numbers, counts: npt.NDArray[np.int64], kind: str, weighed: Weighed | None = None) -> Summary:
    """The figures of distinct numbers, ascending (k), and how many records have each (k); `kind` is their type."""
    n = int(counts.sum())
    if not n:
        return Summary(0, weighed=None if weighed is None else 0.0)
    sums = counts if weighed is None else weighed.sums
    whole = float(sums.sum())
    least = values[0].item() if values.dtype == np.int64 else 0.0  # floats do not tell long whole numbers apart
    floats = (values - least).astype(np.float64)
    scale = max(float(np.abs(floats).max()), 1.0) if np.abs(floats).max() > _LARGEST else 1.0
    above = float(np.dot(floats / scale, sums) / whole)
    if values.size == 1:
        above = float(floats[0] / scale)  # which a sum divided by its weights may miss by a last digit
    away = floats / scale - above
    variance = _finite(float(np.dot(away**2, sums) * (n / whole) / (n - 1)) if n > 1 else None)
    sd = None if variance is None else _finite(scale * float(np.sqrt(variance)))
    effective = n if weighed is None else weighed.effective
    mean = min(max(least + above * scale, values[0].item()), values[-1].item())  # which floats may not tell from it
    if weighed is None:
        ranked = [quantile(values, counts, share) for share in SHARES]
    else:
        ranked = [weighed_quantile(values, weighed, share) for share in SHARES]
    low, q1, median, q3, high = (_number(value, kind) for value in ranked)
    lowest, highest = _number(values[0].item(), kind), _number(values[-1].item(), kind)
    often = np.flatnonzero(sums >= sums.max() * (1 - 1e-12))
    skewness, kurtosis = _shape(away, sums / whole, n)
    return Summary(
        n,
        mean,
        sd,
        lowest,
        q1,
        median,
        q3,
        highest,
        _finite(None if sd is None else sd * sd),
        None if sd is None else sd / effective**0.5,
        _finite(highest - lowest),
        _number(values[often[0]].item(), kind),
        often.size,
        skewness,
        kurtosis,
        low,
        high,
        None if weighed is None else whole,
    )


def _shape(away: npt.NDArray[np.float64], shares: npt.NDArray[np.float64], n: int) -> tuple[float | None, float | None]:
    """Skewness and kurtosis of deviations from the mean (k) and the share of each (k)."""
    second = float(np.dot(away**2, shares))
    if second <= 0:
        return None, None
    z = away / np.sqrt(second)
    skew, tails = float(np.dot(z**3, shares)), float(np.dot(z**4, shares)) - 3
    return (
        _finite(skew * (n * (n - 1)) ** 0.5 / (n - 2) if n > 2 else None),
        _finite((n - 1) / ((n - 2) * (n - 3)) * ((n + 1) * tails + 6) if n > 3 else None),
    )


def _finite(value: Any) -> Any:
    """A figure, where there is one."""
    return value if value is not None and abs(value) < float("inf") else None


def _number(value: float | int, kind: str) -> float | int:
    """A whole value as an integer where its type says so."""
    return int(value) if kind == "integer" and value == int(value) else value


def quantile(values: Numbers, counts: npt.NDArray[np.int64], share: float) -> float | int:
    """The quantile of ascending distinct values with counts, by linear interpolation. Of whole numbers it is exact,
    but to the next whole number where these are so long that floats have no fractions."""
    reach = np.cumsum(counts)
    position = (int(reach[-1]) - 1) * Fraction(share)
    below = int(position)
    low: float | int = values[np.searchsorted(reach, below, side="right")].item()
    high: float | int = values[np.searchsorted(reach, min(below + 1, int(reach[-1]) - 1), side="right")].item()
    part = position - below
    if isinstance(low, int) and isinstance(high, int):
        exact = low + (high - low) * part
        return round(exact) if exact.denominator == 1 or abs(exact) >= _WHOLE else float(exact)
    return low if low == high else low * float(1 - part) + high * float(part)


def weighed_quantile(values: Numbers, weighed: Weighed, share: float) -> float | int:
    """The weighted quantile of type 7 (Akinshin 2023): the mean of the values between two shares of the weight, as far
    apart as one of the effective records."""
    effective = weighed.effective
    first = (effective - 1) * share / effective
    reach = np.cumsum(weighed.sums) / weighed.sums.sum()
    reach[-1] = 1.0
    part = np.diff(np.clip(reach, first, min(first + 1 / effective, 1.0)), prepend=first)
    met = np.flatnonzero(part > 0)
    if met.size < 2:
        at = met[0] if met.size else np.searchsorted(reach, first)
        found: float | int = values[min(int(at), values.size - 1)].item()
        return found
    chosen = values[met]
    least = chosen[0].item()
    return float(least + np.dot((chosen - least).astype(np.float64), part[met]) / part[met].sum())
