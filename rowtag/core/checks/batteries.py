"""Batteries: lists that differ, items that run against the rest, the same answer all the way down, ranks and ticks."""

import re
from collections import Counter
from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from rowtag.core.answers import folded
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
from rowtag.core.families import stem_of
from rowtag.core.frame import Frame
from rowtag.core.keying import is_ranking, is_ticked
from rowtag.core.reading import State, canonical_code
from rowtag.core.reliability import alpha, item_rest
from rowtag.core.study import Study
from rowtag.core.words import counted
from rowtag.core.worked_out import entries, reading, words

FEWEST_ITEMS, FEWEST = 3, 50
"""Items and complete records below which correlations say little."""
AGAINST, TOGETHER = -0.2, 0.15
"""An item runs against the rest below this correlation with it, where the others among them have at least that mean."""
FEWEST_STRAIGHT = 5
"""Items from which the same answer to all of them is worth knowing."""
MOST_OTHERWISE = 0.05
"""The share of other entries up to which something is there to be ticked."""
MOST_LEFT_OUT = 0.2
"""The share of records that leave ranks out up to which it is a slip."""
MAJORITY = 0.6
"""The share of items with one list from which that is the list of the battery."""
REVERSED = re.compile(r"\b(?:revers\w*|negatively (?:worded|keyed)|umgepolt|invers\w*|odwrócon\w*)\b", re.IGNORECASE)
"""Says that an item runs the other way."""
_NONE = re.compile(
    r"^\W*(?:none\b|nothing\b|no (?:crop|answer|other|such)|not any|nichts|keine?[sr]?\b|aucun|rien\b|żad|nic\b)",
    re.IGNORECASE,
)
Values = npt.NDArray[np.float64]


def _plain(study: Study, id: str) -> dict[str, str]:
    """The labels of a variable's codes, by code."""
    kind = study.tag(id).type
    return {
        canonical_code(line.code, kind) or line.code: line.label for line in study.codes(id) if line.code is not None
    }


def _coded(study: Study, ids: Sequence[str]) -> dict[str, dict[str, str]]:
    """The lists of those variables that have one."""
    lists = {id: _plain(study, id) for id in ids}
    return {id: found for id, found in lists.items() if found}


def runs_against(one: dict[str, str], other: dict[str, str]) -> bool:
    """Whether a list has the labels of another one in the opposite order of codes."""
    if one.keys() != other.keys() or len(one) < 3:
        return False
    codes = sorted(one, key=_number)
    labels, theirs = [folded(one[code]) for code in codes], [folded(other[code]) for code in codes]
    return labels != theirs and labels == theirs[::-1] and all(labels)


def _number(code: str) -> tuple[float, str]:
    try:
        return float(code), code
    except ValueError:
        return 0.0, code


def _turned(study: Study, ids: Sequence[str]) -> list[str]:
    """Items whose list runs the other way than that of most items."""
    usual, others = _usual(study, ids)
    return [id for id in others if usual is not None and runs_against(others[id], usual)]


@register_across("lists run against each other", "batteries", reading, words, entries, scope="several")
def against_each_other(study: Study, ids: tuple[str, ...]) -> Sequence[Finding]:
    """Items whose codes mean the opposite of what they mean in the other items. Where the answers run against the
    others' too, the list says what was done, which is worth knowing; else the labels contradict the answers."""
    turned = _turned(study, ids)
    if not turned:
        return []
    items = [id for id in ids if study.reading(id).values is not None]
    _, values = values_of(study, items)
    rest = dict(zip(items, item_rest(values), strict=True)) if values.shape[0] >= FEWEST else {}
    found = []
    for id in turned:
        meant = bool(rest.get(id, 0.0) < AGAINST)
        said = "has the labels of its battery in the opposite order of codes"
        said += ", and its answers run against the others': it is coded the other way round" if meant else ""
        found.append(Finding("lists run against each other", "note" if meant else "error", id, said))
    return found


def _usual(study: Study, ids: Sequence[str]) -> tuple[dict[str, str] | None, dict[str, dict[str, str]]]:
    """The list that most items of a battery have, and the lists of the others."""
    lists = _coded(study, ids)
    kinds = Counter(tuple(sorted((code, folded(label)) for code, label in each.items())) for each in lists.values())
    if not kinds:
        return None, {}
    most, often = kinds.most_common(1)[0]
    if often < MAJORITY * len(lists) or often < 2:
        return None, {}
    same = {
        id for id, each in lists.items() if tuple(sorted((code, folded(label)) for code, label in each.items())) == most
    }
    usual = next(lists[id] for id in lists if id in same)
    return usual, {id: each for id, each in lists.items() if id not in same}


