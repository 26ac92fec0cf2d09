"""What can be read of a study whose file is damaged, as a study of its own.

Each row is looked up by itself, so that what is broken takes nothing else with it. The newest state that can be read
whole is kept, with the steps that led to it as far back as every state between them can be read.
"""

import re
import sqlite3
from collections import OrderedDict
from collections.abc import Container, Iterator
from contextlib import closing, suppress
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import orjson
import sqlalchemy as sa

from rowtag.core.errors import Damaged, Place, RowTagError
from rowtag.core.study import Study
from rowtag.store.codec import Blobs, Shared, decode, difference, encode, patched
from rowtag.store.database import about, blobs, moves, open_database, pieces, states, steps
from rowtag.store.editions import PREFIX, edition_from, kept_as
from rowtag.store.rewrite import fits, selecting, untrusted
from rowtag.store.sources import keep_blobs
from rowtag.store.states import KEPT_STATES, begin_tree
from rowtag.store.studyfile import now
from rowtag.store.sums import added, said, sound, sound_blob
from rowtag.store.verify import Watch
from rowtag.store.wellformed import Known, refuse_impossible

MOST_GONE = 5_000
"""Numbers in a row under which nothing is found, behind which there is nothing more."""
_KEY = re.compile(rb'"key":"([0-9a-f]{64})"')
_SAID = ("title", "created_at")


@dataclass(frozen=True)
class Rescued:
    """What was read of a study: its title, how many of its steps, of how many that could be told, and how much."""

    title: str
    steps: int
    of: int
    records: int
    variables: int


def rescue(source: Path, target: Path, name: str, watch: Watch = lambda share, doing: None) -> Rescued:
    """Writes what can be read of a study's file into a fresh one. Raises Damaged where that is nothing."""
    try:
        with closing(untrusted(source)) as connection:
            connection.execute("PRAGMA writable_schema=ON")  # a file that was cut short is read as far as it goes
            kept = _Kept(connection, watch)
            head = kept.head()
            if head is None:
                raise Damaged("No state of this study can be read any more.")
            return _written(kept, head, target)
    except sqlite3.Error as error:
        raise Damaged(f"Nothing of this can be read ({error}).", where=Place(name)) from None


class _Kept:
    """The rows of a damaged file, each looked up by itself; one that cannot be read, or is another, is gone."""

    def __init__(self, connection: sqlite3.Connection, watch: Watch) -> None:
        self._connection = connection
        self._watch = watch
        self.states = self._numbered(states, 0.1)
        self.moves = self._numbered(moves, 0.2)
        self.steps = {number: row for number in self.states if (row := self.row(steps, state=number)) is not None}
        self.shared = Shared()
        self.shared.fetch = self.blob
        self._known = Known()
        self._held: OrderedDict[int, Study] = OrderedDict()
        self._broken: set[int] = set()

    def row(self, table: sa.Table, **key: Any) -> Any:
        """A row by its key, as it was written; None where it cannot be had."""
        with suppress(sqlite3.Error, RowTagError):
            found = self._connection.execute(selecting(table, *key), [*key.values()]).fetchone()
            if found is not None and fits(table, found):
                row = _Row(dict(zip(table.columns.keys(), found, strict=True)))
                return row if table is blobs else sound(table, row, "")
        return None

    def blob(self, key: str) -> bytes:
        """A blob. Raises Damaged."""
        row = self.row(blobs, key=key)
        return sound_blob(key, None if row is None else row.data, "")

    def said(self) -> dict[str, str]:
        """What the file says of itself, as far as it can be read."""
        keys, out = list[str](), {}
        for order in ("", " DESC"):
            with suppress(sqlite3.Error):
                for (key,) in self._connection.execute(f'SELECT "key" FROM about ORDER BY rowid{order}'):
                    keys.append(key)
        for key in dict.fromkeys(keys):
            if (row := self.row(about, key=key)) is not None:
                out[row.key] = row.value
        return out

    def pieces(self, source: str) -> list[tuple[Any, bytes]] | None:
        """The pieces of a source with their blobs; None where one of them is gone."""
        out = list[Any]()
        while (row := self.row(pieces, source=source, number=len(out))) is not None:
            out.append(row)
        with suppress(Damaged):
            return [(row, self.blob(row.blob)) for row in out] or None
        return None

    def state(self, number: int) -> Study | None:
        """A state with all that it holds; None where it cannot be read."""
        chain, at = list[int](), number
        while at not in self._held:
            chain.append(at)
            row = None if at in self._broken else self.states.get(at)
            if row is None or not (row.whole or (isinstance(row.parent, int) and row.parent < at)):
                self._broken.update(chain)
                return None
            if row.whole:
                break
            at = row.parent
        while chain:
            row = self.states[chain[-1]]
            try:
                before = Study() if row.whole else self._held[row.parent]
                found = patched(before, decode(row.parts), self.shared.fetched, self.shared)
                refuse_impossible(found, self._known)
            except Exception:  # whatever is wrong with it, neither it nor what was made of it can be read
                self._broken.update(chain)
                return None
            self._held[chain.pop()] = found
            if len(self._held) > KEPT_STATES:
                self._held.popitem(last=False)
        return self._held[number]

    def head(self) -> int | None:
        """The state where the head was last, of those that can be read."""
        heads = [row.head for _, row in sorted(self.moves.items(), reverse=True)]
        tried = dict.fromkeys([*heads, *sorted(self.states, reverse=True)])
        for done, number in enumerate(tried):
            self._watch(0.3 + 0.3 * done / len(tried), "states")
            if self.state(number) is not None and not self._begin(number):
                return int(number)
        return None

    def way(self, head: int) -> tuple[list[int], bool]:
        """The states that led to one, oldest first, as far back as each can be read with the step that made the next;
        and whether that is as far as there ever were any."""
        above, at = [head], head
        while at in self.steps and not self._begin(self.states[at].parent):
            at = self.states[at].parent
            if at not in self.states:
                break
            above.append(at)
        out = list[int]()
        for done, number in enumerate(reversed(above)):  # each is made of the one before, which is in memory
            if self.state(number) is None:
                out.clear()
            else:
                out.append(number)
            self._watch(0.6 + 0.4 * done / len(above), "steps")
        return out, self._begin(self.states[out[0]].parent) and out[0] in self.steps

    def _begin(self, number: int | None) -> bool:
        """Whether this is the empty state that every study grows from."""
        row = self.states.get(number) if number is not None else None
        return row is not None and row.parent is None

    def _numbered(self, table: sa.Table, share: float) -> dict[int, Any]:
        """The rows of a table that are numbered on from 1."""
        key = table.primary_key.columns[0].name
        out: dict[int, Any] = {}
        number = gone = 0
        while gone < MOST_GONE:
            number += 1
            row = self.row(table, **{key: number})
            gone = 0 if row is not None else gone + 1
            if row is not None:
                out[number] = row
            if not number % 1_000:
                self._watch(share, table.name)
        return out


