"""SQLite through SQLAlchemy: explicit transactions, durable commits, migrations before first use."""

import os
import re
import sqlite3
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import closing
from functools import cache, partial
from pathlib import Path
from typing import Any

import sqlalchemy as sa

from rowtag.core.errors import Damaged, InUse, NotKept, Place, RowTagError

catalogue = sa.MetaData()
study = sa.MetaData()

studies = sa.Table(
    "study",
    catalogue,
    sa.Column("id", sa.String, primary_key=True),
    sa.Column("title", sa.String, nullable=False),
    sa.Column("created_at", sa.String, nullable=False),
    sa.Column("changed_at", sa.String, nullable=False),
    sa.Column("removed_at", sa.String),
    sa.Column("records", sa.Integer, nullable=False, server_default="0"),
    sa.Column("variables", sa.Integer, nullable=False, server_default="0"),
    sa.Column("seen", sa.String),
)

kept_lists = sa.Table(
    "list",
    catalogue,
    sa.Column("key", sa.String, primary_key=True),
    sa.Column("name", sa.String, nullable=False),
    sa.Column("lines", sa.LargeBinary, nullable=False),
)
"""Code lists kept across studies, their lines as JSON, under their names without capitals."""

kept_rules = sa.Table(
    "rule",
    catalogue,
    sa.Column("key", sa.String, primary_key=True),
    sa.Column("text", sa.String, nullable=False),
)
"""Rules kept across studies, as rules text, under their titles without capitals."""

about = sa.Table(
    "about",
    study,
    sa.Column("key", sa.String, primary_key=True),
    sa.Column("value", sa.String, nullable=False),
    sa.Column("sum", sa.LargeBinary),
)
"""What the study is called, and when it was made and removed, so that a lost catalogue can be made again."""

blobs = sa.Table(
    "blob",
    study,
    sa.Column("key", sa.String, primary_key=True),
    sa.Column("data", sa.LargeBinary, nullable=False),
)
"""Segments, chunks and pieces of sources, under the SHA-256 of what is kept. Never updated."""

states = sa.Table(
    "state",
    study,
    sa.Column("id", sa.Integer, primary_key=True),
    sa.Column("parent", sa.Integer, index=True),
    sa.Column("whole", sa.Boolean, nullable=False),
    sa.Column("weight", sa.Integer, nullable=False),
    sa.Column("parts", sa.LargeBinary, nullable=False),
    sa.Column("sum", sa.LargeBinary),
)
"""The tree of states. `parts` is the whole state, or what differs from its parent (see `codec`);
`weight` is how many bytes of differences have gathered since the last whole one."""

steps = sa.Table(
    "step",
    study,
    sa.Column("id", sa.String, primary_key=True),
    sa.Column("state", sa.Integer, nullable=False, unique=True),
    sa.Column("revision", sa.Integer, nullable=False),
    sa.Column("body", sa.LargeBinary, nullable=False),
    sa.Column("account", sa.LargeBinary, nullable=False),
    sa.Column("sentence", sa.String, nullable=False),
    sa.Column("at", sa.String, nullable=False),
    sa.Column("by", sa.String, nullable=False),
    sa.Column("sum", sa.LargeBinary),
)
"""Steps under the ids that clients gave them, with the state and revision they made."""

moves = sa.Table(
    "move",
    study,
    sa.Column("revision", sa.Integer, primary_key=True),
    sa.Column("head", sa.Integer, nullable=False, index=True),
    sa.Column("kind", sa.String, nullable=False),
    sa.Column("at", sa.String, nullable=False),
    sa.Column("by", sa.String, nullable=False),
    sa.Column("sum", sa.LargeBinary),
)
"""Where the head went: one row per revision, never updated."""

pieces = sa.Table(
    "piece",
    study,
    sa.Column("source", sa.String, primary_key=True),
    sa.Column("number", sa.Integer, primary_key=True),
    sa.Column("blob", sa.String, nullable=False),
    sa.Column("sum", sa.LargeBinary),
)
"""The bytes of source files (by their SHA-256), compressed in pieces."""

_FIRST = {"catalogue": studies, "study": blobs}
_STAMP = "alembic_version"
"""A table by which each kind of file is known."""
LOG_SIZE = 4 << 20
"""Bytes of a write-ahead log from which it is written back into its file."""

