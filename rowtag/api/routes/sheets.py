"""Documents beside a study: read, looked at line by line, compared; and its own tags as codebook text.

They are kept and taken from by steps.
"""

from typing import Annotated

from fastapi import APIRouter, File, Form, UploadFile

from rowtag.api.bodies import Route
from rowtag.api.context import Here
from rowtag.api.models_codebook import Chosen
from rowtag.api.models_jobs import JobState
from rowtag.api.models_sheets import (
    CodeLinesRequest,
    DescribedVariable,
    DifferenceModel,
    Differing,
    Effects,
    EffectsRequest,
    LinesDiffer,
    Matches,
    NewText,
    NotationReading,
    NotationRequest,
    NotationText,
    Reconciliation,
    SheetLine,
    SheetLines,
    SheetPage,
    SheetParts,
    SheetStep,
    SheetText,
    TableSeen,
    TakeRequest,
    change_of,
    given_of,
    step_json,
)
from rowtag.core.codebook import Described, read_notation, write_notation
from rowtag.core.codebook.matching import match
from rowtag.core.codebook.telling import changed
from rowtag.core.codebook.whole import described, edited
from rowtag.documents.document import as_document, begin_of
from rowtag.documents.tolerant import read_lines
from rowtag.documents.typed import TypedLines, typed_lines
from rowtag.documents.variable_table import ColumnRole
from rowtag.formats.table import Watch
from rowtag.service.apart import apart, typed
from rowtag.service.jobs import Job
from rowtag.service.sheets import (
    Compared,
    lines_for,
    new_id,
    reconciled,
    sheet_of,
    step_for,
    text_of_new,
    understood,
    with_effects,
)

router = APIRouter(route_class=Route, prefix="/api", tags=["sheets"])
STUDY = "/studies/{study_id}/sheets"


@router.post("/sheets/text")
def read_sheet(
    here: Here,
    file: Annotated[UploadFile, File()],
    sheet: Annotated[str, Form()] = "",
    columns: Annotated[list[ColumnRole] | None, Form()] = None,
) -> SheetText:
    """A document as text; tables and metadata become codebook text. Nothing is kept.

    `sheet` of a workbook is read, and its `columns` hold what is said, where these are given.
    """
    upload = here.workspace.receive(file.filename or "document.txt", file.file)
    try:
        document = apart.read(upload.name, as_document, upload.path, upload.name, sheet or None, columns or None)
        return SheetText(name=upload.name, text=document.text, table=TableSeen.of(document))
    finally:
        here.workspace.discard(upload.id)


@router.post("/sheets/pages")
def start_reading_pages(here: Here, file: Annotated[UploadFile, File()]) -> JobState:
    """A document of pages as text, as long work: `result` holds its `begin`, the first page, while the others are
    read, then the whole as `document`. Nothing is kept."""
    upload = here.workspace.receive(file.filename or "document.pdf", file.file)

    def work(job: Job, watch: Watch) -> dict[str, object]:
        try:
            job.result = {"begin": apart.read(upload.name, begin_of, upload.path, upload.name)}
            document = apart.read(upload.name, as_document, upload.path, upload.name, None, None, watch=watch)
        finally:
            here.workspace.discard(upload.id)
        text = SheetText(name=upload.name, text=document.text, table=TableSeen.of(document))
        return {"document": text.model_dump(mode="json")}

    return JobState.of(here.jobs.start(f"Reading {upload.name}", work))


@router.post("/code-lines")
def read_code_lines(_here: Here, request: CodeLinesRequest) -> TypedLines:
    """Typed or pasted code lines, however they are written; nothing is kept."""
    return typed.read("what was typed", typed_lines, request.text)


@router.get(STUDY)
def sheets(here: Here, study_id: str) -> list[SheetLine]:
    """All documents beside the study."""
    kept = here.study(study_id).study.shelves["sheet"]
    return [SheetLine(id=id, name=each.name, lines=len(each.text.splitlines())) for id, each in kept.items()]


@router.get(STUDY + "/{sheet_id}")
def sheet_page(here: Here, study_id: str, sheet_id: str) -> SheetPage:
    """A document, line by line, with what was understood of it."""
    study = here.study(study_id).study
    sheet, found = sheet_of(study, sheet_id), understood(study, sheet_id)
    ids = {id(each): variable for variable, each in match(study, found.variables).found.items()}
    return SheetPage(
        id=sheet_id,
        name=sheet.name,
        lines=sheet.text.splitlines(),
        variables=[DescribedVariable.of(each, ids.get(id(each))) for each in found.variables],
        unplaced=list(found.unplaced),
        otherwise=list(sheet.otherwise),
    )


