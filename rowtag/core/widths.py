"""Widths: how wide entries are, how wide they are declared, and what trimming saves. A width cuts nothing."""

import numpy as np
import pyarrow.compute as pc

from rowtag.core.study import Study


def needed_width(study: Study, id: str) -> int:
    """Characters of the longest entry of a variable, spaces at its ends not counted; at least 1."""
    counts = study.counts(id)
    parts = study.reading(id).parts
    lengths = np.concatenate([pc.utf8_length(part.texts).to_numpy() for part in parts])
    return int(lengths[counts > 0].max(initial=1)) or 1


def longest_entry(study: Study, id: str) -> str:
    """The longest entry of a variable, the first of several."""
    counts, reading = study.counts(id), study.reading(id)
    lengths = np.concatenate([pc.utf8_length(part.texts).to_numpy() for part in reading.parts])
    token = int(np.argmax(np.where(counts > 0, lengths, -1)))
    return study.column(id).texts_at(np.array([token]))[0]
