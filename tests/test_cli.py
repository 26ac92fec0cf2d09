"""The command line: its contract, its exit codes, and the demo's figures by either file."""

import json
import subprocess
import sys
from collections import Counter
from pathlib import Path
from typing import Any

import pytest

from rowtag import __version__
from rowtag.core.tag import Tag
from rowtag.demo.generator import RECORDS, demo_columns
from rowtag.demo.questions import QUESTIONS
from rowtag.demo.seed import DEMO_ID, ensure_demo
from rowtag.service.describe import describe_file
from rowtag.store.workspace import Workspace
from tests import reference
from tests.formats.books import xlsx


def rowtag(*args: str) -> subprocess.CompletedProcess[str]:
    return subprocess.run([sys.executable, "-m", "rowtag.cli", *args], capture_output=True, text=True, timeout=120)


def test_version() -> None:
    """The version is the package's."""
    assert rowtag("--version").stdout == f"Row Tag {__version__}\n"


def test_describe_is_the_same_for_both_files(demo_files: Path) -> None:
    """The demo gives the same figures from .csv and .xlsx, by the command."""
    first, second = (rowtag("describe", str(demo_files / name), "--json") for name in ("fennel.csv", "fennel.xlsx"))
    assert first.returncode == second.returncode == 0
    assert json.loads(first.stdout) == json.loads(second.stdout)
    assert (
        "1,204 records, 54 variables"
        in rowtag("describe", str(demo_files / "fennel.xlsx"), "--sheet", "Answers").stdout
    )


def described(demo_files: Path) -> dict[str, dict[str, Any]]:
    description = describe_file(demo_files / "fennel.csv")
    assert description["records"] == RECORDS
    return {each["name"]: each for each in description["variables"]}


def test_describe_says_what_the_generator_put_in(demo_files: Path) -> None:
    """Fill, counts and figures of every variable are those of the generated entries, read one by one."""
    found = described(demo_files)
    for column in demo_columns():
        each = found[column.question.head]
        marks = {"sign": column.question.sign}
        tag = Tag.model_validate({"name": "x", "type": each["type"], "marks": marks})
        read = [reference.read(entry, tag) for entry in column.entries]
        states = Counter(one.state for one in read)
        assert each["fill"] == {
            "valid": states["valid"], "missing": 0, "blank": states["blank"], "stray": states["unreadable"],
        }  # fmt: skip
        if each["counts"] is not None:
            expected = Counter(one.canonical for one in read if one.state in ("valid", "unreadable"))
            assert {row["code"]: row["count"] for row in each["counts"]} == expected
            assert all(row["reading"] in ("valid", "stray") for row in each["counts"])
        if each["summary"] is not None:
            numbers = [float(one.canonical) for one in read if one.state == "valid"]
            assert each["summary"]["n"] == len(numbers)
            assert each["summary"]["mean"] == pytest.approx(sum(numbers) / len(numbers))


def test_the_demo_study_reads_as_planted(workspace: Workspace) -> None:
    """Under the demo's definitions every variable has as many valid, missing, blank and stray as were planted."""
    ensure_demo(workspace)
    study = workspace.study(DEMO_ID).study
    names = {study.tag(id).name: id for id in study.order}
    for column in demo_columns():
        fill = study.fill(names[column.question.name])
        planted = {kind: column.count(kind) for kind in ("valid", "missing", "blank", "stray")}
        assert {kind: getattr(fill, kind) for kind in planted} == planted, column.question.name
    assert [study.tag(id).label for id in study.order] == [question.label for question in QUESTIONS]


def test_the_shape_of_the_contract(tmp_path: Path) -> None:
    """Keys, order of counts, and what is null."""
    path = tmp_path / "a.csv"
    path.write_text(
        "id,rating,comment\n"
        + "".join(f"F{n:03d},{n % 3 + 1},plot {n} is too wet in winter\n" for n in range(30))
        + "F099,x,\n"
    )
    variables = describe_file(path)["variables"]
    assert [list(each) for each in variables] == [
        ["name", "label", "type", "level", "use", "fill", "counts", "summary"]
    ] * 3
    identifier, rating, comment = variables
    assert identifier["counts"] is None and comment["counts"] is None and comment["summary"] is None
    assert [(row["code"], row["reading"]) for row in rating["counts"]] == [
        ("1", "valid"), ("2", "valid"), ("3", "valid"), ("x", "stray"),
    ]  # fmt: skip
    assert list(rating["summary"]) == ["n", "mean", "sd", "min", "q1", "median", "q3", "max"]


@pytest.mark.parametrize(
    ("args", "said"),
    [
        (("describe", "missing.csv"), "There is no file missing.csv."),
        (("describe", "{empty}"), "The file is empty."),
        (("describe", "{binary}"), "begins like a picture"),
        (("describe", "{book}"), "no readable workbook"),
        (("describe",), "Missing argument"),
        (("describe", "{empty}", "--colour"), "No such option"),
    ],
)
def test_bad_use_exits_with_two(tmp_path: Path, args: tuple[str, ...], said: str) -> None:
    """A sentence on stderr, exit code 2, and no traceback."""
    (tmp_path / "empty.csv").write_bytes(b"")
    (tmp_path / "binary.csv").write_bytes(b"\x89PNG")
    (tmp_path / "book.xlsx").write_bytes(b"PK")
    places = {"empty": "empty.csv", "binary": "binary.csv", "book": "book.xlsx"}
    run = rowtag(*(arg.format(**{key: tmp_path / name for key, name in places.items()}) for arg in args))
    assert run.returncode == 2 and said in run.stderr and "Traceback" not in run.stderr and not run.stdout


def test_each_sheet_has_heads_of_its_own(tmp_path: Path) -> None:
    """Where names stand is looked for on the sheet that was asked for."""
    titled = [["Fennel Row"], [], ["plot", "size", "rent"], ["F1", 2, 3], ["F2", 4, 5]]
    path = xlsx(tmp_path / "a.xlsx", {"One": [["q1", "q2"], [1, 2]], "Two": titled})
    described = describe_file(path, "Two")
    assert described["records"] == 2 and [each["name"] for each in described["variables"]] == ["plot", "size", "rent"]
