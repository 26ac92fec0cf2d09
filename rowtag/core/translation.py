"""Steps as people write and read them: names in place of ids, and back on whatever study they are done.

What of a step is an id stands in its types (`rowtag.core.refs`), so that every kind is spelled and understood alike.
Records are named by the identifier where one variable identifies them, else by number; formulas by their text.
"""

from collections.abc import Callable, Mapping, MutableMapping
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
from pydantic import BaseModel

from rowtag.core.derive import shown
from rowtag.core.engine import Same, engine
from rowtag.core.errors import BadInput
from rowtag.core.frame import Frame
from rowtag.core.names import key_of
from rowtag.core.reading import State
from rowtag.core.refs import Ref, mapped, references
from rowtag.core.replaying import WORDS, Meet, Unmet
from rowtag.core.rules import Formula
from rowtag.core.steps.base import Step, dump, load
from rowtag.core.study import Records, Study
from rowtag.core.touched import title_of
from rowtag.core.words import whole_number
from rowtag.core.worked_out import entries, reading, records, worked_out

Known = MutableMapping[tuple[str, str], str]
"""Ids by kind and by what they are called, or were called where they came from."""

BY = "records by"
"""The part of a step that says by which variable it names records."""
MOST_NAMED = 20_000
"""Variables that one written step names: as many as a file may have columns."""
HOLDING = "holding"
"""The part of a step that names records by number which says what is expected there: variable, record number, entry."""


# Spelled ----------------------------------------------------------------------------------------


def spelled(step: Step, before: Study, after: Study, *, elsewhere: bool = False) -> dict[str, Any]:
    """A step as JSON data with names in place of ids: as they are in the state `before` it, or, of what it brings, in
    the one `after`. What bears no name of its own keeps its id. Where it is to be done `elsewhere`, records that are
    named by number are told by what they hold, too."""
    identifier = None if _names_none(step) else identifier_of(before)

    def change(ref: Ref, id: Any) -> Any:
        if ref.kind == "record":
            return id if identifier is None else _entry(before, identifier, id)
        return _name(ref.kind, id, before) or _name(ref.kind, id, after, before) or id

    named = mapped(_with_text_of_now(step, before), change)
    data = _text_alone(dump(named, names=True), named)
    if data["do"] == "accept" and data.get("which"):
        titles = [name for kind in ("rule", "sheet") if (name := _name(kind, data["which"], before))]
        data["which"] = next(iter(titles), data["which"])
    if data["format"] == 1:
        del data["format"]
    if identifier is not None:
        return {"do": data.pop("do"), BY: before.tag(identifier).name, **data}
    held = _held(step, before) if elsewhere else None
    return {"do": data.pop("do"), HOLDING: held, **data} if held else data


def _held(step: Step, before: Study) -> dict[str, dict[int, str]] | None:
    """What the records that a step names hold in the variable that it concerns first, else in the study's first."""
    named = references(step)
    records = [each.id for each in named if each.ref.kind == "record" and not each.ref.is_gone]
    ids = [each.id for each in named if each.ref.kind == "variable" and each.id in before.variables]
    id = next(iter([*ids, *before.order]), None)
    if id is None or not records:
        return None
    return {before.tag(id).name: {number: _entry(before, id, number) for number in records}}


def _names_none(step: Step) -> bool:
    return not any(each.ref.kind == "record" for each in references(step))


def _name(kind: str, id: str, study: Study, since: Study | None = None) -> str:
    """What something is called, where nothing else of its kind is called so; else nothing. Of a state `since` which
    little has changed, titles are known from that one."""
    found = study.shelves[kind].get(id)
    title = "" if found is None else title_of(found)
    return title if title and len(_titles(study, kind, since).get(title, ())) == 1 else ""


class _Titles(dict[str, tuple[str, ...]]):
    """Ids by title; what it weighs is told without looking at each."""

    @property
    def nbytes(self) -> int:
        """Bytes that it takes, about."""
        return 300 * len(self)


