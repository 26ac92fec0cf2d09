"""A corrected version of a file: what was done since is done again upon it, and what meets is asked about."""

from collections.abc import Mapping, Sequence
from contextlib import closing
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rowtag.core.errors import BadInput, NotThere, RowTagError
from rowtag.core.same_records import compared_by_record
from rowtag.core.steps.beside import PutBeside
from rowtag.core.steps.entries import AddBlankRecords, SetBlock, SetEntries
from rowtag.core.steps.records import RemoveRecords
from rowtag.core.steps.tags import Define
from rowtag.core.study import Study
from rowtag.core.tag import Parts
from rowtag.formats.intake import guess, read
from rowtag.formats.table import Settings
from rowtag.service.coming import File
from rowtag.service.correcting import Corrected, Correction, correct, corrected
from rowtag.service.intake import Choice, bring_in, source_of
from rowtag.service.more import More, more_records
from rowtag.service.more_variables import MoreVariables, more_variables
from rowtag.service.routines import run, saved
from rowtag.store.sources import compressed_pieces
from rowtag.store.studyfile import StudyFile
from rowtag.store.verify import verify
from rowtag.store.workspace import Workspace, study_files
from tests import generate
from tests.generate import contents
from tests.store.test_studyfile import ids

READ = Settings(separator=",", data_row=2)
FIRST = "plot,tenure,hours\n7,1,4\n8,2,12 hrs\n9,8,9\n10,-9,\n"


class Bench:
    """A study in a workspace, into which texts are brought as files."""

    def __init__(self, workspace: Workspace, text: str) -> None:
        self.workspace = workspace
        self.entry = workspace.create("Plots")
        self.file: StudyFile = workspace.study(self.entry.id)
        upload = self.upload(text)
        bring_in(self.file, upload, READ, step_id="bring-0001")

    def upload(self, text: str, name: str = "plots.csv"):  # type: ignore[no-untyped-def]
        return self.workspace.receive(name, [text.encode()])

    @property
    def source(self) -> str:
        return next(iter(self.file.study.shelves["source"]))

    def look(self, text: str, how: Correction | None = None, *, keep: bool = False) -> Corrected:
        upload = self.upload(text, "plots-2.csv")
        holding = read(upload.path, upload.name, READ)
        source = source_of(upload, holding)
        how = how or Correction(source=self.source, identifier=ids(self.file)["plot"])
        found = corrected(self.file, holding, source, how)
        if keep:
            pieces = (upload.sha256, compressed_pieces(upload.path))
            correct(self.file, holding, source, how, pieces=pieces, expected=self.file.revision)
            if not found.came.new:  # whose variables have other ids each time
                assert contents(self.file.study) == contents(found.after)
        return found

    def entries(self, name: str) -> list[str]:
        study = self.file.study
        column = study.column(study.name_keys[name])
        return column.texts_at(column.indexes(0, study.records.arrived))


@pytest.fixture
def plots(workspace: Workspace) -> Bench:
    return Bench(workspace, FIRST)


def test_records_and_entries_are_told(plots: Bench) -> None:
    """In another order, one gone, one new, one entry otherwise: told one by one, and kept with its bytes."""
    found = plots.look("plot,tenure,hours\n10,-9,\n8,2,12\n11,3,5\n7,1,4\n", keep=True)
    assert (found.same, found.new.tolist(), found.gone.tolist()) == (3, [3], [3])
    (change,) = found.first
    assert (change.record, change.now, change.was, change.entry) == (2, 2, "12 hrs", "12")
    assert plots.entries("plot") == ["10", "8", "11", "7"] and plots.entries("hours") == ["", "12", "5", "4"]
    source = plots.file.study.shelves["source"][plots.source]
    assert source.name == "plots-2.csv" and b"".join(plots.file.source_bytes(source.sha256)).startswith(b"plot,tenure")
    assert next(line.sentence for line in plots.file.diary() if line.current).startswith("Brought in 4 records")
    plots.file.move("undo", expected=plots.file.revision)
    assert plots.entries("hours") == ["4", "12 hrs", "9", ""]


