"""Reliability against hand-worked values."""

import numpy as np
import pytest

from rowtag.core.checks.measured import deviations
from rowtag.core.reliability import alpha, item_rest

ITEMS = np.array([[1, 2, 1], [2, 2, 3], [3, 4, 3], [4, 4, 5], [5, 5, 4]], float)


def test_alpha_by_hand() -> None:
    """Three items of five: variances 2.5, 1.8, 2.2, of the sums 17.3: alpha 3/2 (1 − 6.5/17.3); undefined otherwise."""
    assert alpha(ITEMS) == pytest.approx(1.5 * (1 - 6.5 / 17.3))
    assert np.isnan(alpha(ITEMS[:, :1])) and np.isnan(alpha(np.ones((4, 3)))) and np.isnan(alpha(ITEMS[:1]))


def test_item_rest() -> None:
    """The first item with the sums 3, 5, 7, 9, 9 of the others: 15.99 of 10 × 27.2 squared, by hand; one that does not
    vary has none."""
    rest = np.array([3.0, 5, 7, 9, 9])
    by_hand = ((ITEMS[:, 0] - 3) * (rest - 6.6)).sum() / np.sqrt(10 * ((rest - 6.6) ** 2).sum())
    assert item_rest(ITEMS)[0] == pytest.approx(by_hand) == pytest.approx(16 / np.sqrt(10 * 27.2))
    assert np.isnan(item_rest(np.c_[ITEMS, np.ones(5)])[3])


def test_robust_deviations() -> None:
    """From the median by the median of the distances, each value as often as it occurs: 1, 2, 2, 3, 4, 100."""
    values, counts = np.array([1.0, 2, 3, 4, 100]), np.array([1, 2, 1, 1, 1])
    away = np.abs(np.array([1, 2, 2, 3, 4, 100]) - 2.5)
    spread = 1.4826 * np.median(away)
    assert deviations(values, counts) == pytest.approx(np.abs(values - 2.5) / spread)
    assert (deviations(np.array([1.0, 9]), np.array([9, 1])) == 0).all()
