"""What the checks find, as a list and as a report to put away; gaps; and how checks are set."""

from collections.abc import Sequence
from typing import Literal

import orjson
from fastapi import APIRouter, Response

from rowtag.api.bodies import Route
from rowtag.api.context import Here
from rowtag.api.models import CheckReport, FindingModel, map_of
from rowtag.api.models_checks import CheckWork, GapMap
from rowtag.api.models_rules import CheckModel, checks_of
from rowtag.core.checks import Finding, is_ready, run_checks
from rowtag.core.gaps import gaps
from rowtag.core.study import Study
from rowtag.service.codebook import accepted_in, found_in
from rowtag.service.report import report_of
from rowtag.store.studyfile import now

router = APIRouter(route_class=Route, prefix="/api/studies/{study_id}", tags=["checks"])

MOST_REMEDIED = 300
"""Findings, worst first, whose remedies are told with them."""


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
        findings=[
            FindingModel.of(finding, most=12, study=study if number < MOST_REMEDIED else None)
            for number, finding in enumerate(findings)
        ],
        map=map_of(study, findings),
        accepted=len(study.shelves["accepted"]),
        readiness=[_readiness(study, id, across) for id in study.order],
        set=len(study.shelves["check"]),
    )


def _readiness(study: Study, id: str, across: Sequence[Finding]) -> Literal["ready", "accepted", "open"]:
    """Whether anything is open on a variable, what was found across several told on the first of them."""
    if not is_ready(study, id) or any(each.severity != "note" and each.variable == id for each in across):
        return "open"
    return "accepted" if study.accepted_on.get(id) else "ready"


@router.get("/checks-working")
def check_work(here: Here, study_id: str) -> CheckWork:
    """How far those checks are that are worked out beside."""
    here.study(study_id)
    return CheckWork(done=here.beside.progress(study_id))


@router.get("/gaps")
def gap_map(here: Here, study_id: str) -> GapMap | None:
    """Which records miss what, ordered to show patterns; nothing where there is no variable."""
    revision, study = here.study(study_id).snapshot()
    return GapMap.of(revision, gaps(study, study.order)) if study.order else None


@router.get("/check-report", response_class=Response, responses={200: {"content": {"text/html": {}}}})
def written_report(here: Here, study_id: str, form: Literal["html", "json"] = "html") -> Response:
    """Everything that was found, accepted and set, as one page to print and put away, or as JSON."""
    entry, study = here.entry(study_id), here.study(study_id).study
    found = {**found_in(study), "accepted": accepted_in(study)}
    name = f"check-report.{form}"
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    if form == "json":
        return Response(orjson.dumps(found), media_type="application/json", headers=headers)
    page = report_of(found, entry.title, now()[:16].replace("T", " "))
    return Response(page, media_type="text/html; charset=utf-8", headers=headers)


@router.get("/check-settings")
def check_settings(here: Here, study_id: str) -> list[CheckModel]:
    """All checks: what each notices, and how it is set in this study."""
    return checks_of(here.study(study_id).study)
