"""Codebooks as files: tables, workbooks, open standards; what cannot be one is refused with a sentence."""

import json
from pathlib import Path

import pytest
import xlsxwriter

from rowtag.core.codebook import Described
from rowtag.core.errors import RowTagError
from rowtag.core.tag import CodeLine, Limits, MissingLine
from rowtag.documents import document
from rowtag.documents.document import read_codebook
from rowtag.service.codebook import check_under

DDI = """<?xml version="1.0"?>
<codeBook xmlns="ddi:codebook:2_5"><dataDscr>
 <var ID="V1" name="tenure" nature="nominal" dcml="0"><location width="2"/><labl>How the plot is held</labl>
  <qstn><qstnLit>How do you hold
    your plot?</qstnLit></qstn>
  <invalrng><item VALUE="-7"/></invalrng>
  <catgry><catValu>1</catValu><labl>In my own name</labl></catgry>
  <catgry missing="Y"><catValu>-9</catValu><labl>Refused</labl></catgry>
  <varFormat type="numeric"/></var>
 <var ID="V2" name="hours"><labl>Hours</labl><valrng><range min="0" max="80"/></valrng></var>
</dataDscr></codeBook>"""
TRIPLE_S = """<sss version="2.0"><survey><record ident="A">
 <variable ident="1" type="single"><name>tenure</name><label>How the plot is held</label>
  <values><value code="1">In my own name</value><value code="-9">Refused</value></values></variable>
 <variable ident="2" type="quantity"><name>hours</name><label>Hours</label>
  <values><range from="0" to="80"/></values></variable>
</record></survey></sss>"""
PACKAGE = {
    "resources": [
        {
            "schema": {
                "fields": [
                    {
                        "name": "tenure", "title": "How the plot is held", "type": "integer",
                        "categories": [{"value": 1, "label": "In my own name"}],
                        "missingValues": ["", {"value": "-9", "label": "Refused"}],
                    },
                    {"name": "hours", "title": "Hours", "constraints": {"minimum": 0, "maximum": 80}},
                ]
            }
        }
    ]
}  # fmt: skip
CSVW = {
    "@context": "http://www.w3.org/ns/csvw",
    "tableSchema": {
        "columns": [
            {"name": "tenure", "titles": {"en": "How the plot is held"}, "null": ["", "-9"], "datatype": "integer"},
            {"titles": "hours", "datatype": {"base": "decimal", "minimum": "0", "maximum": "80"}},
        ]
    },
}
WIDE = "Variable;Description;Codes;Missing values;Minimum;Maximum\n" \
       "tenure;How the plot is held;1 = In my own name, 2 = Shared;-9 = refused;;\nhours;Hours;;;0;80\n"  # fmt: skip
LONG = "name,code,label\ntenure,1,In my own name\n,2,Shared\n,-9,refused\nletter,Y,Subscribed\nletter,N,Not\n"


def read(folder: Path, name: str, content: str | bytes) -> dict[str, Described]:
    path = folder / name
    path.write_bytes(content if isinstance(content, bytes) else content.encode())
    return {each.name: each for each in read_codebook(path, name).variables}


@pytest.mark.parametrize(
    ("name", "content"),
    [
        ("a.xml", DDI), ("b.xml", TRIPLE_S), ("c.json", json.dumps(PACKAGE)), ("d.json", json.dumps(CSVW)),
        ("e.csv", WIDE),
        ("f.txt", "tenure\n  \"How the plot is held\"\n  1  In my own name\n  -9  Refused  missing: refused\n\n"
                  "hours\n  \"Hours\"\n  limits 0 .. 80\n"),
        ("g.md", "- `tenure`: How the plot is held (1 = In my own name, -9 = Refused)\n- `hours`: Hours (0 to 80)\n"),
    ],
)  # fmt: skip
def test_one_codebook_in_many_forms(tmp_path: Path, name: str, content: str) -> None:
    """Label, code, missing code and limits are the same from every form that can say them."""
    found = read(tmp_path, name, content)
    assert list(found) == ["tenure", "hours"]
    tenure, hours = found["tenure"].parts, found["hours"].parts
    assert hours.limits == Limits(low="0", high="80")
    assert [line.code for line in tenure.missing if line.code == "-9"] == ["-9"]
    assert tenure.label == "How the plot is held"
    if name != "d.json":
        assert tenure.codes[0] == CodeLine(code="1", label="In my own name")
        assert [line.reason for line in tenure.missing if line.code == "-9"] == ["refused"]


