"""The diary as something to work on: amended, saved as a routine, told as a story; and its editions."""

from itertools import chain, islice
from typing import Annotated, Any

from fastapi import APIRouter, Query, Response
from fastapi.responses import StreamingResponse

from rowtag.api.bodies import Route
from rowtag.api.context import Here
from rowtag.api.models import HeadReply, TouchedParts
from rowtag.api.models_diary import (
    AmendLook,
    AmendNow,
    AmendProblem,
    AmendRequest,
    ComparedModel,
    NewEdition,
    NextWaveLook,
    NextWaveNow,
    NextWaveRequest,
    RoutineLook,
    RoutineNow,
    RoutineRequest,
    WrittenStep,
)
from rowtag.core.comparing import compared
from rowtag.core.errors import BadInput
from rowtag.core.study import Study
from rowtag.core.touched import touched
from rowtag.formats.routine import Routine, pieces, read
from rowtag.service.amending import amend, amended, written
from rowtag.service.apart import apart, typed
from rowtag.service.coming import File
from rowtag.service.editions import between, comparison, name_edition
from rowtag.service.routines import Ran, kept_as_study, kept_on, run, saved, saving
from rowtag.service.story import story
from rowtag.store.editions import Edition, editions, forget_edition
from rowtag.store.studyfile import StudyFile
from rowtag.store.workspace import Entry

router = APIRouter(route_class=Route, prefix="/api/studies/{study_id}", tags=["diary"])


@router.get("/steps/{step_id}/written")
def written_step(here: Here, study_id: str, step_id: str) -> WrittenStep:
    """A step of the past as it is written with names, those of its time."""
    passed, says = written(here.study(study_id), step_id)
    return WrittenStep(step_id=step_id, sentence=passed.sentence, at=passed.at, by=passed.by, says=says)


@router.get("/steps/{step_id}/evidence")
def evidence_of_step(here: Here, study_id: str, step_id: str) -> ComparedModel:
    """What a step of the diary made otherwise: the state after it compared with the one before."""
    file = here.study(study_id)
    made = file.made_by(step_id)
    before, after = (file.state(state) for state in made)
    return ComparedModel.of(before, after, compared(before, after))


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
    amend(file, edits, expected=request.expected, by=here.by)
    return _led(here, study_id, file, before)


def _led(here: Here, study_id: str, file: StudyFile, before: Study) -> HeadReply:
    """Tells that the head was led elsewhere."""
    told = touched(before, file.study).as_dict()
    here.changed(study_id, file.revision)
    return HeadReply(revision=file.revision, touched=TouchedParts(**told))


# Routines ---------------------------------------------------------------------------------------

_PAGE: dict[int | str, dict[str, Any]] = {200: {"content": {"text/html": {}}}}


@router.get("/routine", response_class=Response, responses={200: {"content": {"application/yaml": {}}}})
def save_routine(here: Here, study_id: str, step: Annotated[list[str] | None, Query()] = None) -> Response:
    """The steps that led the study to where it is, or some of them, as a routine."""
    entry, file = here.entry(study_id), here.study(study_id)
    headers = {"Content-Disposition": 'attachment; filename="routine.yaml"'}
    text = pieces(saving(file, entry.title, step))
    begun = list(islice(text, 2))  # what cannot be told is said before anything is sent
    return StreamingResponse(chain(begun, text), media_type="application/yaml", headers=headers)


def _routine(request: RoutineRequest) -> Routine:
    """A routine from its text, which may be long, and anybody's."""
    return typed.read(request.name, read, request.text, request.name)


@router.post("/routine/preview")
def look_at_routine(here: Here, study_id: str, request: RoutineRequest) -> RoutineLook:
    """What a routine would do on the study; nothing is kept."""
    file = here.study(study_id)
    revision, study = file.snapshot()
    try:
        return RoutineLook.of(revision, study, run(_routine(request), request.name, base=study))
    except BadInput as error:
        return RoutineLook(revision=revision, problem=AmendProblem.of(error))


@router.post("/routine")
def do_routine(here: Here, study_id: str, request: RoutineNow) -> HeadReply:
    """Does on the study what can be done of a routine, all of it together; undo leads back before it."""
    file = here.study(study_id)
    before = file.study
    ran = run(_routine(request), request.name, base=before)
    kept_on(ran, file, expected=request.expected, by=here.by)
    return _led(here, study_id, file, before)


@router.post("/next-wave/preview")
def look_at_next_wave(here: Here, study_id: str, request: NextWaveRequest) -> NextWaveLook:
    """What the file of the next wave becomes by the steps of this study, or by a routine; nothing is kept."""
    try:
        return NextWaveLook.of(here.study(study_id).study, _next_wave(here, study_id, request))
    except BadInput as error:
        return NextWaveLook(problem=AmendProblem.of(error))


@router.post("/next-wave", status_code=201)
def begin_next_wave(here: Here, study_id: str, request: NextWaveNow) -> Entry:
    """The next wave as a study of its own."""
    made = kept_as_study(_next_wave(here, study_id, request), here.workspace, request.title, here.by)
    here.files.discard(request.file)
    return made


def _next_wave(here: Here, study_id: str, request: NextWaveRequest) -> Ran:
    upload, _ = here.files.opened(request.file)
    own = request.routine
    routine = saved(here.study(study_id), "") if own is None else _routine(own)
    name = "the diary" if own is None else own.name
    return run(
        routine,
        name,
        file=File(upload.path, upload.name, apart.read),
        columns=request.columns,
        sheet=request.sheet,
        single_records=request.single_records,
    )


@router.get("/story", response_class=Response, responses=_PAGE)
def tell_story(here: Here, study_id: str) -> Response:
    """What was done, as one page to print and put away."""
    entry, file = here.entry(study_id), here.study(study_id)
    return _page(story(file, entry.title), "story.html")


# Editions ---------------------------------------------------------------------------------------


@router.get("/editions")
def list_editions(here: Here, study_id: str) -> list[Edition]:
    """The named states of a study, newest first."""
    return editions(here.study(study_id))


@router.post("/editions", status_code=201)
def new_edition(here: Here, study_id: str, new: NewEdition) -> Edition:
    """Names the state at the head, or another one of the diary."""
    return name_edition(here.study(study_id), new.name, new.note, new.state, here.by)


@router.delete("/editions/{edition_id}", status_code=204)
def drop_edition(here: Here, study_id: str, edition_id: str) -> None:
    """Lets the name of a state go; the state stays in the diary."""
    forget_edition(here.study(study_id), edition_id)


@router.get("/compared")
def compare_editions(here: Here, study_id: str, one: str, other: str = "now") -> ComparedModel:
    """What differs between two editions, or one and the study as it is now."""
    return ComparedModel.of(*between(here.study(study_id), one, other))


@router.get("/comparison", response_class=Response, responses=_PAGE)
def written_comparison(here: Here, study_id: str, one: str, other: str = "now") -> Response:
    """What differs between two editions, as one page to print and put away."""
    entry = here.entry(study_id)
    return _page(comparison(here.study(study_id), entry.title, one, other), "comparison.html")


def _page(text: str, name: str) -> Response:
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(text, media_type="text/html; charset=utf-8", headers=headers)
