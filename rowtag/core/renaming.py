"""Renaming many variables: by a pattern, or by pairs of old and new names; and what is wrong with the new ones."""

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import Field

from rowtag.core.errors import BadInput, BadName
from rowtag.core.names import check_name, key_of
from rowtag.core.study import Study
from rowtag.core.tag import Frozen

PatternText = Annotated[str, Field(max_length=200)]


class NamePattern(Frozen):
    """A pattern for names. {n} stands for a number, {x} for any text, both in `old` and in `new`.

    Only names that `old` matches as a whole are changed; an empty `old` matches every name as {x}. Numbers are
    kept as found, or counted from `start` on in codebook order, filled with zeros up to `digits`. `strip` is
    taken off the beginning, before anything else; `case` is applied last.
    """

    old: PatternText = ""
    new: PatternText = "{x}"
    start: Annotated[int, Field(ge=0, le=1_000_000)] | None = None
    digits: Annotated[int, Field(ge=1, le=9)] = 1
    strip: PatternText = ""
    case: Literal["as it is", "lower", "upper"] = "as it is"


@dataclass(frozen=True)
class NewName:
    """A variable's new name beside the old one; `problem` says why it cannot be used, `suggestion` what could."""

    id: str
    old: str
    new: str
    problem: str = ""
    suggestion: str = ""


def by_pattern(study: Study, ids: Iterable[str], pattern: NamePattern) -> dict[str, str]:
    """The new names of those of some variables (in codebook order) that the pattern matches and changes."""
    wanted = set(ids)
    matches = _matcher(pattern.old)
    pieces = re.split(r"(\{[nx]\})", pattern.new)
    number = pattern.start
    out = {}
    for id in (each for each in study.order if each in wanted):
        old = study.tag(id).name
        found = matches.fullmatch(old.removeprefix(pattern.strip))
        if found is None:
            continue
        parts = {"x": "", "n": "", **{key: value for key, value in found.groupdict().items() if value is not None}}
        if number is not None:
            parts["n"] = str(number)
            number += 1
        if parts["n"]:
            parts["n"] = str(int(parts["n"])).zfill(pattern.digits)
        new = "".join(parts[piece[1]] if piece in ("{n}", "{x}") else piece for piece in pieces)
        new = {"lower": new.lower(), "upper": new.upper()}.get(pattern.case, new)
        if new != old:
            out[id] = new
    return out


def _matcher(old: str) -> re.Pattern[str]:
    """The regular expression of an old pattern."""
    for part in ("{n}", "{x}"):
        if old.count(part) > 1:
            raise BadInput(f"{part} stands twice in “{old}”.", remedy="Each part can stand once.")
    text = re.escape(old or "{x}")
    return re.compile(text.replace(r"\{n\}", r"(?P<n>[0-9]{1,18})").replace(r"\{x\}", "(?P<x>.*)"))


def by_pairs(study: Study, text: str) -> tuple[dict[str, str], list[str]]:
    """New names from lines of an old and a new name (a tab, comma, semicolon, arrow or blanks between them).

    Old names are found whatever their capitals, earlier names too. Gives the new names, and the lines whose
    old name no variable has.
    """
    former = {key_of(name): id for id in study.order for name in study.variable(id).former}
    known = {**former, **study.name_keys}
    out, unknown = {}, []
    for line in filter(None, (each.strip() for each in text.splitlines())):
        cells = [each for each in re.split(r"\s*(?:\t|,|;|->|→|=)\s*|\s+", line, maxsplit=1) if each]
        id = known.get(key_of(cells[0])) if cells else None
        if len(cells) < 2 or id is None:
            unknown.append(line)
        else:
            out[id] = cells[1]
    return out, unknown


def judged(study: Study, names: Mapping[str, str]) -> list[NewName]:
    """Each new name with what is wrong with it, in codebook order. The step is refused while anything is."""
    taken = {key for key, id in study.name_keys.items() if id not in names}
    out = []
    for id in (each for each in study.order if each in names):
        old, new = study.tag(id).name, names[id]
        try:
            check_name(new, taken, study.naming)
            out.append(NewName(id, old, new))
        except BadName as error:
            out.append(NewName(id, old, new, error.what, error.suggestion or ""))
        taken.add(key_of(new))
    return out
