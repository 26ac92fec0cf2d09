"""What differs between two states of a study, told from the states themselves."""

from collections.abc import Hashable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cache, cached_property
from typing import Any

import numpy as np
import numpy.typing as npt

from rowtag.core.chunk import CHUNK, Positions
from rowtag.core.column import Column
from rowtag.core.derive.sources import derived_from
from rowtag.core.study import SHELVES, Study, Variable
from rowtag.core.tag import Tag

TITLED = {
    "list": "the code list",
    "battery": "the battery",
    "section": "the section",
    "sheet": "the document",
    "source": "the source",
    "view": "the view",
    "comment": "the comment",
    "rule": "the rule",
    "check": "how this is checked:",
    "habit": "whether this is so:",
}
"""Shelves whose things have a title, and what these are called."""


def title_of(value: Any) -> str:
    """What a thing on a shelf is called."""
    if isinstance(value, Variable):
        return value.tag.name
    return next((str(title) for part in _titled_by(value.__class__) if (title := getattr(value, part))), "")


@cache
def _titled_by(kind: Hashable) -> tuple[str, ...]:
    """The parts of a kind of thing that say what it is called. A thing that lacks one is slow to say so."""
    parts = getattr(kind, "model_fields", None) or getattr(kind, "__dataclass_fields__", {})
    return tuple(part for part in ("name", "title") if part in parts or hasattr(kind, part))


# Places ----------------------------------------------------------------------------------------


@dataclass(frozen=True)
class TagPart:
    """A part of a variable's tag."""

    variable: str
    part: str

    def value(self, study: Study) -> Any:
        """What stands there; None where the variable is gone."""
        return getattr(study.tag(self.variable), self.part) if self.variable in study.variables else None

    def said(self, study: Study) -> str:
        """The place in words."""
        return f"{_PART_WORDS.get(self.part, self.part)} of {_name(study, self.variable)}"


_PART_WORDS = {
    "codes": "code list",
    "code_list": "shared code list",
    "missing": "missing codes",
    "question": "question wording",
    "complete": "completeness of the list",
    "marks": "way of writing",
}


@dataclass(frozen=True)
class Presence:
    """A variable as a whole: that it is there, and what it is."""

    variable: str

    def value(self, study: Study) -> Any:
        """The variable; None where it is not there."""
        return study.variables.get(self.variable)

    def said(self, study: Study) -> str:
        """The place in words."""
        return f"variable {_name(study, self.variable)}"


@dataclass(frozen=True)
class OneEntry:
    """The entry of a variable in one record."""

    variable: str
    record: int

    def value(self, study: Study) -> Any:
        """The entry as recorded."""
        column = study.column(self.variable)
        return column.texts_at(column.tokens_at(np.array([self.record - 1])))[0]

    def said(self, study: Study) -> str:
        """The place in words."""
        return f"entry of {_name(study, self.variable)} in record {self.record:,}"


@dataclass(frozen=True)
class AllEntries:
    """The entries of a variable."""

    variable: str

    def value(self, study: Study) -> Any:
        """The column, which is the same only where nothing was recorded otherwise."""
        return study.columns.get(self.variable)

    def said(self, study: Study) -> str:
        """The place in words."""
        return f"entries of {_name(study, self.variable)}"


@dataclass(frozen=True)
class Item:
    """Something on a shelf other than that of the variables."""

    shelf: str
    id: str

    def value(self, study: Study) -> Any:
        """What stands there, if anything."""
        return study.shelves[self.shelf].get(self.id)

    def said(self, study: Study) -> str:
        """The place in words."""
        found = self.value(study)
        if self.shelf not in TITLED:
            variable = getattr(found, "variable", "") or self.id.split("/")[1]
            what = "decided" if self.shelf == "decision" else "kept as is"
            return f"what was {what} in {_name(study, variable)}"
        return f"{TITLED[self.shelf]} “{title_of(found)}”" if found is not None else TITLED[self.shelf]


@dataclass(frozen=True)
class Order:
    """The order of the variables that two states share."""

    def said(self, _study: Study) -> str:
        """The place in words."""
        return "the order of the variables"


