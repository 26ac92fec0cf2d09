"""Codebooks as tables: one row per variable with its codes in a cell, or one row per code."""

import re
from collections.abc import Mapping, Sequence
from typing import Literal

from rowtag.documents.meaning import read_meaning

Role = Literal[
    "name", "label", "question", "type", "level", "codes", "code", "code label", "missing", "width", "decimals",
    "minimum", "maximum", "limits", "note",
]  # fmt: skip
"""What a column of a codebook may hold."""

_HEADINGS: dict[Role, str] = {
    "name": r"(?:variable|var|field|column|attribute|feature|item|element|short)(?: ?(?:name|id))?s?|names?|id",
    "question": r"(?:question|item)(?: (?:text|wording))?|wording|text|asked",
    "label": r"(?:variable |var )?labels?|meaning|(?:variable |element |field |item )?descriptions?|definition"
    r"|contents?|title|what it (?:is|means)|explanation",
    "type": r"(?:data ?|variable )?type|format|storage(?: type)?",
    "level": r"level(?: of measurement)?|measurement(?: level)?|scale|measure",
    "codes": r"(?:value |possible |allowed |valid )?(?:values|codes|categories|labels|answers|options|levels)|coding"
    r"|encoding|(?:permitted|permissible) values|value range|choices|value labels?|code list|response options"
    r"|codes and labels|values? codes?|codes? (?:values?|labels?)|categories labels?",
    "code": r"(?:code|value)",
    "code label": r"(?:code|value|category|answer) (?:labels?|meaning|text)|category|answer",
    "missing": r"missing(?: values?| codes?)?|not valid|na codes?",
    "width": r"width|length|columns?|size",
    "decimals": r"decimals?|decimal places|digits",
    "minimum": r"min(?:imum)?|low(?:est)?|from",
    "maximum": r"max(?:imum)?|high(?:est)?|to",
    "limits": r"(?:valid )?range|limits|bounds",
    "note": r"notes?|comments?|remarks?|units?",
}
"""Headings by which a column is told, most telling first."""


def roles_of(heads: Sequence[str], rows: Sequence[Sequence[str]] = ()) -> dict[Role, int]:
    """Which column holds what, by their headings and by what stands in them."""
    found: dict[Role, int] = {}
    plain = [" ".join(re.sub(r"[_\W]+|(?<=[a-z])(?=[A-Z])", " ", head).casefold().split()) for head in heads]
    for role, pattern in _HEADINGS.items():
        fitting = [at for at, head in enumerate(plain) if at not in found.values() and re.fullmatch(pattern, head)]
        if fitting:
            found[role] = fitting[0]
    if "name" in found and "code" in found and "codes" not in found:
        many = [
            cell for row in rows for cell in row[found["code"] : found["code"] + 1] if len(read_meaning(cell).codes) > 1
        ]
        if many or not _repeats(rows, found["name"]):
            found["codes"] = found.pop("code")
    if "code" in found and "code label" not in found and "label" in found:
        found["code label"] = found.pop("label")
    if "codes" in found and "label" not in found and "question" not in found:
        others = [at for at in range(len(heads)) if at not in found.values()]
        if others:
            found["label"] = max(others, key=lambda at: sum(len(row[at]) for row in rows if at < len(row)))
    return found


def _repeats(rows: Sequence[Sequence[str]], name: int) -> bool:
    """Whether a name stands for several rows: it is repeated, or left out below."""
    names = [row[name].strip() if name < len(row) else "" for row in rows]
    return any(not each for each in names[1:]) or len(set(names)) < len(names)


def is_codebook(roles: Mapping[Role, int]) -> bool:
    """Whether columns of these kinds describe variables."""
    return "name" in roles and len(roles) > 1
