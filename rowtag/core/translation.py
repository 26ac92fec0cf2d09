"""Steps carried from one study to another: ids become names and names become the ids that have them there.

Which values are ids stands in the types of a step (`rowtag.core.refs`), so that every kind of step is translated alike.
"""

from collections.abc import Callable, MutableMapping
from dataclasses import dataclass
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from rowtag.core.frame import Frame
from rowtag.core.reading import State
from rowtag.core.refs import Ref, mapped, references
from rowtag.core.steps.base import Step, dump
from rowtag.core.study import Study
from rowtag.core.touched import TITLED, title_of

Known = MutableMapping[tuple[str, str], str]
"""Ids in the one study (by kind and id) and in the other."""


@dataclass(frozen=True)
class Translated:
    """A step as it is in another study; None where something it names is not to be met there, which `unmet` says."""

    step: Step | None
    unmet: tuple[str, ...] = ()


def translated(step: Step, source: Study, target: Study, known: Known, new_id: Callable[[], str]) -> Translated:
    """A step of one study as a step of another.

    `known` says which ids mean the same, where that is known; it learns those of things that the step brings. All
    others are met by name; records by identifier, where one variable identifies them in both, else by number.
    """
    unmet: dict[str, None] = {}
    brought = {(each.ref.kind, each.id) for each in references(step) if each.ref.may_be_new}
    numbers = _Records(source, target, known)

    def change(ref: Ref, id: Any) -> Any:
        if ref.kind == "record":
            number = numbers.met(id)
            if number is None:
                unmet[numbers.said(id)] = None
            return id if number is None else number
        found = known.get((ref.kind, id))
        if found is not None:
            return found
        there = source.shelves[ref.kind].get(id)
        met = [] if there is None else _called(target, ref.kind, title_of(there))
        if len(met) == 1:
            return met[0]
        if (ref.kind, id) in brought and not met:
            fresh = id if id not in target.shelves[ref.kind] else new_id()
            known[ref.kind, id] = fresh
            return fresh
        unmet[_unmet(ref.kind, there, len(met))] = None
        return id

    made = mapped(step, change)
    return Translated(None if unmet else made, tuple(unmet))


def by_name(step: Step, study: Study) -> dict[str, Any]:
    """A step as JSON data with names in place of ids, as far as they name what is in the study."""

    def change(ref: Ref, id: Any) -> Any:
        found = None if ref.kind == "record" else study.shelves[ref.kind].get(id)
        return id if found is None else title_of(found)

    return dump(mapped(step, change))


def _called(study: Study, kind: str, title: str) -> list[str]:
    return [id for id, each in study.shelves[kind].items() if title_of(each) == title]


def _unmet(kind: str, there: Any, several: int) -> str:
    word = {"variable": "variable", **{kind: said.removeprefix("the ") for kind, said in TITLED.items()}}[kind]
    if there is None:
        return f"a {word} that is not known"
    return (
        f"more than one {word} is called “{title_of(there)}”" if several else f"no {word} is called “{title_of(there)}”"
    )


class _Records:
    """Record numbers of one study in another."""

    def __init__(self, source: Study, target: Study, known: Known) -> None:
        self._source, self._target = source, target
        self._pair = self._identifiers(known) if source is not target else None

    def met(self, record: int) -> int | None:
        """The number in the other study."""
        if self._pair is None:
            return record if 1 <= record <= self._target.records.arrived else None
        own, theirs = self._pair
        entry = _entry(self._source, own, record)
        reading = self._target.reading(theirs)
        tokens = np.flatnonzero(pc.equal(reading.canonical(), pa.scalar(entry, pa.large_string())))
        found = Frame(self._target).numbers_of(theirs, tokens, most=1) if entry else []
        return found[0] if found else None

    def said(self, record: int) -> str:
        """What is not met, in words."""
        if self._pair is None:
            return f"there is no record {record:,}"
        return f"no record has the identifier “{_entry(self._source, self._pair[0], record)}”"

    def _identifiers(self, known: Known) -> tuple[str, str] | None:
        """The variable that identifies records in both studies, by its ids."""
        for id in self._source.order:
            if self._source.tag(id).use == "identifier" and _unique(self._source, id):
                met = known.get(("variable", id)) or next(
                    iter(_called(self._target, "variable", self._source.tag(id).name)), None
                )
                if met in self._target.variables and met is not None and _unique(self._target, met):
                    return id, met
        return None


def _unique(study: Study, id: str) -> bool:
    """Whether every record that is there has a valid entry of a variable, each another."""
    fill, reading = study.fill(id), study.reading(id)
    if fill.valid != study.records.count:
        return False
    tokens = np.flatnonzero((reading.states == State.VALID) & (study.counts(id) > 0))
    return len(pc.unique(reading.canonical(tokens))) == study.records.count


def _entry(study: Study, id: str, record: int) -> str:
    token = study.column(id).tokens_at(np.array([record - 1]))
    text: str = study.reading(id).canonical(token)[0].as_py()
    return text
