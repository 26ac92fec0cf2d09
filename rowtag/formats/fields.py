"""Where the fields of fixed-column text stand, taken from a codebook: as text, as a table, or from a study."""

import re
from collections.abc import Iterable
from typing import Literal

from rowtag.core.errors import BadInput
from rowtag.core.study import Study
from rowtag.core.tag import Frozen
from rowtag.core.words import whole_number
from rowtag.formats.table import FixedField, Table

_HEADS = {
    "name": {"name", "variable", "var", "field", "item", "variable name"},
    "width": {"width", "length", "len", "size", "digits", "characters"},
    "start": {"start", "from", "begin", "first", "position", "pos", "first column"},
    "end": {"end", "to", "last", "last column"},
}


class FieldSource(Frozen):
    """Widths as text, from a file that was handed in (its id), or from a study (its id)."""

    kind: Literal["text", "file", "study"]
    value: str


def fields_of_text(text: str) -> tuple[FixedField, ...]:
    """Fields from lines such as "plot 4", "age 5-6" or "4 2 1 1": a name and a width, or first and last character."""
    out: list[FixedField] = []
    for number, line in enumerate(text.splitlines(), 1):
        words = [word for word in re.split(r"[\s,;:=]+", line.strip()) if word]
        if not words:
            continue
        if all(word.isdigit() for word in words):
            for word in words:
                out.append(_behind(out, "", int(word), number))
            continue
        *named, last = words
        span = re.fullmatch(r"(\d+)\s*[-–]\s*(\d+)", last)
        if span and int(span[2]) >= int(span[1]) > 0:
            out.append(FixedField(start=int(span[1]), width=int(span[2]) - int(span[1]) + 1, name=" ".join(named)))
        elif last.isdigit() and named:
            out.append(_behind(out, " ".join(named), int(last), number))
        else:
            raise BadInput(
                f"Line {number}, “{line.strip()[:60]}”, has no width.",
                remedy="Write a name and a width (plot 4), or first and last character (age 5-6), one field a line.",
            )
    return _checked(out)


def fields_of_table(table: Table) -> tuple[FixedField, ...]:
    """Fields from a table with a column of widths, or of first and last characters."""
    found = {
        part: number
        for part, words in _HEADS.items()
        for number, head in reversed(list(enumerate(table.heads)))
        if head.strip().casefold().replace("_", " ") in words
    }
    if "width" not in found and not {"start", "end"} <= set(found):
        raise BadInput(
            "The codebook has no column of widths.",
            remedy="Call one “width”, or two “start” and “end”; the names stand in one called “name”.",
        )
    cells = {
        part: table.columns[number].texts_at(table.columns[number].indexes(0, table.records))
        for part, number in found.items()
    }
    out: list[FixedField] = []
    for row in range(table.records):
        given = {part: texts[row].strip() for part, texts in cells.items()}
        told = {part: whole_number(given.get(part, "")) for part in ("start", "end", "width")}
        numbers = {part: number for part, number in told.items() if number is not None}
        name = given.get("name", "")
        if "start" in numbers and ("width" in numbers or "end" in numbers):
            width = numbers.get("width", numbers.get("end", 0) - numbers["start"] + 1)
            if width > 0 and numbers["start"] > 0:
                out.append(FixedField(start=numbers["start"], width=width, name=name))
        elif "width" in numbers:
            out.append(_behind(out, name, numbers["width"], row + 1))
    return _checked(out)


def fields_of_study(study: Study) -> tuple[FixedField, ...]:
    """Fields as wide as a study's variables, in their order."""
    out: list[FixedField] = []
    for id in study.order:
        tag = study.tag(id)
        if tag.width is None:
            raise BadInput(f"{tag.name} has no width.", remedy="Give every variable of that study a width.")
        out.append(_behind(out, tag.name, tag.width, len(out) + 1))
    return _checked(out)


def _behind(fields: list[FixedField], name: str, width: int, number: int) -> FixedField:
    """A field that begins where the last one ends."""
    if not width:
        raise BadInput(f"Line {number} gives a width of 0.", remedy="A field is at least one character wide.")
    start = fields[-1].start + fields[-1].width if fields else 1
    return FixedField(start=start, width=width, name=name)


def _checked(fields: Iterable[FixedField]) -> tuple[FixedField, ...]:
    out = tuple(fields)
    if not out:
        raise BadInput("No width was found.", remedy="Write one field a line, such as “plot 4”.")
    return out