def test_what_was_done_follows_its_record(plots: Bench) -> None:
    """Typed and pasted entries, removed records and what was keyed in behind them go with their identifiers."""
    own = ids(plots.file)
    plots.file.take(SetEntries(variable=own["tenure"], entries={3: "1"}), "typed-001")
    plots.file.take(SetBlock(records=(1, 2), more=1, entries={own["hours"]: ("40", "41", "42")}), "pasted-01")
    plots.file.take(AddBlankRecords(count=1), "blank-001")
    plots.file.take(SetEntries(variable=own["plot"], entries={6: "99"}), "typed-002")
    plots.file.take(RemoveRecords(records=(4,)), "remove-01")
    plots.look("plot,tenure,hours\n10,-9,\n9,8,9\n11,3,5\n8,2,12 hrs\n7,1,4\n", keep=True)
    assert plots.entries("plot") == ["10", "9", "11", "8", "7", "", "99"]
    assert plots.entries("tenure") == ["-9", "1", "3", "2", "1", "", ""]
    assert plots.entries("hours") == ["", "9", "5", "41", "40", "42", ""]
    assert plots.file.study.records.removed == (1,)


def test_what_was_typed_over_a_changed_entry_is_asked_about(plots: Bench) -> None:
    own = ids(plots.file)
    plots.file.take(SetEntries(variable=own["hours"], entries={2: "13", 1: "5"}), "typed-001")
    plots.file.take(SetBlock(records=(2, 3), entries={own["tenure"]: ("3", "3")}), "pasted-01")
    text = "plot,tenure,hours\n7,1,4\n8,1,12\n9,8,9\n10,-9,\n"
    found = plots.look(text)
    told = [(each.variable, each.record, each.was, each.typed, each.entry, each.stays) for each in found.typed]
    assert told == [(own["tenure"], 2, "2", "3", "1", True), (own["hours"], 2, "12 hrs", "13", "12", True)]
    how = Correction(source=plots.source, identifier=own["plot"])
    mixed = how.model_copy(update={"otherwise": (f"{own['hours']}/2",)})
    plots.look(text, mixed, keep=True)
    assert plots.entries("hours") == ["5", "12", "9", ""] and plots.entries("tenure") == ["1", "3", "3", "-9"]
    plots.file.move("undo", expected=plots.file.revision)
    plots.look(text, how.model_copy(update={"typed_stay": False}), keep=True)
    assert plots.entries("hours") == ["5", "12", "9", ""] and plots.entries("tenure") == ["1", "1", "3", "-9"]


def test_what_was_typed_and_is_so_now_is_not_asked_about(plots: Bench) -> None:
    """The file was mended as somebody had mended it here."""
    own = ids(plots.file)
    plots.file.take(SetEntries(variable=own["hours"], entries={2: "12"}), "typed-001")
    assert plots.look("plot,tenure,hours\n7,1,4\n8,2,12\n9,8,9\n10,-9,\n").typed == ()


def test_columns_that_are_gone_new_or_called_otherwise(plots: Bench) -> None:
    own = ids(plots.file)
    plots.file.take(Define(variables=(own["hours"],), parts=Parts(label="Hours a week")), "label-001")
    plots.file.take(Define(variables=(own["tenure"],), parts=Parts(label="How held")), "label-002")
    text = "plot,hours_week,crop\n7,4,beans\n8,12,kale\n9,9,leeks\n10,,beans\n"
    found = plots.look(text)
    assert (found.came.gone, found.came.new) == (["tenure", "hours"], ["hours_week", "crop"])
    assert [line.again.came for line in found.lines if line.again] == ["in part", "not possible", "not possible"]
    renamed = Correction(source=plots.source, identifier=own["plot"], renamed={"hours": "hours_week"})
    found = plots.look(text, renamed, keep=True)
    assert [line.again.came for line in found.lines if line.again] == ["in part", "done", "not possible"]
    assert (
        plots.file.study.tag(own["hours"]).label == "Hours a week" and own["tenure"] not in plots.file.study.variables
    )
    assert "crop" in ids(plots.file)


