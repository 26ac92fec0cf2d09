"""Rules that somebody wrote: records that break them, and rules that cannot be held any more."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from rowtag.core.checks.base import FEW, Evidence, Finding, register_across
from rowtag.core.formulas import BadFormula, Formula, meant, written
from rowtag.core.records import texts_in
from rowtag.core.rules import Rule
from rowtag.core.spans import said_otherwise
from rowtag.core.study import Study
from rowtag.core.words import counted
from rowtag.core.worked_out import entries, reading, records, rules, words, worked_out

MOST_SIDE_BY_SIDE = 4
"""Variables of a rule whose entries are shown side by side as its evidence."""
Positions = npt.NDArray[np.int64]


@dataclass(frozen=True)
class Held:
    """How the records keep to a condition: positions of those that break it, and how many meet it or cannot tell."""

    broken: Positions
    met: int
    unknown: int


def held(study: Study, formula: Formula) -> Held:
    """How the records of a study keep to a condition. Raises BadFormula where it means nothing (any more)."""
    found = meant(formula, study)
    if found.kind != "truth":
        raise BadFormula("This is no condition.", found.meaning.at, remedy="A rule is met or not, such as: hours <= 80")
    names = tuple(sorted(formula.names.items()))
    return _held(study, found.variables, formula.text, names, tuple(sorted(found.spans.items())))


@worked_out(reading, words, entries, records)
def _held(
    study: Study,
    _ids: tuple[str, ...],
    text: str,
    names: tuple[tuple[str, str], ...],
    spans: tuple[tuple[str, tuple[str, ...]], ...],
) -> Held:
    broken, met, unknown = [np.empty(0, np.int64)], 0, 0
    for block, value in meant(Formula(text=text, names=dict(names), spans=dict(spans)), study).blocks():
        broken.append(block.positions[value.known & ~value.data])
        met += int((value.known & value.data).sum())
        unknown += int((~value.known).sum())
    return Held(np.concatenate(broken), met, unknown)


def _broken(study: Study, finding: Finding) -> Positions:
    rule: Rule | None = study.shelves["rule"].get(finding.which)
    return np.empty(0, np.int64) if rule is None else held(study, rule.holds).broken


@register_across("rule broken", "rules", reading, words, entries, records, rules, scope="records", records=_broken)
def rule_broken(study: Study, ids: tuple[str, ...]) -> Sequence[Finding]:
    """Records that break a rule that was written for the study."""
    found = []
    for id, rule in study.shelves["rule"].items():
        try:
            variables, kept = meant(rule.holds, study).variables, held(study, rule.holds)
        except BadFormula:
            continue  # told as a rule that cannot be held
        if not kept.broken.size or not variables:
            continue
        said = f"{counted(kept.broken.size, 'record breaks', 'records break')} “{rule.title}”: "
        said += written(rule.holds, study)
        evidence, different = _side_by_side(study, variables, kept.broken)
        found.append(
            Finding(
                "rule broken",
                rule.severity,
                variables[0],
                said,
                int(kept.broken.size),
                evidence,
                different,
                variables[1:],
                which=id,
            )
        )
    return found


def _side_by_side(study: Study, variables: Sequence[str], positions: Positions) -> tuple[tuple[Evidence, ...], int]:
    """The entries of the variables of a rule in the records that break it, the commonest first."""
    shown = variables[:MOST_SIDE_BY_SIDE]
    columns = [texts_in(study, id, positions + 1) for id in shown]
    names = [study.tag(id).name for id in shown]
    rows: dict[tuple[str, ...], int] = {}
    for row in zip(*columns, strict=True):
        rows[row] = rows.get(row, 0) + 1
    first = sorted(rows.items(), key=lambda each: -each[1])[:FEW]

    def told(row: tuple[str, ...]) -> str:
        return ", ".join(f"{name} {entry.strip() or 'blank'}" for name, entry in zip(names, row, strict=True))

    return tuple(Evidence(told(row), count) for row, count in first), len(rows)


@register_across("rule cannot be held", "rules", reading, words, entries, records, rules, scope="records")
def not_held(study: Study, ids: tuple[str, ...]) -> Sequence[Finding]:
    """Rules that mean nothing any more: a variable of theirs was removed, or has another type or code list."""
    found = []
    for id, rule in study.shelves["rule"].items():
        try:
            held(study, rule.holds)
        except BadFormula as error:
            there = [variable for variable in rule.holds.names.values() if variable in study.variables]
            first = there[0] if there else study.order[0] if study.order else None
            if first is not None:
                said = f"the rule “{rule.title}” cannot be held any more: {error.what}"
                found.append(Finding("rule cannot be held", "warning", first, said, which=id))
    return found


@register_across("a rule's span means others", "rules", words, rules, scope="records")
def span_of_rule(study: Study, ids: tuple[str, ...]) -> Sequence[Finding]:
    """Rules whose span of neighbours, such as a..c, would mean others were it written now. What it meant when the rule
    was written is kept."""
    found = []
    for id, rule in study.shelves["rule"].items():
        said = said_otherwise(study, rule.holds)
        if said:
            first = next(each[0] for each in rule.holds.spans.values())
            found.append(
                Finding("a rule's span means others", "note", first, f"in the rule “{rule.title}”, {said}", which=id)
            )
    return found
