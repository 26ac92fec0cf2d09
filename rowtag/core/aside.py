"""Entries that may stand for a missing answer, looked for over many variables; and where a given one occurs."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np
import pyarrow.compute as pc

from rowtag.core.memo import Memo
from rowtag.core.propose.facts import MISSING_WORDS, Suspect
from rowtag.core.propose.numbers import Values, suspect_numbers
from rowtag.core.reading import State, distinct, read_column
from rowtag.core.study import Study
from rowtag.core.tag import NUMBER_TYPES, Lens, MissingLine, Span


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


_memo = Memo(limit=16 * 2**20)


def candidates(study: Study, ids: Iterable[str]) -> list[Candidate]:
    """Suspects over some variables that no tag sets aside yet: those in most variables first."""
    found: dict[tuple[str, str], dict[str, int]] = {}
    for id in ids:
        for suspect in suspects(study, id):
            found.setdefault((suspect.entry, suspect.why), {})[id] = suspect.count
    listed = [Candidate(entry, why, counts) for (entry, why), counts in found.items()]
    return sorted(listed, key=lambda each: (-len(each.counts), -each.total, each.entry))


def suspects(study: Study, id: str) -> tuple[Suspect, ...]:
    """Entries of one variable that may stand for a missing answer and are not set aside."""
    key = (study.column(id).serial, study.lens(id), study.records.serial)
    return _memo.get(key, lambda: _suspects(study, id), lambda found: 200 * len(found))


def _suspects(study: Study, id: str) -> tuple[Suspect, ...]:
    reading, counts = study.reading(id), study.counts(id)
    open_tokens = np.flatnonzero((reading.states != State.MISSING) & (reading.states != State.BLANK) & (counts > 0))
    texts = reading.texts(open_tokens)
    hits = pc.is_in(pc.ascii_lower(texts), MISSING_WORDS).to_numpy(zero_copy_only=False)
    words: dict[str, int] = {}
    for text, count in zip(texts.filter(hits).to_pylist(), counts[open_tokens[hits]].tolist(), strict=True):
        words[text] = words.get(text, 0) + count
    out = tuple(Suspect(text, count, "often stands for a missing answer") for text, count in words.items())
    tag = study.tag(id)
    if tag.type in NUMBER_TYPES and tag.use not in ("identifier", "weight"):
        chosen = np.isin(reading.states, (State.VALID, State.UNLISTED)) & (counts > 0)
        labelled = {line.code for line in study.codes(id) if line.label}
        assert reading.values is not None
        numbers = Values(*distinct(reading.values[chosen], counts[chosen]))
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
