"""Handover: previews of what leaves, and the archive."""

import secrets

from fastapi import APIRouter
from fastapi.responses import FileResponse

from rowtag.api.bodies import Route
from rowtag.api.context import Here
from rowtag.api.models import HandoverRequest
from rowtag.api.models_jobs import JobState
from rowtag.core.errors import BadInput, NotThere
from rowtag.core.study import Study
from rowtag.formats.table import Watch
from rowtag.formats.writers import Preview
from rowtag.service.editions import state_of
from rowtag.service.handover import archive, plain, previews
from rowtag.service.jobs import Job

router = APIRouter(route_class=Route, prefix="/api", tags=["handover"])


@router.post("/studies/{study_id}/handover/preview")
def preview_files(here: Here, study_id: str, request: HandoverRequest) -> list[Preview]:
    """The first lines of each file that would leave."""
    study, title = _handed(here, study_id, request)
    return list(previews(study, title, request.chosen()))


@router.post("/studies/{study_id}/handover")
def make_archive(here: Here, study_id: str, request: HandoverRequest) -> JobState:
    """Writes one zip with the data and the codebook: long work whose file can then be fetched."""
    study, title = _handed(here, study_id, request)

    def work(job: Job, watch: Watch) -> dict[str, object]:
        job.file = here.workspace.scratch / f"{secrets.token_hex(8)}.zip"
        notes = archive(study, title, request.chosen(), job.file, watch)
        job.file_name = f"{plain(title)}.zip"
        return {"notes": notes, "size": job.file.stat().st_size, "name": job.file_name}

    return JobState.of(here.jobs.start("Handing over", work))


def _handed(here: Here, study_id: str, request: HandoverRequest) -> tuple[Study, str]:
    """The state that is handed over, and what it is called."""
    title = here.entry(study_id).title
    study, edition = state_of(here.study(study_id), request.edition)
    if not study.order:
        raise BadInput("This study has no variables yet.", remedy="Bring a file in first.")
    return study, title if request.edition == "now" else f"{title}, {edition}"


@router.get("/jobs/{job_id}/file", response_class=FileResponse)
def fetch_file(here: Here, job_id: str) -> FileResponse:
    """The file that long work has made."""
    job = here.jobs.get(job_id)
    if job.status != "done" or job.file is None or not job.file.exists():
        raise NotThere("This work has made no file.", remedy="Start it again.")
    return FileResponse(job.file, media_type="application/zip", filename=job.file_name)
