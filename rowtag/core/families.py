"""Variables that belong together: batteries, and sets that names, wordings or labels plainly show."""

import re
from collections.abc import Callable, Hashable, Sequence

from rowtag.core.study import Study

FEWEST = 3
"""Variables that nobody grouped from which they are a set."""
_NUMBERED = re.compile(r"(?P<stem>.*[^\W\d]_?)(?P<number>\d{1,3})")
_STEM = re.compile(r"(?P<stem>\S.{2,}?)\s*(?::|\s[-–—/|]|\.\.\.|…|\?)\s+\S")


def families(study: Study) -> list[tuple[str, ...]]:
    """The variables of each battery, in codebook order. Of those with code lists that are in none, neighbours that are
    numbered on under one name; and neighbours with the same codes that share their wording or the beginning of their
    labels ("Site: paths", "Site: water")."""
    found: list[tuple[str, ...]] = [ids for ids in _grouped(study, study.order, _battery) if len(ids) > 1]
    places = {id: place for place, id in enumerate(study.order)}
    left = [id for id in study.order if study.tag(id).battery is None and study.codes(id)]
    for key in (_numbered, _worded):
        sets = [
            ids
            for ids in _grouped(study, left, key)
            if len(ids) >= FEWEST
            and [places[id] for id in ids] == list(range(places[ids[0]], places[ids[0]] + len(ids)))
            and (key is _worded or _rise(study, ids))
        ]
        found += sets
        taken = {id for ids in sets for id in ids}
        left = [id for id in left if id not in taken]
    return found


def stem_of(study: Study, ids: Sequence[str]) -> str | None:
    """The wording, or the beginning of their labels, that some variables share and nothing else does; None where
    there is none."""
    shared = {_stem(study, id) for id in ids}
    return shared.pop() if len(shared) == 1 else None


def _grouped(study: Study, ids: Sequence[str], key: Callable[[Study, str], Hashable | None]) -> list[tuple[str, ...]]:
    """Variables by a key that they share; those without one are left out."""
    found: dict[Hashable, list[str]] = {}
    for id in ids:
        of = key(study, id)
        if of is not None:
            found.setdefault(of, []).append(id)
    return [tuple(each) for each in found.values()]


def _battery(study: Study, id: str) -> str | None:
    return study.tag(id).battery


def _numbered(study: Study, id: str) -> str | None:
    """The name that a variable is numbered under."""
    found = _NUMBERED.fullmatch(study.tag(id).name)
    return found["stem"].casefold() if found else None


def _rise(study: Study, ids: Sequence[str]) -> bool:
    """Whether the numbers of names rise from one to the next."""
    numbers = [int(found["number"]) for id in ids if (found := _NUMBERED.fullmatch(study.tag(id).name))]
    return numbers == sorted(set(numbers))


def _worded(study: Study, id: str) -> Hashable | None:
    """What a variable is called with others, and the codes that it has with them."""
    stem = _stem(study, id)
    return (
        None if stem is None else (stem.casefold(), tuple((line.code, line.low, line.high) for line in study.codes(id)))
    )


def _stem(study: Study, id: str) -> str | None:
    tag = study.tag(id)
    if tag.question and tag.label and tag.label != tag.question:
        return tag.question
    found = _STEM.match(tag.label)
    return found["stem"] if found else None
