"""The library of code lists, kept across studies."""

from fastapi import APIRouter

from rowtag.api.bodies import Route
from rowtag.api.context import Here
from rowtag.api.models_codebook import KeptList

router = APIRouter(route_class=Route, prefix="/api/library", tags=["library"])


@router.get("/lists")
def library(here: Here) -> list[KeptList]:
    """All lists of the library, by name."""
    return [KeptList(name=each.name, lines=list(each.lines)) for each in here.workspace.library.lists()]


@router.put("/lists")
def keep_list(here: Here, kept: KeptList) -> list[KeptList]:
    """Keeps a list, in place of the one with this name if there is one."""
    here.workspace.library.keep(kept.name, kept.lines)
    return library(here)


@router.delete("/lists/{name:path}")
def drop_list(here: Here, name: str) -> list[KeptList]:
    """Takes a list out of the library; studies that use it keep theirs."""
    here.workspace.library.drop(name)
    return library(here)
