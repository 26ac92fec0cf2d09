"""Names that meet: which variable of a study is meant by a name in a document, or by the head of a column."""

import re
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Literal

from rowtag.core.names import key_of
from rowtag.core.study import Study

LONG = 8
"""Signs from which two slips, not one, are thought of in a name."""

How = Literal["name", "earlier name", "other name", "spelling"]
"""How a name was met: as it is, as one the variable had before, by what stands beside it, or but for case and signs."""


@dataclass(frozen=True)
class Called:
    """What something is called: its name, and another that stands beside it, such as the number of its question."""

    name: str
    also: str = ""


@dataclass(frozen=True)
class Meeting:
    """Which variables are meant (by the number of what was called so): the id, and how it was met; and those that may
    be meant, which somebody must be asked about. No variable is meant twice."""

    found: Mapping[int, tuple[str, How]]
    near: Mapping[int, str] = field(default_factory=dict)


def meet(study: Study, called: Sequence[Called], free: Sequence[str] | None = None) -> Meeting:
    """Meets names exactly, then by what variables were called before, then whatever the case and separators.

    Only variables that are `free` are met, where these are named. Two whose names differ in signs only are not told
    apart by spelling: then neither is meant.
    """
    ids = [id for id in study.order if free is None or id in set(free)]
    names = {key_of(study.tag(id).name): id for id in ids}
    earlier: dict[str, str | None] = {}
    for id in reversed(ids):
        variable = study.variable(id)
        earlier |= {key_of(name): id for name in (variable.origin.name, *variable.former) if name}
    plain: dict[str, str | None] = {}
    for id in ids:
        spelling = plain_name(study.tag(id).name)
        plain[spelling] = None if spelling in plain else id
    exact = {study.tag(id).name: id for id in ids}
    looks: list[tuple[How, Callable[[Called], str], Mapping[str, str | None]]] = [
        ("name", lambda each: each.name, exact),
        ("earlier name", lambda each: key_of(each.name), earlier),
        ("other name", lambda each: key_of(each.also), {**earlier, **names}),
        ("spelling", lambda each: plain_name(each.name), plain),
        ("spelling", lambda each: plain_name(each.also), plain),
    ]
    found: dict[int, tuple[str, How]] = {}
    used: set[str] = set()
    for how, key, known in looks:
        for number, each in enumerate(called):
            meant = known.get(key(each)) if key(each) and number not in found else None
            if meant is not None and meant not in used:
                found[number] = meant, how
                used.add(meant)
    return Meeting(found, _near(study, called, found, [id for id in ids if id not in used]))


def _near(study: Study, called: Sequence[Called], found: Mapping[int, object], free: Sequence[str]) -> dict[int, str]:
    """The free variable whose name is most like each name that was not met, each variable once."""
    unmet: dict[tuple[str, ...], dict[str, str]] = {}
    for id in reversed(free):
        name = plain_name(study.tag(id).name)
        unmet.setdefault(_numbers(name), {})[name] = id
    near = {}
    for number, each in enumerate(called):
        if number not in found:
            name = plain_name(each.name)
            others = unmet.get(_numbers(name), {})  # names whose numbers differ name different things
            close = nearest(name, others)
            if close is not None:
                near[number] = others.pop(close)
    return near


def nearest(name: str, others: Iterable[str]) -> str | None:
    """The one of some names that could be this one with a slip in it, if there is one: a sign more, fewer or other, or
    two of them changed over; in a long name two slips."""
    most, best = (2 if len(name) >= LONG else 1), None
    for other in others:
        if abs(len(other) - len(name)) <= most:
            slips = slips_between(name, other)
            if slips <= most:
                most, best = slips - 1, other
    return best


def _numbers(name: str) -> tuple[str, ...]:
    return tuple(re.findall(r"\d+", name))


def slips_between(one: str, other: str) -> int:
    """How many slips make one text of another: signs put in, left out or replaced, or neighbours changed over (the
    optimal string alignment distance; Damerau 1964)."""
    before, last = list[int](), list(range(len(other) + 1))
    for i, sign in enumerate(one, 1):
        row = [i]
        for j, there in enumerate(other, 1):
            slips = min(last[j] + 1, row[j - 1] + 1, last[j - 1] + (sign != there))
            if i > 1 and j > 1 and sign == other[j - 2] and one[i - 2] == there:
                slips = min(slips, before[j - 2] + 1)
            row.append(slips)
        before, last = last, row
    return last[-1]


def plain_name(name: str) -> str:
    """A name without what people write one way or another: case and separators."""
    return re.sub(r"[\W_]+", "", name).casefold()
