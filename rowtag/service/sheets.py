"""Documents beside a study: what is understood of them, and how they and the study differ."""

from collections.abc import Collection, Mapping
from dataclasses import dataclass, replace

from rowtag.core.codebook import Described, Understood
from rowtag.core.codebook.matching import Match, match
from rowtag.core.codebook.reconcile import Difference, differences, taken
from rowtag.core.errors import NotThere
from rowtag.core.memo import Memo, Same
from rowtag.core.steps.sheets import Describe
from rowtag.core.study import Sheet, Study
from rowtag.formats.document import understand

_memo = Memo(limit=64 * 2**20)


@dataclass(frozen=True)
class Reconciled:
    """A document against a study: per matched variable what differs (nothing where they agree), and what has no
    counterpart on the other side."""

    matched: Match
    differing: Mapping[str, tuple[Difference, ...]]


def sheet_of(study: Study, sheet_id: str) -> Sheet:
    """A document beside the study."""
    found: Sheet | None = study.shelves["sheet"].get(sheet_id)
    if found is None:
        raise NotThere("This document is not beside the study any more.", remedy="The diary shows when it was let go.")
    return found


def understood(study: Study, sheet_id: str) -> Understood:
    """What is understood of a document, given the names of the study; remembered while neither changes."""
    sheet = sheet_of(study, sheet_id)
    names = frozenset(study.tag(id).name for id in study.order)
    return _memo.get((Same(sheet), names), lambda: understand(sheet.text, names), lambda _: 40 * len(sheet.text))


def reconciled(study: Study, sheet_id: str, confirmed: Mapping[str, str]) -> Reconciled:
    """A document against the study; `confirmed` says which of its names mean which variable (name → id)."""
    matched = _matched(study, sheet_id, confirmed)
    found = {id: differences(study, id, matched.found[id]) for id in study.order if id in matched.found}
    return Reconciled(matched, found)


def step_for(
    study: Study, sheet_id: str, confirmed: Mapping[str, str], chosen: Mapping[str, Collection[str] | None]
) -> Describe:
    """The step that takes the document's side of some differences (per variable their keys, None for all)."""
    matched = _matched(study, sheet_id, confirmed)
    tags = {}
    for id, keys in chosen.items():
        if id not in matched.found:
            raise NotThere("The document does not describe this variable.", remedy="Read it again.")
        parts = taken(study, id, matched.found[id], keys)
        if parts.given():
            tags[id] = parts
    if not tags:
        raise NotThere("Nothing of the document is left to take.", remedy="It agrees with the study.")
    return Describe(tags=tags, source=sheet_of(study, sheet_id).name)


def _matched(study: Study, sheet_id: str, confirmed: Mapping[str, str]) -> Match:
    described = understood(study, sheet_id).variables
    meant = {name: study.tag(id).name for name, id in confirmed.items() if id in study.variables}
    return match(study, [_renamed(each, meant) for each in described])


def _renamed(described: Described, meant: Mapping[str, str]) -> Described:
    return replace(described, name=meant[described.name], also="") if described.name in meant else described
