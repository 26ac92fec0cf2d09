"""Turn round: entries that were keyed from the other end of a scale become what was meant. The code list stays."""

from typing import Literal

import numpy as np

from rowtag.core.errors import BadInput
from rowtag.core.reading import State, canonical_code
from rowtag.core.steps.base import Ids, Made, Step, Supplies, names_of, register
from rowtag.core.study import Study
from rowtag.core.tokens import large_texts
from rowtag.core.touched import moved
from rowtag.core.words import counted


@register
class TurnRound(Step):
    """Puts the last code of a list in place of the first, and so on; missing codes, blanks and strays stay."""

    do: Literal["turn round"] = "turn round"
    variables: Ids

    def change(self, study: Study, supplies: Supplies) -> Made:
        columns, changed = {}, 0
        for id in self.variables:
            column, found, turned = study.column(id), study.reading(id), _turned(study, id)
            listed = (found.states == State.VALID) & (found.lines >= 0)
            to = np.array([turned[line] for line in found.lines[listed]], object)
            texts = np.array(column.texts().to_pylist(), object)
            turned = texts[listed] != to
            texts[listed] = to
            count = int(study.counts(id)[np.flatnonzero(listed)[turned]].sum())
            if count:
                columns[id] = column.mapped(large_texts(texts.tolist()), study.records.arrived)
                changed += count
        if not columns:
            raise BadInput(f"No entry of {names_of(study, self.variables)} would become another one.")
        evidence = tuple(moved(id, study.column(id), new, study.records.arrived) for id, new in columns.items())
        sentence = f"Turned the codes of {names_of(study, self.variables)} round"
        notes = (f"{counted(changed, 'entry', 'entries')} changed",)
        return Made(study.with_columns(columns), sentence, changed, notes, evidence)


def _turned(study: Study, id: str) -> list[str]:
    """For each code line of a variable the code that stands as far from the other end of the scale."""
    tag, lines = study.tag(id), study.codes(id)
    codes = [line.code for line in lines if line.code is not None]
    values = [canonical_code(code, "decimal") for code in codes]
    if len(codes) < 2 or len(codes) < len(lines) or any(value is None for value in values):
        raise BadInput(
            f"{tag.name} has no scale that could be turned round.",
            remedy="It takes a code list of two numbers or more, without ranges.",
        )
    order = np.argsort([float(value or 0) for value in values], kind="stable")
    out = [""] * len(codes)
    for low, high in zip(order.tolist(), order[::-1].tolist(), strict=True):
        out[low] = codes[high]
    return out
