"""Trim widths: declare each variable as wide as its longest entry needs."""

from typing import Literal

from rowtag.core.errors import NothingToDo
from rowtag.core.steps.base import Ids, Made, Step, Supplies, names_of, register
from rowtag.core.study import Study
from rowtag.core.widths import needed_width
from rowtag.core.words import counted


@register
class TrimWidths(Step):
    """Sets the width of each variable to what its longest entry needs. No entry changes; none is ever cut."""

    do: Literal["trim widths"] = "trim widths"
    variables: Ids

    def change(self, study: Study, supplies: Supplies) -> Made:
        needed = {id: needed_width(study, id) for id in self.variables}
        changed = {id: width for id, width in needed.items() if study.tag(id).width != width}
        if not changed:
            raise NothingToDo(f"{names_of(study, self.variables)} is as wide as its entries already.")
        saved = sum((study.tag(id).width or width) - width for id, width in changed.items())
        said = f"Trimmed {names_of(study, changed)} to the width of the longest entry"
        word = "fewer" if saved >= 0 else "more"
        notes = (f"{counted(abs(saved), 'character')} {word} a record in fixed columns",) if saved else ()
        tags = {id: study.tag(id).with_parts(width=width) for id, width in changed.items()}
        return Made(study.with_tags(tags), said, notes=notes)
