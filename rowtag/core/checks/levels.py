"""Levels that do not go with what a variable holds."""

import re

import numpy as np

from rowtag.core.checks.base import Finding, Threshold, register, threshold
from rowtag.core.study import Study
from rowtag.core.words import counted
from rowtag.core.worked_out import entries, reading, words

FEWEST = 30
"""Records below which it means nothing that all values differ."""
_CALLED = re.compile(r"(^|_)(id|nr|no|num|number|key|code|case|record|respondent|serial)($|_|\d)", re.IGNORECASE)
MOST_ORDERED = 30
"""Different values up to which an order of categories can be looked at."""


@register("identifier as a measure", "level", reading, words, entries)
def identifier_measured(study: Study, id: str) -> Finding | None:
    """Whole numbers that are different in every record, with a name or a sequence that says they only name it."""
    tag = study.tag(id)
    if tag.type != "integer" or tag.level not in ("interval", "ratio") or tag.use == "identifier":
        return None
    values, counts = study.values(id)
    if values.size < FEWEST or counts.max() > 1 or study.fill(id).blank:
        return None
    running = bool((np.diff(values) == 1).mean() > 0.9)
    if not running and not _CALLED.search(tag.name):
        return None
    return Finding(
        "identifier as a measure",
        "warning",
        id,
        f"is {tag.level} and has another value in every record: it names records",
    )


@register("codes as a measure", "level", reading, words, entries)
def codes_measured(study: Study, id: str) -> Finding | None:
    """A level with means on a variable whose values are codes, each with a label of its own."""
    tag, lines = study.tag(id), study.codes(id)
    if (
        tag.level not in ("interval", "ratio")
        or len(lines) < 2
        or any(line.code is None or not line.label for line in lines)
    ):
        return None
    values, _ = study.values(id)
    if not values.size or values.size > len(lines):
        return None
    return Finding(
        "codes as a measure", "note", id, f"is {tag.level}, and each of its {counted(len(lines), 'code')} has a label"
    )


@register(
    "many ordered categories",
    "level",
    reading,
    words,
    entries,
    thresholds={"values": Threshold(MOST_ORDERED, "different values up to which it is an order", 3, 1000)},
)
def many_ordered(study: Study, id: str) -> Finding | None:
    """An order of so many different values that it is hardly one of categories."""
    count = many_ordered_values(study, id)
    if not count:
        return None
    said = f"is ordinal with {counted(count, 'different value')} and no code list"
    return Finding("many ordered categories", "warning", id, said)


def many_ordered_values(study: Study, id: str) -> int:
    """How many different values an order without a code list has, where these are too many; else 0."""
    if study.tag(id).level != "ordinal" or study.codes(id):
        return 0
    values, _ = study.values(id)
    return int(values.size) if values.size > threshold(study, "many ordered categories", "values") else 0
