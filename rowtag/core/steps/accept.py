"""Accept: a finding stays as it is, and somebody said why. Nothing else changes; from then on it is quiet."""

from typing import Annotated, Literal

from pydantic import Field

from rowtag.core.checks import CHECKS, Finding, entries_of, findings_across, findings_on
from rowtag.core.checks.base import Check, entry_counts
from rowtag.core.errors import BadInput
from rowtag.core.refs import VariableId
from rowtag.core.steps.base import Made, Step, Supplies, register
from rowtag.core.study import Accepted, Study, accepted_id
from rowtag.core.touched import title_of
from rowtag.core.words import counted


@register
class Accept(Step):
    """Accepts what a check finds on a variable now: the named entries, or (without any) all that it finds.

    It is quiet for as long as the evidence stays what it is; what comes on top of it is noticed again. `which` tells
    what finding is meant, where a check finds several on one variable.
    """

    do: Literal["accept"] = "accept"
    check: str
    variable: VariableId
    entries: tuple[str, ...] = ()
    which: Annotated[str, Field(max_length=1_000)] = ""
    reason: Annotated[str, Field(min_length=1, max_length=2_000, pattern=r"\S")]

    def change(self, study: Study, supplies: Supplies) -> Made:
        tag = study.tag(self.variable)
        check = CHECKS.get(self.check)
        if check is None:
            raise BadInput(f"There is no check called “{self.check}”.", remedy=f"Checks: {', '.join(CHECKS)}.")
        found = None if self.entries else self._finding(study, check)
        entries = self.entries or (entries_of(study, self.variable, check) if check.tokens is not None else ())
        counts = entry_counts(study, self.variable, check) if check.tokens is not None else {}
        accepted = [
            Accepted(
                check=self.check, variable=self.variable, entry=entry, reason=self.reason, count=counts.get(entry, 0)
            )
            for entry in entries
        ]
        if found is not None and not entries:
            accepted = [
                Accepted(
                    check=self.check, variable=found.variable, entry=found.which, reason=self.reason,
                    count=found.count, said=found.message,
                )
            ]  # fmt: skip
        what = ", ".join(f"“{entry}”" for entry in entries[:4])
        if len(entries) > 4:
            what += f" and {counted(len(entries) - 4, 'more entry', 'more entries')}"
        sentence = f"Kept {what or 'a finding'} as is in {tag.name} ({self.reason.strip()})"
        kept = {accepted_id(each.check, each.variable, each.entry): each for each in accepted}
        return Made(study.put("accepted", kept), sentence)

    def _finding(self, study: Study, check: Check) -> Finding:
        """What the check finds on the variable now."""
        found = findings_on(study, self.variable) if check.scope == "variable" else findings_across(study)
        for each in found:
            if each.check == self.check and self.variable in each.variables and self._is_meant(study, each.which):
                return each
        raise BadInput(f"“{self.check}” finds nothing on {study.tag(self.variable).name}.")

    def _is_meant(self, study: Study, which: str) -> bool:
        """Whether a finding is the one that is accepted: by what tells it apart, or by the title of that rule."""
        titles = [title_of(found) for shelf in ("rule", "sheet") if (found := study.shelves[shelf].get(which))]
        return self.which in ("", which, *titles)
