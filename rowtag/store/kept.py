"""The diary of a study as its file keeps it: every step, on whatever way, and the files that came with them."""

import hashlib
from abc import ABC, abstractmethod
from collections.abc import Iterator, Sequence
from typing import Any

import sqlalchemy as sa

from rowtag.core.errors import Damaged, NotThere, Place
from rowtag.core.steps import Step, Supplies, load
from rowtag.core.study import Study
from rowtag.store.codec import column_from, decode
from rowtag.store.database import pieces, states, steps
from rowtag.store.diary import DiaryLine, Outcome, Passed, whole
from rowtag.store.sources import piece_from
from rowtag.store.states import States
from rowtag.store.sums import sound
from rowtag.store.turns import ancestry


class KeptDiary(ABC):
    """What can be read of the steps in a study's file, by whoever holds it open."""

    name: str
    _engine: sa.Engine
    _states: States

    @property
    @abstractmethod
    def head(self) -> int:
        """The state at the head."""

    def outcome(self, step_id: str) -> Outcome | None:
        """What a step with this id came to, if it was ever accepted."""
        with self._reading() as connection:
            row = self._step(connection, step_id)
        return None if row is None else _outcome(row)

    def diary(self, most: int = 200, before: int | None = None) -> list[DiaryLine]:
        """Steps, newest first; `before` continues behind a revision."""
        query = sa.select(steps, states.c.parent).join(states, states.c.id == steps.c.state)
        query = query.order_by(steps.c.revision.desc()).limit(most)
        if before is not None:
            query = query.where(steps.c.revision < before)
        with self._reading() as connection:
            rows = connection.execute(query).all()
            lowest = min((row.state for row in rows), default=0)
            path = set(connection.scalars(ancestry(self.head, lowest)))
        return [
            DiaryLine(
                **vars(_outcome(sound(steps, row, self.name))),
                current=row.state in path,
                parent=row.parent,
                step=load(body["step"]),
                again="again" in body,
                instead=body.get("instead"),
            )
            for row in rows
            for body in (decode(row.body),)
        ]

    def way(self) -> list[Passed]:
        """The steps that led to the head, oldest first."""
        query = sa.select(steps, states.c.parent).join(states, states.c.id == steps.c.state)
        with self._reading() as connection:
            path = set(connection.scalars(ancestry(self.head, 1)))
            rows = [row for row in connection.execute(query.order_by(steps.c.revision)) if row.state in path]
        return [
            Passed(
                row.id, row.parent, row.state, load(decode(sound(steps, row, self.name).body)["step"]), row.sentence,
                row.at, row.by, decode(row.account)["arrived"],
            )
            for row in sorted(rows, key=lambda row: int(row.state))
        ]  # fmt: skip

    def along(self) -> Iterator[tuple[Passed, Study, Study]]:
        """The steps that led to the head, oldest first, each with the states before and after it."""
        made = {passed.state: passed for passed in self.way()}
        with self._reading() as connection:
            path = sorted(connection.scalars(ancestry(self.head, 1)))
        before = Study()
        for id, after in zip(path, self._states.along(path), strict=True):
            if id in made:
                yield made[id], before, after
            before = after

    def kept_step(self, step_id: str) -> tuple[Step, Supplies | None]:
        """A step as it was asked for, and the entries that came with it; None where these were not kept with it."""
        with self._reading() as connection:
            row = self._step(connection, step_id)
        if row is None:
            raise NotThere("There is no such step in the diary.")
        parts = decode(row.body)
        written = parts.get("supplies")
        supplies = None
        if written is not None:
            kept = self._states.shared
            supplies = {id: column_from(None, each, kept.fetched, kept) for id, each in written.items()}
        return load(parts["step"]), supplies

    def made_by(self, step_id: str) -> tuple[int, int]:
        """The state that a step was made on, and the one that it made. Raises NotThere."""
        query = sa.select(states.c.parent, steps.c.state).join(states, states.c.id == steps.c.state)
        with self._reading() as connection:
            row = connection.execute(query.where(steps.c.id == step_id)).first()
        if row is None:
            raise NotThere("There is no such step in the diary.")
        return row.parent, row.state

    def tree(self) -> list[tuple[int, int | None, str | None]]:
        """Every state with its parent and the step that made it, in the order in which they came to be."""
        with self._reading() as connection:
            made = {row.state: sound(steps, row, self.name).id for row in connection.execute(sa.select(steps))}
            rows = connection.execute(sa.select(states).order_by(states.c.id))
            return [(row.id, sound(states, row, self.name).parent, made.get(row.id)) for row in rows]

    def touched_since(self, moment: str) -> set[str]:
        """Ids of variables that steps since a moment (ISO 8601) have defined or changed; coming in does not count."""
        query = sa.select(steps).where(steps.c.at >= moment)
        with self._reading() as connection:
            rows = connection.execute(query).all()
            path = set(connection.scalars(ancestry(self.head, min((row.state for row in rows), default=0))))
        known = set(self._states.get(self.head).variables)
        coming = ("bring in", "add records", "put beside")
        return {
            id
            for row in rows
            if row.state in path and _fresh(decode(row.body), coming)
            for id in decode(sound(steps, row, self.name).account)["variables"]
            if id in known
        }

    def step_count(self) -> int:
        """How many steps the diary holds."""
        with self._reading() as connection:
            return int(connection.scalar(sa.select(sa.func.count()).select_from(steps)) or 0)

    def source_bytes(self, sha256: str) -> Iterator[bytes]:
        """The bytes of a source file, piece by piece, as they were brought in."""
        with self._reading() as connection:
            rows = connection.execute(
                sa.select(pieces).where(pieces.c.source == sha256).order_by(pieces.c.number)
            ).all()
        digest = hashlib.sha256()
        for row in rows:
            piece = piece_from(self._states.shared.fetched(sound(pieces, row, self.name).blob))
            digest.update(piece)
            yield piece
        if digest.hexdigest() != sha256:
            raise Damaged("A source is not as it was brought in.", remedy="Restore a backup.", where=Place(self.name))

    def _step(self, connection: sa.Connection, id: str) -> Any:
        """A step as it is kept, None where there is none; Damaged where the database leads to another."""
        row = sound(steps, connection.execute(sa.select(steps).where(steps.c.id == id)).first(), self.name)
        if row is not None and row.id != id:
            raise Damaged("A step is not where it was.", remedy="Restore a backup.", where=Place(self.name))
        return row

    def _reading(self) -> Any:
        return self._engine.begin()


def _fresh(body: dict[str, Any], coming: Sequence[str]) -> bool:
    """Whether a step is neither one by which something came in, nor one that was only done again."""
    return body["step"]["do"] not in coming and "again" not in body


def _outcome(row: Any) -> Outcome:
    return Outcome(row.id, row.revision, row.state, row.sentence, whole(decode(row.account)), row.at, row.by)
