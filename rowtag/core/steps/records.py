"""Steps on which records there are: remove some, put them back, copy some; and remarks on them."""

from collections.abc import Iterable
from dataclasses import replace
from typing import Annotated, Literal

import numpy as np
from pydantic import AfterValidator, Field

from rowtag.core.errors import BadInput
from rowtag.core.refs import CommentId, NewCommentId, RecordNumber, RemovedRecordNumber
from rowtag.core.steps.base import Made, Step, Supplies, each_once, register
from rowtag.core.steps.entries import refuse_unknown
from rowtag.core.study import Comment, Study
from rowtag.core.words import counted

MOST_COPIED = 10_000
"""Records that are copied at once."""
Numbers = Annotated[tuple[RecordNumber, ...], Field(min_length=1, max_length=1_000_000), AfterValidator(each_once)]
"""Record numbers, each once."""
Gone = Annotated[tuple[RemovedRecordNumber, ...], Field(min_length=1, max_length=1_000_000), AfterValidator(each_once)]
"""Numbers of records that were removed, each once."""


@register
class RemoveRecords(Step):
    """Takes records out of the study; their entries are kept and come back with them."""

    do: Literal["remove records"] = "remove records"
    records: Numbers

    def change(self, study: Study, supplies: Supplies) -> Made:
        refuse_unknown(study, self.records)
        left = replace(study, records=study.records.without(self.records))
        return Made(left, f"Removed {said_records(self.records)}")


@register
class RestoreRecords(Step):
    """Puts records back that were removed, where they stood."""

    do: Literal["restore records"] = "restore records"
    records: Gone

    def change(self, study: Study, supplies: Supplies) -> Made:
        there = set(self.records).difference(study.records.removed)
        if there:
            raise BadInput(f"Record {min(there):,} is none that was removed.", remedy="Choose among those that were.")
        back = replace(study, records=study.records.with_back(self.records))
        return Made(back, f"Put {said_records(self.records)} back")


@register
class CopyRecords(Step):
    """Copies records to the end, with all their entries but those that identify them."""

    do: Literal["copy records"] = "copy records"
    records: Annotated[Numbers, Field(max_length=MOST_COPIED)]

    def change(self, study: Study, supplies: Supplies) -> Made:
        refuse_unknown(study, self.records)
        positions = np.array(self.records, np.int64) - 1
        arrived = study.records.arrived
        grown = replace(study, records=study.records.grown(positions.size))
        columns, blanked = {}, []
        for id in study.order:
            if study.tag(id).use == "identifier":
                blanked.append(study.tag(id).name)
                continue
            column = study.column(id)
            tokens = column.tokens_in(positions).astype(np.uint32)
            if tokens.any():
                columns[id] = column.with_tokens_at(np.arange(arrived, arrived + positions.size), tokens)
        last = arrived + positions.size
        span = f"record {last:,}" if positions.size == 1 else f"records {arrived + 1:,} to {last:,}"
        notes = (f"{', '.join(blanked[:3])} left blank",) if blanked else ()
        return Made(grown.with_columns(columns), f"Copied {said_records(self.records)} as {span}", 0, notes)


@register
class Remark(Step):
    """Remarks something on a record or one of its entries, or says it otherwise; under an id of its own."""

    do: Literal["remark"] = "remark"
    comment: NewCommentId
    on: Comment

    def change(self, study: Study, supplies: Supplies) -> Made:
        refuse_unknown(study, [self.on.record])
        where = f"record {self.on.record:,}"
        if self.on.variable is not None:
            where = f"{study.tag(self.on.variable).name} of {where}"
        text = " ".join(self.on.text.split())
        short = f"“{text[:80]}…”" if len(text) > 80 else f"“{text}”"
        return Made(study.put("comment", {self.comment: self.on}), f"Remarked on {where}: {short}")


@register
class TakeRemarksBack(Step):
    """Takes comments away."""

    do: Literal["take remarks back"] = "take remarks back"
    comments: Annotated[tuple[CommentId, ...], Field(min_length=1, max_length=10_000)]

    def change(self, study: Study, supplies: Supplies) -> Made:
        there = study.shelves["comment"]
        if any(id not in there for id in self.comments):
            raise BadInput("This comment is not there any more.")
        gone = study.put("comment", dict.fromkeys(self.comments))
        return Made(gone, f"Took {counted(len(set(self.comments)), 'comment')} back")


def said_records(numbers: Iterable[int]) -> str:
    """Record numbers in words: one, those between two ends, or how many."""
    found = sorted(set(numbers))
    if len(found) == 1:
        return f"record {found[0]:,}"
    if found[-1] - found[0] == len(found) - 1:
        return f"records {found[0]:,} to {found[-1]:,}"
    if len(found) <= 4:
        return f"records {', '.join(f'{number:,}' for number in found[:-1])} and {found[-1]:,}"
    return f"{len(found):,} records ({found[0]:,} … {found[-1]:,})"
