"""Missing answers: codes that nobody declared, codes that could be answers, codes that differ without a reason."""

import re
from collections import Counter
from collections.abc import Sequence

import numpy as np
import numpy.typing as npt
import pyarrow.compute as pc

from rowtag.core.aside import suspects
from rowtag.core.checks.base import (
    Evidence,
    Finding,
    Threshold,
    Tokens,
    about_entries,
    register,
    register_across,
    threshold,
)
from rowtag.core.frame import Frame
from rowtag.core.reading import State, canonical_code
from rowtag.core.study import Study
from rowtag.core.summary import quantile
from rowtag.core.tag import CODED_LEVELS, NUMBER_TYPES
from rowtag.core.tokens import large_texts
from rowtag.core.words import counted
from rowtag.core.worked_out import entries, reading, records, words

FEWEST = 30
"""Entries below which shares and quantiles say little."""
MAJORITY, FEWEST_VARIABLES = 0.6, 4
"""The share of variables with a code for a reason, and how many, from which others are out of line."""
APART, TIMES = 0.15, 3
"""A share of missing answers is out of line above the middle one of its battery by so much, and so many times it."""
EMPTY = 0.95
"""The share of blanks from which a variable is nearly empty."""


def is_measured(study: Study, id: str) -> bool:
    """Whether a variable holds measured numbers: neither codes, nor names of records, nor weights."""
    tag = study.tag(id)
    coded = tag.level in CODED_LEVELS or (study.codes(id) and tag.complete)
    return tag.type in NUMBER_TYPES and not coded and tag.use in ("answer", "administrative", "design")


def undeclared_tokens(study: Study, id: str) -> Tokens:
    """Valid entries that may stand for a missing answer."""
    found = [each.entry for each in suspects(study, id)]
    if not found:
        return np.empty(0, np.int64)
    read = study.reading(id)
    kind = study.tag(id).type
    wanted = large_texts({canonical_code(entry, kind) or entry for entry in found})
    hits = pc.is_in(read.canonical(), wanted).to_numpy(zero_copy_only=False)
    loose = (read.states == State.VALID) & (read.lines < 0)  # what is listed is an answer
    return np.flatnonzero(hits & loose & (study.counts(id) > 0))


@register("undeclared missing", "missing", reading, words, entries, tokens=undeclared_tokens)
def undeclared(study: Study, id: str) -> Finding | None:
    """Valid entries that probably stand for a missing answer: words such as “n/a”, numbers such as −9 and 999 that
    stand apart from all others."""

    def say(count: int) -> str:
        are = "is" if count == 1 else "are"
        return f"{counted(count, 'entry', 'entries')} may stand for a missing answer and {are} counted as valid"

    return about_entries(study, id, undeclared, "warning", say)


@register("missing code in the range", "missing", reading, words, entries)
def in_range(study: Study, id: str) -> Finding | None:
    """A missing code of a measured variable that lies where its answers lie: some of them may be real."""
    kind = study.tag(id).type
    codes = [line.code for line in study.tag(id).missing if line.code is not None and canonical_code(line.code, kind)]
    if not codes or not is_measured(study, id) or study.fill(id).valid < FEWEST:
        return None
    values, counts = study.values(id)
    low, high = (float(quantile(values, counts, share)) for share in (0.05, 0.95))
    inside = [code for code in codes if low <= float(canonical_code(code, kind) or 0) <= high]
    if not inside:
        return None
    what = "is a missing code" if len(inside) == 1 else "are missing codes"
    said = f"{' and '.join(inside)} {what} and could be answers: nine in ten lie between {low:g} and {high:g}"
    return Finding(
        "missing code in the range", "warning", id, said, evidence=tuple(Evidence(code, 0) for code in inside)
    )


def _habit(code: str) -> str:
    """What codes such as 9, 99 and 999 have in common: their sign and their digit."""
    found = re.fullmatch(r"(-?)(\d)\2*", code.replace("\u2212", "-"))
    return f"{found[1]}{found[2]}" if found else code


@register_across("missing codes differ", "missing", words, scope="records")
def differing(study: Study, ids: tuple[str, ...]) -> Sequence[Finding]:
    """Variables that mark a reason by another code than nearly all others do."""
    by_reason: dict[str, list[tuple[str, str, str]]] = {}
    for id in ids:
        for line in study.tag(id).missing:
            if line.code is not None and line.reason != "other" and study.tag(id).type in NUMBER_TYPES:
                by_reason.setdefault(line.reason, []).append((id, line.code, _habit(line.code)))
    found = []
    for reason, lines in by_reason.items():
        habits = Counter(habit for _, _, habit in lines)
        usual, often = habits.most_common(1)[0]
        if often < FEWEST_VARIABLES or often < MAJORITY * len(lines):
            continue
        codes = Counter(code for _, code, habit in lines if habit == usual)
        for id, code, habit in lines:
            if habit != usual:
                other = codes.most_common(1)[0][0]
                said = f"marks “{reason}” by {code}, where {counted(often, 'variable')} mark it by {other}"
                found.append(Finding("missing codes differ", "warning", id, said, evidence=(Evidence(code, 0),)))
    return found


@register(
    "nearly empty",
    "missing",
    reading,
    entries,
    records,
    thresholds={"share": Threshold(EMPTY, "share of blanks", 0.1, 1)},
)
def nearly_empty(study: Study, id: str) -> Finding | None:
    """Variables in which hardly any record has anything; open answers often are."""
    fill, size = study.fill(id), study.records.count
    if (
        size < FEWEST
        or fill.blank < threshold(study, "nearly empty", "share") * size
        or study.tag(id).use == "open-ended"
    ):
        return None
    said = "holds nothing at all" if fill.blank == size else f"is blank in {fill.blank / size:.0%} of the records"
    return Finding("nearly empty", "note", id, said, fill.blank)


def _unanswered(study: Study, finding: Finding) -> npt.NDArray[np.int64]:
    """Positions of the records without a valid answer."""
    found = [block.positions[block.states(finding.variable) != State.VALID] for block in Frame(study).blocks()]
    return np.concatenate(found) if found else np.empty(0, np.int64)


@register_across(
    "missing out of line",
    "missing",
    reading,
    entries,
    records,
    scope="several",
    records=_unanswered,
    thresholds={"above": Threshold(APART, "share above the middle one of the battery", 0.01, 1)},
)
def out_of_line(study: Study, ids: tuple[str, ...]) -> Sequence[Finding]:
    """Items of a battery that far more records leave out than the others."""
    size = study.records.count
    if size < FEWEST or len(ids) < 3:
        return []
    above = threshold(study, "missing out of line", "above")
    shares = {id: (study.fill(id).blank + study.fill(id).missing) / size for id in ids}
    middle = float(np.median(list(shares.values())))
    found = []
    for id, share in shares.items():
        if share > middle + above and share > TIMES * middle:
            said = f"has no answer in {share:.0%} of the records; in its battery {middle:.0%} is usual"
            found.append(Finding("missing out of line", "warning", id, said, round(share * size)))
    return found
