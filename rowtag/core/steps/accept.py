"""Accept: a finding stays as it is, and somebody said why. Nothing else changes; from then on it is quiet."""

from typing import Annotated, Literal

from pydantic import Field

from rowtag.core.checks import CHECKS, entries_of, findings_across, findings_on
from rowtag.core.errors import BadInput
from rowtag.core.refs import VariableId
from rowtag.core.steps.base import Made, Step, Supplies, register
from rowtag.core.study import Accepted, Study, accepted_id
from rowtag.core.words import counted


@register
class Accept(Step):
    """Accepts what a check finds on a variable now: the named entries, or (without any) all that it finds.

    Entries that come later are noticed again.
    """

    do: Literal["accept"] = "accept"
    check: str
    variable: VariableId
    entries: tuple[str, ...] = ()
    reason: Annotated[str, Field(min_length=1, max_length=2_000, pattern=r"\S")]

    def change(self, study: Study, supplies: Supplies) -> Made:
        tag = study.tag(self.variable)
        if self.check not in CHECKS:
            raise BadInput(f"There is no check called “{self.check}”.", remedy=f"Checks: {', '.join(CHECKS)}.")
        entries = self.entries or self._all_entries(study)
        accepted = {
            accepted_id(self.check, self.variable, entry): Accepted(
                check=self.check, variable=self.variable, entry=entry, reason=self.reason
            )
            for entry in entries or ("",)
        }
        what = ", ".join(f"“{entry}”" for entry in entries[:4])
        if len(entries) > 4:
            what += f" and {counted(len(entries) - 4, 'more entry', 'more entries')}"
        sentence = f"Kept {what or 'a finding'} as is in {tag.name} ({self.reason.strip()})"
        return Made(study.put("accepted", accepted), sentence)

    def _all_entries(self, study: Study) -> tuple[str, ...]:
        """The entries that the finding is about; none where it is about the tag itself."""
        check = CHECKS[self.check]
        found = findings_on(study, self.variable) if check.scope == "variable" else findings_across(study)
        if not any(each.check == self.check and self.variable in each.variables for each in found):
            raise BadInput(f"“{self.check}” finds nothing on {study.tag(self.variable).name}.")
        return entries_of(study, self.variable, check) if check.tokens is not None else ()
