"""A study on disk: what was accepted is there, once, to the letter; every state can be returned to."""

import shutil
import sqlite3
import threading
from concurrent.futures import ThreadPoolExecutor
from itertools import pairwise
from pathlib import Path
from tempfile import TemporaryDirectory

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rowtag.core.errors import Changed, NotKept, NotThere, RowTagError
from rowtag.core.steps import Made
from rowtag.core.steps.entries import ReplaceEntries, SetEntries
from rowtag.core.steps.tags import Define, Rename
from rowtag.core.steps.variables import RemoveVariables
from rowtag.core.study import Study
from rowtag.core.tag import Parts
from rowtag.store import database, states
from rowtag.store.codec import Blobs, decode, difference, encode, patched
from rowtag.store.studyfile import StudyFile
from rowtag.store.workspace import Workspace
from tests import generate
from tests.conftest import PLOTS, brought_in
from tests.generate import contents

SAMPLES = Path(__file__).parent.parent / "samples"


def ids(file: StudyFile) -> dict[str, str]:
    """Variable ids by name."""
    return {file.study.tag(id).name: id for id in file.study.order}


def label(file: StudyFile, text: str) -> Define:
    return Define(variables=(ids(file)["tenure"],), parts=Parts(label=text))


@settings(max_examples=25)
@given(st.data())
def test_any_steps_undone_and_reopened(data: st.DataObject) -> None:
    """Any sequence of steps, undone, gives the first state; redone, the last; reopened, the same to the letter."""
    first = data.draw(generate.studies())
    with TemporaryDirectory() as folder:
        path = Path(folder) / "study.sqlite"
        file = StudyFile(path)
        _plant(file, first)
        seen = [contents(file.study)]
        for number in range(data.draw(st.integers(1, 6))):
            step = data.draw(generate.steps(file.study))
            try:
                preview = step.apply(file.study)
                outcome = file.take(step, f"step-{number}", base=file.revision)
            except RowTagError:
                assert contents(file.study) == seen[-1]
                continue
            assert outcome.sentence == preview.full_sentence
            seen.append(contents(file.study))
            assert seen[-1] == contents(preview.study)
        for state in reversed(seen[:-1]):
            file.move("undo", expected=file.revision)
            assert contents(file.study) == state
        for state in seen[1:]:
            file.move("redo", expected=file.revision)
            assert contents(file.study) == state
        revision = file.revision
        file.close()
        again = StudyFile(path)
        assert (again.revision, contents(again.study)) == (revision, seen[-1])
        again.close()


def _plant(file: StudyFile, study: Study) -> None:
    """Puts a whole state at the head, as if a step had made it."""

    class Planted(Define):
        def change(self, _study: Study, supplies: object) -> Made:  # type: ignore[override]
            return Made(study, "Planted")

    file.take(Planted(variables=("v0",), parts=Parts(label="")), "planted-0")


@given(generate.studies(), generate.studies())
def test_differences_carry_a_state_into_another(old: Study, new: Study) -> None:
    """What differs, written and read back, turns the one state into the other, from nothing too."""
    for base in (Study(), old):
        blobs = Blobs()
        parts = decode(encode(difference(base, new, blobs)))
        assert contents(patched(base, parts, blobs.data.__getitem__)) == contents(new)


def test_the_same_step_twice_is_one(plots: StudyFile) -> None:
    """A step sent again under the same id gives the first outcome and changes nothing."""
    first = plots.take(label(plots, "How held"), "the-same-id")
    again = plots.take(label(plots, "Something else"), "the-same-id")
    assert again == first and plots.revision == first.revision
    assert plots.study.tag(ids(plots)["tenure"]).label == "How held"


def test_a_second_connection_sees_it_at_once(plots: StudyFile, workspace: Workspace) -> None:
    """What was accepted is in the file before the call returns."""
    plots.take(label(plots, "How held"), "step-aaaa")
    (path,) = [path for path in workspace.folder.glob("*.sqlite") if path.stem != "catalogue"]
    with sqlite3.connect(path) as other:
        assert other.execute("select sentence from step where id = 'step-aaaa'").fetchone()
        assert other.execute("select max(revision) from move").fetchone() == (plots.revision,)
    other.close()


