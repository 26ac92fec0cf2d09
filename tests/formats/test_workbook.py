"""Workbooks: each cell becomes the entry a person would see, whatever the archive looks like inside."""

import re
import zipfile
from datetime import date, datetime, time, timedelta
from pathlib import Path
from typing import Any

import pytest
import xlsxwriter
from hypothesis import given
from hypothesis import strategies as st

from rowtag.core.errors import BadInput, NotThere, RowTagError, TooLarge, UnreadableFile
from rowtag.formats import reach, sheetxml, workbook
from rowtag.formats.intake import column_id, guess, opened, read
from rowtag.formats.rows import texts_of
from rowtag.formats.table import Settings, Table
from rowtag.formats.workbook import columns_of_rows, entry_of
from tests.formats.books import changed, ods, without, xls, xlsx

CELLS = [
    (7.0, "7"),
    (3, "3"),
    (-0.0, "0"),
    (0.1 + 0.2, "0.3"),
    (1e-7, "0.0000001"),
    (123456789012345.0, "123456789012345"),
    (2.5, "2.5"),
    (float("inf"), "inf"),
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


@given(st.lists(cells, min_size=1, max_size=20))
def test_columns_keep_cells_apart(values: list[object]) -> None:
    """TRUE and 1, 7 and "7": a column gives each cell its own entry."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(workbook, "_BLOCK", 3)
        one, other = columns_of_rows([[value, "x"] for value in values])
    assert one.texts_at(one.indexes(0, len(values))) == [entry_of(value) for value in values]
    assert other.texts_at(other.indexes(0, 1)) == ["x"]


def rows_in(table: Table) -> list[list[str]]:
    return [table.heads, *texts_of(table.columns, 0, table.records)]


def all_rows(path: Path, **settings: object) -> list[list[str]]:
    """Every row of the first sheet (or of what settings choose)."""
    given = Settings.model_validate({"kind": "workbook", "names_row": None, "blank_rows": "keep", **settings})
    return rows_in(read(path, path.name, given).table)[1:]


texts = st.text(
    st.characters(codec="utf-8", exclude_categories=["Cs", "Cc"]) | st.sampled_from(" <&é"), min_size=1, max_size=8
)
rows = st.lists(
    st.tuples(
        texts,
        st.integers(-(10**9), 10**9) | st.decimals(-9_999, 9_999, places=2).map(float),
        st.dates(date(1901, 1, 1)),
    ),
    min_size=1,
    max_size=5,
)


@given(rows, st.sampled_from([".xlsx", ".ods"]))
def test_round_trip(tmp_path_factory: pytest.TempPathFactory, rows: list[tuple[str, float, date]], ending: str) -> None:
    """Texts, numbers and dates written to a sheet come back the same."""
    path = tmp_path_factory.mktemp("book") / f"a{ending}"
    table = [["text", "number", "day"], *map(list, rows)]
    if ending == ".ods":
        ods(path, table)
    else:
        with xlsxwriter.Workbook(str(path), {"strings_to_formulas": False, "strings_to_urls": False}) as book:
            sheet = book.add_worksheet()
            sheet.write_row(0, 0, table[0])
            for number, (text, amount, day) in enumerate(rows, 1):
                sheet.write_string(number, 0, text)
                sheet.write_number(number, 1, amount)
                sheet.write_datetime(number, 2, day, book.add_format({"num_format": "yyyy-mm-dd"}))
    assert all_rows(path)[1:] == [[text, entry_of(float(amount)), day.isoformat()] for text, amount, day in rows]


# Cells that are easily lost ---------------------------------------------------------------------


def special(path: Path, **options: object) -> Path:
    """A sheet of cells that readers trip over."""
    with xlsxwriter.Workbook(str(path), options) as book:
        sheet = book.add_worksheet("Data")
        sheet.write_row(0, 0, ["day", "span", "clock", "formula", "error"])
        sheet.write_datetime(1, 0, datetime(2026, 5, 3), book.add_format({"num_format": "d mmm yy"}))
        sheet.write_number(1, 1, 1.25, book.add_format({"num_format": "[h]:mm"}))
        sheet.write_number(1, 2, 0.5, book.add_format({"num_format": "hh:mm"}))
        sheet.write_formula(1, 3, "=1+2", None, 3)
        sheet.write_formula(1, 4, "=1/0", None, "#DIV/0!")
        sheet.merge_range(2, 0, 2, 2, "both")
        sheet.write_formula(2, 4, "=NA()", None, "#N/A")
    return path


@pytest.mark.parametrize("since_1904", [False, True])
def test_cells_that_are_easily_lost(tmp_path: Path, since_1904: bool) -> None:
    """Dates in either system, times beyond a day, values of formulas, error cells; merged cells give text once."""
    path = special(tmp_path / "a.xlsx", date_1904=since_1904)
    assert all_rows(path)[1:] == [
        ["2026-05-03", "30:00:00", "12:00:00", "3", "#DIV/0!"],
        ["both", "", "", "", "#N/A"],
    ]


def test_error_cells_are_strays(tmp_path: Path) -> None:
    """An error cell among numbers is an entry that does not fit, not a blank."""
    path = special(tmp_path / "a.xlsx")
    holding = read(path, "a.xlsx", guess(path, "a.xlsx"))
    assert holding.study.fill(column_id(5)).blank == 0
    error = (
        '<table:table-cell office:value-type="string" office:string-value="" calcext:value-type="error">'
        "<text:p>#DIV/0!</text:p></table:table-cell>"
    )
    path = ods(tmp_path / "a.ods", [["plot", "size"], [1, 2], [2, error], [3, 4]])
    assert all_rows(path) == [["plot", "size"], ["1", "2"], ["2", "#DIV/0!"], ["3", "4"]]


@pytest.mark.parametrize("stored", ["A1:A1", "A1:XFD1048576", "C7:D9"])
def test_a_wrong_stored_size_changes_nothing(tmp_path: Path, stored: str) -> None:
    """What a sheet says of its own size is not believed."""
    path = special(tmp_path / "a.xlsx")
    expected = all_rows(path)
    size = re.compile(rb'<dimension ref="[^"]*"/>')
    changed(path, lambda part, data: size.sub(b'<dimension ref="%s"/>' % stored.encode(), data))
    assert all_rows(path) == expected


@pytest.mark.parametrize(
    "part",
    ["docProps/app.xml", "xl/theme/theme1.xml", "[Content_Types].xml", "_rels/.rels", "xl/_rels/workbook.xml.rels"],
)
def test_an_archive_that_lacks_a_part_still_gives_its_cells(tmp_path: Path, part: str) -> None:
    """Parts that only describe the others can be missing."""
    path = xlsx(tmp_path / "a.xlsx", {"One": [["plot", "size"], ["007", 2.5]], "Two": [["x"], [1]]})
    expected = all_rows(path)
    without(path, part)
    assert all_rows(path) == expected
    assert all_rows(path, sheet="Two") == [["x"], ["1"]]


def test_lost_texts_are_said(tmp_path: Path) -> None:
    """Without the part of all texts numbers still come; each text shows that it is lost, and a note says so."""
    path = xlsx(tmp_path / "a.xlsx", {"One": [["plot", "size"], ["007", 2.5]]})
    without(path, "xl/sharedStrings.xml")
    table = read(path, "a.xlsx", Settings(kind="workbook", names_row=None)).table
    assert rows_in(table)[1:] == [["#LOST!", "#LOST!"], ["#LOST!", "2.5"]]
    assert table.notes[0] == "The workbook lacks xl/sharedStrings.xml (its texts)"


def test_older_workbooks(tmp_path: Path) -> None:
    """An older workbook is read by the same reader, to the same entries."""
    path = xls(tmp_path / "a.xls", [["plot", "size"], ["007", 2.5], ["008", 3.0]])
    holding = read(path, "a.xls", guess(path, "a.xls"))
    assert rows_in(holding.table) == [["plot", "size"], ["007", "2.5"], ["008", "3"]]


# Sheets and ranges ------------------------------------------------------------------------------


def test_sheets(tmp_path: Path) -> None:
    """The first sheet that holds anything is taken; another can be chosen; an unknown one is refused."""
    path = xlsx(tmp_path / "a.xlsx", {"Cover": [], "Data": [["q1"], [1], [2]], "More": [["q2"], [5]]})
    settings = guess(path, "a.xlsx")
    assert settings.sheet == "Data" and read(path, "a.xlsx", settings).table.records == 2
    assert read(path, "a.xlsx", Settings(kind="workbook", sheet="More")).table.heads == ["q2"]
    with pytest.raises(NotThere, match="Sheets: Cover, Data, More"):
        read(path, "a.xlsx", Settings(kind="workbook", sheet="None"))
    with pytest.raises(UnreadableFile, match="This sheet is empty"):
        read(path, "a.xlsx", Settings(kind="workbook", sheet="Cover"))


RANGES = [
    ("B2:C3", [["b2", "c2"], ["b3", "c3"]]),
    ("b:b", [["b1"], ["b2"], ["b3"]]),
    ("2:3", [["a2", "b2", "c2"], ["a3", "b3", "c3"]]),
    ("$B$3:Z99", [["b3", "c3"]]),
]


@pytest.mark.parametrize(("range", "expected"), RANGES)
def test_ranges(tmp_path: Path, range: str, expected: list[list[str]]) -> None:
    """A range of cells, of columns or of rows; what lies beyond the sheet is no row."""
    path = xlsx(tmp_path / "a.xlsx", {"S": [[f"{letter}{row}" for letter in "abc"] for row in (1, 2, 3)]})
    assert all_rows(path, range=range) == expected
    with opened(path, "a.xlsx") as file:
        seen = file.picture(Settings(kind="workbook", range=range))
        assert seen.rows == expected and seen.first_row == int(expected[0][0][1])


@pytest.mark.parametrize(
    ("range", "sentence"),
    [
        ("E1:F9", "The range E1:F9 lies outside the sheet, which goes to C3."),
        ("A7:C9", "The range A7:C9 lies outside the sheet, which goes to C3."),
        ("C3:A1", "“C3:A1” is no range of cells."),
        ("everything", "“everything” is no range of cells."),
    ],
)
def test_ranges_that_cannot_be(tmp_path: Path, range: str, sentence: str) -> None:
    """A range outside the sheet, or none at all, is refused with what would do."""
    path = xlsx(tmp_path / "a.xlsx", {"S": [[1, 2, 3]] * 3})
    with pytest.raises(BadInput) as refused:
        all_rows(path, range=range)
    assert refused.value.what == sentence and refused.value.remedy


def test_a_table_in_the_middle_of_a_sheet(tmp_path: Path) -> None:
    """Blank rows above and blank columns beside a table are no records and no variables; the picture shows them."""
    blank = [""] * 5
    table = [["", "", "plot", "", "size"], ["", "", "F1", "", 2], ["", "", "F2", "", 3]]
    path = xlsx(tmp_path / "a.xlsx", {"S": [blank, blank, *table]})
    with opened(path, "a.xlsx") as file:
        settings = file.guess()
        assert (settings.names_row, file.picture(settings).rows[2]) == (3, ["", "", "plot", "", "size"])
        holding = file.read(settings)
    assert rows_in(holding.table) == [["plot", "size"], ["F1", "2"], ["F2", "3"]]
    assert holding.table.numbers == [3, 5]
    assert holding.table.notes == ["3 columns without a name or an entry left out"]


def test_several_tables_on_a_sheet(tmp_path: Path) -> None:
    """Tables that stand apart are offered, the largest taken; a gap within one, or a remark, makes no other."""
    plots = [["Plots"], ["plot", "gate", "visits"], *[[f"F{at}", "North", at] for at in range(9)]]
    huts = [["hut", "beds"], *[[f"H{at}", at % 3] for at in range(5)]]
    beside = [
        [*row, *[""] * (4 - len(row)), *other]
        for row, other in zip(plots, [[], *huts, [], [], [], [], []], strict=False)
    ]
    below = [[], ["gate", "opened", "key"], *[[f"G{at}", 1990 + at, "k"] for at in range(4)], [], ["Note: as of May"]]
    path = xlsx(tmp_path / "a.xlsx", {"S": [*beside, *below]})
    with opened(path, "a.xlsx") as file:
        settings = file.guess()
        assert file.picture(settings).tables == ["A2:C11", "E2:F7", "A13:C17"] and settings.range == "A2:C11"
        assert rows_in(file.read(settings).table)[:2] == [["plot", "gate", "visits"], ["F0", "North", "0"]]
        other = file.heads(settings.model_copy(update={"range": "A13:C17"}))
        assert rows_in(file.read(other).table)[1] == ["G0", "1990", "k"]
    one = [
        ["plot", "", "visits"],
        *[[f"F{at}", "", at] for at in range(5)],
        [],
        *[[f"F{at}", "", at] for at in range(9)],
    ]
    with opened(xlsx(tmp_path / "b.xlsx", {"S": one}), "b.xlsx") as file:
        assert file.picture(file.guess()).tables == [] and file.guess().range == ""


def test_a_blank_row_parts_no_table(tmp_path: Path) -> None:
    """Records behind a blank row, with figures or without, with fewer columns filled or not, stay in their table."""
    words = [["tenure", "side", "member"], *[["Own", "north", "yes"]] * 6, [], *[["Shared", "south", "no"]] * 8]
    fewer = [["plot", "gate", "visits"], *[[f"F{at}", "North", at] for at in range(6)], [],
             *[["F9", "", at] for at in range(5)], [], *[["F8", "South", 3]] * 5]  # fmt: skip
    for rows, records in ((words, 14), (fewer, 16)):
        with opened(xlsx(tmp_path / "a.xlsx", {"S": rows}), "a.xlsx") as file:
            settings = file.guess()
            assert settings.range == "" and file.read(settings).table.records == records


# Large ones -------------------------------------------------------------------------------------


def test_first_rows_alone_are_the_same_rows(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """The picture of a large workbook is made from its first bytes, and shows what the whole would show."""
    rows = [["plot", "note", "day"], *([f"F{n:04d}", f"note {n}", date(2026, 1, 1)] for n in range(3_000))]
    path = xlsx(tmp_path / "a.xlsx", {"S": rows, "T": [["x"], [1]]})
    with opened(path, "a.xlsx") as whole:
        expected = [whole.picture(Settings(kind="workbook", sheet=sheet)) for sheet in ("S", "T")]
    monkeypatch.setattr(workbook, "_LARGE", 1)
    monkeypatch.setattr(workbook.CalamineWorkbook, "from_path", None)  # the whole is not opened
    with opened(path, "a.xlsx") as short:
        assert [short.picture(Settings(kind="workbook", sheet=sheet)) for sheet in ("S", "T")] == expected
        assert short.guess().sheet == "S"


def test_a_zip_bomb_is_refused(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """An archive that unpacks to far more than it is, or to more than is allowed, is refused before it is opened."""
    path = xlsx(tmp_path / "a.xlsx", {"S": [["q1"], [1]]})
    monkeypatch.setattr(sheetxml, "_LARGE", 1 << 20)
    with zipfile.ZipFile(path, "a", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("xl/worksheets/sheet9.xml", b"\0" * (8 << 20))
    with pytest.raises(TooLarge, match="would hold 8 MB of almost nothing") as refused:
        guess(path, "a.xlsx")
    assert refused.value.remedy
    monkeypatch.setattr(sheetxml, "MOST_UNPACKED", 4 << 20)
    with pytest.raises(TooLarge, match="4 MB are allowed"):
        guess(path, "a.xlsx")


@pytest.mark.parametrize(
    ("cells", "said"),
    [
        ({(1_048_575, 16_383): "x"}, "1 cell far away, XFD1048576, was left out"),
        ({(1_048_575, 40): "y"}, "1 cell far away, AO1048576, was left out"),
        ({(1_048_575, 40): "x", (5, 16_000): "y"}, "2 cells far away, WQK6, AO1048576, were left out"),
        ({(1_000_000, 701): 7}, "1 cell far away, ZZ1000001, was left out"),
    ],
)
@pytest.mark.parametrize("told", [True, False])
def test_lone_cells_far_away_are_left_out(
    tmp_path: Path, cells: dict[tuple[int, int], object], said: str, told: bool, monkeypatch: pytest.MonkeyPatch
) -> None:
    """One forgotten cell far away would make the sheet too large to hold: it is left out, which is said."""
    monkeypatch.setattr(reach, "MOST_CELLS", 4_000_000)
    path = tmp_path / "a.xlsx"
    with xlsxwriter.Workbook(str(path)) as book:
        sheet = book.add_worksheet("S")
        sheet.write_row(0, 0, ["q1", "q2"])
        for row in range(1, 301):
            sheet.write_row(row, 0, [row, row % 7])
        for (row, column), value in cells.items():
            sheet.write(row, column, value)
    if not told:
        changed(path, lambda _name, xml: re.sub(rb"<dimension[^>]*>", b"", xml))
    table = read(path, "a.xlsx", guess(path, "a.xlsx")).table
    assert said in table.notes
    assert table.records == 300
    assert [column.texts_at(column.indexes(0, 2)) for column in table.columns[:2]] == [["1", "2"], ["1", "2"]]


def blank(times: int, *, rows: bool = False) -> str:
    """A blank cell, or a row of one, that says it is repeated."""
    if rows:
        return f'<table:table-row table:number-rows-repeated="{times}"><table:table-cell/></table:table-row>'
    return f'<table:table-cell table:number-columns-repeated="{times}"/>'


@pytest.mark.parametrize(
    ("more", "said"),
    [
        ([[blank(16_384)], blank(1_048_274, rows=True)], ""),
        ([blank(1_048_274, rows=True), [blank(16_383), "x"]], "1 cell far away, XFD1048576, was left out"),
        ([[blank(16_000), "y"], blank(1_048_273, rows=True), [7, "x"]], "1 cell far away, WQK302, was left out"),
        ([[blank(2_000_000_000), "x"]], "1 cell far away, FLHOMVY302, was left out"),
        ([[1, 2, '<table:table-cell table:number-columns-repeated="2000000000" office:value-type="string">'
              "<text:p>x</text:p></table:table-cell>"]], "1 cell far away, C302, was left out"),
        ([f'<table:table-row table:number-rows-repeated="{10**15}"><table:table-cell office:value-type="string">'
          "<text:p>x</text:p></table:table-cell></table:table-row>"], "1 cell far away"),
    ],
)  # fmt: skip
def test_lone_cells_far_away_in_an_open_document(tmp_path: Path, more: list[list[Any] | str], said: str) -> None:
    """Whatever a sheet says of repeated rows and cells: what lies beyond any data is left out, which is said."""
    path = ods(tmp_path / "a.ods", [["q1", "q2"], *([number, number % 7] for number in range(1, 301)), *more])
    table = read(path, "a.ods", guess(path, "a.ods")).table
    assert any(said in note for note in table.notes) or not said
    assert table.records in (300, 301), "the last row has entries of its own, too, in one of them"
    assert [column.texts_at(column.indexes(0, 2)) for column in table.columns[:2]] == [["1", "2"], ["1", "2"]]


def test_an_open_document_that_is_too_large_throughout(tmp_path: Path) -> None:
    """A rectangle that no few cells make so large is refused with what to do."""
    path = ods(tmp_path / "a.ods", [[blank(16_000), "x"]] * 3_000)
    with pytest.raises(TooLarge, match="reach to column WQK and row 3,000, a rectangle of more than") as refused:
        guess(path, "a.ods")
    assert refused.value.remedy


def test_references_that_no_sheet_can_have(tmp_path: Path) -> None:
    """A cell called ZZZZZZZ1 lies beyond any sheet."""
    path = xlsx(tmp_path / "a.xlsx", {"S": [["q1", "q2"], [1, 2]]})
    changed(path, lambda _name, xml: xml.replace(b'r="B2"', b'r="ZZZZZZZ2"'))
    assert "1 cell far away, ZZZZZZZ2, was left out" in read(path, "a.xlsx", guess(path, "a.xlsx")).table.notes


def test_a_sheet_that_is_too_large_throughout(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """A rectangle that no few cells make so large is refused with what to do."""
    monkeypatch.setattr(reach, "MOST_CELLS", 1_000)
    path = xlsx(tmp_path / "a.xlsx", {"S": [list(range(30)) for _ in range(60)]})
    with pytest.raises(TooLarge, match="reach to column AD and row 60, a rectangle of more than") as refused:
        guess(path, "a.xlsx")
    assert refused.value.remedy


def test_formatted_blank_rows_are_no_records(tmp_path: Path) -> None:
    """Two hundred thousand formatted blank rows below the data cost nothing and are no records."""
    path = tmp_path / "a.xlsx"
    with xlsxwriter.Workbook(str(path), {"constant_memory": True}) as book:
        sheet, bold = book.add_worksheet(), book.add_format({"bold": True})
        sheet.write_row(0, 0, ["plot", "size"])
        sheet.write_row(1, 0, [1, 2])
        for row in range(2, 200_000):
            sheet.write_blank(row, 0, None, bold)
    assert read(path, "a.xlsx", guess(path, "a.xlsx")).table.records == 1


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


def test_a_sheet_of_pictures_is_no_data(tmp_path: Path) -> None:
    """A workbook whose sheets hold only a chart says so."""
    path = tmp_path / "a.xlsx"
    with xlsxwriter.Workbook(str(path)) as book:
        book.add_worksheet().insert_textbox(0, 0, "A drawing")
    with pytest.raises(UnreadableFile, match="No sheet of this workbook holds an entry; pictures and charts"):
        guess(path, "a.xlsx")


@given(st.lists(st.tuples(st.floats(0, 0.9999), st.integers(0, 255)), min_size=1, max_size=8))
def test_damage_never_goes_unsaid(tmp_path_factory: pytest.TempPathFactory, damage: list[tuple[float, int]]) -> None:
    """A workbook with damaged bytes is read or refused with a sentence; nothing else happens."""
    path = special(tmp_path_factory.mktemp("damaged") / "a.xlsx")
    content = bytearray(path.read_bytes())
    for place, byte in damage:
        content[int(place * len(content))] = byte
    path.write_bytes(bytes(content))
    try:
        read(path, "a.xlsx", guess(path, "a.xlsx"))
    except RowTagError as refused:
        assert refused.what
