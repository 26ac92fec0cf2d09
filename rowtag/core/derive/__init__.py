"""Deriving variables: from what was asked to what will be analysed. One sentence says how, and can be read aloud."""

from rowtag.core.derive.derived import (
    Derived,
    derive,
    for_another,
    held,
    names_for,
    refuse_healed,
    shown,
    worked_out_now,
)
from rowtag.core.derive.outcome import Outcome, Source
from rowtag.core.derive.saying import say
from rowtag.core.derive.sentences import read
from rowtag.core.derive.sources import derived_from, sources_first, sources_of

__all__ = [
    "Derived",
    "Outcome",
    "Source",
    "derive",
    "derived_from",
    "for_another",
    "held",
    "names_for",
    "read",
    "refuse_healed",
    "say",
    "shown",
    "sources_first",
    "sources_of",
    "worked_out_now",
]
