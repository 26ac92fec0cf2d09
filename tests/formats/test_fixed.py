"""Fixed-column text and Parquet: each entry to the letter; fields from breaks or from a codebook."""

from datetime import date, datetime
from decimal import Decimal
from pathlib import Path

import pyarrow as pa
import pyarrow.parquet as pq
import pytest
from hypothesis import given
from hypothesis import strategies as st

from rowtag.core.errors import BadInput, UnreadableFile
from rowtag.core.study import Records, Study, Variable
from rowtag.core.tag import Tag
from rowtag.formats.fields import fields_of_study, fields_of_table, fields_of_text
from rowtag.formats.fixed import fields_from, guess_fields
from rowtag.formats.intake import column_id, guess, opened, read
from rowtag.formats.rows import texts_of
from rowtag.formats.table import FixedField, Settings

LINES = ["plot  tenure hours", "F007  1         13", "F014  2          9", "F021  -8          "]


def test_fields_are_guessed_from_common_blanks() -> None:
    """A field begins behind blanks that all lines share, titles aside."""
    assert [(field.start, field.width) for field in guess_fields(["Survey", *LINES])] == [(1, 6), (7, 7), (14, 5)]
    assert [(field.start, field.width) for field in guess_fields(["0071213", "0142209"])] == [(1, 7)]


def test_a_file_in_columns(tmp_path: Path) -> None:
    """A file in columns is told, its names are found, and entries keep the spaces that fill them up."""
    path = tmp_path / "plots.txt"
    path.write_text("\n".join(LINES))
    with opened(path, "plots.txt") as file:
        settings = file.guess()
        assert settings.kind == "fixed" and settings.names_row == 1
        holding = file.read(settings)
        assert [each.tag.name for each in holding.proposals] == ["plot", "tenure", "hours"]
        assert texts_of(holding.table.columns, 0, 2) == [["F007  ", "1      ", "   13"], ["F014  ", "2      ", "    9"]]
        assert holding.study.fill(column_id(3)).valid == 2, "spaces at the ends do not count when an entry is read"


@given(
    st.lists(st.integers(1, 6), min_size=1, max_size=5),
    st.data(),
    st.sampled_from(["utf-8", "utf-16", "iso-8859-15", "mac-roman"]),
)
def test_round_trip(
    tmp_path_factory: pytest.TempPathFactory, widths: list[int], data: st.DataObject, encoding: str
) -> None:
    """Whatever stands in the fields comes back, spaces included."""
    letters = st.characters(
        codec="iso-8859-1", exclude_categories=["Cc", "Zl", "Zp"], exclude_characters="\xa0\xad×ð¦¤"
    )
    if encoding == "mac-roman":
        letters = st.sampled_from("ab 19é,;\"'")
    row = st.tuples(*(st.text(letters, min_size=width, max_size=width) for width in widths)).map(list)
    rows = data.draw(st.lists(row.filter(lambda cells: "".join(cells).strip()), min_size=1, max_size=5))
    path = tmp_path_factory.mktemp("fixed") / "a.txt"
    text = "\n".join("".join(row) for row in rows)
    try:
        path.write_bytes(text.encode(encoding))
    except UnicodeEncodeError:
        return
    begins = [sum(widths[:number]) for number in range(len(widths))]
    fields = fields_from(begins, sum(widths))
    settings = Settings(kind="fixed", fields=fields, encoding=encoding, names_row=None, blank_rows="keep")
    table = read(path, "a.txt", settings).table
    left = [[row[number - 1] for number in table.numbers] for row in rows]
    assert texts_of(table.columns, 0, table.records) == left
    assert all(not row[n].strip() for row in rows for n in range(len(widths)) if n + 1 not in table.numbers)


def test_lines_that_go_on(tmp_path: Path) -> None:
    """Short lines are blank at their end; what stands behind the last field is said, not dropped unseen."""
    path = tmp_path / "a.txt"
    path.write_text("0071\n014\n0212 late\n")
    settings = Settings(kind="fixed", fields=fields_from([0, 3], 4), names_row=None)
    table = read(path, "a.txt", settings).table
    assert texts_of(table.columns, 0, 3) == [["007", "1"], ["014", ""], ["021", "2"]]
    assert table.notes[0] == "1 record goes on behind the last field (record 3); what stands there is not brought in"
    with pytest.raises(BadInput, match="Nobody has said where the fields"):
        read(path, "a.txt", Settings(kind="fixed"))


FIELDS = (FixedField(start=1, width=4, name="plot"), FixedField(start=5, width=2, name="age"))


