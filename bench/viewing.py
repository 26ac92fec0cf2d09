"""Measures of views: crosstabs and groups, counted and weighed."""

import time

import numpy as np

from rowtag.core.basis import basis_of
from rowtag.core.column import column_of_texts
from rowtag.core.study import Records, Study, Variable
from rowtag.core.tag import CodeLine, Tag
from rowtag.core.views import View
from rowtag.core.views.crosstab import Crosstab
from rowtag.core.views.groups import Groups

TIMES = 5


def views(records: int) -> tuple[float, float, float]:
    """Seconds for a crosstab, for one under a weight and a condition, and for a measured variable by groups under a
    weight, over so many records, each with its basis; the median of some, readings being there."""
    study = _study(records)
    crosstab, groups = Crosstab(rows="held", columns="quarter"), Groups(variable="hours", by="held")
    return _seconds(study, crosstab, None), _seconds(study, crosstab, "weight"), _seconds(study, groups, "weight")


def _seconds(study: Study, view: View, weight: str | None) -> float:
    taken = []
    for _ in range(TIMES):
        begun = time.perf_counter()
        view.look(basis_of(study, None, weight).frame)
        taken.append(time.perf_counter() - begun)
    return float(np.median(taken))


def _study(records: int) -> Study:
    """Two coded variables, a measured one with one digit behind the point, and weights with three."""
    chance = np.random.default_rng(3)
    entries = {
        "held": chance.integers(1, 5, records),
        "quarter": chance.integers(1, 9, records),
        "hours": np.round(chance.gamma(3, 6, records), 1),
        "weight": np.round(chance.uniform(0.2, 3, records), 3),
    }
    coded = {"held": 4, "quarter": 8}
    made = []
    for name, values in entries.items():
        lines = tuple(CodeLine(code=str(code), label=f"Value {code}") for code in range(1, coded.get(name, 0) + 1))
        tag = Tag(name=name, type="integer" if lines else "decimal", level="nominal" if lines else "ratio", codes=lines)
        made.append((name, Variable(tag=tag), column_of_texts(values.astype(str).tolist())))
    return Study(records=Records(records)).with_variables(made)
