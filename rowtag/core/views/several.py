"""Several answers: how often each thing was ticked, of all who were asked and of all that was ticked."""

from collections.abc import Sequence
from typing import Annotated, Literal

import numpy as np
from pydantic import BaseModel, Field

from rowtag.core.errors import BadInput
from rowtag.core.frame import Frame
from rowtag.core.reading import State
from rowtag.core.refs import VariableId
from rowtag.core.tables import percent
from rowtag.core.tag import NUMBER_TYPES
from rowtag.core.views.base import View, register
from rowtag.core.views.sides import Variable


class Thing(BaseModel):
    """One thing to tick: how many records did, what they weigh (the same without a weight), and what share that is of
    the records that answered, and of all answers."""

    variable: Variable
    records: int
    sum: float
    of_records: float | None
    of_answers: float | None


class SeveralTable(BaseModel):
    """Things to tick, over the `answered` records that have a valid entry of any of them; `nothing` of these ticked
    none. `sum` is what they weigh, `answers` what was ticked altogether, `records` who is in the frame."""

    view: Literal["several"] = "several"
    things: Sequence[Thing]
    answered: int
    nothing: int
    sum: float
    answers: float
    weighed: bool
    records: int


@register
class Several(View):
    """Things to tick, 1 where they are; in their order or by how often they were."""

    view: Literal["several"] = "several"
    things: Annotated[tuple[VariableId, ...], Field(min_length=1, max_length=500)]
    order: Literal["as asked", "count"] = "as asked"

    def look(self, frame: Frame) -> SeveralTable:
        study = frame.study
        for id in self.things:
            tag = study.tag(id)
            if tag.type not in NUMBER_TYPES:
                raise BadInput(
                    f"“{tag.name}” is of type {tag.type}, and no tick.",
                    remedy="Make ticks of it in Derive: 1 where it was ticked, 0 where not.",
                )
        records, sums = np.zeros(len(self.things), np.int64), np.zeros(len(self.things))
        answered, nothing, weight, answers = 0, 0, 0.0, 0.0
        for block in frame.blocks():
            valid = np.column_stack([block.states(id) == State.VALID for id in self.things])
            ticked = valid & (np.column_stack([block.values(id) for id in self.things]) == 1)
            weights, asked = block.weights, valid.any(axis=1)
            records += ticked.sum(axis=0)
            sums += weights @ ticked
            answered += int(asked.sum())
            nothing += int((asked & ~ticked.any(axis=1)).sum())
            weight += float(weights[asked].sum())
            answers += float(weights @ ticked.sum(axis=1))
        found = [
            Thing(
                variable=Variable.of(study, id),
                records=int(many),
                sum=float(heavy),
                of_records=percent(float(heavy), weight),
                of_answers=percent(float(heavy), answers),
            )
            for id, many, heavy in zip(self.things, records, sums, strict=True)
        ]
        if self.order == "count":
            found.sort(key=lambda thing: -thing.sum)
        return SeveralTable(
            things=found,
            answered=answered,
            nothing=nothing,
            sum=weight,
            answers=answers,
            weighed=frame.weight is not None,
            records=frame.size,
        )
