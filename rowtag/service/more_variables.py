"""More variables for a study: a second file of the same records, put beside them by an identifier."""

import secrets
from dataclasses import dataclass

from pydantic import Field

from rowtag.core.errors import BadInput
from rowtag.core.meeting import Beside, Doubled, column_telling
from rowtag.core.names import key_of, suggest
from rowtag.core.naming import Called, meet
from rowtag.core.reading import Fill
from rowtag.core.steps.beside import PutBeside
from rowtag.core.steps.bring_in import Arrival
from rowtag.core.study import Study
from rowtag.core.tag import Frozen, Tag
from rowtag.core.tokens import Texts
from rowtag.formats.intake import Holding, column_id
from rowtag.formats.table import Settings, Watch, unwatched
from rowtag.service.files import Looked
from rowtag.service.intake import reading_of, source_of
from rowtag.store.diary import Outcome
from rowtag.store.studyfile import StudyFile
from rowtag.store.workspace import Upload

TOLD = 12
"""Identifiers that are told one by one."""


class MoreVariables(Frozen):
    """How a file's columns are put beside a study's records: the identifier, the column that holds it (from 1; where
    these are not said, as the names tell them), which columns are taken or left otherwise than proposed, and which of
    several rows with one identifier counts."""

    identifier: str | None = None
    column: int | None = None
    taken: dict[int, bool] = Field(default_factory=dict)
    doubled: Doubled = "first"


@dataclass(frozen=True)
class BesideColumn:
    """A column of the file: its number (from 1), head, whether it is taken, the name it would get, its type and fill
    among its own records, and the variable of the study that bears its name."""

    column: int
    head: str
    taken: bool
    name: str
    type: str
    fill: Fill
    known_as: str | None


@dataclass(frozen=True)
class BesideReport:
    """How a file would stand beside a study's records, in numbers: `matched` records of the study have a row, `alone`
    have none; `without` rows have no record (`unknown` are the first of their identifiers, blank where they have none),
    and `doubled` rows bear an identifier more than once (`doubles` are the first of these)."""

    identifier: str | None
    column: int | None
    columns: list[BesideColumn]
    records: int
    matched: int
    alone: int
    unmatched: list[str]
    without: int
    unknown: list[str]
    doubled: int
    doubles: list[str]
    shared: int
    """Rows that stand beside more than one record."""


def standing_beside(study: Study, holding: Holding, more: MoreVariables) -> BesideReport:
    """How the rows of a file meet the records of a study, and its columns the variables."""
    identifier, column = _told_by(study, holding, more)
    columns = _columns(study, holding, more, column)
    if identifier is None or column is None:
        rows = holding.table.records
        return BesideReport(identifier, column, columns, rows, 0, study.records.count, [], rows, [], 0, [], 0)
    beside = Beside(study, identifier, holding.table.columns[column - 1], holding.table.records, more.doubled)
    doubles, rows = beside.doubles
    return BesideReport(
        identifier=identifier,
        column=column,
        columns=columns,
        records=holding.table.records,
        matched=beside.matched,
        alone=beside.alone,
        unmatched=_first(beside.lonely),
        without=int(beside.without.size),
        unknown=_first(beside.strangers),
        doubled=rows,
        doubles=list(doubles[:TOLD]),
        shared=beside.shared,
    )


def _first(texts: Texts) -> list[str]:
    return [text or "" for text in texts[:TOLD].to_pylist()]


def _told_by(study: Study, holding: Holding, more: MoreVariables) -> tuple[str | None, int | None]:
    """The identifier and its column: as they were said, else the study's own identifier and the column of its name, or
    the one that holds it under another."""
    identifier = more.identifier or next((id for id in study.order if study.tag(id).use == "identifier"), None)
    if identifier is not None:
        study.variable(identifier)
    if more.column is not None and not 1 <= more.column <= len(holding.proposals):
        raise BadInput(f"The file has no column {more.column:,}.", remedy=f"It has {len(holding.proposals):,}.")
    if identifier is None or more.column is not None:
        return identifier, more.column
    heads = [
        Called(head.strip(), proposal.tag.name)
        for head, proposal in zip(holding.table.heads, holding.proposals, strict=True)
    ]
    met = meet(study, heads, [identifier])
    place = next(iter((*met.found, *met.near)), None)
    if place is None:
        place = column_telling(study, identifier, holding.table.columns, holding.table.records)
    return identifier, None if place is None else place + 1


def _columns(study: Study, holding: Holding, more: MoreVariables, column: int | None) -> list[BesideColumn]:
    """The columns with the names that they would get; those whose name the study has are left unless they are asked
    for, and then get another."""
    out, taken = [], set(study.name_keys)
    for number, proposal in enumerate(holding.proposals, 1):
        if number == column:
            continue
        own = proposal.tag.name
        known_as = study.name_keys.get(key_of(own))
        is_taken = more.taken.get(number, known_as is None)
        name = suggest(own, taken, study.naming) if is_taken else own
        if is_taken:
            taken.add(key_of(name))
        head = holding.table.heads[number - 1]
        fill = holding.study.fill(column_id(number))
        out.append(BesideColumn(number, head, is_taken, name, proposal.tag.type, fill, known_as))
    return out


def more_variables(
    file: StudyFile,
    upload: Upload,
    settings: Settings,
    more: MoreVariables,
    *,
    step_id: str,
    by: str = "",
    watch: Watch = unwatched,
    opened: Looked | None = None,
) -> Outcome:
    """Reads a whole file and puts its columns beside a study's records as one step."""
    with reading_of(upload, settings, opened, watch) as (holding, pieces):
        study = file.study
        identifier, column = _told_by(study, holding, more)
        if identifier is None or column is None:
            raise BadInput(
                "It is not said by what the records are told.",
                remedy="Choose the identifier and the file's column of it.",
            )
        table = holding.table
        arrivals, supplies = [], {identifier: table.columns[column - 1]}
        taken = list[int]()
        for each in _columns(study, holding, more, column):
            if each.taken:
                taken.append(each.column)
                tag: Tag = holding.proposals[each.column - 1].tag.with_parts(name=each.name)
                place = table.numbers[each.column - 1]
                arrivals.append(Arrival(id=secrets.token_hex(4), column=place, name=each.head, tag=tag))
                supplies[arrivals[-1].id] = table.columns[each.column - 1]
        step = PutBeside(
            source_id=secrets.token_hex(4),
            source=source_of(upload, holding, [column, *taken]),
            variables=tuple(arrivals),
            identifier=identifier,
            column=table.numbers[column - 1],
            head=table.heads[column - 1],
            doubled=more.doubled,
        )
        watch(0.85, "keeping")
        return file.take(step, step_id, by=by, supplies=supplies, source=(upload.sha256, iter(pieces())))
