"""The workspace: a folder with one file per study, their catalogue, and files that wait to be brought in."""

import fcntl
import hashlib
import json
import os
import re
import secrets
import shutil
import threading
import time
from collections import OrderedDict
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager, suppress
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any, BinaryIO
from weakref import WeakValueDictionary

import platformdirs
import sqlalchemy as sa

from rowtag.core.errors import BadInput, Damaged, InUse, NotKept, NotThere, Place, RowTagError, TooLarge, not_stored
from rowtag.core.words import megabytes
from rowtag.store.backups import Backup, back_up, backup_path, backups, carried, folder_of, moment_of
from rowtag.store.codec import Shared
from rowtag.store.database import open_database, reading_only, studies
from rowtag.store.library import Library
from rowtag.store.studyfile import StudyFile, now

ENDING = ".sqlite"
KEPT_OPEN = 16
"""Studies held open; others are opened when somebody looks at them."""
NOTE_AFTER = 5.0
"""Seconds after which the catalogue is told again when a study was changed."""
MOST_BYTES = 2 << 30
"""Largest file that may be handed in."""


@dataclass(frozen=True)
class Seen:
    """What was seen of a study when somebody looked at it last: how many of its entries are valid, coded missing, blank
    and stray, how many findings were open, and what was done last."""

    valid: int
    missing: int
    blank: int
    stray: int
    findings: int
    last: str


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
    seen: Seen | None = None


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


def study_files(folder: Path, study: str | None = None) -> list[Path]:
    """The files of all studies in a folder, or of the one with this id or title, whoever has them open.

    NotThere where there is none. A file that the catalogue lists is given even where it is missing.
    """
    titles = {path.stem: "" for path in folder.glob(f"*{ENDING}") if _ID.fullmatch(path.stem)}
    titles.pop("catalogue", None)
    catalogue = folder / f"catalogue{ENDING}"
    if catalogue.is_file():
        with suppress(Damaged, sa.exc.DatabaseError):
            engine = reading_only(catalogue)
            with engine.begin() as connection:
                titles |= {row.id: row.title for row in connection.execute(sa.select(studies.c.id, studies.c.title))}
            engine.dispose()
    found = [id for id, title in titles.items() if study is None or study in (id, title)]
    if not found:
        raise NotThere(
            f"There is no study {study if study else ''} in {folder}.".replace("  ", " "),
            remedy=f"Studies: {', '.join(f'{title} ({id})' for id, title in titles.items()) or 'none'}.",
        )
    return [folder / f"{id}{ENDING}" for id in found]


