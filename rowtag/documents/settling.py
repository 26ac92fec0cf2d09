"""From what stands about a variable to the parts of its tag."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from rowtag.core.codebook import Described
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
    begin = next((at for at in range(len(lines)) if codes_in_lines(lines[at:])), len(lines))
    listed = codes_in_lines(lines[begin:])
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
            _bounds(entry, read_meaning(label))
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
    """A cell of codes, limits or missing codes: a line each, parted by signs, or in running text."""
    parts = [part for part in re.split(r"\n|\s[/|]\s|;\s|//|<br ?/?>", text) if part.strip()]
    if role == "limits":
        entry.limits = read_meaning(f"range: {text}").limits or entry.limits
        return
    if (
        role != "note"
        and len(parts) > 1
        and all(re.fullmatch(rf"{NUMBER}|[A-Za-z]{{1,4}}", part.strip()) for part in parts)
    ):
        _add(entry, [Code("", code=part.strip()) for part in parts])
        return
    bounds = [told for part in parts if (told := _only_bounds(part))]
    if bounds and role != "note":
        entry.limits = entry.limits or bounds[0]
        parts = [part for part in parts if not _only_bounds(part)]
        text = "; ".join(parts)
    ends = [said for part in parts if (said := read_meaning(part)).ends_only]
    if ends and role != "note":
        _add(entry, [code for said in ends for code in said.codes])
        parts = [part for part in parts if not read_meaning(part).ends_only]
        text = "; ".join(parts)
    codes = codes_in_lines(parts) if len(parts) > 1 else []
    said = Said() if codes else read_meaning(text)
    if not codes and not said.codes and len(parts) > 1:
        said = Said(codes=[line[0] for part in parts if (line := code_line(part)) and _sound(line[0])], limits=None)
        bounds = [found for part in parts if (found := read_meaning(part).limits)]
        said.limits = bounds[0] if bounds else None
    if not codes and not said.codes and (single := code_line(text)) and role != "note" and _sound(single[0]):
        said = Said(codes=[single[0]], limits=said.limits)
    if role == "missing":
        numbers = [Code("", code=number) for number in re.findall(rf"(?<![\w.]){NUMBER}", text)]
        missing = [replace(one, reason=_reason(one)) for one in codes or said.codes or numbers]
        entry.codes = [each for each in entry.codes if each.key not in {one.key for one in missing}] + missing
        return
    if role == "note" and not codes and not said.codes:
        entry.given["note"] = bare(" ".join(text.split()))
        return
    if not codes and not said.codes and role == "codes":
        entry.texts.append(text)  # it may say where they are told
    _add(entry, codes or said.codes)
    _bounds(entry, said)


_BOUNDS = re.compile(rf"(?P<low>{NUMBER})\s*(?:-|–|::?|to|\.\.+|…)\s*(?P<high>{NUMBER})(?:\s+[^\W\d]+)?\s*")


def _only_bounds(part: str) -> tuple[str, str] | None:
    """The ends of a range that is all a part says, its unit aside."""
    found = _BOUNDS.fullmatch(part.strip())
    return (found["low"], found["high"]) if found and float(found["low"]) < float(found["high"]) else None


def _reason(code: Code) -> Any:
    return code.reason or missing_reason(code.label)[0] or "other"


def _sound(code: Code) -> bool:
    return bool(code.code and re.fullmatch(NUMBER, code.code))


def _bounds(entry: Entry, said: Said) -> None:
    entry.limits = entry.limits or said.limits


def described(entry: Entry) -> list[Described]:
    """The variables of an entry that is settled."""
    given = {key: value for key, value in entry.given.items() if value}
    parts = parts_from(Said(codes=entry.codes, limits=entry.limits, bounded=entry.bounded), given)
    certainty = entry.certainty * (1.0 if parts.codes or given else 0.8)
    return [
        Described(
            name,
            parts,
            battery=entry.battery or None,
            lines=entry.lines,
            certainty=round(certainty, 2),
            reason=entry.reason,
            also=entry.also,
        )
        for name in entry.names
    ]
