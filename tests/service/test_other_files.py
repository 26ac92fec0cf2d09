"""A routine on other files than its own: what is read, what is left out, and what is done to single records."""

import random
from collections.abc import Callable, Sequence
from contextlib import closing
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rowtag.core.derive import held
from rowtag.core.records import texts_in
from rowtag.core.steps.derive import Derive, Into
from rowtag.core.steps.entries import AddBlankRecords, SetEntries
from rowtag.core.steps.records import RemoveRecords
from rowtag.core.steps.tags import Define
from rowtag.core.study import Study
from rowtag.core.tag import Parts
from rowtag.formats.intake import guess
from rowtag.formats.routine import read, write
from rowtag.formats.table import Settings
from rowtag.service.coming import File
from rowtag.service.intake import bring_in
from rowtag.service.routines import Ran, run, saved
from rowtag.store.workspace import Workspace
from tests.formats.books import xlsx
from tests.store.test_studyfile import ids

Row = Sequence[str]
HEADS = ["plot", "tenure", "hours", "remark"]
NOTES = [["Total", "", "214", ""], ["Source: the committee's books, kept since spring", "", "", ""]]


def records(count: int, seed: int = 1, *, twice: bool = False) -> list[Row]:
    """Records of plots; one identifier may stand `twice`."""
    chance = random.Random(seed)
    rows = [
        [f"F{number:03d}", str(chance.randint(1, 3)), str(chance.randint(0, 30)), chance.choice(["", "tap", "shed"])]
        for number in range(1, count + 1)
    ]
    if twice:
        rows[-1][0] = rows[0][0]
    return rows


def text_of(rows: Sequence[Row], separator: str = ";") -> str:
    return "".join(separator.join(row) + "\n" for row in rows)


def routine_of(
    folder: Path, name: str, rows: Sequence[Row], settings: Settings | None = None, *, single: bool = True
) -> tuple[str, Study]:
    """What is done with a file in a study, as a routine; and the study."""
    path = folder / name
    if not path.exists():
        path.write_text(text_of(rows), "utf-8")
    with closing(Workspace(folder / "workspace")) as workspace:
        file = workspace.study(workspace.create("Plots").id)
        upload = workspace.receive(name, [path.read_bytes()])
        bring_in(file, upload, settings or guess(upload.path, name), step_id="bring")
        named = ids(file)
        file.take(Define(variables=(named["tenure"],), parts=Parts(label="How held", level="nominal")), "define")
        how = held("bands hours: .. 9; 10 ..", file.study)
        file.take(Derive(variables=(Into(how=how, into={"busy": "busy"}),)), "derive")
        if single:
            file.take(SetEntries(variable=named["hours"], entries={2: "29"}), "typed")
            file.take(RemoveRecords(records=(3,)), "removed")
            file.take(AddBlankRecords(count=2), "keyed")
        return write(saved(file, "Plots")), file.study


def entries(study: Study, name: str) -> list[str]:
    """The entries of a variable, of the records that are there."""
    found = next(id for id in study.order if study.tag(id).name == name)
    present = study.records.present
    numbers = [number for number in range(1, study.records.arrived + 1) if present is None or present[number - 1]]
    return texts_in(study, found, np.array(numbers))


def by_plot(study: Study) -> dict[str, list[str]]:
    """What each record holds, by its plot."""
    columns = [entries(study, name) for name in (*HEADS, "busy")]
    return {row[0]: list(row[1:]) for row in zip(*columns, strict=True)}


def came(ran: Ran) -> list[str]:
    return [line.again.came for line in ran.lines]


