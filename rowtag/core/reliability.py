"""Reliability of a battery: how its items go together."""

from typing import Any

import numpy as np
import numpy.typing as npt

Table = npt.NDArray[Any]


def alpha(values: Table) -> float:
    """Cronbach's alpha of n records × k items, all valid (Cronbach 1951, Psychometrika 16, 297-334); NaN where it is
    not defined: fewer than two items or records, or sums that do not vary."""
    records, items = values.shape
    if items < 2 or records < 2:
        return float("nan")
    total = float(values.sum(axis=1).var(ddof=1))
    return items / (items - 1) * (1 - float(values.var(axis=0, ddof=1).sum()) / total) if total > 0 else float("nan")


def item_rest(values: Table) -> npt.NDArray[np.float64]:
    """The correlation of each item with the sum of the others: float64 (k); NaN where either does not vary."""
    total = values.sum(axis=1)
    out = np.full(values.shape[1], np.nan)
    for at in range(values.shape[1]):
        item, rest = values[:, at], total - values[:, at]
        if item.std() > 0 and rest.std() > 0:
            out[at] = np.corrcoef(item, rest)[0, 1]
    return out
