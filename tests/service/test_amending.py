"""Amending the diary: to itself it changes nothing, out and back leads back, and what cannot be is told, not lost."""

from pathlib import Path
from tempfile import TemporaryDirectory

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rowtag.core.errors import BadInput, Changed, NotThere, RowTagError
from rowtag.core.rules import Formula
from rowtag.core.steps.derive import Derive, Into
from rowtag.core.steps.entries import SetEntries
from rowtag.core.steps.tags import Define, Rename
from rowtag.core.tag import Parts
from rowtag.service.amending import Edit, amend, amended, written
from rowtag.store.studyfile import StudyFile
from rowtag.store.verify import verify
from tests import generate
from tests.core.test_replay import as_said
from tests.generate import contents
from tests.store.test_studyfile import _plant, ids


def entries_of(file: StudyFile, name: str) -> list[str]:
    column = file.study.column(ids(file)[name])
    return column.texts_at(column.indexes(0, file.study.records.arrived))


def derived(file: StudyFile, name: str, text: str, id: str) -> str:
    names = {each: ids(file)[each] for each in ("tenure", "holds") if each in text and each in ids(file)}
    step = Derive(variables=(Into(how=Formula(text=text, names=names), into={id: name}),))
    return file.take(step, f"made-{id}", base=file.revision, by="ann").step_id


@settings(max_examples=25, deadline=None)
@given(st.data())
def test_to_itself_nothing_changes(data: st.DataObject) -> None:
    """Whatever was done: a step amended to what it was, or left out and put back, leads to the same state to the
    letter; undo leads back to where the head was; the file is sound and opens the same."""
    with TemporaryDirectory() as folder:
        path = Path(folder) / "study.sqlite"
        file = StudyFile(path)
        _plant(file, data.draw(generate.studies()))
        done = []
        for number in range(data.draw(st.integers(1, 6))):
            try:
                done.append(file.take(data.draw(generate.steps(file.study)), f"step-{number}").step_id)
            except RowTagError:
                continue
        if not done:
            file.close()
            return
        head, was = file.head, contents(as_said(file.study))
        at = data.draw(st.sampled_from(done))
        says = written(file, at)[1]
        for edits in ([Edit(at, "instead", says)], [Edit(at, "before", says), Edit(at, "out")]):
            found = amended(file, edits)
            came = {(line.again.came, line.again.why) for line in found.lines if line.again is not None}
            assert came == {("done", ())}, says
            amend(file, edits, expected=file.revision, by="ann")
            assert contents(as_said(file.study)) == was
            assert (file.undo_sentence() or "").startswith("Amended the diary: ")
            file.close()
            file = StudyFile(path)
            assert contents(as_said(file.study)) == was
            file.move("undo", expected=file.revision)
            assert file.head == head
            assert (file.redo_sentence() or "").startswith("Amended the diary: ")
            file.move("redo", expected=file.revision)
            assert contents(as_said(file.study)) == was
            file.move("undo", expected=file.revision)
        file.close()
        assert verify(path).sound


