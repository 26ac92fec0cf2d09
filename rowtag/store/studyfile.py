"""One study on disk: its tree of states, where the head is, and the one way to change it."""

import secrets
import threading
import weakref
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager, suppress
from copy import copy
from dataclasses import asdict, dataclass
from datetime import UTC, datetime
from functools import partial
from pathlib import Path
from types import MappingProxyType
from typing import Any, Literal

import sqlalchemy as sa

from rowtag.core.errors import BadInput, Changed, Damaged, NotKept, NotThere, Place, RowTagError
from rowtag.core.reading import Fill
from rowtag.core.steps import Applied, Step, Supplies, dump, refuse_changed
from rowtag.core.study import Study
from rowtag.store.codec import Blobs, Fetch, Shared, column_parts, encode
from rowtag.store.database import WriteBack, about, identity, moves, open_database, states, steps
from rowtag.store.diary import Outcome, short
from rowtag.store.kept import KeptDiary
from rowtag.store.sources import Pieces, keep_blobs, keep_source
from rowtag.store.states import States, Written, begin_tree, fetched_closed
from rowtag.store.sums import added, refuse_gaps, said, sound
from rowtag.store.turns import AMENDED, Around, amended_from, amended_to, around_head, led_on

TRIES = 2
"""How often a step is applied beside others before it is applied while they wait."""

Kind = Literal["new", "step", "undo", "redo", "go", "branch"]
Source = tuple[str, Pieces]
"""The SHA-256 of a file that comes with a step, and its bytes."""


def now() -> str:
    """The time, in UTC, as ISO 8601 with milliseconds."""
    return datetime.now(UTC).isoformat(timespec="milliseconds")


@dataclass(frozen=True)
class Now:
    """Where a study is: its revision, the state at its head, since when, and what undo and redo would do there."""

    revision: int
    head: int
    study: Study
    at: str
    undo: str | None
    redo: str | None


@dataclass(frozen=True)
class Asked:
    """What somebody asks for: a step under its id, made by whom, on what they saw.

    `base` is the revision that they saw (None: whatever is there), `over` the ids of their own steps that were laid
    over it, in order. `source` is the file that comes with the step.
    """

    step: Step
    id: str
    base: int | None = None
    over: Sequence[str] = ()
    by: str = ""
    supplies: Supplies | None = None
    source: Source | None = None


@dataclass(frozen=True)
class Redone:
    """A step that is done on another state than it was: what it was asked as, what that comes to, by whom it was asked
    first, and the id of the step in whose place it stands (`again`: as it was; `instead`: amended)."""

    step: Step
    applied: Applied
    by: str = ""
    supplies: Supplies | None = None
    again: str | None = None
    instead: str | None = None


def account_of(applied: Applied) -> dict[str, Any]:
    """What a step changed, as it is kept and shown."""

    def shares(fill: Fill) -> dict[str, int]:
        return {**asdict(fill), "stray": fill.stray}

    account = {
        "variables": list(applied.variables),
        "entries": applied.made.entries,
        "before": shares(applied.before),
        "after": shares(applied.after),
        "touched": applied.touched.as_dict(),
        "arrived": applied.study.records.arrived,
    }
    if applied.made.evidence:
        account["evidence"] = [asdict(each) for each in applied.made.evidence]
    return account


