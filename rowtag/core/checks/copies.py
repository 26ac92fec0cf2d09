"""Copies: records with exactly the answers of another one, and records with nearly the same long pattern."""

from collections.abc import Iterator, Sequence
from itertools import combinations, pairwise

import numpy as np
import numpy.typing as npt

from rowtag.core.checks.base import Finding, Threshold, register_across, threshold
from rowtag.core.reading import State
from rowtag.core.rowsums import PART, summed
from rowtag.core.study import Study
from rowtag.core.words import counted
from rowtag.core.worked_out import entries, reading, records, words

FEWEST_COMPARED, FEWEST_FILLED = 5, 4
"""Answers by which records are compared, and how many of them must be there for records to stand twice."""
SELDOM, TOGETHER = 0.01, 0.6
"""Pairs of records expected to be the same by chance from which that means nothing; and how much of what single answers
tell remains where they go together."""
LONG, NEARLY = 20, 0.92
"""Answers from which a pattern is long, and the share of them that nearly the same ones have in common."""
STRETCHES, MOST_PAIRS = 8, 20_000
"""Stretches of answers, of which two may differ at all; and pairs of records that are compared answer by answer."""
Positions = npt.NDArray[np.int64]


def answers_of(study: Study, ids: Sequence[str]) -> list[str]:
    """Those variables that hold what was answered."""
    return [id for id in ids if study.tag(id).use in ("answer", "several answers", "open-ended")]


def there(study: Study) -> npt.NDArray[np.bool_]:
    """Which of the arrived records are there."""
    return np.ones(study.records.arrived, bool) if study.records.present is None else study.records.present


def drawn(study: Study, id: str) -> npt.NDArray[np.uint64]:
    """A number drawn for each token of a variable: records with the same answers have the same sum of these, others
    hardly ever (1 in 2⁶³)."""
    return np.random.default_rng(list(id.encode())).integers(0, 2**63, study.column(id).token_count, np.uint64)


def filled(study: Study, id: str) -> npt.NDArray[np.int16]:
    """1 for each token of a variable that is not blank."""
    found: npt.NDArray[np.int16] = (study.reading(id).states != State.BLANK).astype(np.int16)
    return found


def _alike(study: Study, ids: Sequence[str]) -> dict[str, float]:
    """For each question the logarithm of the chance that two records have the same answer, were answers drawn from
    those that were given."""
    out = {}
    for id in ids:
        shares = study.counts(id) / max(study.records.count, 1)
        out[id] = float(np.log(max(float((shares**2).sum()), 1e-12)))
    return out


def _by_chance(study: Study, alike: Sequence[float]) -> float:
    """How many pairs of records would have the same answers by chance, when these go together about as answers do."""
    return float(study.records.count) ** 2 / 2 * float(np.exp(TOGETHER * sum(alike)))


def twice(study: Study, ids: Sequence[str]) -> tuple[Positions, int]:
    """Positions of the records that have the same answers as another one, and how many are too many; those with hardly
    any answer are left out."""
    where = np.flatnonzero(there(study) & (summed(study, ids, filled) >= FEWEST_FILLED))
    _, group, counts = np.unique(summed(study, ids, drawn)[where], return_inverse=True, return_counts=True)
    return where[counts[group] > 1], where.size - counts.size


def _twice_records(study: Study, finding: Finding) -> Positions:
    return twice(study, finding.variables)[0]


@register_across("record twice", "records", reading, words, entries, scope="records", records=_twice_records)
def record_twice(study: Study, ids: tuple[str, ...]) -> Sequence[Finding]:
    """Records with exactly the answers of another one: entered or exported twice."""
    answers = answers_of(study, ids)
    if len(answers) < FEWEST_COMPARED or _by_chance(study, list(_alike(study, answers).values())) > SELDOM:
        return []  # so few and so common answers that some records are the same
    count = twice(study, answers)[1]
    if not count:
        return []
    said = f"{counted(count, 'record has', 'records have')} exactly the answers of another one"
    return [Finding("record twice", "warning", answers[0], said, count, others=tuple(answers[1:]))]


