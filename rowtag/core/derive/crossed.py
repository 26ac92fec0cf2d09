"""Old by new: what became of the values of one variable in another, every record accounted for."""

from dataclasses import dataclass
from typing import Literal

import numpy as np
import numpy.typing as npt
import pyarrow.compute as pc

from rowtag.core.column import Column
from rowtag.core.frame import Frame
from rowtag.core.reading import State, spell
from rowtag.core.study import Study
from rowtag.core.tag import NUMBER_TYPES
from rowtag.core.touched import OldByNew, old_by_new
from rowtag.core.worked_out import entries, reading, records, words, worked_out

Says = Literal["valid", "missing", "blank", "stray"]
_SAYS: tuple[Says, ...] = ("valid", "missing", "blank", "stray", "stray")
MOST = 60
"""Different values up to which a side is told value by value."""


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


@dataclass(frozen=True)
class _Classes:
    """Tokens (n) by the value that they are: the class of each (int64, n), and what each class is called."""

    of: npt.NDArray[np.int64]
    said: tuple[tuple[str, str, Says], ...]
    many: tuple[int, ...] = ()


def crossed(before: Study, old: str, after: Study, new: str) -> Crossed:
    """What became of the values of a variable of one state in a variable of a later one with the same records."""
    ours, theirs = _classes(before, old), _classes(after, new)
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
        np.flatnonzero(_shown(ours, grid.sum(axis=1))),
        np.flatnonzero(_shown(theirs, grid.sum(axis=0))),
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
    classes = _classes(study, id)
    counts = np.bincount(classes.of, study.counts(id), len(classes.said)).astype(np.int64)
    return _sides(study, id, classes, np.flatnonzero(_shown(classes, counts)), counts)


def _shown(classes: _Classes, counts: npt.NDArray[np.int64]) -> npt.NDArray[np.bool_]:
    """Which classes are shown: those that occur, and listed codes even where they do not."""
    listed = np.array([reading == "valid" and bool(label) for _, label, reading in classes.said], bool)
    shown: npt.NDArray[np.bool_] = (counts > 0) | listed
    return shown


def _sides(
    study: Study, id: str, classes: _Classes, used: npt.NDArray[np.int64], counts: npt.NDArray[np.int64]
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


@worked_out(words, reading, entries, records)
def _classes(study: Study, id: str) -> _Classes:
    """The values of a variable: its code lines, other valid values one by one (numbers by value, others the commonest
    first) or, where they are many, together, its missing codes, the blank, and strays one by one or together."""
    reading, counts, tag = study.reading(id), study.counts(id), study.tag(id)
    codes, missing = study.codes(id), tag.missing
    of = np.zeros(reading.states.size, np.int64)
    said: list[tuple[str, str, Says]] = [(line.shown, line.label, "valid") for line in codes]
    many: list[int] = []
    lined = (reading.states == State.VALID) & (reading.lines >= 0)
    of[lined] = reading.lines[lined]
    loose = np.flatnonzero((reading.states == State.VALID) & (reading.lines < 0))
    _apart(study, id, loose[counts[loose] > 0], "valid", of, said, many)
    first = len(said)
    said += [(line.shown, line.label or line.reason, "missing") for line in missing]
    aside = reading.states == State.MISSING
    of[aside] = first + np.maximum(reading.lines[aside], 0)
    of[reading.states == State.BLANK] = len(said)
    said.append(("", "blank", "blank"))
    strays = np.flatnonzero(reading.states >= State.UNREADABLE)
    _apart(study, id, strays[counts[strays] > 0], "stray", of, said, many)
    return _Classes(of, tuple(said), tuple(many))


def _apart(
    study: Study,
    id: str,
    tokens: npt.NDArray[np.int64],
    says: Says,
    of: npt.NDArray[np.int64],
    said: list[tuple[str, str, Says]],
    many: list[int],
) -> None:
    """Gives tokens classes of their own, by value; one for all of them where they are many."""
    if not tokens.size:
        return
    canonical = study.reading(id).canonical
    first = pc.dictionary_encode(canonical(tokens[: 20 * MOST]))  # which tell it mostly, and cost little
    grouped = (
        first if tokens.size <= 20 * MOST or len(first.dictionary) > MOST else pc.dictionary_encode(canonical(tokens))
    )
    if len(grouped.dictionary) > MOST:
        of[tokens] = len(said)
        many.append(len(said))
        said.append(("", "", says))
        return
    texts: list[str] = grouped.dictionary.to_pylist()
    values = study.reading(id).values
    if study.tag(id).type in NUMBER_TYPES and values is not None and says == "valid":
        order = sorted(range(len(texts)), key=lambda at: float(texts[at]))
    else:
        totals = np.bincount(grouped.indices.to_numpy(), study.counts(id)[tokens], minlength=len(texts))
        order = sorted(range(len(texts)), key=lambda at: (-totals[at], texts[at]))
    place = np.empty(len(texts), np.int64)
    place[order] = np.arange(len(texts)) + len(said)
    of[tokens] = place[grouped.indices.to_numpy()]
    said += [(texts[at], "", says) for at in order]


def old_by_new_of(before: Study, old: str | None, new: str, column: Column) -> OldByNew:
    """What became of the entries of a variable in a column, told by the commonest pairs of texts, for the diary."""
    assert old is not None
    there = (block.positions for block in Frame(before).blocks())
    return old_by_new(new, before.column(old), column, there, before.records.arrived)
