"""The same table from delimited text and from a workbook is the same study."""

import csv
from pathlib import Path
from typing import Any

import pytest
import xlsxwriter
from hypothesis import given, settings
from hypothesis import strategies as st

from rowtag.service.describe import describe_file

words = st.sampled_from(["Own", "Shared", "n/a", "about 4", "007", "Дуже", "a; b", "2026-02-30", " x "])
numbers = st.integers(-9, 120) | st.decimals(0, 99, places=2).map(float)
tables = st.lists(st.tuples(words, numbers, words | st.just("")), min_size=2, max_size=15)


@settings(max_examples=40)
@given(tables)
def test_describe_says_the_same(tmp_path_factory: pytest.TempPathFactory, rows: list[tuple[str, Any, str]]) -> None:
    """Every figure of `describe` is the same for a .csv and an .xlsx of the same entries."""
    folder = tmp_path_factory.mktemp("both")
    heads = ["held", "hours", "note"]
    with (folder / "a.csv").open("w", newline="", encoding="utf-8") as file:
        csv.writer(file).writerows([heads, *[(first, f"{number:g}", last) for first, number, last in rows]])
    with xlsxwriter.Workbook(str(folder / "a.xlsx")) as book:
        sheet = book.add_worksheet()
        sheet.write_row(0, 0, heads)
        for at, (first, number, last) in enumerate(rows, 1):
            sheet.write_string(at, 0, first)
            sheet.write_number(at, 1, float(f"{number:g}"))
            sheet.write_string(at, 2, last)
    assert describe_file(folder / "a.csv") == describe_file(folder / "a.xlsx")


def test_what_differs_only_in_spelling_is_one_value(tmp_path: Path) -> None:
    """A file that writes 1 as 1, 01 and +1 gives the same counts as one that writes it one way."""
    (tmp_path / "many.csv").write_text("q\n" + "1\n+1\n1.0\n2\n 2\n\u22123\n" * 5, encoding="utf-8")
    (tmp_path / "one.csv").write_text("q\n" + "1\n1\n1\n2\n2\n-3\n" * 5, encoding="utf-8")
    many, one = (describe_file(tmp_path / name)["variables"][0] for name in ("many.csv", "one.csv"))
    assert many == one and many["fill"]["valid"] == 30