_GARBLED = re.compile(r"Could not decode|no such (column|table)|malformed")
"""What is said of a text that is none, and of tables that are not as they were made."""
_FAILING = (sqlite3.SQLITE_IOERR, sqlite3.SQLITE_CANTOPEN)
_FULL = (sqlite3.SQLITE_FULL, sqlite3.SQLITE_READONLY, sqlite3.SQLITE_PERM)
MIGRATIONS = Path(__file__).parent / "migrations"


def open_database(path: Path, kind: str, *, there: bool = False) -> sa.Engine:
    """An engine on a file of this kind ("catalogue" or "study"), brought up to date.

    It is made where it is not there, unless it has to be `there`. Damaged where it is no such file, cut short, or
    kept by a newer Row Tag; whatever the database says of the disk later is said as Damaged, NotKept or InUse.
    """
    made = not (there or os.path.lexists(path))
    if not made:
        look_at(path)
    engine = sa.create_engine(f"sqlite:///{path}", connect_args={"check_same_thread": False, "timeout": 30})
    sa.event.listen(engine, "connect", _configure)
    sa.event.listen(engine, "begin", _begin)
    sa.event.listen(engine, "handle_error", partial(_as_sentence, path, made=made), retval=True)
    try:
        if not _brought_up_to_date(engine, kind):
            raise Damaged(
                f"This was kept by a newer Row Tag, or is no {kind} of Row Tag's.",
                remedy="Update Row Tag; the file is left as it is.",
                where=Place(path.name),
            )
    except BaseException:
        engine.dispose()
        raise
    return engine


def reading_only(path: Path) -> sa.Engine:
    """An engine that only reads a file, as it is."""
    engine = sa.create_engine(
        "sqlite://",
        creator=lambda: sqlite3.connect(f"{path.absolute().as_uri()}?mode=ro", uri=True, check_same_thread=False),
        poolclass=sa.QueuePool,
    )
    sa.event.listen(engine, "handle_error", partial(_as_sentence, path), retval=True)
    return engine


def refuse_other_version(connection: sa.Connection, kind: str, file: str) -> None:
    """Raises Damaged where a file was not kept by this Row Tag."""
    found = _versions(connection)
    if found != [newest(kind)]:
        raise Damaged(
            f"This was kept by a newer or older Row Tag ({', '.join(found) or 'none'}).",
            remedy="An older one is brought up to date when it is opened.",
            where=Place(file),
        )


def look_at(path: Path) -> None:
    """Raises Damaged where a file cannot be a database, before anything writes to it.

    It is the database that looks, its log played back: whoever opens a file by itself and closes it again takes away
    all locks that this process has on it (POSIX), and a header alone is wrong while a log is written back.
    """
    what = _no_file(path)
    if what:
        raise _damaged(what, path)
    try:
        with closing(sqlite3.connect(f"{path.absolute().as_uri()}?mode=ro", uri=True, timeout=30)) as connection:
            connection.execute("SELECT count(*) FROM sqlite_master").fetchone()
    except (sqlite3.Error, UnicodeDecodeError) as error:
        raise said_of(error, path, writing=False) or error from None


def identity(path: Path) -> tuple[int, int] | None:
    """What tells a file from any other, whatever its name and content; None where there is none."""
    try:
        found = path.stat()
    except OSError:
        return None
    return found.st_dev, found.st_ino


def _no_file(path: Path) -> str:
    """Why there is nothing that could be read; nothing is opened for it."""
    if path.is_dir():
        return "Here is a folder where a file should be."
    try:
        size = path.stat().st_size
    except FileNotFoundError:
        return "The file is missing."
    except OSError as error:
        return f"The file cannot be read ({error.strerror})."
    return "" if size else "The file is empty."


def _damaged(what: str, path: Path) -> Damaged:
    return Damaged(what, remedy="Restore a backup, or put the file back; it is left as it is.", where=Place(path.name))


def _as_sentence(path: Path, context: Any, *, made: bool = False) -> BaseException | None:
    """What the database says of the disk, as one of our errors. In a file that is only being `made` all is writing."""
    connection = context.connection
    writing = made or (connection is not None and connection.get_execution_options().get("writing", False))
    return said_of(context.original_exception, path, writing=writing)


