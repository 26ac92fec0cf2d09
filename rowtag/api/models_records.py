"""What the HTTP interface says of records: arrangements, views, comments, two keyings."""

import numpy as np
from pydantic import BaseModel

from rowtag.core.arrangement import Arrangement, RecordView
from rowtag.core.keyings import Agreement, KeyedTwice, Keyings
from rowtag.core.records import texts_in
from rowtag.core.study import Comment, Study


class ArrangeRequest(BaseModel):
    arrangement: Arrangement


class Arranged(BaseModel):
    """How many rows an arrangement has, and the revision as of which they are arranged."""

    revision: int
    rows: int


class SavedView(BaseModel):
    """A named view, without what is not in the study any more."""

    id: str
    shows: RecordView

    @classmethod
    def of(cls, study: Study, id: str) -> "SavedView":
        kept: RecordView = study.shelves["view"][id]
        there = study.variables
        widths = {variable: width for variable, width in kept.widths.items() if variable in there}
        variables = tuple(variable for variable in kept.variables if variable in there)
        return cls(id=id, shows=kept.model_copy(update={"variables": variables, "widths": widths}))


class CommentModel(BaseModel):
    """A comment, and the row of its record; null where that is not among those shown."""

    id: str
    on: Comment
    row: int | None


class RemovedRecord(BaseModel):
    """A record that was removed, by its number and what stands in some of its variables."""

    record: int
    entries: list[str]


class RemovedRecords(BaseModel):
    """How many records were removed, and the first of them; `variables` are the names of those by which they are told:
    the identifier and those that come first in the codebook."""

    count: int
    variables: list[str]
    records: list[RemovedRecord]

    @classmethod
    def of(cls, study: Study, most: int, told_by: int = 5) -> "RemovedRecords":
        identifiers = [id for id in study.order if study.tag(id).use == "identifier"]
        ids = list(dict.fromkeys([*identifiers, *study.order]))[:told_by]
        numbers = study.records.removed[:most]
        columns = [texts_in(study, id, np.array(numbers, np.int64)) for id in ids]
        rows = zip(numbers, zip(*columns, strict=True) if ids else ((),) * len(numbers), strict=True)
        return cls(
            count=len(study.records.removed),
            variables=[study.tag(id).name for id in ids],
            records=[RemovedRecord(record=record, entries=list(entries)) for record, entries in rows],
        )


class Compared(BaseModel):
    """Two keyings side by side: how many records are in both, or in one only, how far each variable agrees, and the
    first differences."""

    revision: int
    by: str
    met: int
    only_own: int
    only_other: int
    repeated: int
    differing: int
    decided: int
    agreements: list[Agreement]
    differences: list[KeyedTwice]

    @classmethod
    def of(cls, revision: int, found: Keyings) -> "Compared":
        assert found.by is not None
        return cls(
            revision=revision,
            by=found.by,
            met=found.met,
            only_own=found.only_own,
            only_other=found.only_other,
            repeated=found.repeated,
            differing=found.differing,
            decided=found.decided,
            agreements=found.agreements,
            differences=found.differences(),
        )
