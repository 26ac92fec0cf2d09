"""From what stands about a variable to the parts of its tag."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from rowtag.core.codebook import Described
from rowtag.core.codebook.described import Onward
from rowtag.documents.blocks import bare
from rowtag.documents.codes import NUMBER, Code, code_line
from rowtag.documents.hands.found import Said
from rowtag.documents.layouts.entry import Entry, codes_in_lines
from rowtag.documents.meaning import read_meaning, tidy_label
from rowtag.documents.reasons import missing_reason
from rowtag.documents.saying import parts_from, said_level, said_type


def settled(entry: Entry) -> Entry:
    """An entry whose texts are read: its codes, limits and meaning are told apart."""
    cells = entry.given.pop("cells", None)
    if isinstance(cells, dict):
        _from_cells(entry, cells)
        return entry
    text = next((text for text in entry.texts if text), "")
    lines = text.split("\n")
    begin = len(lines)
    while begin and codes_in_lines([lines[begin - 1]], fewest=1):
        begin -= 1
    listed = codes_in_lines(lines[begin:])
    begin = begin if listed else len(lines)
    said = read_meaning("\n".join(lines[:begin]))
    _add(entry, listed or said.codes)
    if listed and said.codes:
        said.rest = tidy_label("\n".join(lines[:begin]))
    entry.limits, entry.bounded = entry.limits or said.limits, said.bounded
    if said.rest and "label" not in entry.given:
        entry.given["label"] = said.rest
    _kind_of(entry, said)
    for more in entry.texts[1:]:
        further = read_meaning(more)
        _add(entry, [] if entry.codes and not all(code.reason for code in further.codes) else further.codes)
        entry.limits = entry.limits or further.limits
        _kind_of(entry, further)
    return entry


def _kind_of(entry: Entry, said: Said) -> None:
    """Keeps the type or level that a text names."""
    if kind := said_type(said.kind):
        entry.given.setdefault("type", kind)
    if level := said_level(said.kind):
        entry.given.setdefault("level", level)


def _add(entry: Entry, codes: Sequence[Code]) -> None:
    said = {code.key: code for code in codes}
    known = {code.key for code in entry.codes}
    entry.codes = [each if each.label else said.get(each.key, each) for each in entry.codes]
    entry.codes += [code for code in codes if code.key not in known]


def _from_cells(entry: Entry, cells: Mapping[str, Any]) -> None:
    """Reads the cells of a table's rows by what their columns hold."""
    _add(entry, [code for row in cells.get("rows", ()) if (code := _row_code(*row))])
    for code, label in cells.get("rows", ()):
        if not code and label:
            entry.limits = entry.limits or read_meaning(label).limits
    for role in ("codes", "limits", "missing", "note"):
        if cells.get(role):
            _cell(entry, role, cells[role])
    for role in ("question", "label"):
        text = cells.get(role, "")
        if not text:
            continue
        said = read_meaning(text)
        if said.codes and not entry.codes:
            _add(entry, said.codes)
            text = said.rest
        elif said.limits and not entry.limits and role == "label" and not entry.codes:
            entry.limits, text = said.limits, said.rest
        if text:
            entry.given[role] = bare(" ".join(text.split()))
    low, high = cells.get("minimum", ""), cells.get("maximum", "")
    if re.fullmatch(NUMBER, low) and re.fullmatch(NUMBER, high):
        entry.limits = (low, high)
    for role in ("width", "decimals"):
        if re.fullmatch(r"\d{1,3}", cells.get(role, "")) and (role == "decimals" or int(cells[role])):
            entry.given[role] = int(cells[role])
    if level := said_level(cells.get("level", "")):
        entry.given["level"] = level
    if kind := said_type(cells.get("type", "")):
        entry.given["type"] = kind


def _row_code(code: str, label: str) -> Code | None:
    if not code:
        return None
    line = code_line(f"{code.rstrip('*')}\t{label}") if label else None
    found = line[0] if line is not None else None
    if found is None and re.fullmatch(rf"{NUMBER}\*?|\w{{1,20}}", code):
        found = Code(label, code=code.rstrip("*"))
    return replace(found, reason=found.reason or "other") if found is not None and code.endswith("*") else found


