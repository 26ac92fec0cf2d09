"""Widths: entries longer than their tag declares. They keep their reading; nothing is cut."""

import numpy as np

from rowtag.core.checks.base import Finding, Tokens, about_entries, register
from rowtag.core.reading import text_lengths
from rowtag.core.study import Study
from rowtag.core.words import counted
from rowtag.core.worked_out import entries, reading, words


def _longer(study: Study, id: str) -> Tokens:
    """Tokens with more characters than the width, the longest first."""
    width = study.tag(id).width
    if width is None:
        return np.empty(0, np.int64)
    lengths = text_lengths(study.column(id))
    tokens = np.flatnonzero((lengths > width) & (study.counts(id) > 0))
    return tokens[np.argsort(-lengths[tokens], kind="stable")]


@register("longer than the width", "widths", reading, words, entries, tokens=_longer, as_recorded=True)
def too_long(study: Study, id: str) -> Finding | None:
    """Entries with more characters than the width of their variable."""

    def say(count: int) -> str:
        word = "is" if count == 1 else "are"
        width = study.tag(id).width
        return f"{counted(count, 'entry', 'entries')} {word} longer than the width of {width}; none is cut"

    return about_entries(study, id, too_long, "warning", say, commonest_first=False)
