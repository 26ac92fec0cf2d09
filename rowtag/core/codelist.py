"""Code lists as lists: which lines are the same line, putting lines in and taking them out, lists that are alike."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import combinations
from typing import Literal, TypeVar

from rowtag.core.reading import canonical_code, tidy_one
from rowtag.core.study import Study
from rowtag.core.tag import CodeLine, CodeSpan

Line = TypeVar("Line", bound=CodeSpan)
Key = tuple[str, ...]


def line_key(line: CodeSpan, kind: str) -> Key:
    """What makes two lines the same line under a type: their exact code or ends, not their spelling."""

    def spelled(code: str | None) -> str:
        return "" if code is None else canonical_code(code, kind) or tidy_one(code)

    return ("code", spelled(line.code)) if line.code is not None else ("range", spelled(line.low), spelled(line.high))


def without(lines: Iterable[Line], gone: Iterable[Key], kind: str) -> tuple[Line, ...]:
    """The lines whose keys are not among `gone`."""
    keys = set(gone)
    return tuple(line for line in lines if line_key(line, kind) not in keys)


def merged(lines: Iterable[Line], more: Iterable[Line], kind: str) -> tuple[Line, ...]:
    """The lines with `more` put in: in place of the line with the same key, else at the end."""
    out = {line_key(line, kind): line for line in lines}
    for line in more:
        out[line_key(line, kind)] = line
    return tuple(out.values())


# Lists that are alike ---------------------------------------------------------------------------

NEARLY = 0.6
"""Share of the lines of both lists together that must be the same for the lists to be nearly equal."""


@dataclass(frozen=True)
class Alike:
    """Variables whose own lists are equal, or nearly so; the lines are those of the most frequent list."""

    how: Literal["equal", "nearly equal"]
    variables: tuple[str, ...]
    lines: tuple[CodeLine, ...]
    differing: tuple[str, ...] = ()
    """Codes that are not the same in all of these lists."""


_Signature = tuple[tuple[Key, str], ...]


def alike_lists(study: Study) -> list[Alike]:
    """Variables that could share a code list: own lists that are equal, then those nearly equal, largest first.

    Labels are compared without capitals and spaces at their ends; the order of lines does not count for
    lists to be nearly equal. A list of one line is no reason to share.
    """
    groups: dict[_Signature, list[str]] = {}
    for id in study.order:
        tag = study.tag(id)
        if tag.code_list is None and len(tag.codes) > 1:
            lines = ((line_key(line, tag.type), line.label.strip().casefold()) for line in tag.codes)
            groups.setdefault(tuple(lines), []).append(id)
    found = [Alike("equal", tuple(ids), study.tag(ids[0]).codes) for ids in groups.values() if len(ids) > 1]
    for cluster in _near(list(groups)):
        ids = sorted((id for signature in cluster for id in groups[signature]), key=study.order.index)
        commonest = max(cluster, key=lambda signature: len(groups[signature]))
        same = set.intersection(*(set(signature) for signature in cluster))
        differing = {key: None for signature in cluster for key, label in signature if (key, label) not in same}
        shown = tuple(" .. ".join(key[1:]).strip() for key in differing)
        found.append(Alike("nearly equal", tuple(ids), study.tag(groups[commonest][0]).codes, shown))
    return sorted(found, key=lambda alike: (alike.how, -len(alike.variables)))


def _near(signatures: Sequence[_Signature]) -> list[list[_Signature]]:
    """Lists that are nearly equal to the first of their cluster."""
    sets = {signature: frozenset(signature) for signature in signatures}
    near: dict[_Signature, list[_Signature]] = {}
    placed: set[_Signature] = set()
    for first, second in combinations(signatures, 2):
        if first in placed or second in placed:
            continue
        if len(sets[first] & sets[second]) >= NEARLY * len(sets[first] | sets[second]):
            near.setdefault(first, [first]).append(second)
            placed.add(second)
    return list(near.values())