def _cell(entry: Entry, role: str, text: str) -> None:
    """A cell of codes, limits, missing codes or a note: a line each, parted by signs, or in running text."""
    if role == "limits":
        entry.limits = read_meaning(f"range: {text}").limits or entry.limits
        return
    parts = [part for part in re.split(r"\n|\s[/|]\s|;\s|//|<br ?/?>", text) if part.strip()]
    if role == "missing":
        entry.codes = _with_missing(entry.codes, parts, text)
        return
    if role == "codes":
        if len(parts) > 1 and all(re.fullmatch(rf"{NUMBER}|[A-Za-z]{{1,4}}", part.strip()) for part in parts):
            _add(entry, [Code("", code=part.strip()) for part in parts])  # the meanings stand elsewhere
            return
        parts = [part for part in parts if not _told_alone(entry, part)]
        text = "; ".join(parts)
    said = _said_in(parts, text, alone=role == "codes")
    if role == "note" and not said.codes:
        entry.given["note"] = bare(" ".join(text.split()))
        return
    if role == "codes" and not said.codes:
        entry.texts.append(text)  # it may say where they are told
    _add(entry, said.codes)
    entry.limits = entry.limits or said.limits


def _told_alone(entry: Entry, part: str) -> bool:
    """Takes a part that is nothing but a range, or a scale told by its ends."""
    found = _BOUNDS.fullmatch(part.strip())
    if found and float(found["low"]) < float(found["high"]):
        entry.limits = entry.limits or (found["low"], found["high"])
        return True
    said = read_meaning(part)
    if said.ends_only:
        _add(entry, said.codes)
    return said.ends_only


def _said_in(parts: list[str], text: str, *, alone: bool) -> Said:
    """The codes of a cell: a part each, in running text, or some of its parts; one `alone` counts where it may."""
    codes = codes_in_lines(parts)
    if codes:
        return Said(codes=codes)
    said = read_meaning(text)
    if not said.codes and len(parts) > 1:
        some = [line[0] for part in parts if (line := code_line(part)) and _sound(line[0])]
        bounds = [found for part in parts if (found := read_meaning(part).limits)]
        said = Said(codes=some, limits=bounds[0] if bounds else None)
    if not said.codes and alone and (single := code_line(text)) and _sound(single[0]):
        said = Said(codes=[single[0]], limits=said.limits)
    return said


def _with_missing(codes: list[Code], parts: list[str], text: str) -> list[Code]:
    """Codes with those that a cell says are missing, in place of what was thought of these."""
    numbers = [Code("", code=number) for number in re.findall(rf"(?<![\w.]){NUMBER}", text)]
    found = codes_in_lines(parts) or read_meaning(text).codes or numbers
    missing = [replace(one, reason=one.reason or missing_reason(one.label)[0] or "other") for one in found]
    return [each for each in codes if each.key not in {one.key for one in missing}] + missing


_BOUNDS = re.compile(rf"(?P<low>{NUMBER})\s*(?:-|–|::?|to|\.\.+|…)\s*(?P<high>{NUMBER})(?:\s+[^\W\d]+)?\s*")


def _sound(code: Code) -> bool:
    return bool(code.code and re.fullmatch(NUMBER, code.code))


def described(entry: Entry) -> list[Described]:
    """The variables of an entry that is settled."""
    given = {key: value for key, value in entry.given.items() if value}
    parts = parts_from(Said(codes=entry.codes, limits=entry.limits, bounded=entry.bounded), given)
    certainty = entry.certainty * (1.0 if parts.codes or given else 0.8)
    skips = tuple(Onward(codes, to.names[0] if to else "", True, said) for codes, to, said in entry.skips)
    return [
        Described(
            name,
            parts,
            battery=titled(entry.battery),
            lines=entry.lines,
            certainty=round(certainty, 2),
            reason=entry.reason,
            also=entry.also,
            skips=skips,
        )
        for name in entry.names
    ]


MOST_TITLE = 200
"""Characters of the title of a battery or a section; a longer question is cut."""


def titled(text: str) -> str | None:
    """A text as the title of a battery or a section; None where it is empty."""
    return " ".join(text.split())[:MOST_TITLE].rstrip() or None
