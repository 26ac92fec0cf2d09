"""Group: variables that belong together become a battery with a title; or stand alone again."""

from typing import Annotated, Any, Literal

from pydantic import Field

from rowtag.core.errors import BadInput
from rowtag.core.steps.base import Applied, Ids, Place, Step, Supplies, names_of, parts_found, register
from rowtag.core.study import Study, Titled


@register
class Group(Step):
    """Puts variables into a battery; `battery` is its id, new or known."""

    do: Literal["group"] = "group"
    battery: Annotated[str, Field(min_length=4, max_length=40)]
    title: Annotated[str, Field(min_length=1, max_length=200)]
    variables: Ids

    def expects(self, study: Study) -> dict[Place, Any]:
        found = parts_found(study, self.variables, ["battery"])
        return {**found, ("battery", self.battery): study.shelves["battery"].get(self.battery)}

    def change(self, study: Study, supplies: Supplies) -> Applied:
        tags = {id: study.tag(id).with_parts(battery=self.battery) for id in self.variables}
        grouped = study.put("battery", {self.battery: Titled(title=self.title)}).with_tags(tags)
        said = f"Grouped {names_of(study, self.variables)} as “{self.title}”"
        return Applied(grouped, said, self.variables)


@register
class Ungroup(Step):
    """Takes variables out of their batteries."""

    do: Literal["ungroup"] = "ungroup"
    variables: Ids

    def expects(self, study: Study) -> dict[Place, Any]:
        return parts_found(study, self.variables, ["battery"])

    def change(self, study: Study, supplies: Supplies) -> Applied:
        tags = {
            id: study.tag(id).with_parts(battery=None) for id in self.variables if study.tag(id).battery is not None
        }
        if not tags:
            raise BadInput(f"{names_of(study, self.variables)} is in no battery.")
        return Applied(study.with_tags(tags), f"Took {names_of(study, tags)} out of the battery", tuple(tags))
