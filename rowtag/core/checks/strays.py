"""Strays: entries that do not fit the type, and entries that fit but are not allowed."""

from collections.abc import Collection
from dataclasses import replace
from functools import partial

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from rowtag.core.checks.base import Finding, Tokens, about_entries, open_entries, register
from rowtag.core.reading import State
from rowtag.core.study import Study
from rowtag.core.unreadable import faults
from rowtag.core.words import counted
from rowtag.core.worked_out import entries, reading

_KINDS = {
    "integer": ("no whole number", "not whole numbers"),
    "decimal": ("no number", "not numbers"),
    "date": ("no date", "not dates"),
    "time": ("no time", "not times"),
    "datetime": ("no date with time", "not dates with times"),
}
"""What an unreadable entry, and what several are not, by type."""


def tokens_read_as(state: State, study: Study, id: str) -> Tokens:
    """The tokens of a variable that occur and read as a state."""
    return np.flatnonzero((study.reading(id).states == state) & (study.counts(id) > 0))


def stray_tokens(study: Study, id: str, wanted: Collection[str] = ()) -> Tokens:
    """Tokens of strays that occur; only those whose shown text is among some, where these are named."""
    reads = study.reading(id)
    tokens = np.flatnonzero((reads.states >= State.UNREADABLE) & (study.counts(id) > 0))
    if not wanted:
        return tokens
    shown = reads.canonical(tokens)
    hits: npt.NDArray[np.bool_] = pc.is_in(shown, pa.array(list(wanted), shown.type)).to_numpy(zero_copy_only=False)
    return np.asarray(tokens[hits])


@register("unreadable entries", "reading", reading, entries, tokens=partial(tokens_read_as, State.UNREADABLE))
def unreadable(study: Study, id: str) -> Finding | None:
    """Entries that do not fit the variable's type, told by what is wrong with them: a unit, “about”, two values …"""
    one, several = _KINDS.get(study.tag(id).type, ("unreadable",) * 2)

    def say(count: int) -> str:
        return f"{counted(count, 'entry', 'entries')} {f'is {one}' if count == 1 else f'are {several}'}"

    finding = about_entries(study, id, unreadable, "error", say)
    if finding is None:
        return None
    texts, counts, _ = open_entries(study, id, unreadable)
    rows = [(each.what, f"{each.count:,}", each.example) for each in faults(texts, counts, study.tag(id).type)]
    return replace(finding, table=(("what is wrong", "entries", "such as"), *rows)) if len(texts) > 1 else finding


@register("unlisted codes", "codes", reading, entries, tokens=partial(tokens_read_as, State.UNLISTED))
def unlisted(study: Study, id: str) -> Finding | None:
    """Entries that a complete code list or the limits do not allow."""
    tag = study.tag(id)
    causes = ["the code list"] if tag.complete and study.codes(id) else []
    if tag.limits.low is not None or tag.limits.high is not None:
        causes.append("the limits")
    beyond = f"beyond what {' or '.join(causes)} {'allow' if causes[-1:] == ['the limits'] else 'allows'}"

    def say(count: int) -> str:
        return f"{counted(count, 'entry', 'entries')} {'is' if count == 1 else 'are'} {beyond}"

    return about_entries(study, id, unlisted, "error", say)
