"""Sides of a table: the values of a variable in the order of its list, and who stands in none of them."""

from collections.abc import Sequence
from math import prod

import numpy as np
import numpy.typing as npt
from pydantic import BaseModel

from rowtag.core.classes import Classes, Says, classes_of, occurring
from rowtag.core.errors import BadInput
from rowtag.core.frame import Frame
from rowtag.core.study import Study
from rowtag.core.tag import NUMBER_TYPES, Level, Tag

MOST_CELLS = 20_000
"""Cells of one view, those that are empty too."""


class Variable(BaseModel):
    """A variable as a table names it."""

    id: str
    name: str
    label: str
    question: str
    level: Level

    @classmethod
    def of(cls, study: Study, id: str) -> "Variable":
        """How one of a study is named."""
        tag = study.tag(id)
        return cls(id=id, name=tag.name, label=tag.label, question=tag.question, level=tag.level)


class Value(BaseModel):
    """A value of a side."""

    code: str
    label: str
    reading: Says


class Left(BaseModel):
    """Records that do not stand in a table, and why: how their entry of a variable reads."""

    variable: str
    words: str
    records: int


def parted(frame: Frame, id: str) -> Classes:
    """The values that part records into rows or columns. Raises BadInput where they are too many for that."""
    study = frame.study
    found, tag = classes_of(study, id), study.tag(id)
    if any(found.said[at][2] == "valid" for at in found.many):
        different = int(Frame(study).values(id)[0].size)
        raise BadInput(
            f"“{tag.name}” has too many different values to stand side by side"
            + (f": {different:,}." if different else "."),
            remedy="Part it into bands in Derive, or look at it as measured, by groups.",
        )
    return found


def refuse_many_cells(names: Sequence[str], sizes: Sequence[int]) -> None:
    """Raises BadInput where so many values by so many would make a table that nobody can read."""
    if prod(sizes) > MOST_CELLS:
        by = " by ".join(f"{size:,} values of “{name}”" for name, size in zip(names, sizes, strict=True))
        raise BadInput(
            f"{by} are more than the {MOST_CELLS:,} cells of one table.", remedy="Recode them into fewer in Derive."
        )


def shown_of(classes: Classes, counts: npt.NDArray[np.int64], *, missing: bool) -> npt.NDArray[np.int64]:
    """Places of the classes that are shown: valid ones in the order of the list, and others on wish."""
    valid = np.array([reading == "valid" for _, _, reading in classes.said], bool)
    return np.flatnonzero(occurring(classes, counts) & (valid | missing))


def values_of(classes: Classes, at: Sequence[int]) -> list[Value]:
    """What classes at some places are called."""
    return [Value(code=code, label=label, reading=reading) for code, label, reading in (classes.said[n] for n in at)]


def left_of(tag: Tag, classes: Classes, counts: npt.NDArray[np.int64]) -> list[Left]:
    """Who stands in no row of a side, by reason; `counts` are of those that another side has not left out already."""
    out: dict[str, int] = {}
    for (code, label, reading), count in zip(classes.said, counts.tolist(), strict=True):
        if reading != "valid" and count:
            words = (label or code) if reading in ("missing", "blank") else "stray"
            out[words] = out.get(words, 0) + count
    return [Left(variable=tag.name, words=words, records=count) for words, count in out.items()]


def refuse_without_mean(tag: Tag, *, equal_steps: bool) -> None:
    """Raises BadInput where a variable has no mean: its values are no numbers, or their distances mean nothing."""
    if tag.type not in NUMBER_TYPES:
        raise BadInput(
            f"“{tag.name}” is of type {tag.type}: it has no mean.", remedy="Take a number, or cross it as categories."
        )
    if tag.level == "nominal":
        raise BadInput(
            f"The codes of “{tag.name}” only tell its values apart: a mean of them says nothing.",
            remedy="Cross it as categories, or give it the level that it has in the Codebook.",
        )
    if tag.level == "ordinal" and not equal_steps:
        raise BadInput(
            f"“{tag.name}” is ordinal: its codes need not be equally far apart, and a mean takes them to be.",
            remedy="Treat it as equal steps where you take it to be so; the table says it.",
        )
