"""Files handed in, looked at, and brought in; long work."""

from typing import Annotated

from fastapi import APIRouter, File, UploadFile

from rowtag.api.context import Here
from rowtag.api.models import BringInRequest, ColumnProposal, IntakeFile, JobState, Look, ProposalReport
from rowtag.formats import intake
from rowtag.formats.table import Watch
from rowtag.service.intake import bring_in
from rowtag.service.jobs import Job

router = APIRouter(prefix="/api", tags=["intake"])


@router.post("/intake", status_code=201)
def hand_in(here: Here, file: Annotated[UploadFile, File()]) -> IntakeFile:
    """Takes a file, guesses how it is written, and shows its first rows. It changes no study."""
    upload = here.workspace.receive(file.filename or "file", file.file)
    try:
        settings = intake.guess(upload.path, upload.name)
        picture = intake.picture(upload.path, upload.name, settings)
    except Exception:
        here.workspace.discard(upload.id)
        raise
    return IntakeFile.of(upload.id, upload.name, upload.size, picture)


@router.post("/intake/{file_id}/picture")
def look_again(here: Here, file_id: str, look: Look) -> IntakeFile:
    """The first rows of a file, read another way."""
    upload = here.workspace.upload(file_id)
    return IntakeFile.of(upload.id, upload.name, upload.size, intake.picture(upload.path, upload.name, look.settings))


@router.post("/intake/{file_id}/proposals")
def propose_tags(here: Here, file_id: str, look: Look) -> JobState:
    """Reads the whole file and proposes a tag per column: long work whose result holds the proposals."""
    upload = here.workspace.upload(file_id)

    def work(_job: Job, watch: Watch) -> dict[str, object]:
        holding = intake.read(upload.path, upload.name, look.settings, watch)
        table = holding.table
        columns = zip(table.heads, holding.proposals, table.columns, strict=True)
        shown = [
            ColumnProposal.of(number, head, proposal, table.records, holding.blanks(column))
            for number, (head, proposal, column) in enumerate(columns, 1)
        ]
        return {"proposals": ProposalReport(records=table.records, notes=table.notes, columns=shown)}

    return JobState.of(here.jobs.start(f"Reading {upload.name}", work))


@router.post("/intake/{file_id}/bring-in")
def start_bringing_in(here: Here, file_id: str, request: BringInRequest) -> JobState:
    """Brings a file into an empty study as one step: long work that leaves nothing when it is cancelled."""
    upload = here.workspace.upload(file_id)
    study = here.study(request.study)

    def work(_job: Job, watch: Watch) -> dict[str, object]:
        outcome = bring_in(
            study, upload, request.settings, request.choices, step_id=request.step_id, by=here.by, watch=watch
        )
        here.changed(request.study)
        here.workspace.discard(file_id)
        return {"study": request.study, "revision": outcome.revision, "sentence": outcome.sentence}

    return JobState.of(here.jobs.start(f"Bringing in {upload.name}", work))


@router.delete("/intake/{file_id}", status_code=204)
def discard_file(here: Here, file_id: str) -> None:
    """Lets a file go that was handed in."""
    here.workspace.discard(file_id)


@router.get("/jobs/{job_id}")
def job_state(here: Here, job_id: str) -> JobState:
    """How far long work is, and what came of it."""
    return JobState.of(here.jobs.get(job_id))


@router.delete("/jobs/{job_id}")
def cancel_job(here: Here, job_id: str) -> JobState:
    """Asks long work to stop."""
    return JobState.of(here.jobs.cancel(job_id))
