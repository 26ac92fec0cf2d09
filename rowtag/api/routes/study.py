"""Looking at a study: overview, records, checks, tables, diary; and its events."""

import asyncio
from collections.abc import AsyncIterator

import orjson
from fastapi import APIRouter, Query, Request, Response
from fastapi.responses import StreamingResponse

from rowtag.api.bodies import Number, Route
from rowtag.api.context import Here
from rowtag.api.models import (
    CheckReport,
    DiaryLineModel,
    DiaryPage,
    DiaryRun,
    FindingModel,
    NextStray,
    Overview,
    RecordNumbers,
    ViewsReply,
    ViewsRequest,
    map_of,
    strip_of,
)
from rowtag.core.answers import Answer, answers
from rowtag.core.checks import findings_across, findings_on, is_ready, records_of, run_checks
from rowtag.core.checks.strays import stray_tokens
from rowtag.core.errors import BadInput
from rowtag.core.frame import Frame
from rowtag.core.records import Strays, page, position_of, record_called
from rowtag.core.views import FillCounts
from rowtag.service.looking import since
from rowtag.store.diary import runs

router = APIRouter(route_class=Route, prefix="/api/studies/{study_id}", tags=["study"])

MOST_NUMBERS = 200
"""Record numbers of one answer, at most."""
MOST_PAGE = 2_000
"""Records on one page, at most."""


@router.get("")
def overview(here: Here, study_id: str, known: Number | None = None) -> Overview:
    """The study at its head: its tags with their fills, and what undo and redo would do.

    Whoever names a revision that it knows gets only the tags that have changed since, where that can be told.
    """
    entry, file = here.workspace.entry(study_id), here.study(study_id)
    revision, study = file.snapshot()
    before = file.held_at(known) if known is not None else None
    touched, changed = since(before, study)
    total = here.totals.of(study, before, touched)
    return Overview(
        id=study_id,
        title=entry.title,
        revision=revision,
        state=file.head,
        records=study.records.count,
        fill=FillCounts.of(total.fill),
        order=list(study.order),
        variables=[strip_of(study, id) for id in changed],
        batteries={id: battery.title for id, battery in study.shelves["battery"].items()},
        lists={id: each.name for id, each in study.shelves["list"].items()},
        findings=total.findings,
        ready=total.ready,
        undo=file.undo_sentence(),
        redo=file.redo_sentence(),
        kept_at=file.kept_at,
    )


@router.get("/records", responses={200: {"content": {"application/json": {}}}}, response_class=Response)
def records_page(here: Here, study_id: str, start: Number = 0, stop: Number = 60, variables: str = "") -> Response:
    """Entries at positions start..stop-1 for some variables (ids joined by commas), column by column.

    Per variable: the distinct entries on the page as recorded (`texts`), their canonical `codes`, `labels`
    and `states` (0 valid, 1 coded missing, 2 blank, 3 unreadable, 4 unlisted), and per record an `index`.
    """
    revision, study = here.study(study_id).snapshot()
    ids = [id for id in variables.split(",") if id] if variables else list(study.order)
    for id in ids:
        study.variable(id)
    if stop - start > MOST_PAGE:
        raise BadInput(f"At most {MOST_PAGE:,} records can be asked for at once.")
    numbers, columns = page(study, ids, start, stop)
    body = orjson.dumps({"revision": revision, "records": numbers, "columns": columns})
    return Response(body, media_type="application/json")


@router.get("/next-stray")
def next_stray(
    here: Here, study_id: str, record: Number = 0, variable: str | None = None, back: bool = False
) -> NextStray | None:
    """The next stray behind a cell, along the record and then the records below; or the one before it."""
    study = here.study(study_id).study
    found = Strays(study).beside(record, variable, back=back)
    position = None if found is None else position_of(study, found.record)
    if found is None or position is None:
        return None
    return NextStray(record=found.record, position=position, variable=found.variable, number=found.number, of=found.of)


