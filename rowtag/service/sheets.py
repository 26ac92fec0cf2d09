"""Documents beside a study: what is understood of them, and how they and the study differ."""

from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass, replace
from functools import partial
from pathlib import Path
from types import MappingProxyType
from typing import Any
from uuid import uuid4

from rowtag.core.checks.codebook import Said, read_by
from rowtag.core.codebook import Described, Understood, write_notation
from rowtag.core.codebook.matching import Match, match, new_tag
from rowtag.core.codebook.reconcile import PLACES, differences, effects, other_name, taken
from rowtag.core.codebook.shelves import Shelves
from rowtag.core.codebook.telling import Difference
from rowtag.core.codebook.whole import described as whole
from rowtag.core.engine import Same, engine
from rowtag.core.errors import BadName, NotThere
from rowtag.core.names import check_name, key_of, suggest
from rowtag.core.reading import Fill
from rowtag.core.skips import between
from rowtag.core.steps.base import NO_FILL
from rowtag.core.steps.sheets import Describe
from rowtag.core.steps.start import NewVariable, Places
from rowtag.core.study import Sheet, Study
from rowtag.core.tag import Tag
from rowtag.core.worked_out import entries, kept_under, reading, sheets, words, worked_out
from rowtag.documents.otherwise import read_otherwise
from rowtag.documents.variable_table import describes, describing_sheets, variable_table
from rowtag.documents.weighing import weighed
from rowtag.formats.intake import opened
from rowtag.formats.table import Settings
from rowtag.service.apart import apart
from rowtag.service.at_hand import at_hand_of


@dataclass(frozen=True)
class Compared:
    """One difference, with how the variable reads now and how it would read if the document's side were taken
    (None where the difference does not concern how entries are read)."""

    difference: Difference
    before: Fill = NO_FILL
    after: Fill | None = None


@dataclass(frozen=True)
class Reconciled:
    """A document against a study: per matched variable what differs (nothing where they agree), and what has no
    counterpart on the other side."""

    matched: Match
    differing: Mapping[str, tuple[Difference, ...]]


def sheet_of(study: Study, sheet_id: str) -> Sheet:
    """A document beside the study."""
    found: Sheet | None = study.shelves["sheet"].get(sheet_id)
    if found is None:
        raise NotThere("This document is not beside the study any more.", remedy="The diary shows when it was let go.")
    return found


def understood(study: Study, sheet_id: str) -> Understood:
    """What is understood of a document, weighed by the names and the entries of the study."""
    found = _read(study, sheet_id)
    key = ("weighed", Same(found), kept_under((entries,), study, study.order))
    return engine.get(key, lambda: replace(found, variables=weighed(found.variables, at_hand_of(study))))


def _read(study: Study, sheet_id: str) -> Understood:
    """What is read from a document, given the names of the study; remembered while neither changes."""
    sheet = sheet_of(study, sheet_id)
    names = frozenset(study.tag(id).name for id in study.order)
    read = partial(apart.read, sheet.name, read_otherwise, sheet.text, names, sheet.otherwise)
    return engine.get(("understood", Same(sheet), names), read)


def reconciled(study: Study, sheet_id: str, confirmed: Mapping[str, str]) -> Reconciled:
    """A document against the study; `confirmed` says which of its names mean which variable (name → id)."""
    matched = _matched(study, sheet_id, confirmed)
    found = {id: differences(study, id, matched.found[id]) for id in study.order if id in matched.found}
    return Reconciled(matched, found)


@worked_out(reading, words, entries, sheets)
def _said(study: Study, _ids: tuple[str, ...], sheet_id: str) -> dict[str, Said]:
    """What a document says of the variables of a study that it describes, for the checks."""
    found = reconciled(study, sheet_id, {})
    return {id: Said(found.matched.found[id], differing) for id, differing in found.differing.items()}


read_by(lambda study, sheet_id: _said(study, study.order, sheet_id))


def with_effects(
    study: Study, sheet_id: str, confirmed: Mapping[str, str], ids: Iterable[str]
) -> dict[str, list[Compared]]:
    """What a document says otherwise of some variables, and what taking each would do; it takes longer than telling
    the differences alone."""
    found = _matched(study, sheet_id, confirmed).found
    return {id: compared_with(study, id, found[id]) for id in ids if id in found}


def compared_with(study: Study, id: str, described: Described) -> list[Compared]:
    """What a description says otherwise than a variable's tag, and what taking each would do."""
    found = differences(study, id, described)
    after = effects(study, id, described, found)
    return [Compared(each, study.fill(id), after.get(each.key)) for each in found]


def step_for(
    study: Study,
    sheet_id: str,
    confirmed: Mapping[str, str],
    chosen: Mapping[str, Collection[str] | None],
    added: Collection[str] = (),
    called: Mapping[str, str] = MappingProxyType({}),
) -> Describe:
    """The step that takes the document's side of some differences (per variable their keys, None for all), and adds
    variables that only the document has, by the names it gives them or what they are to be called instead. Raises
    BadName where that does not work."""
    matched = _matched(study, sheet_id, confirmed)
    only = [each for each in matched.only_described if each.name in added]
    fresh = {each.name: new_id() for each in only}
    shelves = _Places(study, {**{each.name: id for id, each in matched.found.items()}, **fresh}, fresh.values())
    tags, names, places = {}, {}, {}
    for id, keys in chosen.items():
        if id not in matched.found:
            raise NotThere("The document does not describe this variable.", remedy="Read it again.")
        parts = taken(study, id, matched.found[id], keys)
        if parts.given():
            tags[id] = parts
        if (keys is None or "name" in keys) and (name := other_name(study, id, matched.found[id])):
            names[id] = name
        if there := shelves.of(matched.found[id], id, study.tag(id), keys):
            places[id] = Places(**there)
    new = new_variables(study, only, shelves, fresh, called)
    if not tags and not names and not places and not new:
        raise NotThere("Nothing of the document is left to take.", remedy="It agrees with the study.")
    source = sheet_of(study, sheet_id).name
    return Describe(tags=tags, names=names, places=places, add=new, **shelves.added(), source=source)


