"""Records: identifiers that tell nothing, records that are nearly empty, moments that cannot be."""

import re
from collections.abc import Sequence
from functools import partial

import numpy as np
import numpy.typing as npt

from rowtag.core.checks.base import Finding, Threshold, Tokens, about_entries, register, register_across, threshold
from rowtag.core.checks.copies import answers_of, filled, there
from rowtag.core.checks.strays import tokens_read_as
from rowtag.core.frame import Frame
from rowtag.core.reading import State
from rowtag.core.rowsums import summed
from rowtag.core.study import Study
from rowtag.core.words import counted
from rowtag.core.worked_out import entries, reading, records, records_named, words

EMPTY, USUAL, FEWEST_ANSWERS = 0.9, 0.5, 10
"""The share of blank answers from which a record is nearly empty, where usually no more than the second are blank, and
how many answers it takes to say so."""
FAST, FEWEST_TIMED = 0.25, 30
"""The share of the usual time below which nobody can have answered, and how many records it takes to say so."""
Positions = npt.NDArray[np.int64]


def _repeated(study: Study, id: str) -> Tokens:
    """Identifiers that several records have."""
    if study.tag(id).use != "identifier":
        return np.empty(0, np.int64)
    found, counts = study.reading(id), study.counts(id)
    there = (found.states == State.VALID) & (counts > 0)
    groups = found.groups()
    totals = np.bincount(groups, weights=np.where(there, counts, 0))
    return np.flatnonzero(there & (totals[groups] > 1))


@register("identifier twice", "records", reading, words, entries, tokens=_repeated)
def identifier_twice(study: Study, id: str) -> Finding | None:
    """Identifiers that more than one record has."""

    def say(count: int) -> str:
        return f"{counted(count, 'record has', 'records have')} an identifier that others have too"

    return about_entries(study, id, identifier_twice, "error", say)


@register(
    "identifier blank", "records", reading, words, entries, records_named, tokens=partial(tokens_read_as, State.BLANK)
)
def identifier_blank(study: Study, id: str) -> Finding | None:
    """Records without an identifier."""
    blank = study.fill(id).blank
    if study.tag(id).use != "identifier" or not blank:
        return None
    return Finding(
        "identifier blank", "error", id, f"{counted(blank, 'record has', 'records have')} no identifier", blank
    )


def hardly_filled(study: Study, ids: Sequence[str]) -> Positions:
    """Positions of the records in which nearly all of some answers are blank, where that is no usual thing."""
    present = there(study)
    shares = 1 - summed(study, ids, filled) / len(ids)
    if not present.any() or np.median(shares[present]) > USUAL:
        return np.empty(0, np.int64)
    return np.flatnonzero(present & (shares >= threshold(study, "record nearly empty", "share")))


def _hardly_records(study: Study, finding: Finding) -> Positions:
    return hardly_filled(study, finding.variables)


@register_across(
    "record nearly empty",
    "records",
    reading,
    words,
    entries,
    records,
    scope="records",
    records=_hardly_records,
    thresholds={"share": Threshold(EMPTY, "share of blank answers", 0.2, 1)},
)
def record_empty(study: Study, ids: tuple[str, ...]) -> Sequence[Finding]:
    """Records in which hardly anything was answered: broken off, or never begun."""
    answers = answers_of(study, ids)
    if len(answers) < FEWEST_ANSWERS:
        return []
    count = hardly_filled(study, answers).size
    if not count:
        return []
    said = f"{counted(count, 'record is', 'records are')} blank in nearly every answer"
    return [Finding("record nearly empty", "warning", answers[0], said, count, others=tuple(answers[1:]))]


# Moments -----------------------------------------------------------------------------------------

