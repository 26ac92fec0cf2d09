"""Documents and metadata that are not as they should be: a sentence with its place, or what can be read of them."""

import gzip
import json
from pathlib import Path

import pyarrow as pa
import pyarrow.parquet as pq
import pytest

from rowtag.core.codebook import read_notation, write_notation
from rowtag.core.errors import RowTagError, TooLarge, UnreadableFile
from rowtag.core.tag import MOST_LABEL, Limits, can_end
from rowtag.documents.document import as_document, read_codebook
from rowtag.formats.intake import opened


def described(tmp_path: Path, name: str, text: str) -> str:
    """What is read of a metadata file, as codebook text."""
    path = tmp_path / name
    path.write_text(text, encoding="utf-8")
    return write_notation(read_codebook(path, name).variables)


def field(**parts: object) -> str:
    """A Data Package of one field."""
    given = {"name": "rent", "type": "integer", "title": "Rent", **parts}
    return json.dumps({"resources": [{"schema": {"fields": [given]}}]})


@pytest.mark.parametrize(
    ("package", "read"),
    [
        (field(constraints=1), 'rent  integer\n  "Rent"\n'),
        (field(constraints={"enum": 5, "minimum": [1], "maximum": 40}), 'rent  integer\n  "Rent"\n  limits .. 40\n'),
        (field(categories="low", missingValues=7), 'rent  integer\n  "Rent"\n'),
        (field(categories=[5, None, {"value": [1]}, {"label": "x"}]), 'rent  integer\n  "Rent"\n  5\n'),
        (field(constraints={"minimum": "nan", "maximum": "inf"}), 'rent  integer\n  "Rent"\n'),
    ],
)
def test_a_field_of_another_shape_is_read_as_far_as_it_goes(tmp_path: Path, package: str, read: str) -> None:
    """What stands where something else is wanted is left out, and nothing beside it."""
    assert described(tmp_path, "datapackage.json", package) == read


def test_numbers_of_any_length_are_no_trouble(tmp_path: Path) -> None:
    """A number of 5,000 digits is kept as it is written, where it can be kept at all."""
    huge = field(constraints={"minimum": 1}).replace('"minimum": 1', f'"minimum": {"9" * 5_000}')
    assert described(tmp_path, "datapackage.json", huge) == 'rent  integer\n  "Rent"\n'
    exact = field(constraints={"minimum": 1}).replace('"minimum": 1', '"minimum": 1234567890123456789')
    assert "limits 1234567890123456789 .." in described(tmp_path, "datapackage.json", exact)


@pytest.mark.parametrize(
    ("name", "text", "said"),
    [
        ("datapackage.json", '{"resources": 5}', "No variables are described here"),
        ("datapackage.json", "[1, 2", "row 1, character 6: This is no JSON"),
        ("table.json", '{"tables": 7, "tableSchema": 1}', "No variables are described here"),
        ("study.xml", '<?xml version="1.0" encoding="utf-99"?><codeBook/>', "unknown encoding: utf-99"),
        ("study.xml", '<!DOCTYPE a [<!ENTITY x "y">]><codeBook>&x;</codeBook>', "declares entities"),
        ("study.sss", "<sss><survey>", "This is no XML"),
    ],
)
def test_what_is_none_says_so(tmp_path: Path, name: str, text: str, said: str) -> None:
    """Metadata that describes nothing is refused with what is wrong, and where."""
    with pytest.raises(UnreadableFile, match=said):
        described(tmp_path, name, text)


def test_empty_codes_are_no_codes(tmp_path: Path) -> None:
    """A value without its code, in either standard of XML, is left out; the others are read."""
    values = '<value code="">Yes</value><value>No</value><value code="2">Perhaps</value><range from="" to="x"/>'
    variable = f'<variable ident="1" type="single"><name>q</name><label>Q</label><values>{values}</values></variable>'
    text = f'<sss version="2.0"><survey><record ident="A">{variable}</record></survey></sss>'
    assert described(tmp_path, "study.sss", text) == 'q  integer\n  "Q"\n  2  Perhaps\n'
    catgry = "<catgry><labl>x</labl></catgry><catgry><catValu/></catgry><catgry><catValu>1</catValu></catgry>"
    ddi = f'<codeBook><var name="t"><valrng><range min="nan" max="4"/></valrng>{catgry}</var><var/></codeBook>'
    assert described(tmp_path, "study.xml", ddi).startswith("t\n  1\n")


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("rent\n  limits nan .. 5\n", "row 2: This cannot be so: low cannot be used: “nan” is no number"),
        ("rent\n  1 Low\n  2 " + "x" * 3_000, f"row 3: This cannot be so: label has more than the {MOST_LABEL:,}"),
        ('rent\n  "' + "x" * 3_000 + '"\n', f"row 1: rent cannot be so: label has more than the {MOST_LABEL:,}"),
        ("rent\n  .. Low\n", "row 2"),
        ("rent\n  ..\n", "row 2"),
        ("rent\n  a .. c  Low\n", "row 2: This cannot be so: low cannot be used: “a” is no number"),
        ("..\n  1 Low\n", ""),
    ],
)
def test_codebook_text_says_where(text: str, said: str) -> None:
    """What cannot be kept is refused with its line, or stands for what it says."""
    try:
        found = read_notation(text).variables
    except UnreadableFile as error:
        assert said and str(error).startswith(said)
    else:
        assert write_notation(found) == text or not said


