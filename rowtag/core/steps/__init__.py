"""All kinds of step, each in a module of its own; importing this package registers them."""

from rowtag.core.steps import (
    accept,
    bring_in,
    codes,
    entries,
    groups,
    lists,
    replace,
    sheets,
    skips,
    stamp,
    start,
    tags,
    variables,
    widths,
)
from rowtag.core.steps.base import STEPS, Applied, Made, Step, Supplies, dump, load, up_to_date
from rowtag.core.steps.conflicts import conflicts, refuse_changed

__all__ = [
    "STEPS",
    "Applied",
    "Made",
    "Step",
    "Supplies",
    "accept",
    "bring_in",
    "codes",
    "conflicts",
    "dump",
    "entries",
    "groups",
    "lists",
    "load",
    "refuse_changed",
    "replace",
    "sheets",
    "skips",
    "stamp",
    "start",
    "tags",
    "up_to_date",
    "variables",
    "widths",
]
