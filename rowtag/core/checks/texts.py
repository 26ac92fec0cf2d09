"""Texts and numbers as they are written: numbers kept as text, too many decimals, one answer in several spellings."""

import numpy as np
import numpy.typing as npt
import pyarrow.compute as pc

from rowtag.core.checks.base import Finding, Threshold, Tokens, about_entries, register, threshold
from rowtag.core.propose import plain_lens
from rowtag.core.reading import State, count_states, read_column
from rowtag.core.spellings import near_duplicates
from rowtag.core.study import Study
from rowtag.core.tag import Type
from rowtag.core.tokens import large_texts
from rowtag.core.words import counted
from rowtag.core.worked_out import entries, reading, words

NEARLY, FEWEST = 0.9, 20
"""The share of entries that read as another type from which a text is taken for one, and how many it takes."""
ZEROS_BEFORE = 0.1
"""The share of entries with zeros before their number from which these are meant."""
EXACT = 15
"""Decimals from which numbers are computed ones, that nobody wrote."""
MOST_ANSWERS = 300
"""Different texts up to which they are taken for answers that repeat."""
_KINDS: dict[Type, str] = {"integer": "whole numbers", "decimal": "numbers", "date": "dates"}


@register(
    "kept as text",
    "reading",
    reading,
    words,
    entries,
    thresholds={"share": Threshold(NEARLY, "share of entries that read as another type", 0.5, 1)},
)
def kept_as_text(study: Study, id: str) -> Finding | None:
    """Text whose entries are nearly all numbers or dates: as text they have no mean, no limits and no order."""
    tag, fill = study.tag(id), study.fill(id)
    filled = study.records.count - fill.blank
    if tag.type != "text" or tag.use in ("identifier", "open-ended") or study.codes(id) or filled < FEWEST:
        return None
    if with_zeros(study, id) >= ZEROS_BEFORE * filled:
        return None
    for kind, said in _KINDS.items():
        read = count_states(read_column(study.column(id), plain_lens(kind)).states, study.counts(id))
        if read.valid >= threshold(study, "kept as text", "share") * filled:
            rest = f", {counted(filled - read.valid, 'entry is', 'entries are')} not" if read.valid < filled else ""
            return Finding("kept as text", "warning", id, f"is text, and its entries are {said}{rest}", read.valid)
    return None


def with_zeros(study: Study, id: str) -> int:
    """In how many records zeros stand before a number: numbers of something, whose digits matter."""
    tokens = np.flatnonzero(study.counts(id) > 0)
    texts = study.reading(id).texts(tokens)
    hits = pc.match_substring_regex(texts, r"^\s*0\d+\s*$").to_numpy(zero_copy_only=False)
    return int(study.counts(id)[tokens[hits.astype(bool)]].sum())


def long_decimals(study: Study, id: str) -> Tokens:
    """Valid entries with more digits behind the mark than are declared."""
    tag = study.tag(id)
    if tag.type != "decimal" or tag.decimals is None or tag.decimals >= EXACT:
        return np.empty(0, np.int64)
    found = study.reading(id)
    return np.flatnonzero((found.decimals > tag.decimals) & (found.states == State.VALID) & (study.counts(id) > 0))


@register("more decimals than declared", "reading", reading, words, entries, tokens=long_decimals)
def more_decimals(study: Study, id: str) -> Finding | None:
    """Numbers with more digits behind the mark than their variable declares."""

    def say(count: int) -> str:
        return (
            f"{counted(count, 'entry has', 'entries have')} more than {counted(study.tag(id).decimals or 0, 'decimal')}"
        )

    return about_entries(study, id, more_decimals, "warning", say)


def rare_spellings(study: Study, id: str) -> Tokens:
    """Text answers that others spell otherwise and more often."""
    tag, found = study.tag(id), study.reading(id)
    if tag.type != "text" or tag.use not in ("answer", "design", "administrative"):
        return np.empty(0, np.int64)
    tokens = np.flatnonzero((found.states == State.VALID) & (study.counts(id) > 0))
    if not 1 < tokens.size <= MOST_ANSWERS:
        return np.empty(0, np.int64)
    rare = [text for each in near_duplicates(study, id) for text in each.entries[1:]]
    hits: npt.NDArray[np.bool_] = pc.is_in(found.texts(tokens), large_texts(rare)).to_numpy(zero_copy_only=False)
    return tokens[hits]


@register("one answer in several spellings", "codes", reading, words, entries, tokens=rare_spellings, as_recorded=True)
def several_spellings(study: Study, id: str) -> Finding | None:
    """Text answers that repeat, some of them in capitals, with blanks or signs unlike the others'."""

    def say(count: int) -> str:
        usual = near_duplicates(study, id)[0].entries[0]
        have = "is spelled differently from" if count == 1 else "are spelled differently from"
        return f"{counted(count, 'entry', 'entries')} {have} the same answer elsewhere, such as “{usual}”"

    return about_entries(study, id, several_spellings, "warning", say)
