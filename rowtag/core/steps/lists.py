"""Steps on shared code lists: name one and use it on many tags, put it aside again."""

from typing import Annotated, Literal

from pydantic import Field

from rowtag.core.errors import BadInput
from rowtag.core.refs import ListId, NewListId, VariableId
from rowtag.core.steps.base import Ids, Made, Step, Supplies, names_of, register
from rowtag.core.study import CodeList, Study
from rowtag.core.tag import CodeLine

ListName = Annotated[str, Field(min_length=1, max_length=64, pattern=r"\S")]


def _free_name(study: Study, name: str, but: str | None = None) -> None:
    """Raises BadInput where another list has this name."""
    key = name.strip().casefold()
    if any(id != but and each.name.strip().casefold() == key for id, each in study.shelves["list"].items()):
        raise BadInput(f"Another code list is called “{name}” already.", remedy="Give it another name.")


@register
class ShareList(Step):
    """Names a code list, new under the id `list`, and lets variables use it in place of lines of their own.

    Without `lines` those that count for the first variable are taken.
    """

    do: Literal["share list"] = "share list"
    list: NewListId
    name: ListName
    lines: tuple[CodeLine, ...] | None = None
    variables: tuple[VariableId, ...] = ()

    def change(self, study: Study, supplies: Supplies) -> Made:
        if self.list in study.shelves["list"]:
            raise BadInput("A code list with this id is there already.", remedy="Give the new list an id of its own.")
        _free_name(study, self.name)
        lines = self.lines
        if lines is None:
            lines = study.codes(self.variables[0]) if self.variables else ()
        if not lines:
            raise BadInput("A shared code list needs at least one line.", remedy="Take a variable that has codes.")
        shared = study.put("list", {self.list: CodeList(name=self.name.strip(), lines=lines)})
        tags = {id: study.tag(id).with_parts(code_list=self.list, codes=()) for id in self.variables}
        used = f" and used it on {names_of(study, tags)}" if tags else ""
        return Made(shared.with_tags(tags), f"Named the code list “{self.name.strip()}”{used}")


@register
class UseList(Step):
    """Lets variables use a shared code list in place of lines of their own; missing codes stay theirs."""

    do: Literal["use list"] = "use list"
    list: ListId
    variables: Ids

    def change(self, study: Study, supplies: Supplies) -> Made:
        shared = _list(study, self.list)
        tags = {id: study.tag(id).with_parts(code_list=self.list, codes=()) for id in self.variables}
        said = f"Used the code list “{shared.name}” on {names_of(study, self.variables)}"
        return Made(study.with_tags(tags), said)


@register
class DetachList(Step):
    """Gives variables the lines of their shared list as their own, so that they can differ from it."""

    do: Literal["detach list"] = "detach list"
    variables: Ids

    def change(self, study: Study, supplies: Supplies) -> Made:
        users = [id for id in self.variables if study.tag(id).code_list is not None]
        if not users:
            raise BadInput(
                f"{names_of(study, self.variables)} has no shared code list.", remedy="It is its own already."
            )
        tags = {id: study.tag(id).with_parts(code_list=None, codes=study.codes(id)) for id in users}
        said = f"Gave {names_of(study, users)} a code list of {'its' if len(users) == 1 else 'their'} own"
        return Made(study.with_tags(tags), said)


@register
class NameList(Step):
    """Gives a shared code list another name; without one it is dropped, and its users keep its lines as their own."""

    do: Literal["name list"] = "name list"
    list: ListId
    name: ListName | None

    def change(self, study: Study, supplies: Supplies) -> Made:
        shared = _list(study, self.list)
        if self.name is not None:
            _free_name(study, self.name, but=self.list)
            renamed = shared.model_copy(update={"name": self.name.strip()})
            said = f"Named the code list “{shared.name}” “{self.name.strip()}”"
            return Made(study.put("list", {self.list: renamed}), said)
        users = study.users_of(self.list)
        tags = {id: study.tag(id).with_parts(code_list=None, codes=shared.lines) for id in users}
        kept = f"; {names_of(study, users)} kept its lines" if users else ""
        return Made(
            study.with_tags(tags).put("list", {self.list: None}), f"Dropped the code list “{shared.name}”{kept}"
        )


def _list(study: Study, id: str) -> CodeList:
    found: CodeList | None = study.shelves["list"].get(id)
    if found is None:
        raise BadInput("This code list is not in the study any more.", remedy="The diary shows when it was dropped.")
    return found
