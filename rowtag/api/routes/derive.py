"""Deriving: what a sentence would make, as it is typed; what could be made of a variable; what is derived already."""

from typing import Literal

from fastapi import APIRouter, Query

from rowtag.api.bodies import Route
from rowtag.api.context import Here
from rowtag.api.models_derive import DerivedVariable, DeriveLook, DeriveRequest, Proposal, derived_in
from rowtag.api.models_rules import FormulaProblem
from rowtag.core.derive.proposed import proposals
from rowtag.core.errors import BadInput
from rowtag.core.formulas import BadFormula
from rowtag.service.derive import looked

router = APIRouter(route_class=Route, prefix="/api/studies/{study_id}", tags=["derive"])


@router.post("/derive")
def look(here: Here, study_id: str, request: DeriveRequest) -> DeriveLook:
    """What a sentence would make of all records; nothing is kept."""
    revision, study = here.study(study_id).snapshot()
    try:
        found = looked(study, request.names, request.text, request.into, request.label, request.also)
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
) -> list[Proposal]:
    """What could be made of a variable: for each way that suits it a sentence to begin with."""
    study = here.study(study_id).study
    study.variable(variable_id)
    found = proposals(study, variable_id, bands=bands, equal=equal, rare=rare)
    return [Proposal(way=way, name=name, text=text) for way, (name, text) in found.items()]


@router.get("/derived")
def derived(here: Here, study_id: str) -> list[DerivedVariable]:
    """All derived variables, how they were made, and whether they are behind the times."""
    return derived_in(here.study(study_id).study)
