"""The states of a study: read from disk where they are not in memory, and what a new one is kept as."""

import threading
from collections import OrderedDict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import Any

import sqlalchemy as sa

from rowtag.core.errors import Damaged
from rowtag.core.study import Study
from rowtag.store.codec import Blobs, Shared, decode, difference, encode, patched
from rowtag.store.database import blobs, moves, reading_only, states
from rowtag.store.sums import added, sound, sound_blob

KEPT_STATES = 64
"""States held in memory."""
WHOLE_AFTER = 64 * 1024
"""Bytes of differences after which a state is kept whole (or after the size of a whole one, if larger)."""
AT_ONCE = 500
"""States that are read together where one goes along all of them."""
MOST_DIFFERENCES = 1_000
"""Differences after which it is in any case: each has to be read to come to a state, however little it says."""


@dataclass(frozen=True)
class Written:
    """A state as it is kept: its parts, whether these are the whole of it, and the bytes of differences so far."""

    parts: bytes
    whole: bool
    weight: int


class States:
    """The states of one file. Whoever looks at one that is in memory waits for nobody."""

    def __init__(self, engine: sa.Engine, file: str, shared: Shared | None = None) -> None:
        self._engine = engine
        self._file = file
        self.shared = shared or Shared()
        self.shared.fetch = partial(_fetched, engine, file)
        self._loading = threading.RLock()
        self._held: OrderedDict[int, Study] = OrderedDict()
        self._weights: dict[int, int] = {}
        self._whole_size = 0

    def get(self, id: int) -> Study:
        """One state, read from disk when it is not in memory."""
        found = self._held.get(id)
        if found is not None:
            return found
        with self._loading:
            return self._held.get(id) or self._load(id)

    def along(self, ids: Sequence[int]) -> Iterator[Study]:
        """States of which each is made of the one before it, the first of nothing or kept whole: read in turn, a few
        hundred rows at once, and not held in memory."""
        study = Study()
        for first in range(0, len(ids), AT_ONCE):
            some = ids[first : first + AT_ONCE]
            with self._engine.begin() as connection:
                rows = {row.id: row for row in connection.execute(sa.select(states).where(states.c.id.in_(some)))}
            for id in some:
                row = sound(states, rows.get(id), self._file)
                if row is None:
                    raise _gone(id)
                before = Study() if row.whole else study
                study = self._held.get(id) or patched(before, decode(row.parts), self.shared.fetched, self.shared)
                yield study

    def held(self, id: int) -> Study | None:
        """One state, where it is in memory."""
        return self._held.get(id)

    def remember(self, id: int, study: Study, weight: int | None = None) -> Study:
        """Holds a state in memory, in place of one that came longest ago."""
        with self._loading:
            if weight is not None:
                self._weights[id] = weight
            self._held[id] = study
            self._held.move_to_end(id)
            while len(self._held) > KEPT_STATES:
                self._held.popitem(last=False)
        return study

    def written(self, head: int, old: Study, new: Study, fresh: Blobs, gathered: int | None = None) -> Written:
        """A state as what differs from the one at the head, or whole where differences have gathered.

        Blobs that it needs are added to `fresh`; those of a whole one that is not kept are not. A whole one is made
        only when it may be kept: when more has gathered than the last one took. `gathered` says how much that is where
        the state at the head is not on disk yet.
        """
        parts = encode(difference(old, new, fresh))
        weight = (self._weight(head) if gathered is None else gathered) + self._weighed(parts)
        if weight <= max(WHOLE_AFTER, self._whole_size):
            return Written(parts, False, weight)
        further = fresh.more()
        everything = encode(difference(Study(), new, further))
        self._whole_size = len(everything)
        if weight <= len(everything):
            return Written(parts, False, weight)
        fresh.take(further)
        return Written(everything, True, 0)

    def _weighed(self, parts: bytes) -> int:
        """What a difference weighs: its bytes, or as much as makes the most of them weigh a whole state."""
        return max(len(parts), self._whole_size // MOST_DIFFERENCES)

    def _weight(self, id: int) -> int:
        if id not in self._weights:
            with self._engine.begin() as connection:
                self._weights[id] = int(connection.scalar(sa.select(states.c.weight).where(states.c.id == id)) or 0)
        return self._weights[id]

    def _load(self, id: int) -> Study:
        """Reads a state: from the nearest one that is in memory or kept whole, difference by difference."""
        with self._engine.begin() as connection:
            row = connection.execute(sa.select(states).where(states.c.id == id)).first()
            if row is not None and row.parent in self._held:  # as for whoever goes along the diary
                way = {id: row}
            else:
                way = {row.id: row for row in connection.execute(_up_to_whole(id))}
        chain = []
        study, at = Study(), id
        while (known := self._held.get(at)) is None:
            if at not in way:
                raise _gone(at)
            chain.append(sound(states, way[at], self._file))
            if way[at].whole:
                break
            at = _above(way[at])
        else:
            study = known
        for row in reversed(chain):
            study = patched(study, decode(row.parts), self.shared.fetched, self.shared)
        return self.remember(id, study)


def begin_tree(connection: sa.Connection, at: str) -> None:
    """Keeps the empty state that every study grows from."""
    added(connection, states, id=1, parent=None, whole=True, weight=0, parts=encode({"format": 1}))
    added(connection, moves, revision=1, head=1, kind="new", at=at, by="")


def _gone(id: int) -> Damaged:
    return Damaged(f"State {id} is gone.", remedy="Restore a backup; the diary may lead to an earlier state.")


def _above(row: Any) -> int:
    """The state that another one was made of; Damaged where it cannot be one that came before."""
    if not isinstance(row.parent, int) or not 0 < row.parent < row.id:
        raise Damaged(f"State {row.id} is not made of one that came before it.", remedy="Restore a backup.")
    return row.parent


def _up_to_whole(id: int) -> sa.Select[Any]:
    """A state and those above it, up to one that is kept whole: all at once, since there may be a thousand."""
    up = sa.select(states.c.id, states.c.parent, states.c.whole).where(states.c.id == id).cte(recursive=True)
    above = sa.select(states.c.id, states.c.parent, states.c.whole)
    up = up.union_all(above.where(states.c.id == up.c.parent, states.c.id < up.c.id, ~up.c.whole))
    return sa.select(states).join(up, up.c.id == states.c.id)


def fetched_closed(path: Path, key: str) -> bytes:
    """A blob of a file that is not open."""
    engine = reading_only(path)
    try:
        return _fetched(engine, path.name, key)
    finally:
        engine.dispose()


def _fetched(engine: sa.Engine, file: str, key: str) -> bytes:
    """A blob of a file; Damaged where it is not as it was kept."""
    with engine.begin() as connection:
        data: bytes | None = connection.scalar(sa.select(blobs.c.data).where(blobs.c.key == key))
    return sound_blob(key, data, file)