def test_what_only_ddi_says(tmp_path: Path) -> None:
    """Wording, level, type, width and invalid values come with it."""
    parts = read(tmp_path, "a.xml", DDI)["tenure"].parts
    assert (parts.question, parts.level, parts.type, parts.width) == (
        "How do you hold your plot?",
        "nominal",
        "integer",
        2,
    )
    assert MissingLine(code="-7") in parts.missing


def test_one_row_per_code(tmp_path: Path) -> None:
    """A name that is repeated or left out below stands for several rows."""
    found = read(tmp_path, "long.csv", LONG)
    assert [line.label for line in found["tenure"].parts.codes] == ["In my own name", "Shared"]
    assert found["tenure"].parts.missing == (MissingLine(code="-9", label="refused", reason="refused"),)
    assert [line.code for line in found["letter"].parts.codes] == ["Y", "N"]
    assert found["tenure"].lines == (2, 4)


def test_a_workbook_whose_codebook_is_on_another_sheet(tmp_path: Path) -> None:
    """The first sheet that describes variables is taken."""
    with xlsxwriter.Workbook(str(tmp_path / "book.xlsx")) as book:
        book.add_worksheet("Data").write_row(0, 0, ["tenure", "hours"])
        sheet = book.add_worksheet("Codebook")
        sheet.write_row(0, 0, ["Name", "Label", "Values"])
        sheet.write_row(1, 0, ["tenure", "How held", "1 = own\n2 = shared"])
    (tenure,) = read_codebook(tmp_path / "book.xlsx", "book.xlsx").variables
    assert [line.label for line in tenure.parts.codes] == ["own", "shared"]


@pytest.mark.parametrize(
    ("name", "content", "said"),
    [
        ("a.txt", b"\x89PNG\r\n\x1a\n" + b"\0" * 50, "begins like a picture"),
        ("a.xml", "<!DOCTYPE a [<!ENTITY b 'x'><!ENTITY c '&b;&b;'>]><codeBook>&c;</codeBook>", "declares entities"),
        ("a.xml", "<codeBook><var", "This is no XML"),
        ("a.xml", "<html/>", "the document is “html”"),
        ("a.json", "{", "This is no JSON"),
        ("a.json", "{}", "No variables are described here"),
        ("a.json", "[1, 2]", "No variables are described here"),
        ("a.txt", "", "The file is empty"),
    ],
)  # fmt: skip
def test_what_is_no_codebook(tmp_path: Path, name: str, content: str | bytes, said: str) -> None:
    """A sentence says what it is instead."""
    with pytest.raises(RowTagError, match=said):
        read(tmp_path, name, content)


