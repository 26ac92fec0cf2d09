"""Files that wait to be brought in, and sources of studies that somebody looks at: opened once, kept until let go."""

import threading
from collections import OrderedDict
from collections.abc import Iterable
from typing import BinaryIO

from rowtag.core.errors import NotThere
from rowtag.core.study import Source
from rowtag.formats.intake import Holding, Opened
from rowtag.formats.table import Settings, Watch, unwatched
from rowtag.store.studyfile import StudyFile
from rowtag.store.workspace import Upload, Workspace

KEPT_READ = 4
"""Files whose entries stay in memory while somebody looks at them; earlier ones are read again when wanted."""
KEPT_ORIGINALS = 2
"""Sources held open so that their original entries can be looked at."""


class Files:
    """Files that were handed in, opened, and sources of studies that somebody looks at."""

    def __init__(self, workspace: Workspace) -> None:
        self._workspace = workspace
        self._lock = threading.Lock()
        self._opened: OrderedDict[str, Opened] = OrderedDict()
        self._originals: OrderedDict[tuple[str, str], _Original] = OrderedDict()

    def receive(self, name: str, data: BinaryIO | Iterable[bytes]) -> tuple[Upload, Settings]:
        """Takes a file and guesses how it is written; one that cannot be read leaves nothing."""
        upload = self._workspace.receive(name, data)
        try:
            return upload, self.opened(upload.id)[1].guess()
        except Exception:
            self.discard(upload.id)
            raise

    def opened(self, id: str) -> tuple[Upload, Opened]:
        """A file handed in earlier, opened."""
        upload = self._workspace.upload(id)
        with self._lock:
            if id not in self._opened:
                self._opened[id] = Opened(upload.path, upload.name)
            self._opened.move_to_end(id)
            for forgotten in list(self._opened)[:-KEPT_READ]:
                self._opened[forgotten].rest()
            return upload, self._opened[id]

    def discard(self, id: str) -> None:
        """Lets a file go."""
        opened = self._opened.pop(id, None)
        if opened is not None:
            opened.close()
        self._workspace.discard(id)

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
        for opened in self._opened.values():
            opened.close()
        for original in self._originals.values():
            original.close()
        self._opened.clear()
        self._originals.clear()


class _Original:
    """A source that somebody looks at: its bytes as a file, opened. Only who looks at the same one waits for it."""

    def __init__(self, workspace: Workspace) -> None:
        self._workspace = workspace
        self._lock = threading.Lock()
        self._open: tuple[Upload, Opened] | None = None

    def read(self, file: StudyFile, source: Source, watch: Watch) -> Holding:
        """All that it holds, read the way it was read when it was brought in."""
        with self._lock:
            if self._open is None:
                upload = self._workspace.receive(source.name, file.source_bytes(source.sha256))
                self._open = upload, Opened(upload.path, source.name)
            return self._open[1].read(Settings.model_validate(source.settings), watch)

    def close(self) -> None:
        """Lets go of it."""
        with self._lock:
            if self._open is not None:
                upload, opened = self._open
                opened.close()
                self._workspace.discard(upload.id)
                self._open = None
