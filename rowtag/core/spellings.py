"""Spellings: texts that are probably one and the same answer."""

from dataclasses import dataclass

import numpy as np

from rowtag.core.reading import State
from rowtag.core.study import Study


@dataclass(frozen=True)
class Spellings:
    """Entries that differ only in capitals, spaces or signs at their ends: the commonest first, with counts."""

    entries: tuple[str, ...]
    counts: tuple[int, ...]


MOST_TEXTS = 20_000
"""Different texts up to which spellings are compared."""


def near_duplicates(study: Study, id: str, most: int = 50) -> list[Spellings]:
    """Valid texts of a variable that are probably one and the same, those with most entries first.

    Compared without capitals, repeated blanks, and blanks and signs at their ends. Spaces at the ends of entries
    do not count here: entries that differ only by those read alike.
    """
    reading, counts = study.reading(id), study.counts(id)
    tokens = np.flatnonzero((reading.states == State.VALID) & (counts > 0))
    if study.tag(id).type != "text" or not 1 < tokens.size <= MOST_TEXTS:
        return []
    texts = reading.texts(tokens).to_pylist()
    groups: dict[str, dict[str, int]] = {}
    for text, count in zip(texts, counts[tokens].tolist(), strict=True):
        group = groups.setdefault(_bare(text), {})
        group[text] = group.get(text, 0) + count
    found = []
    for group in groups.values():
        if len(group) > 1:
            ordered = sorted(group.items(), key=lambda item: -item[1])
            found.append(Spellings(tuple(text for text, _ in ordered), tuple(count for _, count in ordered)))
    return sorted(found, key=lambda each: -sum(each.counts))[:most]


def _bare(text: str) -> str:
    return " ".join(text.casefold().split()).strip(" .,;:!?-–—'\"()")
