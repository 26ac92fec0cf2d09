"""Steps on codebooks beside a study: keep a document, let it go, take what it says of variables."""

from typing import Annotated, Literal

from pydantic import Field

from rowtag.core.errors import BadInput
from rowtag.core.refs import NewBatteryId, NewListId, NewSectionId, NewSheetId, SheetId, VariableId
from rowtag.core.steps.base import Made, Step, Supplies, names_of, register
from rowtag.core.steps.start import AddVariables, NewVariable, Places, refuse_loose
from rowtag.core.steps.tags import Rename
from rowtag.core.study import CodeList, Sheet, Study, Titled
from rowtag.core.tag import Parts, Tag
from rowtag.core.words import counted

MOST_TEXT = 8 << 20
"""Characters of a document that is kept beside a study."""


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
        said = [self._taken(study, given, tags)] if tags else []
        if self.names:
            said.append(f"{'renamed' if said else 'Renamed'} {counted(len(self.names), 'variable')}")
        if self.lists:
            said.append(f"{'set' if said else 'Set'} {counted(len(self.lists), 'shared list')}")
        if self.add:
            changed = AddVariables(variables=self.add).change(changed, supplies).study
            names = ", ".join(new.tag.name for new in self.add[:3]) + (" …" if len(self.add) > 3 else "")
            said.append(f"{'added' if said else 'Added'} {counted(len(self.add), 'variable')} ({names})")
        source = f" from “{self.source}”" if self.source else ""
        return Made(changed, "; ".join(said) + source)

    def _taken(self, study: Study, given: dict[str, Parts], tags: dict[str, Tag]) -> str:
        several = sum(len(parts.given()) for parts in given.values())
        several += sum(len(places.given()) for places in self.places.values())
        return f"Took {counted(several, 'part')} of {names_of(study, tags)}"
