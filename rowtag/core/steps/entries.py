"""Steps that make new entries: key some in, add blank records for that, replace whole entries."""

from collections.abc import Iterable, Sequence
from contextlib import suppress
from dataclasses import replace
from typing import Annotated, Literal

import numpy as np
import numpy.typing as npt
import pyarrow.compute as pc
from pydantic import Field

from rowtag.core.answers import in_codes
from rowtag.core.errors import BadInput
from rowtag.core.reading import canonical_code, tidy_one
from rowtag.core.refs import Change, Lost, RecordNumber, Ref, VariableId, without_lost
from rowtag.core.steps.base import Ids, Made, Step, Supplies, names_of, register
from rowtag.core.study import Study
from rowtag.core.tokens import LONGEST_ENTRY, large_texts
from rowtag.core.touched import moved
from rowtag.core.words import counted

Entry = Annotated[str, Field(max_length=LONGEST_ENTRY)]


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
    labels: bool = False
    """What is a label of the variable is typed for its code."""

    def change(self, study: Study, supplies: Supplies) -> Made:
        tag = study.tag(self.variable)
        refuse_unknown(study, self.entries)
        column = study.column(self.variable)
        meant = in_codes(study, self.variable, self.entries.values()) if self.labels else {}
        entries = {record: meant.get(text, text) for record, text in self.entries.items()}
        new = column.with_entries({record - 1: text for record, text in entries.items()})
        if len(entries) == 1:
            ((record, text),) = entries.items()
            shown = f"“{text}”" if text.strip() else "a blank"
            sentence = f"Typed {shown} into {tag.name} of record {record:,}"
        else:
            sentence = f"Typed {counted(len(entries), 'entry', 'entries')} into {tag.name}"
        return Made(study.with_columns({self.variable: new}), sentence, len(entries))


def refuse_unknown(study: Study, records: Iterable[int]) -> None:
    """Raises BadInput where one of some record numbers is of no record that is there."""
    removed = set(study.records.removed)
    for record in records:
        if not 1 <= record <= study.records.arrived or record in removed:
            raise BadInput(f"There is no record {record:,}.", remedy=f"Records go to {study.records.arrived:,}.")


Block = Literal["pasted", "filled down", "cleared"]
"""How a block of entries comes to be set."""
SAID: dict[Block, str] = {"pasted": "Pasted", "filled down": "Filled down", "cleared": "Cleared"}


@register
class SetBlock(Step):
    """Sets a block of entries: for each of some variables one entry for each of some records, in their order.

    `more` blank records are added for entries that run past the last one; theirs come behind those of `records`. With
    `labels`, what is a label of a variable is set as its code.
    """

    do: Literal["set block"] = "set block"
    records: tuple[RecordNumber, ...] = ()
    more: Annotated[int, Field(ge=0, le=1_000_000)] = 0
    entries: Annotated[dict[VariableId, tuple[Entry, ...]], Field(min_length=1)]
    how: Block = "pasted"
    labels: bool = False

    def change(self, study: Study, supplies: Supplies) -> Made:
        refuse_unknown(study, self.records)
        height = len(self.records) + self.more
        if not height or len(set(self.records)) < len(self.records):
            raise BadInput("A block needs records, each once.", remedy="Choose where it is to stand.")
        for id, texts in self.entries.items():
            if len(texts) != height:
                name = study.tag(id).name
                raise BadInput(f"There are {len(texts):,} entries for {name}, and {height:,} records.", remedy="")
        arrived = study.records.arrived
        grown = replace(study, records=study.records.grown(self.more)) if self.more else study
        positions = [*(record - 1 for record in self.records), *range(arrived, arrived + self.more)]
        columns, became = {}, 0
        for id, texts in self.entries.items():
            meant = in_codes(study, id, texts) if self.labels else {}
            became += sum(text in meant for text in texts) if meant else 0
            new = {at: meant.get(text, text) for at, text in zip(positions, texts, strict=True)}
            columns[id] = grown.column(id).with_entries(new)
        number = height * len(self.entries)
        numbers = sorted([*self.records, *(at + 1 for at in positions[len(self.records) :])])
        span = f"records {numbers[0]:,} to {numbers[-1]:,}" if height > 1 else f"record {numbers[0]:,}"
        sentence = f"{SAID[self.how]} {counted(number, 'entry', 'entries')} in {names_of(study, self.entries)}, {span}"
        notes = []
        if became:
            notes.append(f"{counted(became, 'label')} became {'its code' if became == 1 else 'their codes'}")
        if self.more:
            notes.append(f"{counted(self.more, 'record')} added")
        return Made(grown.with_columns(columns), sentence, number, tuple(notes))

    def without_lost(self, change: Change) -> Step | None:
        """With a record that is lost go its entries of every variable."""
        stay = list(range(len(self.records), len(self.records) + self.more))
        for at in reversed(range(len(self.records))):
            with suppress(Lost):
                change(Ref("record"), self.records[at])
                stay.insert(0, at)
        if len(stay) == len(self.records) + self.more:
            return super().without_lost(change)
        if not stay:
            return None
        entries = {id: tuple(texts[at] for at in stay if at < len(texts)) for id, texts in self.entries.items()}
        records = tuple(self.records[at] for at in stay if at < len(self.records))
        return without_lost(self.model_copy(update={"records": records, "entries": entries}), change)


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
            tokens = matching(study, id, self.entries)
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
        evidence = tuple(moved(id, study.column(id), column, study.records.arrived) for id, column in columns.items())
        return Made(study.with_columns(columns), sentence, replaced, notes, evidence)


def matching(study: Study, id: str, entries: tuple[str, ...]) -> npt.NDArray[np.int64]:
    """Tokens of a variable that read as one of some entries."""
    kind = study.tag(id).type
    wanted = large_texts(canonical_code(entry, kind) or tidy_one(entry) for entry in entries)
    return np.flatnonzero(pc.is_in(study.reading(id).canonical(), wanted).to_numpy(zero_copy_only=False))


def _occurrences(study: Study, id: str, tokens: npt.NDArray[np.int64]) -> int:
    """How often some tokens of a variable occur."""
    return int(study.counts(id)[tokens].sum())