def test_moves_are_new_revisions_and_branches_stay(plots: StudyFile) -> None:
    """Undo then redo never looks fresh; what was left behind stays in the diary and can be returned to."""
    one = plots.take(label(plots, "One"), "step-one1")
    plots.move("undo", expected=plots.revision)
    two = plots.take(label(plots, "Two"), "step-two1")
    assert plots.revision == one.revision + 2
    assert [(line.step_id, line.current) for line in plots.diary()][:2] == [("step-two1", True), ("step-one1", False)]
    plots.move("go", expected=plots.revision, to=one.state)
    assert plots.study.tag(ids(plots)["tenure"]).label == "One"
    plots.move("undo", expected=plots.revision)
    assert plots.redo_sentence() == "Set label “One” on tenure."
    plots.move("go", expected=plots.revision, to=two.state)
    assert plots.undo_sentence() == "Set label “Two” on tenure."
    with pytest.raises(NotThere, match="nothing to redo"):
        plots.move("redo", expected=plots.revision)
    with pytest.raises(NotThere, match="no such state"):
        plots.move("go", expected=plots.revision, to=999)
    with pytest.raises(Changed):
        plots.move("undo", expected=plots.revision - 1)


def test_an_older_base_is_fine_until_it_is_not(plots: StudyFile) -> None:
    """A step for an older revision is applied where all it expected still holds, else the change is named."""
    base = plots.revision
    tenure = ids(plots)["tenure"]
    plots.take(Rename(names={tenure: "held"}), "step-name", by="Ada")
    plots.take(Define(variables=(tenure,), parts=Parts(label="How held")), "step-lab1", base=base)
    with pytest.raises(Changed) as refused:
        plots.take(Define(variables=(tenure,), parts=Parts(label="Other")), "step-lab2", base=base)
    assert refused.value.what == "Meanwhile this was changed: label of held."
    assert any("Renamed tenure to held. (Ada," in line for line in refused.value.details)
    plots.move("undo", expected=plots.revision)
    plots.take(Define(variables=(tenure,), parts=Parts(label="Other")), "step-lab3", base=base)


def test_the_source_stays(plots: StudyFile) -> None:
    """The bytes of a source are kept as they were, and its entries to the letter, whatever is typed."""
    hours = ids(plots)["hours"]
    (source,) = plots.study.shelves["source"].values()
    plots.take(SetEntries(variable=hours, entries={2: "12"}), "step-hour")
    assert b"".join(plots.source_bytes(source.sha256)) == PLOTS.encode()
    assert plots.study.variable(hours).origin.name == "hours"
    assert plots.state(2).column(hours).texts_at(plots.state(2).column(hours).indexes(1, 2)) == ["12 hrs"]


def test_a_failed_write_leaves_all_as_it_was(plots: StudyFile, monkeypatch: pytest.MonkeyPatch) -> None:
    """When the disk refuses, nothing has changed, and the same step goes through later."""
    before, revision = contents(plots.study), plots.revision
    step = ReplaceEntries(variables=(ids(plots)["tenure"],), entries=("1",), by="100")

    def full(*_args: object) -> None:
        raise OSError(28, "No space left on device")

    with monkeypatch.context() as broken, pytest.raises(NotKept, match="No space left"):
        broken.setattr(plots, "_move", full)
        plots.take(step, "step-full")
    assert (contents(plots.study), plots.revision, plots.outcome("step-full")) == (before, revision, None)
    outcome = plots.take(step, "step-full")
    path = str(plots._engine.url.database)
    plots.close()
    again = StudyFile(Path(path))
    assert again.head == outcome.state and again.study.fill(ids(again)["tenure"]).valid == 6
    assert "100" in contents(again.study)["entries"][ids(again)["tenure"]]  # type: ignore[index]


def test_edits_cost_what_they_touch(plots: StudyFile, monkeypatch: pytest.MonkeyPatch) -> None:
    """An edit writes no blob and a few hundred bytes; now and then a state is kept whole, and opening reads few."""
    monkeypatch.setattr(states, "WHOLE_AFTER", 2_000)
    hours = ids(plots)["hours"]
    with plots._reading() as connection:
        blobs = connection.exec_driver_sql("select count(*) from blob").scalar()
    for number in range(120):
        plots.take(SetEntries(variable=hours, entries={number % 6 + 1: str(number)}), f"edit-{number}")
    with plots._reading() as connection:
        sizes = connection.exec_driver_sql("select length(parts) from state where not whole and id > 2").scalars().all()
        whole = connection.exec_driver_sql("select max(id) from state where whole").scalar()
        assert connection.exec_driver_sql("select count(*) from blob").scalar() <= blobs + 8
    assert max(sizes) < 300 and plots.head - whole < 60


