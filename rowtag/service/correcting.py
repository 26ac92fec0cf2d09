"""A corrected version of a file that was brought in: all that was done since is done again upon it.

Its records are met with those of the old version by an identifier, or by their order. Record numbers follow; an entry
that somebody typed over one that the new version has changed is asked about.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import partial

import numpy as np
from pydantic import Field

from rowtag.core.column import EMPTY_COLUMN, Column
from rowtag.core.comparing import Compared, compared
from rowtag.core.errors import BadInput, NotThere
from rowtag.core.meeting import Rows, identifiers, same_rows
from rowtag.core.renumbering import Renumbering
from rowtag.core.replaying import Again, Replay
from rowtag.core.steps import Step, Supplies
from rowtag.core.steps.beside import PutBeside
from rowtag.core.steps.entries import SetBlock, SetEntries
from rowtag.core.study import Source, Study
from rowtag.core.tag import Frozen
from rowtag.core.touched import edited_positions
from rowtag.formats.intake import Holding
from rowtag.service.amending import Line, redone_of, supplies_with
from rowtag.service.coming import Came, CameIn, come, coming_of
from rowtag.store.diary import Passed
from rowtag.store.studyfile import Source as Bytes
from rowtag.store.studyfile import StudyFile

MOST_TOLD = 200
"""Changed entries and typed ones that are told one by one."""


class Correction(Frozen):
    """How a file corrects a source: by which variable its records are told (None: by their order), under which head a
    column goes now (per head in the old version), and whether entries that somebody typed over changed ones stay, with
    those for which it is otherwise (variable id, "/", record number)."""

    source: str
    identifier: str | None = None
    renamed: dict[str, str] = Field(default_factory=dict)
    typed_stay: bool = True
    otherwise: tuple[str, ...] = ()

    def stays(self, variable: str, record: int) -> bool:
        """Whether a typed entry stays."""
        return self.typed_stay != (f"{variable}/{record}" in self.otherwise)


@dataclass(frozen=True)
class Changed:
    """An entry that the new version has otherwise: its variable, the record's number then and now, both entries."""

    variable: str
    record: int
    now: int
    was: str
    entry: str


@dataclass(frozen=True)
class Typed(Changed):
    """One over which somebody typed another, which stays or gives way."""

    typed: str
    stays: bool


@dataclass(frozen=True)
class Corrected:
    """What a corrected version would make: what it holds, which records are the same, new (by their numbers now) and
    gone (by theirs then), how many entries changed per variable, the first of these, those that were typed over; and
    what becomes of each step since."""

    base: int
    came: Came
    lines: tuple[Line, ...]
    before: Study
    after: Study
    compared: Compared
    same: int
    new: Rows
    gone: Rows
    changed: dict[str, int]
    first: tuple[Changed, ...]
    typed: tuple[Typed, ...]


def corrected(file: StudyFile, holding: Holding, source: Source, how: Correction) -> Corrected:
    """What becomes of a study with a corrected version of one of its files; nothing is kept. Raises BadInput,
    NotThere."""
    way = file.way()
    place = _place_of(way, how.source)
    passed, later = way[place], way[place + 1 :]
    assert isinstance(passed.step, CameIn)
    base = file.state(passed.parent)
    came = come(base, coming_of(passed.step, base), holding, source, how.renamed, passed.step)
    old = _Version(passed.step, supplies_with(file, passed), base)
    new = _Version(came.step, came.supplies, base)
    replay = Replay(base)
    again = replay.do(came.step, came.supplies)
    if again.applied is None:
        raise BadInput(f"{source.name} cannot take its place: {'; '.join(again.why)}.")
    if came.gone:
        again = replace(again, came="in part", why=tuple(f"no column is called “{head}”" for head in came.gone))

    same = _same(file, passed, old, new, how)
    numbers = Renumbering(np.arange(base.records.arrived))
    numbers.join(old.rows, new.rows, same)
    arrived = numbers.at.size
    changed = _changes(old, new, numbers)
    typed = _typed(later, changed, old, new, numbers, how)

    replay.number_of = numbers.number_of
    giving_way = {(each.variable, each.record): each.entry for each in typed if not each.stays}
    lines, there = [Line(passed, True, again)], arrived
    for each in later:
        step = _without(each.step, giving_way)
        before = replay.study
        supplies = supplies_with(file, each)
        if step is None:
            lines.append(Line(each, False, Again(each.step, "nothing to do", why=("the file's entry counts",))))
        else:
            lines.append(Line(each, False, replay.do(step, supplies, made_for=partial(file.state, each.parent))))
        if each.arrived > there:
            _renumber(numbers, file, each, before, replay.study, lines[-1].again)
            there = each.arrived
    aligned = file.study if numbers.unchanged else numbers.realigned(file.study, replay.study.records.arrived)
    taken = np.flatnonzero(np.isin(same, np.arange(old.records)))
    present = np.flatnonzero(new.rows >= 0)
    fresh = present[~np.isin(present, numbers.at[:arrived])]
    return Corrected(
        base=passed.parent,
        came=came,
        lines=tuple(lines),
        before=file.study,
        after=replay.study,
        compared=compared(aligned, replay.study),
        same=int(taken.size),
        new=fresh + 1,
        gone=np.flatnonzero(numbers.at[:arrived] < 0) + 1,
        changed={id: int(at.size) for id, at in changed.items()},
        first=tuple(_told(changed, old, new, numbers, MOST_TOLD)),
        typed=typed,
    )


