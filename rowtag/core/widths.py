"""Widths: how wide entries are, how wide they are declared, and what trimming saves. A width cuts nothing."""

import numpy as np

from rowtag.core.reading import text_lengths
from rowtag.core.study import Study


def needed_width(study: Study, id: str) -> int:
    """Characters of the longest entry of a variable, spaces at its ends not counted; at least 1."""
    return int(text_lengths(study.column(id))[study.counts(id) > 0].max(initial=1)) or 1


def longest_entry(study: Study, id: str) -> str:
    """The longest entry of a variable, the first of several."""
    column = study.column(id)
    token = int(np.argmax(np.where(study.counts(id) > 0, text_lengths(column), -1)))
    return column.texts_at(np.array([token]))[0]
