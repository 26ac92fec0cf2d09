"""How the file of a next wave is read: as the first one was, where it has its heads so; else as it is found to be.

A sheet, a range and the rows of the heads are told by name and number first; where fewer of the wanted heads stand
there than elsewhere, by these. What is left out below the data is told anew from every file itself.
"""

from collections.abc import Iterator, Sequence
from contextlib import suppress
from dataclasses import dataclass

from rowtag.core.errors import RowTagError
from rowtag.core.naming import plain_name
from rowtag.core.words import counted
from rowtag.formats.encodings import ENCODINGS
from rowtag.formats.intake import Opened
from rowtag.formats.table import Settings

MOST_SHEETS = 50
"""Sheets among which the one with the wanted heads is looked for."""


@dataclass(frozen=True)
class Again:
    """Settings for another file, and what is to be noted of them."""

    settings: Settings
    notes: tuple[str, ...] = ()


def settings_again(opened: Opened, told: Settings, heads: Sequence[str], sheet: str | None = None) -> Again:
    """How another file is read of which a step tells the settings, and the heads of the columns that it wants; where
    somebody chose one, from that sheet. Raises what reading it as it is guessed raises."""
    told = told.model_copy(update={"rows_below": None})
    best, most = told, (-1, -1)
    for settings in _ways(opened, told, sheet):
        with suppress(RowTagError):
            found = _met(opened, settings, heads)
            if found > most:
                best, most = settings, found
        if most[0] == len(heads):
            break
    if most[0] < 0:
        best = opened.guess()
    return Again(best, tuple(_otherwise(opened.name, told, best)))


def _ways(opened: Opened, told: Settings, sheet: str | None) -> Iterator[Settings]:
    """Ways in which it may be read, the likelier first."""
    with suppress(RowTagError):
        guessed = opened.guess()
        if guessed.kind != told.kind:
            yield from _sheets(opened, guessed, sheet) if guessed.kind == "workbook" else [guessed]
            return
    if told.kind == "workbook":
        yield from _sheets(opened, told, sheet)
        return
    yield told
    with suppress(RowTagError):
        yield opened.heads(told)
    with suppress(RowTagError):
        guessed = opened.guess()
        yield guessed.model_copy(update={"rows_below": None})
        yield opened.heads(told.model_copy(update={"encoding": guessed.encoding}))


def _sheets(opened: Opened, told: Settings, chosen: str | None) -> Iterator[Settings]:
    with suppress(RowTagError):
        names = opened.picture(Settings(kind="workbook")).sheets[:MOST_SHEETS]
        first = chosen or told.sheet
        for name in [chosen] if chosen else sorted(names, key=lambda each: each != first):
            here = told.model_copy(update={"sheet": name})
            if name in names:
                yield here
                with suppress(RowTagError):
                    yield opened.heads(here)
                whole = here.model_copy(update={"range": ""})
                for table in ["", *opened.picture(whole).tables]:
                    with suppress(RowTagError):
                        yield opened.heads(whole.model_copy(update={"range": table}))


def _met(opened: Opened, settings: Settings, heads: Sequence[str]) -> tuple[int, int]:
    """How many of some heads stand where the settings say, and how many columns there are of as many as are wanted."""
    picture = opened.picture(settings)
    if picture.problem:
        return -1, -1
    row = picture.rows[settings.names_row - 1] if settings.names_row and settings.names_row <= len(picture.rows) else []
    there = {cell.strip() for cell in row} | {plain_name(cell) for cell in row if plain_name(cell)}
    met = sum(head.strip() in there or plain_name(head) in there for head in heads if head.strip())
    return met, min(picture.width, len(heads))


_SEPARATORS = {",": "commas", ";": "semicolons", "\t": "tabs", " ": "spaces", "|": "bars"}


def _otherwise(name: str, told: Settings, now: Settings) -> Iterator[str]:
    """What is read otherwise than it was told, in words."""
    if told.kind != now.kind:
        yield f"{name} is no {told.kind} file and was read as it is guessed"
        return
    if told.sheet is not None and told.sheet != now.sheet:
        yield f"sheet “{now.sheet}” was read, not “{told.sheet}”"
    if told.range != now.range:
        yield f"{f'the cells {now.range}' if now.range else 'all cells'} were read, not {told.range or 'all'}"
    if told.kind == "delimited" and told.separator != now.separator:
        now_said, was = (_SEPARATORS.get(each, f"“{each}”") for each in (now.separator, told.separator))
        yield f"{now_said} stand between entries, not {was}"
    if told.kind in ("delimited", "fixed") and told.encoding != now.encoding:
        yield f"read as {ENCODINGS.get(now.encoding, now.encoding)}, not {ENCODINGS.get(told.encoding, told.encoding)}"
    if told.names_row != now.names_row and now.names_row is not None:
        yield f"the heads stand in row {now.names_row}, not in {f'row {told.names_row}' if told.names_row else 'none'}"


def rows_left_out(settings: Settings) -> list[str]:
    """What is to be noted of rows above the heads that are no records; those below the data are noted by the reader."""
    heads = {row for row in (settings.names_row, settings.wordings_row) if row}
    above = settings.first_data_row - 1 - len(heads)
    return [f"{counted(above, 'row')} above the data left out"] if above > 0 else []
