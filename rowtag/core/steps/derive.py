"""Steps that derive: make variables from others by a sentence, work derived ones out again."""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Annotated, Any, Literal

from pydantic import Field

from rowtag.core.derive import Derived, Outcome, derive, read, refuse_healed, shown, worked_out_now
from rowtag.core.derive import ways as says
from rowtag.core.derive.crossed import old_by_new_of
from rowtag.core.derive.in_part import in_marks, tag_in_part
from rowtag.core.derive.sources import sources_first, sources_of
from rowtag.core.errors import BadInput, NothingToDo
from rowtag.core.names import check_name, key_of
from rowtag.core.refs import NewVariableId
from rowtag.core.rules import Formula
from rowtag.core.steps.base import Ids, Made, Step, Supplies, names_of, register
from rowtag.core.study import FOLLOWING, Habit, Origin, Study, Variable
from rowtag.core.tag import CodeLine, Frozen, LabelText, Marks, Parts, Tag
from rowtag.core.touched import OldByNew, edited_positions
from rowtag.core.words import counted

HEALING = (says.Recode, says.Reverse, says.Bands, says.Codes, says.Indicators, says.Split, says.Mentions)
"""Ways after which what stays as it was recorded has to read as before."""


class Into(Frozen):
    """What a sentence makes: variables by id and name, in their order. An id that is there is derived in place.

    `label` is that of a single new variable; it is proposed where it is not given.
    """

    how: Formula
    into: Annotated[dict[NewVariableId, Annotated[str, Field(max_length=64)]], Field(min_length=1, max_length=200)]
    label: LabelText = ""


@register
class Derive(Step):
    """Makes variables from others, each way in a sentence, one after the other: later ones can be made of earlier."""

    do: Literal["derive"] = "derive"
    variables: Annotated[tuple[Into, ...], Field(min_length=1, max_length=200)]

    def change(self, study: Study, supplies: Supplies) -> Made:
        grown, said, notes, evidence, entries = study, list[str](), list[str](), list[OldByNew](), 0
        for each in self.variables:
            grown, made = _derived(grown, each)
            said.append(made.sentence)
            notes += made.notes
            evidence += made.evidence
            entries += made.entries
        shown_first = "; ".join(said[:2]) + (f"; and {len(said) - 2:,} more" if len(said) > 2 else "")
        return Made(grown, f"Derived {shown_first}", entries, tuple(dict.fromkeys(notes)), tuple(evidence))


@register
class WorkOutAgain(Step):
    """Recalculates derived variables, from what their sources hold now, sources first; tags stay as they are."""

    do: Literal["work out again"] = "work out again"
    variables: Ids

    def change(self, study: Study, supplies: Supplies) -> Made:
        again, changed, evidence, notes = study, 0, list[OldByNew](), list[str]()
        for id in sources_first(study, self.variables):
            column, derived = worked_out_now(again, id)
            before = again.column(id)
            moved = int(edited_positions(before, column, study.records.arrived).size)
            if not moved:
                continue
            changed += moved
            notes += derived.outcomes[again.variable(id).origin.at].notes
            evidence.append(old_by_new_of(again, id, id, column))
            again = again.with_columns({id: column})
        if not changed:
            raise NothingToDo(f"{names_of(study, self.variables)}: all entries are what comes out.")
        said = f"Recalculated {names_of(study, self.variables)}"
        notes.append(f"{counted(changed, 'entry', 'entries')} changed")
        return Made(again, said, changed, tuple(dict.fromkeys(notes)), tuple(evidence))


@register
class LetFollow(Step):
    """Has derived variables follow what they are made of by themselves, or stay until they are recalculated."""

    do: Literal["let follow"] = "let follow"
    on: bool

    def change(self, study: Study, supplies: Supplies) -> Made:
        if (FOLLOWING in study.shelves["habit"]) == self.on:
            raise NothingToDo("Derived variables follow already." if self.on else "They do not follow now.")
        said = (
            "Let derived variables follow what they are made of"
            if self.on
            else "Let derived variables stay until they are recalculated"
        )
        habit = Habit(title="derived variables follow what they are made of")
        return Made(study.put("habit", {FOLLOWING: habit if self.on else None}), said)


