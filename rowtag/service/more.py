"""More records for a study: which columns are which variables, which records are known, then one step."""

import secrets
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Literal

from pydantic import Field

from rowtag.core.errors import BadInput
from rowtag.core.names import key_of, suggest
from rowtag.core.naming import Called, How, meet
from rowtag.core.reading import Fill
from rowtag.core.steps.bring_in import AddRecords, Arrival, Known, Meeting
from rowtag.core.study import Study
from rowtag.core.tag import Frozen
from rowtag.formats.intake import Holding, column_id
from rowtag.formats.table import Settings, Watch, unwatched
from rowtag.service.files import Looked
from rowtag.service.intake import reading_of, source_of
from rowtag.store.diary import Outcome
from rowtag.store.studyfile import StudyFile
from rowtag.store.workspace import Upload


class Match(Frozen):
    """What somebody chose for a column of more records: the variable it belongs to, none for a new one."""

    variable: str | None = None
    leave_out: bool = False


class More(Frozen):
    """How more records join a study: per column (from 1) its variable, and what becomes of known identifiers."""

    matches: dict[int, Match] = Field(default_factory=dict)
    identifier: str | None = None
    known: Known = "keep both"


_HOW: dict[How, str] = {"name": "name", "earlier name": "first name", "other name": "name", "spelling": "near"}
"""How columns are met, by how names are; entries go nowhere on a likeness that nobody confirmed."""


@dataclass(frozen=True)
class Met:
    """A column of a file of more records: its variable, how that was found, and how its entries would read there.

    `how`: "name"; "first name" (the variable was called so once); "near" (the same but for case and signs, or nearly:
    asked, and taken only when confirmed); "chosen"; "new". `fill` is how the entries read under the variable's tag,
    `type` what they look like; `written_otherwise`: of the same type, with other marks (a decimal comma, another order
    of dates).
    """

    column: int
    head: str
    variable: str | None
    how: str
    type: str
    written_otherwise: bool
    fill: Fill


Kinship = Literal["more records", "more variables", "corrected"]
"""What a file may be to a study that has variables: other records, the same ones with other variables, or the same ones
with the same variables once more."""
KNOWN = 0.6
"""Share of a file's records that a study has, from which these are its records once more."""


@dataclass(frozen=True)
class Joining:
    """How a file of more records would join a study, in numbers. `likely` is what it seems to be, and `source` the id
    of the source that it seems to correct."""

    columns: list[Met]
    gone: list[str]
    records: int
    known: int
    added: int
    replaced: int
    skipped: int
    likely: Kinship
    source: str | None


def joining(study: Study, holding: Holding, more: More) -> Joining:
    """How the columns of a file meet the variables of a study, and its records those of the study."""
    met = _matched(study, holding, more)
    supplies = {each.variable: holding.table.columns[each.column - 1] for each in met if each.variable}
    identifier = more.identifier if more.identifier in supplies else None
    meeting = Meeting(study, supplies, holding.table.records, identifier, more.known)
    return Joining(
        columns=met,
        gone=[id for id in study.order if id not in supplies],
        records=holding.table.records,
        known=int((meeting.twins >= 0).sum()),
        added=meeting.added,
        replaced=meeting.replaced,
        skipped=meeting.skipped,
        **_kinship(study, holding, met),
    )


def _kinship(study: Study, holding: Holding, met: Sequence[Met]) -> dict[str, Any]:
    """What a file seems to be, told by how many of its records, and of its columns, the study has."""
    columns = {each.variable: each.column for each in met if each.variable}
    identifier = next((id for id in columns if id and study.tag(id).use == "identifier"), None)
    came = Counter(study.variable(id).origin.source for id in columns if id)
    source = next((id for id, _ in came.most_common() if id is not None), None)
    if identifier is None or not holding.table.records:
        return {"likely": "more records", "source": source}
    supplies = {identifier: holding.table.columns[columns[identifier] - 1]}
    known = Meeting(study, supplies, holding.table.records, identifier, "skip").skipped
    if known < KNOWN * holding.table.records:
        return {"likely": "more records", "source": source}
    same = (len(columns) - 1) * 2 >= len(holding.proposals) - 1 and source is not None
    return {"likely": "corrected" if same else "more variables", "source": source}


