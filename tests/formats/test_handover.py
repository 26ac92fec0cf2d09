"""What leaves: the data come back as they were read, and the descriptor says what they are."""

import csv
import io
import json
import zipfile
from dataclasses import replace
from pathlib import Path

import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from rowtag.core.column import column_of_texts
from rowtag.core.errors import BadInput, Cancelled
from rowtag.core.reading import State, read_texts
from rowtag.core.rules import Formula
from rowtag.core.study import Comment, Origin, Records, Study, Variable
from rowtag.core.tag import CodeLine, Limits, MissingLine, Tag, lens_of
from rowtag.core.tokens import large_texts
from rowtag.documents.standards import read_standard
from rowtag.formats.table import unwatched
from rowtag.formats.writers.datapackage import datapackage
from rowtag.formats.written import Options, csv_blocks, labels_of, leaves_as_labels
from rowtag.service.handover import archive, previews, usual_writers
from tests import generate, reference

TENURE = Tag(
    name="tenure",
    label="How held",
    question="How do you hold it?",
    type="integer",
    codes=(CodeLine(code="1", label="Own"), CodeLine(code="2", label="Shared")),
    complete=True,
    missing=(MissingLine(code="-9", reason="refused", label="Refused"),),
)
ENTRIES = ["1", "02", "-9", "", "8 ", "n/a", "1"]


def study_of(*variables: tuple[Tag, list[str]]) -> Study:
    columns = [(f"v{at}", Variable(tag=tag), column_of_texts(entries)) for at, (tag, entries) in enumerate(variables)]
    return Study(records=Records(len(variables[0][1]))).with_variables(columns)


def exported(study: Study, options: Options) -> list[list[str]]:
    data = b"".join(block for block, _ in csv_blocks(study, study.order, options, unwatched))
    return list(csv.reader(io.StringIO(data.decode(), newline="")))


@pytest.mark.parametrize(
    ("options", "expected"),
    [
        (Options(), ["1", "2", "-9", "", "8 ", "n/a", "1"]),
        (Options(missing_sign="NA"), ["1", "2", "NA", "", "8 ", "n/a", "1"]),
        (Options(missing_sign=""), ["1", "2", "", "", "8 ", "n/a", "1"]),
        (Options(values="labels"), ["Own", "Shared", "-9", "", "8 ", "n/a", "Own"]),
    ],
)
def test_how_entries_leave(options: Options, expected: list[str]) -> None:
    """Valid entries canonical or as labels, strays as recorded, a chosen sign for missing, blanks blank."""
    assert [row[0] for row in exported(study_of((TENURE, ENTRIES)), options)] == ["tenure", *expected]


@given(
    st.lists(st.lists(generate.entries, min_size=2, max_size=2), min_size=1, max_size=10), generate.tags, st.booleans()
)
def test_every_record_comes_back(rows: list[list[str]], tag: Tag, guard: bool) -> None:
    """Whatever stands in the entries, the file has one row per record and each entry in its place."""
    study = study_of((tag, [row[0] for row in rows]), (Tag(name="y"), [row[1] for row in rows]))
    out = exported(study, Options(guard=guard))
    assert out[0] == ["x", "y"] and len(out) == len(rows) + 1
    for row, (first, second) in zip(rows, out[1:], strict=True):
        read = reference.read(row[0], tag)
        raw = row[0] if read.state in ("unreadable", "unlisted") else read.canonical
        assert first == raw or (guard and first == f"'{raw}")
        assert second in (reference.trimmed(row[1]), f"'{reference.trimmed(row[1])}")


def test_formulas_are_guarded_and_counted() -> None:
    """Text that a spreadsheet would run gets an apostrophe; numbers are spared; it is said how many."""
    study = study_of((Tag(name="note"), ["=1+1", "-5", "@x", "+44 20", "fine", "=1+1"]))
    assert [row[0] for row in exported(study, Options())][1:] == ["'=1+1", "-5", "'@x", "'+44 20", "fine", "'=1+1"]
    assert [row[0] for row in exported(study, Options(guard=False))][1:] == [
        "=1+1",
        "-5",
        "@x",
        "+44 20",
        "fine",
        "=1+1",
    ]
    (data, *_) = previews(study, "Notes", usual_writers(Options()))
    assert data.notes == ["4 entries that a spreadsheet would run as formulas were given an apostrophe in front"]


