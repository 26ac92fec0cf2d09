"""Bringing a file into a study: look, propose, then one step; and starting without a file."""

import secrets
from collections.abc import Iterable, Iterator, Mapping
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Any

from rowtag.core.errors import BadInput
from rowtag.core.names import check_name, key_of
from rowtag.core.propose import Proposal
from rowtag.core.refs import mapped
from rowtag.core.steps.bring_in import Arrival, BringIn
from rowtag.core.steps.start import AddVariables, NewVariable
from rowtag.core.study import Source, Study
from rowtag.core.tag import Parts, Tag
from rowtag.formats import intake
from rowtag.formats.intake import Holding
from rowtag.formats.table import Settings, Watch, part_of, unwatched
from rowtag.service.files import Looked
from rowtag.store.diary import Outcome
from rowtag.store.sources import compressed_pieces
from rowtag.store.studyfile import StudyFile, now
from rowtag.store.workspace import Entry, Upload, Workspace


class Choice(Parts):
    """What somebody chose for a column in place of what was proposed; parts not given stay as proposed."""

    name: str | None = None
    leave_out: bool = False


# Bringing in ------------------------------------------------------------------------------------


@dataclass(frozen=True)
class Column:
    """A column of a file as it would come in: its number (from 1), head, proposal, and the tag as chosen."""

    number: int
    head: str
    proposal: Proposal
    tag: Tag


def chosen(holding: Holding, choices: Mapping[int, Choice]) -> Iterator[Column]:
    """The columns of a file with what was chosen for them, without those left out."""
    for number in range(1, len(holding.proposals) + 1):
        choice = choices.get(number, Choice())
        if not choice.leave_out:
            yield chosen_column(holding, number, choice)


def chosen_column(holding: Holding, number: int, choice: Choice) -> Column:
    """One column with what was chosen; what depends on a chosen type is proposed for that type."""
    given = choice.given()
    proposal = holding.proposal(number, given.get("type"), given.get("marks"))
    if choice.name is not None:
        given["name"] = choice.name
    return Column(number, holding.table.heads[number - 1], proposal, proposal.tag.with_parts(**given))


def bring_in(
    file: StudyFile,
    upload: Upload,
    settings: Settings,
    choices: Mapping[int, Choice] | None = None,
    *,
    step_id: str,
    by: str = "",
    watch: Watch = unwatched,
    opened: Looked | None = None,
) -> Outcome:
    """Reads a whole file and brings it into an empty study as one step, with its bytes."""
    with reading_of(upload, settings, opened, watch) as (holding, pieces):
        arrivals, supplies, taken_columns = [], {}, list[int]()
        taken: set[str] = set()
        for column in chosen(holding, choices or {}):
            check_name(column.tag.name, taken, file.study.naming)
            taken.add(key_of(column.tag.name))
            place = holding.table.numbers[column.number - 1]
            arrival = Arrival(id=secrets.token_hex(4), column=place, name=column.head, tag=column.tag)
            arrivals.append(arrival)
            taken_columns.append(column.number)
            supplies[arrival.id] = holding.table.columns[column.number - 1]
        if not arrivals:
            raise BadInput("Every column is left out.", remedy="Take at least one.")
        source = source_of(upload, holding, taken_columns)
        step = BringIn(source_id=secrets.token_hex(4), source=source, variables=tuple(arrivals))
        watch(0.85, "keeping")
        return file.take(step, step_id, by=by, supplies=supplies, source=(upload.sha256, iter(pieces())))


@contextmanager
def reading_of(upload: Upload, settings: Settings, opened: Looked | None, watch: Watch) -> Iterator[Any]:
    """What a file holds, and its bytes in compressed pieces, which are made meanwhile."""
    with ThreadPoolExecutor(1) as aside:
        pieces = aside.submit(lambda: list(compressed_pieces(upload.path)))
        reading = part_of(watch, 0, 0.8)
        if opened is not None:
            holding = opened.read(settings, reading)
        else:
            holding = intake.read(upload.path, upload.name, settings, reading)
        yield holding, pieces.result


def source_of(upload: Upload, holding: Holding, taken: Iterable[int] | None = None) -> Source:
    """A file as a source; the settings are those that the reading came to. Of its columns those are left out that are
    not among those `taken` (by their places, from 1); none, where nothing is said."""
    heads = holding.table.heads
    places = range(1, len(heads) + 1) if taken is None else set(taken)
    return Source(
        name=upload.name,
        size=upload.size,
        sha256=upload.sha256,
        kind=holding.table.settings.kind,
        records=holding.table.records,
        settings=holding.table.settings.model_dump(exclude_defaults=True),
        brought_at=now(),
        left_out=tuple(head for place, head in enumerate(heads, 1) if place not in places),
    )


# Without a file ---------------------------------------------------------------------------------


def codebook_of(other: Study, title: str) -> AddVariables:
    """The step that takes the whole codebook of another study, without its entries."""
    if not other.order:
        raise BadInput(f"“{title}” has no variables.", remedy="Choose a study that has a codebook.")
    fresh = {id: secrets.token_hex(4) for id in other.order}

    def carried(tag: Tag) -> Tag:
        return mapped(tag, lambda ref, id: fresh[id] if ref.kind == "variable" else id)

    return AddVariables(
        variables=tuple(NewVariable(id=fresh[id], tag=carried(other.tag(id))) for id in other.order),
        batteries=dict(other.shelves["battery"]),
        sections=dict(other.shelves["section"]),
        lists=dict(other.shelves["list"]),
        origin=f"the codebook of “{title}”",
    )


def second_keying(workspace: Workspace, study_id: str) -> Entry:
    """A study of its own with the codebook of another, for keying the same questionnaires in a second time."""
    return with_codebook_of(workspace, study_id, f"{workspace.entry(study_id).title}, second keying")


def with_codebook_of(workspace: Workspace, study_id: str, title: str) -> Entry:
    """A study with the codebook of another and no records."""
    step = codebook_of(workspace.study(study_id).study, workspace.entry(study_id).title)
    return workspace.make(title, fill=lambda file: file.take(step, secrets.token_hex(8)))
