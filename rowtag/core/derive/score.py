"""Scores: how the items of a sum or mean go together."""

from dataclasses import dataclass

import numpy as np

from rowtag.core.derive.sentences import read
from rowtag.core.derive.ways import Expression
from rowtag.core.formulas.grammar import spelled_name
from rowtag.core.formulas.meaning import Meaning, Meanings
from rowtag.core.formulas.nodes import Call, Neighbours
from rowtag.core.frame import Frame
from rowtag.core.reliability import alpha, item_rest
from rowtag.core.rules import Formula
from rowtag.core.study import Study

FEWEST_ITEMS = 2


@dataclass(frozen=True)
class Item:
    """An item of a score: as it stands there, its correlation with the sum of the others, and alpha without it (each
    None where it is not defined)."""

    said: str
    rest: float | None
    without: float | None


@dataclass(frozen=True)
class Reliability:
    """How the items of a score go together, told from the records in which all of them are valid."""

    alpha: float | None
    records: int
    items: tuple[Item, ...]


def reliability(how: Formula, study: Study) -> Reliability | None:
    """The reliability of what a sentence sums up; None where it is no sum or mean of several numbers."""
    way = read(how.text).way
    if not isinstance(way, Expression) or not isinstance(way.formula, Call):
        return None
    node = way.formula
    if node.what not in ("mean", "sum") or node.over is not None:
        return None
    meanings = Meanings(study, how.names.get, how.spans)
    items: list[tuple[str, Meaning]] = []
    for given in node.given:
        each = meanings.several(given)
        if isinstance(given, Neighbours):
            items += [(spelled_name(study.tag(one.variable or "").name), one) for one in each]
        else:
            items += [(how.text[given.at[0] : given.at[1]].strip(), one) for one in each]
    if len(items) < FEWEST_ITEMS or any(one.kind != "number" for _, one in items):
        return None
    rows = [np.empty((0, len(items)))]
    for block in Frame(study).blocks():
        found = [one.work(block) for _, one in items]
        whole = np.logical_and.reduce([value.known for value in found])
        rows.append(np.stack([value.data[whole] for value in found], axis=1))
    values = np.concatenate(rows)
    rest = item_rest(values) if len(values) > 1 else np.full(len(items), np.nan)
    without = [alpha(np.delete(values, at, axis=1)) for at in range(len(items))]
    return Reliability(
        _known(alpha(values)),
        len(values),
        tuple(
            Item(said, _known(float(one)), _known(other))
            for (said, _), one, other in zip(items, rest.tolist(), without, strict=True)
        ),
    )


def _known(value: float) -> float | None:
    return None if np.isnan(value) else value
