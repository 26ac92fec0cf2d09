"""Codebooks as tables: one row per variable with its codes in a cell, or one row per code."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any, Literal

from rowtag.core.codebook.described import Described
from rowtag.core.errors import RowTagError
from rowtag.core.names import check_name
from rowtag.core.tag import MOST_TEXT
from rowtag.documents.codes import NUMBER, Code, code_line
from rowtag.documents.lines import MOST_READ, shortened
from rowtag.documents.lists import Said, read_text
from rowtag.documents.reasons import missing_reason
from rowtag.documents.saying import parts_from, said_level, said_type

Role = Literal[
    "name", "label", "question", "type", "level", "codes", "code", "code label", "missing", "width", "decimals",
    "minimum", "maximum", "limits", "note",
]  # fmt: skip
"""What a column of a codebook may hold."""

_HEADINGS: dict[Role, str] = {
    "name": r"(?:variable|var|field|column|attribute|feature|item|element|short)(?: ?(?:name|id))?s?|names?|id|variable_name",
    "question": r"(?:question|item)(?: (?:text|wording))?|wording|text|asked",
    "label": r"(?:variable |var )?labels?|meaning|(?:variable |element |field |item )?descriptions?|definition|contents?|title|what it (?:is|means)"
    r"|explanation",
    "type": r"(?:data ?|variable )?type|format|storage(?: type)?",
    "level": r"level(?: of measurement)?|measurement(?: level)?|scale|measure",
    "codes": r"(?:value |possible |allowed |valid )?(?:values|codes|categories|labels|answers|options|levels)|coding"
    r"|encoding|(?:permitted|permissible|possible|valid|allowed) values|value range|choices|value labels?|code list|response options|codes and labels|values? ?/ ?codes?|codes? ?/ ?labels?",
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
            cell for row in rows for cell in row[found["code"] : found["code"] + 1] if len(read_text(cell).codes) > 1
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


def read_rows(rows: Sequence[Sequence[str]], roles: Mapping[Role, int], numbers: Sequence[int]) -> list[Described]:
    """The variables that a table's rows describe; `numbers` are the lines (or rows) they stand on."""
    found: list[dict[str, Any]] = []
    for number, row in zip(numbers, rows, strict=True):
        cells = {role: shortened(row[at].strip()[:MOST_TEXT]) for role, at in roles.items() if at < len(row)}
        name = cells.get("name", "").strip("`*\"' ")
        if name and not _nameable(name):
            continue
        if name and not (found and found[-1]["name"] == name):
            found.append({"name": name, "lines": (number, number), "cells": cells, "said": Said(), "more": []})
        if not found:
            continue
        entry = found[-1]
        entry["lines"] = (entry["lines"][0], number)
        if not name and "code" not in roles:
            entry["more"].append(cells.get("label") or cells.get("codes") or "")
        if cells.get("code") and (found_code := _row_code(cells)):
            entry["said"].codes.append(found_code)
    return [_described(entry) for entry in found]


def _nameable(name: str) -> bool:
    try:
        check_name(name, (), "open")
    except RowTagError:
        return bool(re.fullmatch(r"[^\W\d][\w.]{0,63}", name))
    return True


def _row_code(cells: Mapping[Role, str]) -> Code | None:
    label = cells.get("code label", "")
    coded = code_line(f"{cells['code']}\t{label}") if label else None
    if coded is not None:
        return coded[0]
    return Code(label, code=cells["code"]) if re.fullmatch(rf"{NUMBER}|\w{{1,20}}", cells["code"]) else None


def _described(entry: Mapping[str, Any]) -> Described:
    cells, said = entry["cells"], entry["said"]
    if "codes" in cells and not said.codes:
        said = _cell_said(cells["codes"])
    elif not said.codes and cells.get("label"):
        said = read_text(cells["label"])
        cells = {**cells, "label": said.rest}
    for text in entry["more"]:
        coded = code_line(text)
        if coded is not None:
            said.codes.append(coded[0])
        elif text and not said.codes:
            cells = {**cells, "label": f"{cells.get('label', '')} {text}".strip()}
    if cells.get("missing"):
        numbers = re.findall(rf"(?<![\w.]){NUMBER}", cells["missing"])
        codes = read_text(cells["missing"]).codes or [Code("", code=number) for number in numbers]
        said.codes = [*said.codes, *(_as_missing(code) for code in codes)]
    if cells.get("limits"):
        said.limits = read_text(f"range: {cells['limits']}").limits
    low, high = cells.get("minimum", ""), cells.get("maximum", "")
    if re.fullmatch(NUMBER, low) and re.fullmatch(NUMBER, high):
        said.limits = (low, high)
    given: dict[str, Any] = {}
    for role in ("label", "question", "note"):
        if cells.get(role):
            given[role] = cells[role]
    for role in ("width", "decimals"):
        if re.fullmatch(r"\d{1,3}", cells.get(role, "")) and (role == "decimals" or int(cells[role])):
            given[role] = int(cells[role])
    if level := said_level(cells.get("level", "")):
        given["level"] = level
    if kind := said_type(cells.get("type", "")):
        given["type"] = kind
    parts = parts_from(said, given)
    return Described(
        entry["name"], parts, lines=entry["lines"], certainty=0.95, reason="a row of a table with headings"
    )


def _cell_said(cell: str) -> Said:
    """What a cell of codes says: items on lines of their own, behind bars, or in running text."""
    pieces = [piece.strip() for piece in re.split(r"\n|\s\|\s|<br ?/?>", cell) if piece.strip()]
    pieces = [re.sub(rf"^({NUMBER}),\s+", r"\1 = ", piece) for piece in pieces]
    if len(pieces) > 1:
        coded = [code_line(piece) if len(piece) <= MOST_READ else None for piece in pieces]
        if all(coded):
            return Said(codes=[each[0] for each in coded if each])
    said = read_text(cell)
    if len(cell) > MOST_READ:
        return said
    if not said.codes and (single := code_line(cell)) and re.match(NUMBER, single[0].code or ""):
        return Said(codes=[single[0]])
    if not said.codes:
        quoted = re.fullmatch(r"\s*+(?:[^\W\d][\w ]{0,30}+\s*+[;|]\s*+)++[^\W\d][\w ]{0,30}+\s*", cell)
        if quoted:
            return Said(codes=[Code("", code=word.strip()) for word in re.split(r"[;|]", cell)])
    return said


def _as_missing(code: Code) -> Code:
    return replace(code, reason=code.reason or missing_reason(code.label)[0] or "other")
