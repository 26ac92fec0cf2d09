"""Studies that come in one file from elsewhere, and those whose file is damaged: read beside the server."""

from pathlib import Path

from rowtag.formats.table import unwatched
from rowtag.service.apart import apart
from rowtag.store.rescue import Rescued, rescue
from rowtag.store.rewrite import rewrite
from rowtag.store.workspace import Entry, Upload, Workspace

LONGEST = 150
"""Characters of a title that something is said behind."""


def open_carried(workspace: Workspace, upload: Upload) -> Entry:
    """A study that was carried here, once everything in it was read and written anew. Raises Damaged where it is not as
    Row Tag wrote it; then nothing of it stands in the workspace."""
    with workspace.fresh() as path:
        title = apart.read(upload.name, rewrite, upload.path, path, upload.name, watch=unwatched)
        return workspace.make(title or Path(upload.name).stem, of=path)


def what_can_be_read(workspace: Workspace, id: str) -> tuple[Entry, Rescued]:
    """What can be read of a study, damaged or not, as a study of its own beside it. Raises Damaged where that is
    nothing."""
    entry, file = workspace.entry(id), workspace.path(id)
    with workspace.fresh() as path:
        found = apart.read(file.name, rescue, file, path, file.name, watch=unwatched)
        return workspace.make(f"{entry.title[:LONGEST]}, what could be read", of=path), found
