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


def test_verify_backup_and_restore(tmp_path: Path) -> None:
    """A study is read whole, backed up and taken back as one of its own; a flipped bit is told, with exit code 1."""
    where = ("--workspace", str(tmp_path))
    workspace = Workspace(tmp_path)
    path = workspace.path(ensure_demo(workspace).id)
    workspace.close()
    verified = rowtag("verify", *where)
    assert verified.returncode == 0 and verified.stdout.startswith("demo.sqlite: sound (")
    made = rowtag("backup", "demo", *where)
    assert made.returncode == 0 and "demo.sqlite: backed up as " in made.stdout
    name = made.stdout.split(" as ")[1].split()[0]
    restored = rowtag("restore", "demo", name, *where)
    assert restored.returncode == 0 and restored.stdout.startswith("Restored as “Fennel Row plot holders")
    workspace = Workspace(tmp_path)
    titles = {entry.title: workspace.study(entry.id).study for entry in workspace.entries()}
    workspace.close()
    assert len(titles) == 2 and len({study.records.count for study in titles.values()}) == 1
    spoiled = bytearray(path.read_bytes())
    spoiled[spoiled.index(b"Brought in") + 3] ^= 1
    path.write_bytes(spoiled)
    damaged = rowtag("verify", "demo", *where)
    assert damaged.returncode == 1 and damaged.stdout.startswith("demo.sqlite: DAMAGED")
    refused = rowtag("backup", "demo", *where)
    assert refused.returncode == 1 and "was not backed up" in refused.stderr and "Traceback" not in refused.stderr
    for command in ("verify", "backup", "restore"):
        unknown = rowtag(command, "nobody", *where)
        assert unknown.returncode == 2 and "There is no study nobody" in unknown.stderr


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


def test_check_under_a_codebook(tmp_path: Path) -> None:
    """The contract of `check`, its exit codes, and `describe` and `codebook` beside it."""
    data, codebook = tmp_path / "data.csv", tmp_path / "codes.txt"
    data.write_text("id,tenure,extra\n1,1,a\n2,2,b\n3,8,c\n4,-9,d\n")
    codebook.write_text(
        "Codebook\n\ntenure - how held (1 = own, 2 = shared, -9 = refused)\nid - running number\ngone - gone\n"
    )
    run = rowtag("check", str(data), "--codebook", str(codebook), "--json")
    found = json.loads(run.stdout)
    assert run.returncode == 1 and list(found) == ["records", "codebook", "variables", "findings"]
    assert found["codebook"] == {
        "matched": ["id", "tenure"], "only_in_codebook": ["gone"], "only_in_data": ["extra"], "unplaced_lines": 1,
    }  # fmt: skip
    worst = found["findings"][0]
    assert worst == {
        "check": "unlisted codes", "severity": "error", "variable": "tenure", "count": 1, "values": ["8"],
        "message": "1 entry is beyond what the code list allows", "records": [3],
    }  # fmt: skip
    assert found["variables"][1]["fill"] == {"valid": 2, "missing": 1, "blank": 0, "stray": 1}
    assert "only in the data: extra" in rowtag("check", str(data), "--codebook", str(codebook)).stdout
    described = json.loads(rowtag("describe", str(data), "--codebook", str(codebook), "--json").stdout)
    assert described["variables"] == found["variables"] and described["codebook"] == found["codebook"]
    data.write_text("id,tenure\n1,1\n2,2\n")
    assert rowtag("check", str(data), "--codebook", str(codebook)).returncode == 0
    assert rowtag("check", str(data), "--codebook", str(tmp_path / "none")).returncode == 2


def test_rules_beside_a_codebook(tmp_path: Path) -> None:
    """Records that break a rule, with the rule's title; one that cannot be held; and what cannot be read, by place."""
    data, codebook, rules = tmp_path / "data.csv", tmp_path / "codes.txt", tmp_path / "rules.txt"
    data.write_text("tenure,size\n1,20\n3,\n3,40\n2,10\n")
    codebook.write_text(
        'tenure  nominal  integer\n  "Held"\n  1 Own\n  2 Shared\n  3 Waiting\nsize  ratio  integer\n  "Size"\n'
    )
    rules.write_text('"No plot"\n  if tenure is \'Waiting\' then size is blank\n\nsize < 90\n"Old"  note\n  age > 17\n')
    asked = ("check", str(data), "--codebook", str(codebook), "--rules", str(rules))
    run = rowtag(*asked, "--json")
    found = {each["check"]: each for each in json.loads(run.stdout)["findings"]}
    assert run.returncode == 1
    broken = found["rule broken"]
    assert (broken["severity"], broken["variable"], broken["variables"]) == ("error", None, ["tenure", "size"])
    assert (broken["rule"], broken["records"], broken["values"]) == ("No plot", [3], ["tenure 3, size 40"])
    assert "There is no variable “age”" in found["rule cannot be held"]["message"]
    rules.write_text('"No plot"\n  if tenure = 3 then\n    size is blnk\n')
    wrong = rowtag(*asked)
    assert wrong.returncode == 2 and "rules.txt, row 3, character 13" in wrong.stderr
    rules.write_bytes(b"\xff\xfe")
    assert "no text in UTF-8" in rowtag(*asked).stderr


