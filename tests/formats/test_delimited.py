"""Delimited text: to the letter, whichever way it is written; what cannot be read says where and why."""

import csv
import io
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rowtag.core.errors import Cancelled, RowTagError, UnreadableFile
from rowtag.formats import delimited
from rowtag.formats.delimited import DelimitedReader
from rowtag.formats.intake import guess, picture, read
from rowtag.formats.table import Settings, Table, unwatched
from tests.generate import entries

READER = DelimitedReader()


def table_of(path: Path, settings: Settings) -> list[list[str]]:
    """The entries of a file as rows, heads first."""
    table = READER.read(path, path.name, settings, unwatched)
    return rows_of(table)


def rows_of(table: Table) -> list[list[str]]:
    columns = [column.texts_at(column.indexes(0, table.records)) for column in table.columns]
    return [table.heads, *map(list, zip(*columns, strict=True))] if table.records else [table.heads]


cells = entries | st.text(
    st.characters(codec="utf-8", exclude_characters="\0", exclude_categories=["Cs"]) | st.sampled_from('",;\t|\n\r '),
    max_size=8,
)


@given(st.data(), st.sampled_from(sorted(delimited.SEPARATORS)), st.sampled_from(["\n", "\r\n"]))
def test_round_trip(tmp_path_factory: pytest.TempPathFactory, data: st.DataObject, separator: str, ending: str) -> None:
    """Any table written with any separator comes back to the letter, by the fast way or the exact one."""
    width = data.draw(st.integers(1, 4))
    rows = data.draw(st.lists(st.lists(cells, min_size=width, max_size=width), min_size=1, max_size=6))
    heads = [f"q{number}" for number in range(width)]
    lone = any("\r" in cell for row in rows for cell in row)  # which the writer would leave unquoted
    quoting = csv.QUOTE_ALL if lone else csv.QUOTE_MINIMAL
    path = tmp_path_factory.mktemp("round") / "a.csv"
    with path.open("w", newline="", encoding="utf-8") as file:
        writer = csv.writer(file, delimiter=separator, lineterminator=ending, quoting=quoting)
        writer.writerows([heads, *rows])
    settings = Settings(separator=separator)
    assert table_of(path, settings) == [heads, *rows]
    exact = list(delimited._exact_rows(path, "a.csv", settings))
    assert exact == [heads, *rows]


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16", "cp1252"])
@pytest.mark.parametrize("separator", [",", ";", "\t", "|"])
def test_what_is_guessed(tmp_path: Path, encoding: str, separator: str) -> None:
    """Encoding and separator are told from the file, and the entries come out right."""
    rows = [["plot", "größe", "note"], ["0007", "1,5", "a; b"], ["0014", "2,25", "café"]]
    path = tmp_path / "a.csv"
    text = io.StringIO()
    csv.writer(text, delimiter=separator, lineterminator="\n").writerows(rows)
    path.write_bytes(text.getvalue().encode(encoding))
    settings = guess(path, "a.csv")
    assert settings.separator == separator
    assert table_of(path, settings) == rows
    assert picture(path, "a.csv", settings).rows == rows


RAGGED = "a,b,c\n1,2\n3,4,5,6\n7,8,9\n"


def test_ragged_rows_lose_nothing(tmp_path: Path) -> None:
    """Short rows are filled with blanks, long ones widen the table; both are said."""
    path = tmp_path / "a.csv"
    path.write_text(RAGGED)
    table = READER.read(path, "a.csv", Settings(), unwatched)
    assert rows_of(table) == [["a", "b", "c", ""], ["1", "2", "", ""], ["3", "4", "5", "6"], ["7", "8", "9", ""]]
    assert table.notes == [
        "2 rows have more or fewer entries than the first (lines 2, 3); missing ones are blank",
    ]


BAD = [
    (b"", "The file is empty."),
    (b" \n\n", "The file is empty."),
    (b"PK\x03\x04abc", "This is not delimited text: it begins like a ZIP archive or workbook."),
    (b"\x89PNG\r\n\x1a\n", "This is not delimited text: it begins like a picture."),
    (b"a,b\n1,\0\n", "This is not text: it holds NUL bytes."),
    (b'a,b\n1,"open\n2,3\n', "A quote is opened and never closed."),
    (b'a,b\n1,2,"x"y\n', "Text follows a closing quote in the same entry."),
]


