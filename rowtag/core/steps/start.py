"""Starting without a file: variables defined first."""

from typing import Annotated, Any, Literal

from pydantic import Field

from rowtag.core.column import EMPTY_COLUMN
from rowtag.core.errors import BadInput
from rowtag.core.names import check_name, key_of
from rowtag.core.refs import (
    BatteryId,
    ListId,
    NewBatteryId,
    NewListId,
    NewSectionId,
    NewVariableId,
    SectionId,
    VariableId,
)
from rowtag.core.steps.base import Made, Step, Supplies, register
from rowtag.core.steps.skips import refuse_leading_back
from rowtag.core.study import CodeList, Origin, Study, Titled, Variable
from rowtag.core.tag import Frozen, Skip, Tag
from rowtag.core.words import counted


class NewVariable(Frozen):
    """A variable without entries, under an id of its own."""

    id: NewVariableId
    tag: Tag


class Places(Frozen):
    """Where a tag belongs and leads, by id: its battery, its section, the shared list it uses (None takes it out of
    one), its skips."""

    battery: BatteryId | None = None
    section: SectionId | None = None
    code_list: ListId | None = None
    skips: tuple[Skip, ...] = ()

    def given(self) -> dict[str, Any]:
        """The places that were given."""
        return {place: getattr(self, place) for place in Places.model_fields if place in self.model_fields_set}


@register
class AddVariables(Step):
    """Adds variables without entries, with the batteries, sections and code lists that their tags name.

    `origin` says where they were taken from, such as the codebook of another study. They come to stand before
    another variable, or at the end.
    """

    do: Literal["add variables"] = "add variables"
    variables: Annotated[tuple[NewVariable, ...], Field(min_length=1)]
    batteries: dict[NewBatteryId, Titled] = Field(default_factory=dict)
    sections: dict[NewSectionId, Titled] = Field(default_factory=dict)
    lists: dict[NewListId, CodeList] = Field(default_factory=dict)
    origin: Annotated[str, Field(max_length=300)] = ""
    before: VariableId | None = None

    def change(self, study: Study, supplies: Supplies) -> Made:
        grown = study.put("battery", self.batteries).put("section", self.sections).put("list", self.lists)
        taken, ids = set(study.name_keys), set(study.variables)
        for new in self.variables:
            check_name(new.tag.name, taken, study.naming)
            taken.add(key_of(new.tag.name))
            if new.id in ids:
                raise BadInput("Two variables cannot have the same id.", remedy="Give each an id of its own.")
            ids.add(new.id)
            refuse_loose(grown, new.tag.name, new.tag)
        grown = grown.with_variables(
            (
                (new.id, Variable(tag=new.tag, origin=Origin(kind="typed", name=new.tag.name)), EMPTY_COLUMN)
                for new in self.variables
            ),
            before=self.before if self.before in study.variables else None,
        )
        for new in self.variables:
            refuse_leading_back(grown, new.id, new.tag.skips)
        names = [new.tag.name for new in self.variables]
        shown = ", ".join(names[:3]) + (f" and {len(names) - 3:,} more" if len(names) > 3 else "")
        said = f"Added {counted(len(names), 'variable')}: {shown}"
        if self.origin:
            said = f"Took {counted(len(names), 'variable')} from {self.origin}"
        return Made(grown, said)


def refuse_loose(study: Study, name: str, places: Tag | Places) -> None:
    """Raises BadInput where a tag would name a battery, a section or a shared list that is not there."""
    for shelf, id in (("battery", places.battery), ("section", places.section), ("list", places.code_list)):
        if id is not None and id not in study.shelves[shelf]:
            raise BadInput(f"{name} names a {shelf} that is not there.", remedy=f"Give the {shelf} with it.")
