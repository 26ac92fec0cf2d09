"""Deriving: what a sentence would make, as it is typed; what could be made of a variable; what is derived already."""

from typing import Literal

from fastapi import APIRouter, Query

from rowtag.api.bodies import Route
from rowtag.api.context import Here
from rowtag.api.models_derive import DerivedList, DeriveLook, DeriveRequest, Proposal, RangeList
from rowtag.api.models_rules import FormulaProblem
from rowtag.core.derive.proposed import lists_of_ranges, proposals
from rowtag.core.errors import BadInput
from rowtag.core.formulas import BadFormula
from rowtag.service.derive import Then, looked

router = APIRouter(route_class=Route, prefix="/api/studies/{study_id}", tags=["derive"])


@router.post("/derive")
def look(here: Here, study_id: str, request: DeriveRequest) -> DeriveLook:
    """What a sentence would make of all records; nothing is kept."""
    revision, study = here.study(study_id).snapshot()
    try:
        then = None if request.then is None else Then(**dict(request.then))
        found = looked(study, request.names, request.text, request.into, request.label, request.also, then)
    except BadFormula as error:
        return DeriveLook(revision=revision, problem=FormulaProblem.of(error))
    except BadInput as error:
        problem = FormulaProblem(what=error.what, remedy=error.remedy, first=0, end=0, suggestion=error.suggestion)
        return DeriveLook(revision=revision, problem=problem)
    return DeriveLook.of(revision, found)


@router.get("/variables/{variable_id}/derivations")
def derivations(
    here: Here,
    study_id: str,
    variable_id: str,
    bands: int = Query(4, ge=2, le=30),
    equal: Literal["counts", "widths"] = "counts",
    rare: int = Query(0, ge=0, le=1_000_000),
    like: str | None = Query(None, max_length=64),
) -> list[Proposal]:
    """What could be made of a variable: for each way that suits it a sentence to begin with; bands as those of the list
    of a variable or a shared one (`like`)."""
    study = here.study(study_id).study
    study.variable(variable_id)
    if like is not None and like not in study.shelves["list"]:
        study.variable(like)
    found = proposals(study, variable_id, bands=bands, equal=equal, rare=rare, like=like)
    return [Proposal(way=way, name=name, text=text) for way, (name, text) in found.items()]


@router.get("/lists-of-ranges")
def ranges(here: Here, study_id: str) -> list[RangeList]:
    """The code lists that are ranges alone, from which bands can be taken."""
    found = lists_of_ranges(here.study(study_id).study)
    return [RangeList(id=id, name=name, ranges=number) for id, (name, number) in found.items()]


@router.get("/derived")
def derived(here: Here, study_id: str) -> DerivedList:
    """All derived variables, how they were made, whether they are behind the times, and whether they follow."""
    return DerivedList.of(here.study(study_id).study)