def said_of(error: BaseException, path: Path, *, writing: bool) -> RowTagError | None:
    """What the database says, as one of our errors; None where it is about something else."""
    if isinstance(error, UnicodeDecodeError):  # what it says names something in the file that is no text
        return _damaged("The file is damaged: names in it are no text.", path)
    code = getattr(error, "sqlite_errorcode", 0) & 0xFF
    garbled = code in (0, sqlite3.SQLITE_ERROR) and _GARBLED.match(str(error)) is not None
    if code == sqlite3.SQLITE_NOTADB:
        return _damaged("The file is no database.", path)
    if code == sqlite3.SQLITE_CORRUPT:
        return _damaged(f"The file is damaged, or was cut short ({error}).", path)
    if garbled or (code in _FAILING and not writing):
        return _damaged(f"The file cannot be read ({error}).", path)
    if code in _FULL or code in _FAILING:
        return NotKept(
            f"This could not be written to disk ({error}).",
            remedy="Make room on the disk, or see that it may be written to, then do it again; nothing has changed.",
            where=Place(path.name),
        )
    if code in (sqlite3.SQLITE_BUSY, sqlite3.SQLITE_LOCKED):
        return InUse("Somebody else is writing to this file.", remedy="Try again.", where=Place(path.name))
    return None


def _configure(connection: Any, _record: Any) -> None:
    """Durable, in write-ahead mode; transactions are begun by `_begin`, not by the driver."""
    connection.isolation_level = None
    for pragma in ("journal_mode=WAL", "synchronous=FULL", "foreign_keys=ON", "cache_size=-16384"):
        connection.execute(f"PRAGMA {pragma}")


def _begin(connection: sa.Connection) -> None:
    """Writers say so at once, so that a transaction never fails half-way for want of the lock."""
    writing = connection.get_execution_options().get("writing", False)
    connection.exec_driver_sql("BEGIN IMMEDIATE" if writing else "BEGIN")


class WriteBack:
    """Writes a study's log back into its file beside those who wait: what is in the log is durable already."""

    def __init__(self, engine: sa.Engine, path: Path) -> None:
        self._engine = engine
        self._log = path.with_name(path.name + "-wal")
        self._aside = ThreadPoolExecutor(1)
        self._closed = False
        self._running: Future[None] | None = None
        sa.event.listen(engine, "connect", _only_when_due)
        engine.dispose()  # connections made before would still write back at their commits

    def due(self) -> None:
        """Begins to write back where the log has grown."""
        idle = self._running is None or self._running.done()
        if idle and not self._closed and self._log.exists() and self._log.stat().st_size >= LOG_SIZE:
            self._running = self._aside.submit(self._write_back)

    def close(self) -> None:
        """Waits for what has begun."""
        self._closed = True
        self._aside.shutdown()

    def _write_back(self) -> None:
        with closing(self._engine.raw_connection()) as connection:
            connection.cursor().execute("PRAGMA wal_checkpoint(PASSIVE)")


def _only_when_due(connection: Any, _record: Any) -> None:
    """Commits write nothing back; a log that was written back shrinks with the next one."""
    for pragma in ("wal_autocheckpoint=0", f"journal_size_limit={LOG_SIZE // 4}"):
        connection.execute(f"PRAGMA {pragma}")


@cache
def newest(kind: str) -> str:
    """The version of today's files of a kind."""
    return max(path.name[:4] for path in (MIGRATIONS / kind / "versions").glob("[0-9]*.py"))


def _tables(connection: sa.Connection) -> set[str]:
    return {str(name) for (name,) in connection.exec_driver_sql("SELECT name FROM sqlite_schema WHERE type = 'table'")}


def _versions(connection: sa.Connection) -> list[str]:
    """The version that a file says it is of: one, where all is well."""
    if _STAMP not in _tables(connection):
        return []
    return [str(version) for (version,) in connection.exec_driver_sql(f"SELECT version_num FROM {_STAMP}")]


def _brought_up_to_date(engine: sa.Engine, kind: str) -> bool:
    """Brings a file up to date; False where it is of another kind or of a later version."""
    with engine.begin() as connection:
        found = _tables(connection)
        if found and _FIRST[kind].name not in found:
            return False
        if _versions(connection) == [newest(kind)]:
            return True
    from rowtag.store.migrating import migrate  # slow to load, and seldom needed

    return migrate(engine, kind)