def test_files_that_came_later_keep_their_records(plots: Bench) -> None:
    """More records and more variables stay with theirs; a corrected version of these is met alike."""
    own = ids(plots.file)
    upload = plots.upload("plot,tenure,hours\n20,1,1\n21,2,2\n", "more.csv")
    more = More(identifier=own["plot"], known="skip")
    more_records(plots.file, upload, guess(upload.path, "more.csv"), more, step_id="more-0001")
    upload = plots.upload("plot,visits\n21,5\n8,6\n", "visits.csv")
    settings = guess(upload.path, "visits.csv")
    beside = MoreVariables(identifier=own["plot"], column=1)
    more_variables(plots.file, upload, settings, beside, step_id="beside-01")
    plots.file.take(SetEntries(variable=own["hours"], entries={6: "77"}), "typed-001")
    plots.look("plot,tenure,hours\n9,8,9\n20,4,4\n8,2,12 hrs\n", keep=True)  # 20 is in the first file now
    assert plots.entries("plot") == ["9", "20", "8", "21"]
    assert plots.entries("hours") == ["9", "4", "12 hrs", "77"]
    assert plots.entries("visits") == ["", "", "6", "5"]
    second, third = list(plots.file.study.shelves["source"])[1:]
    how = Correction(source=second, identifier=own["plot"])
    found = plots.look("plot,tenure,hours\n22,1,1\n21,2,3\n", how, keep=True)
    assert [(each.record, each.was, each.entry, each.typed) for each in found.typed] == [(4, "2", "3", "77")]
    assert plots.entries("plot") == ["9", "20", "8", "22", "21"] and plots.entries("hours")[4] == "77"
    found = plots.look("plot,visits\n9,1\n21,8\n", Correction(source=third, identifier=own["plot"]), keep=True)
    assert plots.entries("visits") == ["1", "", "", "", "8"]
    assert isinstance(plots.file.way()[2].step, PutBeside) and found.changed == {ids(plots.file)["visits"]: 3}
    plots.file.close()
    (path,) = study_files(plots.workspace.folder, plots.entry.id)
    assert verify(path).sound


def test_columns_that_were_left_out_stay_out(plots: Bench) -> None:
    """What somebody did not take of the first version is not taken of the second, nor by a routine."""
    entry = plots.workspace.create("Fewer")
    plots.file = plots.workspace.study(entry.id)
    upload = plots.upload(FIRST)
    bring_in(plots.file, upload, READ, {2: Choice(leave_out=True)}, step_id="bring-0002")
    found = plots.look(FIRST.replace("12 hrs", "12"), keep=True)
    assert (found.came.new, found.came.gone, list(found.changed.values())) == ([], [], [1])
    assert list(ids(plots.file)) == ["plot", "hours"]
    ran = run(saved(plots.file, "Fewer"), "x.yaml", file=File(upload.path, upload.name))
    assert ran.whole and not ran.new and list(ran.study.name_keys) == ["plot", "hours"]


@pytest.mark.parametrize(
    ("text", "identifier", "what"),
    [
        ("tenure,hours\n1,2\n", "plot", "plot has no column in plots-2.csv"),
        ("plot,tenure,hours\n70,1,4\n", "plot", "has the plot of one that was brought in"),
        ("", "plot", "empty|no rows|holds nothing"),
    ],
)
def test_bad_versions_are_refused(plots: Bench, text: str, identifier: str, what: str) -> None:
    before, revision = contents(plots.file.study), plots.file.revision
    with pytest.raises(RowTagError, match=what):
        plots.look(text, keep=True)
    assert contents(plots.file.study) == before and plots.file.revision == revision


def test_a_source_that_is_not_there_is_refused(plots: Bench) -> None:
    with pytest.raises(NotThere, match="not in the study"):
        plots.look(FIRST, Correction(source="nowhere"))


def test_by_order(plots: Bench) -> None:
    own = ids(plots.file)
    plots.file.take(SetEntries(variable=own["tenure"], entries={4: "1"}), "typed-001")
    found = plots.look("plot,tenure,hours\n7,1,4\n8,2,12\n9,8,9\n", Correction(source=plots.source), keep=True)
    assert (found.same, found.new.size, found.gone.tolist()) == (3, 0, [4])
    assert found.lines[1].again is not None and found.lines[1].again.why == ("record 4 is gone",)