VARIANTS: dict[str, Callable[[list[Row]], str]] = {
    "as it is": lambda rows: text_of([HEADS, *rows]),
    "a record less": lambda rows: text_of([HEADS, *rows[:-1]]),
    "another order": lambda rows: text_of([HEADS, *reversed(rows)]),
    "commas": lambda rows: text_of([HEADS, *rows], ","),
    "tabs": lambda rows: text_of([HEADS, *rows], "\t"),
    "notes below": lambda rows: text_of([HEADS, *rows, ["", "", "", ""], *NOTES]),
    "a title above": lambda rows: text_of([["Plots of 2027", "", "", ""], ["", "", "", ""], HEADS, *rows]),
    "columns otherwise": lambda rows: text_of([row[::-1] for row in [HEADS, *rows]]),
    "western letters": lambda rows: text_of([HEADS, *rows[:-1], [*rows[-1][:3], "caf\u00e9 \u00a9"]]),
}


@pytest.mark.parametrize("first", ["as it is", "notes below", "a title above"])
@pytest.mark.parametrize("variant", VARIANTS)
def test_a_routine_on_another_file(tmp_path: Path, first: str, variant: str) -> None:
    """However the next file is written, every record of it comes in, none else, and all steps are done; what concerned
    single records of the first one is left out, and said."""
    (tmp_path / "first.csv").write_text(VARIANTS[first](records(20)), "utf-8")
    text, _ = routine_of(tmp_path, "first.csv", ())
    rows = records(30, seed=2)
    encoding = "latin-1" if variant == "western letters" else "utf-8"
    (tmp_path / "next.csv").write_text(VARIANTS[variant](rows), encoding)
    ran = run(read(text), "r.yaml", file=File.at(tmp_path / "next.csv"))
    wanted = rows[:-1] if variant == "a record less" else rows
    assert sorted(entries(ran.study, "plot")) == sorted(row[0] for row in wanted), ran.notes
    assert ran.whole and came(ran) == ["done", "done", "done"] and not ran.gone
    assert {plot: each[-1] for plot, each in by_plot(ran.study).items()} == {
        row[0]: "1" if int(row[2]) <= 9 else "2" for row in wanted
    }
    assert "3 steps that concern single records of the first file are left out" in ran.notes
    if variant == "notes below":
        assert "2 rows below the data left out" in ran.notes
    if variant in ("commas", "tabs"):
        assert f"{variant} stand between entries, not semicolons" in ran.notes


def test_on_its_own_file_all_is_as_it_was(tmp_path: Path) -> None:
    """Rows below it are left out once, and what was done to single records is done again."""
    (tmp_path / "first.csv").write_text(VARIANTS["notes below"](records(20)), "utf-8")
    text, study = routine_of(tmp_path, "first.csv", ())
    ran = run(read(text), "r.yaml", file=File.at(tmp_path / "first.csv"))
    assert ran.whole and ran.left_out == 0 and study.records.count == 21
    assert all(entries(ran.study, name) == entries(study, name) for name in (*HEADS, "busy"))


def test_single_records_where_they_are_asked_for(tmp_path: Path) -> None:
    """By their identifier they are met wherever they stand; where that is not sure nothing is done to anybody."""
    text, _ = routine_of(tmp_path, "first.csv", [HEADS, *records(20)])
    rows = records(20)[::-1]
    (tmp_path / "next.csv").write_text(text_of([HEADS, *rows]), "utf-8")
    ran = run(read(text), "r.yaml", file=File.at(tmp_path / "next.csv"), single_records=True)
    assert came(ran) == ["done"] * 6
    assert by_plot(ran.study)["F002"][1] == "29" and "F003" not in by_plot(ran.study)

    folder = tmp_path / "twice"
    folder.mkdir()
    text, _ = routine_of(folder, "first.csv", [HEADS, *records(20, twice=True)])
    same = records(20, twice=True)
    same[5][3] = "other"
    (folder / "next.csv").write_text(text_of([HEADS, *same]), "utf-8")
    ran = run(read(text), "r.yaml", file=File.at(folder / "next.csv"), single_records=True)
    assert came(ran) == ["done", "done", "done", "not possible", "not possible", "done"]
    assert "told by number, and this is another file" in ran.lines[3].again.why[0]
    assert entries(ran.study, "hours")[:20] == [row[2] for row in same], "nobody's entry was changed"


