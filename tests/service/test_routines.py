"""Routines: whatever was done, saved and run on its file, gives the same; on another file it tells what differs."""

import json
import secrets
import zipfile
from concurrent.futures import ThreadPoolExecutor
from contextlib import closing
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

import pytest
from fastapi.testclient import TestClient
from hypothesis import given, settings
from hypothesis import strategies as st

from rowtag.core.errors import BadInput, RowTagError
from rowtag.core.refs import references
from rowtag.core.steps.entries import SetEntries
from rowtag.core.steps.tags import Define, Rename
from rowtag.core.study import Study
from rowtag.core.tag import Parts
from rowtag.demo import generator
from rowtag.demo.seed import DEMO_ID, ensure_demo
from rowtag.formats.intake import guess
from rowtag.formats.routine import MOST_SIGNS, read, write
from rowtag.formats.written import Options
from rowtag.service.codebook import under_codebook
from rowtag.service.coming import File
from rowtag.service.handover import archive, usual_writers
from rowtag.service.intake import bring_in
from rowtag.service.routines import Ran, kept_as_study, kept_on, run, saved, told
from rowtag.store.studyfile import StudyFile
from rowtag.store.workspace import Workspace
from tests import generate
from tests.conftest import PLOTS, brought_in
from tests.core.test_replay import as_said, under_other_ids
from tests.generate import contents
from tests.store.test_studyfile import ids
from tests.test_cli import rowtag


def with_ids_of(study: Study, other: Study) -> Any:
    """Everything that a study is, under the ids that its things have in another, met by their order; what is named and
    not there any more is gone in both."""
    met = {}
    for shelf in ("view", "comment", "rule"):
        named = [each for value in study.shelves[shelf].values() for each in references(value)]
        gone = {each.id for each in named if each.ref.kind == "variable"} - study.variables.keys()
        met |= {("variable", id): "gone" for id in gone}
    for shelf in study.shelves:
        met |= {(shelf, own): theirs for own, theirs in zip(study.shelves[shelf], other.shelves[shelf], strict=True)}
    sources = {id: each.model_copy(update={"brought_at": ""}) for id, each in study.shelves["source"].items()}
    variables = {}
    for id, each in study.variables.items():
        source = met.get(("source", each.origin.source or ""), each.origin.source)
        variables[id] = each.model_copy(update={"origin": each.origin.model_copy(update={"source": source})})
    return contents(as_said(under_other_ids(study.put("source", sources).put("variable", variables), met)))


@settings(max_examples=30, deadline=None)
@given(st.data())
def test_any_diary_saved_and_run_on_its_file_gives_the_same(data: st.DataObject) -> None:
    """Steps of all kinds, written as text, read back and run on the file that they began with: all is the same."""
    with TemporaryDirectory() as folder, closing(Workspace(Path(folder) / "workspace")) as workspace:
        path = Path(folder) / "plots.csv"
        path.write_text(PLOTS, "utf-8")
        entry = workspace.create("Plots")
        file = workspace.study(entry.id)
        upload = workspace.receive("plots.csv", [PLOTS.encode()])
        bring_in(file, upload, guess(upload.path, "plots.csv"), step_id="bring")
        for number in range(data.draw(st.integers(0, 6))):
            try:
                file.take(data.draw(generate.steps(file.study)), f"step-{number}")
            except RowTagError:
                continue
        text = write(saved(file, "Plots"))
        ran = run(read(text), "plots.yaml", file=File.at(path))
        assert ran.whole, [(line.do, line.again.why) for line in ran.lines if not line.again.whole]
        assert not (ran.gone or ran.new or ran.strays)
        assert with_ids_of(ran.study, file.study) == with_ids_of(file.study, file.study)
        again = kept_as_study(ran, workspace, "Again")
        assert with_ids_of(workspace.study(again.id).study, file.study) == with_ids_of(file.study, file.study)
        assert b"".join(workspace.study(again.id).source_bytes(upload.sha256)) == PLOTS.encode()


