"""Documents of all kinds are written down as a reader sees them; what is no such document says so."""

import zipfile
from itertools import pairwise
from pathlib import Path

import pytest

from rowtag.core.errors import RowTagError
from rowtag.documents.document import read_codebook, text_of
from tools import made
from tools.made import paragraph, table


def test_a_word_processor_numbers_its_paragraphs(tmp_path: Path) -> None:
    """Numbers, letters and bullets are as they are seen, each list from its own start; headings are headings."""
    body = (
        paragraph("Your plot", heading=True)
        + paragraph("How do you hold it?", number=1)
        + paragraph("Alone", number=2)
        + paragraph("Shared", number=2)
        + paragraph("What grows there?", number=1)
        + paragraph("Beans", number=3)
        + paragraph("Kale", number=3)
        + paragraph("And how long is it?", number=1)
    )
    text = text_of(made.docx(tmp_path / "a.docx", body), "a.docx")
    assert [line.strip() for line in text.splitlines() if line.strip()] == [
        "## Your plot", "Q1\tHow do you hold it?", "1.\tAlone", "2.\tShared", "Q2\tWhat grows there?", "a)\tBeans",
        "b)\tKale", "Q3\tAnd how long is it?",
    ]  # fmt: skip


def test_changes_are_accepted_and_text_boxes_read(tmp_path: Path) -> None:
    """What was deleted is gone, what was inserted is there, a text box is read once, fields show what they show."""
    box = "<w:r><w:drawing><w:txbxContent><w:p><w:r><w:t>In a box</w:t></w:r></w:p></w:txbxContent></w:drawing></w:r>"
    body = (
        "<w:p><w:r><w:t>How long </w:t></w:r><w:del><w:r><w:delText>was</w:delText></w:r></w:del>"
        f"<w:ins><w:r><w:t>is it?</w:t></w:r></w:ins>{box}</w:p>"
        "<w:p><w:pPr><w:rPr><w:del/></w:rPr></w:pPr><w:del><w:r><w:delText>Gone</w:delText></w:r></w:del></w:p>"
        "<w:p><w:r><w:instrText>PAGE</w:instrText></w:r><w:r><w:t>Twelve</w:t></w:r></w:p>"
        "<w:sdt><w:sdtContent><w:p><w:r><w:t>Within a control</w:t></w:r></w:p></w:sdtContent></w:sdt>"
    )
    text = text_of(made.docx(tmp_path / "a.docx", body), "a.docx")
    assert text.split("\n\n") == ["How long is it?", "In a box", "Twelve", "Within a control\n"]


def test_tables_keep_their_cells(tmp_path: Path) -> None:
    """A cell that goes on with the one above is blank; bars within cells do not part them."""
    rows = [["Name", "Code", "Label"], ["tenure", "1", "own | rented"], ["^", "2", "shared"]]
    text = text_of(made.docx(tmp_path / "a.docx", table(rows)), "a.docx")
    assert text.splitlines()[0::2] == ["| Name | Code | Label |", "| tenure | 1 | own \\| rented |"]
    found = read_codebook(tmp_path / "a.docx", "a.docx").variables
    assert [(each.name, [line.label for line in each.parts.codes]) for each in found] == [
        ("tenure", ["own | rented", "shared"])
    ]


def test_open_documents_are_read_alike(tmp_path: Path) -> None:
    """Lists go on where they say so, nested ones count anew; tables and headings are there."""
    item = "<text:list-item><text:p>{}</text:p>{}</text:list-item>"
    nested = f'<text:list text:style-name="M">{item.format("Beans", "")}{item.format("Kale", "")}</text:list>'
    cell = "<table:table-cell><text:p>{}</text:p></table:table-cell>"
    body = (
        '<text:h text:outline-level="2">Plots</text:h>'
        f'<text:list xml:id="a" text:style-name="L">{item.format("What grows?", nested)}</text:list>'
        f'<text:list xml:id="b" text:continue-list="a" text:style-name="L">{item.format("How long?", "")}</text:list>'
        f"<table:table><table:table-row>{cell.format('a')}{cell.format('b')}</table:table-row></table:table>"
    )
    text = text_of(made.odt(tmp_path / "a.odt", body), "a.odt")
    said = [line.strip() for line in text.splitlines() if line.strip()]
    assert said == ["## Plots", "Q1\tWhat grows?", "a)\tBeans", "b)\tKale", "Q2\tHow long?", "| a | b |", "|---|---|"]


