"""Remedies: steps that put right what a check found, each known by its effect before it is taken."""

import re
from collections.abc import Callable
from dataclasses import dataclass

import pyarrow as pa
import pyarrow.compute as pc

from rowtag.core.checks import Finding, entries_of
from rowtag.core.checks.base import CHECKS, open_entries
from rowtag.core.checks.codebook import lines_for
from rowtag.core.checks.skips import shown_for
from rowtag.core.derive import derive, held, shown
from rowtag.core.families import stem_of
from rowtag.core.formulas import named, written
from rowtag.core.grammar import parse_dates
from rowtag.core.reading import canonical_code
from rowtag.core.spans import means_otherwise
from rowtag.core.spellings import near_duplicates
from rowtag.core.steps import Step
from rowtag.core.steps.codes import ListCodes, MarkMissing
from rowtag.core.steps.derive import Derive, Into, WorkOutAgain
from rowtag.core.steps.entries import ReplaceEntries
from rowtag.core.steps.groups import MOST_TITLE, Group
from rowtag.core.steps.replace import ReplaceFound
from rowtag.core.steps.rules import KeepRule
from rowtag.core.steps.sheets import Describe
from rowtag.core.steps.skips import SetSkips
from rowtag.core.steps.tags import Define
from rowtag.core.steps.turn import TurnRound
from rowtag.core.steps.widths import TrimWidths
from rowtag.core.study import Study
from rowtag.core.tag import NUMBER_TYPES, CodeLine, DateOrder, Marks, MissingLine, Parts
from rowtag.core.unreadable import unit_of
from rowtag.core.words import counted, shortened

WRITTEN_DATES: dict[DateOrder, str] = {
    "dmy": r"^\s*(\d{1,2})\.(\d{1,2})\.(\d{4})\s*$",
    "mdy": r"^\s*(0?[1-9]|1[0-2])/(1[3-9]|2\d|3[01])/(\d{4})\s*$",
}
"""How dates are written that can be read in one order alone."""
OTHER_MARK = {".": ",", ",": "."}
"""The other decimal mark."""
MOST_LINES = 12
"""Different entries up to which they are set aside or listed together."""


@dataclass(frozen=True)
class Remedy:
    """A way to put a finding right: what it does in a few words, and the step that does it."""

    word: str
    step: Step


Find = Callable[[Study, Finding], tuple[Remedy, ...]]


def remedies(study: Study, finding: Finding) -> tuple[Remedy, ...]:
    """The ways to put a finding right; none where somebody has to look first."""
    find = _REMEDIES.get(finding.check)
    return find(study, finding) if find is not None else ()


def _entries(study: Study, finding: Finding) -> tuple[str, ...]:
    """The entries of a finding, where they are few."""
    found = entries_of(study, finding.variable, CHECKS[finding.check])
    return found if len(found) <= MOST_LINES else ()


def _set_aside(study: Study, finding: Finding) -> tuple[Remedy, ...]:
    lines = tuple(MissingLine(code=entry) for entry in _entries(study, finding))
    if not lines:
        return ()
    return (Remedy("set aside as missing", MarkMissing(variables=(finding.variable,), lines=lines)),)


def _mend_unreadable(study: Study, finding: Finding) -> tuple[Remedy, ...]:
    """Reads a unit that all of them bear as the sign of the variable; or sets them aside."""
    tag = study.tag(finding.variable)
    if tag.type == "decimal" and tag.marks.decimal in OTHER_MARK and not tag.marks.thousands:
        mark = OTHER_MARK[tag.marks.decimal]
        texts, counts, _ = open_entries(study, finding.variable, CHECKS[finding.check])
        pattern = rf"^([+\-−]?\d+){re.escape(mark)}(\d+)$"
        hits = pc.match_substring_regex(texts, pattern).to_numpy(zero_copy_only=False)
        if hits.any():
            word = {",": "comma", ".": "point"}[mark]
            step = ReplaceFound(
                variables=(finding.variable,), find=pattern, by=rf"\1{tag.marks.decimal}\2", how="pattern"
            )
            many = counted(int(counts[hits].sum()), "entry", "entries")
            return (Remedy(f"read {many} with a {word} as decimals", step), *_set_aside(study, finding))
    if tag.type == "date" and (dated := _as_dates(study, finding)):
        return (dated, *_set_aside(study, finding))
    unit = unit_of(open_entries(study, finding.variable, CHECKS[finding.check])[0])
    if unit is None or tag.type not in NUMBER_TYPES or tag.marks.sign:
        return _set_aside(study, finding)
    parts = Parts(marks=tag.marks.model_copy(update={"sign": unit}))
    return (Remedy(f"read “{unit}” as its unit", Define(variables=(finding.variable,), parts=parts)),)


def _as_dates(study: Study, finding: Finding) -> Remedy | None:
    """Writes dates in the order of the variable that are written in another one, where they can be read in one way
    only: 1.1.1980 is day, month, year; 5/13/1980 month, day, year."""
    tag = study.tag(finding.variable)
    texts, counts, _ = open_entries(study, finding.variable, CHECKS[finding.check])
    for order, pattern in WRITTEN_DATES.items():
        hits = pc.match_substring_regex(texts, pattern).to_numpy(zero_copy_only=False).astype(bool)
        if order == tag.marks.date_order or not hits.any():
            continue
        by = "-".join(rf"\{order.index(part) + 1}" for part in tag.marks.date_order)
        if not parse_dates(texts.filter(pa.array(hits)), "date", Marks(date_order=order)).fits.all():
            continue
        step = ReplaceFound(variables=(finding.variable,), find=pattern, by=by, how="pattern")
        many = counted(int(counts[hits].sum()), "entry", "entries")
        return Remedy(f"read {many} as {'a date' if counts[hits].sum() == 1 else 'dates'}", step)
    return None


