"""Delimited text: to the letter, whichever way it is written; what cannot be read says where and why."""

import csv
import gzip
import io
from pathlib import Path

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from rowtag.core.errors import Cancelled, NotKept, RowTagError, TooLarge, UnreadableFile
from rowtag.formats import delimited, text
from rowtag.formats.delimited import DelimitedReader, rows_of
from rowtag.formats.intake import guess, opened, read
from rowtag.formats.rows import texts_of
from rowtag.formats.table import Settings, Table, unwatched
from tests.generate import entries

PLAIN = Settings(blank_rows="keep")


def table_of(path: Path, settings: Settings) -> list[list[str]]:
    """The entries of a file as rows, heads first."""
    reader = DelimitedReader(path, path.name)
    try:
        return rows_in(reader.read(settings, unwatched))
    finally:
        reader.close()


def rows_in(table: Table) -> list[list[str]]:
    return [table.heads, *texts_of(table.columns, 0, table.records)]


def written(tmp_path: Path, data: str | bytes, name: str = "plots.csv") -> Path:
    path = tmp_path / name
    path.write_bytes(data if isinstance(data, bytes) else data.encode())
    return path


cells = entries.filter(lambda entry: "\0" not in entry) | st.text(
    st.characters(codec="utf-8", exclude_characters="\0", exclude_categories=["Cs"]) | st.sampled_from('",;\t|\n\r '),
    max_size=8,
)


@given(
    st.data(),
    st.sampled_from([",", ";", "\t", "|", " ", "^"]),
    st.sampled_from(sorted(text.ENCODINGS)),
    st.sampled_from(["\n", "\r\n"]),
)
def test_round_trip(
    tmp_path_factory: pytest.TempPathFactory, data: st.DataObject, separator: str, encoding: str, ending: str
) -> None:
    """Any table, in each separator and encoding that can hold it, comes back to the letter, the fast or exact way."""
    width = data.draw(st.integers(1, 4))
    rows = data.draw(st.lists(st.lists(cells, min_size=width, max_size=width), min_size=1, max_size=6))
    heads = [f"q{number}" for number in range(width)]
    lone = any("\r" in cell for row in rows for cell in row)  # which the writer would leave unquoted
    file = io.StringIO()
    quoting = csv.QUOTE_ALL if lone else csv.QUOTE_MINIMAL
    csv.writer(file, delimiter=separator, lineterminator=ending, quoting=quoting).writerows([heads, *rows])
    try:
        encoded = file.getvalue().encode(encoding)
        assume(encoded.decode(encoding) == file.getvalue())
    except UnicodeEncodeError:
        assume(False)
    path = written(tmp_path_factory.mktemp("round"), encoded)
    settings = PLAIN.model_copy(update={"separator": separator, "encoding": encoding})
    assert table_of(path, settings) == [heads, *rows]
    plain = file.getvalue().encode()
    exact = [line.cells or [""] for line in rows_of(plain, 0, len(plain), settings, "a.csv")]
    assert exact == [heads, *rows]


@pytest.mark.parametrize(
    "encoding", ["utf-8", "utf-8-sig", "utf-16", "utf-16-le", "cp1252", "mac-roman", "iso-8859-15"]
)
@pytest.mark.parametrize("separator", [",", ";", "\t", "|", "^"])
def test_what_is_guessed(tmp_path: Path, encoding: str, separator: str) -> None:
    """Encoding and separator are told from the file, and the entries come out right."""
    rows = [["plot", "größe", "note"], ["0007", "1,5", "a; b"], ["0014", "2,25", "café für 3 €"]]
    file = io.StringIO()
    csv.writer(file, delimiter=separator, lineterminator="\n").writerows(rows)
    path = written(tmp_path, file.getvalue().encode(encoding))
    with opened(path, "a.csv") as seen:
        settings = seen.guess()
        assert settings.separator == separator
        assert seen.picture(settings).rows == rows
        assert rows_in(seen.read(settings).table) == rows


@pytest.mark.parametrize(
    ("data", "separator"),
    [("1,5;2,25\n3,5;4,75\n", ";"), ("a;b\n1,5;2,25\n", ";"), ("1,5\t2\n3,5\t4\n", "\t"), ("1,5,2\n3,5,4\n", ",")],
)
def test_decimal_commas_are_no_separators(tmp_path: Path, data: str, separator: str) -> None:
    """Commas between digits do not win over a separator that splits the lines as evenly."""
    assert guess(written(tmp_path, data), "a.csv").separator == separator


def test_runs_of_spaces(tmp_path: Path) -> None:
    """Columns set apart by one or more spaces are told, and spaces at the ends of lines are no entries."""
    path = written(tmp_path, "plot  tenure   hours\n0007  1   4\n0014    2  12  \n 0021 1     9\n")
    settings = guess(path, "plots.txt")
    assert (settings.separator, settings.runs) == (" ", True)
    assert table_of(path, settings)[1:] == [["0007", "1", "4"], ["0014", "2", "12"], ["0021", "1", "9"]]