@pytest.mark.parametrize("text", ["plot 4\nage 2", "plot: 4; \nage\t2\n\n", "plot 1-4\nage 5 - 6".replace(" - ", "-")])
def test_fields_from_text(text: str) -> None:
    """Names with widths, or with first and last characters."""
    assert fields_of_text(text) == FIELDS


def test_fields_from_widths_alone() -> None:
    """Widths in one line, names unknown."""
    assert [(field.start, field.width) for field in fields_of_text("4 2 1")] == [(1, 4), (5, 2), (7, 1)]


@pytest.mark.parametrize("text", ["plot", "", "plot 0", "plot 9-3"])
def test_fields_that_cannot_be(text: str) -> None:
    """A line without a width is named."""
    with pytest.raises(BadInput) as refused:
        fields_of_text(text)
    assert refused.value.remedy


@pytest.mark.parametrize("table", ["Name,Width\nplot,4\nage,2\n", "variable,start,end\nplot,1,4\nage,5,6\n"])
def test_fields_from_a_codebook(tmp_path: Path, table: str) -> None:
    """Widths, or first and last characters, from a table; and from a study's own tags."""
    path = tmp_path / "codebook.csv"
    path.write_text(table)
    assert fields_of_table(read(path, "codebook.csv", guess(path, "codebook.csv")).table) == FIELDS
    variables = [(name, Variable(tag=Tag(name=name, width=width)), None) for name, width in (("plot", 4), ("age", 2))]
    study = Study(records=Records(0)).put("variable", {id: variable for id, variable, _ in variables})
    assert fields_of_study(Study(study.shelves, ("plot", "age"))) == FIELDS


# Parquet ------------------------------------------------------------------------------------------

COLUMNS = {
    "plot": (pa.array(["007", " x ", None]), ["007", " x ", ""]),
    "size": (pa.array([106.7, 0.1 + 0.2, None]), ["106.7", "0.3", ""]),
    "small": (pa.array([1.1, 2.0, None], pa.float32()), ["1.1", "2", ""]),
    "hours": (pa.array([3, 9_007_199_254_740_993, None]), ["3", "9007199254740993", ""]),
    "rent": (pa.array([Decimal("38.50"), None, Decimal("1E+2")], pa.decimal128(9, 2)), ["38.50", "", "100.00"]),
    "member": (pa.array([True, False, None]), ["TRUE", "FALSE", ""]),
    "day": (pa.array([date(2026, 5, 3), None, None]), ["2026-05-03", "", ""]),
    "at": (pa.array([datetime(2026, 5, 3, 10, 30), datetime(2026, 5, 3), None]),
           ["2026-05-03 10:30:00", "2026-05-03", ""]),
    "heard": (pa.array([["seeds", "tools"], [], None]), ['["seeds", "tools"]', "[]", ""]),
    "site": (pa.array(["N", "S", None]).dictionary_encode(), ["N", "S", ""]),
}  # fmt: skip


def test_parquet(tmp_path: Path) -> None:
    """Every type of column becomes entries as a workbook's cells would be spelled; the picture shows the same."""
    path = tmp_path / "plots.parquet"
    pq.write_table(pa.table({name: values for name, (values, _) in COLUMNS.items()}), path)
    expected = [list(row) for row in zip(*(entries for _, entries in COLUMNS.values()), strict=True)]
    with opened(path, path.name) as file:
        settings = file.guess()
        assert file.picture(settings).rows == [list(COLUMNS), *expected]
        holding = file.read(settings)
        assert holding.table.heads == list(COLUMNS)
        assert texts_of(holding.table.columns, 0, holding.table.records) == expected
    path.write_bytes(b"PAR1 broken")
    with pytest.raises(UnreadableFile, match="no readable Parquet file"):
        guess(path, path.name)


def test_blank_fields(tmp_path: Path) -> None:
    """A field in which nothing stands is left out, and said; one that a codebook names stays."""
    path = tmp_path / "a.dat"
    path.write_text("0 x \n1 y \n")
    fields = (FixedField(start=1, width=1), FixedField(start=2, width=1), FixedField(start=3, width=1, name="held"))
    table = read(path, "a.dat", Settings(kind="fixed", fields=fields, names_row=None, data_row=1)).table
    assert table.numbers == [1, 3] and table.heads[1] == "held"
    named = tuple(field.model_copy(update={"name": f"q{number}"}) for number, field in enumerate(fields))
    assert read(path, "a.dat", Settings(kind="fixed", fields=named, names_row=None, data_row=1)).table.heads == [
        "q0", "q1", "q2"
    ]  # fmt: skip
