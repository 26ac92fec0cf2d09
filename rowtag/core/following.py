"""Derived variables that follow what they are made of by themselves, in a study in which that was asked for."""

from dataclasses import dataclass

from rowtag.core.derive import worked_out_now
from rowtag.core.derive.crossed import old_by_new_of
from rowtag.core.derive.sources import sources_first
from rowtag.core.errors import BadInput
from rowtag.core.study import FOLLOWING, Study
from rowtag.core.touched import OldByNew, edited_positions
from rowtag.core.words import counted
from rowtag.core.worked_out import entries, made_of, worked_out


@worked_out(made_of, entries)
def behind(study: Study, id: str) -> int:
    """How many entries of a derived variable are not what comes out of its sentence now. Raises BadInput where it
    cannot be worked out any more."""
    column, _ = worked_out_now(study, id)
    moved = edited_positions(study.column(id), column, study.records.arrived)
    present = study.records.present
    return int(moved.size if present is None else present[moved].sum())


@dataclass(frozen=True)
class Followed:
    """A state in which derived variables have followed: how many entries that changed, what of what, and what is worth
    adding."""

    study: Study
    entries: int = 0
    notes: tuple[str, ...] = ()
    evidence: tuple[OldByNew, ...] = ()


def followed(before: Study, study: Study) -> Followed:
    """The state after a step with the variables derived from what it touched recalculated, sources first.

    Only those follow that held what came out of their sentence before: entries that somebody typed over it stay, and
    are told as a finding. So is one that cannot be worked out any more, which stays as it is.
    """
    if FOLLOWING not in study.shelves["habit"]:
        return Followed(study)
    derived = [id for id in study.order if study.variable(id).origin.how is not None and _follows(before, study, id)]
    evidence, notes, changed = list[OldByNew](), list[str](), 0
    for id in sources_first(study, derived):
        if made_of(before, id) == made_of(study, id):
            continue
        name = study.tag(id).name
        try:
            column, _ = worked_out_now(study, id)
        except BadInput as error:
            notes.append(f"{name} cannot follow: {error.what.rstrip('.')}")
            continue
        moved = edited_positions(study.column(id), column, study.records.arrived)
        if moved.size:
            evidence.append(old_by_new_of(study, id, id, column))
            notes.append(f"{name} followed in {counted(moved.size, 'entry', 'entries')}")
            study = study.with_columns({id: column})
            changed += int(moved.size)
    return Followed(study, changed, tuple(notes), tuple(evidence))


def _follows(before: Study, study: Study, id: str) -> bool:
    """Whether a variable was derived before a step as it is after it, and held what came out."""
    if id not in before.variables or before.variable(id).origin != study.variable(id).origin:
        return False
    try:
        return not behind(before, id)
    except BadInput:
        return False