@register_across("lists differ", "batteries", words, scope="several")
def lists_differ(study: Study, ids: tuple[str, ...]) -> Sequence[Finding]:
    """Items with other codes, or other labels for the same codes, than most items of their battery."""
    usual, others = _usual(study, ids)
    found = []
    for id, own in others.items():
        if usual is None or runs_against(own, usual):
            continue
        worded = [
            code
            for code in own
            if code in usual and own[code] and usual[code] and folded(own[code]) != folded(usual[code])
        ]
        odd = sorted((own.keys() ^ usual.keys()), key=_number)
        if {*own} == {"1", "2"} and {*usual} == {"0", "1"}:
            said = "is coded 1 and 2, where its battery is coded 0 and 1"
        elif worded:
            code = worded[0]
            said = f"has “{own[code]}” for {code}, where its battery has “{usual[code]}”"
        elif odd:
            said = f"has other codes than its battery: {', '.join(odd[:4])}"
        else:
            continue
        found.append(
            Finding(
                "lists differ", "warning", id, said, evidence=tuple(Evidence(code, 0) for code in (worded or odd)[:8])
            )
        )
    return found


def values_of(study: Study, ids: Sequence[str]) -> tuple[npt.NDArray[np.int64], Values]:
    """Positions of the records in which all of some variables are valid, and their values there: (n), (n × items)."""
    positions, rows = [np.empty(0, np.int64)], [np.empty((0, len(ids)))]
    for block in Frame(study).blocks():
        table = np.stack([block.values(id) for id in ids], axis=1)
        whole = ~np.isnan(table).any(axis=1)
        positions.append(block.positions[whole])
        rows.append(table[whole])
    return np.concatenate(positions), np.concatenate(rows)


def _items(study: Study, ids: Sequence[str]) -> list[str]:
    """The items of a battery that hold an order: neither things to tick nor ranks, all with values."""
    if is_ticked(study, ids) or is_ranking(study, ids):
        return []
    return [id for id in ids if study.reading(id).values is not None and len(_plain(study, id)) != 2]


@register_across(
    "item against the rest",
    "batteries",
    reading,
    words,
    entries,
    scope="several",
    thresholds={"correlation": Threshold(AGAINST, "correlation with the rest below which it is told", -1, 0)},
)
def against_the_rest(study: Study, ids: tuple[str, ...]) -> Sequence[Finding]:
    """Items that go down where the others go up: probably keyed the other way round, unless the codebook says so."""
    turned = _turned(study, ids)
    items = [id for id in _items(study, ids) if id not in turned and not REVERSED.search(study.tag(id).note)]
    if len(items) < FEWEST_ITEMS:
        return []
    _, values = values_of(study, items)
    if values.shape[0] < FEWEST or (values.std(axis=0) == 0).any():
        return []
    rest, limit = item_rest(values), threshold(study, "item against the rest", "correlation")
    against = [at for at in range(len(items)) if rest[at] < limit]
    if not against or len(against) > len(items) // 2:
        return []
    others = np.delete(np.corrcoef(values.T), against, axis=0)
    others = np.delete(others, against, axis=1)
    if others.shape[0] > 1 and (others.sum() - others.shape[0]) / (others.shape[0] * (others.shape[0] - 1)) < TOGETHER:
        return []
    flipped = values.copy()
    flipped[:, against] = -flipped[:, against]
    before, after = alpha(values), alpha(flipped)
    table = _item_by_item(study, items, values, rest)
    found = []
    for at in against:
        said = (
            f"goes down where its battery goes up (r = {rest[at]:.2f}); keyed the other way round "
            f"alpha would be {after:.2f}, not {before:.2f}"
        )
        found.append(Finding("item against the rest", "warning", items[at], said, values.shape[0], table=table))
    return found


def _item_by_item(
    study: Study, items: Sequence[str], values: Values, rest: npt.NDArray[np.float64]
) -> tuple[tuple[str, ...], ...]:
    """How each item goes with the others, and what the reliability of the battery would be without it."""
    without = [alpha(np.delete(values, at, axis=1)) for at in range(len(items))]
    rows = [
        (study.tag(id).name, f"{rest[at]:.2f}", "" if np.isnan(without[at]) else f"{without[at]:.2f}")
        for at, id in enumerate(items)
    ]
    return ("item", "with the others", "alpha without it"), *rows