def test_a_checkpoint_is_not_made_to_be_thrown_away(plots: StudyFile, monkeypatch: pytest.MonkeyPatch) -> None:
    """A state is written whole only when that may pay, and what only a whole one needs is not kept for nothing."""
    monkeypatch.setattr(states, "WHOLE_AFTER", 600)
    made: list[Study] = []

    def counted(old: Study, new: Study, blobs: Blobs) -> object:
        made.extend([new] if not old.order and new.order else [])
        return difference(old, new, blobs)

    monkeypatch.setattr(states, "difference", counted)
    plots.take(label(plots, "a very long label " * 100), "step-long")
    made.clear()
    hours = ids(plots)["hours"]
    for number in range(60):
        plots.take(SetEntries(variable=hours, entries={number % 6 + 1: str(number)}), f"edit-{number}")
    with plots._reading() as connection:
        whole = connection.exec_driver_sql("select count(*) from state where whole and id > 3").scalar()
        blobs = connection.exec_driver_sql("select count(*) from blob").scalar()
    assert len(made) <= 2 * whole + 3
    assert blobs <= 12


def test_a_wide_study_is_read_from_few_differences(workspace: Workspace, monkeypatch: pytest.MonkeyPatch) -> None:
    """However little each says beside all that a wide study is: no state is behind more of them than are allowed."""
    monkeypatch.setattr(states, "WHOLE_AFTER", 2_000)
    monkeypatch.setattr(states, "MOST_DIFFERENCES", 15)
    heads, row = (",".join(f"{letter}{n}" for n in range(400)) for letter in "v1")
    file = workspace.study(brought_in(workspace, f"{heads}\n{row}\n{row}\n"))
    for number in range(100):
        file.take(SetEntries(variable=file.study.order[number], entries={1: str(number)}), f"edit-{number}")
    with file._reading() as connection:
        rows = connection.exec_driver_sql("select id, whole, length(parts) from state order by id").all()
    whole = [row[0] for row in rows if row[1]]
    assert max(later - earlier for earlier, later in pairwise([*whole, rows[-1][0]])) <= 15 + 10
    assert min(row[2] for row in rows if row[1] and row[0] > 1) > 50 * max(row[2] for row in rows[3:] if not row[1])


def test_a_reader_never_waits_for_a_writer(plots: StudyFile, monkeypatch: pytest.MonkeyPatch) -> None:
    """While one step is applied, and while it is written, others look at the study and apply steps of their own."""
    tenure, hours = ids(plots)["tenure"], ids(plots)["hours"]
    slow, go_on, inside = threading.Event(), threading.Event(), threading.Event()

    class Slow(Define):
        def change(self, study: Study, supplies: object) -> Made:  # type: ignore[override]
            inside.set()
            slow.wait(10)
            return super().change(study, {})

    def written(*given: object) -> object:
        if not go_on.is_set():
            inside.set()
            go_on.wait(10)
        return difference(*given)  # type: ignore[arg-type]

    with ThreadPoolExecutor(2) as pool:
        asked = pool.submit(plots.take, Slow(variables=(tenure,), parts=Parts(label="Slow")), "step-slow")
        assert inside.wait(5)
        revision, study = plots.snapshot()
        assert study.tag(tenure).label == "" and plots.state(plots.head) is study
        quick = plots.take(SetEntries(variable=hours, entries={1: "5"}), "step-quick", base=revision)
        assert quick.revision == revision + 1, "it was applied and kept while the other was being applied"
        slow.set()
        assert asked.result(10).revision == revision + 2
        assert plots.study.tag(tenure).label == "Slow"
        assert plots.study.column(hours).texts_at(plots.study.column(hours).indexes(0, 1)) == ["5"]
        inside.clear()
        monkeypatch.setattr(states, "difference", written)
        asked = pool.submit(plots.take, label(plots, "Written"), "step-written")
        assert inside.wait(5)
        assert plots.snapshot()[0] == revision + 2 and plots.study.tag(tenure).label == "Slow"
        go_on.set()
        assert asked.result(10).revision == revision + 3


def test_many_at_once_lose_nothing(plots: StudyFile) -> None:
    """Steps that come at the same time are each kept once, one after the other."""
    hours = ids(plots)["hours"]

    def typed(number: int) -> int:
        step = SetEntries(variable=hours, entries={number % 6 + 1: str(number)})
        return plots.take(step, f"typed-{number % 40:04}", base=None).revision

    before = plots.revision
    with ThreadPoolExecutor(6) as pool:
        revisions = list(pool.map(typed, range(80)))
    assert len(set(revisions)) == 40 and plots.revision == before + 40
    assert [line.revision for line in plots.diary(40)] == sorted(set(revisions), reverse=True)