def test_comment_lines(tmp_path: Path) -> None:
    """Lines with a comment sign are no rows, wherever they stand; within an entry the sign is text."""
    path = written(tmp_path, '# made in May\nplot,note\n1,"wet\n# corner"\n# checked\n2,dry\n')
    settings = guess(path, "a.csv")
    assert (settings.comment, settings.names_row) == ("#", 2)
    assert table_of(path, settings) == [["plot", "note"], ["1", "wet\n# corner"], ["2", "dry"]]


@pytest.mark.parametrize("quote", ["'", ""])
def test_other_quotes(tmp_path: Path, quote: str) -> None:
    """Quotes can be single, or mean nothing."""
    path = written(tmp_path, f'plot,note\n1,{quote}5" pipe{quote}\n2,dry\n')
    assert table_of(path, Settings(quote=quote)) == [["plot", "note"], ["1", '5" pipe'], ["2", "dry"]]


def test_packed_text(tmp_path: Path) -> None:
    """gzip'ed text is read like any other; a damaged one says so, and so does one that unpacks to too much."""
    data = gzip.compress("plot;größe\n7;1,5\n".encode("cp1252"))
    path = written(tmp_path, data, "plots.csv.gz")
    settings = guess(path, path.name)
    assert rows_in(read(path, path.name, settings).table) == [["plot", "größe"], ["7", "1,5"]]
    broken = written(tmp_path, data[:-12], "broken.csv.gz")
    with pytest.raises(UnreadableFile, match="damaged or cut short"):
        guess(broken, broken.name)


