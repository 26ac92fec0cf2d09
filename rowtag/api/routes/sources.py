"""The files a study was made from, and starting one from another's codebook."""

from dataclasses import asdict
from urllib.parse import quote

from fastapi import APIRouter
from fastapi.responses import StreamingResponse

from rowtag.api.bodies import Number, Route
from rowtag.api.context import Here
from rowtag.api.models import StepOutcome
from rowtag.api.models_intake import CodebookFrom, OriginalRows, SourceModel
from rowtag.core.errors import BadInput
from rowtag.formats.encodings import ENCODINGS
from rowtag.formats.rows import texts_of
from rowtag.formats.table import Settings
from rowtag.service.intake import codebook_of

router = APIRouter(route_class=Route, prefix="/api/studies/{study_id}", tags=["sources"])

MOST_ROWS = 500
"""Rows of a source on one page, at most."""


@router.get("/sources")
def sources(here: Here, study_id: str) -> list[SourceModel]:
    """The files this study was made from, in the order in which they came."""
    study = here.study(study_id).study
    came = [study.variable(id).origin.source for id in study.order]
    return [
        SourceModel(
            id=id,
            name=source.name,
            size=source.size,
            sha256=source.sha256,
            records=source.records,
            brought_at=source.brought_at,
            settings=Settings.model_validate(source.settings),
            encoding=ENCODINGS.get(str(source.settings.get("encoding", "utf-8")), ""),
            variables=came.count(id),
        )
        for id, source in study.shelves["source"].items()
    ]


@router.get("/sources/{source_id}/rows")
def original_rows(here: Here, study_id: str, source_id: str, start: Number = 0, stop: Number = 100) -> OriginalRows:
    """Entries of a source as they were brought in, whatever has been changed since."""
    if stop - start > MOST_ROWS:
        raise BadInput(f"At most {MOST_ROWS:,} rows can be asked for at once.")
    table = here.files.original(study_id, source_id).table
    rows = texts_of(table.columns, start, min(stop, table.records))
    return OriginalRows(heads=table.heads, records=table.records, start=start, rows=rows)


@router.get("/sources/{source_id}/file", response_class=StreamingResponse)
def original_file(here: Here, study_id: str, source_id: str) -> StreamingResponse:
    """The file itself, byte for byte."""
    source = here.files.source(study_id, source_id)
    headers = {
        "Content-Disposition": f"attachment; filename*=UTF-8''{quote(source.name)}",
        "Content-Length": str(source.size),
    }
    data = here.study(study_id).source_bytes(source.sha256)
    return StreamingResponse(data, media_type="application/octet-stream", headers=headers)


@router.post("/codebook-from")
def take_codebook(here: Here, study_id: str, request: CodebookFrom) -> StepOutcome:
    """Takes the whole codebook of another study, without its entries, as one step."""
    other = here.workspace.entry(request.other)
    step = codebook_of(here.study(request.other).study, other.title)
    outcome = here.study(study_id).take(step, request.step_id, by=here.by)
    return StepOutcome.model_validate(asdict(here.kept(study_id, outcome)))