def correct(
    file: StudyFile, holding: Holding, source: Source, how: Correction, *, pieces: Bytes, expected: int, by: str = ""
) -> int:
    """Leads the study along the way upon the corrected version; gives the new revision. What cannot be done any more is
    left out, which the preview says; the way it was stays in the diary. Raises BadInput, NotThere, Changed."""
    found = corrected(file, holding, source, how)
    first, *rest = redone_of(file, found.lines, by)
    redone = [replace(first, supplies=found.came.supplies), *rest]
    return file.amend(found.base, redone, expected=expected, by=by, sources=(pieces,))


# The two versions -------------------------------------------------------------------------------


@dataclass(frozen=True)
class _Version:
    """A version of a file, as it comes in upon a state: the step, what comes with it, and per record its row."""

    step: CameIn
    supplies: Supplies
    base: Study

    @property
    def records(self) -> int:
        """How many rows it has."""
        return self.step.source.records

    @property
    def rows(self) -> Rows:
        """Per record that there is then its row, -1 where it has none."""
        return self.step.rows(self.base, self.supplies)

    @property
    def brings(self) -> list[str]:
        """The variables of which it brings entries."""
        beside = self.step.identifier if isinstance(self.step, PutBeside) else None
        return [id for id in self.supplies if id != beside]

    def column(self, id: str) -> Column:
        """Its entries of a variable, by row."""
        return self.supplies.get(id, EMPTY_COLUMN)


def _place_of(way: Sequence[Passed], source: str) -> int:
    for place, passed in enumerate(way):
        if isinstance(passed.step, CameIn) and passed.step.source_id == source:
            return place
    raise NotThere("This source is not in the study as it is now.", remedy="Go to where it is first.")


def _same(file: StudyFile, passed: Passed, old: _Version, new: _Version, how: Correction) -> Rows:
    """Per row of the new version the row of the old one that is the same record, -1 where there is none."""
    if how.identifier is None:
        both = np.full(new.records, -1, np.int64)
        common = min(old.records, new.records)
        both[:common] = np.arange(common)
        return both
    study = file.study if how.identifier in file.study.variables else file.state(passed.state)
    name = study.tag(how.identifier).name
    if how.identifier not in old.supplies or how.identifier not in new.supplies:
        which = "the file that was brought in" if how.identifier not in old.supplies else new.step.source.name
        raise BadInput(
            f"{name} has no column in {which}.",
            remedy="Choose another identifier, or match the records by their order.",
        )
    lens = study.lens(how.identifier)
    here, there = (identifiers(each.column(how.identifier), lens, each.records) for each in (old, new))
    found = same_rows(here, there)
    if old.records and not (found >= 0).any():
        raise BadInput(
            f"No record of {new.step.source.name} has the {name} of one that was brought in.",
            remedy="Choose another identifier, or match the records by their order.",
        )
    return found


