"""Battery: items with one list of answers beside each other, and how they go together."""

from collections.abc import Sequence
from typing import Annotated, Literal

import numpy as np
import numpy.typing as npt
from pydantic import BaseModel, Field

from rowtag.core.classes import classes_of
from rowtag.core.errors import BadInput
from rowtag.core.frame import Frame
from rowtag.core.refs import VariableId
from rowtag.core.reliability import alpha, item_rest
from rowtag.core.summary import Summary
from rowtag.core.tables import summary
from rowtag.core.tag import NUMBER_TYPES
from rowtag.core.views.base import View, register
from rowtag.core.views.sides import Value, Variable


class Item(BaseModel):
    """One item: how many records gave each answer of the list, what they weigh (the same without a weight), what share
    of the valid ones that is, and its figures where its codes are taken for equal steps."""

    variable: Variable
    records: list[int]
    sums: list[float]
    percents: list[float | None]
    valid: int
    left: int
    figures: Summary | None
    against: bool = False
    """Whether it runs against the rest."""


class BatteryTable(BaseModel):
    """The items of a battery over their common list, with alpha over those records that answered all of them."""

    view: Literal["battery"] = "battery"
    values: Sequence[Value]
    items: Sequence[Item]
    alpha: float | None
    complete: int
    weighed: bool
    records: int


@register
class Battery(View):
    """Items with the same answers; in their order, or by how much is agreed to."""

    view: Literal["battery"] = "battery"
    items: Annotated[tuple[VariableId, ...], Field(min_length=2, max_length=200)]
    order: Literal["as asked", "agreement"] = "as asked"

    def look(self, frame: Frame) -> BatteryTable:
        study = frame.study
        lists = [tuple((line.shown, line.label) for line in study.codes(id)) for id in self.items]
        for id, lines in zip(self.items, lists, strict=True):
            if not lines:
                raise BadInput(f"“{study.tag(id).name}” has no code list.", remedy="List its codes, or leave it out.")
            if [code for code, _ in lines] != [code for code, _ in lists[0]]:
                first, other = study.tag(self.items[0]).name, study.tag(id).name
                raise BadInput(f"“{first}” and “{other}” have different code lists.", remedy="Look at them one by one.")
        found = [_item(frame, id, len(lists[0])) for id in self.items]
        numbers = all(study.tag(id).type in NUMBER_TYPES for id in self.items)
        together, complete = None, 0
        if numbers:
            values = _complete(frame, self.items)
            together, complete = float(alpha(values)), len(values)
            against = item_rest(values) < 0 if len(values) > 1 else np.zeros(len(found), bool)
            found = [item.model_copy(update={"against": bool(at)}) for item, at in zip(found, against, strict=True)]
        if self.order == "agreement":
            found.sort(key=_agreement, reverse=True)
        return BatteryTable(
            values=[Value(code=code, label=label, reading="valid") for code, label in lists[0]],
            items=found,
            alpha=None if together is None or np.isnan(together) else together,
            complete=complete,
            weighed=frame.weight is not None,
            records=frame.size,
        )


def _item(frame: Frame, id: str, answers: int) -> Item:
    classes, tag = classes_of(frame.study, id), frame.study.tag(id)
    records, sums = (
        np.bincount(classes.of, of.counts(id), len(classes.said))[:answers] for of in (frame.unweighted, frame)
    )
    whole = float(sums.sum())
    return Item(
        variable=Variable.of(frame.study, id),
        records=records.astype(np.int64).tolist(),
        sums=sums.tolist(),
        percents=[100 * each / whole if whole else None for each in sums.tolist()],
        valid=int(records.sum()),
        left=frame.size - int(records.sum()),
        figures=summary(frame, id) if tag.level != "nominal" else None,
    )


def _agreement(item: Item) -> float:
    """How far up the list its answers stand: the mean place of them, without any distance between codes."""
    return sum(at * (share or 0) for at, share in enumerate(item.percents))


def _complete(frame: Frame, items: Sequence[str]) -> npt.NDArray[np.float64]:
    """The values of records that have a valid one of each item: float64 (n × k)."""
    out = [np.empty((0, len(items)))]
    for block in frame.unweighted.blocks():
        values = np.column_stack([block.values(id) for id in items])
        out.append(values[~np.isnan(values).any(axis=1)])
    return np.concatenate(out)