@dataclass(frozen=True)
class WhichRecords:
    """Which records there are."""

    def said(self, _study: Study) -> str:
        """The place in words."""
        return "which records there are"


Place = TagPart | Presence | OneEntry | AllEntries | Item | Order | WhichRecords


def _name(study: Study, id: str) -> str:
    return study.tag(id).name if id in study.variables else "a variable that is gone"


# What was touched ------------------------------------------------------------------------------


@dataclass(frozen=True)
class Touched:
    """What is otherwise in a later state.

    `tags`: variables whose tag differs, with the parts that do (none where only its being proposed does). `came` and
    `gone`: variables. `entries`: variables with other entries. `items`: things on other shelves, by shelf.
    """

    tags: Mapping[str, frozenset[str]] = field(default_factory=dict)
    came: frozenset[str] = frozenset()
    gone: frozenset[str] = frozenset()
    entries: frozenset[str] = frozenset()
    items: Mapping[str, frozenset[str]] = field(default_factory=dict)
    order: bool = False
    records: bool = False
    readers: frozenset[str] = frozenset()
    """Variables that read by a shared list that differs, on which something else was accepted, that are checked
    otherwise, or that were derived from one that differs."""

    @cached_property
    def variables(self) -> frozenset[str]:
        """All variables that are otherwise, or read otherwise."""
        return frozenset(self.tags) | self.came | self.gone | self.entries | self.readers

    def places(self) -> Iterator[Place]:
        """Every place that differs, entries by variable."""
        for id, parts in self.tags.items():
            yield from (TagPart(id, part) for part in sorted(parts))
        yield from (Presence(id) for id in sorted(self.came | self.gone))
        yield from (AllEntries(id) for id in sorted(self.entries))
        for shelf, ids in self.items.items():
            yield from (Item(shelf, id) for id in sorted(ids))
        if self.order:
            yield Order()
        if self.records:
            yield WhichRecords()

    def as_dict(self) -> dict[str, Any]:
        """What windows need for asking anew only what depends on it."""
        return {
            "tags": sorted(self.tags.keys() | self.readers | self.came | self.gone),
            "entries": sorted(self.entries),
            "shelves": sorted(shelf for shelf, ids in self.items.items() if ids),
            "order": self.order or bool(self.came or self.gone),
            "records": self.records,
        }


def touched(before: Study, after: Study) -> Touched:
    """What is otherwise in `after`. Costs a look at each variable, however many records there are."""
    tags: dict[str, frozenset[str]] = {}
    was, now = before.variables, after.variables
    for id in _differing(was, now):
        if id in was and id in now:
            tags[id] = frozenset(parts_between(was[id].tag, now[id].tag))
    items = {
        shelf: frozenset(_differing(before.shelves[shelf], after.shelves[shelf]))
        for shelf in SHELVES
        if shelf != "variable"
    }
    lists = items["list"]
    readers = {id for id, each in now.items() if each.tag.code_list in lists} if lists else set()
    for id in items["accepted"]:
        each = after.shelves["accepted"].get(id) or before.shelves["accepted"][id]
        readers |= {each.variable} & now.keys()
    if items["check"]:
        readers |= now.keys()
    entries = frozenset(_differing(before.columns, after.columns))
    came, gone = frozenset(now.keys() - was.keys()), frozenset(was.keys() - now.keys())
    readers |= set(derived_from(after, {*entries, *tags, *readers}))
    readers |= set(derived_from(before, gone)) & now.keys() if gone else set()
    return Touched(
        tags=tags,
        came=came,
        gone=gone,
        entries=entries,
        items={shelf: ids for shelf, ids in items.items() if ids},
        order=before.order != after.order and not same_order(before, after),
        records=(before.records.arrived, before.records.removed) != (after.records.arrived, after.records.removed),
        readers=frozenset(readers),
    )


def parts_between(was: Tag, now: Tag) -> Iterable[str]:
    """The parts in which two tags differ."""
    return (name for name in Tag.model_fields if getattr(was, name) != getattr(now, name))


