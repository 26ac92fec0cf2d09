"""What routes work with: the workspace, long work, and the announcer."""

import getpass
from dataclasses import dataclass
from typing import Annotated

from fastapi import Depends, Request

from rowtag.core.errors import NotThere
from rowtag.service.announcer import Announcer, Event
from rowtag.service.beside import Beside
from rowtag.service.files import Files
from rowtag.service.jobs import Jobs
from rowtag.service.looking import Totals
from rowtag.store.diary import Outcome
from rowtag.store.editions import edition
from rowtag.store.studyfile import StudyFile
from rowtag.store.workspace import Entry, Workspace

EDITION = "~"
"""What parts the id of a study and that of an edition of it."""


@dataclass(frozen=True)
class Context:
    """The parts of a running server."""

    workspace: Workspace
    files: Files
    jobs: Jobs
    announcer: Announcer
    beside: Beside
    totals: Totals
    by: str

    def study(self, id: str) -> StudyFile:
        """An open study; or one of its editions, to be looked at, where that stands behind its id (and a ~)."""
        whole, _, named = id.partition(EDITION)
        file = self.workspace.study(whole)
        if not named:
            return file
        entry = self.workspace.entry(whole)
        if entry.removed_at is not None:
            raise NotThere(f"“{entry.title}” was removed, and its editions with it.", remedy="Restore it on the list.")
        found = edition(file, named)
        return file.at(found.state, found.name)

    def entry(self, id: str) -> Entry:
        """What the list of studies says of a study, or of the one that an edition is of."""
        return self.workspace.entry(id.partition(EDITION)[0])

    def kept(self, id: str, outcome: Outcome) -> Outcome:
        """Passes an outcome on after telling about it."""
        self.changed(id, outcome.revision, outcome.step_id)
        return outcome

    def changed(self, id: str, revision: int, step: str | None = None) -> None:
        """Notes a change of a study in the catalogue, tells open windows, and has all of it looked at again.

        Windows are told only that there is something newer: what it touched the overview says, in one order for all.
        """
        self.workspace.note_change(id)
        self.announcer.announce(id, Event("revision", {"revision": revision, "step": step}))
        self.beside.ask(id, *self.study(id).snapshot())


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
