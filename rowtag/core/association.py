"""How two variables of a table go together: figures over counts, or over weighted sums, of r rows and c columns."""

from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

Table = npt.NDArray[Any]
FEW = 5.0
"""Expected records in a cell below which the chi-square distribution fits badly (Cochran 1954, Biometrics 10)."""


@dataclass(frozen=True)
class ChiSquare:
    """Pearson's chi-square of independence (Pearson 1900) with its degrees of freedom and probability, and the share of
    cells with fewer expected than 5."""

    value: float
    freedom: int
    p: float
    few: float


def _used(table: Table) -> npt.NDArray[np.float64]:
    """The rows and columns in which there is something, in which alone anything can be seen."""
    sums: npt.NDArray[np.float64] = table.astype(np.float64)
    return sums[np.ix_(sums.sum(axis=1) > 0, sums.sum(axis=0) > 0)]


def _chi_square(sums: npt.NDArray[np.float64]) -> tuple[float, npt.NDArray[np.float64]]:
    expected = np.outer(sums.sum(axis=1), sums.sum(axis=0)) / sums.sum()
    return float(((sums - expected) ** 2 / expected).sum()), expected


def chi_square(table: Table) -> ChiSquare | None:
    """Chi-square of a table of counts; None where fewer than two rows or columns have records. It is not given for
    weighted sums, of which it is no test."""
    sums = _used(table)
    if min(sums.shape) < 2:
        return None
    from scipy.special import gammaincc  # loaded where somebody wants it

    value, expected = _chi_square(sums)
    freedom = (sums.shape[0] - 1) * (sums.shape[1] - 1)
    return ChiSquare(value, freedom, float(gammaincc(freedom / 2, value / 2)), float((expected < FEW).mean()))


def cramers_v(table: Table) -> float | None:
    """Cramér's V (Cramér 1946, Mathematical Methods of Statistics), 0 to 1; None where chi-square is."""
    sums = _used(table)
    if min(sums.shape) < 2:
        return None
    value, _ = _chi_square(sums)
    return min(float(np.sqrt(value / (sums.sum() * (min(sums.shape) - 1)))), 1.0)


def _beyond(sums: npt.NDArray[np.float64]) -> npt.NDArray[np.float64]:
    """What stands in later rows and later columns than each cell."""
    out = np.zeros_like(sums)
    out[:-1, :-1] = sums[::-1, ::-1].cumsum(axis=0).cumsum(axis=1)[::-1, ::-1][1:, 1:]
    return out


def _pairs(sums: npt.NDArray[np.float64]) -> tuple[float, float]:
    """Pairs of records in the same order by rows and by columns, and in the opposite one."""
    return float((sums * _beyond(sums)).sum()), float((sums * _beyond(sums[:, ::-1])[:, ::-1]).sum())


def gamma(table: Table) -> float | None:
    """Gamma of two ordered variables (Goodman and Kruskal 1954, JASA 49), -1 to 1; None where no pair is ordered."""
    same, opposite = _pairs(_used(table))
    return (same - opposite) / (same + opposite) if same + opposite > 0 else None


def tau_b(table: Table) -> float | None:
    """Tau-b of two ordered variables (Kendall 1945, Biometrika 33), -1 to 1; None where either does not vary."""
    sums = _used(table)
    same, opposite = _pairs(sums)
    whole = float(sums.sum()) ** 2
    rows, columns = (whole - float((sums.sum(axis=axis) ** 2).sum()) for axis in (1, 0))
    return 2 * (same - opposite) / float(np.sqrt(rows * columns)) if min(sums.shape) > 1 else None
