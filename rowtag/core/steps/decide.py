"""Decide: where two keyings of an entry differ, what is kept."""

from typing import Annotated, Literal

from pydantic import Field

from rowtag.core.column import Column
from rowtag.core.errors import BadInput
from rowtag.core.steps.base import Made, Step, Supplies, names_of, register
from rowtag.core.steps.entries import refuse_unknown
from rowtag.core.study import Decision, Study
from rowtag.core.touched import OneEntry
from rowtag.core.words import counted


def decision_id(record: int, variable: str) -> str:
    """The id under which a decision is kept: one for each entry."""
    return f"decided/{variable}/{record}"


@register
class Decide(Step):
    """Keeps one of two entries, or a third one, in some places where two keyings differ, and remembers that."""

    do: Literal["decide"] = "decide"
    decisions: Annotated[tuple[Decision, ...], Field(min_length=1, max_length=100_000)]

    def change(self, study: Study, supplies: Supplies) -> Made:
        refuse_unknown(study, [each.record for each in self.decisions])
        entries: dict[str, dict[int, str]] = {}
        for each in self.decisions:
            now = OneEntry(each.variable, each.record).value(study)
            if now not in (each.own, each.kept):
                name = study.tag(each.variable).name
                raise BadInput(
                    f"{name} of record {each.record:,} is “{now}” now, not “{each.own}”.", remedy="Look at it again."
                )
            if now != each.kept:
                entries.setdefault(each.variable, {})[each.record - 1] = each.kept
        columns: dict[str, Column] = {id: study.column(id).with_entries(new) for id, new in entries.items()}
        changed = sum(map(len, entries.values()))
        kept = study.with_columns(columns).put(
            "decision", {decision_id(each.record, each.variable): each for each in self.decisions}
        )
        ids = dict.fromkeys(each.variable for each in self.decisions)
        said = f"Decided {counted(len(self.decisions), 'difference')} between two keyings in {names_of(study, ids)}"
        notes = (f"{counted(changed, 'entry', 'entries')} changed",) if changed else ("nothing changed",)
        return Made(kept, said, changed, notes)
