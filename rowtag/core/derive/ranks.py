"""Rankings: from the rank of each thing to the thing of each rank, and back."""

from collections.abc import Sequence

import numpy as np

from rowtag.core.column import Column, column_of
from rowtag.core.derive.outcome import Outcome, coded_parts, in_type
from rowtag.core.derive.ticks import last_part
from rowtag.core.formulas.errors import BadFormula
from rowtag.core.frame import Frame
from rowtag.core.study import Study
from rowtag.core.tag import CodeLine
from rowtag.core.tokens import large_texts

MOST = 60
"""Things that can be ranked."""


def by_rank(study: Study, ids: Sequence[str]) -> list[Outcome]:
    """For each rank, from 1 to the number of things, the thing that has it. Where two have it, both numbers, which is a
    stray; where none has it, blank."""
    _refuse_many(ids)
    lines = [CodeLine(code=str(at + 1), label=last_part(study, id)) for at, id in enumerate(ids)]
    columns = _turned(study, ids, [float(at + 1) for at in range(len(ids))])
    return [
        Outcome(column, {**coded_parts(lines, ()), "label": f"Rank {at + 1}"}, called=str(at + 1))
        for at, column in enumerate(columns)
    ]


def of_things(study: Study, ids: Sequence[str]) -> list[Outcome]:
    """For each thing, by the code list of the first variable, the rank at which it is named; blank where it is not, and
    where it is named twice both ranks, which is a stray."""
    _refuse_many(ids)
    tag = study.tag(ids[0])
    lines = [line for line in study.codes(ids[0]) if line.code is not None]
    _refuse_many(lines)
    if not lines:
        raise BadFormula(f"{tag.name} has no code list that says what is ranked.", remedy="List its codes first.")
    codes = [in_type(line.code or "", tag.type) for line in lines]
    try:
        wanted = [float(code) for code in codes]
    except ValueError:
        raise BadFormula(f"The codes of {tag.name} are no numbers.", remedy="Recode them first.") from None
    ranks = [CodeLine(code=str(at + 1), label=f"Rank {at + 1}") for at in range(len(ids))]
    return [
        Outcome(column, {**coded_parts(ranks, (), "ordinal"), "label": f"Rank of {line.label or code}"}, called=code)
        for column, line, code in zip(_turned(study, ids, wanted), lines, codes, strict=True)
    ]


def _refuse_many(things: Sequence[object]) -> None:
    if not 2 <= len(things) <= MOST:
        raise BadFormula(f"A ranking is of 2 to {MOST} things.", remedy="Name its variables, such as a..e.")


def _turned(study: Study, ids: Sequence[str], wanted: Sequence[float]) -> list[Column]:
    """For each of some values a column of the numbers (from 1) of the variables that have it."""
    indexes = np.zeros((len(wanted), study.records.arrived), np.int64)
    texts: list[dict[str, int]] = [{"": 0} for _ in wanted]
    for block in Frame(study).blocks():
        values = np.stack([block.values(id) for id in ids], axis=1)
        for number, value in enumerate(wanted):
            met = values == value
            often = met.sum(axis=1)
            known = texts[number]
            first = np.argmax(met, axis=1)
            lookup = np.array([known.setdefault(str(at + 1), len(known)) for at in range(len(ids))])
            indexes[number, block.positions] = np.where(often == 1, lookup[first], 0)
            for row in np.flatnonzero(often > 1).tolist():
                said = ", ".join(str(at + 1) for at in np.flatnonzero(met[row]).tolist())
                indexes[number, block.positions[row]] = known.setdefault(said, len(known))
    return [column_of(index, large_texts(known)) for index, known in zip(indexes, texts, strict=True)]
