"""Groups: figures of a measured variable for each value of another."""

from collections.abc import Sequence
from typing import Literal

import numpy as np
import numpy.typing as npt
from pydantic import BaseModel

from rowtag.core.classes import classes_of
from rowtag.core.frame import Frame
from rowtag.core.reading import State
from rowtag.core.refs import VariableId
from rowtag.core.summary import Summary, Weighed, figures_of
from rowtag.core.views.base import View, register
from rowtag.core.views.sides import Left, Value, Variable, left_of, parted, refuse_without_mean, shown_of, values_of


class Group(BaseModel):
    """The figures of one group; of all together where it has no value."""

    value: Value | None
    figures: Summary


class GroupsTable(BaseModel):
    """Figures of a variable for each group, and for all of them together."""

    view: Literal["groups"] = "groups"
    measured: Variable
    by: Variable
    groups: Sequence[Group]
    equal_steps: bool
    weighed: bool
    inside: int
    left: Sequence[Left]


@register
class Groups(View):
    """A measured variable by the values of another; an ordinal one where its codes are taken for equal steps."""

    view: Literal["groups"] = "groups"
    variable: VariableId
    by: VariableId
    equal_steps: bool = False

    def look(self, frame: Frame) -> GroupsTable:
        study, tag = frame.study, frame.study.tag(self.variable)
        refuse_without_mean(tag, equal_steps=self.equal_steps)
        side = parted(frame, self.by)
        group, tokens, weights = _records(frame, self.variable, self.by, side.of)
        counts = np.bincount(group, minlength=len(side.said))
        chosen = shown_of(side, counts, missing=False)
        standing = np.isin(group, chosen)
        reading = study.reading(self.variable)
        valid = standing & (reading.states[tokens] == State.VALID)
        values = reading.exact(tokens[valid]) if valid.any() else np.empty(0)
        weight_of = None if weights is None else weights[valid]
        order = np.argsort(group[valid], kind="stable")  # each group in one piece, however many there are
        ends = np.searchsorted(group[valid][order], [chosen, chosen + 1])
        groups = [
            Group(value=value, figures=_figures(values, weight_of, order[first:end], tag.type))
            for first, end, value in zip(*ends, values_of(side, chosen.tolist()), strict=True)
        ]
        together = _figures(values, weight_of, np.arange(values.size), tag.type)
        states = classes_of(study, self.variable)
        unmeasured = np.bincount(states.of[tokens[standing]], minlength=len(states.said))
        return GroupsTable(
            measured=Variable.of(study, self.variable),
            by=Variable.of(study, self.by),
            groups=[*groups, Group(value=None, figures=together)],
            equal_steps=self.equal_steps and tag.level == "ordinal",
            weighed=frame.weight is not None,
            inside=int(valid.sum()),
            left=[*left_of(study.tag(self.by), side, counts), *left_of(tag, states, unmeasured)],
        )


def _records(
    frame: Frame, id: str, by: str, of: npt.NDArray[np.int64]
) -> tuple[npt.NDArray[np.int64], npt.NDArray[np.int64], npt.NDArray[np.float64] | None]:
    """The group and the token of each record, and what it weighs."""
    groups, tokens, weights = [np.empty(0, np.int64)], [np.empty(0, np.int64)], [np.empty(0)]
    for block in frame.blocks():
        groups.append(of[block.tokens(by)])
        tokens.append(block.tokens(id))
        if frame.weight is not None:
            weights.append(block.weights)
    return np.concatenate(groups), np.concatenate(tokens), None if frame.weight is None else np.concatenate(weights)


def _figures(
    values: npt.NDArray[np.generic], weights: npt.NDArray[np.float64] | None, at: npt.NDArray[np.int64], kind: str
) -> Summary:
    """The figures of the values at some places."""
    distinct, place, counts = np.unique(values[at], return_inverse=True, return_counts=True)
    if weights is None:
        return figures_of(distinct, counts, kind)
    weighs = weights[at]
    sums = np.bincount(place, weighs, distinct.size).astype(np.float64)
    return figures_of(distinct, counts, kind, Weighed(sums, float((weighs**2).sum())))