def test_what_comes_after_is_worked_out_again(plots: StudyFile) -> None:
    """A recode amended: what was derived from it follows; what its codes were needed for is told; nothing is lost."""
    made = derived(plots, "holds", "recode tenure: 1, 2 -> 1 'Holds'; 8 -> 0", "holds")
    derived(plots, "twice", "holds * 2", "twice")
    typed = plots.take(SetEntries(variable=ids(plots)["hours"], entries={1: "5"}), "typed", by="ben")
    assert written(plots, made)[1] == {
        "do": "derive", "variables": [{"how": "recode tenure: 1, 2 -> 1 'Holds'; 8 -> 0", "into": {"holds": "holds"}}]
    }  # fmt: skip
    head, before = plots.head, entries_of(plots, "twice")
    says = {"do": "derive", "variables": [{"how": "recode tenure: 1 -> 3; 2, 8 -> 0", "into": {"holds": "holds"}}]}
    found = amended(plots, [Edit(made, "instead", says)])
    assert [(line.edited, line.again.came) for line in found.lines if line.again] == [
        (True, "done"), (False, "done"), (False, "done")
    ]  # fmt: skip
    assert plots.head == head, "a look keeps nothing"
    moved = {found.after.tag(each.id).name: each.entries for each in found.compared.variables}
    assert moved == {"holds": 4, "twice": 4}
    revision = amend(plots, [Edit(made, "instead", says)], expected=plots.revision, by="cleo")
    assert plots.revision == revision and entries_of(plots, "twice") != before
    said = plots.undo_sentence() or ""
    assert said.startswith("Amended the diary: Derived holds = recode tenure: 1 -> 3; 2, 8 -> 0")
    assert said.endswith("; 2 later steps done again.")
    assert entries_of(plots, "twice")[:2] == ["6", "0"]
    lines = plots.diary()
    assert [(line.by, line.current, line.again) for line in lines[:3]] == [
        ("ben", True, True), ("ann", True, True), ("cleo", True, False)
    ]  # fmt: skip
    assert lines[2].instead == made
    assert sum(not line.current for line in lines) == 3, "the way it was stays in the diary"
    plots.move("go", expected=plots.revision, to=head)
    assert entries_of(plots, "twice") == before
    assert typed.sentence == plots.diary(1)[0].sentence


def test_what_is_not_possible_is_mended_or_left_out(plots: StudyFile) -> None:
    """Without the step that made a variable what was derived from it cannot be; by decision it is left out, too."""
    made = derived(plots, "holds", "recode tenure: 1, 2 -> 1; 8 -> 0", "holds")
    then = derived(plots, "twice", "holds * 2", "twice")
    both = Define(variables=(ids(plots)["holds"], ids(plots)["tenure"]), parts=Parts(note="Checked"))
    plots.take(both, "noted")
    out = Edit(made, "out")
    found = amended(plots, [out])
    assert [line.again and line.again.came for line in found.lines] == [None, "not possible", "in part"]
    assert found.lines[1].again is not None and found.lines[1].again.why == (
        "the variable “holds” is not there any more",
    )
    with pytest.raises(BadInput, match=r"Derived twice .* the variable “holds” is not there"):
        amend(plots, [out], expected=plots.revision)
    mended = {"do": "derive", "variables": [{"how": "tenure * 2", "into": {"twice": "twice"}}]}
    amend(plots, [out, Edit(then, "instead", mended)], expected=plots.revision)
    assert "holds" not in ids(plots) and entries_of(plots, "twice")[:3] == ["2", "4", "16"]
    assert plots.study.tag(ids(plots)["tenure"]).note == "Checked"
    plots.move("undo", expected=plots.revision)
    assert "holds" in ids(plots)
    amend(plots, [out, Edit(then, "out")], expected=plots.revision)
    assert "twice" not in ids(plots)
    with pytest.raises(NotThere, match="not in the study as it is now"):
        amended(plots, [Edit(then, "out")])


def test_put_in_and_refused(plots: StudyFile) -> None:
    """A step put into the past counts for what comes after, with the names of then; what is wrong changes nothing."""
    renamed = plots.take(Rename(names={ids(plots)["tenure"]: "held_as"}), "renamed").step_id
    says = {"do": "define", "variables": ["tenure"], "parts": {"label": "How held"}}
    amend(plots, [Edit(renamed, "before", says)], expected=plots.revision)
    assert plots.study.tag(ids(plots)["held_as"]).label == "How held"
    revision, last = plots.revision, plots.diary(1)[0].step_id
    for wrong in ({"do": "dance"}, {"do": "define", "variables": []}, None):
        with pytest.raises(BadInput):
            amended(plots, [Edit(last, "before", wrong)])
    with pytest.raises(Changed):
        amend(plots, [Edit(last, "out")], expected=revision - 1)
    assert plots.revision == revision
