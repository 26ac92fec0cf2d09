"""The demo study: everything in it that a researcher meets in real data is there, and the same every time."""

import csv
import subprocess
import sys
from collections import Counter
from pathlib import Path

import numpy as np
import pytest
from python_calamine import CalamineWorkbook

from rowtag.core.checks import Finding, findings_across, records_of, run_checks
from rowtag.core.remedies import remedies
from rowtag.core.steps import Step
from rowtag.core.steps.entries import SetEntries
from rowtag.core.steps.tags import Define
from rowtag.core.study import Study
from rowtag.core.tag import Parts
from rowtag.demo import generator
from rowtag.demo.generator import DemoColumn, demo_columns
from rowtag.demo.questions import QUESTIONS
from rowtag.demo.seed import ensure_demo
from rowtag.store.workspace import Workspace


@pytest.fixture(scope="module")
def columns() -> dict[str, DemoColumn]:
    return {column.question.name: column for column in demo_columns()}


def test_size_and_names(columns: dict[str, DemoColumn]) -> None:
    """About 1,200 records, 45 to 60 variables; survey-platform heads, codebook names that can be."""
    assert len(generator.rows()) - 1 == generator.RECORDS == 1_204
    assert 45 <= len(columns) <= 60
    assert (
        len({question.head for question in QUESTIONS}) == len({question.name for question in QUESTIONS}) == len(columns)
    )
    assert "q7_1" in {question.head for question in QUESTIONS}


def test_what_goes_wrong_in_real_data_is_there(columns: dict[str, DemoColumn]) -> None:
    """Leading zeros, doubles, units, words among numbers, impossible dates, wild codes, blanks, other scripts."""
    plots = columns["plot_no"].entries
    assert all(len(entry) == 4 for entry in plots) and sum(n - 1 for n in Counter(plots).values()) == 2
    assert columns["hours"].entries.count("about 4") == 12 and columns["hours"].entries.count("99") == 11
    assert sum(entry.endswith("m²") for entry in columns["plot_size"].entries) == 41
    assert "2019-02-30" in columns["joined"].entries
    assert columns["tenure"].entries.count("8") == 11 and columns["tenure"].count("stray") == 14
    assert any("Дуже" in entry for entry in columns["comment"].entries)
    assert max(map(len, columns["comment"].entries)) > 200
    assert {"seeds; tools", "advice"} <= set(columns["wishes"].entries)
    assert set(columns["letter"].entries) == {"Y", "N", "yes", ""}
    missing = Counter(entry for column in columns.values() for entry in column.values("missing"))
    assert set(missing) == {"-7", "-8", "-9"}


def test_one_item_is_keyed_the_other_way_round(columns: dict[str, DemoColumn]) -> None:
    """Five site ratings go together; the fourth goes against them."""

    def numbers(name: str) -> list[float]:
        column = columns[name]
        kept = zip(column.entries, column.kinds, strict=True)
        return [float(entry) if kind == "valid" else np.nan for entry, kind in kept]

    table = np.array([numbers(f"site_{number}") for number in range(1, 7)])
    table = table[:, ~np.isnan(table).any(axis=0)]
    correlations = np.corrcoef(table)[0]
    assert all(correlations[[1, 2, 4, 5]] > 0.1) and correlations[3] < -0.1


def test_some_ranks_are_used_twice(columns: dict[str, DemoColumn]) -> None:
    """31 records use a rank twice; all others use each once."""
    ranks = zip(*(columns[f"rank_{name}"].entries for name in ("food", "ease", "folk", "wild", "save")), strict=True)
    assert sum(sorted(each) != list("12345") for each in ranks) == 31


def test_the_same_every_time() -> None:
    """Another process makes the very same file."""
    code = "from rowtag.demo.generator import rows; import zlib; print(zlib.crc32(repr(rows()).encode()))"
    first, second = (subprocess.check_output([sys.executable, "-c", code]) for _ in range(2))
    assert first == second


def test_the_files(tmp_path: Path) -> None:
    """Data as .csv and .xlsx, the questionnaire as text, the codebook as a workbook: all say the same."""
    run = [sys.executable, "-m", "rowtag.cli", "demo-files", str(tmp_path)]
    assert "Seven files" in subprocess.check_output(run, text=True)
    with (tmp_path / "fennel-row-2026.csv").open(newline="", encoding="utf-8") as file:
        rows = list(csv.reader(file))
    sheet = CalamineWorkbook.from_path(tmp_path / "fennel-row-2026.xlsx").get_sheet_by_index(0).to_python()
    assert len(sheet) == len(rows) and sheet[0] == rows[0]
    text = (tmp_path / "fennel-row-questionnaire.txt").read_text("utf-8")
    codebook = CalamineWorkbook.from_path(tmp_path / "fennel-row-codebook.xlsx").get_sheet_by_index(0).to_python()
    assert [row[0] for row in codebook[1:]] == [question.name for question in QUESTIONS]
    for question in (each for each in QUESTIONS if each.question):
        assert f"{question.name} ({question.head})" in text
        assert all(label in text for label in question.codes.values())


def put_right(study: Study, finding: Finding) -> Study:
    """A study in which somebody put a finding right: by its first remedy, by a label, or by asking again."""
    ways = remedies(study, finding)
    if ways:
        return ways[-1].step.apply(study).study  # rather missing than one more code
    step: Step
    tag = study.tag(finding.variable)
    if finding.check == "label wanted":
        step = Define(variables=(finding.variable,), parts=Parts(label=f"What {tag.name} is"))
    elif finding.check == "code list wanted":
        lines = [
            line.model_copy(update={"label": line.label or f"Code {line.shown}"})
            for line in study.codes(finding.variable)
        ]
        step = Define(variables=(finding.variable,), parts=Parts(codes=tuple(lines)))
    elif finding.check == "identifier twice":
        records = records_of(study, finding)
        step = SetEntries(variable=finding.variable, entries={record: f"9{record:03}" for record in records})
    else:
        blank = dict.fromkeys(records_of(study, finding, most=10**6), "")
        for variable in finding.variables[1:]:
            study = SetEntries(variable=variable, entries=blank).apply(study).study
        step = SetEntries(variable=finding.variable, entries=blank)
    return step.apply(study).study


def test_once_its_faults_are_put_right_nothing_is_found(tmp_path: Path) -> None:
    """Every finding can be put right, and then only what is worth knowing is left: no remedy brings another fault."""
    workspace = Workspace(tmp_path)
    study = workspace.study(ensure_demo(workspace).id).study
    for _ in range(60):
        open_ = [each for each in run_checks(study, findings_across(study)) if each.severity != "note"]
        if not open_:
            break
        study = put_right(study, open_[0])
    assert [(each.check, study.tag(each.variable).name, each.message) for each in open_] == []
    assert study.records.count == generator.RECORDS
    workspace.close()