def test_too_long_a_document(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Nobody waits for a document that no codebook is as long as."""
    monkeypatch.setattr(document, "MOST_TEXT", 100)
    with pytest.raises(RowTagError, match="a codebook of up to 0 MB is read"):
        read(tmp_path, "a.txt", "x - y\n" * 50)


def test_shared_lists_reach_their_variables() -> None:
    """Codebook text that says a list once gives its codes to every variable that uses it."""
    found = document.understand('list: yn\n  1 yes\n  0 no\nshed\n  "Has a shed"\n  codes: yn\n').variables
    assert [(line.code, line.label) for line in found[0].parts.codes] == [("1", "yes"), ("0", "no")]


def test_a_slip_in_codebook_text_is_told() -> None:
    """With its line, where nothing else can be made of the text; prose in which nothing is found is no slip."""
    with pytest.raises(RowTagError) as told:
        document.understand('shed\n  "Has a shed\n  codes: 1 yes\n  level: wrong\n')
    assert "row 2" in str(told.value)
    assert not document.understand("Thank you for coming.\nWe begin at 7.\n").variables


def test_a_slip_among_tags_is_told_whatever_the_study() -> None:
    """Also where the lines could be read as prose about variables of the study at hand."""
    text = "job  integer\n  1 yes\n  2 no\n\ngate 2  nominal\n  1 North\n\nhut  text\n  a alone\n"
    for known in ((), ("job", "hut")):
        with pytest.raises(RowTagError) as told:
            document.understand(text, known)
        assert "row 5, character 6" in str(told.value)


@pytest.mark.parametrize(
    ("text", "where"),
    [
        ("hours  ratio  decimal 5.1\n   1  One\n  -9  Refused  missing: refuse\n", "row 3, character 25"),
        ("hours ratio decimal 5.1\n  1 One || 2\n\nThat is all.\nAnd this, too.\n", "row 2, character 10"),
        ("One\nTwo\nhours  integer\n  1  One\n -9  Refused  missing: refused\n\njob\n  1 a || yes\n", "row 8"),
        ("site_1, site_2  ordinal  battery: site\n  1 Poor | 2\n  limits 1 .. x y\n", "row 3"),
    ],
)
def test_what_begins_like_tags_is_never_read_as_prose(text: str, where: str) -> None:
    """Tags at the margin with parts beneath are codebook text; a slip is told with line and character, however few they
    are, whatever stands around them, and even where something could be made of it as prose."""
    with pytest.raises(RowTagError) as told:
        document.understand(text)
    assert where in str(told.value)


def test_missing_codes_are_read_by_every_python() -> None:
    """A code with a reason is a missing code, not one with a longer label."""
    text = 'hours  ratio  decimal 5.1\n   1  One\n  -9  Refused  missing: refused\n .. -10 | 9 "a|b" missing: other\n'
    (found,) = document.understand(text).variables
    assert [(line.code, line.label) for line in found.parts.codes] == [("1", "One"), (None, "")]
    assert [(line.code, line.label, line.reason) for line in found.parts.missing] == [
        ("-9", "Refused", "refused"), ("9", "a|b", "other"),
    ]  # fmt: skip


@pytest.mark.parametrize(
    ("again", "codes", "sure"),
    [
        ("  b both\n", ["a", "b"], True),
        ("  a alone\n", ["a"], True),
        ("  a all\n  b both\n", ["a"], False),
    ],
)
def test_a_name_described_twice(again: str, codes: list[str], sure: bool) -> None:
    """What two places say of one variable is put together; where they contradict each other, it is less sure."""
    (found,) = document.understand(f'hut  text\n  "The hut"\n  a alone\n\nhut\n  ? Which hut?\n{again}').variables
    assert (found.parts.label, found.parts.question) == ("The hut", "Which hut?")
    assert [line.code for line in found.parts.codes] == codes
    assert (found.certainty >= document.UNSURE) == sure and "both describe it" in found.reason


def test_heads_that_are_no_names(tmp_path: Path) -> None:
    """The head of a column is met as it stands in the file, however it is written; headings in a table are none."""
    book = tmp_path / "book.md"
    book.write_text(
        "| Variable | Label | Codes |\n|---|---|---|\n| Part A: the plot | | |\n"
        "| 2nd hut | Second hut | 1 = yes; 2 = no |\n"
        "| How many visits do you make in a week of May? | Visits | |\n| gate | Gate | 1 = North; 2 = Mill |\n"
    )
    data = tmp_path / "plots.csv"
    data.write_text("2nd hut,How many visits do you make in a week of May?,gate\n1,4,2\n3,5,1\n2,0,1\n")
    found = check_under(data, book)
    assert len(found["codebook"]["matched"]) == 3 and not found["codebook"]["only_in_codebook"]
    assert [(each["variable"], each["values"]) for each in found["findings"] if each["check"] == "unlisted codes"] == [
        ("v2nd_hut", ["3"])
    ]
