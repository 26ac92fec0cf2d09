"""Widths: entries longer than their tag declares. They keep their reading; nothing is cut."""

import numpy as np

from rowtag.core.checks.base import Evidence, Finding, is_accepted, register
from rowtag.core.reading import text_lengths
from rowtag.core.study import Study
from rowtag.core.words import counted


@register("longer than the width", "widths")
def too_long(study: Study, id: str) -> Finding | None:
    """Entries with more characters than the width of their variable."""
    width = study.tag(id).width
    if width is None:
        return None
    reading, counts, lengths = study.reading(id), study.counts(id), text_lengths(study.column(id))
    tokens = np.flatnonzero((lengths > width) & (counts > 0))
    tokens = tokens[np.argsort(-lengths[tokens], kind="stable")]
    entries = zip(reading.texts(tokens).to_pylist(), counts[tokens].tolist(), strict=True)
    kept = tuple(Evidence(text, count) for text, count in entries if not is_accepted(study, too_long.name, id, text))
    count = sum(each.count for each in kept)
    if not count:
        return None
    word = "is" if count == 1 else "are"
    said = f"{counted(count, 'entry', 'entries')} {word} longer than the width of {width}; none is cut"
    return Finding(too_long.name, "warning", id, said, count, kept)
