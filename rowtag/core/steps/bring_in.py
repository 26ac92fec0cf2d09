"""Bring in: the entries of a file become variables of an empty study, or more records of one that has variables."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Annotated, ClassVar, Literal

import numpy as np
import numpy.typing as npt
import pyarrow.compute as pc
from pydantic import Field

from rowtag.core.column import EMPTY_COLUMN, Column
from rowtag.core.errors import BadInput, NotThere
from rowtag.core.meeting import Rows, identifiers, identifiers_of
from rowtag.core.names import check_name, key_of
from rowtag.core.refs import NewSourceId, Ref, VariableId
from rowtag.core.steps.base import Made, Step, Supplies, register
from rowtag.core.study import Origin, Records, Source, Study, Variable
from rowtag.core.tag import Frozen, Tag
from rowtag.core.words import counted

Known = Literal["keep both", "skip", "replace"]
"""What becomes of records whose identifier is in the study already."""


class Arrival(Frozen):
    """A column that becomes a variable: its new id, its number in the source (from 1), name there, and tag."""

    id: Annotated[str, Ref("variable", may_be_new=True)]
    column: int
    name: str
    tag: Tag


@register
class BringIn(Step):
    """Brings a source in. The columns of entries come as supplies under the variables' ids."""

    do: Literal["bring in"] = "bring in"
    needs_supplies: ClassVar[bool] = True
    source_id: NewSourceId
    source: Source
    variables: tuple[Arrival, ...]

    def change(self, study: Study, supplies: Supplies) -> Made:
        if study.records.arrived or study.order:
            raise BadInput(
                "This study has data already.", remedy="Bring the file in as more records, or make a new study for it."
            )
        grown = with_arrivals(study, self.source_id, self.source, self.variables, supplies)
        grown = replace(grown, records=Records(self.source.records))
        size = f"{counted(self.source.records, 'record')} × {counted(len(self.variables), 'variable')}"
        return Made(grown, f"Brought in {size} from {self.source.name}")

    def rows(self, study: Study, supplies: Supplies) -> Rows:
        """Per record that there is then its row in the source (from 0): int64."""
        return np.arange(self.source.records)


@register
class AddRecords(Step):
    """Adds the records of another source. Its columns come as supplies under the ids of known or new variables.

    `matched` are the variables it has entries for, with the column of each, `heads` what the file calls these. With an
    `identifier`, `known` says what becomes of records whose identifier stands in the study: both are kept, the new one
    is skipped, or its entries replace what stands there. Where the source has no column for a variable, new records
    stay blank.
    """

    do: Literal["add records"] = "add records"
    needs_supplies: ClassVar[bool] = True
    source_id: NewSourceId
    source: Source
    matched: dict[VariableId, int]
    heads: dict[VariableId, str] = Field(default_factory=dict)
    variables: tuple[Arrival, ...] = ()
    identifier: VariableId | None = None
    known: Known = "keep both"

    def change(self, study: Study, supplies: Supplies) -> Made:
        for id in self.matched:
            study.variable(id)
        if not self.matched and not self.variables:
            raise BadInput("None of the file's columns was taken.", remedy="Match at least one column to a variable.")
        if self.identifier is not None and self.identifier not in self.matched:
            raise BadInput("The identifier has no column in this file.", remedy="Match it, or choose another.")
        meeting = self._meeting(study, supplies)
        grown = with_arrivals(study, self.source_id, self.source, self.variables, {})
        columns = {
            id: meeting.joined(study.columns.get(id, EMPTY_COLUMN), supplies[id])
            for id in (*self.matched, *(arrival.id for arrival in self.variables))
        }
        grown = replace(grown.with_columns(columns), records=study.records.grown(meeting.added))
        said = f"Added {counted(meeting.added, 'record')} from {self.source.name}"
        notes = []
        if meeting.replaced:
            notes.append(counted(meeting.replaced, "record") + " replaced")
        if meeting.skipped:
            notes.append(counted(meeting.skipped, "record") + " skipped")
        if self.variables:
            notes.append(counted(len(self.variables), "new variable"))
        return Made(grown, said, meeting.replaced * len(self.matched), tuple(notes))

    def rows(self, study: Study, supplies: Supplies) -> Rows:
        """Per record that there is then its row in the source (from 0), -1 where its entries are of none: int64."""
        meeting = self._meeting(study, supplies)
        out = np.full(study.records.arrived + meeting.added, -1, np.int64)
        taken = np.flatnonzero(meeting.target >= 0)
        out[meeting.target[taken]] = taken  # of two that replace one the later stands
        return out

    def _meeting(self, study: Study, supplies: Supplies) -> "Meeting":
        return Meeting(study, supplies, self.source.records, self.identifier, self.known)


