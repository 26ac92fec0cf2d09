"""Inside a workbook's archive: cells by their letters, XML without entities, error cells in any dialect."""

import io
import zipfile
from pathlib import Path
from xml.parsers import expat

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rowtag.formats import sheetxml


@given(st.integers(0, 16_383))
def test_letters_and_back(column: int) -> None:
    """Every column has its letters, and the letters name it."""
    assert sheetxml.column_at(sheetxml.letters_of(column)) == column


@pytest.mark.parametrize(
    ("reference", "place"),
    [("A1", (0, 0)), ("$C$12", (11, 2)), ("xfd1", (0, 16_383)), ("A", None), ("12", None), ("", None)],
)
def test_cells(reference: str, place: tuple[int, int] | None) -> None:
    """A reference is a row and a column, with or without its signs."""
    assert sheetxml.cell_at(reference) == place


def test_entities_are_refused() -> None:
    """XML that declares entities is not read, so that none can blow up."""
    bomb = b'<?xml version="1.0"?><!DOCTYPE a [<!ENTITY b "ha"><!ENTITY c "&b;&b;">]><a>&c;</a>'
    with pytest.raises(expat.ExpatError):
        sheetxml.read_xml(io.BytesIO(bomb), lambda _tag, _attributes: None)


SHEET = (
    '<{0}worksheet xmlns{1}="x"><{0}dimension ref="A1:{2}9"/><{0}sheetData><{0}row r="7"><{0}c r="B7" t="e">'
    '<{0}f>1/0</{0}f><{0}v>#DIV/0!</{0}v></{0}c><{0}c r="{2}7"><{0}v>4</{0}v></{0}c></{0}row>'
    "</{0}sheetData></{0}worksheet>"
)


@pytest.mark.parametrize("prefix", ["", "x:"])
def test_error_cells_of_a_sheet(tmp_path: Path, prefix: str) -> None:
    """Error cells are found, whether tags carry a prefix or not."""
    path = tmp_path / "a.zip"
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr("sheet.xml", SHEET.format(prefix, ":x" if prefix else "", "D"))
    assert sheetxml.has_errors(path, "sheet.xml")
    assert list(sheetxml.error_cells(path, "sheet.xml")) == [(6, 1, "#DIV/0!")]
