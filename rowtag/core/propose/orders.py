"""Words with a natural order: scales of phrases, months, weekdays, sizes, and bands of numbers.

Each scale runs from low to high; phrases of one rank are separated by a bar. A column follows a scale when
nearly all its entries are phrases of it, whatever their capitals.
"""

import re
from collections.abc import Sequence
from decimal import Decimal, InvalidOperation
from itertools import pairwise

SCALES: dict[str, str] = {
    "agreement": """strongly disagree|disagree strongly|completely disagree|totally disagree|fully disagree
        mostly disagree|disagree mostly|moderately disagree
        disagree|tend to disagree
        somewhat disagree|disagree somewhat|slightly disagree|rather disagree|disagree a little|disagree slightly
        neither agree nor disagree|neither|neutral|undecided|neither disagree nor agree|neither nor
        somewhat agree|agree somewhat|slightly agree|rather agree|agree a little|agree slightly
        agree|tend to agree
        mostly agree|agree mostly|moderately agree
        strongly agree|agree strongly|completely agree|totally agree|fully agree""",
    "frequency": """never|not at all|not once
        almost never|hardly ever|less than once a year
        once a year|yearly|every year
        rarely|seldom|very rarely|a few times a year|several times a year|less than once a month
        once a month|monthly|every month
        occasionally|now and then|once in a while|2-3 times a month|a few times a month|several times a month
        sometimes|about half the time|half the time
        once a week|weekly|every week|regularly
        often|frequently|usually|most of the time|a few times a week|several times a week|2-3 times a week
        very often|mostly|very frequently|nearly always|almost always|nearly every day|almost every day
        always|every time|daily|every day|once a day
        several times a day|more than once a day""",
    "quality": """terrible|awful|extremely poor
        very poor|very bad
        poor|bad|below average
        fair|so-so|acceptable|average|moderate|adequate|neither good nor poor|neither good nor bad|ok|okay|satisfactory
        good|above average
        very good
        excellent|outstanding|extremely good""",
    "satisfaction": """completely dissatisfied|extremely dissatisfied|totally dissatisfied
        very dissatisfied|very unsatisfied
        dissatisfied|unsatisfied|not satisfied|not at all satisfied
        somewhat dissatisfied|fairly dissatisfied|rather dissatisfied|slightly dissatisfied
        neither satisfied nor dissatisfied|neither dissatisfied nor satisfied|neither|neutral
        somewhat satisfied|fairly satisfied|rather satisfied|slightly satisfied
        satisfied
        very satisfied
        completely satisfied|extremely satisfied|totally satisfied""",
    "likelihood": """definitely not|certainly not|impossible|extremely unlikely
        very unlikely
        unlikely|probably not
        somewhat unlikely|rather unlikely|fairly unlikely|slightly unlikely
        neither likely nor unlikely|neither|neutral|maybe|perhaps|possibly|undecided
        somewhat likely|rather likely|fairly likely|slightly likely
        likely|probably|probable
        very likely|very probable
        definitely|certainly|certain|extremely likely""",
    "importance": """not at all important|not important at all
        unimportant|not important|not very important
        slightly important|of little importance
        moderately important|somewhat important|fairly important|rather important
        important|quite important
        very important
        extremely important|essential""",
    "extent": """not at all|none|nothing
        very little|hardly
        a little|little|slightly|a bit
        somewhat|some|moderately|to some extent|partly
        quite a bit|quite a lot|a lot|much|considerably
        very much|a great deal|extremely|completely|fully""",
    "size": """tiny|extra small|very small|xs
        small|s
        medium|middle|mid|m
        large|big|l
        extra large|very large|huge|xl|very big""",
    "height": """very low
        low
        medium|moderate|average|middle
        high
        very high""",
    "months": """january|jan
        february|feb
        march|mar
        april|apr
        may
        june|jun
        july|jul
        august|aug
        september|sep|sept
        october|oct
        november|nov
        december|dec""",
    "weekdays": """monday|mon
        tuesday|tue|tues
        wednesday|wed
        thursday|thu|thur|thurs
        friday|fri
        saturday|sat
        sunday|sun""",
}

