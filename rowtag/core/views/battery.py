"""Battery: items with one list of answers beside each other, and how they go together."""

from collections.abc import Sequence
from typing import Annotated, Literal

import numpy as np
import numpy.typing as npt
from pydantic import BaseModel, Field

from rowtag.core.classes import classes_of, order_by_size
from rowtag.core.errors import BadInput
from rowtag.core.frame import Frame
from rowtag.core.refs import VariableId
from rowtag.core.reliability import alpha, item_rest
from rowtag.core.summary import Summary
from rowtag.core.tables import summary
from rowtag.core.tag import NUMBER_TYPES
from rowtag.core.views.base import View, register
from rowtag.core.views.sides import Value, Variable, parted


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
        lists = [[line.shown for line in study.codes(id)] for id in self.items]
        for id, lines in zip(self.items, lists, strict=True):
            if not lines:
                raise BadInput(f"“{study.tag(id).name}” has no code list.", remedy="List its codes, or leave it out.")
            if lines != lists[0]:
                raise BadInput(
                    f"“{study.tag(self.items[0]).name}” and “{study.tag(id).name}” have different code lists.",
                    remedy="Look at them one by one.",
                )
        codes, labels = _answers(frame, self.items)
        found = [_item(frame, id, codes) for id in self.items]
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
            values=[Value(code=code, label=labels[code], reading="valid") for code in codes],
            items=found,
            alpha=None if together is None or np.isnan(together) else together,
            complete=complete,
            weighed=frame.weight is not None,
            records=frame.size,
        )


def _answers(frame: Frame, items: Sequence[str]) -> tuple[list[str], dict[str, str]]:
    """The answers of all items in one order, and their labels; those that no list has among them, such as the steps
    between the ends of a scale of which only these have labels."""
    study, sides = frame.study, [parted(frame, id) for id in items]
    labels: dict[str, str] = {}
    for side in sides:
        for code, label, reading in side.said:
            if reading == "valid":
                labels[code] = labels.get(code) or label
    listed = study.codes(items[0])
    loose = [code for code in labels if code not in {line.shown for line in listed}]
    order = order_by_size(study.tag(items[0]), listed, loose)
    if order is None:
        raise BadInput(
            f"The answers of “{study.tag(items[0]).name}” have no order: {loose[0]} is none of its list.",
            remedy="List it in the Codebook.",
        )
    codes = [*(line.shown for line in listed), *loose]
    return [codes[at] for at in order], labels


def _item(frame: Frame, id: str, codes: Sequence[str]) -> Item:
    """One item over the answers with some codes; what it has not got is 0."""
    classes, tag = classes_of(frame.study, id), frame.study.tag(id)
    at = {code: place for place, (code, _, reading) in enumerate(classes.said) if reading == "valid"}
    records, sums = (
        np.append(np.bincount(classes.of, of.counts(id), len(classes.said)), 0)[[at.get(code, -1) for code in codes]]
        for of in (frame.unweighted, frame)
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
