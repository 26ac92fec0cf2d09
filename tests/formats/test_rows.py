"""Which rows are what: guessed where people put titles, names, wordings, notes and totals, and nowhere else."""

from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rowtag.formats.intake import guess, opened, read
from rowtag.formats.repeating import tables_in
from rowtag.formats.rows import guess_below, guess_heads, texts_of
from rowtag.formats.table import Settings
from tests.formats.books import xlsx

NAMES = ["plot", "tenure", "hours"]
WORDINGS = ["Plot number", "How do you hold your plot?", "Hours on the plot in a usual week"]
DATA = [["F007", "1", "13"], ["F014", "2", "9"], ["F021", "1", "4"], ["F028", "3", "12 hrs"]]
WORDS = [["Own", "north", "yes"], ["Shared", "north", "no"], ["Own", "south", "yes"], ["Own", "south", "no"]]
OPEN = [["F007", "1", "the tap by the gate froze"], ["F014", "2", "more compost bays please do"]] * 3

HEADS = [
    ("names first", [NAMES, *DATA], (1, None, 2)),
    ("names over words", [["tenure", "side", "member"], *WORDS], (1, None, 2)),
    ("words alone", WORDS, (None, None, 1)),
    ("figures alone", [row[1:] for row in DATA[:3]], (None, None, 1)),
    ("a title above", [["Fennel Row 2026"], [], NAMES, *DATA], (3, None, 4)),
    ("names, then wordings", [NAMES, WORDINGS, *DATA], (1, 2, 3)),
    ("wordings, then names", [WORDINGS, NAMES, *DATA], (2, 1, 3)),
    ("wordings for names", [WORDINGS, *DATA], (1, None, 2)),
    ("open answers are no wordings", [["id", "q1", "q2"], *OPEN], (1, None, 2)),
    ("names alone", [NAMES], (1, None, 2)),
    (
        "years among the names",
        [["plot", "rent", "size", "tap", "2024"], *[["F1", "3", "4", "5", "6"]] * 3],
        (1, None, 2),
    ),
    ("answers of two words", [["q1", "q2"], *[["Strongly agree", "Tend to agree"], ["Agree", "Strongly agree"]] * 3],
     (1, None, 2)),
    ("different answers of two words", [["q1", "q2"], ["Very wet", "Too cold"], ["Quite dry", "Rather warm"]],
     (1, None, 2)),
    ("sparse records under a title", [["Fennel Row"], list("abcdefgh"), *[["F1", "2"]] * 6], (2, None, 3)),
    ("remarks of as many cells, a blank row between",
     [["Fennel Row"], ["Made on", "2026-10-01", "by the wardens"], ["Filter:", "gate = North", "let = yes"], [], NAMES,
      *DATA], (5, None, 6)),
    ("remarks right above", [["Plots of the year"], ["Made", "2026-10-01 10:22"], ["Filter", "gate = North", "let = 1"],
     NAMES, *DATA], (4, None, 5)),
    ("strays in the first records", [NAMES, ["F1", "own", "9"], ["F2", "shared", "8"], ["F3", "own", "7"], *DATA],
     (1, None, 2)),
    ("words, a blank row below the names", [["tenure", "side", "member"], [], *WORDS, *WORDS], (1, None, 2)),
    ("words, a blank row among the records", [["tenure", "side", "member"], *WORDS, [], *WORDS, *WORDS], (1, None, 2)),
    ("words under remarks", [["Made by", "the wardens"], [], ["tenure", "side", "member", "x"],
     *[[*row, "y"] for row in WORDS * 2]], (3, None, 4)),
    ("names with a blank one first", [["", "tenure", "hours"], *DATA], (1, None, 2)),
    ("a title, names, wordings", [["Survey"], NAMES, WORDINGS, *DATA], (2, 3, 4)),
]  # fmt: skip