def _matched(study: Study, holding: Holding, more: More) -> list[Met]:
    """Every column with its variable: as chosen, by name, by first name, else asked about by nearness."""
    found: dict[int, tuple[str | None, str]] = {}
    for column, match in more.matches.items():
        if not match.leave_out:
            if match.variable is not None:
                study.variable(match.variable)
            found[column] = match.variable, "chosen" if match.variable else "new"
    columns = [column for column in range(1, len(holding.proposals) + 1) if column not in more.matches]
    used = {id for id, _ in found.values() if id}
    heads = [
        Called(holding.table.heads[column - 1].strip(), holding.proposals[column - 1].tag.name) for column in columns
    ]
    met = meet(study, heads, [id for id in study.order if id not in used])
    for number, column in enumerate(columns):
        if number in met.found:
            id, how = met.found[number]
            found[column] = id, _HOW[how]
        else:
            near = met.near.get(number)
            found[column] = (near, "near") if near else (None, "new")
    return [_met(study, holding, column, *found[column]) for column in sorted(found)]


def _met(study: Study, holding: Holding, column: int, variable: str | None, how: str) -> Met:
    proposal = holding.proposals[column - 1]
    tag = proposal.tag
    if variable:
        tag = study.tag(variable).with_parts(code_list=None, codes=study.codes(variable))
    read = holding.study.with_tags({column_id(column): tag})
    head = holding.table.heads[column - 1]
    otherwise = tag.type == proposal.tag.type and tag.marks != proposal.tag.marks
    return Met(column, head, variable, how, proposal.tag.type, otherwise, read.fill(column_id(column)))


def more_records(
    file: StudyFile,
    upload: Upload,
    settings: Settings,
    more: More,
    *,
    step_id: str,
    by: str = "",
    watch: Watch = unwatched,
    opened: Looked | None = None,
) -> Outcome:
    """Reads a whole file and adds its records to a study as one step. Near names must be confirmed or refused."""
    with reading_of(upload, settings, opened, watch) as (holding, pieces):
        study = file.study
        matched, heads, arrivals, supplies = {}, {}, [], {}
        taken, taken_columns = set(study.name_keys), list[int]()
        for met in _matched(study, holding, more):
            column = holding.table.columns[met.column - 1]
            taken_columns.append(met.column)
            if met.variable is not None and met.how == "near":
                raise BadInput(
                    f"“{met.head}” is nearly called like {study.tag(met.variable).name}.",
                    remedy="Say whether it is the same variable or a new one.",
                )
            if met.variable is not None:
                if met.variable in matched:
                    raise BadInput(
                        f"Two columns are matched to {study.tag(met.variable).name}.", remedy="Leave one of them out."
                    )
                matched[met.variable] = met.column
                heads[met.variable] = met.head
                supplies[met.variable] = column
                continue
            tag = holding.proposals[met.column - 1].tag
            tag = tag.with_parts(name=suggest(tag.name, taken, study.naming))
            taken.add(key_of(tag.name))
            place = holding.table.numbers[met.column - 1]
            arrival = Arrival(id=secrets.token_hex(4), column=place, name=met.head, tag=tag)
            arrivals.append(arrival)
            supplies[arrival.id] = column
        step = AddRecords(
            source_id=secrets.token_hex(4),
            source=source_of(upload, holding, taken_columns),
            matched=matched,
            heads=heads,
            variables=tuple(arrivals),
            identifier=more.identifier,
            known=more.known,
        )
        watch(0.85, "keeping")
        return file.take(step, step_id, by=by, supplies=supplies, source=(upload.sha256, iter(pieces())))
