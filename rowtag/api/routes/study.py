"""Looking at a study: overview, checks, tables, diary; and its events."""

import asyncio
from collections.abc import AsyncIterator

import orjson
from fastapi import APIRouter, Query, Request
from fastapi.responses import StreamingResponse

from rowtag.api.bodies import Number, Route
from rowtag.api.context import Here
from rowtag.api.models import (
    DiaryLineModel,
    DiaryPage,
    DiaryRun,
    Overview,
    TouchedParts,
    strip_of,
)
from rowtag.api.models_views import BasisModel, Shown, ViewRefused, ViewsReply, ViewsRequest
from rowtag.core.basis import basis_of
from rowtag.core.errors import BadInput, NotThere
from rowtag.core.formulas import named
from rowtag.core.frame import Frame
from rowtag.core.views import FillCounts, View
from rowtag.service.looking import since, touched_on_the_way
from rowtag.service.looking_back import Wanted, looked_back
from rowtag.store.diary import runs
from rowtag.store.workspace import Seen

router = APIRouter(route_class=Route, prefix="/api/studies/{study_id}", tags=["study"])


@router.get("")
def overview(here: Here, study_id: str, known: Number | None = None) -> Overview:
    """The study at its head: its tags with their fills, and what undo and redo would do.

    Whoever names a revision that it knows gets only the tags that have changed since, and what was touched, where
    that can be told.
    """
    entry, file = here.entry(study_id), here.study(study_id)
    revision, study = file.snapshot()
    before = file.held_at(known) if known is not None else None
    touched, changed = since(before, study)
    total = here.totals.of(study, before, touched)
    on_the_way = None if known is None else touched_on_the_way(file, known, revision, touched)
    here.beside.ask(study_id, revision, study)
    beside = here.beside.found(study_id)
    across = sum(finding.severity != "note" for finding in beside.findings) if beside else 0
    undo, fill = file.undo_sentence(), FillCounts.of(total.fill)
    if not file.looked_at:
        shares = (fill.valid, fill.missing, fill.blank, fill.stray)
        here.workspace.note_seen(study_id, Seen(*shares, findings=total.findings + across, last=undo or ""))
    return Overview(
        id=study_id,
        title=entry.title,
        revision=revision,
        state=file.head,
        records=study.records.count,
        fill=fill,
        touched=None if on_the_way is None else TouchedParts(**on_the_way),
        order=list(study.order),
        variables=[strip_of(study, id) for id in changed],
        batteries={id: battery.title for id, battery in study.shelves["battery"].items()},
        lists={id: each.name for id, each in study.shelves["list"].items()},
        findings=total.findings + across,
        ready=total.ready,
        undo=undo,
        redo=file.redo_sentence(),
        kept_at=file.kept_at,
        edition=file.looked_at,
    )


@router.post("/views")
def views(here: Here, study_id: str, request: ViewsRequest) -> ViewsReply:
    """What somebody wants to look at: any kinds of view, all of one state and of the same records. In place of one that
    cannot be stands why."""
    revision, study = here.study(study_id).snapshot()
    basis = basis_of(
        study, named(request.only, study) if request.only and request.only.strip() else None, request.weight
    )
    shown = [_looked_at(view, basis.frame) for view in request.views]
    return ViewsReply(revision=revision, basis=BasisModel.model_validate(basis), shown=shown)


def _looked_at(view: View, frame: Frame) -> Shown:
    try:
        return view.look(frame)
    except (BadInput, NotThere) as error:
        return ViewRefused(title=error.what, detail=error.remedy)


@router.get("/diary")
def diary(
    here: Here,
    study_id: str,
    before: Number | None = None,
    most: int = Query(100, ge=1, le=500),
    variable: str | None = None,
    kind: str | None = None,
    by: str | None = None,
    day: str | None = Query(None, pattern=r"\d{4}-\d\d-\d\d"),
) -> DiaryPage:
    """Steps in sentences, newest first; `before` continues behind a revision. Those alone that concern a variable, are
    of a kind, by somebody, of a day, where these are named."""
    file = here.study(study_id)
    lines, more = looked_back(file, Wanted(variable, kind, by, day), most, before)
    found = [
        DiaryRun(sentence=run.sentence, lines=[DiaryLineModel.model_validate(line) for line in run.lines])
        for run in runs(lines, file.study)
    ]
    return DiaryPage(runs=found, count=file.step_count(), more=more)


@router.get("/events")
async def events(here: Here, study_id: str, request: Request) -> StreamingResponse:
    """Server-sent events, as they come, with JSON data.

    `revision`: a new revision, and the id of the step that made it, if one did. `checked`: the
    revision for which findings across variables hold now.
    """
    here.entry(study_id)

    async def stream() -> AsyncIterator[str]:
        queue = here.announcer.listen(study_id)
        try:
            yield ": listening\n\n"
            while not await request.is_disconnected():
                try:
                    event = await asyncio.wait_for(queue.get(), timeout=15)
                    if event is None:
                        return
                    yield f"event: {event.kind}\ndata: {orjson.dumps(event.told).decode()}\n\n"
                except TimeoutError:
                    yield ": still here\n\n"
        finally:
            here.announcer.leave(study_id, queue)

    return StreamingResponse(stream(), media_type="text/event-stream", headers={"Cache-Control": "no-store"})
