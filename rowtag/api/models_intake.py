"""What the intake's routes say and take."""

from collections.abc import Sequence

import numpy as np
from pydantic import BaseModel, ConfigDict

from rowtag.api.bodies import Number, StepId
from rowtag.api.models_diary import AmendedLine, AmendProblem, ComparedModel
from rowtag.core.checks.base import Evidence
from rowtag.core.frame import Frame
from rowtag.core.propose import Suspect
from rowtag.core.reading import State
from rowtag.core.study import Study
from rowtag.core.tables import commonest
from rowtag.core.tag import Tag, Type
from rowtag.core.views import FillCounts
from rowtag.formats.encodings import ENCODINGS
from rowtag.formats.fields import FieldSource
from rowtag.formats.intake import Holding, Kind, column_id
from rowtag.formats.table import Picture, Settings
from rowtag.service.correcting import MOST_TOLD, Changed, Corrected, Correction
from rowtag.service.intake import Choice, Column
from rowtag.service.more import Kinship, More
from rowtag.service.more_variables import MoreVariables

FIRST_TOLD = 12
"""New and gone records that are told one by one."""
SHOWN_STRAYS = 3
"""Kinds of stray named in the list of columns."""
SHOWN_IN_FULL = 12
"""Kinds of stray named, with their records, where one column is looked at."""


class IntakeFile(BaseModel):
    """A file that was handed in: its first rows as they stand, and how it would be read."""

    id: str
    name: str
    size: int
    settings: Settings
    rows: list[list[str]]
    width: int
    sheets: list[str]
    first_row: int
    tables: list[str]
    problem: str
    encodings: dict[str, str] = ENCODINGS

    @classmethod
    def of(cls, id: str, name: str, size: int, picture: Picture) -> "IntakeFile":
        return cls(id=id, name=name, size=size, **vars(picture))


class Look(BaseModel):
    """How to read a file that was handed in; `heads`: guess anew where names, wordings and data stand."""

    settings: Settings
    heads: bool = False


class GuessRequest(BaseModel):
    """The kind of file to take it for."""

    kind: Kind


class FieldsRequest(BaseModel):
    """Where the widths of fixed columns come from."""

    settings: Settings
    source: FieldSource


class StrayEntry(BaseModel):
    """An entry that would not be read, how often it occurs, and the first records that hold it."""

    entry: str
    count: int
    records: list[int]


class ColumnProposal(BaseModel):
    """What a column of a file looks like it is, or is under what was chosen for it."""

    column: int
    head: str
    tag: Tag
    evidence: str
    doubt: str
    fill: FillCounts
    suspects: list[Suspect]
    strays: list[StrayEntry]
    stray_kinds: int
    commonest: list[Evidence]

    @classmethod
    def of(cls, holding: Holding, column: Column, *, in_full: bool = False) -> "ColumnProposal":
        """A column as it would come in; `in_full` names the records of its strays and its commonest entries."""
        id = column_id(column.number)
        study = holding.study
        if column.tag is not study.tag(id):
            study = study.with_tags({id: column.tag})
        fill = study.fill(id)
        strays, kinds = _strays(study, id, SHOWN_IN_FULL if in_full else SHOWN_STRAYS, in_full)
        return cls(
            column=column.number,
            head=column.head,
            tag=column.tag,
            evidence=column.proposal.evidence,
            doubt=column.proposal.doubt,
            fill=FillCounts.of(fill),
            suspects=list(column.proposal.suspects),
            strays=strays,
            stray_kinds=kinds,
            commonest=[Evidence(entry, count) for entry, count in commonest(study, id)[0][:8]] if in_full else [],
        )


def _strays(study: Study, id: str, most: int, with_records: bool) -> tuple[list[StrayEntry], int]:
    """The commonest strays of a variable, and how many kinds there are."""
    states, counts = study.reading(id).states, study.counts(id)
    tokens = ((states >= State.UNREADABLE) & (counts > 0)).nonzero()[0]
    first = tokens[(-counts[tokens]).argsort(kind="stable")][:most]
    texts = study.column(id).texts_at(first)
    out = [
        StrayEntry(
            entry=text,
            count=int(counts[token]),
            records=Frame(study).numbers_of(id, [token], most=6) if with_records else [],
        )
        for token, text in zip(first.tolist(), texts, strict=True)
    ]
    return out, len(tokens)


class ColumnsRequest(BaseModel):
    """Columns to be looked at again under what was chosen for them."""

    settings: Settings
    choices: dict[int, Choice]


class ProposalReport(BaseModel):
    """What a whole file holds, its last rows, and what each of its columns looks like."""

    settings: Settings
    records: int
    notes: list[str]
    foot: list[list[str]]
    columns: list[ColumnProposal]


class BringInRequest(BaseModel):
    """What to bring in: settings, and choices per column (from 1)."""

    study: str
    step_id: StepId
    settings: Settings
    choices: dict[int, Choice] = {}


class JoinRequest(BaseModel):
    """How a file would join a study that has variables."""

    study: str
    settings: Settings
    more: More


