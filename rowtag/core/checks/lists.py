"""Code lists: labels that stand twice, and codes that nobody gave."""

from collections.abc import Callable, Iterable

from rowtag.core.answers import folded
from rowtag.core.checks.base import FEW, Evidence, Finding, register
from rowtag.core.study import Study
from rowtag.core.tables import frequency
from rowtag.core.tag import CodeLine
from rowtag.core.words import counted
from rowtag.core.worked_out import entries, reading, words

FEWEST_ENTRIES = 30
"""Valid entries below which it means nothing that a code does not occur."""


def _alike(lines: Iterable[CodeLine], by: Callable[[str], str]) -> list[list[CodeLine]]:
    """Lines whose labels are the same by some way of writing them."""
    found: dict[str, list[CodeLine]] = {}
    for line in lines:
        if line.label.strip():
            found.setdefault(by(line.label), []).append(line)
    return [group for group in found.values() if len(group) > 1]


@register("one label on two codes", "codes", words)
def one_label_twice(study: Study, id: str) -> Finding | None:
    """Codes of one list that have the same label: in tables and charts nobody can tell them apart."""
    groups = _alike(study.codes(id), str.strip)
    if not groups:
        return None
    said = "; ".join(
        f"“{group[0].label}” stands for {' and '.join(line.shown for line in group)}" for group in groups[:3]
    )
    evidence = tuple(Evidence(line.shown, 0) for group in groups for line in group)[:FEW]
    return Finding("one label on two codes", "warning", id, said, evidence=evidence, different=len(evidence))


@register("labels nearly the same", "codes", words)
def nearly_the_same(study: Study, id: str) -> Finding | None:
    """Labels of one list that differ in nothing but capitals, accents or blanks."""
    groups = [
        group for group in _alike(study.codes(id), folded) if len({line.label.strip() for line in group}) == len(group)
    ]
    if not groups:
        return None
    said = "; ".join(" and ".join(f"{line.shown} “{line.label}”" for line in group) for group in groups[:3])
    evidence = tuple(Evidence(line.shown, 0) for group in groups for line in group)[:FEW]
    message = f"labels differ in capitals or blanks only: {said}"
    return Finding("labels nearly the same", "warning", id, message, evidence=evidence, different=len(evidence))


@register("codes never used", "codes", reading, words, entries)
def never_used(study: Study, id: str) -> Finding | None:
    """Codes of a list that do not occur, where enough was answered for that to mean something."""
    if not study.codes(id) or study.fill(id).valid < FEWEST_ENTRIES:
        return None
    idle = [row for row in frequency(study, id).rows if row.listed and row.reading == "valid" and not row.count]
    if not idle:
        return None
    said = f"{counted(len(idle), 'listed code')} {'does' if len(idle) == 1 else 'do'} not occur"
    evidence = tuple(Evidence(row.code, 0) for row in idle[:FEW])
    return Finding("codes never used", "note", id, said, evidence=evidence, different=len(idle))
