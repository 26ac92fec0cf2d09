"""Steps on codebooks beside a study: keep a document, let it go, take what it says of variables."""

from typing import Annotated, Literal

from pydantic import Field

from rowtag.core.errors import BadInput, NothingToDo
from rowtag.core.refs import NewBatteryId, NewListId, NewSectionId, NewSheetId, SheetId, VariableId
from rowtag.core.steps.base import Made, Step, Supplies, names_of, register
from rowtag.core.steps.skips import refuse_leading_back
from rowtag.core.steps.start import AddVariables, NewVariable, Places, refuse_loose
from rowtag.core.steps.tags import Rename
from rowtag.core.study import CodeList, Otherwise, Sheet, Study, Titled
from rowtag.core.tag import Parts, Tag
from rowtag.core.words import counted

MOST_TEXT = 8 << 20
"""Characters of a document that is kept beside a study."""
MOST_SAID = 1_000
"""Places of a document of which something was said otherwise."""


@register
class KeepSheet(Step):
    """Keeps a document beside the study, new under the id `sheet`, or another text in place of one that is there."""

    do: Literal["keep sheet"] = "keep sheet"
    sheet: NewSheetId
    name: Annotated[str, Field(min_length=1, max_length=200, pattern=r"\S")]
    text: str

    def change(self, study: Study, supplies: Supplies) -> Made:
        if not self.text.strip():
            raise BadInput("The document is empty.", remedy="Paste its text, or choose a file that holds some.")
        if len(self.text) > MOST_TEXT:
            raise BadInput(
                f"The document has {len(self.text):,} characters; up to {MOST_TEXT:,} are kept.",
                remedy="Give the part that describes the variables.",
            )
        there = study.shelves["sheet"].get(self.sheet)
        kept = study.put("sheet", {self.sheet: Sheet(name=self.name.strip(), text=self.text)})
        lines = counted(len(self.text.splitlines()), "line")
        verb = "Changed" if there is not None else "Kept"
        return Made(kept, f"{verb} the document “{self.name.strip()}” beside the study, {lines}")


@register
class ReadOtherwise(Step):
    """Says how some lines of a document are meant that were understood otherwise: all that is said of it now."""

    do: Literal["read otherwise"] = "read otherwise"
    sheet: SheetId
    said: Annotated[tuple[Otherwise, ...], Field(max_length=MOST_SAID)] = ()

    def change(self, study: Study, supplies: Supplies) -> Made:
        there: Sheet | None = study.shelves["sheet"].get(self.sheet)
        if there is None:
            raise BadInput("This document is not beside the study any more.")
        lines = len(there.text.splitlines())
        for each in self.said:
            if not each.first <= each.last <= lines:
                raise BadInput(f"The document has {counted(lines, 'line')}, not lines {each.first} to {each.last}.")
            if each.are == "to" and not each.names:
                raise BadInput("The lines belong to no variable.", remedy="Name at least one.")
        fresh = [each for each in self.said if each not in there.otherwise]
        gone = [each for each in there.otherwise if each not in self.said]
        if not fresh and not gone:
            raise NothingToDo("That was said already.", remedy="The document is read so.")
        said = f"Said of “{there.name}” that {' and '.join(map(_meant, fresh))}" if fresh else ""
        back = f"{'took' if fresh else 'Took'} back that {' and '.join(map(_meant, gone))}" if gone else ""
        behind = "" if fresh else f", in “{there.name}”"
        kept = there.model_copy(update={"otherwise": self.said})
        return Made(study.put("sheet", {self.sheet: kept}), "; ".join(filter(None, (said, back))) + behind)


def _meant(each: Otherwise) -> str:
    """What was said of some lines, in words."""
    lines = f"line {each.first:,}" if each.first == each.last else f"lines {each.first:,} to {each.last:,}"
    one = each.first == each.last
    if each.are == "names":
        return f"the table at {lines} has names in column {each.column:,}"
    if each.are == "to":
        more = f" and {len(each.names) - 3:,} more" if len(each.names) > 3 else ""
        return f"{lines} {'belongs' if one else 'belong'} to {', '.join(each.names[:3])}{more}"
    if each.are == "codes":
        return f"{lines} {'holds' if one else 'are'} codes, not variables"
    return f"{lines} {'names' if one else 'name'} no variable"


@register
class RemoveSheet(Step):
    """Lets a document go; what was taken from it stays."""

    do: Literal["remove sheet"] = "remove sheet"
    sheet: SheetId

    def change(self, study: Study, supplies: Supplies) -> Made:
        there = study.shelves["sheet"].get(self.sheet)
        if there is None:
            raise BadInput("This document is not beside the study any more.")
        return Made(study.put("sheet", {self.sheet: None}), f"Let the document “{there.name}” go")


@register
class Describe(Step):
    """Gives each of some variables parts and places of its own, as a codebook says them (variable id → parts).

    Lines of its own take the place of a shared list. `names` are other names for some. `add` are variables that only
    the codebook has: they come without entries. `batteries`, `sections` and `lists` are those that are new or say
    something else now.
    """

    do: Literal["describe"] = "describe"
    tags: dict[VariableId, Parts] = Field(default_factory=dict)
    names: dict[VariableId, str] = Field(default_factory=dict)
    places: dict[VariableId, Places] = Field(default_factory=dict)
    add: tuple[NewVariable, ...] = ()
    batteries: dict[NewBatteryId, Titled] = Field(default_factory=dict)
    sections: dict[NewSectionId, Titled] = Field(default_factory=dict)
    lists: dict[NewListId, CodeList] = Field(default_factory=dict)
    source: Annotated[str, Field(max_length=200)] = ""

    def change(self, study: Study, supplies: Supplies) -> Made:
        given = {id: parts for id, parts in self.tags.items() if parts.given()}
        if not (given or self.names or self.places or self.add or self.lists):
            raise BadInput("Nothing is taken.", remedy="Choose at least one part.")
        grown = study.put("battery", self.batteries).put("section", self.sections).put("list", self.lists)
        tags: dict[str, Tag] = {id: study.tag(id).redefined(parts) for id, parts in given.items()}
        for id, places in self.places.items():
            refuse_loose(grown, study.tag(id).name, places)
            tags[id] = tags.get(id, study.tag(id)).with_parts(**places.given())
        if self.names:
            grown = Rename(names=self.names).change(grown, supplies).study
            tags = {id: tag.with_parts(name=grown.tag(id).name) for id, tag in tags.items()}
        changed = grown.with_tags(tags)
        told = "Took what is said of" if self.source else "Described"
        said = [f"{told} {names_of(study, tags)}"] if tags else []
        if self.names:
            said.append(f"{'renamed' if said else 'Renamed'} {counted(len(self.names), 'variable')}")
        if self.lists:
            said.append(f"{'set' if said else 'Set'} {counted(len(self.lists), 'shared list')}")
        if self.add:
            changed = AddVariables(variables=self.add).change(changed, supplies).study
            names = ", ".join(new.tag.name for new in self.add[:3]) + (" …" if len(self.add) > 3 else "")
            said.append(f"{'added' if said else 'Added'} {counted(len(self.add), 'variable')} ({names})")
        for id, places in self.places.items():
            refuse_leading_back(changed, id, places.skips)
        source = f" from “{self.source}”" if self.source else ""
        return Made(changed, "; ".join(said) + source)
