"""Skips: entries in questions that a confirmed skip passes by, and skips that the data show without anybody's word."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from rowtag.core.checks.base import Evidence, Finding, Threshold, register_across, threshold
from rowtag.core.frame import Frame
from rowtag.core.reading import State
from rowtag.core.rules import Severity
from rowtag.core.skips import breaking, broken_by, passed_by
from rowtag.core.study import Study
from rowtag.core.tag import Skip
from rowtag.core.words import counted
from rowtag.core.worked_out import entries, reading, skips, words, worked_out
from rowtag.core.worked_out import records as records_there


def _records(study: Study, finding: Finding) -> npt.NDArray[np.int64]:
    return breaking(study, finding.variable)


@register_across("answered though skipped", "skips", reading, skips, entries, scope="records", records=_records)
def answered(study: Study, ids: tuple[str, ...]) -> Sequence[Finding]:
    """Records that take a skip and have valid entries in what it passes by: the filter or the follow-up is wrong."""
    found = []
    for id in ids:
        confirmed = [skip for skip in study.tag(id).skips if not skip.proposed]
        count = breaking(study, id).size if confirmed else 0
        if count:
            others = dict.fromkeys(other for skip in confirmed for other in passed_by(study, id, skip))
            have = "has" if count == 1 else "have"
            said = f"{counted(count, 'record skips', 'records skip')} what follows and {have} entries there"
            found.append(Finding("answered though skipped", "warning", id, said, count, others=tuple(others)))
    return found


# Skips that the data show ------------------------------------------------------------------------

FEWEST, FURTHEST, MOST_CODES = 30, 15, 12
"""Records with an answer below which nothing is told from them; how many variables behind a question are looked at; and
codes up to which a question may be a filter."""
LEFT, ASKED = 0.97, 0.7
"""The share of records with an answer that leave a question out from which the answer skips it, and the share of all
others that answer it."""


@dataclass(frozen=True)
class Shown:
    """A skip that the data show: who gave a code has no answer in the variables that follow, but for some records."""

    variable: str
    code: str
    passed: tuple[str, ...]
    breaks: int

    def skip(self, study: Study) -> Skip:
        """It as a skip."""
        at = study.order.index(self.passed[-1]) + 1
        return Skip(codes=(self.code,), to=study.order[at] if at < len(study.order) else None)


def shown_skips(study: Study, ids: Sequence[str]) -> list[Shown]:
    """Skips that the data show plainly, and that nobody has told yet."""
    size = max(study.records.count, 1)
    answered = {id: study.fill(id).valid / size for id in ids}
    left = threshold(study, "a skip nobody told", "share")
    found = []
    for at, id in enumerate(ids):
        lines = study.codes(id)
        told = {code for skip in study.tag(id).skips for code in skip.codes}
        behind = [other for other in ids[at + 1 : at + 1 + FURTHEST] if 0.02 < answered[other] < left]
        if not 2 <= len(lines) <= MOST_CODES or not behind or behind[0] != ids[at + 1]:
            continue
        table = _answers_by_line(study, (id, *behind), len(lines))
        for number, line in enumerate(lines):
            if line.code is None or line.code in told or table[0][number].sum() < FEWEST:
                continue
            passed: list[str] = []
            breaks = 0
            for other, counts in zip(behind, table, strict=True):
                here, rest = counts[number], counts.sum(axis=0) - counts[number]
                if (
                    ids[at + 1 + len(passed)] != other
                    or here[0] < left * here.sum()
                    or rest[1] < ASKED * max(rest.sum(), 1)
                ):
                    break
                passed.append(other)
                breaks = max(breaks, int(here[1]))
            if passed:
                found.append(Shown(id, line.code, tuple(passed), breaks))
    return found


@worked_out(reading, entries, records_there)
def _answers_by_line(study: Study, ids: tuple[str, ...], lines: int) -> list[npt.NDArray[np.int64]]:
    """Per variable behind a question how many records of each code line of that have no valid answer there, and one:
    int64 (lines × 2)."""
    id, *others = ids
    out = [np.zeros((lines, 2), np.int64) for _ in others]
    for block in Frame(study).blocks():
        line = np.where(block.states(id) == State.VALID, block.lines(id), -1)
        given = np.flatnonzero(line >= 0)
        for counts, other in zip(out, others, strict=True):
            both = line[given] * 2 + (block.states(other)[given] == State.VALID)
            counts += np.bincount(both, minlength=2 * lines).reshape(lines, 2)
    return out


def shown_for(study: Study, finding: Finding) -> Skip | None:
    """The skip that a finding is about, which may be of an earlier state; None where the data show it no more."""
    which = finding.variable, finding.evidence[0].entry
    shown = (each for each in shown_skips(study, study.order) if (each.variable, each.code) == which)
    return next((each.skip(study) for each in shown), None)


def _shown_records(study: Study, finding: Finding) -> npt.NDArray[np.int64]:
    skip = shown_for(study, finding)
    return np.empty(0, np.int64) if skip is None else broken_by(study, finding.variable, skip)


_LOOKED_AT = (reading, words, skips, entries, records_there)


@register_across(
    "a skip nobody told",
    "skips",
    *_LOOKED_AT,
    scope="records",
    records=_shown_records,
    thresholds={"share": Threshold(LEFT, "share of records that leave a question out", 0.8, 1)},
)
def untold(study: Study, ids: tuple[str, ...]) -> Sequence[Finding]:
    """Answers after which nearly all records leave the next questions out: the data show a skip, and a few break it."""
    found = []
    for each in shown_skips(study, ids):
        label = next((line.label for line in study.codes(each.variable) if line.code == each.code), "")
        names = ", ".join(study.tag(other).name for other in each.passed[:3]) + (" …" if len(each.passed) > 3 else "")
        said = f"who answers {each.code}{f' “{label}”' if label else ''} leaves {names} out"
        if each.breaks:
            said += f", but for {counted(each.breaks, 'record')}"
        severity: Severity = "warning" if each.breaks else "note"
        told = Evidence(each.code, 0)
        found.append(Finding("a skip nobody told", severity, each.variable, said, each.breaks, (told,), 1, each.passed))
    return found
