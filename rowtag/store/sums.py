"""A sum beside every row of a study's file: a bit that flipped on the disk is told, never read as something else."""

import hashlib
from collections.abc import Iterable
from functools import cache
from typing import Any

import sqlalchemy as sa

from rowtag.core.errors import Damaged, Place
from rowtag.core.words import whole_number
from rowtag.store.database import about, moves, pieces, states, steps

SUMMED: dict[sa.Table, str] = {
    states: "a state",
    steps: "a step",
    moves: "a move of the head",
    pieces: "a piece of a source",
    about: "what the file says of itself",
}
"""Tables whose rows carry a sum, and what one of their rows is called. Blobs are kept under theirs."""
SIZE = 8
"""Bytes of a sum."""


def row_sum(table: sa.Table, values: dict[str, Any]) -> bytes:
    """The sum of a row: BLAKE2b over its columns in order, the number that the database gives a state left out."""
    return sum_of(values[name] for name in _summed(table))


@cache
def _summed(table: sa.Table) -> tuple[str, ...]:
    return tuple(each.name for each in table.columns if each.name not in ("sum", "id" if table is states else "sum"))


def sum_of(values: Iterable[Any]) -> bytes:
    """The sum of some values."""
    digest = hashlib.blake2b(digest_size=SIZE)
    for value in values:
        data = value if isinstance(value, bytes) else str(int(value) if isinstance(value, bool) else value).encode()
        digest.update(len(data).to_bytes(8, "little") + data)
    return digest.digest()


def added(connection: sa.Connection, table: sa.Table, **values: Any) -> Any:
    """Adds a row with its sum, unless a piece of a source is there already; gives the number of a state."""
    key = connection.execute(_adding(table), {**values, "sum": row_sum(table, values)}).inserted_primary_key
    return key[0] if key else None


@cache
def _adding(table: sa.Table) -> sa.Insert:
    return table.insert().prefix_with("OR IGNORE") if table is pieces else table.insert()


def said(connection: sa.Connection, **values: str | None) -> None:
    """Writes what a study's file says of itself; None takes it back."""
    connection.execute(about.delete().where(about.c.key.in_(values)))
    for key, value in values.items():
        if value is not None:
            added(connection, about, key=key, value=value)


def sound(table: sa.Table, row: Any, file: str) -> Any:
    """A whole row as it was written; raises Damaged where it is not."""
    if row is not None and (row_sum(table, row._mapping) != row.sum or not _of_its_kinds(table, row._mapping)):
        what = SUMMED[table]
        raise Damaged(
            f"{what[0].upper()}{what[1:]} is not as it was written ({_named(table, row)}).",
            remedy="The disk may be failing: restore a backup.",
            where=Place(file),
        )
    return row


def _of_its_kinds(table: sa.Table, values: Any) -> bool:
    """Whether bytes are where they belong and nowhere else: a database tells text from bytes by a single bit, which is
    no part of what the sum was made of."""
    return all(isinstance(values[name], bytes) == is_bytes for name, is_bytes in _kinds(table))


@cache
def _kinds(table: sa.Table) -> tuple[tuple[str, bool], ...]:
    return tuple((name, isinstance(table.c[name].type, sa.LargeBinary)) for name in _summed(table))


def sound_blob(key: str, data: bytes | None, file: str) -> bytes:
    """A blob as it was written; raises Damaged where it is gone or another."""
    if not isinstance(data, bytes) or hashlib.sha256(data).hexdigest() != key:
        raise Damaged(
            f"Kept entries are {'gone' if data is None else 'not as they were written'} (blob {key[:12]}).",
            remedy="The disk may be failing: restore a backup.",
            where=Place(file),
        )
    return data


def refuse_gaps(connection: sa.Connection, file: str) -> None:
    """Raises Damaged where moves or steps are gone: a move per revision is kept, and a step for each that made one."""
    count, last, made = connection.execute(
        sa.select(sa.func.count(), sa.func.max(moves.c.revision), sa.func.count(sa.case((moves.c.kind == "step", 1))))
    ).one()
    kept = connection.scalar(sa.select(sa.func.count()).select_from(steps))
    moved = connection.scalar(sa.select(about.c.value).where(about.c.key == "moved")) or "0"
    beyond = (whole_number(moved) or 0) > (last or 0)
    if not count or count != last or made != kept or beyond:
        what = "Moves or steps of this study are not all there." if count else "This file holds no study."
        raise Damaged(what, remedy="Restore a backup.", where=Place(file))


def _named(table: sa.Table, row: Any) -> str:
    """What a row is known by."""
    return ", ".join(f"{column.name} {row._mapping[column.name]}" for column in table.primary_key.columns)
