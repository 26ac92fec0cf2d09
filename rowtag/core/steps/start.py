"""Starting without a file: variables defined first, and records to be keyed in."""

from dataclasses import replace
from typing import Annotated, Any, Literal

from pydantic import Field

from rowtag.core.column import EMPTY_COLUMN
from rowtag.core.errors import BadInput
from rowtag.core.names import check_name, key_of
from rowtag.core.steps.base import Applied, Place, Step, Supplies, register
from rowtag.core.study import CodeList, Origin, Records, Study, Titled, Variable
from rowtag.core.tag import Frozen, Tag
from rowtag.core.words import counted

NewId = Annotated[str, Field(min_length=4, max_length=40)]


class NewVariable(Frozen):
    """A variable without entries, under an id of its own."""

    id: NewId
    tag: Tag


class Places(Frozen):
    """Where a tag belongs, by id: its battery, its section, the shared list it uses; None takes it out of one."""

    battery: str | None = None
    section: str | None = None
    code_list: str | None = None

    def given(self) -> dict[str, str | None]:
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
    batteries: dict[NewId, Titled] = Field(default_factory=dict)
    sections: dict[NewId, Titled] = Field(default_factory=dict)
    lists: dict[NewId, CodeList] = Field(default_factory=dict)
    origin: Annotated[str, Field(max_length=300)] = ""
    before: str | None = None

    def expects(self, study: Study) -> dict[Place, Any]:
        return {}

    def change(self, study: Study, supplies: Supplies) -> Applied:
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
        names = [new.tag.name for new in self.variables]
        shown = ", ".join(names[:3]) + (f" and {len(names) - 3:,} more" if len(names) > 3 else "")
        said = f"Added {counted(len(names), 'variable')}: {shown}"
        if self.origin:
            said = f"Took {counted(len(names), 'variable')} from {self.origin}"
        return Applied(grown, said, tuple(new.id for new in self.variables))


def refuse_loose(study: Study, name: str, places: Tag | Places) -> None:
    """Raises BadInput where a tag would name a battery, a section or a shared list that is not there."""
    for shelf, id in (("battery", places.battery), ("section", places.section), ("list", places.code_list)):
        if id is not None and id not in study.shelves[shelf]:
            raise BadInput(f"{name} names a {shelf} that is not there.", remedy=f"Give the {shelf} with it.")


@register
class AddBlankRecords(Step):
    """Adds records without entries, to be keyed in."""

    do: Literal["add blank records"] = "add blank records"
    count: Annotated[int, Field(ge=1, le=1_000_000)]

    def expects(self, study: Study) -> dict[Place, Any]:
        return {}

    def change(self, study: Study, supplies: Supplies) -> Applied:
        if not study.order:
            raise BadInput("There is no variable to key entries into.", remedy="Define a variable first.")
        records = Records(study.records.arrived + self.count, study.records.removed)
        said = f"Added {counted(self.count, 'blank record')}"
        return Applied(replace(study, records=records), said)
