"""Rows: the records of a study as a window shows them: in its arrangement, as they were when it was arranged."""

from typing import Annotated

import numpy as np
import numpy.typing as npt
from fastapi import Depends, Query
from pydantic import ValidationError

from rowtag.api.bodies import Number
from rowtag.api.models import RecordNumbers
from rowtag.core.arrangement import ALL, Arrangement
from rowtag.core.arranging import arranged, now, row_of
from rowtag.core.errors import BadInput
from rowtag.core.records import position_of, record_numbers
from rowtag.store.studyfile import StudyFile

Asked = tuple[str, int | None]


def _asked(arrangement: Annotated[str, Query(max_length=60_000)] = "", seen: Number | None = None) -> Asked:
    """An arrangement as JSON, all records in order where none is given; and the revision as of which it is meant."""
    return arrangement, seen


RowsAsked = Annotated[Asked, Depends(_asked)]


class Rows:
    """The rows of an arrangement at the head of a study.

    They are as they were at the revision `seen`, so that nothing moves under somebody's hands: records removed since
    are left out, and those that came stand behind. Where that state is not in memory any more they are arranged anew,
    and `seen` says so.
    """

    def __init__(self, file: StudyFile, asked: Asked) -> None:
        self.revision, self.study = file.snapshot()
        arrangement, self.seen = _read(asked[0]), self.revision
        self._rows: npt.NDArray[np.int64] | None = None
        if arrangement != ALL:
            before = file.held_at(asked[1]) if asked[1] is not None else None
            if before is not None and asked[1] is not None:
                self.seen = asked[1]
            as_of = before or self.study
            self._rows = now(arranged(as_of, arrangement), as_of, self.study)

    @property
    def count(self) -> int:
        """How many rows there are."""
        return self.study.records.count if self._rows is None else int(self._rows.size)

    def numbers(self, start: int, stop: int) -> npt.NDArray[np.int64]:
        """The record numbers in rows start..stop-1."""
        return record_numbers(self.study, start, stop) if self._rows is None else self._rows[start:stop] + 1

    def row_of(self, record: int) -> int | None:
        """The row in which a record stands; None where it is not among them."""
        if self._rows is None:
            return position_of(self.study, record)
        return row_of(self._rows, record - 1)

    def told(self, records: list[int]) -> RecordNumbers:
        """Records with the rows in which they stand."""
        return RecordNumbers(records=records, positions=[self.row_of(record) for record in records])

    def remarked(self, numbers: npt.NDArray[np.int64]) -> list[tuple[int, str | None]]:
        """The cells of some records that bear a comment."""
        there = set(numbers.tolist())
        found = self.study.shelves["comment"].values()
        return [(each.record, each.variable) for each in found if each.record in there]


def _read(text: str) -> Arrangement:
    if not text:
        return ALL
    try:
        return Arrangement.model_validate_json(text)
    except ValidationError:
        raise BadInput("This arrangement of the records cannot be read.", remedy="Arrange them anew.") from None