class MoreRecordsRequest(JoinRequest):
    """More records, to be added under a step's id."""

    step_id: StepId


class MetColumn(BaseModel):
    """A column of more records and the variable it belongs to; how its entries would read there."""

    model_config = ConfigDict(from_attributes=True)

    column: int
    head: str
    variable: str | None
    how: str
    type: Type
    written_otherwise: bool
    fill: FillCounts


class JoinReport(BaseModel):
    """How a file of more records would join a study, in numbers; `gone` are variables it has no column for."""

    model_config = ConfigDict(from_attributes=True)

    columns: list[MetColumn]
    gone: list[str]
    records: int
    known: int
    added: int
    replaced: int
    skipped: int
    likely: Kinship
    source: str | None


class BesideRequest(BaseModel):
    """How a file would stand beside the records of a study."""

    study: str
    settings: Settings
    more: MoreVariables


class MoreVariablesRequest(BesideRequest):
    """More variables, to be put beside the records under a step's id."""

    step_id: StepId


class BesideColumnModel(BaseModel):
    """A column of a file of more variables, whether it is taken, under which name, and how its entries read."""

    model_config = ConfigDict(from_attributes=True)

    column: int
    head: str
    taken: bool
    name: str
    type: Type
    fill: FillCounts
    known_as: str | None


class BesideReport(BaseModel):
    """How a file would stand beside the records of a study: what is matched, alone, unknown or doubled."""

    model_config = ConfigDict(from_attributes=True)

    identifier: str | None
    column: int | None
    columns: list[BesideColumnModel]
    records: int
    matched: int
    alone: int
    unmatched: list[str]
    without: int
    unknown: list[str]
    doubled: int
    doubles: list[str]
    shared: int


class CorrectRequest(BaseModel):
    """How a file corrects a source of a study."""

    study: str
    settings: Settings
    how: Correction


class CorrectNow(CorrectRequest):
    """A correction that is to be kept, and the revision for which it was looked at."""

    expected: Number


class ChangedEntry(BaseModel):
    """An entry that the new version has otherwise: variable, record number then and now with what tells the record
    (its identifier, or nothing), both entries; and, where somebody typed another over it, that one and whether it
    stays."""

    variable: str
    record: int
    now: int
    told: str
    was: str
    entry: str
    typed: str | None = None
    stays: bool = True


class CorrectedLook(BaseModel):
    """What a corrected version of a source would make, nothing being kept; or why it cannot take its place."""

    revision: int
    problem: AmendProblem | None = None
    same: int = 0
    new: int = 0
    gone: int = 0
    first_new: list[str] = []
    first_gone: list[str] = []
    columns_gone: list[str] = []
    likely: dict[str, str] = {}
    columns_new: list[str] = []
    notes: list[str] = []
    changed: dict[str, int] = {}
    first: list[ChangedEntry] = []
    typed: list[ChangedEntry] = []
    lines: list[AmendedLine] = []
    compared: ComparedModel | None = None

    @classmethod
    def of(cls, revision: int, found: Corrected, identifier: str | None) -> "CorrectedLook":
        return cls(
            revision=revision,
            same=found.same,
            new=int(found.new.size),
            gone=int(found.gone.size),
            first_new=_told_by(found.after, identifier, found.new[:FIRST_TOLD].tolist()),
            first_gone=_told_by(found.before, identifier, found.gone[:FIRST_TOLD].tolist()),
            columns_gone=found.came.gone,
            likely=found.came.likely,
            columns_new=found.came.new,
            notes=found.came.notes,
            changed=found.changed,
            first=_changed(found, found.first, identifier),
            typed=_changed(found, found.typed[:MOST_TOLD], identifier),
            lines=[AmendedLine.of(line) for line in found.lines[1:]],
            compared=ComparedModel.of(found.before, found.after, found.compared),
        )


def _told_by(study: Study, identifier: str | None, records: list[int]) -> list[str]:
    """What tells some records: their identifiers, else their numbers."""
    if identifier is None or identifier not in study.variables:
        return [f"record {record:,}" for record in records]
    column = study.column(identifier)
    return column.texts_at(column.tokens_in(np.array(records, np.int64) - 1))


def _changed(found: Corrected, entries: Sequence[Changed], identifier: str | None) -> list[ChangedEntry]:
    told = _told_by(found.after, identifier, [each.now for each in entries])
    return [ChangedEntry(told=by, **vars(each)) for each, by in zip(entries, told, strict=True)]


class SourceModel(BaseModel):
    """A file that was brought in, and how it was read."""

    id: str
    name: str
    size: int
    sha256: str
    records: int
    brought_at: str
    settings: Settings
    encoding: str
    variables: int


class OriginalRows(BaseModel):
    """Rows of a source as they were brought in."""

    heads: list[str]
    records: int
    start: int
    rows: list[list[str]]


class CodebookFrom(BaseModel):
    """Another study whose codebook is taken, under a step's id."""

    other: str
    step_id: StepId
