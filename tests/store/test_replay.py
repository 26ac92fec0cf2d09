"""Kept steps: replayed from nothing they give the states that were kept; older ones are brought up to date."""

import shutil
import sqlite3
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from rowtag.core.steps import Supplies, load
from rowtag.core.steps.bring_in import AddRecords
from rowtag.core.steps.entries import AddBlankRecords, SetEntries
from rowtag.core.steps.tags import Define
from rowtag.core.steps.variables import RemoveVariables
from rowtag.core.study import Study
from rowtag.core.tag import Parts
from rowtag.formats.intake import guess
from rowtag.service.more import More, more_records
from rowtag.service.replay import supplies_of
from rowtag.store import states
from rowtag.store.codec import decode
from rowtag.store.diary import runs
from rowtag.store.studyfile import StudyFile
from rowtag.store.workspace import Workspace
from tests.conftest import brought_in
from tests.generate import contents
from tests.store.test_studyfile import ids, label

SAMPLES = Path(__file__).parent.parent / "samples"


def replayed(file: StudyFile) -> int:
    """Replays every step on the state it was made on, itself replayed; gives how many kinds of step there were."""
    studies: dict[int, Study] = {}
    kinds = set()
    for state, parent, step_id in file.tree():
        if step_id is None:
            studies[state] = Study()
            continue
        assert parent is not None
        step, _ = file.kept_step(step_id)
        kinds.add(step.do)  # type: ignore[attr-defined]
        studies[state] = step.apply(studies[parent], supplies_of(file, step_id)).study
        assert _unaccepted(contents(studies[state])) == _unaccepted(contents(file.state(state))), step
    return len(kinds)


def _unaccepted(found: Any) -> Any:
    """What a study is, without how often what was accepted occurred: the first format did not tell."""
    shelves = {**found["shelves"]}
    accepted = shelves.get("accepted", {})
    shelves["accepted"] = {id: {**each, "count": None, "said": ""} for id, each in accepted.items()}
    return {**found, "shelves": shelves}


def test_a_file_of_the_first_format_replays_whole(tmp_path: Path) -> None:
    """Each of the 30 kinds of step of then, kept with all defaults, is brought up to date and does what it did."""
    shutil.copy(SAMPLES / "study_1_steps.sqlite", tmp_path / "study.sqlite")
    file = StudyFile(tmp_path / "study.sqlite")
    assert replayed(file) == 30
    written = {
        row[0]: decode(row[1])["step"]
        for row in sqlite3.connect(tmp_path / "study.sqlite").execute("SELECT id, body FROM step")
    }
    assert written["first-0001"]["parts"] == {"complete": True, "width": 30}
    assert written["first-0003"]["parts"].keys() == {"level"}
    assert load(written["first-0002"]) is not None and "codes" not in written["first-0002"]["parts"]
    file.close()


def test_a_diary_replays_from_what_is_kept(workspace: Workspace) -> None:
    """Files brought in and added, entries typed, undone branches: all of it again, without the files."""
    id = brought_in(workspace)
    file = workspace.study(id)
    names = ids(file)
    file.take(label(file, "How held"), "step-label")
    file.move("undo", expected=file.revision)
    file.take(SetEntries(variable=names["hours"], entries={2: "12"}), "step-typed")
    upload = workspace.receive("more.csv", [b"plot;tenure;soil\n0042;3;clay\n0049;1;sand\n"])
    more_records(
        file,
        upload,
        guess(upload.path, upload.name),
        More(identifier=names["plot"], known="replace"),
        step_id="step-more",
    )
    file.take(AddBlankRecords(count=2), "step-blank")
    path = Path(str(file._engine.url.database))
    file.close()
    again = StudyFile(path)
    step, supplies = again.kept_step("step-more")
    assert isinstance(step, AddRecords) and supplies is not None and len(supplies) == 3
    assert replayed(again) == 5
    again.close()