@dataclass(frozen=True, eq=False)
class Meeting:
    """How the n records of a source meet those of a study: which are new, and where the others stand.

    `target`: per record of the source its position in the study (int64, n), -1 where it is left out.
    """

    study: Study
    supplies: Mapping[str, Column]
    records: int
    identifier: str | None
    known: Known

    @cached_property
    def twins(self) -> npt.NDArray[np.int64]:
        """Per record of the source the position of the study's first record with its identifier, else -1.

        Identifiers are compared as they are read; blank, missing and unreadable ones match nothing.
        """
        if self.identifier is None:
            return np.full(self.records, -1, np.int64)
        new = identifiers(self.supplies[self.identifier], self.study.lens(self.identifier), self.records)
        old = identifiers_of(self.study, self.identifier)
        at = pc.index_in(new, old).to_numpy(zero_copy_only=False).astype(float)
        there = ~np.isnan(at) & pc.is_valid(new).to_numpy(zero_copy_only=False)
        out = np.full(self.records, -1, np.int64)
        out[there] = at[there].astype(np.int64)
        return out

    @cached_property
    def target(self) -> npt.NDArray[np.int64]:
        """Where each record goes."""
        twins = self.twins if self.known != "keep both" else np.full(self.records, -1, np.int64)
        fresh = twins < 0
        out = np.where(fresh, self.study.records.arrived + np.cumsum(fresh) - 1, twins)
        if self.known == "skip":
            out[~fresh] = -1
        return out

    @property
    def added(self) -> int:
        """Records that the study did not have."""
        return int((self.target >= self.study.records.arrived).sum())

    @property
    def replaced(self) -> int:
        """Records of the source that take the place of others."""
        return int(((self.target >= 0) & (self.target < self.study.records.arrived)).sum())

    @property
    def skipped(self) -> int:
        """Records of the source that are left out."""
        return int((self.target < 0).sum())

    def joined(self, column: Column, came: Column) -> Column:
        """A column of the study with the entries that came for it."""
        fresh = self.target >= self.study.records.arrived
        grown = column.appended(came.kept(fresh, self.records), self.study.records.arrived)
        return grown.with_entries_of(came, *self._replacing)

    @cached_property
    def _replacing(self) -> tuple[npt.NDArray[np.int64], npt.NDArray[np.int64]]:
        """Positions in the study that are replaced (ascending), and by which record; of two the later one stands."""
        over = np.flatnonzero((self.target >= 0) & (self.target < self.study.records.arrived))[::-1]
        positions, first = np.unique(self.target[over], return_index=True)
        return positions, over[first]


def with_arrivals(
    study: Study, source_id: str, source: Source, arrivals: tuple[Arrival, ...], supplies: Supplies
) -> Study:
    """The study with a source and the variables that come from it."""
    taken = set(study.name_keys)
    for arrival in arrivals:
        check_name(arrival.tag.name, taken, study.naming)
        taken.add(key_of(arrival.tag.name))
        if arrival.id in study.variables:
            raise NotThere("A new variable has an id that is taken.")

    def variable(arrival: Arrival) -> Variable:
        origin = Origin(kind="source", source=source_id, column=arrival.column, name=arrival.name)
        return Variable(tag=arrival.tag, origin=origin, proposed=True)

    return study.put("source", {source_id: source}).with_variables(
        (arrival.id, variable(arrival), supplies.get(arrival.id, EMPTY_COLUMN)) for arrival in arrivals
    )
