"""Steps on codebooks beside a study: keep a document, let it go, take what it says of variables."""

from typing import Annotated, Any, Literal

from pydantic import Field

from rowtag.core.errors import BadInput
from rowtag.core.steps.base import Applied, Place, Step, Supplies, names_of, parts_found, register
from rowtag.core.steps.start import NewId
from rowtag.core.study import Sheet, Study
from rowtag.core.tag import Parts
from rowtag.core.words import counted


@register
class KeepSheet(Step):
    """Keeps a document beside the study, new under the id `sheet`, or another text in place of one that is there."""

    do: Literal["keep sheet"] = "keep sheet"
    sheet: NewId
    name: Annotated[str, Field(min_length=1, max_length=200, pattern=r"\S")]
    text: Annotated[str, Field(max_length=8 << 20)]

    def expects(self, study: Study) -> dict[Place, Any]:
        return {("sheet", self.sheet): study.shelves["sheet"].get(self.sheet)}

    def change(self, study: Study, supplies: Supplies) -> Applied:
        if not self.text.strip():
            raise BadInput("The document is empty.", remedy="Paste its text, or choose a file that holds some.")
        there = study.shelves["sheet"].get(self.sheet)
        kept = study.put("sheet", {self.sheet: Sheet(name=self.name.strip(), text=self.text)})
        lines = counted(len(self.text.splitlines()), "line")
        verb = "Changed" if there is not None else "Kept"
        return Applied(kept, f"{verb} the document “{self.name.strip()}” beside the study, {lines}")


@register
class RemoveSheet(Step):
    """Lets a document go; what was taken from it stays."""

    do: Literal["remove sheet"] = "remove sheet"
    sheet: str

    def expects(self, study: Study) -> dict[Place, Any]:
        return {("sheet", self.sheet): study.shelves["sheet"].get(self.sheet)}

    def change(self, study: Study, supplies: Supplies) -> Applied:
        there = study.shelves["sheet"].get(self.sheet)
        if there is None:
            raise BadInput("This document is not beside the study any more.")
        return Applied(study.put("sheet", {self.sheet: None}), f"Let the document “{there.name}” go")


@register
class Describe(Step):
    """Gives each of some variables parts of its own, as a codebook says them (variable id → parts).

    Lines of its own take the place of a shared list.
    """

    do: Literal["describe"] = "describe"
    tags: Annotated[dict[str, Parts], Field(min_length=1)]
    source: Annotated[str, Field(max_length=200)] = ""

    def expects(self, study: Study) -> dict[Place, Any]:
        found: dict[Place, Any] = {}
        for id, parts in self.tags.items():
            found |= parts_found(study, (id,), parts.given())
        return found

    def change(self, study: Study, supplies: Supplies) -> Applied:
        given = {id: parts.given() for id, parts in self.tags.items() if parts.given()}
        if not given:
            raise BadInput("Nothing is taken.", remedy="Choose at least one part.")
        tags = {
            id: study.tag(id).with_parts(**parts, **({"code_list": None} if "codes" in parts else {}))
            for id, parts in given.items()
        }
        several = counted(sum(len(parts) for parts in given.values()), "part")
        said = f" from “{self.source}”" if self.source else ""
        return Applied(study.with_tags(tags), f"Took {several} of {names_of(study, tags)}{said}", tuple(tags))