def new_id() -> str:
    """An id that nothing in a study has."""
    return uuid4().hex[:12]


class _Places:
    """Batteries, sections and variables that a document names, by id: those of the study, and those that it brings
    (`called`: the names that it uses → id)."""

    def __init__(self, study: Study, called: Mapping[str, str] = MappingProxyType({}), new: Iterable[str] = ()) -> None:
        self._shelves = Shelves(study, {}, new_id, called)
        self._order = (*study.order, *new)

    def of(self, each: Described, id: str, tag: Tag, keys: Collection[str] | None = None) -> dict[str, Any]:
        """Where a description puts a tag, as far as that is elsewhere and among the keys of what is wanted."""
        battery, section = (getattr(each, place) if keys is None or place in keys else None for place in PLACES)
        placed = replace(each, code_list=None, battery=battery, section=section)
        found: dict[str, Any] = self._shelves.places(placed, tag, whole=False)
        wanted = [skip for skip in each.skips if keys is None or f"skip {', '.join(skip.codes)}" in keys]
        skips = self._shelves.skips(replace(each, skips=tuple(wanted)), whole=False)
        there = {(skip.codes, skip.to) for skip in tag.skips}
        fresh = [skip for skip in skips if (skip.codes, skip.to) not in there and between(self._order, id, skip.to)]
        if fresh:
            told = {skip.codes for skip in fresh}
            found["skips"] = (*(skip for skip in tag.skips if skip.codes not in told), *fresh)
        return found

    def added(self) -> dict[str, dict[str, Any]]:
        """What comes with the step."""
        return self._shelves.added()


def text_of_new(study: Study, sheet_id: str, confirmed: Mapping[str, str], called: Mapping[str, str]) -> str:
    """All variables that only the document has, as they would be added, as codebook text."""
    matched = _matched(study, sheet_id, confirmed)
    step = step_for(study, sheet_id, confirmed, {}, {each.name for each in matched.only_described}, called)
    after = step.change(study, {}).study
    return write_notation(*whole(after, [new.id for new in step.add]))


def new_variables(
    study: Study,
    described: Iterable[Described],
    places: _Places,
    ids: Mapping[str, str],
    called: Mapping[str, str] = MappingProxyType({}),
) -> tuple[NewVariable, ...]:
    """Variables that only a document has, with the `ids` of their names there: under names that work here, or as they
    are to be `called`, which is refused where that does not work."""
    keys, names = set(study.name_keys), {}
    described = list(described)
    for each in sorted(described, key=lambda one: one.name in called):  # nothing gives way to what somebody chose
        name = called.get(each.name, each.name)
        try:
            check_name(name, keys, study.naming)
        except BadName:
            if each.name in called:
                raise
            name = suggest(name, keys, study.naming)
        keys.add(key_of(name))
        names[each.name] = name
    new = []
    for each in described:
        tag = new_tag(each, names[each.name])
        new.append(NewVariable(id=ids[each.name], tag=tag.with_parts(**places.of(each, ids[each.name], tag))))
    return tuple(new)


@dataclass(frozen=True)
class Carried:
    """A codebook that a workbook carries on another sheet than its data, and how many of their columns it describes."""

    sheet: str
    text: str
    described: int
    columns: int


def carried_codebook(path: Path, name: str, data: Settings) -> Carried | None:
    """The sheet of a workbook that describes at least a third of the columns of the one with the data."""
    return apart.read(name, _carried, path, name, data)


def _carried(path: Path, name: str, data: Settings) -> Carried | None:
    with opened(path, name) as file:
        picture = file.picture(data)
        if len(picture.sheets) < 2 or data.names_row is None or data.names_row > len(picture.rows):
            return None
        heads = picture.rows[data.names_row - 1]
        for sheet in describing_sheets(file):
            if sheet is not None and sheet != data.sheet:
                table = variable_table(file, sheet)
                met = describes(table, heads)
                if 3 * met >= len(heads):
                    return Carried(sheet, write_notation(table.described()), met, len(heads))
    return None


def lines_for(
    study: Study, described: Described, ids: Iterable[str]
) -> tuple[dict[str, list[Compared]], Describe | None]:
    """What some lines would change on those of some variables that differ, and the step that takes it all, if any.

    What it does to the readings is told of the first.
    """
    shelves = _Places(study)
    differing = {id: found for id in ids if (found := differences(study, id, described))}
    compared = {
        id: [Compared(each) for each in found] if at else compared_with(study, id, described)
        for at, (id, found) in enumerate(differing.items())
    }
    tags = {id: parts for id in differing if (parts := taken(study, id, described)).given()}
    there = {id: at for id in differing if (at := shelves.of(described, id, study.tag(id)))}
    places = {id: Places(**at) for id, at in there.items()}
    return compared, Describe(tags=tags, places=places, **shelves.added()) if tags or places else None


def _matched(study: Study, sheet_id: str, confirmed: Mapping[str, str]) -> Match:
    described = understood(study, sheet_id).variables
    meant = {name: study.tag(id).name for name, id in confirmed.items() if id in study.variables}
    return match(study, [_renamed(each, meant) for each in described])


def _renamed(described: Described, meant: Mapping[str, str]) -> Described:
    return replace(described, name=meant[described.name], also="") if described.name in meant else described