ROWS = st.tuples(st.sampled_from(["1", "2", "8", "-9", "x", ""]), st.sampled_from(["4", "12 hrs", "9", "", "n/a"]))


def text_of(rows: Mapping[str, Sequence[str]], order: Sequence[str]) -> str:
    return "plot,tenure,hours\n" + "".join(f"{plot},{','.join(rows[plot])}\n" for plot in order)


def besides_files(study: Study) -> Any:
    """Everything that a study is, but what its files are called and when they came."""
    return contents(study.put("source", dict.fromkeys(study.shelves["source"])))


@settings(max_examples=60, deadline=None)
@given(st.data())
def test_there_and_back_again(data: st.DataObject) -> None:
    """With the same file nothing moves; with one in another order, with other entries and more records, and then with
    the first again, whatever was done since stands as it stood, to the letter."""
    with TemporaryDirectory() as folder, closing(Workspace(Path(folder) / "workspace")) as workspace:
        plots = [str(7 + at) for at in range(data.draw(st.integers(1, 5)))]
        rows = {plot: data.draw(ROWS) for plot in plots}
        bench = Bench(workspace, text_of(rows, plots))
        bench.file.take(Define(variables=(ids(bench.file)["plot"],), parts=Parts(type="integer")), "define-01")
        plot = ids(bench.file)["plot"]
        for number in range(data.draw(st.integers(0, 5))):
            step = data.draw(generate.steps(bench.file.study))
            if plot in str(step):  # what tells the records stays as it is
                continue
            try:
                bench.file.take(step, f"step-{number:04}")
            except RowTagError:
                continue
        before = besides_files(bench.file.study)
        how = Correction(source=bench.source, identifier=plot)
        same = bench.look(text_of(rows, plots), how)
        assert besides_files(same.after) == before and not same.compared.variables
        assert not same.changed and not same.typed and same.same == len(plots)
        more = [*plots, *data.draw(st.sampled_from([[], ["97"], ["97", "98"]]))]
        otherwise = {
            plot: rows[plot] if plot in rows and data.draw(st.booleans()) else data.draw(ROWS) for plot in more
        }
        try:
            forth = bench.look(text_of(otherwise, data.draw(st.permutations(more))), how, keep=True)
        except BadInput:
            return
        if any(line.again is None or line.again.came != "done" for line in forth.lines):
            return  # what could not be done upon it was left out, and does not come back
        if any(line.again is None or not line.again.whole for line in bench.look(text_of(rows, plots), how).lines):
            return
        bench.look(text_of(rows, plots), how, keep=True)
        assert besides_files(bench.file.study) == before


@pytest.mark.parametrize(
    ("text", "came", "gone", "changed"),
    [
        ("plot,tenure,hours\n8,2,12 hrs\n9,8,9\n10,-9,\n", 0, [1], {}),
        ("plot,tenure,hours\n7,1,4\n9,8,9\n10,-9,\n", 0, [2], {}),
        ("plot,tenure,hours\n10,-9,\n9,8,9\n8,2,12 hrs\n7,1,4\n", 0, [], {}),
        ("plot,tenure,hours\n6,1,1\n7,1,4\n8,2,12\n9,8,9\n10,-9,\n", 1, [], {"hours": 1}),
    ],
)
@pytest.mark.parametrize("identified", [True, False])
def test_editions_are_compared_by_record(
    plots: Bench, text: str, came: int, gone: list[int], changed: dict[str, int], identified: bool
) -> None:
    """A corrected file numbers its records anew; what did not change does not count as changed, whether an identifier
    tells the records or what they hold."""
    named = ids(plots.file)
    use = "identifier" if identified else "answer"
    plots.file.take(Define(variables=(named["plot"],), parts=Parts(use=use)), "define-1")
    before = plots.file.study
    plots.look(text, Correction(source=plots.source, identifier=named["plot"]), keep=True)
    after = plots.file.study
    found = compared_by_record(before, after)
    assert found.records_came.size == came and found.records_gone.tolist() == gone
    assert {after.tag(each.id).name: each.entries for each in found.variables if each.entries} == changed
    there_and_back = compared_by_record(after, before)
    assert there_and_back.records_gone.size == came and there_and_back.records_came.size == len(gone)
