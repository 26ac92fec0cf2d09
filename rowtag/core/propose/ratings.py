"""Ratings among which a few fractions stand: a scale of whole numbers, and the fractions as strays."""

import numpy as np

from rowtag.core.column import Column
from rowtag.core.propose.facts import plain_lens
from rowtag.core.propose.numbers import Values, suspect_numbers
from rowtag.core.propose.thresholds import THRESHOLDS
from rowtag.core.propose.types import Taken
from rowtag.core.reading import read_segment
from rowtag.core.words import counted


def rating_of(column: Column, taken: Taken, numbers: Values) -> Taken | None:
    """A column of decimals as whole numbers, where nearly all are steps of a rating scale; None where they are not."""
    kept = ~np.isin(numbers.values, [float(each.entry) for each in suspect_numbers(numbers)])
    values, counts = numbers.values[kept], numbers.counts[kept]
    whole = values == np.floor(values)
    steps, often = values[whole], counts[whole]
    share = float(often.sum() / max(counts.sum(), 1))
    if not (THRESHOLDS.whole_ratings <= share < 1) or not 0 < len(steps) <= THRESHOLDS.most_codes:
        return None
    usual = steps[often >= THRESHOLDS.rare_code * counts.sum()]
    scale = len(usual) in THRESHOLDS.scale_steps and usual[0] in (0, 1) and usual[-1] - usual[0] == len(usual) - 1
    between = steps[0] <= values.min() and values.max() <= steps[-1]
    if not scale or not between or often.sum() < THRESHOLDS.repeats * len(steps):
        return None
    reading = read_segment(column.segments[0], plain_lens("integer", taken.marks))
    broken = int(counts[~whole].sum())
    shown = ", ".join(f"{value:g}" for value in values[~whole][:3])
    said = f"{counted(broken, 'entry', 'entries')} ({shown}) {'is' if broken == 1 else 'are'} no step of this scale"
    return Taken("integer", taken.marks, reading, doubt="; ".join(filter(None, (taken.doubt, said))))