def test_rich_text_keeps_tabs(tmp_path: Path) -> None:
    """Columns that tabs part stay apart; letters beyond ASCII are read."""
    path = tmp_path / "a.rtf"
    path.write_text(r"{\rtf1\ansi\ansicpg1252{\b SHED}\tab 4\tab H\'fctte\par 1\tab yes\par}")
    assert text_of(path, "a.rtf") == "SHED\t4\tHütte\n1\tyes\n"


def test_pages_are_read_in_order(tmp_path: Path) -> None:
    """Heads and feet are left out, wrapped lines and parted words are put together, bold names stay bold."""
    long = "the record of the plot holder who filled in the sheet, counted from the first gate of"
    pages = [
        [
            (60, 40, "Fennel Row, codebook", False),
            (60, 100, "id", True), (80, 100, long, False),
            (70, 112, "the allot-", False),
            (60, 140, "ments", False),
            (60, 200, "shed", True), (95, 200, "Has a shed. Codes: 1 = yes; 2 = no.", False),
            (280, 810, "page 1", False),
        ],
        *(
            [(60, 40, "Fennel Row, codebook", False), (60, 100, name, True), (95, 100, said, False),
             (280, 810, f"page {number}", False)]
            for number, name, said in ((2, "water", "Has water."), (3, "gate", "Nearest gate."))
        ),
    ]  # fmt: skip
    text = text_of(made.pdf(tmp_path / "a.pdf", pages), "a.pdf")
    assert "Fennel Row" not in text and "page 1" not in text and "--- page 2 ---" in text
    assert "**shed** Has a shed. Codes: 1 = yes; 2 = no." in text.splitlines()
    found = {each.name: each for each in read_codebook(tmp_path / "a.pdf", "a.pdf").variables}
    assert set(found) == {"id", "shed", "water", "gate"}
    assert [line.label for line in found["shed"].parts.codes] == ["yes", "no"]


def test_ruled_rows_are_a_table(tmp_path: Path) -> None:
    """Rules between rows tell where its columns begin, though none stands between these."""
    columns = [60, 140, 300, 500]
    rows = [
        ["Name", "Label", "Values"],
        ["tenure", "How held", "1 own / 2 shared"],
        ["shed", "Has a shed", "1 yes / 2 no"],
    ]
    words = [
        (x + 4, 100 + 20 * y, cell, False) for y, row in enumerate(rows) for x, cell in zip(columns, row, strict=False)
    ]
    rules = [(a, 86 + 20 * y, b, 86 + 20 * y) for y in range(4) for a, b in pairwise(columns)]
    found = read_codebook(made.pdf(tmp_path / "a.pdf", [words], rules), "a.pdf").variables
    assert [(each.name, each.parts.label, [line.label for line in each.parts.codes]) for each in found] == [
        ("tenure", "How held", ["own", "shared"]),
        ("shed", "Has a shed", ["yes", "no"]),
    ]


def test_forms_tell_their_fields(tmp_path: Path) -> None:
    """Names and codes come from the fields of a form; nothing in the page is run or fetched."""
    path = tmp_path / "form.html"
    path.write_text(
        """<html><script>document.write("no")</script><body><form>
        <fieldset><legend>Do you have a shed?</legend>
        <label><input type="radio" name="shed" value="1"> Yes</label>
        <label><input type="radio" name="shed" value="0"> No</label>
        </fieldset><p><label for="y">Year</label><input type="number" name="since" id="y" min="1950" max="2026"></p>
        <p><label for="g">Gate</label><select name="gate" id="g"><option value="">choose</option>
        <option value="N">North</option><option value="M">Mill</option></select></p>
        <table><tr><th></th><th>Bad</th><th>Good</th></tr><tr><th>Water</th>
        <td><input type="radio" name="w" value="1"></td><td><input type="radio" name="w" value="2"></td></tr></table>
        <img src="http://203.0.113.1/x.png"></form></body></html>"""
    )
    found = {each.name: each.parts for each in read_codebook(path, "form.html").variables}
    assert {name: [(line.code, line.label) for line in parts.codes] for name, parts in found.items()} == {
        "shed": [("1", "Yes"), ("0", "No")], "since": [], "gate": [("N", "North"), ("M", "Mill")],
        "w": [("1", "Bad"), ("2", "Good")],
    }  # fmt: skip
    assert (found["since"].limits.low, found["since"].limits.high) == ("1950", "2026")
    assert found["shed"].label == "Do you have a shed?"