def _changes(old: _Version, new: _Version, numbers: Renumbering) -> dict[str, Rows]:
    """Per variable of the file the positions (then) of records that are in both versions with another entry."""
    both = np.flatnonzero(numbers.at >= 0)
    was, now = old.rows[both], new.rows[numbers.at[both]]
    both, was, now = (each[(was >= 0) | (now >= 0)] for each in (both, was, now))
    out = {}
    for id in old.brings:
        if id in new.brings:
            at = edited_positions(old.column(id).taken(was), new.column(id).taken(now), both.size)
            if at.size:
                out[id] = both[at]
    return out


def _entries(version: _Version, id: str, positions: Rows) -> list[str]:
    taken = version.column(id).taken(version.rows[positions])
    return taken.texts_at(taken.indexes(0, positions.size))


def _told(changed: Mapping[str, Rows], old: _Version, new: _Version, numbers: Renumbering, most: int) -> list[Changed]:
    """The first changed entries, one by one."""
    out: list[Changed] = []
    for id, positions in changed.items():
        at = positions[: most - len(out)]
        now = numbers.at[at]
        texts = zip(_entries(old, id, at), _entries(new, id, now), strict=True)
        out += [
            Changed(id, record + 1, here + 1, was, entry)
            for record, here, (was, entry) in zip(at.tolist(), now.tolist(), texts, strict=True)
        ]
    return out


# What was typed over it -------------------------------------------------------------------------


def _typed(
    later: Sequence[Passed],
    changed: Mapping[str, Rows],
    old: _Version,
    new: _Version,
    numbers: Renumbering,
    how: Correction,
) -> tuple[Typed, ...]:
    """The changed entries over which somebody typed another than the new version has, with what was typed last."""
    last: dict[tuple[str, int], str] = {}
    wanted = {id: set((positions + 1).tolist()) for id, positions in changed.items()}
    for passed in later:
        for variable, record, text in _texts_of(passed.step):
            if record in wanted.get(variable, ()):
                last[variable, record] = text
    out = []
    for id in changed:
        at = np.array(sorted(record for variable, record in last if variable == id), np.int64) - 1
        now = numbers.at[at]
        texts = zip(_entries(old, id, at), _entries(new, id, now), strict=True)
        for record, here, (was, entry) in zip((at + 1).tolist(), (now + 1).tolist(), texts, strict=True):
            typed = last[id, record]
            if typed.strip() != entry.strip():
                out.append(Typed(id, record, here, was, entry, typed, how.stays(id, here)))
    return tuple(out)


def _texts_of(step: Step) -> list[tuple[str, int, str]]:
    """Variable, record number and text of each entry that a step types or pastes."""
    if isinstance(step, SetEntries):
        return [(step.variable, record, text) for record, text in step.entries.items()]
    if isinstance(step, SetBlock):
        return [
            (variable, record, text)
            for variable, texts in step.entries.items()
            for record, text in zip(step.records, texts, strict=False)
        ]
    return []


def _without(step: Step, giving_way: Mapping[tuple[str, int], str]) -> Step | None:
    """A step without the entries that give way to the file's; None where nothing of it is left. A pasted block stays
    a block, and has the file's entries there."""
    if not giving_way:
        return step
    if isinstance(step, SetEntries):
        left = {record: text for record, text in step.entries.items() if (step.variable, record) not in giving_way}
        if len(left) == len(step.entries):
            return step
        return step.model_copy(update={"entries": left}) if left else None
    if isinstance(step, SetBlock):
        entries = {
            variable: tuple(
                giving_way.get((variable, record), text)
                for record, text in zip((*step.records, *([0] * step.more)), texts, strict=True)
            )
            for variable, texts in step.entries.items()
        }
        return step if entries == step.entries else step.model_copy(update={"entries": entries})
    return step


def _renumber(
    numbers: Renumbering, file: StudyFile, passed: Passed, before: Study, after: Study, again: Again | None
) -> None:
    """Takes the records that a later step brought: of a file by their rows, else in their order."""
    step = again.step if again is not None and again.applied is not None else None
    if not isinstance(passed.step, CameIn) or not isinstance(step, CameIn):
        numbers.grow(passed.arrived, (before.records.arrived, after.records.arrived))
        return
    supplies = supplies_with(file, passed)
    there = passed.step.rows(file.state(passed.parent), supplies)
    numbers.join(there, step.rows(before, supplies), np.arange(passed.step.source.records))
