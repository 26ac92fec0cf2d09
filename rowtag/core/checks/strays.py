"""Strays: entries that do not fit the type, and entries that fit but are not allowed."""

import numpy as np
import pyarrow.compute as pc

from rowtag.core.checks.base import Check, Evidence, Finding, is_accepted, register
from rowtag.core.reading import State
from rowtag.core.steps.base import counted
from rowtag.core.study import Study

_KINDS = {
    "integer": "whole numbers",
    "decimal": "numbers",
    "date": "dates",
    "time": "times",
    "datetime": "dates with times",
}


def stray_evidence(study: Study, id: str, state: State, check: str) -> tuple[Evidence, ...]:
    """Stray entries of one kind that nobody accepted, commonest first; spellings of one text count together."""
    reading, counts = study.reading(id), study.counts(id)
    tokens = np.flatnonzero((reading.states == state) & (counts > 0))
    if not tokens.size:
        return ()
    grouped = pc.dictionary_encode(reading.canonical(tokens))
    totals = np.bincount(grouped.indices.to_numpy(zero_copy_only=False), weights=counts[tokens])
    entries = zip(grouped.dictionary.to_pylist(), totals.astype(int).tolist(), strict=True)
    kept = [Evidence(entry, count) for entry, count in entries if not is_accepted(study, check, id, entry)]
    return tuple(sorted(kept, key=lambda each: (-each.count, each.entry)))


def stray_tokens(study: Study, id: str, entries: set[str] | None = None) -> list[int]:
    """Tokens of strays whose shown text is one of `entries`; of all strays where none are given."""
    reading = study.reading(id)
    tokens = np.flatnonzero(reading.states >= State.UNREADABLE)
    if entries is None:
        return tokens.tolist()
    shown = reading.canonical(tokens).to_pylist()
    return [token for token, text in zip(tokens.tolist(), shown, strict=True) if text in entries]


def _found(study: Study, id: str, state: State, check: Check, message: str) -> Finding | None:
    evidence = stray_evidence(study, id, state, check.name)
    count = sum(each.count for each in evidence)
    if not count:
        return None
    said = message.format(entries=counted(count, "entry", "entries"), is_are="is" if count == 1 else "are")
    return Finding(check.name, "error", id, said, count, evidence)


@register("unreadable entries", "reading")
def unreadable(study: Study, id: str) -> Finding | None:
    """Entries that do not fit the variable's type."""
    kind = _KINDS.get(study.tag(id).type, "")
    return _found(study, id, State.UNREADABLE, unreadable, f"{{entries}} {{is_are}} not {kind}")


@register("unlisted codes", "codes")
def unlisted(study: Study, id: str) -> Finding | None:
    """Entries that a complete code list or the limits do not allow."""
    tag = study.tag(id)
    bounded = tag.limits.low is not None or tag.limits.high is not None
    by = (
        "the limits allow"
        if bounded and not tag.complete
        else "the code list or the limits allow"
        if bounded
        else "the code list allows"
    )
    return _found(study, id, State.UNLISTED, unlisted, f"{{entries}} {{is_are}} beyond what {by}")