@pytest.mark.parametrize(("rows", "expected"), [case[1:] for case in HEADS], ids=[case[0] for case in HEADS])
def test_heads(rows: list[list[str]], expected: tuple[int | None, int | None, int]) -> None:
    """Where names, wordings and data stand."""
    heads = guess_heads(rows)
    assert (heads.names_row, heads.wordings_row, heads.data_row) == expected


FOOTS = [
    ("nothing", [], 0),
    ("an interview broken off", [["F035", "", ""]], 0),
    ("a total", [["Total", "7", "26"]], 1),
    ("a total set apart", [["", "", ""], ["Total", "7", "26"]], 1),
    ("a source", [["Source: the committee's files", "", ""]], 1),
    ("a long remark", [["Entered by hand in the site hut in May", "", ""]], 1),
    ("remarks behind a blank row", [["", "", ""], ["checked", "", ""], ["twice", "", ""]], 2),
    ("a total and remarks", [["Sum", "7", "26"], [], ["n = 4"], ["see the sheet"]], 3),
    ("a record without figures", [["F035", "n/a", "NA"]], 0),
    ("a record of strays", [["F035", "own", "refused"]], 0),
    ("a broken-off one before the total", [["F035", "", ""], ["Total", "7", "26"]], 1),
]


@pytest.mark.parametrize(("foot", "below"), [case[1:] for case in FOOTS], ids=[case[0] for case in FOOTS])
def test_what_stands_below(foot: list[list[str]], below: int) -> None:
    """Notes and totals below a table are told from records, incomplete ones too."""
    assert guess_below(DATA, DATA[-2:] + foot) == below


@pytest.mark.parametrize(
    ("row", "below"),
    [
        (["Printed", "in October", "page", "1"], 1),
        (["North = new gate", "South = old gate", "", ""], 1),
        (["unknown", "North", "4", "9"], 0),
        (["104b", "North", "refused", "refused"], 0),
        (["n/a", "North", "refused", "refused"], 0),
        (["104", "North", "refused", "refused"], 0),
    ],
)
def test_words_where_rows_are_numbered(row: list[str], below: int) -> None:
    """As many cells as a record, but no number of one and hardly a figure: that is said below. Strays are data."""
    head = [[str(100 + at), "North" if at % 2 else "South", str(at % 3), str(at % 4)] for at in range(12)]
    assert guess_below(head, [*head[-3:], row]) == below


ROWS = st.lists(
    st.lists(st.sampled_from(["", " ", "a", "7", "n/a", "gate = North", "Filter:", "two words"]), max_size=4)
)


@given(ROWS, ROWS)
def test_any_rows_at_all(head: list[list[str]], foot: list[list[str]]) -> None:
    """Blank, ragged or of one word: heads stand above the data, within the rows, and tables on the sheet."""
    found = guess_heads(head)
    heads = {row for row in (found.names_row, found.wordings_row) if row is not None}
    assert all(1 <= row < found.data_row for row in heads)
    assert found.data_row <= len(head) + 1 or not any(cell.strip() for row in head for cell in row)
    assert 0 <= guess_below(head, foot) <= len(foot)
    assert all(0 <= block.top < block.bottom <= len(head) for block in tables_in(head))


def test_narrow_tables_have_no_foot() -> None:
    """Where rows hold one or two entries, nothing can be told to be a note."""
    assert guess_below([["Own"], ["Shared"]], [["Own"], ["Total"]]) == 0


MESSY = "Fennel Row 2026;;\n\nplot;size;rent\nPlot number;How large is it?;Rent paid\n"
MESSY += "F007;106,7;£ 38,50\nF014;;£ 41,00\n;;\nF021;160,9;n/a\n\nTotal;267,6;\nSource: the committee\n"


