"""Lines in columns that tabs part: a name, perhaps its positions in a record, its meaning; codes on lines below."""

import re
from collections.abc import Iterator, Sequence

from rowtag.documents.blocks import Block, bare
from rowtag.documents.codes import NUMBER, Code
from rowtag.documents.layouts.entry import REFERENCE, Entry, codes_in_lines, names_of

FEWEST = 4
"""Names below which this is no way of writing but chance."""
_PLACES = re.compile(r"\d{1,5}(?:\s*[-–]\s*\d{1,5})?")


def see(blocks: Sequence[Block]) -> list[Entry]:
    """The variables of lines in columns, and the lists told once for several: `B1 to B4, for each:`."""
    out: list[Entry] = []
    shared: list[Entry] = []
    for line, number, heading in _lines(blocks):
        fields = [field.strip() for field in line.split("\t") if field.strip()]
        names = names_of(fields[0]) if len(fields) > 1 and not heading else ()
        if names and not re.fullmatch(NUMBER, fields[0]):
            places = fields[1] if _PLACES.fullmatch(fields[1]) and len(fields) > 2 else ""
            text = " ".join(fields[2:] if places else fields[1:])
            out.append(Entry(names, [text], (number, number), 0.9 if places else 0.85, "a line in columns"))
        elif several := _told_for(line):
            shared.append(Entry(several, [line], (number, number), 0.0, ""))
            out.append(shared[-1])
        elif heading or not fields or _heads(line):
            out.append(Entry((), [], (number, number), 0.0, ""))  # what follows belongs to no variable
        elif out and out[-1].names:
            if codes := _code(fields):
                out[-1].codes += codes
            elif out[-1].codes:
                out.append(Entry((), [], (number, number), 0.0, ""))
                continue
            else:
                out[-1].texts.append(" ".join(fields))
            out[-1].lines = (out[-1].lines[0], number)
    found = [entry for entry in out if entry.names and entry.certainty]
    for told in shared:
        for entry in found:
            if entry.names[0] in told.names and not entry.codes:
                entry.codes = list(told.codes)
    return found if len(found) >= FEWEST else []


def _told_for(line: str) -> tuple[str, ...]:
    """The variables, several, that a line names whose list stands below it."""
    names = names_of(line.partition(":")[0]) if line.endswith(":") else ()
    return names if len(names) > 1 else ()


def _heads(line: str) -> bool:
    """Whether a line in capitals heads a part; one that refers to a variable does not."""
    return line.isupper() and " " in line.strip() and not REFERENCE.search(line)


def _lines(blocks: Sequence[Block]) -> Iterator[tuple[str, int, bool]]:
    """The lines of a document, with their numbers; whether one is a heading."""
    for block in blocks:
        if block.kind not in ("text", "item", "heading"):
            continue
        for at, line in enumerate(bare(block.text).split("\n")):
            mark = f"{block.mark}\t" if at == 0 and block.mark.strip("*").isalnum() else ""
            yield mark + line, block.line + at, block.kind == "heading"


def _code(fields: Sequence[str]) -> list[Code]:
    if len(fields) != 2 or not re.fullmatch(rf"{NUMBER}\*?", fields[0]):
        return []
    return codes_in_lines([f"{fields[0]} = {fields[1]}"], fewest=1)
