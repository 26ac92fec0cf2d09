"""Skips: entries in questions that a confirmed skip passes by."""

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from rowtag.core.checks.base import Finding, register_across
from rowtag.core.skips import breaking, passed_by
from rowtag.core.study import Study
from rowtag.core.words import counted
from rowtag.core.worked_out import entries, reading, skips


def _records(study: Study, finding: Finding) -> npt.NDArray[np.int64]:
    return breaking(study, finding.variable)


@register_across("answered though skipped", "skips", reading, skips, entries, scope="records", records=_records)
def answered(study: Study, ids: tuple[str, ...]) -> Sequence[Finding]:
    """Records that take a skip and have valid entries in what it passes by: the filter or the follow-up is wrong."""
    found = []
    for id in ids:
        confirmed = [skip for skip in study.tag(id).skips if not skip.proposed]
        count = breaking(study, id).size if confirmed else 0
        if count:
            others = dict.fromkeys(other for skip in confirmed for other in passed_by(study, id, skip))
            have = "has" if count == 1 else "have"
            said = f"{counted(count, 'record skips', 'records skip')} what follows and {have} entries there"
            found.append(Finding("answered though skipped", "warning", id, said, count, others=tuple(others)))
    return found
