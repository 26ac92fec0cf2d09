"""Crosstab: how often the values of two variables are met together, within each value of a third."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
import numpy.typing as npt
from pydantic import BaseModel

from rowtag.core.association import ChiSquare, chi_square, cramers_v, gamma, tau_b
from rowtag.core.frame import Frame
from rowtag.core.refs import VariableId
from rowtag.core.views.base import View, register
from rowtag.core.views.sides import Left, Value, Variable, left_of, parted, refuse_many_cells, shown_of, values_of

Percent = Literal["column", "row", "total"]
Grid = npt.NDArray[np.float64]


class Cells(BaseModel):
    """One table of r rows and c columns, its last row and last column being all together.

    `records` says how many records are in each cell, `sums` what they weigh (the same without a weight), `percents`
    what share of its column, row or the whole that is; None of nothing.
    """

    within: Value | None
    records: list[list[int]]
    sums: list[list[float]]
    percents: list[list[float | None]]


@dataclass(frozen=True)
class Association:
    """How both go together over the `records` with valid values of both, of all layers together: chi-square of counts,
    gamma and tau-b of ordered ones."""

    chi_square: ChiSquare | None
    v: float | None
    gamma: float | None
    tau_b: float | None
    records: int


class CrosstabTable(BaseModel):
    """The records of a frame by two variables, or by three."""

    view: Literal["crosstab"] = "crosstab"
    rows: Variable
    columns: Variable
    within: Variable | None
    row_values: Sequence[Value]
    column_values: Sequence[Value]
    tables: Sequence[Cells]
    percent: Percent
    weighed: bool
    association: Association
    inside: int
    left: Sequence[Left]


@register
class Crosstab(View):
    """The values of a variable, by those of another, within those of a third."""

    view: Literal["crosstab"] = "crosstab"
    rows: VariableId
    columns: VariableId
    within: VariableId | None = None
    percent: Percent = "column"
    missing: bool = False

    def look(self, frame: Frame) -> CrosstabTable:
        study = frame.study
        ids = [self.rows, self.columns, *([] if self.within is None else [self.within])]
        sides = [parted(frame, id) for id in ids]
        sizes = [len(side.said) for side in sides]
        refuse_many_cells([study.tag(id).name for id in ids], sizes)
        records, sums = _counted(frame, ids, sizes, [side.of for side in sides])
        shown, left, part = [], [], records
        for axis, (id, side) in enumerate(zip(ids, sides, strict=True)):
            along = part.sum(axis=tuple(other for other in range(records.ndim) if other != axis))
            chosen = shown_of(side, along, missing=self.missing)
            left += [] if self.missing else left_of(study.tag(id), side, along)
            part = part.take(chosen, axis)
            shown.append(chosen)
        grid = np.ix_(*shown)
        inside, weighed = records[grid], sums[grid]
        valid = [
            np.array([side.said[at][2] == "valid" for at in at_all], bool)
            for side, at_all in zip(sides, shown, strict=True)
        ]
        of_both = (inside[np.ix_(*valid)], weighed[np.ix_(*valid)])
        flat = [each.sum(axis=2) if each.ndim == 3 else each for each in of_both]
        ordered = all(side.ordered for side in sides[:2])
        layers = [None] if self.within is None else values_of(sides[2], shown[2].tolist())
        return CrosstabTable(
            rows=Variable.of(study, self.rows),
            columns=Variable.of(study, self.columns),
            within=None if self.within is None else Variable.of(study, self.within),
            row_values=values_of(sides[0], shown[0].tolist()),
            column_values=values_of(sides[1], shown[1].tolist()),
            tables=[
                _cells(
                    layer, *((inside, weighed) if layer is None else (inside[..., at], weighed[..., at])), self.percent
                )
                for at, layer in enumerate(layers)
            ],
            percent=self.percent,
            weighed=frame.weight is not None,
            association=Association(
                chi_square(flat[0]) if frame.weight is None else None,
                cramers_v(flat[1]),
                gamma(flat[1]) if ordered else None,
                tau_b(flat[1]) if ordered else None,
                int(flat[0].sum()),
            ),
            inside=int(inside.sum()),
            left=left,
        )


def _counted(
    frame: Frame, ids: Sequence[str], sizes: Sequence[int], of: Sequence[npt.NDArray[np.int64]]
) -> tuple[npt.NDArray[np.int64], Grid]:
    """How many records are in each cell of all classes, and what they weigh."""
    cells = int(np.prod(sizes))
    records, sums = np.zeros(cells, np.int64), np.zeros(cells)
    for block in frame.blocks():
        at = np.ravel_multi_index([side[block.tokens(id)] for id, side in zip(ids, of, strict=True)], tuple(sizes))
        records += np.bincount(at, minlength=cells)
        if frame.weight is not None:
            sums += np.bincount(at, block.weights, cells)
    shape = tuple(sizes)
    return records.reshape(shape), (records.astype(np.float64) if frame.weight is None else sums).reshape(shape)


def _cells(within: Value | None, records: npt.NDArray[np.int64], sums: Grid, percent: Percent) -> Cells:
    """A table with its margins."""
    counts, weighed = (_with_margins(each) for each in (records, sums))
    whole = {"column": weighed[-1:, :], "row": weighed[:, -1:], "total": weighed[-1:, -1:]}[percent]
    with np.errstate(invalid="ignore", divide="ignore"):
        shares = np.where(whole > 0, 100 * weighed / whole, np.nan)
    return Cells(
        within=within,
        records=counts.tolist(),
        sums=weighed.tolist(),
        percents=[[None if np.isnan(each) else each for each in row] for row in shares.tolist()],
    )


def _with_margins(table: npt.NDArray[Any]) -> npt.NDArray[Any]:
    """A table with the sums of its columns as last row, of its rows as last column."""
    down = np.concatenate([table, table.sum(axis=0, keepdims=True)])
    return np.concatenate([down, down.sum(axis=1, keepdims=True)], axis=1)