def _list_or_set_aside(study: Study, finding: Finding) -> tuple[Remedy, ...]:
    tag = study.tag(finding.variable)
    codes = [entry for entry in _entries(study, finding) if canonical_code(entry, tag.type) is not None]
    listed = tuple(CodeLine(code=code) for code in codes)
    if not (listed and tag.complete):
        return _set_aside(study, finding)
    known = lines_for(study, finding.variable, codes)
    ways = [Remedy("list them", ListCodes(variables=(finding.variable,), lines=known or listed))]
    if known:
        ways[0] = Remedy("list them as the document has them", ways[0].step)
    return (*ways, *_set_aside(study, finding))


def _label_by_wording(study: Study, finding: Finding) -> tuple[Remedy, ...]:
    labels = {id: Parts(label=shortened(study.tag(id).question)) for id in finding.variables}
    return (Remedy("take the wording, shortened", Describe(tags=labels)),)


def _spelt_alike(study: Study, finding: Finding) -> tuple[Remedy, ...]:
    groups = near_duplicates(study, finding.variable)
    if not groups:
        return ()
    usual, *others = groups[0].entries
    step = ReplaceEntries(variables=(finding.variable,), entries=tuple(others), by=usual)
    return (Remedy(f"spell all of them “{usual}”", step),)


def _as_numbers(study: Study, finding: Finding) -> tuple[Remedy, ...]:
    kind = next((kind for kind in ("whole numbers", "numbers", "dates") if kind in finding.message), "")
    parts = {
        "whole numbers": Parts(type="integer", level="ratio"), "numbers": Parts(type="decimal", level="ratio"),
        "dates": Parts(type="date", level="interval"),
    }.get(kind)  # fmt: skip
    return (Remedy(f"read them as {kind}", Define(variables=(finding.variable,), parts=parts)),) if parts else ()


def _names_records(study: Study, finding: Finding) -> tuple[Remedy, ...]:
    parts = Parts(use="identifier", level="nominal")
    return (Remedy("make it an identifier", Define(variables=(finding.variable,), parts=parts)),)


def _as_skip(study: Study, finding: Finding) -> tuple[Remedy, ...]:
    known, shown = study.tag(finding.variable).skips, shown_for(study, finding)
    if shown is None:
        return ()
    return (Remedy("make it a rule", SetSkips(variable=finding.variable, skips=(*known, shown))),)


def _as_battery(study: Study, finding: Finding) -> tuple[Remedy, ...]:
    name = study.tag(finding.variable).name
    title = stem_of(study, finding.variables) or name.rstrip("0123456789").rstrip("_") or name
    step = Group(battery=f"battery-{finding.variable}"[:40], title=title[:MOST_TITLE], variables=finding.variables)
    return (Remedy("make them a battery", step),)


def _turn_round(study: Study, finding: Finding) -> tuple[Remedy, ...]:
    """Only where the item has a list that can be turned."""
    lines = study.codes(finding.variable)
    if len(lines) < 2 or any(line.code is None or canonical_code(line.code, "decimal") is None for line in lines):
        return ()
    return (Remedy("turn its codes round", TurnRound(variables=(finding.variable,))),)


def _wider(study: Study, finding: Finding) -> tuple[Remedy, ...]:
    return (Remedy("make it as wide as needed", TrimWidths(variables=(finding.variable,))),)


def _work_out(study: Study, finding: Finding) -> tuple[Remedy, ...]:
    """Nothing where it cannot be worked out."""
    step = WorkOutAgain(variables=(finding.variable,))
    return (Remedy("recalculate it", step),) if finding.count else ()


def _as_it_stands_now(study: Study, finding: Finding) -> tuple[Remedy, ...]:
    """Derives it anew by its own sentence, whose spans then mean what stands there; not what makes several at once."""
    variable = study.variable(finding.variable)
    how = variable.origin.how
    if how is None or derive(how, study).several or any(not now for now in means_otherwise(study, how).values()):
        return ()
    anew = held(shown(how, study), study)
    step = Derive(variables=(Into(how=anew, into={finding.variable: variable.tag.name}),))
    return (Remedy("derive it from what stands there now", step),)


def _held_as_it_stands_now(study: Study, finding: Finding) -> tuple[Remedy, ...]:
    """Writes the rule anew as it is written, whose spans then mean what stands there."""
    rule = study.shelves["rule"].get(finding.which)
    if rule is None or any(not now for now in means_otherwise(study, rule.holds).values()):
        return ()
    anew = rule.model_copy(update={"holds": named(written(rule.holds, study), study)})
    return (Remedy("hold it for what stands there now", KeepRule(rule=finding.which, says=anew)),)


_REMEDIES: dict[str, Find] = {
    "label beside the wording": _label_by_wording,
    "not what comes out": _work_out,
    "span means others": _as_it_stands_now,
    "a rule's span means others": _held_as_it_stands_now,
    "undeclared missing": _set_aside,
    "zeros apart": _set_aside,
    "unreadable entries": _mend_unreadable,
    "unlisted codes": _list_or_set_aside,
    "one answer in several spellings": _spelt_alike,
    "kept as text": _as_numbers,
    "identifier as a measure": _names_records,
    "longer than the width": _wider,
    "a skip nobody told": _as_skip,
    "item against the rest": _turn_round,
    "a battery nobody told": _as_battery,
    "neither ticked nor not": _set_aside,
}
