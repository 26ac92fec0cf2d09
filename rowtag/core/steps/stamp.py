"""Stamp: chosen parts of one tag put onto others, in one step."""

from typing import Annotated, Literal

from pydantic import Field

from rowtag.core.errors import BadInput
from rowtag.core.refs import VariableId
from rowtag.core.steps.base import Ids, Made, Step, Supplies, names_of, register
from rowtag.core.study import Study

Stampable = Literal[
    "codes", "missing", "type", "level", "use", "width", "limits", "list", "marks", "pattern", "battery", "section"
]
STAMPED: dict[Stampable, tuple[str, ...]] = {
    "codes": ("codes", "code_list"),
    "list": ("complete",),
    "missing": ("missing",),
    "type": ("type",),
    "level": ("level",),
    "use": ("use",),
    "width": ("width", "decimals"),
    "limits": ("limits",),
    "marks": ("marks",),
    "pattern": ("pattern",),
    "battery": ("battery",),
    "section": ("section",),
}
"""What a stamp can bear, and the parts of a tag that it means; all but name, label, wording and note."""


@register
class Stamp(Step):
    """Puts chosen parts of the tag `source` onto other tags. No entry changes, only how entries are read."""

    do: Literal["stamp"] = "stamp"
    source: VariableId
    parts: Annotated[tuple[Stampable, ...], Field(min_length=1)]
    variables: Ids

    def change(self, study: Study, supplies: Supplies) -> Made:
        source = study.tag(self.source)
        given = {name: getattr(source, name) for part in self.parts for name in STAMPED[part]}
        onto = [id for id in self.variables if id != self.source]
        if not onto:
            raise BadInput("There is no other tag to stamp.", remedy="Choose the tags that are to get these parts.")
        tags = {id: study.tag(id).with_parts(**given) for id in onto}
        *first, last = dict.fromkeys(self.parts)
        parts = f"{', '.join(first)} and {last}" if first else last
        return Made(study.with_tags(tags), f"Stamped {parts} of {source.name} onto {names_of(study, onto)}")
