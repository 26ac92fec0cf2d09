"""The records of a study in an arrangement: filtered, sorted, or those that are alike."""

from collections.abc import Iterable

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from rowtag.core.arrangement import Arrangement, Condition, SortKey
from rowtag.core.engine import Same, engine
from rowtag.core.frame import at_every_position
from rowtag.core.reading import State, canonical_code, tidy_one, value_of
from rowtag.core.study import Study
from rowtag.core.tag import CODED_LEVELS
from rowtag.core.tokens import large_texts
from rowtag.core.worked_out import entries, kept_under, reading, words

Positions = npt.NDArray[np.int64]
Flags = npt.NDArray[np.bool_]
_STATES = {state.name.lower(): state for state in State}


def arranged(study: Study, arrangement: Arrangement) -> Positions:
    """Positions (0-based; int64) of the records of an arrangement, in its order; variables that are gone are left out.

    Remembered for as long as what it looks at stays the same.
    """
    there = [id for id in arrangement.variables if id in study.variables]
    remarks = Same(study.shelves["comment"]) if arrangement.remarked else None
    known = (*kept_under((reading, words, entries), study, there), study.records.arrived, study.records.gone, remarks)
    return engine.get(("arranged", arrangement, known), lambda: _arranged(study, arrangement))


def now(rows: Positions, seen: Study, study: Study) -> Positions:
    """Rows of an arrangement as it was in another state: records that were removed since are left out, and those that
    came since stand behind."""
    was, here = seen.records, study.records
    if was.arrived == here.arrived and was.removed == here.removed:
        return rows

    def look() -> Positions:
        kept = rows[rows < here.arrived]
        came = np.arange(was.arrived, here.arrived)
        if here.present is not None:
            kept, came = kept[here.present[kept]], came[here.present[came]]
        return np.concatenate([kept, came])

    return engine.get(("arranged now", Same(rows), was.arrived, here.arrived, here.gone), look)


def row_of(rows: Positions, position: int) -> int | None:
    """The row in which a record stands, by its position; None where it is not among them."""
    found = np.flatnonzero(rows == position)
    return int(found[0]) if found.size else None


def _arranged(study: Study, arrangement: Arrangement) -> Positions:
    chosen = np.ones(study.records.arrived, bool)
    if study.records.present is not None:
        chosen &= study.records.present
    for condition in arrangement.conditions:
        if condition.variable in study.variables:
            chosen &= at_every_position(study, condition.variable, meeting(study, condition))
    if arrangement.remarked:
        remarked = {each.record for each in study.shelves["comment"].values()}
        chosen &= np.isin(np.arange(1, chosen.size + 1), sorted(remarked))
    alike = [id for id in arrangement.alike if id in study.variables]
    sort = [key for key in arrangement.sort if key.variable in study.variables]
    keys = [at_every_position(study, key.variable, ranks(study, key)) for key in sort]
    if alike:
        groups = _groups(study, alike, chosen)
        chosen &= groups >= 0
        keys.insert(0, groups)
    rows = np.flatnonzero(chosen)
    return rows[np.lexsort([key[rows] for key in reversed(keys)])] if keys else rows


def meeting(study: Study, condition: Condition) -> Flags:
    """Which tokens of a variable meet a condition."""
    id = condition.variable
    column, found, kind = study.column(id), study.reading(id), study.tag(id).type
    hits = np.isin(found.states, [_STATES[name] for name in condition.readings])
    if condition.codes:
        wanted = {canonical_code(code, kind) or tidy_one(code) for code in condition.codes}
        hits |= pc.is_in(found.canonical(), large_texts(wanted)).to_numpy(zero_copy_only=False)
    if condition.text:
        lower = pc.utf8_lower(column.texts())
        hits |= pc.match_substring(lower, condition.text.lower()).to_numpy(zero_copy_only=False)
    low, high = (None, None) if found.values is None else (_value(end, kind) for end in (condition.low, condition.high))
    if found.values is not None and (low is not None or high is not None):  # a range bounds nothing in text
        inside = found.states == State.VALID
        inside &= (found.values >= low) if low is not None else True
        inside &= (found.values <= high) if high is not None else True
        hits |= inside
    return ~hits if condition.other else hits


def _value(end: str | None, kind: str) -> float | None:
    canonical = canonical_code(end, kind) if end is not None else None
    if canonical is None and end is not None:
        canonical, kind = canonical_code(end, "decimal"), "decimal"
    return None if canonical is None else value_of(canonical, kind)


_BEHIND = {State.VALID: 0, State.MISSING: 1, State.UNREADABLE: 2, State.UNLISTED: 2, State.BLANK: 3}


def ranks(study: Study, key: SortKey) -> Positions:
    """The place of each token of a variable in an order; entries that read alike have the same place."""
    found, tag = study.reading(key.variable), study.tag(key.variable)
    valid = found.states == State.VALID
    place = np.zeros(valid.size, np.int64)
    lettered = np.flatnonzero(~valid if found.values is not None else np.ones(valid.size, bool))
    place[lettered] = _by_letter(found.canonical(lettered))
    if found.values is not None:
        place[valid] = np.unique(found.values[valid], return_inverse=True)[1]
    if tag.level in CODED_LEVELS and study.codes(key.variable):
        listed = valid & (found.lines >= 0)
        place[valid] += len(study.codes(key.variable))
        place[listed] = found.lines[listed]
    most = int(place.max(initial=0)) + 1
    if key.down:
        place = most - 1 - place
    behind = np.array([_BEHIND[State(state)] for state in range(len(State))])
    return behind[found.states] * most + place


def _by_letter(texts: pa.Array) -> Positions:
    """The place of each text by letter, whatever its case."""
    return np.asarray(pc.rank(pc.utf8_lower(texts), tiebreaker="dense")).astype(np.int64)


def _groups(study: Study, ids: Iterable[str], chosen: Flags) -> Positions:
    """Per position the first record with the same entries in some variables, as they read; -1 where there is no other,
    or all of them are blank."""
    group = np.zeros(chosen.size, np.int64)
    blank = np.ones(chosen.size, bool)
    for id in ids:
        found = study.reading(id)
        codes = pc.dictionary_encode(found.canonical()).indices.to_numpy(zero_copy_only=False).astype(np.int64)
        tokens = at_every_position(study, id, codes)
        blank &= at_every_position(study, id, found.states == State.BLANK)
        group = np.unique(group * (int(codes.max(initial=0)) + 1) + tokens, return_inverse=True)[1]
    counted = chosen & ~blank
    several = np.bincount(group[counted], minlength=int(group.max(initial=0)) + 1)[group] > 1
    first = np.full(int(group.max(initial=0)) + 1, -1)
    where = np.flatnonzero(counted)[::-1]
    first[group[where]] = where
    return np.where(counted & several, first[group], -1)
