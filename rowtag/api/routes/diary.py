"""The diary as something to work on: a step of the past as it was, and the diary amended."""

from fastapi import APIRouter

from rowtag.api.bodies import Route
from rowtag.api.context import Here
from rowtag.api.models import HeadReply, TouchedParts
from rowtag.api.models_diary import AmendLook, AmendNow, AmendProblem, AmendRequest, WrittenStep
from rowtag.core.errors import BadInput
from rowtag.core.touched import touched
from rowtag.service.amending import amend, amended, written

router = APIRouter(route_class=Route, prefix="/api/studies/{study_id}", tags=["diary"])


@router.get("/steps/{step_id}/written")
def written_step(here: Here, study_id: str, step_id: str) -> WrittenStep:
    """A step of the past as it is written with names, those of its time."""
    passed, says = written(here.study(study_id), step_id)
    return WrittenStep(step_id=step_id, sentence=passed.sentence, at=passed.at, by=passed.by, says=says)


@router.post("/amend/preview")
def look_at_amendment(here: Here, study_id: str, request: AmendRequest) -> AmendLook:
    """What would become of the diary with some edits; nothing is kept."""
    file = here.study(study_id)
    revision = file.revision
    try:
        return AmendLook.of(revision, amended(file, [edit.as_edit() for edit in request.edits]))
    except BadInput as error:
        return AmendLook(revision=revision, problem=AmendProblem.of(error))


@router.post("/amend")
def amend_diary(here: Here, study_id: str, request: AmendNow) -> HeadReply:
    """Leads the study along the amended way; undo leads back."""
    file = here.study(study_id)
    before = file.study
    edits = [edit.as_edit() for edit in request.edits]
    revision = amend(file, edits, expected=request.expected, by=here.by)
    told = touched(before, file.study).as_dict()
    here.changed(study_id, revision, told)
    return HeadReply(revision=revision, touched=TouchedParts(**told))
