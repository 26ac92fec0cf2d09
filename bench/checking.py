"""Measures of checking: all scopes from cold, what an edit costs, formulas over a million records, gaps."""

import time
from pathlib import Path

import numpy as np

from bench.measures import _largest, forget
from rowtag.core.checks import findings_across, findings_on, run_checks
from rowtag.core.column import column_of_texts
from rowtag.core.formulas import meant, taken_in
from rowtag.core.gaps import gaps
from rowtag.core.steps.entries import SetEntries
from rowtag.core.study import Records, Study, Variable
from rowtag.core.tag import Tag
from rowtag.store.workspace import Workspace

TEN = "if (hours + rent * 2 - 3) / (hours + 1) > 2 and rent < 90 and not hours = 50 then hours ^ 2 else 0"
"""A formula of ten operations."""


def all_scopes(folder: Path) -> tuple[float, float, float, float]:
    """In the largest study: seconds for all checks of all scopes from cold; after one edit for those of its variable,
    and for the others; and for its gaps."""
    workspace = Workspace(folder)
    study = _largest(workspace).study
    for id in study.order:
        study.fill(id)
    forget()
    begun = time.perf_counter()
    run_checks(study, findings_across(study))
    whole = time.perf_counter() - begun
    edited = SetEntries(variable=study.order[3], entries={5: "2"}).apply(study).study
    begun = time.perf_counter()
    findings_on(edited, study.order[3])
    own = time.perf_counter() - begun
    begun = time.perf_counter()
    findings_across(edited)
    rest = time.perf_counter() - begun
    begun = time.perf_counter()
    gaps(study, study.order)
    pictured = time.perf_counter() - begun
    workspace.close()
    return whole, own, rest, pictured


def formula(records: int = 1_000_000) -> float:
    """Seconds for a formula of ten operations over so many records, which are read already."""
    chance = np.random.default_rng(1)
    entries = {"hours": chance.integers(0, 100, records), "rent": np.round(chance.gamma(3, 20, records), 1)}
    study = Study(records=Records(records)).with_variables(
        [
            (name, Variable(tag=Tag(name=name, type="decimal")), column_of_texts(values.astype(str).tolist()))
            for name, values in entries.items()
        ]
    )
    for id in study.order:
        study.reading(id)
    begun = time.perf_counter()
    for _ in meant(taken_in(TEN, study), study).blocks():
        pass
    return time.perf_counter() - begun
