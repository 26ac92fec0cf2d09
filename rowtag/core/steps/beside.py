"""More variables: the columns of a second file of the same records, put beside them by an identifier."""

from typing import ClassVar, Literal

from rowtag.core.errors import BadInput
from rowtag.core.meeting import Beside, Doubled, Rows
from rowtag.core.refs import NewSourceId, VariableId
from rowtag.core.steps.base import Made, Step, Supplies, register
from rowtag.core.steps.bring_in import Arrival, with_arrivals
from rowtag.core.study import Source, Study
from rowtag.core.words import counted


@register
class PutBeside(Step):
    """Puts the columns of another file beside the records that have its identifiers; all other records stay blank.

    `head` is what the file calls its column of identifiers, `column` its number. The columns come as supplies under the
    ids of the new variables, and that of the identifiers under the id of the `identifier`. Of several rows of the file
    with one identifier `doubled` says which counts.
    """

    do: Literal["put beside"] = "put beside"
    needs_supplies: ClassVar[bool] = True
    source_id: NewSourceId
    source: Source
    variables: tuple[Arrival, ...]
    identifier: VariableId
    column: int
    head: str = ""
    doubled: Doubled = "first"

    def change(self, study: Study, supplies: Supplies) -> Made:
        name = study.tag(self.identifier).name
        if not self.variables:
            raise BadInput("None of the file's columns was taken.", remedy="Take at least one besides the identifier.")
        beside = self._beside(study, supplies)
        if not beside.matched:
            raise BadInput(
                f"No record of {self.source.name} has the {name} of a record in this study.",
                remedy="Choose another identifier, or look at how both are written.",
            )
        came = {arrival.id: supplies[arrival.id].taken(beside.rows) for arrival in self.variables}
        grown = with_arrivals(study, self.source_id, self.source, self.variables, came)
        said = f"Put {counted(len(self.variables), 'variable')} from {self.source.name} beside"
        notes = []
        if beside.alone:
            notes.append(f"{counted(beside.alone, 'record')} without a row there")
        if beside.without.size:
            notes.append(f"{counted(int(beside.without.size), 'row')} without a record here")
        doubles, rows = beside.doubles
        if doubles:
            how = "none of them counts" if self.doubled == "neither" else f"the {self.doubled} counts"
            notes.append(f"{counted(rows, 'row')} with {counted(len(doubles), 'identifier')} more than once: {how}")
        return Made(grown, f"{said} {counted(beside.matched, 'record')} by {name}", notes=tuple(notes))

    def rows(self, study: Study, supplies: Supplies) -> Rows:
        """Per record its row in the source (from 0), -1 where it has none: int64."""
        return self._beside(study, supplies).rows

    def _beside(self, study: Study, supplies: Supplies) -> Beside:
        return Beside(study, self.identifier, supplies[self.identifier], self.source.records, self.doubled)
