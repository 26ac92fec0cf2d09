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
        self._originals: OrderedDict[tuple[str, str], tuple[Upload, Opened]] = OrderedDict()

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
        key = study, source_id
        with self._lock:
            return self._original(key, file, source).read(Settings.model_validate(source.settings), watch)

    def _original(self, key: tuple[str, str], file: StudyFile, source: Source) -> Opened:
        if key not in self._originals:
            upload = self._workspace.receive(source.name, file.source_bytes(source.sha256))
            self._originals[key] = upload, Opened(upload.path, source.name)
            while len(self._originals) > KEPT_ORIGINALS:
                _, (old, opened) = self._originals.popitem(last=False)
                opened.close()
                self._workspace.discard(old.id)
        self._originals.move_to_end(key)
        return self._originals[key][1]

    def close(self) -> None:
        """Lets all files go."""
        for opened in [*self._opened.values(), *(opened for _, opened in self._originals.values())]:
            opened.close()
        self._opened.clear()
        self._originals.clear()