def test_records_by_number_are_told_by_what_they_hold(plots: StudyFile) -> None:
    """Where nothing identifies the records, a typed entry goes only where the file holds what it held."""
    plots.take(SetEntries(variable=ids(plots)["hours"], entries={2: "12", 4: "3"}), "typed-001")
    text = write(saved(plots, "Plots"))
    assert "holding:" in text and "12 hrs" in text
    before = plots.state(plots.way()[-1].parent)
    assert [line.again.came for line in run(read(text), "x.yaml", base=before).lines] == ["nothing to do", "done"]
    other = SetEntries(variable=ids(plots)["hours"], entries={2: "13 hrs"}).apply(before).study
    (_, line) = run(read(text), "x.yaml", base=other).lines
    assert line.again.came == "in part"
    assert line.again.why == ("record 2 holds “13 hrs” in hours, where “12 hrs” was expected",)
    with pytest.raises(BadInput, match="holding"):
        bad = "row tag routine: 1\nsteps:\n- do: set entries\n  holding: 5\n  variable: hours\n  entries: {1: 2}\n"
        run(read(bad), "x.yaml", base=before)


@pytest.fixture(scope="module")
def demo(tmp_path_factory: pytest.TempPathFactory) -> tuple[Path, Path]:
    """A workspace with the demo and some steps of all sorts more; and its whole diary as a routine."""
    folder = tmp_path_factory.mktemp("routine")
    workspace = Workspace(folder / "workspace")
    ensure_demo(workspace)
    file = workspace.study(DEMO_ID)
    file.take(SetEntries(variable=ids(file)["hours"], entries={3: "12", 1_000: "-9"}), secrets.token_hex(4))
    file.take(Define(variables=(ids(file)["tenure"],), parts=Parts(note="007")), secrets.token_hex(4))
    (folder / "demo.yaml").write_text(write(saved(file, workspace.entry(DEMO_ID).title)), "utf-8")
    archive(file.study, workspace.entry(DEMO_ID).title, usual_writers(Options()), folder / "screen.zip")
    (folder / "next.csv").write_text(generator.csv_text(generator.next_year_rows()), "utf-8", newline="")
    generator.write_csv(folder / "fennel-row-2026.csv")
    workspace.close()
    return folder, folder / "demo.yaml"


def test_the_command_gives_what_the_screen_hands_over(demo: tuple[Path, Path]) -> None:
    """The demo's whole diary on the demo's file: data and codebook equal byte by byte."""
    folder, routine = demo
    done = rowtag("run", str(routine), str(folder / "fennel-row-2026.csv"), "--out", str(folder / "out"))
    assert done.returncode == 0, done.stdout[-2_000:] + done.stderr
    assert "All steps were done whole." in done.stdout
    with zipfile.ZipFile(folder / "screen.zip") as zipped:
        assert sorted(zipped.namelist()) == sorted(each.name for each in (folder / "out").iterdir())
        for name in ("data.csv", "datapackage.json"):
            assert zipped.read(name) == (folder / "out" / name).read_bytes(), name


def test_next_year_tells_exactly_what_is_otherwise(demo: tuple[Path, Path]) -> None:
    """Three columns of other heads, one that is gone, a new code; once told by which heads they go, they are met."""
    folder, routine = demo
    done = rowtag("run", str(routine), str(folder / "next.csv"), "--json")
    assert done.returncode == 1
    found = json.loads(done.stdout)
    renamed: Any = generator.NEXT_YEAR["renamed"]
    assert found["columns gone"] == ["q4", "q12", "q19", "q21"]
    assert found["columns new"] == list(renamed.values())
    assert found["strays"] == {"tenure": ["4"]}
    assert set(found["notes"]) == {
        "1 step that concerns single records of the first file is left out",
        *(f"perhaps “{old}” is called “{new}” now" for old, new in renamed.items()),
    }
    lacking = {"q4", "q12", "q19", "q21", "plot_size", "letter", "distance", "joined"}
    for step in found["steps"]:
        assert (step["came"] == "done") == (not step["why"])
        assert all(
            any(name in why for name in lacking) or " of " in why or "was expected" in why for why in step["why"]
        ), step
    told_heads = [word for old, new in renamed.items() for word in ("--column", f"{old}={new}")]
    found = json.loads(rowtag("run", str(routine), str(folder / "next.csv"), "--json", *told_heads).stdout)
    assert (found["columns gone"], found["columns new"]) == (["q12"], [])
    assert found["notes"] == ["1 step that concerns single records of the first file is left out"]
    assert {step["came"] for step in found["steps"]} == {"done", "in part", "not possible"}
    stuck = [why for step in found["steps"] if step["came"] == "not possible" for why in step["why"]]
    assert {why for why in stuck if "expected" not in why} == {"no variable is called “letter”"}
    assert not [step for step in found["steps"] if step["do"] == "set entries"]
    asked = rowtag("run", str(routine), str(folder / "next.csv"), "--json", "--single-records", *told_heads).stdout
    typed = [step for step in json.loads(asked)["steps"] if step["do"] == "set entries"]
    assert [step["came"] for step in typed] == ["not possible"], "plots stand twice, so that records go by number"
    assert all("this is another file" in why for step in typed for why in step["why"])


