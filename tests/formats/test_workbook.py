"""Workbooks: each cell becomes the entry a person would see."""

from datetime import date, datetime, time, timedelta
from pathlib import Path

import pytest
import xlsxwriter
from hypothesis import given
from hypothesis import strategies as st

from rowtag.core.errors import NotThere, UnreadableFile
from rowtag.formats.intake import guess, read
from rowtag.formats.table import Settings
from rowtag.formats.workbook import column_of_cells, entry_of

CELLS = [
    (7.0, "7"),
    (3, "3"),
    (-0.0, "0"),
    (0.1 + 0.2, "0.3"),
    (1e-7, "0.0000001"),
    (123456789012345.0, "123456789012345"),
    (2.5, "2.5"),
    (True, "TRUE"),
    (False, "FALSE"),
    ("007", "007"),
    (" Yes", " Yes"),
    (None, ""),
    (date(2026, 5, 3), "2026-05-03"),
    (datetime(2026, 5, 3), "2026-05-03"),
    (datetime(2026, 5, 3, 10, 30), "2026-05-03 10:30:00"),
    (time(9, 5), "09:05:00"),
    (timedelta(hours=30, minutes=5), "30:05:00"),
]


@pytest.mark.parametrize(("cell", "entry"), CELLS)
def test_entries(cell: object, entry: str) -> None:
    """Numbers, dates, truth values and texts each have one spelling."""
    assert entry_of(cell) == entry


cells = (
    st.sampled_from([cell for cell, _ in CELLS]) | st.floats(-1e9, 1e9).map(lambda x: round(x, 6)) | st.text(max_size=4)
)


@given(st.lists(cells, max_size=20))
def test_columns_keep_cells_apart(values: list[object]) -> None:
    """TRUE and 1, 7 and "7": a column gives each cell its own entry."""
    column = column_of_cells(values)
    assert column.texts_at(column.indexes(0, len(values))) == [entry_of(value) for value in values]


texts = st.text(st.characters(codec="utf-8", exclude_categories=["Cs", "Cc"]), min_size=1, max_size=8)


@given(st.lists(st.tuples(texts, st.integers(-(10**9), 10**9), st.dates(date(1901, 1, 1))), min_size=1, max_size=5))
def test_round_trip(tmp_path_factory: pytest.TempPathFactory, rows: list[tuple[str, int, date]]) -> None:
    """Texts, numbers and dates written to a sheet come back the same."""
    path = tmp_path_factory.mktemp("book") / "a.xlsx"
    with xlsxwriter.Workbook(str(path), {"strings_to_formulas": False, "strings_to_urls": False}) as book:
        sheet = book.add_worksheet()
        sheet.write_row(0, 0, ["text", "number", "day"])
        for number, (text, whole, day) in enumerate(rows, 1):
            sheet.write_string(number, 0, text)
            sheet.write_number(number, 1, whole)
            sheet.write_datetime(number, 2, day, book.add_format({"num_format": "yyyy-mm-dd"}))
    table = read(path, "a.xlsx", guess(path, "a.xlsx")).table
    got = [column.texts_at(column.indexes(0, table.records)) for column in table.columns]
    assert got == [[row[0] for row in rows], [str(row[1]) for row in rows], [row[2].isoformat() for row in rows]]


@pytest.mark.parametrize(
    ("data", "sentence"),
    [
        (b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1" + b"\0" * 600, "protected by a password, or damaged"),
        (b"PK\x03\x04 broken", "no readable workbook"),
        (b"", "no readable workbook"),
        (b"a,b\n1,2\n", "no readable workbook"),
    ],
)
def test_broken_workbooks(tmp_path: Path, data: bytes, sentence: str) -> None:
    """A workbook that cannot be read gets a sentence, whatever it really is."""
    path = tmp_path / "a.xlsx"
    path.write_bytes(data)
    with pytest.raises(UnreadableFile, match=sentence) as refused:
        guess(path, "a.xlsx")
    assert refused.value.remedy


def test_sheets(tmp_path: Path) -> None:
    """The first sheet that holds anything is taken; another can be chosen; an unknown one is refused."""
    path = tmp_path / "a.xlsx"
    with xlsxwriter.Workbook(str(path)) as book:
        book.add_worksheet("Cover")
        book.add_worksheet("Data").write_column(0, 0, ["q1", 1, 2])
        book.add_worksheet("More").write_column(0, 0, ["q2", 5])
    settings = guess(path, "a.xlsx")
    assert settings.sheet == "Data" and read(path, "a.xlsx", settings).table.records == 2
    assert read(path, "a.xlsx", Settings(kind="workbook", sheet="More")).table.heads == ["q2"]
    with pytest.raises(NotThere, match="Sheets: Cover, Data, More"):
        read(path, "a.xlsx", Settings(kind="workbook", sheet="None"))
    with pytest.raises(UnreadableFile, match="This sheet is empty"):
        read(path, "a.xlsx", Settings(kind="workbook", sheet="Cover"))