@pytest.mark.parametrize("text", ["nan", "inf", "-inf", "1e999", "1_000", "x", "..", "٣", "5,0", "1" * 400 + "e1"])
def test_nothing_else_ends_a_range(text: str) -> None:
    """Ends are finite numbers with a point, dates and times."""
    assert not can_end(text)
    with pytest.raises(ValueError, match="is no number, date or time"):
        Limits(high=text)


@pytest.mark.parametrize("text", ["0", "-5", "\u22125", "+2.50", ".5", "5.", "1e-05", "2026-05-03", "10:30", " 7 "])
def test_what_ends_a_range(text: str) -> None:
    """Whatever an entry of a number, a date or a time can be, in plain notation."""
    assert can_end(text) and Limits(low=text).low == text


def test_prose_is_no_fixed_columns(tmp_path: Path) -> None:
    """Prose that is taken for fixed columns comes in as something, or is refused with a sentence."""
    path = tmp_path / "prose.txt"
    path.write_text("It was a fine day, and the plot holders met\nby the gate.\n\nThey talked of rents.\n" * 30)
    for kind in ("fixed", "delimited", None):
        with opened(path, "prose.txt") as file:
            try:
                settings = file.guess(kind)  # type: ignore[arg-type]
                assert file.read(settings).table.records > 0
            except RowTagError as error:
                assert str(error).startswith("prose.txt")


def test_damaged_parquet_is_said(tmp_path: Path) -> None:
    """Any bit that flips, and any end that is missing, is told with a sentence or harms no entry's type."""
    path = tmp_path / "plots.parquet"
    pq.write_table(pa.table({"plot": [f"{n:04d}" for n in range(300)], "rent": list(range(300))}), path)
    sound = path.read_bytes()
    refused = 0
    for at in range(0, len(sound), max(1, len(sound) // 150)):
        for damaged in (sound[:at], sound[:at] + bytes([sound[at] ^ 0x55]) + sound[at + 1 :]):
            path.write_bytes(damaged)
            try:
                with opened(path, "plots.parquet") as file:
                    file.read(file.guess())
            except RowTagError as error:
                refused += 1
                assert str(error).startswith("plots.parquet")
    assert refused > 150


def test_a_document_of_dots_is_a_document(tmp_path: Path) -> None:
    """Lines of dots alone mean nothing and stop nothing."""
    path = tmp_path / "questionnaire.txt"
    path.write_text("..\n...\nq1. How held\n..\n1 = own\n2 = shared\n....\n")
    assert "own" in as_document(path, "questionnaire.txt").text
    assert [each.name for each in read_codebook(path, "questionnaire.txt").variables] == ["q1"]


def test_a_packed_document_that_unpacks_to_more(tmp_path: Path) -> None:
    """A few kilobytes that unpack to more than any codebook are refused while they are unpacked."""
    path = tmp_path / "codebook.txt.gz"
    path.write_bytes(gzip.compress(b"q1 How held 1 own 2 shared\n" * 1_500_000))
    assert path.stat().st_size < 200_000
    with pytest.raises(TooLarge, match="8 MB"):
        as_document(path, "codebook.txt.gz")


def test_documents_without_end(tmp_path: Path) -> None:
    """A line of megabytes is told by its beginning; more lines than any codebook has are refused."""
    with pytest.raises(UnreadableFile, match="row 1, character 4: “How held 1 and") as refused:
        read_notation("q1 How held " + "1 and " * 200_000)
    assert len(str(refused.value)) < 1_000
    path = tmp_path / "codebook.txt"
    path.write_text("v1  integer\n" * 100_001)
    with pytest.raises(TooLarge, match="has 100,001 lines; a codebook of up to 100,000 is read"):
        read_codebook(path, "codebook.txt")
