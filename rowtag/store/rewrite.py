"""A study's file from elsewhere, written anew: it is never opened as a database that is trusted.

Its schema is compared to ours to the letter before any of its tables is read, so that it holds no trigger, no view and
nothing else that would act; then its rows are read, each value for its type, and written into a fresh file, which is
verified whole. What takes long or much is done in a process of its own by whoever calls this.
"""

import sqlite3
from collections.abc import Iterator, Sequence
from contextlib import closing
from pathlib import Path
from typing import Any

import sqlalchemy as sa

from rowtag.core.errors import Damaged, Place, RowTagError
from rowtag.store.database import look_at, open_database, said_of, study
from rowtag.store.verify import Verified, Watch, verify

MOST_VALUE = 512 << 20
"""Bytes of one value of a row."""
_AT_ONCE = 200
_LEAST_ROW = 8
"""Bytes of a file for each of its rows at least; more rows than that are the same ones read over and over."""
_SCHEMA = "SELECT type, name, tbl_name, sql FROM sqlite_master ORDER BY type, name"
_TYPES: dict[type, type] = {sa.Integer: int, sa.Boolean: int, sa.String: str, sa.LargeBinary: bytes}


def rewrite(source: Path, target: Path, name: str, watch: Watch = lambda share, doing: None) -> str:
    """Writes all that a study's file holds into a fresh one, which must not be there yet; gives what the study is
    called. Raises Damaged, with what is wrong, where anything is not as this Row Tag writes it."""
    try:
        look_at(source)
        open_database(target, "study").dispose()
        with closing(untrusted(source)) as old, closing(sqlite3.connect(target, isolation_level=None)) as new:
            _refuse_other_schema(old, new)
            new.execute("PRAGMA journal_mode=MEMORY")  # a file that is only being made needs no other
            new.execute("BEGIN")
            most = source.stat().st_size // _LEAST_ROW
            for number, table in enumerate(study.sorted_tables):
                for rows in _batches(old, table, most):
                    new.executemany(_adding(table), rows)
                    watch(0.3 * number / len(study.sorted_tables), table.name)
            new.execute("COMMIT")
            (title,) = new.execute("SELECT value FROM about WHERE key = 'title'").fetchone() or ("",)
    except RowTagError as error:
        raise _refused(name, Verified(name, problems=[error.what])) from None
    except sqlite3.IntegrityError:
        raise _refused(name, Verified(name, problems=["A row stands in it twice, or lacks something."])) from None
    except sqlite3.Error as error:
        told = said_of(error, source, writing=False)
        raise _refused(
            name, Verified(name, problems=[told.what if told else f"It cannot be read ({error})."])
        ) from None
    found = verify(target, lambda share, doing: watch(0.3 + 0.7 * share, doing))
    if not found.sound:
        raise _refused(name, found)
    return title


def untrusted(path: Path) -> sqlite3.Connection:
    """A connection that only reads, and lets nothing in a file act."""
    connection = sqlite3.connect(f"{path.absolute().as_uri()}?mode=ro", uri=True, isolation_level=None)
    connection.setlimit(sqlite3.SQLITE_LIMIT_LENGTH, MOST_VALUE)
    for pragma in ("trusted_schema=OFF", "query_only=ON", "cell_size_check=ON", "mmap_size=0"):
        connection.execute(f"PRAGMA {pragma}")
    return connection


def fits(table: sa.Table, row: Sequence[Any]) -> bool:
    """Whether the values of a row are of the types that its columns have."""
    return all(
        (value is None and column.nullable) or type(value) is _TYPES[type(column.type)]
        for column, value in zip(table.columns, row, strict=True)
    )


def _refuse_other_schema(old: sqlite3.Connection, new: sqlite3.Connection) -> None:
    ours = new.execute(_SCHEMA).fetchall()
    theirs = old.execute(_SCHEMA).fetchmany(len(ours) + 1)
    if theirs == ours:
        versions = [each.execute("SELECT version_num FROM alembic_version").fetchmany(2) for each in (old, new)]
        if versions[0] == versions[1]:
            return
    if {each[1] for each in theirs} <= {each[1] for each in ours}:
        raise Damaged("It was kept by a newer or older Row Tag, and is to be opened there and carried again.")
    raise Damaged("It is no study of Row Tag's, or holds more than one.")


def _batches(old: sqlite3.Connection, table: sa.Table, most: int) -> Iterator[list[Any]]:
    """The rows of a table, some at a time; Damaged where one is not of its types."""
    rows, met = old.execute(selecting(table)), 0
    while found := rows.fetchmany(_AT_ONCE):
        met += len(found)
        if met > most or not all(fits(table, row) for row in found):
            raise Damaged(f"A row of “{table.name}” is none that Row Tag writes.")
        yield found


def selecting(table: sa.Table, *by: str) -> str:
    """A plain statement for the rows of a table, in the order of its columns; `by`: those where these are as given."""
    which = " AND ".join(f"{_quoted(name)} = ?" for name in by)
    return f"SELECT {_columns(table)} FROM {_quoted(table.name)}" + (f" WHERE {which}" if which else "")


def _adding(table: sa.Table) -> str:
    return f"INSERT INTO {_quoted(table.name)} ({_columns(table)}) VALUES ({', '.join('?' * len(table.columns))})"


def _columns(table: sa.Table) -> str:
    return ", ".join(_quoted(column.name) for column in table.columns)


def _quoted(name: str) -> str:
    return f'"{name}"'


def _refused(name: str, found: Verified) -> Damaged:
    told = f"; and {len(found.problems) + found.more - 1:,} more" if len(found.problems) > 1 else ""
    return Damaged(
        f"“{name}” is damaged, or was changed by others: {found.problems[0].rstrip('.')}{told}.",
        remedy="Have it sent again, or take an earlier copy.",
        where=Place(name),
        details=found.problems,
    )
