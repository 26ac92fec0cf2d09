"""Basis: which records views are made of, and what each of them weighs, every other one accounted for."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

import numpy as np
import numpy.typing as npt

from rowtag.core.errors import BadInput
from rowtag.core.formulas import BadFormula, Formula, meant
from rowtag.core.frame import Frame, at_every_position
from rowtag.core.reading import State, spell
from rowtag.core.study import Study
from rowtag.core.tag import NUMBER_TYPES
from rowtag.core.words import counted


@dataclass(frozen=True)
class Weights:
    """The least and the greatest weight, what all records weigh together, and how many of equal weight would tell as
    much: (sum w)² / sum w² (Kish 1965, Survey Sampling)."""

    least: float
    greatest: float
    sum: float
    effective: float


@dataclass(frozen=True)
class Basis:
    """The records of views.

    `frame` holds those that meet the condition and weigh something. Of all `records`, `met` meet it and for `unknown`
    it cannot be told; of those that meet it `unweighed` have no weight and are left out, by its reading.
    """

    frame: Frame
    records: int
    met: int
    unknown: int = 0
    unweighed: Mapping[str, int] = field(default_factory=dict)
    weights: Weights | None = None


def basis_of(study: Study, where: Formula | None = None, weight: str | None = None) -> Basis:
    """The records that meet a condition, each with its weight. Raises BadFormula where the condition means nothing,
    BadInput where the variable is no weight, NotThere where it is gone."""
    records = Frame(study).size
    chosen, unknown = (None, 0) if where is None else _meeting(study, where)
    met = records if chosen is None else int(chosen.sum())
    if weight is None:
        return Basis(Frame(study, chosen), records, met, unknown)
    tag = study.tag(weight)
    if tag.type not in NUMBER_TYPES:
        raise BadInput(
            f"“{tag.name}” cannot be a weight: it is of type {tag.type}.",
            remedy="Choose a number, or give it the type decimal in the Codebook.",
        )
    values, _ = Frame(study, chosen).values(weight)
    if values.size and values[0] < 0:
        said = counted(int(np.sum(values < 0)), "negative number")
        raise BadInput(
            f"“{tag.name}” cannot be a weight: it holds {said}, such as {spell(values[0].item(), tag.type)}.",
            remedy="Make them strays by limits from 0, or correct them in Records.",
        )
    if not values.size or values[-1] <= 0:
        raise BadInput(f"“{tag.name}” cannot be a weight: no record weighs anything.", remedy="Choose another.")
    reading = study.reading(weight)
    assert reading.values is not None  # it is a number
    weighs = (reading.states == State.VALID) & (np.nan_to_num(reading.values) > 0)
    frame = Frame(study, at_every_position(study, weight, weighs) & (True if chosen is None else chosen), weight)
    fill = Frame(study, chosen).fill(weight)
    nothing = fill.valid - frame.size
    left = {"missing": fill.missing, "blank": fill.blank, "stray": fill.stray, "0": nothing}
    sums, squares = float(frame.counts(weight).sum()), frame.squares(weight)
    heavy = values[values > 0]
    return Basis(
        frame,
        records,
        met,
        unknown,
        {word: count for word, count in left.items() if count},
        Weights(float(heavy[0]), float(heavy[-1]), sums, sums**2 / squares),
    )


def _meeting(study: Study, where: Formula) -> tuple[npt.NDArray[Any], int]:
    """Which records meet a condition, by position, and for how many it cannot be told."""
    found = meant(where, study)
    if found.kind != "truth":
        raise BadFormula("This is no condition.", found.meaning.at, remedy="It is met or not, such as: hours > 10")
    chosen, unknown = np.zeros(study.records.arrived, bool), 0
    for block, value in found.blocks():
        chosen[block.positions] = value.known & value.data
        unknown += int((~value.known).sum())
    return chosen, unknown
