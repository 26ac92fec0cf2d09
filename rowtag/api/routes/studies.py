"""The list of studies."""

from typing import Annotated

from fastapi import APIRouter, File, UploadFile
from fastapi.responses import FileResponse
from starlette.background import BackgroundTask

from rowtag.api.bodies import Route
from rowtag.api.context import Here
from rowtag.api.models import CopyRequest, NewStudy, RescuedStudy
from rowtag.service.carrying import open_carried, what_can_be_read
from rowtag.service.handover import plain
from rowtag.service.intake import second_keying, with_codebook_of
from rowtag.store.backups import Backup
from rowtag.store.workspace import Entry

CARRIED = ".rowtag"
"""How the file of a study that is carried elsewhere ends."""

router = APIRouter(route_class=Route, prefix="/api/studies", tags=["studies"])


@router.get("")
def list_studies(here: Here) -> list[Entry]:
    """All studies, changed last first; removed ones carry the time of their removal."""
    return here.workspace.entries()


@router.post("", status_code=201)
def create_study(here: Here, new: NewStudy) -> Entry:
    """A new, empty study."""
    return here.workspace.create(new.title)


@router.post("/demo", status_code=201)
def add_demo(here: Here) -> Entry:
    """The demo study, made when it is not in the workspace yet."""
    from rowtag.demo.seed import ensure_demo  # loaded where somebody wants it

    return ensure_demo(here.workspace)


@router.post("/{study_id}/second-keying", status_code=201)
def begin_second_keying(here: Here, study_id: str) -> Entry:
    """A study with the codebook of this one and no records, in which the same questionnaires are keyed again."""
    return second_keying(here.workspace, study_id)


@router.post("/carried", status_code=201)
def open_study_carried(here: Here, file: Annotated[UploadFile, File()]) -> Entry:
    """A study that was carried here in one file, after everything in it was read."""
    upload = here.workspace.receive(file.filename or "study", file.file)
    try:
        return open_carried(here.workspace, upload)
    finally:
        here.workspace.discard(upload.id)


@router.get("/{study_id}/carried", response_class=FileResponse)
def carry_study(here: Here, study_id: str) -> FileResponse:
    """A study with everything that it holds, in one file: sources, diary, editions, documents."""
    path = here.workspace.carry(study_id)
    name = f"{plain(here.workspace.entry(study_id).title)}{CARRIED}"
    return FileResponse(path, filename=name, background=BackgroundTask(path.unlink, missing_ok=True))


@router.post("/{study_id}/copy", status_code=201)
def copy_study(here: Here, study_id: str, new: CopyRequest) -> Entry:
    """A study of its own with all that this one holds; or with its codebook alone."""
    if new.records:
        return here.workspace.copy(study_id, new.title)
    return with_codebook_of(here.workspace, study_id, new.title)


@router.post("/{study_id}/rescued", status_code=201)
def rescue_study(here: Here, study_id: str) -> RescuedStudy:
    """What can be read of a study whose file is damaged, as a study of its own; the damaged one is left as it is."""
    entry, found = what_can_be_read(here.workspace, study_id)
    return RescuedStudy(entry=entry, steps=found.steps, of=found.of)


@router.patch("/{study_id}")
def rename_study(here: Here, study_id: str, new: NewStudy) -> Entry:
    """Gives a study another title."""
    return here.workspace.rename(study_id, new.title)


@router.delete("/{study_id}")
def remove_study(here: Here, study_id: str) -> Entry:
    """Takes a study off the list; it can be restored."""
    return here.workspace.remove(study_id)


@router.get("/{study_id}/backups")
def list_backups(here: Here, study_id: str) -> list[Backup]:
    """The backups of a study, newest first."""
    return here.workspace.backups(study_id)


@router.post("/{study_id}/backups", status_code=201)
def back_up_study(here: Here, study_id: str) -> Backup:
    """Makes a backup of a study as it is now; old ones are let go."""
    return here.workspace.back_up(study_id)


@router.post("/{study_id}/backups/{name}/restore", status_code=201)
def restore_backup(here: Here, study_id: str, name: str) -> Entry:
    """A backup as a study of its own, beside the one that it was made of."""
    return here.workspace.restore_backup(study_id, name)


@router.post("/{study_id}/restore")
def restore_study(here: Here, study_id: str) -> Entry:
    """Puts a removed study back on the list."""
    return here.workspace.restore(study_id)
