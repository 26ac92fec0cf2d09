"""What a study holds, for weighing what a document says of it: names, and the entries where these are few."""

import numpy as np

from rowtag.core.study import Study
from rowtag.core.worked_out import entries, worked_out
from rowtag.documents.weighing import AtHand

FEW_ENTRIES = 60
"""Different entries up to which they are few enough for a code list."""


def at_hand_of(study: Study) -> AtHand:
    """A study's variables by their names and by those of their file, with their entries where these are few."""
    out: dict[str, frozenset[str]] = {}
    for id in study.order:
        few = _few_entries(study, id)
        for name in (study.tag(id).name, study.variable(id).origin.name):
            if name:
                out[name] = few
    return out


@worked_out(entries)
def _few_entries(study: Study, id: str) -> frozenset[str]:
    """The different entries of a variable, blanks aside; none where they are many."""
    used = np.flatnonzero(study.counts(id)[1:]) + 1
    return frozenset(study.column(id).texts_at(used)) if used.size <= FEW_ENTRIES else frozenset()
