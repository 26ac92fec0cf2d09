"""Backups of studies: whole copies made by the database itself while it is in use, checked before they count."""

import os
import re
import sqlite3
from collections.abc import Sequence
from contextlib import closing
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path

from rowtag.core.errors import Damaged, NotKept, NotThere, Place
from rowtag.store.database import look_at
from rowtag.store.verify import verify

NEWEST = 10
"""Backups of a study that are kept in any case."""
DAYS = 30
"""Days of which the last backup is kept."""
_FORM = "%Y-%m-%d_%H-%M-%S-%f"
_NAME = re.compile(r"\d{4}(-\d\d){2}_\d\d(-\d\d){2}-\d{6}")


@dataclass(frozen=True)
class Backup:
    """A backup: its name, which is its moment, that moment (UTC, ISO 8601), and its size in bytes."""

    name: str
    at: str
    size: int


def folder_of(study: Path) -> Path:
    """Where the backups of a study's file lie."""
    return study.parent / "backups" / study.stem


def backups(folder: Path) -> list[Backup]:
    """The backups in a study's folder of them, newest first."""
    if not folder.is_dir():
        return []
    found = [path for path in folder.glob("*.sqlite") if _NAME.fullmatch(path.stem)]
    return [_backup(path) for path in sorted(found, reverse=True)]


def backup_path(folder: Path, name: str) -> Path:
    """Where a backup lies; NotThere where it does not."""
    path = folder / f"{name}.sqlite"
    if not _NAME.fullmatch(name) or not path.is_file():
        raise NotThere("There is no such backup.", remedy="Look at the list of backups.")
    return path


def back_up(study: Path, folder: Path) -> Backup:
    """Copies a study's file, which may be in use, reads the copy, and lets old backups go.

    Raises Damaged where the copy is not sound; earlier backups are kept then.
    """
    look_at(study)
    moment = datetime.now(UTC)
    path = folder / f"{moment.strftime(_FORM)}.sqlite"
    part = path.with_suffix(".part")
    try:
        folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        _copy(study, part)
        found = verify(part)
        if not found.sound:
            raise Damaged(
                f"The study is damaged and was not backed up: {found.problems[0]}",
                remedy="Earlier backups are kept; restore one.",
                where=Place(study.name),
                details=found.problems,
            )
        part.rename(path)
    except (OSError, sqlite3.Error) as error:
        raise NotKept(
            f"The backup could not be written ({getattr(error, 'strerror', None) or error}).",
            remedy="Make room on the disk, then try again; nothing has changed.",
        ) from None
    finally:
        part.unlink(missing_ok=True)
    for old in _beyond(backups(folder), moment):
        (folder / f"{old.name}.sqlite").unlink(missing_ok=True)
    return _backup(path)


def carried(study: Path, target: Path) -> None:
    """A copy of a study's file, which may be in use, to be taken elsewhere: all that it holds, in one file."""
    look_at(study)
    try:
        _copy(study, target)
    except (OSError, sqlite3.Error) as error:
        target.unlink(missing_ok=True)
        raise NotKept(
            f"The copy could not be written ({getattr(error, 'strerror', None) or error}).",
            remedy="Make room on the disk, then try again; nothing has changed.",
        ) from None


def _copy(source: Path, target: Path) -> None:
    """The database's own copy of a file that may be written to meanwhile, as one file."""
    with (
        closing(sqlite3.connect(f"{source.absolute().as_uri()}?mode=ro", uri=True)) as old,
        closing(sqlite3.connect(target)) as new,
    ):
        old.backup(new)
        new.execute("PRAGMA journal_mode=DELETE")
    with target.open("rb") as file:
        os.fsync(file.fileno())


def _beyond(found: Sequence[Backup], now: datetime) -> list[Backup]:
    """The backups that are neither among the newest nor the last of one of the last days.

    Those that a clock which went ahead has dated later than now stay, and count for nothing: they would push out what
    is made from now on.
    """
    here = now.isoformat(timespec="milliseconds")
    since = (now - timedelta(days=DAYS)).isoformat(timespec="milliseconds")
    days: set[str] = set()
    out = []
    for number, each in enumerate(each for each in found if each.at <= here):
        last_of_day = each.at[:10] not in days and each.at >= since
        days.add(each.at[:10])
        if number >= NEWEST and not last_of_day:
            out.append(each)
    return out


def moment_of(path: Path) -> datetime:
    """When a backup was made."""
    return datetime.strptime(path.stem, _FORM).replace(tzinfo=UTC)


def _backup(path: Path) -> Backup:
    return Backup(path.stem, moment_of(path).isoformat(timespec="milliseconds"), path.stat().st_size)
