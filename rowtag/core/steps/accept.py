"""Accept: a finding stays as it is, and somebody said why. Nothing else changes; from then on it is quiet."""

from typing import Annotated, Any, Literal

from pydantic import Field

from rowtag.core.steps.base import Applied, Place, Step, Supplies, counted, register
from rowtag.core.study import Accepted, Study


def accepted_id(check: str, variable: str, entry: str) -> str:
    """The id under which an acceptance is kept."""
    return f"{check}/{variable}/{entry}"


@register
class Accept(Step):
    """Accepts what a check found in a variable: for some entries, or (without entries) as a whole."""

    do: Literal["accept"] = "accept"
    check: str
    variable: str
    entries: tuple[str, ...] = ()
    reason: Annotated[str, Field(min_length=1, max_length=2_000, pattern=r"\S")]

    def expects(self, study: Study) -> dict[Place, Any]:
        shelf = study.shelves["accepted"]
        ids = [accepted_id(self.check, self.variable, entry) for entry in self.entries or ("",)]
        return {("accepted", self.variable, id): shelf.get(id) for id in ids}

    def change(self, study: Study, supplies: Supplies) -> Applied:
        tag = study.tag(self.variable)
        accepted = {
            accepted_id(self.check, self.variable, entry): Accepted(
                check=self.check, variable=self.variable, entry=entry, reason=self.reason
            )
            for entry in self.entries or ("",)
        }
        what = ", ".join(f"“{entry}”" for entry in self.entries[:4])
        if len(self.entries) > 4:
            what += f" and {counted(len(self.entries) - 4, 'more entry', 'more entries')}"
        sentence = f"Kept {what or 'a finding'} as is in {tag.name} ({self.reason.strip()})"
        return Applied(study.put("accepted", accepted), sentence, (self.variable,))
