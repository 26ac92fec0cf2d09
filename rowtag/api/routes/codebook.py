"""The codebook: pages of one or many tags, and what a change of many would come to before it is made."""

from typing import Annotated

from fastapi import APIRouter, Query

from rowtag.api.bodies import Route
from rowtag.api.context import Here
from rowtag.api.models_codebook import (
    Candidates,
    Changed,
    Chosen,
    CodebookPage,
    Lists,
    NamesPreview,
    NamesRequest,
    Occurrences,
    OccurrencesRequest,
    Readings,
    SharedList,
    TypeReading,
    Width,
    WidthSaving,
    list_name,
    page_of,
)
from rowtag.core.aside import candidates, occurrences
from rowtag.core.codelist import alike_lists
from rowtag.core.errors import NotThere
from rowtag.core.propose import read_as
from rowtag.core.renaming import by_pairs, by_pattern, judged
from rowtag.core.spellings import Spellings, near_duplicates
from rowtag.core.tag import Type
from rowtag.core.widths import needed_width

router = APIRouter(route_class=Route, prefix="/api/studies/{study_id}", tags=["codebook"])


@router.get("/variables/{variable_id}")
def variable_page(here: Here, study_id: str, variable_id: str) -> CodebookPage:
    """One tag: its parts, its code lines with their evidence, what was found on it."""
    revision, study = here.study(study_id).snapshot()
    return page_of(study, revision, [variable_id])


@router.get("/variables/{variable_id}/spellings")
def spellings(here: Here, study_id: str, variable_id: str) -> list[Spellings]:
    """Texts of a variable that are probably one and the same answer; apart from the page, for it takes longer."""
    return near_duplicates(here.study(study_id).study, variable_id)


@router.post("/page")
def page_of_many(here: Here, study_id: str, chosen: Chosen) -> CodebookPage:
    """Several tags as one: what they share, and what differs."""
    revision, study = here.study(study_id).snapshot()
    ids = chosen.ids(study)
    if not ids:
        raise NotThere("There is no variable in this study.", remedy="Bring a file in, or define a variable first.")
    return page_of(study, revision, ids)


@router.post("/names")
def new_names(here: Here, study_id: str, request: NamesRequest) -> NamesPreview:
    """New names by a pattern or by pairs, each with what is wrong with it; nothing is renamed."""
    study = here.study(study_id).study
    names, unknown = by_pairs(study, request.pairs) if request.pairs.strip() else ({}, [])
    if request.pattern is not None:
        names = by_pattern(study, request.ids(study), request.pattern)
    return NamesPreview(names=judged(study, names), unknown=unknown)


@router.post("/missing/candidates")
def missing_candidates(here: Here, study_id: str, chosen: Chosen) -> Candidates:
    """Entries that may stand for a missing answer in some variables, with their counts."""
    study = here.study(study_id).study
    return Candidates(candidates=candidates(study, chosen.ids(study)))


@router.post("/missing/occurrences")
def missing_occurrences(here: Here, study_id: str, request: OccurrencesRequest) -> Occurrences:
    """Where some codes, ranges or texts occur: counts per variable and line."""
    study = here.study(study_id).study
    return Occurrences(counts=occurrences(study, request.ids(study), request.lines))


@router.post("/widths")
def widths(here: Here, study_id: str, chosen: Chosen) -> WidthSaving:
    """Declared and needed widths, and what trimming would save in fixed columns."""
    study = here.study(study_id).study
    found = [Width(id=id, declared=study.tag(id).width, needed=needed_width(study, id)) for id in chosen.ids(study)]
    saving = sum((each.declared or each.needed) - each.needed for each in found)
    return WidthSaving(widths=found, saving=saving, records=study.records.count)


@router.get("/lists")
def lists(here: Here, study_id: str) -> Lists:
    """Shared code lists, and variables whose own lists are equal or nearly so."""
    study = here.study(study_id).study
    shared = [
        SharedList(**list_name(study, id).model_dump(), lines=list(each.lines))
        for id, each in study.shelves["list"].items()
    ]
    return Lists(lists=shared, alike=alike_lists(study))


@router.get("/variables/{variable_id}/readings")
def readings(
    here: Here,
    study_id: str,
    variable_id: str,
    type: Annotated[list[Type], Query(min_length=1, default_factory=lambda: ["text"])],
) -> Readings:
    """How a variable would read under some types, its missing codes as they are; nothing is changed."""
    study = here.study(study_id).study
    found = (read_as(study, variable_id, kind) for kind in type)
    return Readings(readings=[TypeReading.model_validate(each, from_attributes=True) for each in found])


@router.get("/changed")
def changed_since(here: Here, study_id: str, since: str = "") -> Changed:
    """Variables that steps have defined or changed since a moment (ISO 8601); coming in does not count."""
    file = here.study(study_id)
    touched = file.touched_since(since)
    return Changed(variables=[id for id in file.study.order if id in touched])