def straight(study: Study, ids: Sequence[str]) -> npt.NDArray[np.int64]:
    """Positions of the records that have the same valid answer in all of some variables."""
    positions, values = values_of(study, ids)
    return positions[(values == values[:, :1]).all(axis=1)] if values.size else positions


def _straight_records(study: Study, finding: Finding) -> npt.NDArray[np.int64]:
    return straight(study, finding.variables)


@register_across(
    "the same answer throughout",
    "batteries",
    reading,
    words,
    entries,
    scope="several",
    records=_straight_records,
    thresholds={"items": Threshold(FEWEST_STRAIGHT, "items from which it is told", 2, 200)},
)
def same_throughout(study: Study, ids: tuple[str, ...]) -> Sequence[Finding]:
    """Records with one and the same answer all the way down a battery: the more telling where an item runs the other
    way."""
    items = _items(study, ids)
    if len(items) < threshold(study, "the same answer throughout", "items"):
        return []
    count = straight(study, items).size
    turned = any(REVERSED.search(study.tag(id).note) for id in items)
    if not count:
        return []
    behind = ", though an item runs the other way" if turned else ""
    said = f"{counted(count, 'record has', 'records have')} the same answer in all {len(items)} items{behind}"
    return [
        Finding(
            "the same answer throughout",
            "warning" if turned else "note",
            items[0],
            said,
            count,
            others=tuple(items[1:]),
        )
    ]


def ranked_twice(study: Study, ids: Sequence[str]) -> npt.NDArray[np.int64]:
    """Positions of the records that use a rank twice."""
    out = [np.empty(0, np.int64)]
    for block in Frame(study).blocks():
        table = np.sort(np.stack([block.values(id) for id in ids], axis=1), axis=1)
        out.append(block.positions[(np.diff(table, axis=1) == 0).any(axis=1)])
    return np.concatenate(out)


def _ranked_records(study: Study, finding: Finding) -> npt.NDArray[np.int64]:
    return ranked_twice(study, finding.variables)


@register_across("rank used twice", "batteries", reading, words, entries, scope="several", records=_ranked_records)
def rank_twice(study: Study, ids: tuple[str, ...]) -> Sequence[Finding]:
    """Records that give the same rank to two things."""
    if not is_ranking(study, ids):
        return []
    count = ranked_twice(study, ids).size
    if not count:
        return []
    said = f"{counted(count, 'record uses', 'records use')} a rank twice"
    return [Finding("rank used twice", "error", ids[0], said, count, others=ids[1:])]


def rank_left_out(study: Study, ids: Sequence[str]) -> npt.NDArray[np.int64]:
    """Positions of the records that give some ranks, each once, and leave a better one out; or give one that is beyond
    how many things there are."""
    out = [np.empty(0, np.int64)]
    for block in Frame(study).blocks():
        table = np.stack([block.values(id) for id in ids], axis=1)
        given = ~np.isnan(table)
        ranked = given.sum(axis=1)
        ordered = np.sort(table, axis=1)
        distinct = ~(np.diff(ordered, axis=1) == 0).any(axis=1)
        last = ordered[np.arange(len(ordered)), np.maximum(ranked - 1, 0)]
        wrong = (ranked > 0) & distinct & ((last != ranked) | (ordered[:, 0] != 1))
        out.append(block.positions[wrong])
    return np.concatenate(out)


def _left_out_records(study: Study, finding: Finding) -> npt.NDArray[np.int64]:
    return rank_left_out(study, finding.variables)


@register_across("rank left out", "batteries", reading, words, entries, scope="several", records=_left_out_records)
def ranks_with_gaps(study: Study, ids: tuple[str, ...]) -> Sequence[Finding]:
    """Records that leave a rank out or go beyond the last one: a second place without a first, a fifth of four."""
    if not is_ranking(study, ids):
        return []
    count = rank_left_out(study, ids).size
    size = max(study.records.count, 1)
    if not count or count > MOST_LEFT_OUT * size:
        return []  # so many do so that it is how ranks were asked for
    said = (
        f"{counted(count, 'record leaves', 'records leave')} a rank out or {'goes' if count == 1 else 'go'} beyond it"
    )
    return [Finding("rank left out", "warning", ids[0], said, count, others=ids[1:])]


def otherwise_ticked(study: Study, id: str) -> Tokens:
    """Valid entries of something to tick that are neither 0 nor 1, where nearly all are."""
    found, counts = study.reading(id), study.counts(id)
    if study.tag(id).use != "several answers" or found.values is None:
        return np.empty(0, np.int64)
    valid = (found.states == State.VALID) & (counts > 0)
    other = valid & ~np.isin(found.values, (0.0, 1.0))
    few = counts[other].sum() <= MOST_OTHERWISE * counts[valid].sum()
    return np.flatnonzero(other) if few else np.empty(0, np.int64)


