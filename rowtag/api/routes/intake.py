"""Files handed in, looked at, and brought in; long work."""

from collections.abc import Callable
from typing import Annotated

from fastapi import APIRouter, File, UploadFile

from rowtag.api.bodies import Route
from rowtag.api.context import Context, Here
from rowtag.api.models_diary import AmendProblem
from rowtag.api.models_intake import (
    BesideReport,
    BesideRequest,
    BringInRequest,
    ColumnProposal,
    ColumnsRequest,
    CorrectedLook,
    CorrectNow,
    CorrectRequest,
    FieldsRequest,
    GuessRequest,
    IntakeFile,
    JoinReport,
    JoinRequest,
    Look,
    MoreRecordsRequest,
    MoreVariablesRequest,
    ProposalReport,
)
from rowtag.api.models_jobs import JobState
from rowtag.api.models_sheets import CodebookOffer
from rowtag.core.errors import BadInput
from rowtag.formats.fields import FieldSource, fields_of_study, fields_of_table, fields_of_text
from rowtag.formats.table import FixedField, Settings, Watch
from rowtag.service.apart import typed
from rowtag.service.correcting import correct, corrected
from rowtag.service.intake import bring_in, chosen, chosen_column, reading_of, source_of
from rowtag.service.jobs import Job
from rowtag.service.more import joining, more_records
from rowtag.service.more_variables import more_variables, standing_beside
from rowtag.service.sheets import carried_codebook
from rowtag.store.diary import Outcome

router = APIRouter(route_class=Route, prefix="/api", tags=["intake"])


@router.post("/intake", status_code=201)
def hand_in(here: Here, file: Annotated[UploadFile, File()]) -> IntakeFile:
    """Takes a file, guesses how it is written, and shows its first rows. It changes no study."""
    upload, settings = here.files.receive(file.filename or "file", file.file)
    return _seen(here, upload.id, settings)


def _seen(here: Context, file_id: str, settings: Settings) -> IntakeFile:
    upload, opened = here.files.opened(file_id)
    return IntakeFile.of(upload.id, upload.name, upload.size, opened.picture(settings))


@router.post("/intake/{file_id}/guess")
def guess_again(here: Here, file_id: str, request: GuessRequest) -> IntakeFile:
    """The first rows of a file, taken for another kind."""
    return _seen(here, file_id, here.files.opened(file_id)[1].guess(request.kind))


@router.post("/intake/{file_id}/picture")
def look_again(here: Here, file_id: str, look: Look) -> IntakeFile:
    """The first rows of a file, read another way."""
    opened = here.files.opened(file_id)[1]
    return _seen(here, file_id, opened.heads(look.settings) if look.heads else look.settings)


@router.post("/intake/{file_id}/fields")
def take_fields(here: Here, file_id: str, request: FieldsRequest) -> IntakeFile:
    """The first lines of a fixed-column text, with fields taken from a codebook."""
    settings = request.settings.model_copy(update={"kind": "fixed", "fields": _fields(here, request.source)})
    return _seen(here, file_id, here.files.opened(file_id)[1].heads(settings))


def _fields(here: Context, source: FieldSource) -> tuple[FixedField, ...]:
    if source.kind == "text":
        return typed.read("what was typed", fields_of_text, source.value)
    if source.kind == "study":
        return fields_of_study(here.study(source.value).study)
    opened = here.files.opened(source.value)[1]
    return fields_of_table(opened.read(opened.guess()).table)


@router.post("/intake/{file_id}/codebook")
def offer_codebook(here: Here, file_id: str, look: Look) -> CodebookOffer | None:
    """Another sheet of the workbook that describes at least a third of the columns of the one to be brought in."""
    upload = here.files.opened(file_id)[0]
    found = carried_codebook(upload.path, upload.name, look.settings)
    return None if found is None else CodebookOffer(**vars(found))


@router.post("/intake/{file_id}/proposals")
def propose_tags(here: Here, file_id: str, look: Look) -> JobState:
    """Reads the whole file and proposes a tag per column: long work whose result holds the proposals."""
    upload, opened = here.files.opened(file_id)

    def work(_job: Job, watch: Watch) -> dict[str, object]:
        holding = opened.read(look.settings, watch)
        table = holding.table
        report = ProposalReport(
            settings=table.settings,
            records=table.records,
            notes=table.notes,
            foot=table.foot,
            columns=[ColumnProposal.of(holding, column) for column in chosen(holding, {})],
        )
        return {"proposals": report}

    return JobState.of(here.jobs.start(f"Reading {upload.name}", work))


@router.post("/intake/{file_id}/columns")
def look_at_columns(here: Here, file_id: str, request: ColumnsRequest) -> list[ColumnProposal]:
    """Columns under what was chosen for them: how their entries would read, and which would not."""
    holding = here.files.opened(file_id)[1].read(request.settings)
    columns = [
        chosen_column(holding, number, choice)
        for number, choice in request.choices.items()
        if 1 <= number <= len(holding.proposals)
    ]
    return [ColumnProposal.of(holding, column, in_full=len(columns) == 1) for column in columns]