@router.post(STUDY + "/{sheet_id}/lines")
def some_lines(here: Here, study_id: str, sheet_id: str, lines: SheetLines) -> SheetParts:
    """What some lines say of one variable, whether they name it or not, and what that would change on some. Lines that
    describe one variable and no other say what was understood of it."""
    study = here.study(study_id).study
    within = [
        each for each in understood(study, sheet_id).variables
        if lines.first <= each.lines[0] and each.lines[1] <= lines.last
    ]  # fmt: skip
    if len(within) == 1:
        parts = within[0].parts
    else:
        text = sheet_of(study, sheet_id).text.splitlines()[lines.first - 1 : lines.last]
        known = {study.tag(id).name for id in study.order}
        parts = typed.read(sheet_of(study, sheet_id).name, read_lines, "\n".join(text), known)
    compared, step = lines_for(study, Described("", parts), lines.variables)
    differs = [
        LinesDiffer(variable=id, differences=[DifferenceModel.of(each) for each in found])
        for id, found in compared.items()
    ]
    return SheetParts(parts=given_of(parts), differs=differs, step=step and step_json(step))


@router.post(STUDY + "/{sheet_id}/differences")
def compare(here: Here, study_id: str, sheet_id: str, request: Matches) -> Reconciliation:
    """The document against the study: what agrees, what differs, what stands on one side only."""
    revision, study = here.study(study_id).snapshot()
    found = reconciled(study, sheet_id, request.matches)
    matched = found.matched.found
    return Reconciliation(
        revision=revision,
        agrees=[id for id, differing in found.differing.items() if not differing],
        differs=[
            Differing(
                variable=id,
                name=matched[id].name,
                certainty=matched[id].certainty,
                reason=matched[id].reason,
                first=matched[id].lines[0],
                last=matched[id].lines[1],
                differences=[DifferenceModel.of(Compared(each)) for each in differing],
            )
            for id, differing in found.differing.items()
            if differing
        ],
        only_sheet=[DescribedVariable.of(each, None) for each in found.matched.only_described],
        only_data=list(found.matched.only_data),
        near=dict(found.matched.near),
    )


@router.post(STUDY + "/{sheet_id}/effects")
def effects_of(here: Here, study_id: str, sheet_id: str, request: EffectsRequest) -> Effects:
    """What taking each difference of some variables would do to how their entries read."""
    found = with_effects(here.study(study_id).study, sheet_id, request.matches, request.variables)
    return Effects(
        effects={
            id: {each.difference.key: change for each in compared if (change := change_of(each)) is not None}
            for id, compared in found.items()
        }
    )


@router.post(STUDY + "/{sheet_id}/step")
def step_to_take(here: Here, study_id: str, sheet_id: str, request: TakeRequest) -> SheetStep:
    """The step that takes the document's side of what was chosen; nothing is changed yet."""
    study = here.study(study_id).study
    return SheetStep(
        step=step_json(step_for(study, sheet_id, request.matches, request.chosen, request.added, request.called))
    )


@router.post(STUDY + "/{sheet_id}/new-text")
def text_of_what_is_new(here: Here, study_id: str, sheet_id: str, request: NewText) -> NotationText:
    """All variables that only the document has as codebook text, to be changed before they are added."""
    study = here.study(study_id).study
    return NotationText(text=text_of_new(study, sheet_id, request.matches, request.called))


@router.post("/studies/{study_id}/notation")
def notation(here: Here, study_id: str, chosen: Chosen) -> NotationText:
    """Some tags, or all, as codebook text."""
    study = here.study(study_id).study
    return NotationText(text=write_notation(*described(study, chosen.ids(study))))


@router.post("/studies/{study_id}/notation/read")
def read_text(here: Here, study_id: str, request: NotationRequest) -> NotationReading:
    """What edited or pasted codebook text would change; nothing is changed yet."""
    study = here.study(study_id).study
    said = typed.read("codebook text", read_notation, request.text)
    found = edited(study, said, request.ids(study), new_id, whole=request.whole)
    after = study if found.step is None else found.step.change(study, {}).study
    differs = [
        LinesDiffer(variable=id, differences=[DifferenceModel.of(Compared(each)) for each in differences])
        for id in study.order
        if (differences := changed(study, after, id))
    ]
    return NotationReading(
        differs=differs, new=list(found.new), absent=list(found.absent), step=found.step and step_json(found.step)
    )