def test_kept_as_a_study(demo: tuple[Path, Path], tmp_path: Path) -> None:
    """The next wave: a study of its own with its diary, from one command; a workspace in use is told."""
    folder, routine = demo
    more = ("--study", "Fennel Row 2027", "--workspace", str(tmp_path / "other"))
    done = rowtag("run", str(routine), str(folder / "next.csv"), *more)
    assert done.returncode == 1 and "Kept as the study “Fennel Row 2027”" in done.stdout
    workspace = Workspace(tmp_path / "other")
    (entry,) = workspace.entries()
    assert (entry.title, entry.records, workspace.study(entry.id).step_count() > 50) == ("Fennel Row 2027", 1_204, True)
    workspace.close()
    printed = rowtag("routine", DEMO_ID, "--workspace", str(folder / "workspace")).stdout
    assert printed == routine.read_text("utf-8")


def test_on_a_study_that_is_there(plots: StudyFile, workspace: Workspace) -> None:
    """Done on another study all steps are kept together; undo leads back before them; what came in before stays."""
    routine = saved(plots, "Plots")
    plots.take(Rename(names={ids(plots)["tenure"]: "held_as"}), "renamed")
    text = write(saved(plots, "Plots", ["renamed"]))
    plots.move("undo", expected=plots.revision)
    before = contents(plots.study)
    ran: Ran = run(read(text), "x.yaml", base=plots.study)
    kept_on(ran, plots, expected=plots.revision)
    assert "held_as" in ids(plots)
    plots.move("undo", expected=plots.revision)
    assert contents(plots.study) == before
    found = told(run(routine, "x.yaml", base=plots.study))
    assert [(step["came"], step["why"]) for step in found["steps"]] == [
        ("nothing to do", ["the study has data already"])
    ]  # fmt: skip
    with pytest.raises(BadInput, match="None of these steps"):
        kept_on(run(routine, "x.yaml", base=plots.study), plots, expected=plots.revision)


@pytest.mark.parametrize(
    ("step", "message"),
    [
        ("do: dance", "row 4: There is no step called “dance”"),
        ("do: rename\n    nomes: {a: b}", "row 4: Step “rename” is not complete"),
        ("do: derive\n    variables: [{how: recode x 1, into: {y: y}}]", "row 4"),
        ("do: bring in\n    columns: 5", "row 4: Step “bring in” is not complete"),
        ("do: rename\n    format: 9\n    names: {a: b}", "does not know"),
        pytest.param(
            f"do: ungroup\n    variables: [{', '.join(f'v{number}' for number in range(20_001))}]",
            "row 4: This step names 20,001 variables; 20,000 are the most.",
            id="more names than any study has",
        ),
    ],
)
def test_what_is_wrong_is_told_before_anything_is_done(tmp_path: Path, step: str, message: str) -> None:
    """Steps that nobody knows, and what cannot be read, with the line: nothing is written."""
    (tmp_path / "plots.csv").write_text(PLOTS, "utf-8")
    (tmp_path / "x.yaml").write_text(f"row tag routine: 1\nstudy: P\nsteps:\n  - {step}\n", "utf-8")
    done = rowtag("run", str(tmp_path / "x.yaml"), str(tmp_path / "plots.csv"), "--out", str(tmp_path / "out"))
    assert done.returncode == 2 and message in done.stderr, done.stderr
    assert not (tmp_path / "out").exists()


