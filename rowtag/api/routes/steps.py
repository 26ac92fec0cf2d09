"""The one way to change a study: steps, their previews, and moves of the head."""

from dataclasses import asdict

from fastapi import APIRouter

from rowtag.api.bodies import Route
from rowtag.api.context import Here
from rowtag.api.models import (
    Account,
    HeadReply,
    HeadRequest,
    PreviewRequest,
    SeveralPreview,
    SeveralRequest,
    StepOutcome,
    StepPreview,
    StepRequest,
    TouchedParts,
    changes_of,
)
from rowtag.core.errors import BadInput
from rowtag.core.steps.base import fills
from rowtag.core.touched import touched
from rowtag.core.views import FillCounts
from rowtag.store.studyfile import account_of

router = APIRouter(route_class=Route, prefix="/api/studies/{study_id}", tags=["steps"])


@router.post("/steps")
def take_step(here: Here, study_id: str, request: StepRequest) -> StepOutcome:
    """Applies a step and keeps it on disk before replying. The same id again gives the first outcome."""
    outcome = here.study(study_id).take(request.step, request.id, base=request.base, over=request.over, by=here.by)
    return StepOutcome.model_validate(asdict(here.kept(study_id, outcome)))


@router.post("/preview")
def preview_step(here: Here, study_id: str, request: PreviewRequest) -> StepPreview:
    """What a step would do at the head, without doing it."""
    file = here.study(study_id)
    study = file.study
    applied = request.step.apply(study)
    return StepPreview(
        sentence=applied.full_sentence,
        account=Account.model_validate(account_of(applied)),
        changes=changes_of(study, applied.study, applied.variables),
    )


@router.post("/preview-several")
def preview_several(here: Here, study_id: str, request: SeveralRequest) -> SeveralPreview:
    """What steps would do at the head one after the other, without doing them."""
    before = after = here.study(study_id).study
    refused, changed = [], dict[str, None]()
    for step in request.steps:
        try:
            applied = step.apply(after)
        except BadInput as error:
            refused.append(str(error))
            continue
        after = applied.study
        changed |= dict.fromkeys(applied.variables)
    there = [id for id in changed if id in before.variables and id in after.variables]
    return SeveralPreview(
        done=len(request.steps) - len(refused),
        before=FillCounts.of(fills(before, there)),
        after=FillCounts.of(fills(after, there)),
        refused=refused,
    )


@router.post("/head")
def move_head(here: Here, study_id: str, request: HeadRequest) -> HeadReply:
    """Undo, redo, or go to a state of the diary."""
    file = here.study(study_id)
    before = file.study
    revision = file.move(request.to, expected=request.expected, over=request.over, to=request.state, by=here.by)
    told = touched(before, file.study).as_dict()
    here.changed(study_id, revision)
    return HeadReply(revision=revision, touched=TouchedParts(**told))
