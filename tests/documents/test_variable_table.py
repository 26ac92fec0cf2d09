"""Tables that describe variables: found on any sheet, their columns told or given, bounded."""

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from rowtag.core.errors import BadInput, RowTagError
from rowtag.documents import variable_table as tables
from rowtag.documents.document import as_document
from rowtag.documents.variable_table import describes, describing_sheets, variable_table
from rowtag.formats.intake import Opened, opened
from tests.formats.books import xlsx

CODEBOOK = [
    ["Codebook of the plots"],
    [],
    ["nr", "variable", "meaning", "values", "remarks"],
    ["1", "tenure", "How held", "1 = own; 2 = shared; -9 = refused", "asked first"],
    ["2", "Hours", "Hours in a week", "0-80", ""],
    ["3", "tenure", "again", "", ""],
]
SHEETS: dict[str, list[list[Any]]] = {
    "Data": [["tenure", "hours"], ["1", "4"], ["2", "5"]], "Notes": [["Read this first"]], "Meta": CODEBOOK,
}  # fmt: skip


@pytest.fixture
def book(tmp_path: Path) -> Iterator[Opened]:
    with opened(xlsx(tmp_path / "book.xlsx", SHEETS), "book.xlsx") as file:
        yield file


def test_the_sheet_that_describes(book: Opened) -> None:
    """Only that one, wherever its heads stand; variables once, with the rows they stand on."""
    assert describing_sheets(book) == ["Meta"]
    table = variable_table(book, "Meta")
    assert list(table.columns) == ["", "name", "label", "codes", "note"]
    tenure, hours = table.described()
    assert (tenure.name, tenure.parts.label, tenure.parts.note) == ("tenure", "How held", "asked first")
    assert [line.label for line in tenure.parts.codes] == ["own", "shared"]
    assert tenure.parts.missing[0].reason == "refused" and tenure.lines == (4, 4)
    assert hours.name == "Hours"
    assert (describes(table, ["TENURE", " hours ", "x"]), describes(table, ["q1"])) == (2, 0)


def test_columns_as_somebody_says(book: Opened) -> None:
    """What a column holds can be said otherwise; a part in two columns, or too few columns, is refused."""
    table = variable_table(book, "Meta", ["", "name", "question", "", "label"])
    first = table.described()[0]
    assert (first.parts.question, first.parts.label, first.parts.codes) == ("How held", "asked first", ())
    with pytest.raises(BadInput, match="Two columns cannot both hold the name"):
        variable_table(book, "Meta", ["name", "name", "", "", ""])
    with pytest.raises(BadInput, match="The table has 5 columns, not 1"):
        variable_table(book, "Meta", ["name"])


def test_no_sheet_that_describes(tmp_path: Path) -> None:
    """A workbook of data alone is no codebook; one of its sheets can still be taken, with its columns told."""
    path = xlsx(tmp_path / "data.xlsx", {"Data": SHEETS["Data"], "Notes": [["a", "b"], ["soil", "Kind of soil"]]})
    with pytest.raises(RowTagError, match="Nothing in this file describes variables"):
        as_document(path, path.name)
    told = as_document(path, path.name, "Notes", ["name", "label"])
    assert told.text == 'soil\n  "Kind of soil"\n' and told.sheets == ("Data", "Notes")
    assert as_document(path, path.name, "Notes").text == ""


def test_delimited_text(tmp_path: Path) -> None:
    """A table as text is read the same; what is no table of variables stays the text it is."""
    path = tmp_path / "meta.csv"
    path.write_text("name;label\ntenure;How held\n", encoding="utf-8")
    found = as_document(path, path.name)
    assert found.text == 'tenure\n  "How held"\n' and found.table is not None and found.table.sheet is None
    path.write_text("tenure - how held\nhours - hours a week\n", encoding="utf-8")
    assert as_document(path, path.name).text.startswith("tenure - how held")


def test_too_many_rows(book: Opened, monkeypatch: pytest.MonkeyPatch) -> None:
    """A sheet of data that happens to have such heads does not keep anybody waiting."""
    monkeypatch.setattr(tables, "MOST_ROWS", 2)
    with pytest.raises(RowTagError, match="a codebook of up to 2 is read"):
        variable_table(book, "Meta")