@pytest.mark.parametrize("sign", ["=", "+", "-", "@", "＝", "＋", "－", "＠"])
def test_signs_that_begin_a_formula(sign: str) -> None:
    """Wide forms of the signs too, and what follows a separator, where a program may split the entry."""
    entries = [f"{sign}SUM(A1)", f"said;{sign}SUM(A1)", f"said,{sign}SUM(A1)", f"said\t{sign}x", f"a{sign}b"]
    rows = [row[0] for row in exported(study_of((Tag(name="note"), entries)), Options())][1:]
    assert rows == [
        f"'{sign}SUM(A1)", f"said;'{sign}SUM(A1)", f"said,'{sign}SUM(A1)", f"said\t'{sign}x", f"a{sign}b",
    ]  # fmt: skip


def test_a_field_with_strays_is_a_string_and_says_why() -> None:
    """The schema types each field as what can be read from it."""
    study = study_of((TENURE, ENTRIES), (TENURE.with_parts(name="clean"), ["1"] * 7))
    stray, clean = datapackage(study, "Plots", Options())["resources"][0]["schema"]["fields"]
    assert (stray["type"], clean["type"]) == ("string", "integer")
    assert stray["rowtag"]["why"] == "typed string because 2 entries are strays, written as they were recorded"
    assert "why" not in clean["rowtag"]
    assert clean["categories"] == [{"value": 1, "label": "Own"}, {"value": 2, "label": "Shared"}]
    assert stray["categories"][0]["value"] == "1"
    assert clean["missingValues"] == [{"value": "", "label": "blank"}, {"value": "-9", "label": "Refused"}]
    assert (clean["title"], clean["description"]) == ("How held", "How do you hold it?")


def test_the_schema_follows_the_options() -> None:
    """Labels make string categories; a sign for missing becomes the missing value; limits become constraints."""
    hours = Tag(name="hours", type="integer", level="ratio", limits=Limits(low="0", high="80"))
    study = study_of((TENURE, ["1", "2"]), (hours, ["4", "7"]))
    tenure, measured = datapackage(study, "Plots", Options(values="labels", missing_sign="NA"))["resources"][0][
        "schema"
    ]["fields"]
    assert tenure["type"] == "string" and tenure["categories"] == ["Own", "Shared"]
    assert tenure["missingValues"] == ["", "NA"]
    assert measured["constraints"] == {"minimum": 0, "maximum": 80}


def test_how_a_variable_was_derived_goes_along() -> None:
    """The sentence stands with the field, with the names of now."""
    how = Formula(text="recode held: 1 -> 2", names={"held": "v0"})
    made = Variable(tag=Tag(name="made", type="integer"), origin=Origin(kind="derived", name="made", how=how))
    study = study_of((TENURE, ENTRIES)).with_variables([("v1", made, column_of_texts(["2"]))])
    first, second = datapackage(study, "Plots", Options())["resources"][0]["schema"]["fields"]
    assert "derived" not in first["rowtag"]
    assert second["rowtag"]["derived"] == "recode tenure: 1 -> 2"


def test_the_archive(tmp_path: Path) -> None:
    """One zip holds data, descriptor and a note for whoever receives it; the previews are its first lines."""
    study = study_of((TENURE, ENTRIES))
    archive(study, "Plots", usual_writers(Options()), tmp_path / "a.zip")
    with zipfile.ZipFile(tmp_path / "a.zip") as zipped:
        files = {name: zipped.read(name).decode() for name in zipped.namelist()}
    assert list(files) == ["data.csv", "datapackage.json", "README.txt"]
    assert json.loads(files["datapackage.json"])["resources"][0]["path"] == "data.csv"
    assert "Open findings when this was written: 2." in files["README.txt"]
    for each in previews(study, "Plots", usual_writers(Options())):
        assert files[each.name].startswith(each.head)


def test_a_stopped_archive_leaves_nothing(tmp_path: Path) -> None:
    """Handing over can be stopped, and no half file stays."""

    def stop(_share: float, _doing: str) -> None:
        raise Cancelled("Stopped.")

    with pytest.raises(Cancelled):
        archive(study_of((TENURE, ENTRIES)), "Plots", usual_writers(Options()), tmp_path / "a.zip", stop)
    assert not list(tmp_path.iterdir())


def test_a_missing_code_of_two_dots_is_no_range() -> None:
    """“..” stands for a missing answer in many files: it leaves with its label; of a range what occurs."""
    missing = (MissingLine(code="..", reason="no answer", label="Nothing"), MissingLine(low="90", high="99"))
    study = study_of((Tag(name="q", type="integer", missing=missing), ["1", "..", "95"]))
    (field,) = datapackage(study, "Plots", Options())["resources"][0]["schema"]["fields"]
    assert field["missingValues"] == [
        {"value": "", "label": "blank"}, {"value": "..", "label": "Nothing"}, {"value": "95", "label": "other"},
    ]  # fmt: skip


