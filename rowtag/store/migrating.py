"""Brings files that were kept by an earlier Row Tag up to date, and makes the tables of new ones."""

import threading
from collections.abc import Callable
from functools import cache
from typing import Any

import sqlalchemy as sa
from alembic.operations import Operations
from alembic.runtime.migration import MigrationContext
from alembic.script import ScriptDirectory
from alembic.util import CommandError

from rowtag.store.database import MIGRATIONS

_MIGRATING = threading.Lock()
"""What a migration works on is one for the whole process: two files made at once would both write to one of them."""


@cache
def scripts(kind: str) -> ScriptDirectory:
    """The migrations of one kind of file."""
    return ScriptDirectory(str(MIGRATIONS / kind))


def migrate(engine: sa.Engine, kind: str) -> bool:
    """Brings a file up to date; a migration and the record that it ran are one transaction. False where the file is of
    a version that is not known."""
    script = scripts(kind)
    with engine.connect().execution_options(writing=True) as connection, connection.begin():
        context = MigrationContext.configure(connection, opts={"fn": _upgrade(script)})
        try:
            if set(context.get_current_heads()) != set(script.get_heads()):
                with _MIGRATING, Operations.context(context):
                    context.run_migrations()
        except CommandError:
            return False
    return True


def _upgrade(script: ScriptDirectory) -> Callable[..., Any]:
    def revisions(revision: Any, _context: Any) -> Any:
        return script._upgrade_revs("head", revision)

    return revisions
