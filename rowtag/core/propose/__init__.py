"""Proposals: what a column looks like it is, with the evidence. A proposal never changes an entry.

`types` says which type fits, `levels` what it measures and is for, `orders` which words have an order of
their own; all thresholds stand in `thresholds`, and docs/proposals.md says the same in words.
"""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from rowtag.core.column import Column
from rowtag.core.engine import engine
from rowtag.core.propose.again import TypeReading, read_as
from rowtag.core.propose.facts import Facts, Suspect, facts_of, plain_lens
from rowtag.core.propose.levels import standing_of
from rowtag.core.propose.numbers import Values, suspect_numbers, valid_values
from rowtag.core.propose.ratings import rating_of
from rowtag.core.propose.thresholds import THRESHOLDS, Thresholds
from rowtag.core.propose.types import Taken, type_of
from rowtag.core.tag import NUMBER_TYPES, Marks, Tag, Type

__all__ = ["THRESHOLDS", "Proposal", "Suspect", "Thresholds", "TypeReading", "plain_lens", "propose", "read_as"]


FEW = 64
"""Different entries up to which columns are likely to be alike."""


@dataclass(frozen=True)
class Proposal:
    """A proposed tag, the evidence for it in words, what cannot be told for sure, and suspected missing entries."""

    tag: Tag
    evidence: str
    doubt: str = ""
    suspects: tuple[Suspect, ...] = ()


def propose(
    column: Column,
    counts: npt.NDArray[np.int64],
    name: str,
    label: str = "",
    question: str = "",
    *,
    kind: Type | None = None,
    marks: Marks | None = None,
    first: bool = False,
) -> Proposal:
    """What one column, as it arrived (one segment, tokens occurring `counts` times), looks like under this name.

    With a type (and marks) given, the rest is proposed for that type. `first`: it stands in front of all others.
    """
    facts, taken, values, suspects = _looked_at(column, counts, kind, marks)
    standing = standing_of(taken.type, values, facts, suspects, name, f"{label} {question}", first=first)
    tag = Tag(
        name=name,
        label=label[:2_000],
        question=question[:20_000],
        type=taken.type,
        level=standing.level,
        use=standing.use,
        marks=taken.marks,
        width=max(1, min(32_767, int(facts.lengths[counts > 0].max(initial=1)))),
        decimals=taken.decimals,
        codes=standing.codes,
        complete=standing.complete,
    )
    return Proposal(tag, standing.evidence, taken.doubt, suspects)


_Looked = tuple[Facts, Taken, Values, tuple[Suspect, ...]]


def _looked_at(column: Column, counts: npt.NDArray[np.int64], kind: Type | None, marks: Marks | None) -> _Looked:
    """What the entries of a column say, whatever it is called. Wide tables have many columns of the same few entries:
    these are looked at once."""
    (segment,) = column.segments
    if segment.size > FEW:
        return _look(column, counts, kind, marks)
    key = ("looked at", tuple(segment.texts.to_pylist()), counts.tobytes(), kind, marks)
    return engine.get(key, lambda: _look(column, counts, kind, marks))


def _look(column: Column, counts: npt.NDArray[np.int64], kind: Type | None, marks: Marks | None) -> _Looked:
    facts = facts_of(column, counts)
    taken = type_of(column, facts, kind, marks)
    suspects = facts.words
    values = valid_values(taken.reading, counts)
    if kind is None and taken.type == "decimal" and (scale := rating_of(column, taken, values)):
        taken, values = scale, valid_values(scale.reading, counts)
    if taken.type in NUMBER_TYPES:
        suspects += suspect_numbers(values)
    return facts, taken, values, suspects
