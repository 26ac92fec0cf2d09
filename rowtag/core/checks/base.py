"""What a check is: it looks at one variable and says what it noticed, with evidence and remedies."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any, Literal

from rowtag.core.steps.accept import accepted_id
from rowtag.core.study import Study

Severity = Literal["error", "warning", "note"]
SEVERITIES: tuple[Severity, ...] = ("error", "warning", "note")


@dataclass(frozen=True)
class Evidence:
    """One entry that a finding is about, as recorded, and how often it occurs."""

    entry: str
    count: int


@dataclass(frozen=True)
class Remedy:
    """A step that would settle a finding, with the effect it would have, said beforehand."""

    said: str
    step: dict[str, Any]


@dataclass(frozen=True)
class Finding:
    """One thing a check noticed about a variable. `count` is how many entries (or 0) it concerns."""

    check: str
    severity: Severity
    variable: str
    message: str
    count: int = 0
    evidence: tuple[Evidence, ...] = ()
    remedies: tuple[Remedy, ...] = ()


@dataclass(frozen=True)
class Check:
    """A kind of check: its name, the family under which the map shows it, and what finds."""

    name: str
    family: str
    find: Callable[[Study, str], Finding | None]


CHECKS: dict[str, Check] = {}
"""All checks under their names."""

FAMILIES: dict[str, None] = {}
"""Families of checks, in the order in which they were registered."""


def register(name: str, family: str) -> Callable[[Callable[[Study, str], Finding | None]], Check]:
    """Makes a check known under its name."""

    def known(find: Callable[[Study, str], Finding | None]) -> Check:
        CHECKS[name] = Check(name, family, find)
        FAMILIES[family] = None
        return CHECKS[name]

    return known


def is_accepted(study: Study, check: str, variable: str, entry: str = "") -> bool:
    """Whether somebody accepted this finding (or this entry of it)."""
    return accepted_id(check, variable, entry) in study.shelves["accepted"]


def run_checks(study: Study, ids: Iterable[str] | None = None) -> list[Finding]:
    """What all checks find, worst first, then by how many entries, then in codebook order."""
    found = []
    for id in study.order if ids is None else ids:
        for check in CHECKS.values():
            if not is_accepted(study, check.name, id) and (finding := check.find(study, id)) is not None:
                found.append(finding)
    return sorted(found, key=lambda finding: (SEVERITIES.index(finding.severity), -finding.count))