def _titles(study: Study, kind: str, since: Study | None = None) -> Mapping[str, tuple[str, ...]]:
    """The ids of a kind by what they are called."""
    shelf = study.shelves[kind]

    def titles() -> Mapping[str, tuple[str, ...]]:
        known = {} if since is None else since.shelves[kind]
        out = _Titles() if since is None else _Titles(_titles(since, kind))
        for id, old in known.items():
            if shelf.get(id) is not old:
                out[title_of(old)] = tuple(each for each in out[title_of(old)] if each != id)
        for id, new in shelf.items():
            if known.get(id) is not new:
                out[title_of(new)] = (*out.get(title_of(new), ()), id)
        return out

    return engine.get(("titles", kind, Same(shelf)), titles)


def _with_text_of_now(value: Any, study: Study) -> Any:
    """A model, mapping or tuple whose formulas are written with the names that their variables have now."""
    if isinstance(value, Formula):
        return value.model_copy(update={"text": shown(value, study)})
    if isinstance(value, BaseModel):
        parts = {name: getattr(value, name) for name in value.model_fields_set}
        return value.model_copy(update={name: _with_text_of_now(part, study) for name, part in parts.items()})
    if isinstance(value, tuple):
        return tuple(_with_text_of_now(each, study) for each in value)
    if isinstance(value, dict):
        return {name: _with_text_of_now(each, study) for name, each in value.items()}
    return value


def _text_alone(data: Any, value: Any) -> Any:
    """The JSON data of a model with the text of formulas in place of what is kept of them."""
    if isinstance(value, Formula):
        return value.text
    if isinstance(value, BaseModel):
        return {name: _text_alone(each, getattr(value, name)) for name, each in data.items()}
    if isinstance(value, tuple):
        return [_text_alone(each, one) for each, one in zip(data, value, strict=True)]
    if isinstance(value, dict):
        return {name: _text_alone(each, one) for (name, each), one in zip(data.items(), value.values(), strict=True)}
    return data


# Understood -------------------------------------------------------------------------------------


@dataclass(frozen=True)
class Spelled:
    """A step whose ids are names, which are met only in the study on which it is done; the variable (by name) that
    identifies the records that it names, where it does not name them by number; and what those that it names by number
    are expected to hold, per variable (by name)."""

    step: Step
    records_by: str | None = None
    holding: Mapping[str, Mapping[str, str]] = field(default_factory=dict)


def understood(data: Mapping[str, Any]) -> Spelled:
    """A step that was written with names. Raises BadInput where it is no step, a formula cannot be read, or it names
    more variables than any study has: each of them would be looked for."""
    written = dict(data)
    by, held = written.pop(BY, None), written.pop(HOLDING, None)
    step = load(written, names=True)
    named = sum(each.ref.kind == "variable" for each in references(step))
    if named > MOST_NAMED:
        raise BadInput(
            f"This step names {named:,} variables; {MOST_NAMED:,} are the most.", remedy="Leave out what is not there."
        )
    return Spelled(step, None if by is None else str(by), _holding(held))


def _holding(held: Any) -> dict[str, dict[str, str]]:
    """What records are expected to hold, as it was written. Raises BadInput."""
    if held is None:
        return {}
    if not isinstance(held, Mapping) or not all(isinstance(each, Mapping) for each in held.values()):
        raise BadInput(f"“{HOLDING}” is not what it should be.", remedy=f"Such as: {HOLDING}: {{tenure: {{12: 1}}}}")
    return {
        str(name): {str(record): "" if entry is None else str(entry) for record, entry in each.items()}
        for name, each in held.items()
    }


@dataclass
class ByNames:
    """What the names of written steps mean in a study, step by step. `known` are the ids for what bears no name of its
    own, or is to have the id that it had before; for all else that steps bring, `new_id` makes new ones."""

    new_id: Callable[[], str]
    known: Known = field(default_factory=dict)

    def of(self, spelled: Spelled, study: Study) -> Meet:
        """What the names of one step mean, which raises Unmet; to be asked for just before it is done on a study."""
        for (kind, name), id in list(self.known.items()):
            if id in study.shelves[kind] and title_of(study.shelves[kind][id]) == name:
                del self.known[kind, name]  # from now on its name tells it, and no other id
        brought: dict[tuple[str, str], str] = {}
        brings = {(each.ref.kind, each.id) for each in references(spelled.step) if each.ref.may_be_new}

        def meet(ref: Ref, name: Any, study: Study) -> Any:
            if ref.kind == "record":
                number = _record(name, spelled.records_by, study, gone=ref.is_gone)
                _expect(spelled.holding, name, number, study)
                return number
            key, shelf = (ref.kind, name), study.shelves[ref.kind]
            met = _titles(study, ref.kind).get(name, ())
            if not met and key in brought:
                return brought[key]
            known = self.known.get(key)
            if not met and known in shelf:
                return known
            if not met and key in brings and name not in shelf:
                self.known[key] = brought[key] = fresh = known or self.new_id()
                return fresh
            if not met and ref.kind == "variable":
                met = _met_otherwise(study, name)
            if len(met) > 1:
                raise Unmet(f"more than one {WORDS[ref.kind]} is called “{name}”")
            if not met and name not in shelf:
                raise Unmet(f"no {WORDS[ref.kind]} is called “{name}”")
            return met[0] if met else name

        return meet


