"""What routes work with: the workspace, long work, and the announcer."""

import getpass
from dataclasses import dataclass
from typing import Annotated

from fastapi import Depends, Request

from rowtag.service.announcer import Announcer
from rowtag.service.files import Files
from rowtag.service.jobs import Jobs
from rowtag.store.studyfile import Outcome, StudyFile
from rowtag.store.workspace import Workspace


@dataclass(frozen=True)
class Context:
    """The parts of a running server."""

    workspace: Workspace
    files: Files
    jobs: Jobs
    announcer: Announcer
    by: str

    def study(self, id: str) -> StudyFile:
        """An open study."""
        return self.workspace.study(id)

    def changed(self, id: str) -> None:
        """Notes a change of a study in the catalogue and tells open windows."""
        self.workspace.note_change(id)
        self.announcer.announce(id, self.study(id).revision)

    def kept(self, id: str, outcome: Outcome) -> Outcome:
        """Passes an outcome on after telling about it."""
        self.changed(id)
        return outcome


def user_name() -> str:
    """Who works here, for the diary."""
    try:
        return getpass.getuser()
    except (KeyError, OSError):
        return ""


def _context(request: Request) -> Context:
    found: Context = request.app.state.context
    return found


Here = Annotated[Context, Depends(_context)]