@register("neither ticked nor not", "batteries", reading, words, entries, tokens=otherwise_ticked)
def ticked_otherwise(study: Study, id: str) -> Finding | None:
    """Something to tick with entries other than 0 and 1, where nearly all are these."""

    def say(count: int) -> str:
        return f"{counted(count, 'entry is', 'entries are')} neither ticked (1) nor not (0)"

    return about_entries(study, id, ticked_otherwise, "warning", say)


@register_across("a battery nobody told", "batteries", words, scope="several")
def untold_battery(study: Study, ids: tuple[str, ...]) -> Sequence[Finding]:
    """Variables that are numbered on under one name, or share their wording or the beginning of their labels, have the
    same list, and are in no battery: they look like one."""
    lists = list(_coded(study, ids).values())
    if len(ids) < FEWEST_ITEMS or study.tag(ids[0]).battery is not None or len(lists) < len(ids):
        return []
    if any(each != lists[0] for each in lists[1:]):
        return []
    first, last = study.tag(ids[0]).name, study.tag(ids[-1]).name
    stem = stem_of(study, ids)
    shown = f"share “{stem}”" if stem else "are numbered on"
    said = f"{first} to {last} have the same list and {shown}: they look like a battery"
    return [Finding("a battery nobody told", "note", ids[0], said, others=ids[1:])]


def nothing_ticked(study: Study, ids: Sequence[str]) -> npt.NDArray[np.int64]:
    """Positions of the records that answer all of some things to tick, and tick none."""
    out = [np.empty(0, np.int64)]
    for block in Frame(study).blocks():
        states = np.stack([block.states(id) for id in ids], axis=1)
        ticked = np.stack([_ticked(block.states(id), block.values(id)) for id in ids], axis=1)
        out.append(block.positions[(states == State.VALID).all(axis=1) & ~ticked.any(axis=1)])
    return np.concatenate(out)


def _nothing_records(study: Study, finding: Finding) -> npt.NDArray[np.int64]:
    return nothing_ticked(study, finding.variables)


@register_across("nothing ticked", "batteries", reading, words, entries, scope="several", records=_nothing_records)
def none_of_all(study: Study, ids: tuple[str, ...]) -> Sequence[Finding]:
    """Records that tick nothing at all where "none of these" is there to be ticked: they may have passed it over."""
    none = next((id for id in ids if _NONE.search(study.tag(id).label)), None)
    if none is None or len(ids) < FEWEST_ITEMS or not is_ticked(study, ids):
        return []
    count = nothing_ticked(study, ids).size
    if not count:
        return []
    said = f"{counted(count, 'record ticks', 'records tick')} nothing, not even “{study.tag(none).label}”"
    return [Finding("nothing ticked", "note", none, said, count, others=tuple(id for id in ids if id != none))]


def none_with_others(study: Study, ids: Sequence[str], none: str) -> npt.NDArray[np.int64]:
    """Positions of the records that tick "none" together with something else."""
    out = [np.empty(0, np.int64)]
    for block in Frame(study).blocks():
        ticked = np.stack([_ticked(block.states(id), block.values(id)) for id in ids], axis=1)
        out.append(block.positions[ticked[:, ids.index(none)] & (ticked.sum(axis=1) > 1)])
    return np.concatenate(out)


def _ticked(states: npt.NDArray[np.uint8], values: Values) -> npt.NDArray[np.bool_]:
    ticked: npt.NDArray[np.bool_] = (states == State.VALID) & (values == 1)
    return ticked


def _none_records(study: Study, finding: Finding) -> npt.NDArray[np.int64]:
    return none_with_others(study, finding.variables, finding.variable)


@register_across(
    "none together with others", "batteries", reading, words, entries, scope="several", records=_none_records
)
def none_together(study: Study, ids: tuple[str, ...]) -> Sequence[Finding]:
    """Records that tick "none of these" together with some of these."""
    none = next((id for id in ids if _NONE.search(study.tag(id).label)), None)
    if none is None or len(ids) < FEWEST_ITEMS or not is_ticked(study, ids):
        return []
    count = none_with_others(study, ids, none).size
    if not count:
        return []
    said = f"{counted(count, 'record ticks', 'records tick')} “{study.tag(none).label}” together with others"
    return [
        Finding("none together with others", "error", none, said, count, others=tuple(id for id in ids if id != none))
    ]
