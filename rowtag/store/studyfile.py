"""One study on disk: its tree of states, where the head is, and the one way to change it."""

import threading
from collections import OrderedDict
from collections.abc import Callable, Iterator
from dataclasses import asdict, dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Any, Literal

import sqlalchemy as sa

from rowtag.core.errors import Changed, NotKept, NotThere
from rowtag.core.reading import Fill
from rowtag.core.steps import Applied, Step, Supplies, conflicts, refuse_changed
from rowtag.core.study import Study
from rowtag.store.codec import Blobs, decode, difference, encode, patched
from rowtag.store.database import WriteBack, blobs, moves, open_database, pieces, states, steps
from rowtag.store.sources import Pieces, keep_blobs, keep_source, piece_from

KEPT_STATES = 64
"""States held in memory."""
WHOLE_AFTER = 64 * 1024
"""Bytes of differences after which a state is kept whole (or after the size of a whole one, if larger)."""

Kind = Literal["new", "step", "undo", "redo", "go"]


def now() -> str:
    """The time, in UTC, as ISO 8601 with milliseconds."""
    return datetime.now(UTC).isoformat(timespec="milliseconds")


@dataclass(frozen=True)
class Outcome:
    """What an accepted step came to: the revision it made, its sentence and its account."""

    step_id: str
    revision: int
    state: int
    sentence: str
    account: dict[str, Any]
    at: str
    by: str


@dataclass(frozen=True)
class DiaryLine:
    """A step in the diary; `current` tells whether the head's state includes it."""

    step_id: str
    state: int
    revision: int
    sentence: str
    account: dict[str, Any]
    at: str
    by: str
    current: bool


def account_of(applied: Applied) -> dict[str, Any]:
    """What a step changed, as it is kept and shown."""

    def shares(fill: Fill) -> dict[str, int]:
        return {**asdict(fill), "stray": fill.stray}

    return {
        "variables": list(applied.variables),
        "entries": applied.entries,
        "before": shares(applied.before),
        "after": shares(applied.after),
    }