class Workspace:
    """An open workspace; only one server at a time may hold it. `notes` say what was found amiss at its opening."""

    def __init__(self, folder: Path, *, clock: Callable[[], str] = now) -> None:
        self.folder = folder
        self.notes: list[str] = []
        self._clock = clock
        self._lock = threading.RLock()
        self._open: WeakValueDictionary[str, StudyFile] = WeakValueDictionary()
        self._recent: OrderedDict[str, StudyFile] = OrderedDict()
        self._shared: dict[str, Shared] = {}
        self._uploads: dict[str, Upload] = {}
        self._noted: dict[str, tuple[tuple[int, int] | None, float]] = {}
        self._seen: dict[str, Seen] = {}
        self.scratch = folder / "handed-in"  # files that wait, or are being made; gone at the next start
        try:
            folder.mkdir(parents=True, exist_ok=True, mode=0o700)
            self._guard = _lock_folder(folder)
        except OSError as error:
            raise _impossible(folder, error) from None
        try:
            _empty(self.scratch)
            self._engine = self._catalogue()
            self.library = Library(self._engine)
            self._adopt()
        except OSError as error:
            self._guard.close()
            raise _impossible(folder, error) from None
        except BaseException:
            self._guard.close()
            raise

    def close(self) -> None:
        """Closes all studies and lets go of the folder."""
        with self._lock:
            for id in self._seen:
                with suppress(NotKept, InUse, NotThere):  # the catalogue is no place that work depends on
                    self._update(id, **self._to_tell(id))
            for file in list(self._open.values()):
                file.close()
            self._open.clear()
            self._recent.clear()
            self._engine.dispose()
            self._guard.close()

    # The catalogue --------------------------------------------------------------------------

    def entries(self) -> list[Entry]:
        """All studies, changed last first; removed ones too."""
        with self._engine.begin() as connection:
            rows = connection.execute(sa.select(studies).order_by(studies.c.changed_at.desc())).all()
        return [self._as_seen(row) for row in rows]

    def entry(self, id: str) -> Entry:
        """One study of the catalogue."""
        with self._engine.begin() as connection:
            row = connection.execute(sa.select(studies).where(studies.c.id == id)).first()
        if row is None:
            raise NotThere("There is no such study in this workspace.", remedy="Look at the list of studies.")
        return self._as_seen(row)

    def _as_seen(self, row: sa.Row[Any]) -> Entry:
        """An entry of the catalogue, with what was seen of its study since that was written."""
        seen = self._seen.get(row.id) or (Seen(**json.loads(row.seen)) if row.seen else None)
        return Entry(**{**row._mapping, "seen": seen})

    def create(self, title: str, id: str | None = None) -> Entry:
        """A new, empty study."""
        return self.make(title, id)

    def make(
        self,
        title: str,
        id: str | None = None,
        *,
        of: Path | None = None,
        fill: Callable[[StudyFile], Any] | None = None,
    ) -> Entry:
        """A new study: empty, or a copy `of` a study's file, and as `fill` leaves it.

        It is made aside and moved into its place when all of it is there: one that fails, or is cut short, leaves none.
        """
        id, title = id or secrets.token_hex(6), _title(title)
        part = self.scratch / f"{secrets.token_hex(8)}{ENDING}"
        try:
            if of is not None:
                shutil.copyfile(of, part)
                _settle(part)
            file = StudyFile(part, clock=self._clock, there=of is not None)
            try:
                file.say(title=title, created_at=self._clock(), removed_at=None)
                if fill is not None:
                    fill(file)
            finally:
                file.close()
            with self._lock:
                if os.path.lexists(self.path(id)):  # what is damaged stays as it is
                    raise BadInput(
                        f"There is a file {self.path(id).name} in the workspace already.",
                        remedy="Look at it with rowtag verify, or move it elsewhere.",
                    )
                part.rename(self.path(id))
            _settle(self.folder)
        except OSError as error:
            raise not_stored(title, error) from None
        finally:
            _take_away(part)
        try:
            file = self._opened(id)
            with self._lock:
                self._enter(id, file)
                self._hold(id, file)
        except RowTagError:
            _take_away(self.path(id))  # one that was refused does not come up at the next start
            raise
        return self.entry(id)

    def rename(self, id: str, title: str) -> Entry:
        """Gives a study another title."""
        title = _title(title)
        self.study(id).say(title=title)
        return self._update(id, title=title)

    def remove(self, id: str) -> Entry:
        """Takes a study off the list; its file stays, so that it can be restored."""
        at = self._clock()
        with suppress(Damaged):  # a study whose file is gone can still be taken off the list
            self.study(id).say(removed_at=at)
        with self._lock:
            self._recent.pop(id, None)
        return self._update(id, removed_at=at)

    def restore(self, id: str) -> Entry:
        """Puts a removed study back on the list."""
        self.study(id).say(removed_at=None)
        return self._update(id, removed_at=None)

    def note_change(self, id: str) -> None:
        """Notes in the catalogue how large a study is now, and when that was; the time not at every keystroke."""
        file = self.study(id)
        size = (file.study.records.count, len(file.study.order))
        noted, at = self._noted.get(id, (None, 0.0))
        if noted != size or time.monotonic() - at > NOTE_AFTER:
            with suppress(NotKept, InUse):  # the change itself is kept; it is noted with the next
                told = {"records": size[0], "variables": size[1], "changed_at": file.kept_at}
                self._update(id, **told, **self._to_tell(id))
                self._noted[id] = (size, time.monotonic())

    def note_seen(self, id: str, seen: Seen) -> None:
        """Notes what a study looks like, for whoever chooses one: in memory, and in the catalogue with what it is told
        next."""
        self._seen[id] = seen

    def _to_tell(self, id: str) -> dict[str, str]:
        """What the catalogue is to be told of how a study looks."""
        seen = self._seen.get(id)
        return {} if seen is None else {"seen": json.dumps(asdict(seen))}

    def study(self, id: str) -> StudyFile:
        """An open study; those that were not looked at for longest are let go. Damaged where its file is."""
        with self._lock:
            file = self._open.get(id)
            if file is not None and not file.in_place():
                self._refuse_replaced(id, file)
            if file is None:
                entry = self.entry(id)
                file = self._opened(id)
                if "title" not in file.about():  # kept before studies said so themselves
                    file.say(title=entry.title, created_at=entry.created_at, removed_at=entry.removed_at)
            return self._hold(id, file)

    def path(self, id: str) -> Path:
        """Where the file of a study lies."""
        return self.folder / f"{id}{ENDING}"

    # Backups --------------------------------------------------------------------------------

    def backups(self, id: str) -> list[Backup]:
        """The backups of a study, newest first."""
        return backups(folder_of(self.path(self.entry(id).id)))

    def back_up(self, id: str) -> Backup:
        """Makes a backup of a study, in use or not."""
        path = self.path(self.entry(id).id)
        return back_up(path, folder_of(path))

    def restore_backup(self, id: str, name: str) -> Entry:
        """A backup as a study of its own, beside the one that it was made of."""
        entry = self.entry(id)
        path = backup_path(folder_of(self.path(entry.id)), name)
        return self.make(f"{entry.title[:150]}, as of {moment_of(path):%Y-%m-%d %H:%M} UTC", of=path)

    # Carried elsewhere ----------------------------------------------------------------------

    def carry(self, id: str) -> Path:
        """A study in one file, to be opened on another machine; it waits among the files handed in."""
        path = self.scratch / f"{secrets.token_hex(8)}{ENDING}"
        carried(self.path(self.entry(id).id), path)
        return path

    @contextmanager
    def fresh(self) -> Iterator[Path]:
        """Where a study's file is made before it is taken in; nothing of it is left behind."""
        path = self.scratch / f"{secrets.token_hex(8)}{ENDING}"
        try:
            yield path
        finally:
            _take_away(path)

    def copy(self, id: str, title: str) -> Entry:
        """A study of its own with all that another one holds."""
        with self.fresh() as path:
            carried(self.path(self.entry(id).id), path)
            return self.make(title, of=path)

    # Within ---------------------------------------------------------------------------------

    def _opened(self, id: str) -> StudyFile:
        """A study's file, opened; what is in memory of it is taken again, with what was worked out on it."""
        for other in [other for other, each in self._shared.items() if each.empty and other not in self._open]:
            del self._shared[other]
        shared = self._shared.setdefault(id, Shared())
        return StudyFile(self.path(id), clock=self._clock, there=True, shared=shared)

    def _refuse_replaced(self, id: str, file: StudyFile) -> None:
        """Raises Damaged where a study's file is not the one that was opened. One that was only taken away may come
        back, and is held until then. One in whose place there is another is let go of, with all that is in memory of
        it; its log is put aside, which belongs to it, and played back into the other would spoil that."""
        path = self.path(id)
        if not path.exists():
            raise Damaged(
                "The file of this study was taken away while it was open.",
                remedy="Put it back, then try again: everything is there.",
                where=Place(path.name),
            )
        file.close()
        log = path.with_name(f"{path.name}-wal")
        aside = log.with_name(f"{log.name}-replaced-{secrets.token_hex(4)}")
        kept = log.exists()
        if kept:
            log.rename(aside)
        for held in (self._open, self._recent, self._shared, self._noted):
            held.pop(id, None)
        raise Damaged(
            "The file of this study was replaced by another while it was open.",
            remedy="Try again to see what it holds."
            + (f" What was done last in the old one is kept in {aside.name}." if kept else ""),
            where=Place(path.name),
        )

    def _hold(self, id: str, file: StudyFile) -> StudyFile:
        self._open[id] = self._recent[id] = file
        self._recent.move_to_end(id)
        while len(self._recent) > KEPT_OPEN:
            self._recent.popitem(last=False)  # closed once nobody looks at it any more
        return file

    def _enter(self, id: str, file: StudyFile) -> None:
        """Writes a study into the catalogue as its own file says it."""
        said = file.about()
        values = {
            "id": id,
            "title": said.get("title", id),
            "created_at": said.get("created_at", file.kept_at),
            "changed_at": file.kept_at,
            "removed_at": said.get("removed_at"),
            "records": file.study.records.count,
            "variables": len(file.study.order),
        }
        with self._engine.begin() as connection:
            connection.execute(studies.insert().values(**values))

    def _update(self, id: str, **values: Any) -> Entry:
        self.entry(id)
        with self._engine.begin() as connection:
            connection.execute(studies.update().where(studies.c.id == id).values(**values))
        return self.entry(id)

    def _catalogue(self) -> sa.Engine:
        """The catalogue; one that is damaged is put aside, and a new one is told by the studies' own files."""
        path = self.folder / f"catalogue{ENDING}"
        try:
            return open_database(path, "catalogue")
        except Damaged as error:
            if path.is_dir():
                raise
            aside = path.with_name(f"catalogue-damaged-{secrets.token_hex(4)}")
            for ending in ("", "-wal", "-shm"):
                with suppress(FileNotFoundError):
                    path.with_name(path.name + ending).rename(aside.with_name(aside.name + ending))
            self.notes.append(f"{error.what} The catalogue was put aside as {aside.name} and made anew.")
            return open_database(path, "catalogue")

    def _adopt(self) -> None:
        """Takes studies into the catalogue that it does not know: after it was lost, or their files were put back."""
        known = {entry.id for entry in self.entries()}
        for path in sorted(self.folder.glob(f"*{ENDING}")):
            if path.stem in known or not _ID.fullmatch(path.stem) or path.stem == "catalogue":
                continue
            try:
                file = StudyFile(path, clock=self._clock, there=True)
            except RowTagError as error:
                self.notes.append(f"{error} It was left as it is.")
                continue
            self._enter(path.stem, file)
            self.notes.append(f"“{self.entry(path.stem).title}” ({path.name}) was taken into the catalogue.")
            file.close()

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
            _take_away(upload.path)