@router.get("/record-called")
def record_named(here: Here, study_id: str, text: str = Query("", max_length=1_000)) -> RecordNumbers:
    """The record whose identifier, else whose number, is a text; none where there is none."""
    study = here.study(study_id).study
    found = record_called(study, text)
    return RecordNumbers.of(study, [] if found is None else [found])


@router.get("/variables/{variable_id}/answers")
def answers_of(here: Here, study_id: str, variable_id: str) -> list[Answer]:
    """What can be answered under a variable's tag: its codes with their labels, missing ones behind."""
    study = here.study(study_id).study
    study.variable(variable_id)
    return answers(study, variable_id)


@router.get("/variables/{variable_id}/records")
def records_holding(
    here: Here, study_id: str, variable_id: str, entry: list[str] = Query([]), check: str | None = None
) -> RecordNumbers:
    """The first records that a finding of a check on a variable is about, or that hold strays of it; only those with
    some entries where these are named."""
    study = here.study(study_id).study
    study.variable(variable_id)
    if check is None:
        tokens = stray_tokens(study, variable_id, entry)
        return RecordNumbers.of(study, Frame(study).numbers_of(variable_id, tokens, most=MOST_NUMBERS))
    found = [*findings_on(study, variable_id), *findings_across(study)]
    of = next((each for each in found if each.check == check and variable_id in each.variables), None)
    return RecordNumbers.of(study, [] if of is None else records_of(study, of, entry, most=MOST_NUMBERS))


@router.get("/checks")
def check_report(here: Here, study_id: str) -> CheckReport:
    """What all checks find, worst first, and the coding map."""
    revision, study = here.study(study_id).snapshot()
    here.beside.ask(study_id, revision, study)
    beside = here.beside.found(study_id)
    across = [each for each in beside.findings if set(each.variables) <= study.variables.keys()] if beside else []
    findings = run_checks(study, across)
    return CheckReport(
        revision=revision,
        across=beside.revision if beside else None,
        findings=[FindingModel.of(finding, most=12) for finding in findings],
        map=map_of(study, findings),
        accepted=len(study.shelves["accepted"]),
        ready=sum(is_ready(study, id) for id in study.order),
        variables=len(study.order),
    )


@router.post("/views")
def views(here: Here, study_id: str, request: ViewsRequest) -> ViewsReply:
    """What somebody wants to look at: any kinds of view, all of one and the same state."""
    revision, study = here.study(study_id).snapshot()
    frame = Frame(study)
    return ViewsReply(revision=revision, shown=[view.look(frame) for view in request.views])


@router.get("/diary")
def diary(here: Here, study_id: str, before: Number | None = None, most: int = Query(100, ge=1, le=500)) -> DiaryPage:
    """Steps in sentences, newest first; `before` continues behind a revision."""
    file = here.study(study_id)
    lines = file.diary(most, before)
    found = [
        DiaryRun(sentence=run.sentence, lines=[DiaryLineModel.model_validate(line) for line in run.lines])
        for run in runs(lines, file.study)
    ]
    return DiaryPage(runs=found, count=file.step_count(), more=lines[-1].revision if len(lines) == most else None)


@router.get("/events")
async def events(here: Here, study_id: str, request: Request) -> StreamingResponse:
    """Server-sent events, as they come, with JSON data.

    `revision`: a new revision, what it touched, and the id of the step that made it, if one did. `checked`: the
    revision for which findings across variables hold now.
    """
    here.workspace.entry(study_id)

    async def stream() -> AsyncIterator[str]:
        queue = here.announcer.listen(study_id)
        try:
            yield ": listening\n\n"
            while not await request.is_disconnected():
                try:
                    event = await asyncio.wait_for(queue.get(), timeout=15)
                    yield f"event: {event.kind}\ndata: {orjson.dumps(event.told).decode()}\n\n"
                except TimeoutError:
                    yield ": still here\n\n"
        finally:
            here.announcer.leave(study_id, queue)

    return StreamingResponse(stream(), media_type="text/event-stream", headers={"Cache-Control": "no-store"})
