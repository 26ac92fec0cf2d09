"""Single bits of a study's file, flipped one at a time: which of them are told, and which nobody reads."""

import random
import sqlite3
from contextlib import closing
from pathlib import Path
from typing import Any

from bench.data import write
from bench.lasting.person import DEEDS, Person
from bench.measures import _server, brought_in, client_of
from rowtag.store.verify import verify
from rowtag.store.workspace import Workspace

WORK = ("steps of all kinds", "undo, redo, to another state", "more records", "editions", "decisions")


def flips_told(folder: Path, count: int) -> str:
    """What `verify` says of a worked-on study after each of so many flips, beside what SQLite alone reads of it."""
    path = _worked_on(folder)
    whole, as_written = bytearray(path.read_bytes()), _rows(path)
    chance = random.Random(28)
    other = folder / "flipped.sqlite"
    told = unread = wrong = 0
    for _ in range(count):
        at, bit = chance.randrange(len(whole)), 1 << chance.randrange(8)
        whole[at] ^= bit
        other.write_bytes(whole)
        whole[at] ^= bit
        if not verify(other).sound:
            told += 1
        elif _rows(other) == as_written:
            unread += 1
        else:
            wrong += 1
    return (
        f"{count:,} bits of a study's file of {len(whole) / 1e6:.1f} MB, each flipped alone: `rowtag verify` tells "
        f"{told:,}. {unread:,} hit bytes that nobody reads (room within pages, pages that are free, the case of a "
        "word in the schema): every row of every table is read as it was written. "
        f"{wrong:,} were called sound while something was read "
        "differently."
    )


def _worked_on(folder: Path) -> Path:
    """The file of a study at which somebody has worked, its log written back."""
    write(folder / "work.csv", 1_000, 20)
    workspace = Workspace(folder / "flips")
    study, _ = brought_in(workspace, folder / "work.csv")
    path = workspace.path(study)
    workspace.close()
    with _server(folder / "flips") as client:
        person = Person(client_of(str(client.base_url)), (folder / "work.csv").read_bytes())
        for what in WORK * 3:
            DEEDS[what](person, study)
        person.close()
    with closing(sqlite3.connect(path)) as connection:
        connection.execute("PRAGMA journal_mode=DELETE")
    return path


def _rows(path: Path) -> dict[str, list[tuple[Any, ...]]]:
    """Every row of every table, as SQLite gives them."""
    with closing(sqlite3.connect(path)) as connection:
        names = [name for (name,) in connection.execute("SELECT name FROM sqlite_schema WHERE type = 'table'")]
        return {name: list(connection.execute(f'SELECT * FROM "{name}"')) for name in names}
