"""Reading everything that a study's file holds, and saying what is not as it was written."""

import hashlib
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import sqlalchemy as sa

from rowtag.core.errors import Damaged, RowTagError
from rowtag.core.steps import load
from rowtag.store.codec import decode
from rowtag.store.database import blobs, look_at, moves, pieces, reading_only, refuse_other_version, states, steps
from rowtag.store.diary import whole
from rowtag.store.editions import PREFIX, edition_from
from rowtag.store.sources import piece_from
from rowtag.store.states import States
from rowtag.store.sums import SUMMED, refuse_gaps, sound, sound_blob
from rowtag.store.wellformed import Known, refuse_impossible

Watch = Callable[[float, str], None]
"""Told how far long work is (0 to 1), and what it does."""
MOST_TOLD = 50
"""Faults that are told one by one."""
_AT_ONCE = 500
_KEYS = {"move": "revision", "piece": "blob", "about": "key"}


@dataclass
class Verified:
    """What was read of a file, in numbers, and what is wrong with it."""

    file: str
    counts: dict[str, int] = field(default_factory=dict)
    problems: list[str] = field(default_factory=list)
    more: int = 0
    """Faults beyond those told."""

    @property
    def sound(self) -> bool:
        """Whether all is as it was written."""
        return not self.problems

    def tell(self, problem: str) -> None:
        """Notes a fault."""
        if len(self.problems) < MOST_TOLD:
            self.problems.append(problem)
        else:
            self.more += 1

    @contextmanager
    def telling(self, what: str = "The file") -> Iterator[None]:
        """Notes what goes wrong within; what was written by nobody else may go wrong in any way."""
        try:
            yield
        except RowTagError as error:
            self.tell(error.what)
        except MemoryError:
            raise
        except Exception as error:
            self.tell(f"{what} cannot be read ({type(error).__name__}).")


def verify(path: Path, watch: Watch = lambda share, doing: None) -> Verified:
    """Reads all of a study's file: the database, every row and blob against its sum, the tree, every state with its
    entries, steps, editions and sources. Nothing is written."""
    out = Verified(path.name)
    with out.telling():
        look_at(path)
        engine = reading_only(path)
        try:
            with engine.begin() as connection:
                _whole(connection, out, watch)
            if out.sound:
                _states(engine, path.name, out, watch)
        finally:
            engine.dispose()
    return out


def _whole(connection: sa.Connection, out: Verified, watch: Watch) -> None:
    with out.telling():
        refuse_other_version(connection, "study", out.file)
        refuse_gaps(connection, out.file)
    for (line,) in connection.exec_driver_sql("PRAGMA integrity_check"):
        if line != "ok":
            out.tell(f"The database says: {line}.")
    known: dict[str, set[Any]] = {}
    for table in SUMMED:
        key = _KEYS.get(table.name, "id")
        known[table.name] = set()
        for row in connection.execute(sa.select(table).execution_options(yield_per=_AT_ONCE)):
            known[table.name].add(row._mapping[key])
            with out.telling(SUMMED[table].capitalize()):
                sound(table, row, out.file)
                _LOOKS.get(table.name, _anything)(row)
        watch(0.1, "rows")
    known["blob"] = set()
    for row in connection.execute(sa.select(blobs).execution_options(yield_per=_AT_ONCE)):
        known["blob"].add(row.key)
        with out.telling("Kept entries"):
            sound_blob(row.key, row.data, out.file)
        watch(0.2, "kept entries")
    out.counts = {name: len(found) for name, found in known.items()}
    _tree(connection, known, out)
    _sources(connection, known["blob"], out)


def _state(row: Any) -> None:
    if row.parent is None and not row.whole:
        raise Damaged(f"State {row.id} is made of nothing.")
    if row.parent is not None and not 0 < row.parent < row.id:
        raise Damaged(f"State {row.id} is not made of one that came before it.")
    decode(row.parts)


def _step(row: Any) -> None:
    load(decode(row.body)["step"])
    account = whole(decode(row.account))
    kinds = {"arrived": int, "entries": int, "variables": list}
    if not all(isinstance(account.get(name), kind) for name, kind in kinds.items()):
        raise Damaged(f"What the step {row.id} changed is not told as Row Tag tells it.")


def _said(row: Any) -> None:
    if row.key.startswith(PREFIX):
        edition_from(row.value)


def _anything(_row: Any) -> None:
    """Nothing more can be told of it."""


_LOOKS: dict[str, Callable[[Any], None]] = {"state": _state, "step": _step, "about": _said}
"""What has to hold of a row besides its sum."""


def _tree(connection: sa.Connection, known: dict[str, set[Any]], out: Verified) -> None:
    """Whether every state, step and move leads to what is there."""
    for query, what in (
        (sa.select(states.c.parent).where(states.c.parent.is_not(None)), "the parent of a state"),
        (sa.select(steps.c.state), "the state of a step"),
        (sa.select(moves.c.head), "the state of a move"),
    ):
        gone = set(connection.scalars(query)) - known["state"]
        if gone:
            out.tell(f"State {min(gone)} is gone, {what}.")


def _sources(connection: sa.Connection, there: set[str], out: Verified) -> None:
    """Whether every source is what it was."""
    for source in connection.scalars(sa.select(pieces.c.source).distinct()):
        digest = hashlib.sha256()
        rows = connection.execute(sa.select(pieces).where(pieces.c.source == source).order_by(pieces.c.number)).all()
        for row in rows:
            if row.blob not in there:
                out.tell(f"A piece of a source is gone (blob {row.blob[:12]}).")
                break
            data = connection.scalar(sa.select(blobs.c.data).where(blobs.c.key == row.blob))
            with out.telling():
                digest.update(piece_from(sound_blob(row.blob, data, out.file)))
        else:
            if digest.hexdigest() != source:
                out.tell(f"A source is not as it was brought in (SHA-256 {source[:12]}).")


def _states(engine: sa.Engine, name: str, out: Verified, watch: Watch) -> None:
    """Whether every state can be read back, with its entries."""
    kept, known = States(engine, name), Known()
    with engine.begin() as connection:
        head = connection.scalar(sa.select(moves.c.head).order_by(moves.c.revision.desc()).limit(1))
        all_states = connection.scalars(sa.select(states.c.id).order_by(states.c.id)).all()
    if head is None:
        raise Damaged("This file holds no study.")
    for number, id in enumerate(all_states):
        with out.telling(f"State {id}"):
            refuse_impossible(kept.get(id), known)
        watch(0.3 + 0.7 * number / len(all_states), "states")
    if out.sound:
        study = kept.get(head)
        out.counts |= {"records": study.records.count, "variables": len(study.order)}