def test_odd_things_in_a_routine(tmp_path: Path) -> None:
    """Nothing behind a name, a number that is none, a name that no file can have: none of it is the data's fault."""
    (tmp_path / "plots.csv").write_text(PLOTS, "utf-8")
    steps = f"""
  - do: bring in
    columns: [{{column: "#²", tag: {{name: a}}}}, {{column: "#{"9" * 5000}", tag: {{name: b}}}}]
  - {{do: add records, file: {"x" * 5000}.csv, into: {{a: a}}}}
"""
    for strays in ("{a: }", "{a: 8}", "{a: [8]}", ""):
        text = f"row tag routine: 1\nsteps:{steps}strays: {strays}\n"
        (tmp_path / "x.yaml").write_text(text, "utf-8")
        done = rowtag("run", str(tmp_path / "x.yaml"), str(tmp_path / "plots.csv"))
        assert "Traceback" not in done.stderr and "plots.csv" not in done.stderr, done.stderr
        assert done.returncode != 0 and ("x.yaml" in done.stderr or "not in this file: #²" in done.stdout), done.stdout


def test_under_a_codebook_and_kept(tmp_path: Path) -> None:
    """A file read under a codebook, a routine upon it, and both kept as a study that has steps for all of it."""
    generator.write_csv(tmp_path / "fennel.csv")
    (tmp_path / "codebook.txt").write_text(generator.questionnaire(), "utf-8")
    text = 'row tag routine: 1\nsteps:\n- do: derive\n  variables: [{how: "q5 > 20", into: {many: many}}]\n'
    (tmp_path / "many.yaml").write_text(text, "utf-8")
    asked = ["run", str(tmp_path / "many.yaml"), str(tmp_path / "fennel.csv")]
    more = ["--codebook", str(tmp_path / "codebook.txt"), "--study", "Under", "--workspace", str(tmp_path / "there")]
    done = rowtag(*asked, *more)
    assert done.returncode == 0, done.stdout + done.stderr
    with closing(Workspace(tmp_path / "there")) as workspace:
        (entry,) = workspace.entries()
        file = workspace.study(entry.id)
        assert [passed.step.do for passed in file.way()] == ["bring in", "describe", "derive"]
        under = under_codebook(tmp_path / "fennel.csv", tmp_path / "codebook.txt")[0]
        kept = {each.tag.name: each.tag for each in file.study.variables.values()}
        for id in under.order:
            tag = under.tag(id)
            assert kept[tag.name].with_parts(battery=None, section=None) == tag.with_parts(battery=None, section=None)
            for place in ("battery", "section"):
                here, there = getattr(kept[tag.name], place), getattr(tag, place)
                titles = (here and file.study.shelves[place][here].title, there and under.shelves[place][there].title)
                assert titles[0] == titles[1]
        assert "many" in kept


def test_a_large_routine_is_read_beside_the_server(client: TestClient, workspace: Workspace) -> None:
    """Others are answered while it is read; one that is larger than any may be is told so."""
    study = brought_in(workspace)
    steps = "".join(f"- do: define\n  variables: [hours]\n  parts: {{label: Hours {n}}}\n" for n in range(1_500))
    text = f"row tag routine: 1\nsteps:\n{steps}"
    with ThreadPoolExecutor(1) as pool:
        asked = pool.submit(client.post, f"/api/studies/{study}/routine/preview", json={"text": text, "name": "x.yaml"})
        answered = 0
        while not asked.done():
            assert client.get("/api/studies").status_code == 200
            answered += 1
    assert len(asked.result().json()["lines"]) == 1_500 and answered > 3
    told = client.post(
        f"/api/studies/{study}/routine/preview", json={"text": text + "#" * MOST_SIGNS, "name": "x.yaml"}
    )
    assert "a routine has at most 8,000,000" in told.json()["problem"]["what"], told.text
    assert client.post(f"/api/studies/{study}/routine/preview", json={"text": "a: &b 1", "name": "x"}).json()["problem"]
