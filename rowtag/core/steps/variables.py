"""Steps on which variables there are: arrange, copy, remove them."""

from typing import Annotated, Literal

from pydantic import Field

from rowtag.core.column import EMPTY_COLUMN
from rowtag.core.derive import derived_from
from rowtag.core.errors import BadInput
from rowtag.core.names import key_of, suggest
from rowtag.core.refs import NewVariableId, VariableId
from rowtag.core.steps.base import Ids, Made, Step, Supplies, names_of, register
from rowtag.core.study import Origin, Study, Variable
from rowtag.core.words import counted


@register
class Arrange(Step):
    """Moves variables in the codebook: in the order given, before another variable or to the end."""

    do: Literal["arrange"] = "arrange"
    variables: Ids
    before: VariableId | None = None

    def change(self, study: Study, supplies: Supplies) -> Made:
        for id in (*self.variables, *([self.before] if self.before else [])):
            study.variable(id)
        if self.before in self.variables:
            raise BadInput("A variable cannot be moved before itself.", remedy="Name another one, or none for the end.")
        where = f"before {study.tag(self.before).name}" if self.before else "to the end"
        return Made(study.arranged(self.variables, self.before), f"Moved {names_of(study, self.variables)} {where}")


@register
class CopyVariables(Step):
    """Copies variables, each to stand behind its original: variable id → id of the copy. Entries come along or not."""

    do: Literal["copy variables"] = "copy variables"
    copies: Annotated[dict[VariableId, NewVariableId], Field(min_length=1)]
    entries: bool = True

    def change(self, study: Study, supplies: Supplies) -> Made:
        taken, copied, names = set(study.name_keys), study, []
        if len({*self.copies.values()} - set(study.variables)) < len(self.copies):
            raise BadInput("Two variables cannot have the same id.", remedy="Give each copy an id of its own.")
        for id, new in self.copies.items():
            original = study.variable(id)
            name = suggest(f"{original.tag.name}_copy", taken, study.naming)
            taken.add(key_of(name))
            names.append(name)
            copy = Variable(tag=original.tag.with_parts(name=name), origin=Origin(kind="typed", name=original.tag.name))
            column = study.column(id) if self.entries else EMPTY_COLUMN
            at = copied.order.index(id) + 1
            behind = copied.order[at] if at < len(copied.order) else None
            copied = copied.with_variables([(new, copy, column)], before=behind)
        shown = ", ".join(names[:3]) + (f" and {len(names) - 3} more" if len(names) > 3 else "")
        bare = "" if self.entries else ", without entries"
        said = f"Copied {names_of(study, self.copies)} as {shown}{bare}"
        return Made(copied, said)


@register
class RemoveVariables(Step):
    """Takes variables out of the study, with their entries. Undo and the diary bring all of it back."""

    do: Literal["remove variables"] = "remove variables"
    variables: Ids

    def change(self, study: Study, supplies: Supplies) -> Made:
        entries = sum(study.records.count - study.fill(id).blank for id in self.variables)
        said = f"Removed {names_of(study, self.variables)}"
        notes = (f"{counted(entries, 'entry', 'entries')} went along",) if entries else ()
        left = derived_from(study, self.variables)
        if left:
            cannot = "which cannot be recalculated without"
            notes = (*notes, f"{names_of(study, left)}, {cannot}, {'is' if len(left) == 1 else 'are'} kept")
        return Made(study.without_variables(self.variables), said, entries, notes)
