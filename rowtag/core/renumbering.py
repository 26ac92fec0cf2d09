"""Records that have other numbers on another way through the diary, told step by step from what each step brought."""

from dataclasses import dataclass, replace

import numpy as np

from rowtag.core.meeting import Rows
from rowtag.core.study import Records, Study


@dataclass
class Renumbering:
    """Where each record of one way stands on another: per position there (from 0) the position here, -1 where it is
    not here: `at`, int64."""

    at: Rows

    def number_of(self, record: int) -> int | None:
        """The number here of a record by its number there; None where it is not here."""
        if not 1 <= record <= self.at.size or self.at[record - 1] < 0:
            return None
        return int(self.at[record - 1]) + 1

    def grow(self, there: int, here: tuple[int, int]) -> None:
        """Takes the records beyond those known, up to so many there, for those that came here meanwhile (from so many
        to so many), in their order; what came here more or less has no other."""
        first, last = here
        more = np.full(there - self.at.size, -1, np.int64)
        common = min(more.size, last - first)
        more[:common] = np.arange(first, first + common)
        self.at = np.concatenate([self.at, more])

    def join(self, there: Rows, here: Rows, same: Rows) -> None:
        """Takes records that a file brought for those that another version of it brought: `there` and `here` per
        record its row in the file (-1: none), `same` per row here the row there that it is (-1: none)."""
        known = self.at.size
        row_of = np.full(int(max(there.max(initial=-1), same.max(initial=-1))) + 1, -1, np.int64)
        new = np.flatnonzero(here >= 0)
        new = new[~np.isin(new, self.at[self.at >= 0])]
        old_row = same[here[new]]
        row_of[old_row[old_row >= 0]] = new[old_row >= 0]
        came = there[known:]
        self.at = np.concatenate([self.at, np.where(came >= 0, row_of[came], -1)])

    @property
    def unchanged(self) -> bool:
        """Whether every record has the number that it had."""
        return bool((self.at == np.arange(self.at.size)).all())

    def realigned(self, study: Study, arrived: int) -> Study:
        """A state of that way with the numbers of this one, where so many records have arrived; what is not here is
        left out, and what has come here only counts as removed there."""
        back = np.full(arrived, -1, np.int64)
        kept = np.flatnonzero(self.at >= 0)
        back[self.at[kept]] = kept
        present = study.records.present
        gone = back < 0 if present is None else (back < 0) | ~np.where(back < 0, False, present[back])
        records = Records(arrived, tuple((np.flatnonzero(gone) + 1).tolist()))
        columns = {id: column.taken(back) for id, column in study.columns.items()}
        return replace(study.with_columns(columns), records=records)