class _Row:
    """A row, whose values are had by name in either way."""

    def __init__(self, values: dict[str, Any]) -> None:
        self._mapping = values
        self.__dict__.update(values)


def _written(kept: _Kept, head: int, target: Path) -> Rescued:
    """The states on the way to one as a study of their own."""
    way, complete = kept.way(head)
    at, told, study = now(), kept.said(), kept.state(head)
    assert study is not None
    engine = open_database(target, "study")
    try:
        with engine.connect().execution_options(writing=True) as connection, connection.begin():
            begin_tree(connection, at)
            made: dict[int, int] = {}
            for revision, number in enumerate(way, 2):
                step = kept.steps.get(number) if made or complete else None
                made[number] = _put_state(kept, connection, number, made.get(kept.states[number].parent), complete)
                if step is not None:
                    values = {name: value for name, value in step._mapping.items() if name != "sum"}
                    added(connection, steps, **{**values, "state": made[number], "revision": revision})
                    _keep_named(kept, connection, decode(step.body))
                kind, moment, by = ("rescued", at, "") if step is None else ("step", step.at, step.by)
                added(connection, moves, revision=revision, head=made[number], kind=kind, at=moment, by=by)
            said(connection, **{key: told[key] for key in _SAID if key in told}, moved=str(len(way) + 1))
            said(connection, **dict(_editions(told, made)))
            for source in {each.sha256 for each in study.shelves["source"].values()}:
                for row, data in kept.pieces(source) or []:
                    keep_blobs(connection, {row.blob: data})
                    added(connection, pieces, source=source, number=row.number, blob=row.blob)
    finally:
        engine.dispose()
    kept_steps = len(way) - (not complete)
    return Rescued(told.get("title", ""), kept_steps, len(kept.steps), study.records.count, len(study.order))


def _put_state(kept: _Kept, connection: sa.Connection, number: int, before: int | None, complete: bool) -> int:
    """Keeps a state as it was kept, or whole where what it differs from is not there; gives its number."""
    row = kept.states[number]
    parts, whole, weight, fresh = row.parts, row.whole, row.weight, Blobs()
    if before is None and not complete:
        study = kept.state(number)
        assert study is not None
        parts, whole, weight = encode(difference(Study(), study, fresh)), True, 0
        keep_blobs(connection, fresh.data)
    _keep_named(kept, connection, decode(parts), fresh.data)
    return int(added(connection, states, parent=before or 1, whole=bool(whole), weight=weight, parts=parts))


def _keep_named(kept: _Kept, connection: sa.Connection, parts: Any, there: Container[str] = ()) -> None:
    """Keeps the blobs that some parts name, but for those that are there."""
    keys = {key.decode() for key in _KEY.findall(orjson.dumps(parts))}
    keep_blobs(connection, {key: kept.blob(key) for key in keys if key not in there})


def _editions(about_it: dict[str, str], made: dict[int, int]) -> Iterator[tuple[str, str]]:
    """The editions of states that are kept, under the numbers that these have now."""
    for key, value in about_it.items():
        if key.startswith(PREFIX):
            with suppress(Damaged):
                found = edition_from(value)
                if found.state in made:
                    yield key, kept_as(replace(found, state=made[found.state]))
