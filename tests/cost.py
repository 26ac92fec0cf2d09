"""How cost grows, told so that a busy machine makes no difference: as ratios, of the best of several tries."""

import time
from collections.abc import Callable, Sequence

TRIES = 5
LEAST = 0.02
"""Seconds below which nothing is told of growth."""


def taken(work: Callable[[], object]) -> float:
    """The seconds of processor time that some work takes in this thread."""
    begun = time.thread_time()
    work()
    return time.thread_time() - begun


def grows_in_proportion(make: Callable[[int], Callable[[], object]], sizes: Sequence[int], most: float = 10) -> bool:
    """Whether the work made for the largest of some sizes takes at most `most` times that for the smallest. What else
    the machine does can only add to the time, so that each counts by its quickest try."""
    best = dict.fromkeys((min(sizes), max(sizes)), float("inf"))
    for _ in range(TRIES):
        for size in best:
            best[size] = min(best[size], taken(make(size)))
        if best[max(sizes)] <= most * max(best[min(sizes)], LEAST):
            return True
    return False