class StudyFile:
    """An open study. Changes go one at a time; states, once read, can be looked at by anybody."""

    def __init__(self, path: Path, *, clock: Callable[[], str] = now) -> None:
        self._engine = open_database(path, "study")
        self._log = WriteBack(self._engine, path)
        self._clock = clock
        self._lock = threading.RLock()
        self._cache: OrderedDict[int, Study] = OrderedDict()
        self._weights: dict[int, int] = {}
        with self._reading() as connection:
            last = connection.execute(sa.select(moves).order_by(moves.c.revision.desc()).limit(1)).first()
        if last is None:
            last = self._begin_tree()
        self.revision: int = last.revision
        self.head: int = last.head
        self.kept_at: str = last.at

    def close(self) -> None:
        """Lets go of the file."""
        self._log.close()
        self._engine.dispose()

    # Looking --------------------------------------------------------------------------------

    @property
    def study(self) -> Study:
        """The state at the head."""
        return self.state(self.head)

    def snapshot(self) -> tuple[int, Study]:
        """The revision and the state at the head, of one and the same moment."""
        with self._lock:
            return self.revision, self.study

    def state(self, id: int) -> Study:
        """One state of the tree, read from disk when it is not in memory."""
        with self._lock:
            if id not in self._cache:
                self._load(id)
            self._cache.move_to_end(id)
            return self._cache[id]

    def held_at(self, revision: int) -> Study | None:
        """The state at the head of an earlier revision, where it is in memory."""
        with self._reading() as connection:
            state = connection.scalar(sa.select(moves.c.head).where(moves.c.revision == revision))
        with self._lock:
            return None if state is None else self._cache.get(state)

    def undo_sentence(self) -> str | None:
        """What undo would take back."""
        with self._reading() as connection:
            found: str | None = connection.scalar(sa.select(steps.c.sentence).where(steps.c.state == self.head))
        return found

    def redo_sentence(self) -> str | None:
        """What redo would do again."""
        state = self._redo_state()
        if state is None:
            return None
        with self._reading() as connection:
            found: str | None = connection.scalar(sa.select(steps.c.sentence).where(steps.c.state == state))
        return found

    def outcome(self, step_id: str) -> Outcome | None:
        """What a step with this id came to, if it was ever accepted."""
        with self._reading() as connection:
            row = connection.execute(sa.select(steps).where(steps.c.id == step_id)).first()
        return None if row is None else _outcome(row)

    def diary(self, most: int = 200, before: int | None = None) -> list[DiaryLine]:
        """Steps, newest first; `before` continues behind a revision."""
        query = sa.select(steps).order_by(steps.c.revision.desc()).limit(most)
        if before is not None:
            query = query.where(steps.c.revision < before)
        with self._reading() as connection:
            rows = connection.execute(query).all()
            lowest = min((row.state for row in rows), default=0)
            path = set(connection.scalars(_ancestry(self.head, lowest)))
        return [DiaryLine(**asdict(_outcome(row)), current=row.state in path) for row in rows]

    def touched_since(self, moment: str) -> set[str]:
        """Ids of variables that steps since a moment (ISO 8601) have defined or changed; coming in does not count."""
        query = sa.select(steps.c.account, steps.c.body, steps.c.state).where(steps.c.at >= moment)
        with self._reading() as connection:
            rows = connection.execute(query).all()
            path = set(connection.scalars(_ancestry(self.head, min((row.state for row in rows), default=0))))
        known = set(self.study.variables)
        coming = ("bring in", "add records")
        return {
            id
            for row in rows
            if row.state in path and decode(row.body)["step"]["do"] not in coming
            for id in decode(row.account)["variables"]
            if id in known
        }

    def step_count(self) -> int:
        """How many steps the diary holds."""
        with self._reading() as connection:
            return int(connection.scalar(sa.select(sa.func.count()).select_from(steps)) or 0)

    def source_bytes(self, sha256: str) -> Iterator[bytes]:
        """The bytes of a source file, piece by piece, as they were brought in."""
        with self._reading() as connection:
            keys = connection.scalars(
                sa.select(pieces.c.blob).where(pieces.c.source == sha256).order_by(pieces.c.number)
            ).all()
        for key in keys:
            yield piece_from(self._fetch(key))

    # Changing -------------------------------------------------------------------------------

    def take(
        self,
        step: Step,
        step_id: str,
        *,
        base: int | None = None,
        by: str = "",
        supplies: Supplies | None = None,
        source: tuple[str, Pieces] | None = None,
    ) -> Outcome:
        """Applies a step and keeps it durably. The same id again gives the first outcome.

        `base` is the revision that the step was made for; where what it expected there no longer
        stands, Changed is raised and nothing happens. `source` is a SHA-256 and the pieces of the file.
        """
        with self._lock:
            known = self.outcome(step_id)
            if known is not None:
                return known
            study = self.study
            if base is not None and base != self.revision:
                self._still_expected(step, base, study)
            applied = step.apply(study, supplies)
            try:
                return self._keep(study, applied, step, step_id, by, source)
            except (OSError, sa.exc.OperationalError) as error:
                raise NotKept(
                    f"This could not be written to disk ({getattr(error, 'orig', None) or error}).",
                    remedy="Make room on the disk, then do it again; nothing has changed.",
                ) from error

    def move(self, kind: Literal["undo", "redo", "go"], *, expected: int, to: int | None = None, by: str = "") -> int:
        """Moves the head and gives the new revision. `expected` must be the present revision."""
        with self._lock:
            if expected != self.revision:
                raise Changed(
                    "The study was changed meanwhile.", remedy="Look at what stands there now, then try again."
                )
            target = self._known(to) if kind == "go" else self._parent() if kind == "undo" else self._redo_state()
            if target is None:
                raise NotThere(f"There is nothing to {kind}.")
            self.state(target)
            with self._writing() as connection:
                self._move(connection, target, kind, by)
            return self.revision

    # Within ---------------------------------------------------------------------------------

    def _reading(self) -> Any:
        return self._engine.begin()

    def _writing(self) -> Any:
        return _Writing(self._engine)

    def _begin_tree(self) -> Any:
        """The empty state that every study grows from."""
        at = self._clock()
        with self._writing() as connection:
            connection.execute(
                states.insert().values(id=1, parent=None, whole=True, weight=0, parts=encode({"format": 1}))
            )
            connection.execute(moves.insert().values(revision=1, head=1, kind="new", at=at, by=""))
            return connection.execute(sa.select(moves)).one()

    def _still_expected(self, step: Step, base: int, head: Study) -> None:
        """Raises Changed where the head no longer holds what the step expected at its base."""
        with self._reading() as connection:
            state = connection.scalar(sa.select(moves.c.head).where(moves.c.revision == base))
            if state is None:
                raise Changed("This step was made for a state that the study never had.", remedy="Reload the page.")
            since = connection.execute(
                sa.select(steps.c.sentence, steps.c.by, steps.c.at)
                .where(steps.c.revision > base)
                .order_by(steps.c.revision.desc())
                .limit(5)
            ).all()
        places = conflicts(step, self.state(state), head)
        if places:
            raise refuse_changed(places, head, [f"{row.sentence} ({row.by or 'somebody'}, {row.at})" for row in since])

    def _keep(
        self,
        study: Study,
        applied: Applied,
        step: Step,
        step_id: str,
        by: str,
        source: tuple[str, Pieces] | None,
    ) -> Outcome:
        fresh = Blobs()
        parts = encode(difference(study, applied.study, fresh))
        weight = self._weight(self.head) + len(parts)
        whole = False
        if weight > WHOLE_AFTER:
            everything = encode(difference(Study(), applied.study, fresh))
            if weight > len(everything):
                parts, whole, weight = everything, True, 0
        outcome_parts = {
            "body": encode({"step": step.model_dump(exclude_unset=False, mode="json")}),
            "account": encode(account_of(applied)),
            "sentence": applied.full_sentence,
        }
        with self._writing() as connection:
            if source is not None:
                keep_source(connection, *source)
            keep_blobs(connection, fresh.data)
            made = connection.execute(
                states.insert().values(parent=self.head, whole=whole, weight=weight, parts=parts)
            ).inserted_primary_key[0]
            revision = self.revision + 1
            at = self._clock()
            connection.execute(
                steps.insert().values(id=step_id, state=made, revision=revision, at=at, by=by, **outcome_parts)
            )
            self._move(connection, made, "step", by, at)
        self._log.due()
        fresh.kept()
        self._remember(made, applied.study)
        self._weights[made] = weight
        return Outcome(step_id, revision, made, applied.full_sentence, account_of(applied), at, by)

    def _move(self, connection: sa.Connection, head: int, kind: Kind, by: str, at: str | None = None) -> None:
        """Writes a move of the head; in memory it counts once the transaction is on disk."""
        at = at or self._clock()
        revision = self.revision + 1
        connection.execute(moves.insert().values(revision=revision, head=head, kind=kind, at=at, by=by))
        connection.commit()
        self.revision, self.head, self.kept_at = revision, head, at

    def _parent(self) -> int | None:
        with self._reading() as connection:
            found: int | None = connection.scalar(sa.select(states.c.parent).where(states.c.id == self.head))
        return found

    def _redo_state(self) -> int | None:
        """The state after this one where the head was last."""
        query = (
            sa.select(moves.c.head)
            .join(states, states.c.id == moves.c.head)
            .where(states.c.parent == self.head)
            .order_by(moves.c.revision.desc())
            .limit(1)
        )
        with self._reading() as connection:
            found: int | None = connection.scalar(query)
        return found

    def _known(self, id: int | None) -> int:
        with self._reading() as connection:
            if connection.scalar(sa.select(states.c.id).where(states.c.id == id)) is None:
                raise NotThere("There is no such state in the diary.")
        assert id is not None
        return id

    def _weight(self, id: int) -> int:
        if id not in self._weights:
            with self._reading() as connection:
                self._weights[id] = int(connection.scalar(sa.select(states.c.weight).where(states.c.id == id)) or 0)
        return self._weights[id]

    def _load(self, id: int) -> None:
        """Reads a state: from the nearest one that is in memory or kept whole, difference by difference."""
        chain = []
        study = Study()
        with self._reading() as connection:
            while id not in self._cache:
                row = connection.execute(sa.select(states).where(states.c.id == id)).one()
                chain.append(row)
                if row.whole:
                    break
                id = row.parent
            else:
                study = self._cache[id]
        for row in reversed(chain):
            study = patched(study, decode(row.parts), self._fetch)
        self._remember(chain[0].id, study)

    def _remember(self, id: int, study: Study) -> None:
        self._cache[id] = study
        while len(self._cache) > KEPT_STATES:
            self._cache.popitem(last=False)

    def _fetch(self, key: str) -> bytes:
        with self._reading() as connection:
            data: bytes | None = connection.scalar(sa.select(blobs.c.data).where(blobs.c.key == key))
        assert data is not None, f"blob {key} is not in the file"
        return data


class _Writing:
    """A connection in a transaction that took the write lock at its beginning."""

    def __init__(self, engine: sa.Engine) -> None:
        self._connection = engine.connect().execution_options(writing=True)

    def __enter__(self) -> sa.Connection:
        self._connection.begin()
        return self._connection

    def __exit__(self, kind: Any, error: Any, trace: Any) -> None:
        with self._connection:
            if kind is None and self._connection.in_transaction():
                self._connection.commit()


def _ancestry(head: int, lowest: int) -> sa.Select[Any]:
    """The states on the way from the head up, not below an id."""
    up = sa.select(states.c.id, states.c.parent).where(states.c.id == head).cte(recursive=True)
    up = up.union_all(sa.select(states.c.id, states.c.parent).where(states.c.id == up.c.parent, states.c.id >= lowest))
    return sa.select(up.c.id)


def _outcome(row: Any) -> Outcome:
    return Outcome(row.id, row.revision, row.state, row.sentence, decode(row.account), row.at, row.by)
