"""Entries that do not fit a number or date, sorted by what is wrong with them."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import pyarrow.compute as pc

from rowtag.core.tag import DATE_TYPES
from rowtag.core.tokens import Texts

_NUMBER = r"[+\-−]?(?:\d+(?:[.,]\d+)?|[.,]\d+)"
_LOOSELY = (
    r"about|around|approx\w*|ca|circa|c|roughly|over|under|more than|less than|at least|up to"
    r"|etwa|ungefähr|environ|około"
)
NUMBER_FAULTS = (
    ("two values", rf"{_NUMBER}\s*(?:-|–|—|/|to|or|and|bis|oder|und|à|ou|et)\s*{_NUMBER}\b"),
    ("“about” or the like", rf"^\W*(?:{_LOOSELY}|[~<>≈≤≥±])\W*{_NUMBER}"),
    ("“about” or the like", rf"^{_NUMBER}\s*(?:\+|\?|or so|or more|or less|plus|ungefähr|environ)$"),
    ("another decimal mark", r"^[+\-−]?(?:\d{1,3}(?:[.,’' ]\d{3})*|\d+)[.,]\d+$"),
    ("a unit in the entry", rf"^{_NUMBER}\s*[^\d\s.,;:?!()\[\]-][^\d\s?!]{{0,9}}(?: [a-z]{{1,8}})?\.?$"),
    ("a unit in the entry", rf"^[^\w\s.,;:?!()\[\]-]{{1,3}}\s*{_NUMBER}$"),
    ("a number among words", r"\d"),
)
DATE_FAULTS = (
    ("a year alone", r"^(?:1[89]|20)\d\d$"),
    ("a day that is none, or another order", r"^\d{1,4}\W\d{1,2}\W\d{1,4}(?:[ T].*)?$"),
    ("a month in words", r"^(?:\d{1,2}\W*)?[^\W\d_]{3,}\W*(?:\d{1,2}\W+)?\d{2,4}$"),
    ("a number", r"^\d+(?:\.\d+)?$"),
)
"""What can be wrong, by regular expressions (RE2) of which the first that is met tells it."""
_UNIT = rf"^{_NUMBER}\s*(?P<unit>[^\d\s.,;:?!()\[\]-][^\d\s?!]{{0,7}})$"


MOST_SORTED = 2_000
"""Different entries that are sorted, the commonest; the others are counted together, however many there are."""


@dataclass(frozen=True)
class Fault:
    """What is wrong with some entries: in words, how many entries, and the commonest of them."""

    what: str
    count: int
    example: str


def faults(texts: Texts, counts: npt.NDArray[np.int64], kind: str) -> list[Fault]:
    """What is wrong with n different entries that do not fit a type and occur so often: the commonest fault first."""
    if len(texts) > MOST_SORTED:
        commonest = np.argsort(-counts, kind="stable")
        rest = Fault("others, that many are different", int(counts[commonest[MOST_SORTED:]].sum()), "…")
        first = commonest[:MOST_SORTED]
        return [*faults(pc.take(texts, first), counts[first], kind), rest]
    open_, found = np.ones(len(texts), bool), dict[str, list[int]]()
    lower = pc.utf8_lower(texts)
    for what, pattern in (*(DATE_FAULTS if kind in DATE_TYPES else NUMBER_FAULTS), ("words", "")):
        met = open_ & pc.match_substring_regex(lower, pattern).to_numpy(zero_copy_only=False)
        open_ &= ~met
        found.setdefault(what, []).extend(np.flatnonzero(met).tolist())
    told = [
        Fault(what, int(counts[at].sum()), texts[max(at, key=lambda each: counts[each])].as_py())
        for what, at in found.items()
        if at
    ]
    return sorted(told, key=lambda each: -each.count)


def unit_of(texts: Texts) -> str | None:
    """The unit that all of n different entries bear behind their number; None where one bears another, or none."""
    units: Sequence[str | None] = pc.struct_field(pc.extract_regex(texts, _UNIT), "unit").unique().to_pylist()
    return units[0] if len(units) == 1 else None