def test_packed_text_is_limited(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """What unpacks to more than is allowed is refused, and leaves nothing."""
    monkeypatch.setattr(text, "MOST_UNPACKED", 3 << 20)
    path = written(tmp_path, gzip.compress(b"1,2\n" * (1 << 20)), "bomb.csv.gz")
    with pytest.raises(TooLarge, match="larger than the 3 MB allowed"):
        guess(path, path.name)
    assert [each.name for each in tmp_path.iterdir()] == ["bomb.csv.gz"]


def test_more_columns_than_can_be_meant(tmp_path: Path) -> None:
    """A line of a million columns is refused before anything is made of it, with how many there are."""
    path = written(tmp_path, ",".join(["x"] * 1_000_000) + "\n" + ",".join(["1"] * 1_000_000) + "\n")
    with pytest.raises(TooLarge, match="1,000,000 columns are more than the 20,000 allowed") as refused:
        read(path, "a.csv", Settings())
    assert "a.csv" in str(refused.value)


def test_a_full_disk_is_said(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Where there is no room to unpack or re-encode a file, a sentence says so."""

    def full(**_where: object) -> object:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(text, "TemporaryFile", full)
    path = written(tmp_path, "a,b\né,2\n".encode("cp1252"))
    with pytest.raises(NotKept, match="could not be stored: No space left on device"):
        read(path, "a.csv", Settings(encoding="cp1252"))


def test_ragged_rows_lose_nothing(tmp_path: Path) -> None:
    """Short rows are filled with blanks, long ones widen the table; both are said."""
    table = read(written(tmp_path, "a,b,c\n1,2\n3,4,5,6\n7,8,9\n"), "a.csv", Settings()).table
    assert rows_in(table) == [["a", "b", "c", ""], ["1", "2", "", ""], ["3", "4", "5", "6"], ["7", "8", "9", ""]]
    assert table.notes[0] == "2 rows have more or fewer entries than the first (lines 3, 4); missing ones are blank"


def test_mixed_line_ends(tmp_path: Path) -> None:
    """Line feeds, carriage returns and both may end the lines of one file."""
    assert table_of(written(tmp_path, "a,b\r\n1,2\n3,4\r5,6\r\n"), Settings()) == [
        list("ab"),
        *map(list, ("12", "34", "56")),
    ]


def test_slices_meet_between_rows(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """A large file is split slice by slice, never within an entry that holds line breaks."""
    monkeypatch.setattr(delimited, "_SLICE", 64)
    rows = [["plot", "note"], *([f"{n:04d}", f"wet\n,corner {n}" if n % 3 else "dry"] for n in range(500))]
    file = io.StringIO()
    csv.writer(file, lineterminator="\n").writerows(rows)
    shares: list[float] = []
    reader = DelimitedReader(written(tmp_path, file.getvalue()), "a.csv")
    assert rows_in(reader.read(Settings(), lambda share, _: shares.append(share))) == rows
    assert len(shares) > 50 and shares == sorted(shares), "each slice reports how far it is"


BAD = [
    (b"", "The file is empty.", ""),
    (b" \n\n", "The file is empty.", ""),
    (b"PK\x03\x04abc", "This is not delimited text: it begins like a ZIP archive or workbook.", ""),
    (b"\x89PNG\r\n\x1a\n", "This is not delimited text: it begins like a picture.", ""),
    (b"a,b\n1,\0\n", "This is not text: it holds NUL bytes.", "row 2, character 3"),
    (b"a,b\n" + b"1,2\n" * 90_000 + b"1,x\0\n", "This is not text: it holds NUL bytes.", "row 90,002, character 4"),
    (b'a,b\n1,"open\n2,3\n', "A quote is opened and never closed.", "row 2, column 2"),
    (b'a,b\n1,2\n3,"x"y\n', "Text follows a closing quote in the same entry.", "row 3, column 2"),
]


@pytest.mark.parametrize(("data", "sentence", "place"), BAD, ids=[each[1][:30] for each in BAD])
def test_bad_files_say_what_where_and_what_to_do(tmp_path: Path, data: bytes, sentence: str, place: str) -> None:
    """Each kind of bad file gets a sentence with its place, and a remedy."""
    path = written(tmp_path, data)
    with pytest.raises(UnreadableFile) as refused:
        read(path, "plots.csv", guess(path, "plots.csv"))
    assert refused.value.what == sentence
    assert refused.value.remedy and f"plots.csv{', ' if place else ''}{place}: " in str(refused.value)


def test_a_broken_quote_can_be_looked_at(tmp_path: Path) -> None:
    """A file that cannot be split is shown line by line, with what is wrong; without quotes it can be read."""
    path = written(tmp_path, 'plot,note\n1,"wet\n2,dry\n')
    with opened(path, "a.csv") as file:
        settings = file.guess()
        seen = file.picture(settings)
        assert "row 2, column 2: A quote is opened and never closed." in seen.problem
        assert seen.rows[-1] == ["2,dry"]
        settings = settings.model_copy(update={"quote": ""})
        assert not file.picture(settings).problem
        assert rows_in(file.read(settings).table) == [["plot", "note"], ["1", '"wet'], ["2", "dry"]]


def test_the_wrong_encoding_says_where(tmp_path: Path) -> None:
    """A file read as UTF-8 that is not names row and character, and its picture says so too."""
    path = written(tmp_path, b"a,b\n" + b"1,2\n" * 10 + "33,é\n".encode("cp1252"))
    with pytest.raises(UnreadableFile) as refused:
        read(path, "a.csv", Settings())
    assert str(refused.value).startswith("a.csv, row 12, character 4: The file is not UTF-8")
    with opened(path, "a.csv") as file:
        assert "choose another encoding" in file.picture(Settings()).problem
    with pytest.raises(RowTagError, match="does not read the encoding"):
        read(path, "a.csv", Settings(encoding="klingon"))
    assert guess(path, "a.csv").encoding == "cp1252"


@pytest.mark.parametrize(
    ("text", "heads", "records"),
    [
        ("a,b\n", ["a", "b"], 0),
        ("a,b", ["a", "b"], 0),
        ("a\n\n1\n\n", ["a"], 3),
        ("a,b\n\n1,2\n\n", ["a", "b"], 1),
        ("a,b\n1,2\n" + ",\n" * 200_000, ["a", "b"], 1),
    ],
)
def test_headers_and_blank_lines(tmp_path: Path, text: str, heads: list[str], records: int) -> None:
    """A header alone is a table without records; a blank line is an entry only where lines have one entry."""
    path = written(tmp_path, text)
    table = read(path, "a.csv", guess(path, "a.csv")).table
    assert (table.heads, table.records) == (heads, records)


def test_extremes(tmp_path: Path) -> None:
    """2,000 columns, and one entry of 5 MB, are read like anything else."""
    wide = written(tmp_path, "\n".join(",".join(f"{row}{n}" for n in range(2_000)) for row in ("q", 1, 2)))
    holding = read(wide, "wide.csv", guess(wide, "wide.csv"))
    assert len(holding.proposals) == 2_000 and holding.table.records == 2
    large = written(tmp_path, f"a,b\n1,{'x' * 5_000_000}\n2,y\n")
    assert len(table_of(large, Settings())[1][1]) == 5_000_000


def test_heads_that_are_no_names(tmp_path: Path) -> None:
    """Repeated, blank and unfit heads get working names; what stood there becomes the label, and it is said."""
    holding = read(written(tmp_path, "q1,q1,,How old?\n1,2,3,4\n"), "a.csv", Settings())
    assert [(each.tag.name, each.tag.label) for each in holding.proposals] == [
        ("q1", ""),
        ("q1_2", "q1"),
        ("column_3", ""),
        ("How_old", "How old?"),
    ]
    assert holding.table.notes == [
        "“q1” is called q1_2; column 3, which has no name, is called column_3; “How old?” is called How_old"
    ]


def test_long_work_can_be_stopped(tmp_path: Path) -> None:
    """Reading asks again and again whether to go on."""

    def stop(share: float, _doing: str) -> None:
        if share > 0.2:
            raise Cancelled("Stopped.")

    with pytest.raises(Cancelled):
        read(written(tmp_path, "a,b\n1,2\n"), "a.csv", Settings(), stop)


def test_other_endings_are_refused(tmp_path: Path) -> None:
    """A file of another kind is refused with what can be read."""
    for name in ("a.docx", "a.xlsx.gz"):
        with pytest.raises(RowTagError, match="has an ending Row Tag does not read"):
            guess(tmp_path / name, name)
