"""Sums along records: what is told of each token of many variables, added up for every record.

A sum is remembered in parts of a few variables each, so that after an edit only the part of its variable is made anew.
"""

from collections.abc import Callable, Sequence
from typing import Any

import numpy.typing as npt

from rowtag.core.frame import at_every_position
from rowtag.core.study import Study
from rowtag.core.worked_out import entries, reading, records, worked_out

PART = 8
"""Variables of one part."""
PerToken = Callable[[Study, str], npt.NDArray[Any]]
"""Tells something of each token of a variable."""


def summed(study: Study, ids: Sequence[str], of: PerToken) -> npt.NDArray[Any]:
    """For every position the sum over some variables (at least one) of what `of` tells of their tokens there, in the
    type that it has; it may look at nothing but how they read."""
    parts = (_part(study, tuple(ids[first : first + PART]), of) for first in range(0, len(ids), PART))
    total = next(parts).copy()
    for part in parts:
        total += part
    return total


@worked_out(reading, entries, records)
def _part(study: Study, ids: tuple[str, ...], of: PerToken) -> npt.NDArray[Any]:
    out = at_every_position(study, ids[0], of(study, ids[0]))
    for id in ids[1:]:
        out += at_every_position(study, id, of(study, id))
    return out