class StudyFile(KeptDiary):
    """An open study. Changes go one at a time; states, once read, can be looked at by anybody.

    It lets go of its file when nobody holds it any more. A file that has to be `there` is never made. `shared` is what
    is in memory of it since it was open last.
    """

    def __init__(
        self,
        path: Path,
        *,
        clock: Callable[[], str] = now,
        there: bool = False,
        shared: Shared | None = None,
    ) -> None:
        self.name = path.name
        self.looked_at: str | None = None
        self._whole: StudyFile | None = None
        self._path = path
        self._engine = open_database(path, "study", there=there)
        self._opened = identity(path)
        self._log = WriteBack(self._engine, path)
        self._clock = clock
        self._writing_lock = threading.RLock()  # held while something is written; who reads never waits for it
        self._states = States(self._engine, self.name, shared)
        kept = self._states.shared
        self.close = weakref.finalize(self, _let_go, self._log, self._engine, kept, kept.fetch, path)
        with self._reading() as connection:
            last = connection.execute(sa.select(moves).order_by(moves.c.revision.desc()).limit(1)).first()
            if there:
                refuse_gaps(connection, self.name)
        last = self._begin_tree() if last is None else sound(moves, last, self.name)
        with self._reading() as connection:
            around = around_head(connection, last.head)
        self._now = Now(last.revision, last.head, self.state(last.head), last.at, *around)

    def at(self, state: int, called: str) -> "StudyFile":
        """This study as it was in a state, under which it is called so: for looking at, and nothing else."""
        with self._reading() as connection:
            made = connection.execute(
                sa.select(moves).where(moves.c.head == state).order_by(moves.c.revision).limit(1)
            ).first()
        if made is None:
            raise NotThere("There is no such state in the diary.")
        found = copy(self)
        found._whole = self  # which is not to be closed meanwhile
        found._now = Now(made.revision, state, self.state(state), made.at, None, None)
        found.looked_at = called
        return found

    def _refuse_looked_at(self) -> None:
        if self.looked_at is not None:
            raise BadInput(
                f"This is the edition “{self.looked_at}”, which can only be looked at.",
                remedy="Go back to it in the diary to work on from there.",
            )

    # What the file says of itself -------------------------------------------------------------

    def about(self) -> dict[str, str]:
        """What the study is called, and when it was made and removed."""
        with self._reading() as connection:
            rows = connection.execute(sa.select(about)).all()
        return {row.key: row.value for row in rows if sound(about, row, self.name)}

    def say(self, **values: str | None) -> None:
        """Says something of the study in its own file; None takes it back."""
        self._refuse_looked_at()
        with self._writing_lock, self._writing() as connection:
            said(connection, **values)

    @contextmanager
    def alone(self) -> Iterator[None]:
        """Nobody else writes meanwhile: for what is looked at before something is said."""
        with self._writing_lock:
            yield

    # Looking --------------------------------------------------------------------------------

    @property
    def revision(self) -> int:
        """The number of the last move of the head."""
        return self._now.revision

    @property
    def head(self) -> int:
        """The state at the head."""
        return self._now.head

    @property
    def kept_at(self) -> str:
        """When the head was moved last."""
        return self._now.at

    @property
    def study(self) -> Study:
        """The study at its head."""
        return self._now.study

    def snapshot(self) -> tuple[int, Study]:
        """The revision and the state at the head, of one and the same moment."""
        here = self._now
        return here.revision, here.study

    def state(self, id: int) -> Study:
        """One state of the tree, read from disk when it is not in memory."""
        return self._states.get(id)

    def held_at(self, revision: int) -> Study | None:
        """The state at the head of an earlier revision, where it is in memory."""
        with self._reading() as connection:
            state = connection.scalar(sa.select(moves.c.head).where(moves.c.revision == revision))
        return None if state is None else self._states.held(state)

    def held_between(self, first: int, last: int) -> list[Study]:
        """The states at the heads of some revisions, in order; none where one is not in memory any more."""
        with self._reading() as connection:
            query = sa.select(moves.c.head).where(moves.c.revision.between(first, last)).order_by(moves.c.revision)
            held = [self._states.held(state) for state in connection.scalars(query)]
        return [] if None in held else [each for each in held if each is not None]

    def in_place(self) -> bool:
        """Whether the file that was opened is still the one under its name: what is written to another is lost."""
        return identity(self._path) == self._opened

    def undo_sentence(self) -> str | None:
        """What undo would take back."""
        return self._now.undo

    def redo_sentence(self) -> str | None:
        """What redo would do again."""
        return self._now.redo

    # Changing -------------------------------------------------------------------------------

    def take(
        self,
        step: Step,
        step_id: str,
        *,
        base: int | None = None,
        over: Sequence[str] = (),
        by: str = "",
        supplies: Supplies | None = None,
        source: Source | None = None,
    ) -> Outcome:
        """Applies a step and keeps it durably. The same id again gives the first outcome.

        `base` is the revision that the step was made for, and `over` the ids of steps that were laid over it; where
        what the step touches is no longer as it was there, Changed is raised and nothing happens. `source` is a
        SHA-256 and the pieces of the file. Nobody who reads waits meanwhile; who writes, only for what is written.
        """
        self._refuse_looked_at()
        asked = Asked(step, step_id, base, over, by, supplies, source)
        for _ in range(TRIES):
            here = self._now
            known = self.outcome(step_id)
            if known is not None:
                return known
            applied = self._applied(asked, here)
            _ = applied.full_sentence  # its shares are worked out now, while nobody waits
            with self._writing_lock:
                if self._now is here:  # nothing was kept since, under this id neither
                    return self._kept(asked, here, applied)
        with self._writing_lock:
            known = self.outcome(step_id)
            return known or self._kept(asked, self._now, self._applied(asked, self._now))

    def move(
        self,
        kind: Literal["undo", "redo", "go"],
        *,
        expected: int,
        over: Sequence[str] = (),
        to: int | None = None,
        by: str = "",
    ) -> int:
        """Moves the head and gives the new revision. `expected` is the revision that was seen, `over` the ids of steps
        that were laid over it; Changed where anything else was done since."""
        self._refuse_looked_at()
        with self._writing_lock:
            if not self._only_since(expected, over):
                raise Changed(
                    "The study was changed meanwhile.", remedy="Look at what stands there now, then try again."
                )
            target = self._known(to) if kind == "go" else self._parent() if kind == "undo" else self._redo_state()
            if target is None:
                raise NotThere(f"There is nothing to {kind}.")
            study = self.state(target)
            with self._writing() as connection:
                self._move(connection, target, study, kind, by, self._clock(), around_head(connection, target))
            return self.revision

    def amend(
        self, base: int, redone: Sequence[Redone], *, expected: int, by: str = "", sources: Sequence[Source] = ()
    ) -> int:
        """Leads the head along another way from a state on: steps that are kept all together or not at all.

        Undo leads back to where the head was, which stays in the diary with its steps. `sources` are files that come
        with them. Gives the new revision; Changed where anything was done since the revision that was seen.
        """
        self._refuse_looked_at()
        for each in redone:
            _ = each.applied.full_sentence  # its shares are worked out now, while nobody waits
        with self._writing_lock:
            if self.revision != expected:
                raise Changed("The study was changed meanwhile.", remedy="Look at it again, then amend it.")
            with _keeping():
                return self._amend(base, redone, by, sources)

    # Within ---------------------------------------------------------------------------------

    def _amend(self, base: int, redone: Sequence[Redone], by: str, sources: Sequence[Source]) -> int:
        fresh, origin, at = Blobs(self._states.shared), self.head, self._clock()
        made, weight = list[tuple[int, Study, int]](), None
        with self._writing() as connection:
            revision, head, study = self.revision + 1, base, self.state(base)
            added(connection, moves, revision=revision, head=base, kind="branch", at=at, by=by)
            for source in sources:
                keep_source(connection, *source)
            for each in redone:
                written = self._states.written(head, study, each.applied.study, fresh, weight)
                revision += 1
                stands = {name: id for name in ("again", "instead") if (id := getattr(each, name)) is not None}
                asked = Asked(each.step, secrets.token_hex(8), by=each.by or by, supplies=each.supplies)
                head = self._put_step(connection, asked, each.applied, head, written, fresh, (revision, at), stands)
                added(connection, moves, revision=revision, head=head, kind="step", at=at, by=by)
                study, weight = each.applied.study, written.weight
                made.append((head, study, weight))
            keep_blobs(connection, fresh.data)
            revision += 1
            added(connection, moves, revision=revision, head=head, kind=f"{AMENDED}{origin}", at=at, by=by)
            said(connection, moved=str(revision))
            around = around_head(connection, head)
            connection.commit()
            self._now = Now(revision, head, study, at, *around)
        self._log.due()
        fresh.kept()
        for id, state, gathered in made:
            self._states.remember(id, state, gathered)
        return revision

    def _writing(self) -> Any:
        if not self.in_place():
            raise Damaged(
                "The file of this study was taken away while it was open, or another was put in its place.",
                remedy="Nothing has changed. Try again; it is said then what is there now.",
                where=Place(self.name),
            )
        return _Writing(self._engine)

    def _begin_tree(self) -> Any:
        """The empty state that every study grows from."""
        at = self._clock()
        with self._writing() as connection:
            begin_tree(connection, at)
            return connection.execute(sa.select(moves)).one()

    def _applied(self, asked: Asked, here: Now) -> Applied:
        """What a step makes of the study as it is now. Raises Changed where it was not made for that."""
        if asked.base is not None and not self._only_since(asked.base, asked.over, here.revision):
            self._refuse_changed(asked, here)
        return asked.step.apply(here.study, asked.supplies)

    def _only_since(self, base: int, over: Sequence[str], revision: int | None = None) -> bool:
        """Whether nothing but some steps was done since a revision."""
        if base == (self.revision if revision is None else revision):
            return True
        if not over:
            return False
        query = sa.select(moves.c.kind, steps.c.id).join(steps, steps.c.revision == moves.c.revision, isouter=True)
        with self._reading() as connection:
            rows = connection.execute(query.where(moves.c.revision > base)).all()
        return all(row.kind == "step" and row.id in over for row in rows)

    def _refuse_changed(self, asked: Asked, here: Now) -> None:
        """Raises Changed where what a step touches is no longer as it was when the step was made."""
        with self._reading() as connection:
            state = connection.scalar(sa.select(moves.c.head).where(moves.c.revision == asked.base))
            if state is None:
                raise Changed("This step was made for a state that the study never had.", remedy="Reload the page.")
            since = connection.execute(
                sa.select(steps.c.sentence, steps.c.by, steps.c.at)
                .where(steps.c.revision > asked.base, steps.c.id.not_in(asked.over))
                .order_by(steps.c.revision.desc())
                .limit(5)
            ).all()
        by = [f"{row.sentence} ({row.by or 'somebody'}, {row.at})" for row in since]
        seen = self._seen(self.state(state), asked)
        refuse_changed(asked.step, seen, here.study, by, asked.supplies)

    def _seen(self, study: Study, asked: Asked) -> Study:
        """What somebody saw who laid steps of their own over a state."""
        for id in asked.over:
            known = self.outcome(id)
            if known is not None and known.revision > (asked.base or 0):
                step, supplies = self.kept_step(id)
                with suppress(RowTagError):
                    study = step.change(study, supplies or {}).study
        return study

    def _kept(self, asked: Asked, here: Now, applied: Applied) -> Outcome:
        with _keeping():
            return self._keep(asked, here, applied)

    def _put_step(
        self,
        connection: sa.Connection,
        asked: Asked,
        applied: Applied,
        parent: int,
        written: Written,
        fresh: Blobs,
        moment: tuple[int, str],
        stands: Mapping[str, str] = MappingProxyType({}),
    ) -> int:
        """Writes a step and the state that it made; gives the number of that state."""
        body: dict[str, Any] = {"step": dump(asked.step), **stands}
        if asked.supplies:
            body["supplies"] = {id: column_parts(None, column, fresh) for id, column in asked.supplies.items()}
        made = int(added(connection, states, parent=parent, **asdict(written)))
        revision, at = moment
        added(
            connection,
            steps,
            id=asked.id,
            state=made,
            revision=revision,
            body=encode(body),
            account=encode(short(account_of(applied))),
            sentence=applied.full_sentence,
            at=at,
            by=asked.by,
        )
        return made

    def _keep(self, asked: Asked, here: Now, applied: Applied) -> Outcome:
        fresh = Blobs(self._states.shared)
        written = self._states.written(here.head, here.study, applied.study, fresh)
        with self._writing() as connection:
            if asked.source is not None:
                keep_source(connection, *asked.source)
            revision, at = here.revision + 1, self._clock()
            made = self._put_step(connection, asked, applied, here.head, written, fresh, (revision, at))
            keep_blobs(connection, fresh.data)
            self._move(connection, made, applied.study, "step", asked.by, at, (applied.full_sentence, None))
        self._log.due()
        fresh.kept()
        self._states.remember(made, applied.study, written.weight)
        return Outcome(asked.id, revision, made, applied.full_sentence, account_of(applied), at, asked.by)

    def _move(
        self, connection: sa.Connection, head: int, study: Study, kind: Kind, by: str, at: str, around: Around
    ) -> None:
        """Writes a move of the head; in memory it counts once the transaction is on disk."""
        revision = self.revision + 1
        added(connection, moves, revision=revision, head=head, kind=kind, at=at, by=by)
        if kind != "step":  # of which no step tells that it was there
            said(connection, moved=str(revision))
        connection.commit()
        self._now = Now(revision, head, study, at, *around)

    def _parent(self) -> int | None:
        """Where undo leads: the state before, or the one from which the diary was amended to this one."""
        with self._reading() as connection:
            amended = amended_from(connection, self.head)
            if amended is not None:
                return amended
            found: int | None = connection.scalar(sa.select(states.c.parent).where(states.c.id == self.head))
        return found

    def _redo_state(self) -> int | None:
        """Where redo leads: the state after this one where the head was last, or to which it was amended."""
        with self._reading() as connection:
            amended = amended_to(connection, self.head)
            found: int | None = amended or connection.scalar(led_on(self.head))
        return found

    def _known(self, id: int | None) -> int:
        with self._reading() as connection:
            if connection.scalar(sa.select(states.c.id).where(states.c.id == id)) is None:
                raise NotThere("There is no such state in the diary.")
        assert id is not None
        return id


def _let_go(log: WriteBack, engine: sa.Engine, kept: Shared, fetch: Fetch, path: Path) -> None:
    """Lets go of a file; who still holds something of it that was not read yet reads it from the file closed."""
    log.close()
    engine.dispose()
    if kept.fetch is fetch:  # it was not opened again meanwhile
        kept.fetch = partial(fetched_closed, path)


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


@contextmanager
def _keeping() -> Iterator[None]:
    """Says of what the disk does not take that nothing has changed."""
    try:
        yield
    except (OSError, sa.exc.OperationalError) as error:
        raise NotKept(
            f"This could not be written to disk ({getattr(error, 'orig', None) or error}).",
            remedy="Make room on the disk, then do it again; nothing has changed.",
        ) from error