def test_along_the_diary(plots: StudyFile, monkeypatch: pytest.MonkeyPatch) -> None:
    """Read in turn, a few rows at once and past whole ones, the states are those that are read one by one."""
    monkeypatch.setattr(states, "AT_ONCE", 3)
    monkeypatch.setattr(states, "WHOLE_AFTER", 400)
    monkeypatch.setattr(states, "KEPT_STATES", 2)
    names = ids(plots)
    for number in range(20):
        plots.take(SetEntries(variable=names["hours"], entries={number % 6 + 1: str(number)}), f"typed-{number:04}")
        if number % 5 == 4:
            plots.move("undo", expected=plots.revision)
    plots.take(label(plots, "How held"), "step-label")
    along = [(passed.id, contents(before), contents(after)) for passed, before, after in plots.along()]
    one_by_one = [
        (each.id, contents(plots.state(each.parent)), contents(plots.state(each.state))) for each in plots.way()
    ]
    assert along == one_by_one and len(along) == 18
    with plots._reading() as connection:
        assert connection.exec_driver_sql("select count(*) from state where whole").scalar() > 2


def test_older_additions_are_read_from_their_source(tmp_path: Path) -> None:
    """Where the entries of an added file were not kept with the step, they come from the file's kept bytes."""
    shutil.copy(SAMPLES / "study_1_steps.sqlite", tmp_path / "study.sqlite")
    file = StudyFile(tmp_path / "study.sqlite")
    assert file.kept_step("more-skip")[1] is None
    supplies: Supplies = supplies_of(file, "more-skip")
    assert sorted(column.length for column in supplies.values()) == [2] * 5
    file.close()


def test_a_run_of_typing_is_one_line_and_many_steps(plots: StudyFile) -> None:
    """What one person typed on and on is told in one sentence; each step can still be undone."""
    hours = ids(plots)["hours"]
    plots.take(label(plots, "How held"), "step-label", by="Ada")
    for record in (1, 2, 3):
        plots.take(SetEntries(variable=hours, entries={record: str(record)}), f"typed-{record}", by="Ada")
    plots.take(SetEntries(variable=hours, entries={4: "4"}), "typed-by-other", by="Bo")
    told = runs(plots.diary(), plots.study)
    assert [(run.sentence, len(run.lines)) for run in told][:3] == [
        (plots.outcome("typed-by-other").sentence, 1),  # type: ignore[union-attr]
        ("Typed 3 entries into hours, records 1 to 3.", 3),
        ("Set label “How held” on tenure.", 1),
    ]
    for left in (3, 2, 1):
        plots.move("undo", expected=plots.revision)
        texts = plots.study.column(hours).texts_at(plots.study.column(hours).tokens_at(np.arange(6)))
        assert sum(text == str(at + 1) for at, text in enumerate(texts[:3])) == left


def test_over_what_one_did_oneself(plots: StudyFile) -> None:
    """Steps made on top of one's own go through; what another did meanwhile is told, and nothing is written over."""
    hours, base = ids(plots)["hours"], plots.revision

    def typed(text: str, record: int = 1) -> SetEntries:
        return SetEntries(variable=hours, entries={record: text})

    plots.take(typed("4"), "mine-0001", base=base)
    plots.take(typed("3"), "mine-0002", base=base, over=["mine-0001"])
    with pytest.raises(Exception, match="entry of hours in record 1"):
        plots.take(typed("9"), "other-0001", base=base)
    plots.take(typed("9", record=2), "other-0002", base=base)
    plots.take(typed("5"), "mine-0003", base=base, over=["mine-0001", "mine-0002"])
    plots.take(typed("8"), "other-0003", base=plots.revision)
    with pytest.raises(Exception, match="entry of hours in record 1") as refused:
        plots.take(typed("6"), "mine-0004", base=base, over=["mine-0001", "mine-0002", "mine-0003"])
    assert refused.value.details[0] == "entry of hours in record 1 is now “8”"  # type: ignore[attr-defined]
    with pytest.raises(Exception, match="changed meanwhile"):
        plots.move("undo", expected=base, over=["mine-0001"])


def test_what_is_gone_is_named_as_it_was_called(plots: StudyFile) -> None:
    """A step on a variable that another took out of the study names it."""
    hours, base = ids(plots)["hours"], plots.revision
    plots.take(RemoveVariables(variables=(hours,)), "step-gone")
    with pytest.raises(Exception, match="taken out of the study: the variable hours"):
        plots.take(Define(variables=(hours,), parts=Parts(label="x")), "step-late", base=base)
