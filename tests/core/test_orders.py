"""Words with an order of their own: every phrase has one place in its scale, and bands are ordered by their ends."""

from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rowtag.core.propose.orders import SCALES, natural_order


@pytest.mark.parametrize("scale", SCALES)
def test_each_scale_is_consistent(scale: str) -> None:
    """No phrase stands twice in a scale, and the first phrases of its ranks come out in order."""
    ranks = [line.strip().split("|") for line in SCALES[scale].split("\n")]
    phrases = [phrase for rank in ranks for phrase in rank]
    assert len(phrases) == len(set(phrases)) and all(phrase == phrase.strip().lower() for phrase in phrases)
    words = [rank[0].capitalize() for rank in reversed(ranks)]
    found = natural_order(words)
    assert found is not None
    assert found[1] == sorted(found[1], key=lambda rank: -1 if rank is None else rank, reverse=True)
    assert None not in found[1]


@given(st.lists(st.integers(0, 500), min_size=3, max_size=8, unique=True), st.sampled_from(["-", "–", " to ", " - "]))
def test_bands_follow_their_numbers(ends: list[int], between: str) -> None:
    """Bands made from ascending ends, open at the first and last, are ordered as they were made."""
    ends = sorted(ends)
    bands = [f"under {ends[0]}", *(f"{low}{between}{high}" for low, high in pairwise(ends))]
    bands.append(f"{ends[-1]} and over")
    found = natural_order(bands)
    assert found == ("bands of numbers", list(range(len(bands))))
    assert natural_order(bands[::-1]) == ("bands of numbers", list(range(len(bands)))[::-1])


@pytest.mark.parametrize("words", [[], ["Agree"], ["Own", "Shared"], ["1", "2", "3"], ["10-20", "15-30"], ["1-2", "2"]])
def test_nothing_is_ordered_that_has_no_order(words: list[str]) -> None:
    """One word, other words, plain numbers and bands that overlap have no order."""
    assert natural_order(words) is None
