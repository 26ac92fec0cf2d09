"""Strays: entries that do not fit the type, and entries that fit but are not allowed."""

import numpy as np
import pyarrow.compute as pc

from rowtag.core.checks.base import Check, Evidence, Finding, is_accepted, register
from rowtag.core.reading import State
from rowtag.core.study import Study
from rowtag.core.words import counted

_KINDS = {
    "integer": ("no whole number", "not whole numbers"),
    "decimal": ("no number", "not numbers"),
    "date": ("no date", "not dates"),
    "time": ("no time", "not times"),
    "datetime": ("no date with time", "not dates with times"),
}
"""What an unreadable entry, and what several are not, by type."""


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


def _found(study: Study, id: str, state: State, check: Check, one: str, several: str) -> Finding | None:
    evidence = stray_evidence(study, id, state, check.name)
    count = sum(each.count for each in evidence)
    if not count:
        return None
    said = f"{counted(count, 'entry', 'entries')} {f'is {one}' if count == 1 else f'are {several}'}"
    return Finding(check.name, "error", id, said, count, evidence)


@register("unreadable entries", "reading")
def unreadable(study: Study, id: str) -> Finding | None:
    """Entries that do not fit the variable's type."""
    return _found(study, id, State.UNREADABLE, unreadable, *_KINDS.get(study.tag(id).type, ("unreadable",) * 2))


@register("unlisted codes", "codes")
def unlisted(study: Study, id: str) -> Finding | None:
    """Entries that a complete code list or the limits do not allow."""
    tag = study.tag(id)
    causes = ["the code list"] if tag.complete and study.codes(id) else []
    if tag.limits.low is not None or tag.limits.high is not None:
        causes.append("the limits")
    beyond = f"beyond what {' or '.join(causes)} {'allow' if causes[-1:] == ['the limits'] else 'allows'}"
    return _found(study, id, State.UNLISTED, unlisted, beyond, beyond)