def _met_otherwise(study: Study, name: str) -> tuple[str, ...]:
    """The variables that have a name but for its case, or had it before."""
    exact = study.name_keys.get(key_of(name))
    if exact is not None:
        return (exact,)
    key = key_of(name)
    return tuple(
        id
        for id, each in study.variables.items()
        if key in {key_of(former) for former in (*each.former, each.origin.name) if former}
    )


# Records ----------------------------------------------------------------------------------------


def identifier_of(study: Study) -> str | None:
    """The variable that identifies the records: the first whose use is that and whose entries do."""

    def so_used() -> frozenset[str]:
        return frozenset(id for id, each in study.variables.items() if each.tag.use == "identifier")

    found = engine.latest("identifiers", Same(study.variables), so_used)  # of many steps few change what variables say
    return next((id for id in study.order if id in found and _identifies(study, id)), None) if found else None


@worked_out(reading, entries, records)
def _identifies(study: Study, id: str) -> bool:
    """Whether every record that is there has a valid entry of a variable, each another."""
    fill, found = study.fill(id), study.reading(id)
    if fill.valid != study.records.count:
        return False
    tokens = np.flatnonzero((found.states == State.VALID) & (study.counts(id) > 0))
    return len(pc.unique(found.canonical(tokens))) == study.records.count


def _record(name: Any, by: str | None, study: Study, *, gone: bool) -> int:
    """The number of a record that is named by number, or by its entry of an identifier. Raises Unmet."""
    if by is None:
        number = whole_number(str(name)) or 0
        if not 1 <= number <= study.records.arrived:
            raise Unmet(f"there is no record {name}")
        return number
    ids = _titles(study, "variable").get(by) or _met_otherwise(study, by)
    if len(ids) != 1:
        raise Unmet(f"no variable is called “{by}”, by which records are named")
    found = _records_with(study, ids[0], str(name), gone=gone)
    if len(found) != 1:
        raise Unmet(f"{'more than one' if found else 'no'} record has the {by} “{name}”")
    return found[0]


def _expect(holding: Mapping[str, Mapping[str, str]], name: Any, number: int, study: Study) -> None:
    """Raises Unmet where a record does not hold what was expected there."""
    for variable, held in holding.items():
        if str(name) not in held:
            continue
        ids = _titles(study, "variable").get(variable) or _met_otherwise(study, variable)
        if len(ids) != 1:
            raise Unmet(f"no variable is called “{variable}”, in which records are expected to hold something")
        expected, found = held[str(name)], _entry(study, ids[0], number)
        if found.strip() != expected.strip():
            raise Unmet(f"record {number:,} holds “{found}” in {variable}, where “{expected}” was expected")


def _entry(study: Study, id: str, record: int) -> str:
    token = study.column(id).tokens_at(np.array([record - 1]))
    text: str = study.reading(id).canonical(token)[0].as_py()
    return text


def _records_with(study: Study, id: str, entry: str, *, gone: bool) -> list[int]:
    """At most two records with an entry of a variable, compared as it is read; or two that are gone."""
    if not entry:
        return []
    tokens = np.flatnonzero(pc.equal(study.reading(id).canonical(), pa.scalar(entry, pa.large_string())))
    if not gone:
        return Frame(study).numbers_of(id, tokens, most=2)
    present = study.records.present
    whole = replace(study, records=Records(study.records.arrived))
    return Frame(whole, None if present is None else ~present).numbers_of(id, tokens, most=2)
