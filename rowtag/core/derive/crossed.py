"""Old by new: what became of the values of one variable in another, every record accounted for."""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from rowtag.core.classes import Classes, Says, classes_of, occurring
from rowtag.core.column import Column
from rowtag.core.frame import Frame
from rowtag.core.reading import spell
from rowtag.core.study import Study
from rowtag.core.touched import OldByNew, old_by_new


@dataclass(frozen=True)
class Side:
    """A value of one side: its code, its label, how it reads and in how many records it stands. Of many values
    together, such as measurements, the lowest and the highest are told."""

    code: str
    label: str
    reading: Says
    count: int
    low: str | None = None
    high: str | None = None
    different: int = 1


@dataclass(frozen=True)
class Ribbon:
    """How many records go from one value (by its place on the old side) to another (by its place on the new side).

    Of many old values together: the lowest and the highest of them that became the new one.
    """

    old: int
    new: int
    count: int
    low: str | None = None
    high: str | None = None


@dataclass(frozen=True)
class Crossed:
    """Old by new: both sides, in the order of their lists, and the ribbons between them, which add up to both."""

    old: tuple[Side, ...]
    new: tuple[Side, ...]
    ribbons: tuple[Ribbon, ...]
    records: int


def crossed(before: Study, old: str, after: Study, new: str) -> Crossed:
    """What became of the values of a variable of one state in a variable of a later one with the same records."""
    ours, theirs = classes_of(before, old), classes_of(after, new)
    width = len(theirs.said)
    table = np.zeros(len(ours.said) * width, np.int64)
    wanted = set(ours.many)
    lows, highs = np.full(table.size, np.inf), np.full(table.size, -np.inf)
    values = before.reading(old).values
    column = before.column(old)
    for block in Frame(after).blocks():
        tokens = column.tokens_at(block.positions)
        of = ours.of[tokens]
        both = of * width + theirs.of[block.tokens(new)]
        table += np.bincount(both, minlength=table.size)
        if wanted and values is not None:
            measured = np.isin(of, ours.many)
            np.fmin.at(lows, both[measured], values[tokens[measured]])
            np.fmax.at(highs, both[measured], values[tokens[measured]])
    kind = before.tag(old).type
    grid = table.reshape(len(ours.said), width)
    used_old, used_new = (
        np.flatnonzero(occurring(ours, grid.sum(axis=1))),
        np.flatnonzero(occurring(theirs, grid.sum(axis=0))),
    )
    place_old = {int(at): number for number, at in enumerate(used_old)}
    place_new = {int(at): number for number, at in enumerate(used_new)}
    ribbons = []
    for at_old, at_new in np.argwhere(grid).tolist():
        at = at_old * width + at_new
        ends = (spell(float(lows[at]), kind), spell(float(highs[at]), kind)) if np.isfinite(lows[at]) else (None, None)
        ribbons.append(Ribbon(place_old[at_old], place_new[at_new], int(grid[at_old, at_new]), *ends))
    return Crossed(
        _sides(before, old, ours, used_old, grid.sum(axis=1)),
        _sides(after, new, theirs, used_new, grid.sum(axis=0)),
        tuple(ribbons),
        int(table.sum()),
    )


def sides(study: Study, id: str) -> tuple[Side, ...]:
    """The values of a variable as one side of old by new."""
    classes = classes_of(study, id)
    counts = np.bincount(classes.of, study.counts(id), len(classes.said)).astype(np.int64)
    return _sides(study, id, classes, np.flatnonzero(occurring(classes, counts)), counts)


def _sides(
    study: Study, id: str, classes: Classes, used: npt.NDArray[np.int64], counts: npt.NDArray[np.int64]
) -> tuple[Side, ...]:
    out = []
    for at in used.tolist():
        code, label, reading = classes.said[at]
        low = high = None
        different = 1
        if at in classes.many:
            tokens = np.flatnonzero((classes.of == at) & (study.counts(id) > 0))
            different = int(tokens.size)
            values = study.reading(id).values
            if values is not None and tokens.size:
                kind = study.tag(id).type
                low, high = spell(float(values[tokens].min()), kind), spell(float(values[tokens].max()), kind)
        out.append(Side(code, label, reading, int(counts[at]), low, high, different))
    return tuple(out)


def old_by_new_of(before: Study, old: str | None, new: str, column: Column) -> OldByNew:
    """What became of the entries of a variable in a column, told by the commonest pairs of texts, for the diary."""
    assert old is not None
    there = (block.positions for block in Frame(before).blocks())
    return old_by_new(new, before.column(old), column, there, before.records.arrived)
