"""What the HTTP interface says of records: arrangements, views, comments, two keyings."""

from pydantic import BaseModel

from rowtag.core.arrangement import Arrangement, RecordView
from rowtag.core.keyings import Agreement, KeyedTwice, Keyings
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
