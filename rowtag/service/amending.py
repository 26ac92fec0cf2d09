"""Amending the diary: another step in the past, one more or one less, and what then becomes of all that came after."""

import secrets
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import partial
from typing import Any, Literal

from rowtag.core.comparing import Compared, compared
from rowtag.core.errors import BadInput, NotThere
from rowtag.core.refs import references
from rowtag.core.replaying import Again, Replay
from rowtag.core.steps import Step, Supplies
from rowtag.core.study import Study
from rowtag.core.touched import title_of
from rowtag.core.translation import ByNames, Known, spelled, understood
from rowtag.service.replay import supplies_of
from rowtag.store.diary import Passed
from rowtag.store.studyfile import Redone, StudyFile

MOST_EDITS = 500
"""Edits of one amendment."""


@dataclass(frozen=True)
class Edit:
    """What is to be otherwise at a step of the past: it is left `out`, another stands `instead` of it, or one is put in
    `before` it. `says` is that step, written with names."""

    at: str
    how: Literal["out", "instead", "before"]
    says: Mapping[str, Any] | None = None


@dataclass(frozen=True)
class Line:
    """A step of the amended way: the one of the diary that it was (None where it is put in), what is done, whether it
    is among the edits, and what came of it (None where it is left out)."""

    passed: Passed | None
    edited: bool
    again: Again | None


@dataclass(frozen=True)
class Amended:
    """What an amendment would make: from which state on, its lines (oldest first), the states before and after, and
    what differs between these."""

    base: int
    lines: tuple[Line, ...]
    before: Study
    after: Study
    compared: Compared


def written(file: StudyFile, step_id: str) -> tuple[Passed, dict[str, Any]]:
    """A step of the past, and how it is written with names, those of its time."""
    passed = next((each for each in file.way() if each.id == step_id), None)
    if passed is None:
        raise NotThere("This step is not in the study as it is now.", remedy="Go to where it is first.")
    return passed, spelled(passed.step, file.state(passed.parent), file.state(passed.state))


def amended(file: StudyFile, edits: Sequence[Edit]) -> Amended:
    """What becomes of the diary with some edits; nothing is kept. Raises BadInput, NotThere."""
    by_step: dict[str, list[Edit]] = {}
    for edit in edits:
        by_step.setdefault(edit.at, []).append(edit)
    if not edits or len(edits) > MOST_EDITS:
        raise BadInput(f"An amendment is 1 to {MOST_EDITS} edits.")
    way = file.way()
    place = {passed.id: number for number, passed in enumerate(way)}
    if any(at not in place for at in by_step):
        raise NotThere("This step is not in the study as it is now.", remedy="Go to where it is first.")
    way = way[min(place[at] for at in by_step) :]
    base = way[0].parent
    replay, lines = Replay(file.state(base)), list[Line]()
    for passed in way:
        own = by_step.get(passed.id, [])
        left_out = any(edit.how == "out" for edit in own)
        for edit in own:
            if edit.how == "before":
                lines.append(Line(None, True, _edited(replay, file, edit, passed if left_out else None)))
        instead = next((edit for edit in own if edit.how == "instead"), None)
        if left_out:
            lines.append(Line(passed, True, None))
        elif instead is not None:
            lines.append(Line(passed, True, _edited(replay, file, instead, passed)))
        else:
            supplies = supplies_with(file, passed)
            made_for = partial(file.state, passed.parent)
            lines.append(Line(passed, False, replay.do(passed.step, supplies, made_for=made_for)))
    return Amended(base, tuple(lines), file.study, replay.study, compared(file.study, replay.study))


def amend(file: StudyFile, edits: Sequence[Edit], *, expected: int, by: str = "") -> int:
    """Leads the study along the amended way; gives the new revision. Raises BadInput where a step that is not left out
    cannot be done any more."""
    found = amended(file, edits)
    for line in found.lines:
        if line.again is not None and line.again.came == "not possible":
            said = line.passed.sentence if line.passed is not None else "The step that is put in"
            raise BadInput(
                f"This cannot be done any more: {said} {'; '.join(line.again.why)}.",
                remedy="Mend it, or leave it out.",
            )
    return file.amend(found.base, redone_of(file, found.lines, by), expected=expected, by=by)


def redone_of(file: StudyFile, lines: Sequence[Line], by: str) -> list[Redone]:
    """The steps of an amended way that are done, each in the place of the one that it was."""
    redone = []
    for line in lines:
        if line.again is None or line.again.step is None or line.again.applied is None:
            continue
        passed = line.passed
        redone.append(
            Redone(
                line.again.step,
                line.again.applied,
                by=by if passed is None or line.edited else passed.by,
                supplies=supplies_with(file, passed) if passed is not None else None,
                again=passed.id if passed is not None and not line.edited else None,
                instead=passed.id if passed is not None and line.edited else None,
            )
        )
    return redone


def supplies_with(file: StudyFile, passed: Passed) -> Supplies:
    """What came with a step, of the kinds with which something comes."""
    return supplies_of(file, passed.id) if passed.step.needs_supplies else {}


def _edited(replay: Replay, file: StudyFile, edit: Edit, passed: Passed | None) -> Again:
    """Does a step that was written anew; what it brings under a name that the old one brought keeps its id."""
    if edit.says is None:
        raise BadInput("Nothing is said of the step.", remedy="Write what is to be done.")
    said = understood(edit.says)
    known = {} if passed is None else _brought(passed.step, file.state(passed.state))
    meet = ByNames(lambda: secrets.token_hex(4), known).of(said, replay.study)
    supplies = supplies_with(file, passed) if passed is not None else None
    return replay.do(said.step, supplies, meet=meet)


def _brought(step: Step, after: Study) -> Known:
    """The ids of what a step brought, by what it was called then."""
    known: Known = {}
    for each in references(step):
        if each.ref.may_be_new and (there := after.shelves[each.ref.kind].get(each.id)) is not None:
            known[each.ref.kind, title_of(there)] = each.id
            known[each.ref.kind, each.id] = each.id
    return known
