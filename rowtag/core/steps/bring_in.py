"""Bring in: the entries of a file become variables of an empty study."""

from dataclasses import replace
from typing import Any, Literal

from rowtag.core.errors import BadInput
from rowtag.core.names import check_name, key_of
from rowtag.core.steps.base import Applied, Place, Step, Supplies, register
from rowtag.core.study import Origin, Records, Source, Study, Variable
from rowtag.core.tag import Frozen, Tag
from rowtag.core.words import counted


class Arrival(Frozen):
    """A column that becomes a variable: its new id, its number in the source (from 1), name there, and tag."""

    id: str
    column: int
    name: str
    tag: Tag


@register
class BringIn(Step):
    """Brings a source in. The columns of entries come as supplies under the variables' ids."""

    do: Literal["bring in"] = "bring in"
    source_id: str
    source: Source
    variables: tuple[Arrival, ...]

    def expects(self, study: Study) -> dict[Place, Any]:
        return {("order",): study.order, ("records",): study.records.arrived}

    def change(self, study: Study, supplies: Supplies) -> Applied:
        if study.records.arrived or study.order:
            raise BadInput(
                "This study has data already.", remedy="Make a new study for this file, or undo what was brought in."
            )
        taken: set[str] = set()
        for arrival in self.variables:
            check_name(arrival.tag.name, taken, study.naming)
            taken.add(key_of(arrival.tag.name))
        grown = study.put("source", {self.source_id: self.source}).with_variables(
            (
                arrival.id,
                Variable(
                    tag=arrival.tag,
                    origin=Origin(kind="source", source=self.source_id, column=arrival.column, name=arrival.name),
                    proposed=True,
                ),
                supplies[arrival.id],
            )
            for arrival in self.variables
        )
        grown = replace(grown, records=Records(self.source.records))
        size = f"{counted(self.source.records, 'record')} × {counted(len(self.variables), 'variable')}"
        return Applied(
            grown, f"Brought in {size} from {self.source.name}", tuple(arrival.id for arrival in self.variables)
        )
