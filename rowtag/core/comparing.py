"""Two states of a study compared: tags part by part, records, entries, each told from the states themselves.

Both are states of one tree: the same id is the same variable, the same number the same record.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from rowtag.core.chunk import CHUNK
from rowtag.core.reading import State
from rowtag.core.refs import mapped
from rowtag.core.study import Study
from rowtag.core.touched import TITLED, OldByNew, edited_positions, old_by_new, parts_between, same_order, title_of


@dataclass(frozen=True)
class PartChanged:
    """A part of a tag (or what counts for it in its shared list): what it was and what it is."""

    part: str
    was: Any
    now: Any


@dataclass(frozen=True)
class VariableCompared:
    """A variable that is in both states and is not the same: other parts of its tag, other entries in records that both
    have, and how many entries read otherwise than before (valid, missing, blank, stray), whatever the reason."""

    id: str
    parts: tuple[PartChanged, ...]
    entries: int
    old_by_new: OldByNew | None
    read_otherwise: int


@dataclass(frozen=True)
class Compared:
    """What differs between two states: variables that came, went, or are not the same (in the order of the later
    codebook), records that came and went (numbers, ascending), things on other shelves by what they are called, and
    whether the order of the variables is another."""

    came: tuple[str, ...]
    gone: tuple[str, ...]
    variables: tuple[VariableCompared, ...]
    records_came: npt.NDArray[np.int64]
    records_gone: npt.NDArray[np.int64]
    items: Mapping[str, tuple[int, int, int]]
    """Per shelf (`TITLED`) how many things came, went, and are not the same."""
    order: bool

    @property
    def same(self) -> bool:
        """Whether nothing differs."""
        return not (
            self.came or self.gone or self.variables or self.records_came.size or self.records_gone.size or self.order
        ) and not any(map(any, self.items.values()))

    @property
    def entries(self) -> int:
        """How many entries differ, in variables and records that both have."""
        return sum(each.entries for each in self.variables)


def compared(before: Study, after: Study) -> Compared:
    """What differs between two states of one study. Costs a look at each column that is not the very same."""
    common = [id for id in after.order if id in before.variables]
    variables = tuple(found for id in common if (found := _variable(before, after, id)) is not None)
    was, now = _there(before), _there(after)
    size = max(was.size, now.size)
    was, now = np.pad(was, (0, size - was.size)), np.pad(now, (0, size - now.size))
    items = {}
    for shelf in TITLED:
        old, new = before.shelves[shelf], after.shelves[shelf]
        both = old.keys() & new.keys()
        differ = sum(old[id] is not new[id] and old[id] != new[id] for id in both)
        if old.keys() != new.keys() or differ:
            items[shelf] = (len(new.keys() - old.keys()), len(old.keys() - new.keys()), differ)
    return Compared(
        came=tuple(id for id in after.order if id not in before.variables),
        gone=tuple(id for id in before.order if id not in after.variables),
        variables=variables,
        records_came=np.flatnonzero(now & ~was) + 1,
        records_gone=np.flatnonzero(was & ~now) + 1,
        items=items,
        order=not same_order(before, after),
    )


@dataclass(frozen=True)
class CodebooksCompared:
    """What differs between the codebooks of two studies, whose variables meet by name: names that came and went, and
    per name (in the order of the later codebook) the parts of its tag that are not the same."""

    came: tuple[str, ...]
    gone: tuple[str, ...]
    parts: Mapping[str, tuple[PartChanged, ...]]


def codebooks_compared(before: Study, after: Study) -> CodebooksCompared:
    """What differs between two codebooks."""
    own, others = after.name_keys, before.name_keys
    parts = {
        after.tag(id).name: found
        for key, id in own.items()
        if key in others
        and (found := tuple(each for each in _parts(before, others[key], after, id) if each.was != each.now))
    }
    return CodebooksCompared(
        came=tuple(after.tag(id).name for key, id in own.items() if key not in others),
        gone=tuple(before.tag(id).name for key, id in others.items() if key not in own),
        parts=parts,
    )


def _there(study: Study) -> npt.NDArray[np.bool_]:
    present = study.records.present
    return np.ones(study.records.arrived, bool) if present is None else present


def _variable(before: Study, after: Study, id: str) -> VariableCompared | None:
    """What differs in a variable; None where nothing does."""
    old, new = before.column(id), after.column(id)
    parts = _parts(before, id, after, id)
    changed, told, otherwise = 0, None, 0
    shared = min(before.records.arrived, after.records.arrived)
    there = _there(before)[:shared] & _there(after)[:shared]
    if old is not new:
        at = edited_positions(old, new, shared)
        at = at[at < shared]
        at = at[there[at]]
        changed = int(at.size)
        if changed:
            told = old_by_new(id, old, new, [at], at.size)
    if changed or before.lens(id) != after.lens(id):
        otherwise = _read_otherwise(before, after, id, there)
    if not parts and not changed and not otherwise:
        return None
    return VariableCompared(id, parts, changed, told, otherwise)


def _parts(before: Study, old: str, after: Study, new: str) -> tuple[PartChanged, ...]:
    """The parts of two tags that are not the same; what they name is the same where it is called the same."""
    was, now = before.tag(old), after.tag(new)
    if was is now and before.codes(old) is after.codes(new):
        return ()
    found = {
        part: PartChanged(part, _said(before, was, part), _said(after, now, part)) for part in parts_between(was, now)
    }
    if before.codes(old) != after.codes(new):
        found["codes"] = PartChanged("codes", before.codes(old), after.codes(new))
    return tuple(found.values())


def _said(study: Study, tag: Any, part: str) -> Any:
    """A part of a tag; the battery, section, list or variable that it names by what that is called."""
    value = getattr(mapped(tag, lambda ref, id: _name(study, id) if ref.kind == "variable" else id), part)
    shelf = {"battery": "battery", "section": "section", "code_list": "list"}.get(part)
    return value if shelf is None or value is None else title_of(study.shelves[shelf].get(value))


def _name(study: Study, id: str) -> str:
    return study.tag(id).name if id in study.variables else id


def _read_otherwise(before: Study, after: Study, id: str, there: npt.NDArray[np.bool_]) -> int:
    """In how many records that both have an entry reads otherwise than it did: in another of the four ways."""
    old, new = before.reading(id).states, after.reading(id).states
    was, now = np.minimum(old, State.UNREADABLE), np.minimum(new, State.UNREADABLE)
    total = 0
    for first in range(0, there.size, CHUNK):
        at = np.arange(first, min(first + CHUNK, there.size))
        at = at[there[at]]
        total += int((was[before.column(id).tokens_at(at)] != now[after.column(id).tokens_at(at)]).sum())
    return total