_BEGIN = re.compile(
    r"(?<![a-z])(?:start(?:ed)?|beg[aiu]n(?:ning)?|from|opened|anfang|beginn|début|debut|początek)(?![a-z])", re.I
)
_END = re.compile(
    r"(?<![a-z])(?:end(?:ed)?|finish(?:ed)?|until|closed|complet(?:ed|ion)|ende|schluss|fin|koniec)(?![a-z])", re.I
)
_SECONDS = {"datetime": 1.0, "time": 1.0, "date": 86_400.0}


def spans(study: Study, ids: Sequence[str]) -> list[tuple[str, str]]:
    """Pairs of variables that hold when something began and when it ended, of one type and by their names."""
    moments = [id for id in ids if study.tag(id).type in _SECONDS]
    begins = {_rest(_BEGIN, study, id): id for id in moments if _BEGIN.search(_spoken(study, id))}
    found = []
    for id in moments:
        if _END.search(_spoken(study, id)) and not _BEGIN.search(_spoken(study, id)):
            begin = begins.get(_rest(_END, study, id))
            if begin is not None and begin != id and study.tag(begin).type == study.tag(id).type:
                found.append((begin, id))
    return found


def _spoken(study: Study, id: str) -> str:
    return study.tag(id).name.replace("_", " ").replace(".", " ")


def _rest(pattern: re.Pattern[str], study: Study, id: str) -> str:
    return " ".join(pattern.sub(" ", _spoken(study, id)).casefold().split())


def _durations(study: Study, begin: str, end: str) -> tuple[Positions, npt.NDArray[np.float64]]:
    """Positions of the records in which both moments are valid, and how long it took there, in seconds."""
    positions, taken = [np.empty(0, np.int64)], [np.empty(0)]
    for block in Frame(study).blocks():
        lasted = block.values(end) - block.values(begin)
        both = ~np.isnan(lasted)
        positions.append(block.positions[both])
        taken.append(lasted[both] * (_SECONDS["date"] if study.tag(end).type == "date" else 1.0))
    return np.concatenate(positions), np.concatenate(taken)


def _reversed_records(study: Study, finding: Finding) -> Positions:
    positions, taken = _durations(study, *finding.variables)
    return positions[taken < 0]


@register_across(
    "ended before it began", "measured values", reading, words, entries, scope="records", records=_reversed_records
)
def ended_before(study: Study, ids: tuple[str, ...]) -> Sequence[Finding]:
    """Records in which something ended before it began."""
    found = []
    for begin, end in spans(study, ids):
        if study.tag(end).type == "time":
            continue  # it may have been past midnight
        count = int(np.count_nonzero(_durations(study, begin, end)[1] < 0))
        if count:
            names = f"{study.tag(begin).name} is later than {study.tag(end).name}"
            said = f"{counted(count, 'record ends', 'records end')} before it begins: {names}"
            found.append(Finding("ended before it began", "error", begin, said, count, others=(end,)))
    return found


def _fast(study: Study, begin: str, end: str) -> Positions:
    positions, taken = _durations(study, begin, end)
    forward = taken >= 0
    if forward.sum() < FEWEST_TIMED or study.tag(end).type == "date":
        return np.empty(0, np.int64)
    share = threshold(study, "finished too fast", "share")
    return positions[forward & (taken < share * float(np.median(taken[forward])))]


def _fast_records(study: Study, finding: Finding) -> Positions:
    return _fast(study, *finding.variables)


@register_across(
    "finished too fast",
    "records",
    reading,
    words,
    entries,
    scope="records",
    records=_fast_records,
    thresholds={"share": Threshold(FAST, "share of the usual time", 0.01, 1)},
)
def too_fast(study: Study, ids: tuple[str, ...]) -> Sequence[Finding]:
    """Records that took a small share of the usual time: nobody can have answered so fast."""
    found = []
    for begin, end in spans(study, ids):
        count = _fast(study, begin, end).size
        if count:
            share = threshold(study, "finished too fast", "share")
            said = f"{counted(count, 'record took', 'records took')} less than {share:.0%} of the usual time"
            found.append(Finding("finished too fast", "warning", begin, said, count, others=(end,)))
    return found
