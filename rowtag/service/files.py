"""Files that wait to be brought in, and sources of studies that somebody looks at: opened once, kept until let go."""

import threading
import time
from collections import OrderedDict
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Any, BinaryIO, TypeVar

from rowtag.core.errors import NotThere
from rowtag.core.study import Source
from rowtag.formats.intake import Holding, Kind, Opened
from rowtag.formats.table import Picture, Settings, Watch, unwatched
from rowtag.service.apart import apart
from rowtag.store.studyfile import StudyFile
from rowtag.store.workspace import Upload, Workspace

T = TypeVar("T")

KEPT_READ = 4
"""Files whose entries stay in memory while somebody looks at them; earlier ones are read again when wanted."""
KEPT_LOOKED = 2
"""Files that one reader holds open."""
WAITING = 3600.0
"""Seconds that a file waits for somebody to look at it again, before it goes: it may be as large as the disk."""
KEPT_ORIGINALS = 2
"""Sources held open so that their original entries can be looked at."""


class Looked:
    """A file that somebody looks at. It is read beside the server; what was read last is kept here."""

    def __init__(self, path: Path, name: str) -> None:
        self.path = path
        self.name = name
        self._held: tuple[Settings, Holding] | None = None
        self._lock = threading.Lock()

    def guess(self, kind: Kind | None = None) -> Settings:
        """How this file is probably to be read, by its ending and what it holds (or as one kind)."""
        return self._asked(Opened.guess, kind)

    def heads(self, settings: Settings) -> Settings:
        """The same settings with names, wordings and begin of the data guessed anew."""
        return self._asked(Opened.heads, settings)

    def picture(self, settings: Settings) -> Picture:
        """The first rows."""
        return self._asked(Opened.picture, settings)

    def read(self, settings: Settings, watch: Watch = unwatched) -> Holding:
        """All entries and a proposal for each column."""
        with self._lock:
            if self._held is None or self._held[0] != settings:
                self._held = None
                self._held = settings, apart.read(self.name, _read, self.path, self.name, settings, watch=watch)
            return self._held[1]

    def rest(self) -> None:
        """Lets go of what was read."""
        self._held = None

    def _asked(self, what: Callable[..., T], *args: Any) -> T:
        found: T = apart.read(self.name, _look, self.path, self.name, what, args)
        return found


_open: OrderedDict[Path, Opened] = OrderedDict()
"""Files that a reader's process holds open, so that a look again costs little."""


def _look(path: Path, name: str, what: Callable[..., T], args: tuple[Any, ...]) -> T:
    """One look at a file, in a reader's process."""
    file = _open.pop(path, None) or Opened(path, name)
    _open[path] = file
    for other in [*(each for each in _open if not each.exists()), *list(_open)[:-KEPT_LOOKED]]:
        if other in _open:
            _open.pop(other).close()
    found: T = what(file, *args)
    return found


def _read(path: Path, name: str, settings: Settings, watch: Watch) -> Holding:
    """All of a file, in a reader's process, which lets go of it then."""
    try:
        return _look(path, name, Opened.read, (settings, watch))
    finally:
        if path in _open:
            _open.pop(path).close()


class Files:
    """Files that were handed in, opened, and sources of studies that somebody looks at."""

    def __init__(self, workspace: Workspace, clock: Callable[[], float] = time.monotonic) -> None:
        self._workspace = workspace
        self._clock = clock
        self._lock = threading.Lock()
        self._opened: OrderedDict[str, Looked] = OrderedDict()
        self._looked_at: dict[str, float] = {}
        self._originals: OrderedDict[tuple[str, str], _Original] = OrderedDict()

    def receive(self, name: str, data: BinaryIO | Iterable[bytes]) -> tuple[Upload, Settings]:
        """Takes a file and guesses how it is written; one that cannot be read leaves nothing."""
        upload = self._workspace.receive(name, data)
        try:
            return upload, self.opened(upload.id)[1].guess()
        except Exception:
            self.discard(upload.id)
            raise

    def opened(self, id: str) -> tuple[Upload, Looked]:
        """A file handed in earlier, opened."""
        upload = self._workspace.upload(id)
        with self._lock:
            if id not in self._opened:
                self._opened[id] = Looked(upload.path, upload.name)
            self._opened.move_to_end(id)
            self._looked_at[id] = self._clock()
            for forgotten in list(self._opened)[:-KEPT_READ]:
                self._opened[forgotten].rest()
            return upload, self._opened[id]

    def discard(self, id: str) -> None:
        """Lets a file go."""
        self._looked_at.pop(id, None)
        self._opened.pop(id, None)
        self._workspace.discard(id)

    def discard_forgotten(self) -> None:
        """Lets those go that nobody has looked at for long."""
        with self._lock:
            since = self._clock() - WAITING
            forgotten = [id for id, at in self._looked_at.items() if at < since]
        for id in forgotten:
            self.discard(id)

    def source(self, study: str, source_id: str) -> Source:
        """A source of a study; NotThere when it is not, or not any more."""
        found: Source | None = self._workspace.study(study).study.shelves["source"].get(source_id)
        if found is None:
            raise NotThere("This source is not in the study any more.", remedy="The diary shows when it was.")
        return found

    def original(self, study: str, source_id: str, watch: Watch = unwatched) -> Holding:
        """What a source of a study holds, read from its kept bytes the way it was read then."""
        file, source = self._workspace.study(study), self.source(study, source_id)
        with self._lock:
            original = self._originals.setdefault((study, source_id), _Original(self._workspace))
            self._originals.move_to_end((study, source_id))
            old = [self._originals.popitem(last=False)[1] for _ in range(len(self._originals) - KEPT_ORIGINALS)]
        for each in old:
            each.close()
        return original.read(file, source, watch)

    def close(self) -> None:
        """Lets all files go."""
        for original in self._originals.values():
            original.close()
        self._opened.clear()
        self._originals.clear()


class _Original:
    """A source that somebody looks at: its bytes as a file, opened. Only who looks at the same one waits for it."""

    def __init__(self, workspace: Workspace) -> None:
        self._workspace = workspace
        self._lock = threading.Lock()
        self._open: tuple[Upload, Looked] | None = None

    def read(self, file: StudyFile, source: Source, watch: Watch) -> Holding:
        """All that it holds, read the way it was read when it was brought in."""
        with self._lock:
            if self._open is None:
                upload = self._workspace.receive(source.name, file.source_bytes(source.sha256))
                self._open = upload, Looked(upload.path, source.name)
            return self._open[1].read(Settings.model_validate(source.settings), watch)

    def close(self) -> None:
        """Lets go of it."""
        with self._lock:
            if self._open is not None:
                self._workspace.discard(self._open[0].id)
                self._open = None
