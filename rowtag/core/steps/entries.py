"""Steps that make new entries: key some in, add blank records for that, replace whole entries."""

from collections.abc import Sequence
from dataclasses import replace
from typing import Annotated, Literal

import numpy as np
import numpy.typing as npt
import pyarrow.compute as pc
from pydantic import Field

from rowtag.core.errors import BadInput
from rowtag.core.reading import canonical_code, tidy_one
from rowtag.core.refs import RecordNumber, VariableId
from rowtag.core.steps.base import Ids, Made, Step, Supplies, names_of, register
from rowtag.core.study import Study
from rowtag.core.tokens import large_texts
from rowtag.core.touched import old_by_new
from rowtag.core.words import counted

Entry = Annotated[str, Field(max_length=10_000_000)]


class Keyed(Step):
    """A step of keying: in a row they are one run, which the diary tells in one line."""

    def continues(self, earlier: Step) -> bool:
        return isinstance(earlier, Keyed)

    @classmethod
    def told_together(cls, steps: Sequence[Step], study: Study) -> str:
        typed = [step for step in steps if isinstance(step, SetEntries)]
        number = sum(len(step.entries) for step in typed)
        records = sorted({record for step in typed for record in step.entries})
        more = sum(step.count for step in steps if isinstance(step, AddBlankRecords))
        said = []
        if typed:
            names = [id for id in dict.fromkeys(step.variable for step in typed) if id in study.variables]
            into = names_of(study, names) if names else "variables that are gone"
            span = f"records {records[0]:,} to {records[-1]:,}" if len(records) > 1 else f"record {records[0]:,}"
            said.append(f"Typed {counted(number, 'entry', 'entries')} into {into}, {span}")
        if more:
            said.append(f"{'added' if said else 'Added'} {counted(more, 'blank record')}")
        return " and ".join(said) + "."


@register
class SetEntries(Keyed):
    """Types entries of one variable in: record number (from 1) → entry."""

    do: Literal["set entries"] = "set entries"
    variable: VariableId
    entries: Annotated[dict[RecordNumber, Entry], Field(min_length=1)]

    def change(self, study: Study, supplies: Supplies) -> Made:
        tag = study.tag(self.variable)
        removed = set(study.records.removed)
        for record in self.entries:
            if not 1 <= record <= study.records.arrived or record in removed:
                raise BadInput(f"There is no record {record:,}.", remedy=f"Records go to {study.records.arrived:,}.")
        column = study.column(self.variable)
        new = column.with_entries({record - 1: text for record, text in self.entries.items()})
        if len(self.entries) == 1:
            ((record, text),) = self.entries.items()
            shown = f"“{text}”" if text.strip() else "a blank"
            sentence = f"Typed {shown} into {tag.name} of record {record:,}"
        else:
            sentence = f"Typed {counted(len(self.entries), 'entry', 'entries')} into {tag.name}"
        return Made(study.with_columns({self.variable: new}), sentence, len(self.entries))


@register
class AddBlankRecords(Keyed):
    """Adds records without entries, to be keyed in."""

    do: Literal["add blank records"] = "add blank records"
    count: Annotated[int, Field(ge=1, le=1_000_000)]

    def change(self, study: Study, supplies: Supplies) -> Made:
        if not study.order:
            raise BadInput("There is no variable to key entries into.", remedy="Define a variable first.")
        said = f"Added {counted(self.count, 'blank record')}"
        return Made(replace(study, records=study.records.grown(self.count)), said)


@register
class ReplaceEntries(Step):
    """Puts one entry in place of others: whole entries, compared as they are read.

    Spaces at the ends do not count, and under a number type 8, 08 and 8.0 are the same entry.
    """

    do: Literal["replace entries"] = "replace entries"
    variables: Ids
    entries: Annotated[tuple[Entry, ...], Field(min_length=1)]
    by: Entry

    def change(self, study: Study, supplies: Supplies) -> Made:
        columns, replaced = {}, 0
        for id in self.variables:
            study.variable(id)
            tokens = _matching(study, id, self.entries)
            count = _occurrences(study, id, tokens)
            if count:
                columns[id] = study.column(id).with_replaced(tokens, self.by, study.records.arrived)
                replaced += count
        if not replaced:
            raise BadInput(
                f"None of these entries occurs in {names_of(study, self.variables)}.",
                remedy="Only whole entries are replaced.",
            )
        said = ", ".join(f"“{entry}”" for entry in self.entries[:4])
        by = f"“{self.by}”" if self.by.strip() else "a blank"
        sentence = f"Replaced {said} by {by} in {names_of(study, self.variables)}"
        notes = (counted(replaced, "entry", "entries") + " changed",)
        evidence = tuple(
            old_by_new(id, study.column(id), column, study.records.arrived) for id, column in columns.items()
        )
        return Made(study.with_columns(columns), sentence, replaced, notes, evidence)


def _matching(study: Study, id: str, entries: tuple[str, ...]) -> npt.NDArray[np.int64]:
    """Tokens of a variable that read as one of some entries."""
    kind = study.tag(id).type
    wanted = large_texts(canonical_code(entry, kind) or tidy_one(entry) for entry in entries)
    return np.flatnonzero(pc.is_in(study.reading(id).canonical(), wanted).to_numpy(zero_copy_only=False))


def _occurrences(study: Study, id: str, tokens: npt.NDArray[np.int64]) -> int:
    """How often some tokens of a variable occur."""
    return int(study.counts(id)[tokens].sum())
