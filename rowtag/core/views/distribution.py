"""Distribution: the table that a variable's level allows."""

from collections.abc import Mapping, Sequence
from dataclasses import asdict
from typing import Literal

from pydantic import BaseModel

from rowtag.core.checks import Evidence
from rowtag.core.frame import Frame
from rowtag.core.reading import spell
from rowtag.core.refs import VariableId
from rowtag.core.summary import Summary
from rowtag.core.tables import Frequency, Histogram, Says, Shares, commonest, date_span, frequency, histogram, summary
from rowtag.core.tag import Level, Pattern, Reason, Type
from rowtag.core.views.base import FillCounts, View, register

MOST_ROWS = 300
"""Rows of one table that are shown."""


class TableRow(BaseModel):
    """One value of a frequency table."""

    code: str
    label: str
    count: int
    reading: Says
    listed: bool
    unreadable: bool
    low: str | None
    high: str | None
    reason: Reason | None
    weighed: float | None = None
    within: int = 1
    mixed: bool = False
    percent: float | None
    valid_percent: float | None
    cumulative: float | None


class VariableTable(BaseModel):
    """A frequency where a variable is coded, figures where it is measured, else its commonest entries."""

    view: Literal["distribution"] = "distribution"
    id: str
    name: str
    label: str
    question: str
    level: Level
    type: Type
    pattern: Pattern
    coded: bool
    fill: FillCounts
    records: int
    sums: Shares | None = None
    rows: Sequence[TableRow]
    row_count: int
    summary: Summary | None = None
    histogram: Histogram | None = None
    exact: Mapping[str, str] = {}
    """Figures to the last digit, by their names: the least and the greatest number, and quartiles that are whole.
    Whole numbers may have more digits than a program's numbers hold."""
    span: Sequence[str] | None = None
    commonest: Sequence[Evidence] = ()
    different: int = 0


@register
class Distribution(View):
    """The table of one variable."""

    view: Literal["distribution"] = "distribution"
    variable: VariableId

    def look(self, frame: Frame) -> VariableTable:
        id, tag = self.variable, frame.study.tag(self.variable)
        coded, measured = tag.wants_codes, not tag.wants_codes and tag.use != "identifier"
        found = frequency(frame, id, unlisted_values=coded, most=MOST_ROWS)
        figures = summary(frame, id) if measured else None
        common, different = ([], 0) if coded or tag.type != "text" else commonest(frame, id)
        return VariableTable(
            id=id,
            name=tag.name,
            label=tag.label,
            question=tag.question,
            level=tag.level,
            type=tag.type,
            pattern=tag.pattern,
            coded=coded,
            fill=FillCounts.of(found.fill),
            records=frame.size,
            sums=None if frame.weight is None else found.sums,
            rows=rows_of(found),
            row_count=len(found.rows) + found.left_out,
            summary=figures,
            histogram=histogram(frame, id) if measured and tag.type != "text" else None,
            exact=_exact(figures, tag.type) if figures else {},
            span=date_span(frame, id),
            commonest=[Evidence(entry, count) for entry, count in common],
            different=different,
        )


def _exact(figures: Summary, kind: Type) -> dict[str, str]:
    """The figures that can be told to the last digit."""
    values = {name: getattr(figures, name) for name in ("min", "q1", "median", "q3", "max")}
    sure = {name: value for name, value in values.items() if name in ("min", "max") or isinstance(value, int)}
    return {name: spell(value, kind) for name, value in sure.items() if value is not None}


def rows_of(found: Frequency) -> list[TableRow]:
    """The rows of a frequency table with their shares, as many as are shown."""
    pairs = zip(found.rows[:MOST_ROWS], found.shares(), strict=False)
    return [TableRow(**asdict(row), **shares) for row, shares in pairs]