def test_a_report_and_when_to_fail(tmp_path: Path) -> None:
    """One page that stands for itself, with what was found and nothing run; the exit code as somebody wants it."""
    data, codebook = tmp_path / "data.csv", tmp_path / "codes.txt"
    data.write_text("tenure,note\n1,a\n2,<script>alert(1)</script>\n")
    codebook.write_text('tenure  nominal  integer\n  "Held <so>"\n  1 Own\n  2 Own\nnote  nominal  text\n  "Note"\n')
    report = tmp_path / "report.html"
    asked = ("check", str(data), "--codebook", str(codebook))
    assert rowtag(*asked, "--report", str(report)).returncode == 0
    page = report.read_text("utf-8")
    assert "“Own” stands for 1 and 2" in page and "2 records, 2 variables" in page and "What was checked" in page
    assert "<script" not in page and "http" not in page and page.count("<table>") == page.count("</table>") == 2
    assert rowtag(*asked, "--fail-on", "warning").returncode == 1
    assert "no severity “bad”" in (wrong := rowtag(*asked, "--fail-on", "bad")).stderr and wrong.returncode == 2
    assert rowtag(*asked, "--report", str(tmp_path / "none" / "r.html")).returncode == 2


def test_what_is_understood_of_a_document(tmp_path: Path) -> None:
    """The contract of `codebook`: variables with codes, ranges and reasons, and lines not placed."""
    path = tmp_path / "notes.txt"
    path.write_text(
        "Our notes.\n\nage - age, banded\n   18-34  young\n   60+  old\n   -9  refused\n"
        "sex - sex (1 = man, 2 = woman)\n"
    )
    found = json.loads(rowtag("codebook", str(path), "--json").stdout)
    assert found["unplaced"] == [1]
    age, sex = found["variables"]
    assert (age["name"], age["label"], age["lines"]) == ("age", "age, banded", [3, 6])
    assert age["codes"] == [
        {"low": "18", "high": "34", "label": "young", "missing": None},
        {"low": "60", "high": None, "label": "old", "missing": None},
        {"code": "-9", "label": "refused", "missing": "refused"},
    ]
    assert 0 < sex["certainty"] <= 1 and sex["codes"][1] == {"code": "2", "label": "woman", "missing": None}
    assert "2 variables, 1 lines not placed" in rowtag("codebook", str(path)).stdout


def test_tables_without_a_screen(tmp_path: Path) -> None:
    """Views in words, weighted, of those that meet a condition; as CSV and JSON; all where none is named."""
    data, codes = tmp_path / "plots.csv", tmp_path / "codes.txt"
    data.write_text("held,hours,w\n1,10,2\n1,20,1\n2,5,1\n2,,1\n9,1,1\n", encoding="utf-8")
    codes.write_text(
        "held - How the plot is held\n  1 Own\n  2 Shared\n  9 Refused (missing)\n\nhours - Hours a week\n",
        encoding="utf-8",
    )
    out = tmp_path / "tables.csv"
    asked = ("table", str(data), "--codebook", str(codes), "--weight", "w")
    found = rowtag(*asked, "--view", "hours by held", "--view", "held", "--where", "hours > 1", "--out", str(out))
    assert found.returncode == 0, found.stderr
    assert "Of 5 records 3 meet hours > 1; for 1 it cannot be told." in found.stdout
    lines = [line.split() for line in found.stdout.splitlines()]
    assert next(line for line in lines if line[:2] == ["1", "Own"])[:5] == ["1", "Own", "2", "3.0", "13.33"]
    rows = [line.split(",") for line in out.read_text(encoding="utf-8").splitlines()]
    assert ["1", "Own", "2", "3.0", "75.0", "75.0"] in rows
    whole = json.loads(rowtag("table", str(data), "--codebook", str(codes), "--json").stdout)
    assert [each["title"] for each in whole["tables"]] == ["How the plot is held (held)", "Hours a week (hours)", "w"]
    refused = rowtag("table", str(data), "--view", "held by nothing")
    assert refused.returncode == 2 and "There is no variable “nothing”." in refused.stderr
