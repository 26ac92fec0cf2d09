"""The workspace: a folder with one file per study, their catalogue, and files that wait to be brought in."""

import fcntl
import hashlib
import secrets
import threading
import time
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from pathlib import Path
from typing import Any, BinaryIO

import platformdirs
import sqlalchemy as sa

from rowtag.core.errors import BadInput, InUse, NotThere, TooLarge, not_stored
from rowtag.core.words import megabytes
from rowtag.store.database import open_database, studies
from rowtag.store.library import Library
from rowtag.store.studyfile import StudyFile, now

NOTE_AFTER = 5.0
"""Seconds after which the catalogue is told again when a study was changed."""
MOST_BYTES = 2 << 30
"""Largest file that may be handed in."""


@dataclass(frozen=True)
class Entry:
    """A study in the catalogue."""

    id: str
    title: str
    created_at: str
    changed_at: str
    removed_at: str | None
    records: int
    variables: int


@dataclass(frozen=True)
class Upload:
    """A file handed in: where it lies, its name, size in bytes, and SHA-256."""

    id: str
    path: Path
    name: str
    size: int
    sha256: str


def default_folder() -> Path:
    """Where studies lie unless told otherwise, by the platform's convention."""
    return Path(platformdirs.user_data_dir("rowtag", appauthor=False))


class Workspace:
    """An open workspace; only one server at a time may hold it."""

    def __init__(self, folder: Path, *, clock: Callable[[], str] = now) -> None:
        self.folder = folder
        self._clock = clock
        self._lock = threading.RLock()
        self._open: dict[str, StudyFile] = {}
        self._uploads: dict[str, Upload] = {}
        self._noted: dict[str, tuple[tuple[int, int] | None, float]] = {}
        folder.mkdir(parents=True, exist_ok=True)
        self._guard = _lock_folder(folder)
        self.scratch = folder / "handed-in"  # files that wait, or are being made; gone at the next start
        self.scratch.mkdir(exist_ok=True)
        for left_over in self.scratch.iterdir():
            left_over.unlink()
        self._engine = open_database(folder / "catalogue.sqlite", "catalogue")
        self.library = Library(self._engine)

    def close(self) -> None:
        """Closes all studies and lets go of the folder."""
        with self._lock:
            for file in self._open.values():
                file.close()
            self._open.clear()
            self._engine.dispose()
            self._guard.close()

    # The catalogue --------------------------------------------------------------------------

    def entries(self) -> list[Entry]:
        """All studies, changed last first; removed ones too."""
        with self._engine.begin() as connection:
            rows = connection.execute(sa.select(studies).order_by(studies.c.changed_at.desc())).all()
        return [Entry(**row._mapping) for row in rows]

    def entry(self, id: str) -> Entry:
        """One study of the catalogue."""
        for entry in self.entries():
            if entry.id == id:
                return entry
        raise NotThere("There is no such study in this workspace.", remedy="Look at the list of studies.")

    def create(self, title: str, id: str | None = None) -> Entry:
        """A new, empty study."""
        id, at = id or secrets.token_hex(6), self._clock()
        values = {"id": id, "title": _title(title), "created_at": at, "changed_at": at}
        with self._engine.begin() as connection:
            connection.execute(studies.insert().values(**values))
        return self.entry(id)

    def rename(self, id: str, title: str) -> Entry:
        """Gives a study another title."""
        return self._update(id, title=_title(title))

    def remove(self, id: str) -> Entry:
        """Takes a study off the list; its file stays, so that it can be restored."""
        return self._update(id, removed_at=self._clock())

    def restore(self, id: str) -> Entry:
        """Puts a removed study back on the list."""
        return self._update(id, removed_at=None)

    def note_change(self, id: str) -> None:
        """Notes in the catalogue how large a study is now, and when that was; the time not at every keystroke."""
        file = self.study(id)
        size = (file.study.records.count, len(file.study.order))
        noted, at = self._noted.get(id, (None, 0.0))
        if noted != size or time.monotonic() - at > NOTE_AFTER:
            self._update(id, records=size[0], variables=size[1], changed_at=file.kept_at)
            self._noted[id] = (size, time.monotonic())

    def study(self, id: str) -> StudyFile:
        """An open study."""
        with self._lock:
            if id not in self._open:
                self.entry(id)
                self._open[id] = StudyFile(self.folder / f"{id}.sqlite", clock=self._clock)
            return self._open[id]

    def _update(self, id: str, **values: Any) -> Entry:
        self.entry(id)
        with self._engine.begin() as connection:
            connection.execute(studies.update().where(studies.c.id == id).values(**values))
        return self.entry(id)

    # Files handed in ------------------------------------------------------------------------

    def receive(self, name: str, blocks: BinaryIO | Iterable[bytes], most: int = MOST_BYTES) -> Upload:
        """Keeps a file for looking at and bringing in. Its name is only ever shown, never a path."""
        id = secrets.token_hex(8)
        path = self.scratch / f"{id}{_ending(name)}"
        digest, size = hashlib.sha256(), 0
        try:
            with path.open("wb") as file:
                for block in _blocks(blocks):
                    size += len(block)
                    if size > most:
                        raise TooLarge(
                            f"“{name}” is larger than the {megabytes(most)} allowed.",
                            remedy="Split it, or leave out columns you do not need.",
                        )
                    digest.update(block)
                    file.write(block)
        except OSError as error:
            path.unlink(missing_ok=True)
            raise not_stored(name, error) from None
        except TooLarge:
            path.unlink(missing_ok=True)
            raise
        upload = Upload(id, path, name, size, digest.hexdigest())
        self._uploads[id] = upload
        return upload

    def upload(self, id: str) -> Upload:
        """A file handed in earlier."""
        if id not in self._uploads:
            raise NotThere("This file is not here any more.", remedy="Choose it again.")
        return self._uploads[id]

    def discard(self, id: str) -> None:
        """Lets a file go that was handed in."""
        upload = self._uploads.pop(id, None)
        if upload is not None:
            upload.path.unlink(missing_ok=True)


def _title(title: str) -> str:
    title = " ".join(title.split())
    if not title:
        raise BadInput("A study needs a title.", remedy="Type at least one character.")
    if len(title) > 200:
        raise BadInput(f"The title has {len(title)} characters; at most 200 are allowed.", remedy="Shorten it.")
    return title


def _ending(name: str) -> str:
    """The ending of a file name, if it is a plain one."""
    ending = Path(name).suffix.lower()
    return ending if ending[1:].isalnum() and len(ending) <= 8 else ""


def _blocks(source: BinaryIO | Iterable[bytes]) -> Iterable[bytes]:
    if hasattr(source, "read"):
        while block := source.read(1 << 20):
            yield block
    else:
        yield from source


def _lock_folder(folder: Path) -> Any:
    """Holds the folder until closed (or until this process ends, however it ends)."""
    guard = (folder / ".lock").open("w")
    try:
        fcntl.flock(guard, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        guard.close()
        raise InUse(
            f"Another Row Tag is serving the workspace {folder}.", remedy="Stop it first, or choose another workspace."
        ) from None
    return guard