@router.post("/intake/{file_id}/bring-in")
def start_bringing_in(here: Here, file_id: str, request: BringInRequest) -> JobState:
    """Brings a file into an empty study as one step: long work that leaves nothing when it is cancelled."""
    return _started(here, file_id, request, "Bringing in", bring_in, request.choices)


@router.post("/intake/{file_id}/join")
def preview_joining(here: Here, file_id: str, request: JoinRequest) -> JoinReport:
    """How a file would join a study that has variables: what is new, gone, of another type, or known."""
    holding = here.files.opened(file_id)[1].read(request.settings)
    return JoinReport.model_validate(joining(here.study(request.study).study, holding, request.more))


@router.post("/intake/{file_id}/more-records")
def start_adding_records(here: Here, file_id: str, request: MoreRecordsRequest) -> JobState:
    """Adds a file's records to a study as one step: long work that leaves nothing when it is cancelled."""
    return _started(here, file_id, request, "Adding", more_records, request.more)


@router.post("/intake/{file_id}/beside")
def preview_beside(here: Here, file_id: str, request: BesideRequest) -> BesideReport:
    """How a file's columns would stand beside a study's records: what is matched, alone, unknown or doubled."""
    holding = here.files.opened(file_id)[1].read(request.settings)
    return BesideReport.model_validate(standing_beside(here.study(request.study).study, holding, request.more))


@router.post("/intake/{file_id}/more-variables")
def start_putting_beside(here: Here, file_id: str, request: MoreVariablesRequest) -> JobState:
    """Puts a file's columns beside a study's records as one step: long work that leaves nothing when it is
    cancelled."""
    return _started(here, file_id, request, "Putting beside", more_variables, request.more)


@router.post("/intake/{file_id}/corrected")
def look_at_correction(here: Here, file_id: str, request: CorrectRequest) -> CorrectedLook:
    """What becomes of a study with a file in the place of one that was brought in; nothing is kept."""
    upload, opened = here.files.opened(file_id)
    holding, file = opened.read(request.settings), here.study(request.study)
    revision = file.revision
    try:
        found = corrected(file, holding, source_of(upload, holding), request.how)
    except BadInput as error:
        return CorrectedLook(revision=revision, problem=AmendProblem.of(error))
    return CorrectedLook.of(revision, found, request.how.identifier)


@router.post("/intake/{file_id}/correct")
def start_correcting(here: Here, file_id: str, request: CorrectNow) -> JobState:
    """Takes a file in the place of one that was brought in, and does all that was done since upon it: long work that
    leaves nothing when it is cancelled. Undo leads back."""
    upload, opened = here.files.opened(file_id)
    file = here.study(request.study)

    def work(_job: Job, watch: Watch) -> dict[str, object]:
        with reading_of(upload, request.settings, opened, watch) as (holding, pieces):
            bytes_of_it = (upload.sha256, iter(pieces()))
            expected, source = request.expected, source_of(upload, holding)
            watch(0.85, "doing again what was done since")
            correct(file, holding, source, request.how, pieces=bytes_of_it, expected=expected, by=here.by)
        here.changed(request.study, file.revision)
        here.files.discard(file_id)
        return {"study": request.study, "revision": file.revision, "sentence": f"Took {upload.name}."}

    return JobState.of(here.jobs.start(f"Correcting by {upload.name}", work))


def _started(
    here: Context,
    file_id: str,
    request: BringInRequest | MoreRecordsRequest | MoreVariablesRequest,
    doing: str,
    bring: Callable[..., Outcome],
    how: object,
) -> JobState:
    """Long work that takes a file into a study; the file need not wait any longer once it is there."""
    upload, opened = here.files.opened(file_id)
    study = here.study(request.study)

    def work(_job: Job, watch: Watch) -> dict[str, object]:
        outcome = bring(
            study, upload, request.settings, how, step_id=request.step_id, by=here.by, watch=watch, opened=opened
        )
        here.kept(request.study, outcome)
        here.files.discard(file_id)
        return {"study": request.study, "revision": outcome.revision, "sentence": outcome.sentence}

    return JobState.of(here.jobs.start(f"{doing} {upload.name}", work))


@router.delete("/intake/{file_id}", status_code=204)
def discard_file(here: Here, file_id: str) -> None:
    """Lets a file go that was handed in."""
    here.files.discard(file_id)


@router.get("/jobs/{job_id}")
def job_state(here: Here, job_id: str) -> JobState:
    """How far long work is, and what came of it."""
    return JobState.of(here.jobs.get(job_id))


@router.delete("/jobs/{job_id}")
def cancel_job(here: Here, job_id: str) -> JobState:
    """Asks long work to stop."""
    return JobState.of(here.jobs.cancel(job_id))
