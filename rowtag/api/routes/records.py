"""Looking at records: pages of entries, where strays stand, what can be keyed, and two keyings side by side."""

import orjson
from fastapi import APIRouter, Query, Response

from rowtag.api.bodies import Number, Route
from rowtag.api.context import Here
from rowtag.api.models import NextStray, RecordNumbers
from rowtag.api.models_records import Arranged, ArrangeRequest, CommentModel, Compared, RemovedRecords, SavedView
from rowtag.api.rows import Rows, RowsAsked
from rowtag.core.answers import Answer, answers
from rowtag.core.checks import CHECKS, findings_across, findings_on, records_of
from rowtag.core.checks.strays import stray_tokens
from rowtag.core.errors import BadInput
from rowtag.core.frame import Frame
from rowtag.core.keying import KeyedQuestion, questions
from rowtag.core.keyings import Keyings
from rowtag.core.records import Strays, page_of, record_called

router = APIRouter(route_class=Route, prefix="/api/studies/{study_id}", tags=["records"])

MOST_NUMBERS = 200
"""Record numbers of one answer, at most."""
MOST_PAGE = 2_000
"""Records on one page, at most."""
MOST_REMOVED = 1_000
"""Removed records that are told one by one."""


@router.get("/records", responses={200: {"content": {"application/json": {}}}}, response_class=Response)
def records_page(
    here: Here, study_id: str, asked: RowsAsked, start: Number = 0, stop: Number = 60, variables: str = ""
) -> Response:
    """Entries in rows start..stop-1 for some variables (ids joined by commas), column by column.

    Per variable: the distinct entries on the page as recorded (`texts`), their canonical `codes`, `labels`
    and `states` (0 valid, 1 coded missing, 2 blank, 3 unreadable, 4 unlisted), and per record an `index`. `remarked`
    are its cells that bear a comment: record number, and id of the variable or null.
    """
    here.beside.at_work()
    rows = Rows(here.study(study_id), asked)
    ids = [id for id in variables.split(",") if id] if variables else list(rows.study.order)
    for id in ids:
        rows.study.variable(id)
    if stop - start > MOST_PAGE:
        raise BadInput(f"At most {MOST_PAGE:,} records can be asked for at once.")
    numbers = rows.numbers(start, stop)
    body = {
        "revision": rows.revision,
        "seen": rows.seen,
        "rows": rows.count,
        "records": numbers.tolist(),
        "columns": page_of(rows.study, ids, numbers),
        "remarked": rows.remarked(numbers),
    }
    return Response(orjson.dumps(body), media_type="application/json")


@router.post("/arranged")
def arranged(here: Here, study_id: str, request: ArrangeRequest) -> Arranged:
    """How many records an arrangement has at the head; from then on rows are asked for as of that revision."""
    rows = Rows(here.study(study_id), (request.arrangement.model_dump_json(), None))
    return Arranged(revision=rows.revision, rows=rows.count)


@router.get("/next-stray")
def next_stray(
    here: Here, study_id: str, asked: RowsAsked, record: Number = 0, variable: str | None = None, back: bool = False
) -> NextStray | None:
    """The next stray behind a cell, along the record and then the records below; or the one before it."""
    rows = Rows(here.study(study_id), asked)
    found = Strays(rows.study).beside(record, variable, back=back)
    if found is None:
        return None
    position = rows.row_of(found.record)
    return NextStray(record=found.record, position=position, variable=found.variable, number=found.number, of=found.of)


@router.get("/record-called")
def record_named(
    here: Here, study_id: str, asked: RowsAsked, text: str = Query("", max_length=1_000), by_number: bool = True
) -> RecordNumbers:
    """The record whose identifier, else (`by_number`) whose number, is a text; none where there is none."""
    rows = Rows(here.study(study_id), asked)
    found = record_called(rows.study, text, by_number=by_number)
    return rows.told([] if found is None else [found])


@router.get("/variables/{variable_id}/answers")
def answers_of(here: Here, study_id: str, variable_id: str) -> list[Answer]:
    """What can be answered under a variable's tag: its codes with their labels, missing ones behind."""
    study = here.study(study_id).study
    study.variable(variable_id)
    return answers(study, variable_id)


@router.get("/variables/{variable_id}/records")
def records_holding(
    here: Here,
    study_id: str,
    variable_id: str,
    asked: RowsAsked,
    entry: list[str] = Query([]),
    check: str | None = None,
    which: str = Query("", max_length=1_000),
) -> RecordNumbers:
    """The first records that a finding of a check on a variable is about, or that hold strays of it; only those with
    some entries where these are named."""
    rows = Rows(here.study(study_id), asked)
    study = rows.study
    study.variable(variable_id)
    if check is None:
        tokens = stray_tokens(study, variable_id, entry)
        return rows.told(Frame(study).numbers_of(variable_id, tokens, most=MOST_NUMBERS))
    alone = check in CHECKS and CHECKS[check].scope == "variable"
    found = findings_on(study, variable_id) if alone else findings_across(study)
    meant = (each for each in found if each.check == check and variable_id in each.variables)
    of = next((each for each in meant if which in ("", each.which)), None)
    return rows.told([] if of is None else records_of(study, of, entry, most=MOST_NUMBERS))


@router.get("/record-views")
def saved_views(here: Here, study_id: str) -> list[SavedView]:
    """The named views of the records."""
    study = here.study(study_id).study
    return [SavedView.of(study, id) for id in study.shelves["view"]]


@router.get("/comments")
def comments(here: Here, study_id: str, asked: RowsAsked) -> list[CommentModel]:
    """All comments, in the order of the records and variables, with the rows in which these stand."""
    rows = Rows(here.study(study_id), asked)
    order = {id: number for number, id in enumerate(rows.study.order)}
    found = sorted(
        rows.study.shelves["comment"].items(), key=lambda each: (each[1].record, order.get(each[1].variable or "", -1))
    )
    return [CommentModel(id=id, on=on, row=rows.row_of(on.record)) for id, on in found]


@router.get("/removed-records")
def removed_records(here: Here, study_id: str) -> RemovedRecords:
    """The records that were removed and can be put back: how many, and the first of them."""
    return RemovedRecords.of(here.study(study_id).study, MOST_REMOVED)


@router.get("/keyed-questions")
def keyed_questions(here: Here, study_id: str, variables: str = "") -> list[KeyedQuestion]:
    """The questions to key a record in by: those of some variables (ids joined by commas), or of all."""
    return questions(here.study(study_id).study, [id for id in variables.split(",") if id])


@router.get("/keyings/{other_id}")
def keyings(here: Here, study_id: str, other_id: str, by: str | None = None) -> Compared:
    """Another study, in which the same records were keyed a second time, beside this one."""
    revision, study = here.study(study_id).snapshot()
    if by is not None:
        study.variable(by)
    return Compared.of(revision, Keyings(study, here.study(other_id).study, by))