@pytest.mark.parametrize("kind", ["csv", "xlsx"])
def test_a_messy_table(tmp_path: Path, kind: str) -> None:
    """Title, wordings, blank rows, total and source are told; what was left out is said and can be taken back."""
    path = tmp_path / f"messy.{kind}"
    if kind == "xlsx":
        from tests.formats.books import xlsx

        xlsx(path, {"Data": [line.split(";") for line in MESSY.splitlines()]})
    else:
        path.write_text(MESSY)
    with opened(path, path.name) as file:
        settings = file.guess()
        holding = file.read(settings)
        table = holding.table
        assert texts_of(table.columns[:1], 0, table.records) == [["F007"], ["F014"], ["F021"]]
        assert table.notes == ["1 blank row among the data left out", "2 rows below the data left out"]
        assert [row[0] for row in table.foot[-2:]] == ["Total", "Source: the committee"]
        assert [each.tag.question for each in holding.proposals] == ["Plot number", "How large is it?", "Rent paid"]
        assert [each.tag.name for each in holding.proposals] == ["plot", "size", "rent"]
        again = table.settings.model_copy(update={"rows_below": 1, "blank_rows": "keep"})
        firsts = [row[0] for row in texts_of(file.read(again).table.columns[:1], 0, 99)]
        assert [first for first in firsts if first] == ["F007", "F014", "F021", "Total"]


def test_rows_below_are_counted_from_the_end(tmp_path: Path) -> None:
    """Any number of rows at the end can be left out, also where they hold line breaks."""
    path = tmp_path / "a.csv"
    path.write_text('a,b\n1,2\n3,4\n5,"x\ny"\n7,8\n\n')
    for below, records in ((0, 4), (1, 3), (2, 2), (9, 0)):
        settings = Settings(rows_below=below)
        table = read(path, "a.csv", settings).table
        assert (table.records, table.settings.rows_below) == (records, min(below, 4))


@pytest.mark.parametrize("text", ["1,2\n3,4\n", "5;x\n5;y\n"])
def test_no_names_in_the_file(tmp_path: Path, text: str) -> None:
    """Without a row of names every row is a record, and columns get names of their own."""
    path = tmp_path / "a.csv"
    path.write_text(text)
    holding = read(path, "a.csv", guess(path, "a.csv"))
    assert [each.tag.name for each in holding.proposals] == ["column_1", "column_2"]
    assert holding.table.records == 2


TABLE = [[f"F{number:03d}", str(number % 3 + 1), str(number % 7)] for number in range(1, 30)]


@pytest.mark.parametrize(
    ("rows", "below"),
    [
        ([*TABLE, ["Printed on Monday", "", ""]], 1),
        ([*TABLE, ["", "", ""], ["Kept by", "the committee", "of 2026"], ["Seen by", "two", "members"]], 2),
        ([*TABLE, ["F099", "", ""]], 0),
        ([*TABLE, ["F099", "n/a", ""]], 0),
        ([*(row[:2] for row in TABLE), ["Total", "58"], ["Source: the list", ""]], 2),
        ([[row[0]] for row in TABLE] + [["Total"]], 0),
    ],
)
def test_the_block_ends_where_its_kind_ends(rows: list[list[str]], below: int) -> None:
    """Notes below the data are none of it, in whatever words, in tables of two columns too; a record broken off is."""
    assert guess_below(rows[:20], rows[-10:]) == below


@pytest.mark.parametrize("order", [("Read me", "Variables", "Data"), ("Data", "Variables", "Read me")])
def test_the_sheet_with_the_table(tmp_path: Path, order: tuple[str, ...]) -> None:
    """Neither a sheet of lines of text is proposed nor one that describes the columns, wherever they stand."""
    sheets = {
        "Read me": [["The plots of 2026"], ["Please ask the committee"], [], ["Kept since spring"]],
        "Variables": [["name", "label", "codes"], *([name, f"About {name}", "1 = a; 2 = b"] for name in NAMES)] * 9,
        "Data": [NAMES, *DATA],
    }
    path = xlsx(tmp_path / "book.xlsx", {name: [list(row) for row in sheets[name]] for name in order})
    assert guess(path, "book.xlsx").sheet == "Data"