YAML = """
study: Fennel Row
variables:
  tenure:
    label: How held
    values: {1: own, 2: shared, 9: no answer}
  length:
    description: Length of the fence
    range: [0, 400]
    missing: [999]
"""
TOML = """
[[column]]
name = "tenure"
label = "How held"
values = [[1, "own"], [2, "shared"], [9, "no answer"]]
[[column]]
name = "length"
label = "Length of the fence"
min = 0
max = 400
missing = [999]
"""
JSON = """
{"fields": {
  "tenure": {"label": "How held", "codes": [{"value": 1, "label": "own"}, {"value": 2, "label": "shared"},
    {"value": 9, "label": "no answer"}]},
  "length": {"meaning": "Length of the fence", "range": "0 to 400", "missing": "999"}
}}
"""


@pytest.mark.parametrize(("name", "text"), [("a.yaml", YAML), ("a.toml", TOML), ("a.json", JSON)])
def test_trees_of_keys(tmp_path: Path, name: str, text: str) -> None:
    """Variables in trees of keys and values, whatever their keys are called."""
    path = tmp_path / name
    path.write_text(text)
    found = {each.name: each.parts for each in read_codebook(path, name).variables}
    assert [found[name].label for name in ("tenure", "length")] == ["How held", "Length of the fence"]
    assert [(line.code, line.label) for line in found["tenure"].codes] == [("1", "own"), ("2", "shared")]
    assert [line.reason for line in found["tenure"].missing] == ["no answer"]
    assert (found["length"].limits.low, found["length"].limits.high) == ("0", "400")
    assert [line.code for line in found["length"].missing] == ["999"]


def _bomb(path: Path) -> None:
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive, archive.open("word/document.xml", "w") as part:
        for _ in range(80):
            part.write(bytes(1 << 20))


def _broken(path: Path) -> None:
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr("word/document.xml", "<w:document><w:body>")


def _declaring(path: Path) -> None:
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr("word/document.xml", '<!DOCTYPE a [<!ENTITY b "c">]><a>&b;</a>')


@pytest.mark.parametrize(
    ("name", "make", "said"),
    [
        ("a.docx", lambda path: path.write_bytes(b"\x89PNG\r\n\x1a\n" + bytes(200)), "cannot be unpacked"),
        ("a.docx", _bomb, "would unpack to"),
        ("a.docx", _broken, "is damaged"),
        ("a.docx", _declaring, "declares entities"),
        ("a.odt", lambda path: made.docx(path, ""), "no document of a word processor"),
        ("a.rtf", lambda path: path.write_text("no"), "no rich text"),
        ("a.pdf", lambda path: path.write_bytes(b"%PDF-1.4\n" + b"x" * 500), "is damaged"),
        ("a.pdf", lambda path: made.pdf(path, [[]]), "hold pictures of text"),
        ("a.pdf", lambda path: made.pdf(path, [[(60, 60, "x", False)]] * 1_001), "1,001 pages"),
        (
            "a.doc",
            lambda path: path.write_bytes(b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1" + bytes(600)),
            "older word processor",
        ),
    ],
)
def test_what_is_no_such_document_says_so(tmp_path: Path, name: str, make: object, said: str) -> None:
    """One sentence: what, where, what to do."""
    path = tmp_path / name
    make(path)  # type: ignore[operator]
    with pytest.raises(RowTagError) as refused:
        read_codebook(path, name)
    assert said in refused.value.what and refused.value.remedy
