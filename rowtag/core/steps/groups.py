"""Group: variables that belong together become a battery with a title; or stand alone again."""

from typing import Annotated, Literal

from pydantic import Field

from rowtag.core.errors import BadInput
from rowtag.core.refs import NewBatteryId
from rowtag.core.steps.base import Ids, Made, Step, Supplies, names_of, register
from rowtag.core.study import Study, Titled

MOST_TITLE = 200
"""Characters of a title, at most."""


@register
class Group(Step):
    """Puts variables into a battery; `battery` is its id, new or known."""

    do: Literal["group"] = "group"
    battery: NewBatteryId
    title: Annotated[str, Field(min_length=1, max_length=MOST_TITLE)]
    variables: Ids

    def change(self, study: Study, supplies: Supplies) -> Made:
        tags = {id: study.tag(id).with_parts(battery=self.battery) for id in self.variables}
        grouped = study.put("battery", {self.battery: Titled(title=self.title)}).with_tags(tags)
        said = f"Grouped {names_of(study, self.variables)} as “{self.title}”"
        return Made(grouped, said)


@register
class Ungroup(Step):
    """Takes variables out of their batteries."""

    do: Literal["ungroup"] = "ungroup"
    variables: Ids

    def change(self, study: Study, supplies: Supplies) -> Made:
        tags = {
            id: study.tag(id).with_parts(battery=None) for id in self.variables if study.tag(id).battery is not None
        }
        if not tags:
            raise BadInput(f"{names_of(study, self.variables)} is in no battery.")
        return Made(study.with_tags(tags), f"Took {names_of(study, tags)} out of the battery")
