"""Counts and amounts among whole numbers of which few are different: told by their name, heading and shape."""

import re

import numpy as np

from rowtag.core.propose.numbers import Values

_COUNTED = re.compile(
    r"(?<![a-z])(?:minutes|mins|kms|kilomet(?:er|re)s|miles|(?:household|hh|family|party) ?size"
    r"|(?:household|hh) ?(?:members|persons|people)|(?:number|num|no|nr) of|how (?:many|much|long|far)"
    r"|anzahl|wie ?viele?|minuten|nombre de|combien|número de|cuántos|cuántas|minutos)(?![a-z])",
    re.IGNORECASE,
)
"""Words that name counts and amounts whatever their shape, in the languages that matter."""
_MAYBE_COUNTED = re.compile(
    r"(?<![a-z])(?:hours|hrs|days|weeks|age|income|price|cost|spent|euros|dollars|pounds|persons|people|members"
    r"|child(?:ren)?|kids|adults|visits|rooms|cars|times|count|quantity|stunden|tage|alter|kinder|personen|zimmer"
    r"|enfants|personnes|jours|heures|âge|niños|años|personas|días|horas)(?![a-z])",
    re.IGNORECASE,
)
"""Words that name brackets and ratings, too: counts and amounts only where they do not run on from 1 as codes do."""
_RATED = re.compile(
    r"\b(?:agree|satisf|rate|rating|scale|importan|likel|quality|how (?:often|well|good|satisfied|happy)|group|band"
    r"|bracket|category|class\b|code)",
    re.IGNORECASE,
)
"""Words that name ratings and brackets."""
FEWEST_STEPS, TAIL, LONG_TAIL = 5, 0.1, 0.02
"""Different numbers from which a shape is told; the share of the peak that the last ones of a tail may have, and that
where as many steps could be a scale."""
MOST_ASIDE = 3
"""Codes for no answer that may stand apart from a run of codes."""
STEEP = 3
"""Steps of a tail that plainly fall, at least."""
ROUND, FEWEST_ROUND, LARGE = 5, 4, 20
"""Numbers that are all multiples of it are amounts, where so many are different and the largest is as large."""


def is_count(numbers: Values, words: str, *, may_be_scale: bool) -> bool:
    """Whether whole numbers from 0 on of which few are different are counts or amounts, not codes. `words`: their name,
    label and wording. `may_be_scale`: whether they run over as many steps as rating scales have."""
    spaced = re.sub(r"[_\W]+", " ", re.sub(r"(?<=[a-z])(?=[A-Z])", " ", words))
    if _RATED.search(spaced) or len(numbers.values) <= 2:
        return False
    run = _run(numbers)
    like_codes = run > 2 and len(numbers.values) - run <= MOST_ASIDE and numbers.values[0] == 1
    named = _COUNTED.search(spaced) or (_MAYBE_COUNTED.search(spaced) and (not like_codes or _has_tail(numbers, TAIL)))
    return bool(named) or _are_round(numbers) or _has_tail(numbers, LONG_TAIL if may_be_scale else TAIL)


def _run(numbers: Values) -> int:
    """How many numbers stand without a gap from 0 or 1 on."""
    values = numbers.values
    gaps = np.flatnonzero(np.diff(values) != 1)
    return 0 if values[0] not in (0, 1) else int(gaps[0]) + 1 if gaps.size else len(values)


def _are_round(numbers: Values) -> bool:
    """Whether all are multiples of five, as minutes and money are often given."""
    values = numbers.values
    large = len(values) >= FEWEST_ROUND and values[-1] >= LARGE
    return bool(large and (values % ROUND == 0).all())


def _has_tail(numbers: Values, share: float) -> bool:
    """Whether they begin with 0 or 1, rise to one peak in the lower half, and fall from there step by step to few."""
    values, counts = numbers.values, numbers.counts.astype(np.float64)
    if len(values) < FEWEST_STEPS or _run(numbers) < len(values):
        return False
    peak = int(np.argmax(counts))
    if peak > (len(counts) - 1) / 2 or len(counts) - peak < FEWEST_STEPS - 1:
        return False
    noise = 2 * np.sqrt(counts[1:] + counts[:-1])  # two standard deviations of the difference of two counts
    steps = np.diff(counts)
    falls = int((steps[peak:] < -noise[peak:]).sum()) >= STEEP
    falling = falls and (steps[peak:] <= noise[peak:]).all()
    rising = (steps[:peak] >= -noise[:peak]).all()
    return bool(rising and falling and counts[-1] <= share * counts[peak])