def test_comments_go_along_on_wish() -> None:
    """A line each, with the record, its identifier and the entry; of records that are there; nothing runs."""
    study = study_of((Tag(name="plot", use="identifier"), ["F1", "F2", "F3"]), (TENURE, ["1", "2", "7"]))
    notes = {
        "note1": Comment(record=3, variable="v1", text="=7 on paper"), "note2": Comment(record=1, text="torn, page 2"),
        "note3": Comment(record=2, text="gone"),
    }  # fmt: skip
    study = replace(study, records=Records(3, (2,))).put("comment", notes)
    assert "comments.csv" not in [each.name for each in previews(study, "Plots", usual_writers(Options()))]
    shown = {each.name: each.head for each in previews(study, "Plots", usual_writers(Options(comments=True)))}
    assert list(csv.reader(io.StringIO(shown["comments.csv"]))) == [
        ["record", "identifier", "variable", "entry", "comment"],
        ["1", "F1", "", "", "torn, page 2"],
        ["3", "F3", "tenure", "7", "'=7 on paper"],
    ]


OPTIONS = st.builds(
    Options,
    values=st.sampled_from(["codes", "labels"]),
    missing_sign=st.sampled_from([None, None, "NA", "", "-"]),
    guard=st.booleans(),
)
LABELS = st.sampled_from(["", "Yes", "No", "=1+1", "-", "2", "Yes"])
CODES = st.sampled_from(["1", "2", "3", "Y", "-9", "-", "=x", "n/a", "@", "0.5", "99", "2026-05-03"])
HANDED = st.builds(
    Tag,
    name=st.just("x"),
    label=st.sampled_from(["", "How held"]),
    type=generate.types,
    level=generate.levels,
    use=st.sampled_from(["answer", "identifier", "weight", "several answers", "open-ended", "design"]),
    codes=st.lists(st.builds(CodeLine, code=CODES, label=LABELS), max_size=4, unique_by=lambda line: line.code).map(
        tuple
    ),
    complete=st.booleans(),
    limits=st.sampled_from([Limits(), Limits(low="0", high="80")]),
    missing=st.lists(
        st.builds(MissingLine, code=CODES, reason=generate.reasons, label=LABELS)
        | st.just(MissingLine(low="90", high="99", reason="other")),
        max_size=3,
        unique_by=lambda line: line.shown,
    ).map(tuple),
)
HELD = st.lists(
    CODES | st.sampled_from(["", "5", "007", "92", " 1 ", "Yes", "12 hrs", "+5 x", "a;=b"]), min_size=1, max_size=12
)


@settings(max_examples=400)
@given(HANDED, HELD, OPTIONS)
@example(Tag(name="x", type="integer", missing=(MissingLine(code="1"),)), ["-"], Options(missing_sign="-"))
@example(Tag(name="x", missing=(MissingLine(code="-", reason="no answer"),)), ["-", "5"], Options())
@example(
    Tag(name="x", type="integer", missing=(MissingLine(code="-8"), MissingLine(code="-9"))),
    ["-9"],
    Options(values="labels"),
)
def test_data_and_codebook_read_back_to_the_same(tag: Tag, entries: list[str], options: Options) -> None:
    """Every kind of tag with every option: read by both files, each record is valid, missing for the same reason, blank
    or a stray as it was, with the same label; the tag's own parts come back, too."""
    study = study_of((tag, entries))
    try:
        out = [row[0] for row in exported(study, options)][1:]
        package = json.dumps(datapackage(study, "Plots", options))
    except BadInput as error:
        assert "cannot stand for missing answers" in error.what
        return
    (field,) = read_standard(package.encode(), "datapackage.json")
    told = Tag.model_validate({**field.parts.given(), "name": "x"})
    assert (told.use, told.level, told.label) == (tag.use, tag.level, tag.label)
    before, after = study.reading("v0"), read_texts(large_texts(out), lens_of(told, told.codes))
    labels = labels_of(study, "v0") if leaves_as_labels(study, "v0", options) else [line.label for line in tag.codes]
    tokens = study.column("v0").indexes(0, len(entries))
    for entry, token, written, state, line in zip(
        entries, tokens.tolist(), out, after.states.tolist(), after.lines.tolist(), strict=True
    ):
        was = State(int(before.states[token]))
        if was == State.MISSING and options.missing_sign == "":
            assert written == ""
            continue
        if was.stray:
            assert State(state).stray or not tag.complete, (entry, written)
            continue
        assert state == was, (entry, written)
        if was == State.MISSING:
            assert (
                options.missing_sign is not None
                or told.missing[line].reason == tag.missing[int(before.lines[token])].reason
            )
        elif was == State.VALID and int(before.lines[token]) >= 0 and labels[int(before.lines[token])]:
            label = labels[int(before.lines[token])]
            assert told.codes[line].label == label or told.codes[line].code.removeprefix("'") == label.removeprefix("'")
