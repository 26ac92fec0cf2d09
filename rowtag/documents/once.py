"""A variable that a document describes in several places, described once."""

from collections.abc import Iterable
from dataclasses import replace

from rowtag.core.codebook import Described
from rowtag.core.tag import CodeLine, Parts

DIFFERING = 0.5
"""How much of its certainty stays for a variable of which two places give other codes."""


def each_once(found: Iterable[Described]) -> tuple[Described, ...]:
    """Each variable once, in the order in which they come: what several places say of one is put together."""
    once: dict[str, Described] = {}
    for each in found:
        if each.name:
            once[each.name] = _together(once[each.name], each) if each.name in once else each
    return tuple(once.values())


def _together(there: Described, again: Described) -> Described:
    """Two descriptions as one: of what both say, the one that says more counts. Lists with other codes are one list
    in two parts; lists with some codes in common and others not are two of which one is wrong."""
    richer, other = (again, there) if _much(again) > _much(there) else (there, again)
    parts = {**other.parts.given(), **richer.parts.given()}
    codes, more = there.parts.codes, again.parts.codes
    differ = bool(codes and more) and codes != more
    if differ and not _keys(codes) & _keys(more):
        parts["codes"], differ = (*codes, *more), False
    said = f"{richer.reason}; lines {there.lines[0]} and {again.lines[0]} both describe it".removeprefix("; ")
    return replace(
        richer,
        parts=Parts(**parts),
        battery=richer.battery or other.battery,
        section=richer.section or other.section,
        code_list=richer.code_list or other.code_list,
        also=richer.also or other.also,
        skips=richer.skips or other.skips,
        certainty=round(richer.certainty * DIFFERING, 2) if differ else richer.certainty,
        reason=f"{said}, with other codes" if differ else said,
    )


def _much(each: Described) -> tuple[bool, int]:
    return bool(each.parts.codes), len(each.parts.model_fields_set)


def _keys(codes: Iterable[CodeLine]) -> set[tuple[str | None, str | None, str | None]]:
    return {(line.code, line.low, line.high) for line in codes}
