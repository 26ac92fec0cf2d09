"""Classes: which values a variable parts its records into, for tables of two and more."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
import numpy.typing as npt
import pyarrow.compute as pc

from rowtag.core.reading import State, canonical_code, value_of
from rowtag.core.study import Study
from rowtag.core.tag import NUMBER_TYPES, CodeSpan, Tag
from rowtag.core.worked_out import entries, reading, records, words, worked_out

Says = Literal["valid", "missing", "blank", "stray"]
MOST = 60
"""Different values up to which they are told value by value."""


@dataclass(frozen=True)
class Classes:
    """Tokens (n) by the value that they are: the class of each (int64, n), and what each class is called; valid ones
    first. `many` are classes of many values together; `ordered` tells whether valid ones stand in their order."""

    of: npt.NDArray[np.int64]
    said: tuple[tuple[str, str, Says], ...]
    many: tuple[int, ...] = ()
    ordered: bool = False


def order_by_size(tag: Tag, listed: Sequence[CodeSpan], loose: Sequence[str]) -> list[int] | None:
    """The order of listed values and of loose ones behind them, by their places. Where only the ends of a scale are
    listed, the list does not say where those between belong: an ordinal variable's numbers then stand by size. None
    where an ordinal variable's values have no order."""
    places = list(range(len(listed) + len(loose)))
    if tag.level != "ordinal" or not loose:
        return places
    codes = [canonical_code(line.code, tag.type) if line.code is not None else None for line in listed]
    values = [*codes, *loose]
    if tag.type not in NUMBER_TYPES or None in values:
        return None
    return sorted(places, key=lambda at: value_of(values[at] or "", tag.type))


@worked_out(words, reading, entries, records)
def classes_of(study: Study, id: str) -> Classes:
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
    order = None if many else order_by_size(tag, codes, [code for code, _, _ in said[len(codes) :]])
    if order is not None:
        place = np.argsort(np.array(order, np.int64))
        valid = reading.states == State.VALID
        of[valid] = place[of[valid]] if place.size else of[valid]
        said = [said[at] for at in order]
    first = len(said)
    said += [(line.shown, line.label or line.reason, "missing") for line in missing]
    aside = reading.states == State.MISSING
    of[aside] = first + np.maximum(reading.lines[aside], 0)
    of[reading.states == State.BLANK] = len(said)
    said.append(("", "blank", "blank"))
    strays = np.flatnonzero(reading.states >= State.UNREADABLE)
    _apart(study, id, strays[counts[strays] > 0], "stray", of, said, many)
    return Classes(of, tuple(said), tuple(many), tag.level != "nominal" and order is not None)


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


def occurring(classes: Classes, counts: npt.NDArray[np.int64]) -> npt.NDArray[np.bool_]:
    """Which classes are shown: those that occur, and listed codes even where they do not."""
    listed = np.array([reading == "valid" and bool(label) for _, label, reading in classes.said], bool)
    shown: npt.NDArray[np.bool_] = (counts > 0) | listed
    return shown