BOOK = {
    "Read me": [["Plots of the allotments"], ["Kept by the committee, see the notes on each sheet"], ["2026"]],
    "Old": [HEADS, *records(25, seed=5)],
    "Data": [HEADS, *records(20)],
}


@pytest.mark.parametrize("order", [["Read me", "Old", "Data"], ["Data", "Old", "Read me"], ["Old", "Read me", "Data"]])
def test_the_sheet_that_was_told_is_read(tmp_path: Path, order: list[str]) -> None:
    """Not the one that would be guessed, whatever the order of sheets; and by its heads where its name is another."""
    xlsx(tmp_path / "first.xlsx", {name: [list(row) for row in BOOK[name]] for name in ("Read me", "Old", "Data")})
    told = Settings(kind="workbook", sheet="Data", rows_below=None)
    text, study = routine_of(tmp_path, "first.xlsx", (), told, single=False)
    own = run(read(text), "r.yaml", file=File.at(tmp_path / "first.xlsx"))
    assert entries(own.study, "plot") == entries(study, "plot") and own.study.records.count == 20
    xlsx(tmp_path / "next.xlsx", {name: [list(row) for row in BOOK[name]] for name in order})
    ran = run(read(text), "r.yaml", file=File.at(tmp_path / "next.xlsx"))
    assert ran.study.records.count == 20 and ran.whole
    other = {"About": BOOK["Read me"], "Codes": [["a", "b"], ["1", "2"], ["3", "4"]], "Plots 2027": BOOK["Data"]}
    xlsx(tmp_path / "third.xlsx", {name: [list(row) for row in rows] for name, rows in other.items()})
    ran = run(read(text), "r.yaml", file=File.at(tmp_path / "third.xlsx"))
    assert ran.study.records.count == 20 and "sheet “Plots 2027” was read, not “Data”" in ran.notes
    chosen = run(read(text), "r.yaml", file=File.at(tmp_path / "first.xlsx"), sheet="Old")
    assert chosen.study.records.count == 25 and "sheet “Old” was read, not “Data”" in chosen.notes


@settings(max_examples=25, deadline=None)
@given(st.integers(3, 25), st.sampled_from(sorted(VARIANTS)), st.sampled_from(sorted(VARIANTS)), st.integers(0, 99))
def test_any_first_and_any_next_file(count: int, first: str, variant: str, seed: int) -> None:
    """Whichever ways two files are written in, the second holds after the routine what is written in it."""
    with TemporaryDirectory() as name:
        folder, rows = Path(name), records(count, seed)
        encodings = ["latin-1" if each == "western letters" else "utf-8" for each in (first, variant)]
        (folder / "first.csv").write_text(VARIANTS[first](records(12)), encodings[0])
        text, _ = routine_of(folder, "first.csv", ())
        (folder / "next.csv").write_text(VARIANTS[variant](rows), encodings[1])
        ran = run(read(text), "r.yaml", file=File.at(folder / "next.csv"))
        wanted = rows[:-1] if variant == "a record less" else rows
        assert sorted(entries(ran.study, "plot")) == sorted(row[0] for row in wanted), ran.notes
        assert sorted(entries(ran.study, "hours")) == sorted(row[2] for row in wanted)


def test_a_workbook_after_a_text(tmp_path: Path) -> None:
    """A file of another kind is read from the sheet that has the heads, or that somebody chose."""
    text, _ = routine_of(tmp_path, "first.csv", [HEADS, *records(20)])
    sheets = {"Codes": [["a", "b"], *[["1", "2"]] * 60], "Plots": [HEADS, *records(8)], "Others": [HEADS, *records(5)]}
    xlsx(tmp_path / "next.xlsx", {name: [list(row) for row in rows] for name, rows in sheets.items()})
    ran = run(read(text), "r.yaml", file=File.at(tmp_path / "next.xlsx"))
    assert ran.study.records.count == 8 and "next.xlsx is no delimited file and was read as it is guessed" in ran.notes
    chosen = run(read(text), "r.yaml", file=File.at(tmp_path / "next.xlsx"), sheet="Others")
    assert chosen.study.records.count == 5