# Nearly the same -------------------------------------------------------------------------------


def nearly_twice(study: Study, ids: Sequence[str]) -> Positions:
    """Positions of the records that have nearly all of a long pattern of answers in common with another one, ascending.

    Answers are taken in stretches; records are compared answer by answer where all but two stretches are the same.
    Of records that stand twice to the letter only the first is compared; what may well be by chance is left out.
    """
    where = np.flatnonzero(there(study) & (summed(study, ids, filled) >= LONG))
    where = where[np.sort(np.unique(summed(study, ids, drawn)[where], return_index=True)[1])]
    share = threshold(study, "record nearly twice", "share")
    pairs: set[tuple[int, int]] = set()
    for found in _pairs(study, _stretches(ids), where):
        pairs.update(found)
        if len(pairs) > MOST_PAIRS:
            return np.empty(0, np.int64)  # that many are no copies: the questions allow for little else
    if not pairs:
        return np.empty(0, np.int64)
    first, second = (np.array(each, np.int64) for each in zip(*sorted(pairs), strict=True))
    same, asked = np.zeros(first.size), np.zeros(first.size)
    for id in ids:
        column, states = study.column(id), study.reading(id).states
        one, other = column.tokens_in(first), column.tokens_in(second)
        either = (states[one] != State.BLANK) | (states[other] != State.BLANK)
        asked += either
        same += either & (one == other)
    alike = (asked >= LONG) & (same >= share * asked)
    return np.unique(np.concatenate([first[alike], second[alike]]))


def _stretches(ids: Sequence[str]) -> list[list[str]]:
    """Answers in order, in at most so many stretches of whole parts of sums."""
    parts = [list(ids[first : first + PART]) for first in range(0, len(ids), PART)]
    bounds = np.linspace(0, len(parts), min(STRETCHES, len(parts)) + 1).astype(int).tolist()
    return [[id for part in parts[low:high] for id in part] for low, high in pairwise(bounds)]


def _pairs(study: Study, stretches: Sequence[Sequence[str]], where: Positions) -> Iterator[list[tuple[int, int]]]:
    """Pairs of records that are the same but for two stretches, for each two of these."""
    alike = _alike(study, [id for each in stretches for id in each])
    sums = [summed(study, each, drawn)[where] for each in stretches]
    chances = [[alike[id] for id in each] for each in stretches]
    total = np.add.reduce(sums)
    for one, other in combinations(range(len(stretches)), 2):
        left = [each for at, some in enumerate(chances) if at not in (one, other) for each in some]
        if not left or _by_chance(study, left) > SELDOM:
            continue
        rest = total - sums[one] - sums[other]
        ordered = np.sort(rest)
        repeated = np.unique(ordered[1:][ordered[1:] == ordered[:-1]])
        if not repeated.size:
            continue
        met = np.flatnonzero(np.isin(rest, repeated))
        order = met[np.argsort(rest[met], kind="stable")]
        beside = rest[order[1:]] == rest[order[:-1]]
        yield list(zip(where[order[:-1][beside]].tolist(), where[order[1:][beside]].tolist(), strict=True))


def _nearly_records(study: Study, finding: Finding) -> Positions:
    return nearly_twice(study, finding.variables)


@register_across(
    "record nearly twice",
    "records",
    reading,
    words,
    entries,
    records,
    scope="records",
    records=_nearly_records,
    thresholds={"share": Threshold(NEARLY, "share of answers in common", 0.7, 1)},
)
def record_nearly_twice(study: Study, ids: tuple[str, ...]) -> Sequence[Finding]:
    """Records that have nearly all of a long pattern of answers in common with another one: copied and changed here and
    there, or keyed twice with slips."""
    answers = answers_of(study, ids)
    if len(answers) < LONG:
        return []
    found = nearly_twice(study, answers)
    if not found.size:
        return []
    said = f"{counted(found.size, 'record has', 'records have')} nearly all answers in common with another one"
    return [Finding("record nearly twice", "warning", answers[0], said, int(found.size), others=tuple(answers[1:]))]