def same_order(one: Study, other: Study) -> bool:
    """Whether the variables that both states have stand in the same order."""
    return [id for id in one.order if id in other.variables] == [id for id in other.order if id in one.variables]


def _differing(was: Mapping[str, Any], now: Mapping[str, Any]) -> list[str]:
    """Keys under which not the very same stands."""
    if was is now:
        return []
    return [id for id, value in now.items() if was.get(id) is not value] + [id for id in was if id not in now]


def edited_positions(before: Column, after: Column, records: int) -> npt.NDArray[np.int64]:
    """Positions (0-based, ascending) among `records` at which two columns hold other texts."""
    edits = after.since(before)
    if edits is not None:
        positions = edits.positions
        return positions[~same_texts(before, after, positions)]
    return np.flatnonzero(~same_texts(before, after, np.arange(records)))


def same_texts(one: Column, other: Column, positions: npt.NDArray[np.int64]) -> npt.NDArray[np.bool_]:
    """Whether two columns hold the same text, at each of some positions (ascending): bool."""
    tokens, theirs = one.tokens_at(positions), other.tokens_at(positions)
    used, where = np.unique(theirs, return_inverse=True)
    same: npt.NDArray[np.bool_] = one.find(other.arrow_at(used))[where] == tokens
    return same


@dataclass(frozen=True)
class Became:
    """An entry that became another one, and in how many records."""

    old: str
    new: str
    count: int


@dataclass(frozen=True)
class OldByNew:
    """What became of the entries of a variable: the commonest pairs first; `different` says how many there are."""

    variable: str
    pairs: tuple[Became, ...]
    different: int


MOST_PAIRS = 100
"""Pairs of old and new entries that evidence holds."""


def became(variable: str, old: Sequence[str], new: Sequence[str], counts: npt.NDArray[np.int64]) -> OldByNew:
    """What became of the entries of a variable, where it is known per entry, and how often each occurs."""
    first = np.argsort(-counts, kind="stable")[:MOST_PAIRS].tolist()
    pairs = tuple(Became(old[at], new[at], int(counts[at])) for at in first if counts[at])
    return OldByNew(variable, pairs, int(np.count_nonzero(counts)))


def moved(variable: str, before: Column, after: Column, records: int) -> OldByNew:
    """What became of the entries of a variable where they are others than before."""
    at = edited_positions(before, after, records)
    return old_by_new(variable, before, after, [at], at.size)


def old_by_new(variable: str, before: Column, after: Column, blocks: Iterable[Positions], most: int) -> OldByNew:
    """What became of the entries of a variable at `most` positions at most, which are given in blocks."""
    width = max(after.token_count, 1)
    both = (before.tokens_at(at) * width + after.tokens_at(at) for at in blocks)
    pairs, counts = _tallied(both, before.token_count * width, most)
    first = np.argsort(-counts, kind="stable")[:MOST_PAIRS]
    old, new = before.texts_at(pairs[first] // width), after.texts_at(pairs[first] % width)
    return OldByNew(variable, tuple(map(Became, old, new, counts[first].tolist())), len(pairs))


def _tallied(
    blocks: Iterable[npt.NDArray[np.int64]], below: int, most: int
) -> tuple[npt.NDArray[np.int64], npt.NDArray[np.int64]]:
    """The different ones of `most` numbers at most (0 and more), ascending, and how often each occurs: in a table of
    all that are below a limit, where it takes no more room than they do, else by putting them in order."""
    if below <= max(most, CHUNK):
        table = np.zeros(below, np.int64)
        for each in blocks:
            np.add.at(table, each, 1)
        met = np.flatnonzero(table)
        return met, table[met]
    numbers, size = np.empty(most, np.int64), 0
    for each in blocks:
        numbers[size : size + each.size] = each
        size += each.size
    numbers = numbers[:size]
    numbers.sort()
    begins = np.flatnonzero(np.append(True, numbers[1:] != numbers[:-1])[:size])
    return numbers[begins], np.diff(np.append(begins, size))
