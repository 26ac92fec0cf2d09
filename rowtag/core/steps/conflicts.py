"""What stands between a step and a state that it was not made for; told from what the step touches, for every kind."""

from collections.abc import Iterable, Iterator, Mapping

import numpy as np

from rowtag.core.errors import Changed, RowTagError
from rowtag.core.refs import Reference, references
from rowtag.core.steps.base import Step, Supplies
from rowtag.core.study import Study
from rowtag.core.touched import (
    TITLED,
    AllEntries,
    OneEntry,
    Order,
    Place,
    WhichRecords,
    edited_positions,
    same_order,
    same_texts,
    title_of,
    touched,
)

FEW = 5
"""Places that an error names."""


def conflicts(step: Step, seen: Study, head: Study, supplies: Supplies | None = None) -> list[Place]:
    """Places because of which a step that was made for the state somebody saw must not be applied to the head.

    A place is in conflict where the step touches it and it was changed meanwhile, or where the step would put
    something else there now, because something that it goes by was changed.
    """
    if seen is head:
        return []
    then = step.change(seen, supplies or {}).study
    try:
        now = step.change(head, supplies or {}).study
    except RowTagError:  # it cannot be done any more: because of what was changed, or for a reason of its own
        found = [*_otherwise(touched(seen, then).places(), seen, head, then, then)]
        if not found:
            raise
        return found
    return [*_otherwise((*touched(seen, then).places(), *touched(head, now).places()), seen, head, then, now)]


def _otherwise(places: Iterable[Place], seen: Study, head: Study, then: Study, now: Study) -> Iterator[Place]:
    """Those places that were changed meanwhile, or would become something else."""
    for place in dict.fromkeys(places):
        if isinstance(place, AllEntries):
            yield from _entries(place, seen, head, then, now)
        elif isinstance(place, Order):
            if not same_order(seen, head):
                yield place
        elif isinstance(place, WhichRecords):
            if seen.records.removed != head.records.removed:
                yield place
        elif place.value(seen) != place.value(head) or place.value(then) != place.value(now):
            yield place


def _entries(place: AllEntries, seen: Study, head: Study, then: Study, now: Study) -> Iterator[Place]:
    """Where entries of a variable that a step changes are others than they were, or would become others."""
    states = (seen, head, then, now)
    if any(place.variable not in state.variables for state in states):
        if place.value(seen) is not place.value(head):
            yield place
        return
    was, there, would, will = (state.column(place.variable) for state in states)
    arrived = min(state.records.arrived for state in states)
    asked = edited_positions(was, would, arrived)
    positions = np.union1d(asked, edited_positions(there, will, arrived))
    same = same_texts(was, there, positions) & same_texts(would, will, positions)
    others = positions[~same] + 1
    if len(others) > FEW:
        yield place
    else:
        yield from (OneEntry(place.variable, record) for record in others.tolist())


def gone(step: Step, seen: Study, head: Study) -> list[Reference]:
    """What a step refers to that was there when it was made, and is there no more."""
    return [
        each
        for each in references(step)
        if each.ref.kind != "record"
        and each.id in seen.shelves[each.ref.kind]
        and each.id not in head.shelves[each.ref.kind]
    ]


def refuse_changed(step: Step, seen: Study, head: Study, by: Iterable[str], supplies: Supplies | None = None) -> None:
    """Raises Changed where a step that was made for one state must not be applied to another; `by` says what was done
    meanwhile, and by whom."""
    missing = gone(step, seen, head)
    if missing:
        said = [_said(each, seen) for each in missing]
        raise _changed(f"Meanwhile this was taken out of the study: {_listed(said)}.", said, by)
    places = conflicts(step, seen, head, supplies)
    if places:
        said = [place.said(head) for place in places]
        what = f"Meanwhile this was changed: {_listed(said)}."
        there = [
            f"{place.said(head)} is now {_shown(place.value(head))}" for place in places if isinstance(place, OneEntry)
        ]
        raise _changed(what, [*(there or said)], by)


def _changed(what: str, said: list[str], by: Iterable[str]) -> Changed:
    return Changed(
        what, remedy="Look at what stands there now, then do it again if it is still right.", details=[*said, *by]
    )


def _said(each: Reference, study: Study) -> str:
    """Something that is gone, by what it was called."""
    value = study.shelves[each.ref.kind][each.id]
    word: Mapping[str, str] = {"variable": "the variable", **TITLED}
    return f"{word[each.ref.kind]} {title_of(value)}"


def _shown(entry: str) -> str:
    return f"“{entry}”" if entry.strip() else "blank"


def _listed(said: list[str]) -> str:
    return ", ".join(said[:FEW]) + ("…" if len(said) > FEW else "")