_RANKS = {
    name: {phrase.strip(): rank for rank, line in enumerate(lines.split("\n")) for phrase in line.strip().split("|")}
    for name, lines in SCALES.items()
}
_MONEY = r"[£€$¥₹]\s*"
_UNIT = r"(?:\s*(?:years?(?: old)?|yrs?|hours?|hrs?|minutes?|mins?|days?|weeks?|months?|people|persons?|m2|m²|k|%))?"
_NUMBER = rf"(?:{_MONEY})?(\d[\d,. ]*\d|\d)(?:\s*[£€$¥₹])?{_UNIT}"
_ONE_NUMBER = re.compile(_NUMBER, re.I)
_BETWEEN = re.compile(rf"(?:from |between )?{_NUMBER}\s*(?:-|–|—|to|and|up to|\.\.|bis)\s*(?:under )?{_NUMBER}", re.I)
_BELOW = re.compile(rf"(?:under|less than|below|up to|fewer than|younger than|at most|<=?|≤)\s*{_NUMBER}", re.I)
_BELOW_AFTER = re.compile(rf"{_NUMBER}\s*(?:or|and) (?:under|less|younger|below|fewer)", re.I)
_ABOVE = re.compile(rf"(?:over|more than|above|older than|at least|from|>=?|≥)\s*{_NUMBER}", re.I)
_ABOVE_AFTER = re.compile(rf"{_NUMBER}\s*(?:\+|(?:or|and) (?:over|more|older|above|up)|plus)", re.I)


def natural_order(words: Sequence[str]) -> tuple[str, list[int | None]] | None:
    """The scale that words follow, and the rank of each (None for words that are none of it).

    The scale that knows most of the words is taken, bands of numbers last; None where none knows two ranks.
    """
    plain = [" ".join(word.casefold().replace("’", "'").strip(" .").split()) for word in words]
    best: tuple[str, list[int | None]] | None = None
    for name, ranks in _RANKS.items():
        found = [ranks.get(word) for word in plain]
        if len({rank for rank in found if rank is not None}) >= 2 and (best is None or _known(found) > _known(best[1])):
            best = name, found
    bands = _band_ranks(plain)
    if bands and (best is None or _known(bands) > _known(best[1])):
        best = "bands of numbers", bands
    return best


def _known(ranks: Sequence[int | None]) -> int:
    return sum(rank is not None for rank in ranks)


def _band_ranks(words: Sequence[str]) -> list[int | None] | None:
    """The rank of each band of numbers by its ends, where at least two are bands and none overlap."""
    spans = [_band(word) for word in words]
    known = sorted({span for span in spans if span is not None})
    if len(known) < 2 or all(low == high for low, high in known):
        return None
    if any(_overlap(*pair) for pair in pairwise(known)):
        return None
    return [None if span is None else known.index(span) for span in spans]


_ENDLESS = Decimal("Infinity")


def _overlap(before: tuple[Decimal, Decimal], after: tuple[Decimal, Decimal]) -> bool:
    """Whether two bands share numbers; an end that both name (10–20, 20–30; under 1, 1) belongs to one of them."""
    single = (before[0] == before[1] and after[1] < _ENDLESS) or (after[0] == after[1] and before[0] > -_ENDLESS)
    return after[0] < before[1] or (after[0] == before[1] and single)


def is_band(text: str) -> bool:
    """Whether a text is a band of numbers, such as "under 35" or "60 and over", and not a single number."""
    ends = _band(" ".join(text.casefold().strip(" .").split()))
    return ends is not None and ends[0] != ends[1]


def _band(word: str) -> tuple[Decimal, Decimal] | None:
    """The ends of a band such as "under 35", "35–59", "60 and over", "£10,000 to £19,999"; a number is its own."""
    if found := _BETWEEN.fullmatch(word):
        low, high = _value(found[1]), _value(found[2])
        return (low, high) if low is not None and high is not None and low <= high else None
    if found := _BELOW.fullmatch(word) or _BELOW_AFTER.fullmatch(word):
        value = _value(found[1])
        return None if value is None else (-_ENDLESS, value)
    if found := _ABOVE.fullmatch(word) or _ABOVE_AFTER.fullmatch(word):
        value = _value(found[1])
        return None if value is None else (value, _ENDLESS)
    value = _value(found[1]) if (found := _ONE_NUMBER.fullmatch(word)) else Decimal(0) if word == "none" else None
    return None if value is None else (value, value)


def _value(text: str) -> Decimal | None:
    """A number as bands write it: groups of three may be set apart by a comma, a point or a space."""
    plain = re.sub(r"[,. ](?=\d{3}\b)", "", text).replace(",", ".").replace(" ", "")
    try:
        return Decimal(plain)
    except InvalidOperation:
        return None
