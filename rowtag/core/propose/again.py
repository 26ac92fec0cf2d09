"""How a variable would read under another type: a look before the type is chosen."""

from dataclasses import dataclass

import numpy as np

from rowtag.core.column import Column
from rowtag.core.propose.facts import facts_of
from rowtag.core.propose.types import type_of
from rowtag.core.reading import Fill, State, count_states, read_column
from rowtag.core.study import Study
from rowtag.core.tag import Marks, Type, lens_of
from rowtag.core.tokens import Segment

SHOWN = 12
"""Unreadable entries that are given as examples."""


@dataclass(frozen=True)
class TypeReading:
    """A type, how entries are best written under it, the fill, and the commonest entries that it cannot read."""

    type: Type
    marks: Marks
    fill: Fill
    unreadable: tuple[str, ...]


def read_as(study: Study, id: str, kind: Type) -> TypeReading:
    """How the entries of a variable read under a type; codes, limits and missing codes stay as they are."""
    tag, column, counts = study.tag(id), study.column(id), study.counts(id)
    marks = tag.marks
    if kind != tag.type and kind != "text":
        whole = Column((Segment.of(column.texts()),), ())
        marks = type_of(whole, facts_of(whole, counts), kind).marks
    lens = lens_of(tag.with_parts(type=kind, marks=marks), study.codes(id))
    states = read_column(column, lens).states
    tokens = np.flatnonzero((states == State.UNREADABLE) & (counts > 0))
    commonest = tokens[np.argsort(-counts[tokens], kind="stable")][:SHOWN]
    return TypeReading(kind, marks, count_states(states, counts), tuple(column.texts_at(commonest)))
