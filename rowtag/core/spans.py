"""Spans: variables that stand one behind the other in the codebook, told by the first and the last of them.

A span means the variables that stood between its ends when it was written, its ends among them, but for what was made
of these: a mean that is derived of a span, or an item turned round, stands beside its sources and is none of them. Only
where an end itself is made of another one are all meant that stand there. What a span means is kept where the sentence
is kept; a sentence that is older than that means what stands there now.
"""

from collections.abc import Mapping, Sequence
from typing import TypeAlias

from rowtag.core.rules import Formula
from rowtag.core.study import Study

Spans: TypeAlias = Mapping[str, tuple[str, ...]]
"""Variables by the span, as it is written (`a..c`), that means them."""


def span_key(first: str, last: str) -> str:
    """How a span is written, by the names of its ends."""
    return f"{first}..{last}"


def made_from(study: Study, id: str) -> set[str]:
    """What the sentence of a variable names, and what its spans are known to mean; nothing where it has none."""
    how = study.variable(id).origin.how
    return set() if how is None else {*how.names.values(), *(each for span in how.spans.values() for each in span)}


def made_of_any(study: Study, among: Sequence[str], of: Sequence[str]) -> set[str]:
    """Those of some variables that were made of others, by way of what else is derived, too."""
    derived = {id: made_from(study, id) - {id} for id in study.order if study.variable(id).origin.how is not None}
    met, fresh = set[str](), set(of)
    while fresh:
        fresh = {id for id, sources in derived.items() if id not in met and not sources.isdisjoint(fresh)}
        met |= fresh
    return met & set(among)


def means_otherwise(study: Study, how: Formula) -> dict[str, tuple[str, ...]]:
    """The spans of a sentence that would mean other variables were they written now, with what they would mean: nothing
    where their ends do not stand so any more."""
    out = {}
    for key, ids in how.spans.items():
        there = ids[0] in study.variables and ids[-1] in study.variables
        now = span_now(study, ids[0], ids[-1]) if there else ()
        if now != ids:
            out[key] = now
    return out


def said_otherwise(study: Study, how: Formula) -> str:
    """Which span of a sentence would mean what else were it written now, in words; nothing where none would, or where
    what one means is gone: then the sentence means nothing any more, which is told by itself."""
    for key, now in means_otherwise(study, how).items():
        was = how.spans[key]
        if any(each not in study.variables for each in was):
            return ""
        more, less = (
            ", ".join(study.tag(each).name for each in one if each not in other)
            for one, other in ((now, was), (was, now))
        )
        ways = [f"with {more}" if more else "", f"without {less}" if less and now else ""]
        said = " and ".join(filter(None, ways)) or ("nothing" if not now else "the same in another order")
        return f"{key} keeps what it meant; written now it would mean {said}"
    return ""


def span_now(study: Study, first: str, last: str) -> tuple[str, ...]:
    """What a span means that is written now, in codebook order; nothing where its first end does not stand before its
    last one."""
    places = {id: place for place, id in enumerate(study.order)}
    there = study.order[places[first] : places[last] + 1]
    if places[first] >= places[last]:
        return ()
    made = made_of_any(study, there, there) if any(study.variable(id).origin.how is not None for id in there) else set()
    if {first, last} & made_of_any(study, there, there[1:-1]) or not made:
        return there
    return tuple(id for id in there if id in (first, last) or id not in made)
