"""Names that meet: which variable of a study is meant by a name in a document, or by the head of a column."""

import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from difflib import get_close_matches
from typing import Literal

from rowtag.core.names import key_of
from rowtag.core.study import Study

NEAR = 0.8
"""How alike (0 to 1) names must be for somebody to be asked whether they mean the same."""

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
    unmet = {plain_name(study.tag(id).name): id for id in reversed(free)}
    near = {}
    for number, each in enumerate(called):
        if number not in found:
            close = get_close_matches(plain_name(each.name), unmet, n=1, cutoff=NEAR)
            if close:
                near[number] = unmet.pop(close[0])
    return near


def plain_name(name: str) -> str:
    """A name without what people write one way or another: case and separators."""
    return re.sub(r"[\W_]+", "", name).casefold()
