"""Tables that describe variables, in delimited text or on a sheet of a workbook: found, read, their columns told."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from rowtag.core.codebook import Described
from rowtag.core.errors import BadInput, Place, TooLarge
from rowtag.core.names import key_of
from rowtag.documents.blocks import Row
from rowtag.documents.layouts.tables import rows_read
from rowtag.documents.once import each_once
from rowtag.documents.settling import described, settled
from rowtag.documents.table import Role, is_codebook, roles_of
from rowtag.formats.intake import Opened
from rowtag.formats.table import Settings

MOST_ROWS = 200_000
"""Rows of a table of variables that are read."""

ColumnRole = Role | Literal[""]
"""What a column holds; nothing where it is left aside."""


@dataclass(frozen=True)
class VariableTable:
    """A table that describes variables: the sheet it is on, its rows beneath its heads, what each column holds.

    `first_row` is the number of the first row beneath the heads.
    """

    sheet: str | None
    heads: Sequence[str]
    rows: Sequence[Sequence[str]]
    first_row: int
    columns: Sequence[ColumnRole]

    def described(self) -> tuple[Described, ...]:
        """The variables that its rows describe."""
        roles = {role: at for at, role in enumerate(self.columns) if role}
        rows = [Row(tuple(cells), number) for number, cells in enumerate(self.rows, self.first_row)]
        entries = [
            settled(entry) for entry in rows_read(rows, roles, 0.95, "a row of a table with headings", headed=True)
        ]
        return each_once([each for entry in entries for each in described(entry)])


def describing_sheets(file: Opened) -> list[str | None]:
    """The sheets of a workbook whose first rows describe variables; None stands for a text that does."""
    guessed = file.guess()
    found: list[str | None] = []
    for sheet in file.picture(guessed).sheets or (None,):
        picture = file.picture(_settings(file, guessed, sheet))
        at = (picture.settings.names_row or 1) - 1
        heads, rows = picture.rows[at : at + 1], picture.rows[at + 1 :]
        if heads and is_codebook(roles_of(heads[0], rows)):
            found.append(sheet)
    return found


def variable_table(file: Opened, sheet: str | None, columns: Sequence[ColumnRole] | None = None) -> VariableTable:
    """A table read whole; what its columns hold is told by their headings and contents unless it is given."""
    settings = _settings(file, file.guess(), sheet)
    table = file.table(settings)
    if table.records > MOST_ROWS:
        raise TooLarge(
            f"The table has {table.records:,} rows; a codebook of up to {MOST_ROWS:,} is read.",
            remedy="Give the part that describes the variables.",
            where=Place(file.name),
        )
    cells = [column.texts_at(column.indexes(0, table.records)) for column in table.columns]
    rows = list(zip(*cells, strict=True))
    if columns is None:
        roles = {at: role for role, at in roles_of(table.heads, rows).items()}
        columns = [roles.get(at, "") for at in range(len(table.heads))]
    elif len(columns) != len(table.heads):
        raise BadInput(f"The table has {len(table.heads)} columns, not {len(columns)}.", remedy="Read it again.")
    twice = next((role for role in columns if role and list(columns).count(role) > 1), None)
    if twice:
        raise BadInput(f"Two columns cannot both hold the {twice}.", remedy="Choose another part for one of them.")
    return VariableTable(sheet, table.heads, rows, (settings.names_row or 0) + 1, columns)


def describes(table: VariableTable, heads: Sequence[str]) -> int:
    """How many of a data table's columns a table of variables describes."""
    named = {key_of(each.name) for each in table.described()}
    return sum(key_of(head.strip()) in named for head in heads)


def _settings(file: Opened, guessed: Settings, sheet: str | None) -> Settings:
    whole = guessed.model_copy(update={"sheet": guessed.sheet if sheet is None else sheet, "range": ""})
    other = guessed if whole == guessed else file.heads(whole)
    return other.model_copy(update={"wordings_row": None, "data_row": None, "rows_below": 0})
