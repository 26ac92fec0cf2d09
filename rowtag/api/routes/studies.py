"""The list of studies."""

from dataclasses import asdict

from fastapi import APIRouter

from rowtag.api.context import Here
from rowtag.api.models import NewStudy, StudyEntry
from rowtag.demo.seed import ensure_demo
from rowtag.store.workspace import Entry

router = APIRouter(prefix="/api/studies", tags=["studies"])


def _shown(entry: Entry) -> StudyEntry:
    return StudyEntry(**asdict(entry))


@router.get("")
def list_studies(here: Here) -> list[StudyEntry]:
    """All studies, changed last first; removed ones carry the time of their removal."""
    return [_shown(entry) for entry in here.workspace.entries()]


@router.post("", status_code=201)
def create_study(here: Here, new: NewStudy) -> StudyEntry:
    """A new, empty study."""
    return _shown(here.workspace.create(new.title))


@router.post("/demo", status_code=201)
def add_demo(here: Here) -> StudyEntry:
    """The demo study, made when it is not in the workspace yet."""
    return _shown(ensure_demo(here.workspace))


@router.patch("/{study_id}")
def rename_study(here: Here, study_id: str, new: NewStudy) -> StudyEntry:
    """Gives a study another title."""
    return _shown(here.workspace.rename(study_id, new.title))


@router.delete("/{study_id}")
def remove_study(here: Here, study_id: str) -> StudyEntry:
    """Takes a study off the list; it can be restored."""
    return _shown(here.workspace.remove(study_id))


@router.post("/{study_id}/restore")
def restore_study(here: Here, study_id: str) -> StudyEntry:
    """Puts a removed study back on the list."""
    return _shown(here.workspace.restore(study_id))
