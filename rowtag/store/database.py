"""SQLite through SQLAlchemy: explicit transactions, durable commits, migrations before first use."""

from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import closing
from functools import cache
from pathlib import Path
from typing import Any

import sqlalchemy as sa
from alembic.operations import Operations
from alembic.runtime.migration import MigrationContext
from alembic.script import ScriptDirectory

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
)

kept_lists = sa.Table(
    "list",
    catalogue,
    sa.Column("key", sa.String, primary_key=True),
    sa.Column("name", sa.String, nullable=False),
    sa.Column("lines", sa.LargeBinary, nullable=False),
)
"""Code lists kept across studies, their lines as JSON, under their names without capitals."""

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
)
"""Where the head went: one row per revision, never updated."""

pieces = sa.Table(
    "piece",
    study,
    sa.Column("source", sa.String, primary_key=True),
    sa.Column("number", sa.Integer, primary_key=True),
    sa.Column("blob", sa.String, nullable=False),
)
"""The bytes of source files (by their SHA-256), compressed in pieces."""

LOG_SIZE = 4 << 20
"""Bytes of a write-ahead log from which it is written back into its file."""

_MIGRATIONS = Path(__file__).parent / "migrations"


def open_database(path: Path, kind: str) -> sa.Engine:
    """An engine on a file of this kind ("catalogue" or "study"), created or brought up to date."""
    engine = sa.create_engine(f"sqlite:///{path}", connect_args={"check_same_thread": False, "timeout": 30})
    sa.event.listen(engine, "connect", _configure)
    sa.event.listen(engine, "begin", _begin)
    migrate(engine, kind)
    return engine


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
        self._running: Future[None] | None = None
        sa.event.listen(engine, "connect", _only_when_due)
        engine.dispose()  # connections made before would still write back at their commits

    def due(self) -> None:
        """Begins to write back where the log has grown."""
        idle = self._running is None or self._running.done()
        if idle and self._log.exists() and self._log.stat().st_size >= LOG_SIZE:
            self._running = self._aside.submit(self._write_back)

    def close(self) -> None:
        """Waits for what has begun."""
        self._aside.shutdown()

    def _write_back(self) -> None:
        with closing(self._engine.raw_connection()) as connection:
            connection.cursor().execute("PRAGMA wal_checkpoint(PASSIVE)")


def _only_when_due(connection: Any, _record: Any) -> None:
    """Commits write nothing back; a log that was written back shrinks with the next one."""
    for pragma in ("wal_autocheckpoint=0", f"journal_size_limit={LOG_SIZE // 4}"):
        connection.execute(f"PRAGMA {pragma}")


@cache
def scripts(kind: str) -> ScriptDirectory:
    """The migrations of one kind of file."""
    return ScriptDirectory(str(_MIGRATIONS / kind))


def migrate(engine: sa.Engine, kind: str) -> None:
    """Brings a file up to date; a migration and the record that it ran are one transaction."""
    script = scripts(kind)
    with engine.connect().execution_options(writing=True) as connection, connection.begin():
        context = MigrationContext.configure(connection, opts={"fn": _upgrade(script)})
        if set(context.get_current_heads()) != set(script.get_heads()):
            with Operations.context(context):
                context.run_migrations()


def _upgrade(script: ScriptDirectory) -> Callable[..., Any]:
    def revisions(revision: Any, _context: Any) -> Any:
        return script._upgrade_revs("head", revision)

    return revisions
