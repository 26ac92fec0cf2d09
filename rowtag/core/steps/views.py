"""Steps on named views of the records: which variables and records, in which order. They change no entry."""

from typing import Literal

from rowtag.core.arrangement import RecordView
from rowtag.core.errors import BadInput, NothingToDo
from rowtag.core.refs import NewViewId, ViewId
from rowtag.core.steps.base import Made, Step, Supplies, register
from rowtag.core.study import Study
from rowtag.core.words import counted


@register
class KeepView(Step):
    """Keeps a view under its name, new or in place of what it was."""

    do: Literal["keep view"] = "keep view"
    view: NewViewId
    shows: RecordView

    def change(self, study: Study, supplies: Supplies) -> Made:
        there = study.shelves["view"]
        for id in (*self.shows.variables, *self.shows.widths, *self.shows.arrangement.variables):
            study.variable(id)
        named = self.shows.name.strip()
        if any(id != self.view and each.name == named for id, each in there.items()):
            raise BadInput(f"There is a view “{named}” already.", remedy="Give this one another name.")
        if self.view in there and there[self.view] == self.shows:
            raise NothingToDo(f"The view “{named}” is kept so already.")
        kept = study.put("view", {self.view: self.shows.model_copy(update={"name": named})})
        variables = counted(len(self.shows.variables), "variable") if self.shows.variables else "all variables"
        verb = "Changed" if self.view in there else "Kept"
        return Made(kept, f"{verb} the view “{named}”: {variables}")


@register
class RemoveView(Step):
    """Lets a view go."""

    do: Literal["remove view"] = "remove view"
    view: ViewId

    def change(self, study: Study, supplies: Supplies) -> Made:
        found = study.shelves["view"].get(self.view)
        if found is None:
            raise BadInput("This view is not there any more.")
        return Made(study.put("view", {self.view: None}), f"Let the view “{found.name}” go")