def _derived(before: Study, each: Into) -> tuple[Study, Made]:
    """The study with what one sentence makes of it."""
    ids = list(each.into)
    there = [id for id in ids if id in before.variables]
    found = derive(each.how, before, into=there[0] if there and len(ids) == 1 else None)
    way = read(each.how.text).way
    if there and (len(ids) > 1 or len(found.outcomes) > 1):
        raise BadInput("Several variables cannot be derived in place.", remedy="Give them names of their own.")
    if found.several or len(ids) != 1:
        names = list(each.into.values())
        if len(names) != len(found.outcomes):
            raise BadInput(
                f"This makes {counted(len(found.outcomes), 'variable')}, and {counted(len(names), 'name')} "
                f"{'is' if len(names) == 1 else 'are'} given.",
                remedy="Give each a name of its own.",
            )
    sentence = shown(each.how, before)
    if there:
        return _in_place(before, there[0], found, each, way, sentence)
    taken = set(before.name_keys)
    for name in each.into.values():
        check_name(name, taken, before.naming)
        taken.add(key_of(name))
    new = []
    for at, (id, name) in enumerate(each.into.items()):
        outcome = found.outcomes[at]
        label = each.label if each.label and len(ids) == 1 else str(outcome.parts.get("label") or "")[:500]
        tag = Tag.model_validate({**outcome.parts, "name": name, "label": label})
        _guard(before, found, way, outcome, tag)
        origin = Origin(kind="derived", name=name, how=found.how, at=at)
        new.append((id, Variable(tag=tag, origin=origin), outcome.column))
    grown = before.with_variables(new, before=_behind(before, found.source or found.behind))
    said = f"{', '.join(list(each.into.values())[:3])}{' …' if len(ids) > 3 else ''} = {sentence}"
    notes = tuple(dict.fromkeys(note for outcome in found.outcomes for note in outcome.notes))
    evidence = tuple(
        old_by_new_of(before, found.source, id, outcome.column)
        for id, outcome in zip(ids, found.outcomes, strict=True)
        if found.source is not None
    )
    return grown, Made(grown, said, before.records.count * len(ids), notes, evidence)


def _in_place(before: Study, id: str, found: Derived, each: Into, way: says.Way, sentence: str) -> tuple[Study, Made]:
    """Derives a variable that is there anew. What is made of itself, or only of some records, is other entries and no
    more; else it is derived from now on, unless what it looks at is made of it."""
    variable, (outcome,) = before.variable(id), found.outcomes
    in_part = read(each.how.text).only is not None
    own = id in found.sources or in_part
    if not own:
        _refuse_circle(before, id, found.sources)
    column, records = before.column(id), before.records.arrived
    entries_only = isinstance(way, says.Expression) and _fits(variable.tag, outcome.parts)
    if entries_only:
        tag = variable.tag
    elif in_part:
        tag = tag_in_part(before, id, outcome, edited_positions(column, outcome.column, records))
    else:
        tag = variable.tag.redefined(Parts.model_validate(_kept(variable.tag, outcome.parts)))
    if entries_only or in_part:
        outcome = replace(outcome, column=in_marks(outcome.column, column, tag, records))
    else:
        _guard(before, found, way, outcome, tag)
    origin = variable.origin if own else Origin(kind="derived", name=variable.tag.name, how=found.how)
    changed = int(edited_positions(column, outcome.column, records).size)
    if not changed and tag == variable.tag and origin == variable.origin:
        raise NothingToDo(f"Nothing of {tag.name} would become otherwise.")
    now = variable.model_copy(update={"tag": tag, "origin": origin, "proposed": False})
    grown = before.put("variable", {id: now}).with_columns({id: outcome.column})
    evidence = (old_by_new_of(before, id, id, outcome.column),)
    notes = (*outcome.notes, f"{counted(changed, 'entry', 'entries')} changed")
    return grown, Made(grown, f"{tag.name} = {sentence}, in place", changed, notes, evidence)


def _kept(tag: Tag, parts: Mapping[str, Any]) -> dict[str, Any]:
    """What a way proposes for a tag that is there: not its label, nor labels of codes that it names already."""
    labels = {line.code: line.label for line in tag.codes if line.label}
    made = {"marks": Marks(), **{part: value for part, value in parts.items() if part != "label"}}
    if "codes" in made:
        made["codes"] = tuple(
            CodeLine(code=line.code, low=line.low, high=line.high, label=line.label or labels.get(line.code, ""))
            for line in made["codes"]
        )
    return made


def _fits(tag: Tag, parts: Mapping[str, Any]) -> bool:
    """Whether what comes out is of the type that a tag has: then only its entries change."""
    wanted = parts.get("type")
    return wanted == tag.type or (wanted == "integer" and tag.type == "decimal")


def _guard(before: Study, found: Derived, way: says.Way, outcome: Outcome, tag: Tag) -> None:
    if found.source is not None and isinstance(way, HEALING):
        refuse_healed(before, found.source, outcome.column, tag, by_lines=isinstance(way, says.Recode))


def _refuse_circle(study: Study, id: str, sources: Sequence[str]) -> None:
    """Raises BadInput where a variable would be derived from what is derived from it."""
    left, met = list(sources), set[str]()
    while left:
        one = left.pop()
        if one == id:
            name = study.tag(id).name
            raise BadInput(
                f"{name} would be derived from itself, by way of what is derived from it.",
                remedy="Derive it into a new variable.",
            )
        if one not in met:
            met.add(one)
            left += sources_of(study, one)


def _behind(study: Study, source: str | None) -> str | None:
    """The variable before which what is derived comes to stand: behind its source, or the battery of that, and what was
    derived from these before; None at the end."""
    if source is None or source not in study.variables:
        return None
    battery = study.tag(source).battery
    sisters = {source, *(id for id in study.order if battery is not None and study.tag(id).battery == battery)}
    at = study.order.index(source) + 1
    while at < len(study.order) and (
        study.order[at] in sisters or not sisters.isdisjoint(sources_of(study, study.order[at]))
    ):
        at += 1
    return study.order[at] if at < len(study.order) else None
