"""Entries that may stand for a missing answer, looked for over many variables; and where a given one occurs."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np

from rowtag.core.propose.facts import Suspect, missing_words
from rowtag.core.propose.numbers import Values, suspect_numbers
from rowtag.core.reading import State, per_segment, read_column
from rowtag.core.study import Study
from rowtag.core.tag import NUMBER_TYPES, Lens, MissingLine, Span
from rowtag.core.worked_out import entries, reading, words, worked_out


@dataclass(frozen=True)
class Candidate:
    """An entry that may stand for a missing answer: why, and in which variables how often."""

    entry: str
    why: str
    counts: dict[str, int]

    @property
    def total(self) -> int:
        """How often it occurs altogether."""
        return sum(self.counts.values())


def candidates(study: Study, ids: Iterable[str]) -> list[Candidate]:
    """Suspects over some variables that no tag sets aside yet: those in most variables first."""
    found: dict[tuple[str, str], dict[str, int]] = {}
    for id in ids:
        for suspect in suspects(study, id):
            found.setdefault((suspect.entry, suspect.why), {})[id] = suspect.count
    listed = [Candidate(entry, why, counts) for (entry, why), counts in found.items()]
    return sorted(listed, key=lambda each: (-len(each.counts), -each.total, each.entry))


@worked_out(reading, words, entries)
def suspects(study: Study, id: str) -> tuple[Suspect, ...]:
    """Entries of one variable that may stand for a missing answer and are not set aside."""
    read, counts = study.reading(id), study.counts(id)
    meant = per_segment(study.column(id), "missing words", missing_words)
    tokens = np.flatnonzero(meant & (read.states != State.MISSING) & (counts > 0))
    said: dict[str, int] = {}
    for text, count in zip(read.texts(tokens).to_pylist(), counts[tokens].tolist(), strict=True):
        said[text] = said.get(text, 0) + count
    out = tuple(Suspect(text, count, "often stands for a missing answer") for text, count in said.items())
    tag = study.tag(id)
    if tag.type in NUMBER_TYPES and tag.use not in ("identifier", "weight"):
        labelled = {line.code for line in study.codes(id) if line.label}
        numbers = Values(*study.values(id, State.VALID, State.UNLISTED))
        out += tuple(each for each in suspect_numbers(numbers) if each.entry not in labelled)
    return out


def occurrences(study: Study, ids: Iterable[str], lines: Sequence[MissingLine]) -> dict[str, list[int]]:
    """Per variable how often each line matches, whether the tag sets it aside already or not."""
    out = {}
    for id in ids:
        lens, counts = study.lens(id), study.counts(id)
        here = []
        for line in lines:
            alone = Lens(lens.type, lens.marks, (), False, None, None, (Span(line.code, line.low, line.high),))
            here.append(int(counts[read_column(study.column(id), alone).states == State.MISSING].sum()))
        out[id] = here
    return out