def test_undo_far_back_finds_its_columns_in_memory(plots: StudyFile, monkeypatch: pytest.MonkeyPatch) -> None:
    """A state that was let go and is read again is made of the columns that the head still holds."""
    monkeypatch.setattr(states, "KEPT_STATES", 3)
    hours, tenure = ids(plots)["hours"], ids(plots)["tenure"]
    far = plots.take(SetEntries(variable=hours, entries={1: "5"}), "typed-far").state
    for number in range(8):
        plots.take(label(plots, f"Label {number}"), f"label-{number}")
    assert plots._states.held(far) is None
    plots.move("go", expected=plots.revision, to=far)
    head = plots.diary(1)[0].state
    assert plots.study.column(hours) is plots.state(head).column(hours)
    assert plots.study.column(tenure).segments[0] is plots.state(head).column(tenure).segments[0]


def test_kept_files_open(tmp_path: Path) -> None:
    """A study file kept by an earlier version opens with all its parts, and can be worked on."""
    copy = tmp_path / "study.sqlite"
    shutil.copy(SAMPLES / "study_1.sqlite", copy)
    file = StudyFile(copy)
    study = file.study
    assert [study.tag(id).name for id in study.order] == ["plot", "tenure", "hours"]
    tenure = study.tag(ids(file)["tenure"])
    assert (tenure.label, tenure.complete, tenure.codes[0].label) == ("How held", True, "In my own name")
    assert tenure.missing[0].reason == "refused"
    assert study.fill(ids(file)["tenure"]).unlisted == 1
    assert [line.sentence for line in file.diary()][-1] == "Brought in 6 records × 3 variables from plots.csv."
    file.take(label(file, "Newer"), "step-newer")
    file.move("undo", expected=file.revision)
    file.close()


def test_brought_in_again_is_the_same(workspace: Workspace) -> None:
    """The same file gives the same study, but for ids."""
    first, second = (workspace.study(brought_in(workspace)).study for _ in range(2))
    entries = [
        [study.column(id).texts_at(study.column(id).indexes(0, 6)) for id in study.order] for study in (first, second)
    ]
    assert entries[0] == entries[1]
    assert [first.tag(id) for id in first.order] == [second.tag(id) for id in second.order]


def test_what_was_touched_since(plots: StudyFile) -> None:
    """Variables that steps on the way to the head have changed; coming in, and what was undone, do not count."""
    tenure = ids(plots)["tenure"]
    assert plots.touched_since("2000-01-01") == set()
    plots.take(label(plots, "How held"), "step-0001")
    assert plots.touched_since("2000-01-01") == {tenure}
    assert plots.touched_since("2999-01-01") == set()
    plots.move("undo", expected=plots.revision)
    assert plots.touched_since("2000-01-01") == set()


def test_states_of_earlier_revisions(plots: StudyFile) -> None:
    """The state at a revision is the very one that was there; one that never was, or is not in memory, is none."""
    revision, before = plots.revision, plots.study
    plots.take(label(plots, "How held"), "step-0001")
    assert plots.held_at(revision) is before and plots.held_at(plots.revision) is plots.study
    assert plots.held_at(999) is None


def test_removed_variables_leave_the_state(plots: StudyFile) -> None:
    """A removed variable is in no later state on disk, and comes back to the letter when its removal is undone."""
    before, gone = contents(plots.study), ids(plots)["hours"]
    plots.take(RemoveVariables(variables=(gone,)), "step-0001")
    path = Path(str(plots._engine.url.database))
    plots.close()
    reopened = StudyFile(path)
    assert gone not in reopened.study.columns and gone not in reopened.study.variables
    reopened.move("undo", expected=reopened.revision)
    assert contents(reopened.study) == before
    reopened.close()


def test_a_grown_log_is_written_back(workspace: Workspace, monkeypatch: pytest.MonkeyPatch) -> None:
    """A study's log is written into its file beside the steps and shrinks; the catalogue's is by each commit."""
    monkeypatch.setattr(database, "LOG_SIZE", 128 << 10)
    file = workspace.study(brought_in(workspace))
    path = Path(str(file._engine.url.database))
    log, before = path.with_name(path.name + "-wal"), path.stat().st_size
    for number in range(80):
        file.take(label(file, f"{number} {'long ' * 300}"), f"step-{number:08}")
    for number in range(10):  # what was written back is left with a step that finds all of it done
        running = file._log._running
        assert running is not None, "it was begun"
        running.result()
        file.take(label(file, f"short {number}"), f"step-short-{number}")
        if log.stat().st_size < database.LOG_SIZE:
            break
    assert path.stat().st_size > before and log.stat().st_size < database.LOG_SIZE
    for engine, pages in ((file._engine, 0), (workspace._engine, 1_000)):
        with engine.connect() as connection:
            assert connection.exec_driver_sql("PRAGMA wal_autocheckpoint").scalar() == pages