@pytest.mark.parametrize(("data", "sentence"), BAD)
def test_bad_files_say_what_where_and_what_to_do(tmp_path: Path, data: bytes, sentence: str) -> None:
    """Each kind of bad file gets a sentence with its place, and a remedy."""
    path = tmp_path / "plots.csv"
    path.write_bytes(data)
    with pytest.raises(UnreadableFile) as refused:
        read(path, "plots.csv", guess(path, "plots.csv"))
    assert refused.value.what == sentence
    assert refused.value.remedy and "plots.csv" in str(refused.value)


def test_the_wrong_encoding_says_where(tmp_path: Path) -> None:
    """A file read as UTF-8 that is not names the line."""
    path = tmp_path / "a.csv"
    path.write_bytes(b"a,b\n" + b"1,2\n" * 10 + "3,é\n".encode("cp1252"))
    with pytest.raises(UnreadableFile, match="The file is not utf-8"):
        read(path, "a.csv", Settings())
    assert guess(path, "a.csv").encoding == "cp1252"


@pytest.mark.parametrize(
    ("text", "heads", "records"),
    [("a,b\n", ["a", "b"], 0), ("a,b", ["a", "b"], 0), ("a\n\n1\n\n", ["a"], 3), ("a,b\n\n1,2\n\n", ["a", "b"], 1)],
)
def test_headers_and_blank_lines(tmp_path: Path, text: str, heads: list[str], records: int) -> None:
    """A header alone is a table without records; a blank line is an entry only where lines have one entry."""
    path = tmp_path / "a.csv"
    path.write_text(text)
    table = READER.read(path, "a.csv", Settings(), unwatched)
    assert (table.heads, table.records) == (heads, records)


def test_extremes(tmp_path: Path) -> None:
    """2,000 columns, and one entry of 5 MB, are read like anything else."""
    wide = tmp_path / "wide.csv"
    wide.write_text("\n".join(",".join(f"{row}{n}" for n in range(2_000)) for row in ("q", 1, 2)))
    holding = read(wide, "wide.csv", guess(wide, "wide.csv"))
    assert len(holding.proposals) == 2_000 and holding.table.records == 2
    large = tmp_path / "large.csv"
    large.write_text(f"a,b\n1,{'x' * 5_000_000}\n2,y\n")
    assert len(table_of(large, Settings())[1][1]) == 5_000_000


def test_no_names_in_the_file(tmp_path: Path) -> None:
    """Without a row of names every row is a record, and columns get names of their own."""
    path = tmp_path / "a.csv"
    path.write_text("1,2\n3,4\n")
    holding = read(path, "a.csv", Settings(names_row=None))
    assert [each.tag.name for each in holding.proposals] == ["column_1", "column_2"]
    assert holding.table.records == 2


def test_heads_that_are_no_names(tmp_path: Path) -> None:
    """Repeated, blank and unfit heads get working names; what stood there becomes the label, and it is said."""
    path = tmp_path / "a.csv"
    path.write_text("q1,q1,,How old?\n1,2,3,4\n")
    holding = read(path, "a.csv", Settings())
    assert [(each.tag.name, each.tag.label) for each in holding.proposals] == [
        ("q1", ""),
        ("q1_2", "q1"),
        ("column_3", ""),
        ("How_old", "How old?"),
    ]
    assert holding.table.notes == ["“q1” is called q1_2; “” is called column_3; “How old?” is called How_old"]


def test_long_work_can_be_stopped(tmp_path: Path) -> None:
    """Reading asks again and again whether to go on."""
    path = tmp_path / "a.csv"
    path.write_text("a,b\n1,2\n")

    def stop(share: float, _doing: str) -> None:
        if share > 0.2:
            raise Cancelled("Stopped.")

    with pytest.raises(Cancelled):
        read(path, "a.csv", Settings(), stop)


def test_other_endings_are_refused(tmp_path: Path) -> None:
    """A file of another kind is refused with what can be read."""
    with pytest.raises(RowTagError, match="has an ending Row Tag does not read"):
        guess(tmp_path / "a.docx", "a.docx")
