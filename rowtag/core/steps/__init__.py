"""All kinds of step, each in a module of its own; importing this package registers them."""

from rowtag.core.steps import (
    accept,
    bring_in,
    codes,
    entries,
    groups,
    lists,
    sheets,
    stamp,
    start,
    tags,
    variables,
    widths,
)
from rowtag.core.steps.base import STEPS, Applied, Step, Supplies, conflicts, refuse_changed, step_from

__all__ = [
    "STEPS",
    "Applied",
    "Step",
    "Supplies",
    "accept",
    "bring_in",
    "codes",
    "conflicts",
    "entries",
    "groups",
    "lists",
    "refuse_changed",
    "sheets",
    "stamp",
    "start",
    "step_from",
    "tags",
    "variables",
    "widths",
]