_ID = re.compile(r"[0-9a-z]{1,32}")
_OURS = re.compile(r"[0-9a-f]{16}(\.[0-9a-z]{1,7}(-wal|-shm|-journal)?)?|tmp[0-9a-z_]{8}(\.zip)?")
"""Names of files that Row Tag makes among those that wait."""


def _empty(folder: Path) -> None:
    """Takes away what was left of files that waited; nothing that Row Tag did not make."""
    if folder.is_symlink():
        raise BadInput(
            f"“{folder.name}” in the workspace leads elsewhere.",
            remedy="Take the link away; Row Tag makes a folder of its own there.",
        )
    folder.mkdir(exist_ok=True, mode=0o700)
    for each in folder.iterdir():
        if _OURS.fullmatch(each.name) and each.is_file() and not each.is_symlink():
            each.unlink()


def _take_away(file: Path) -> None:
    """Deletes a file that waited or was only being made, with what a database lays beside it."""
    for ending in ("", "-wal", "-shm"):
        file.with_name(file.name + ending).unlink(missing_ok=True)


def _settle(path: Path) -> None:
    """Waits until a file, or the names of the files in a folder, are on the disk."""
    held = os.open(path, os.O_RDONLY)
    try:
        os.fsync(held)
    finally:
        os.close(held)


def _impossible(folder: Path, error: OSError) -> BadInput:
    """The error for a folder that cannot be a workspace."""
    return BadInput(
        f"{folder} cannot be used as a workspace ({error.strerror or error}).",
        remedy="Choose a folder that you may write to, with --workspace.",
    )


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
