"""A study file against a plain model of it: any order of steps, undo, redo, go, resending and reopening."""

from pathlib import Path
from tempfile import TemporaryDirectory

from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, precondition, rule

from rowtag.core.errors import Changed, NotThere
from rowtag.core.steps import Step
from rowtag.core.steps.entries import SetEntries
from rowtag.core.steps.tags import Define
from rowtag.core.tag import Parts
from rowtag.service.intake import bring_in
from rowtag.store.studyfile import StudyFile
from rowtag.store.workspace import Upload
from tests.generate import contents, entries, labels


class StudyFileModel(RuleBasedStateMachine):
    """Keeps beside the file what it should hold: a tree of contents, the head, and how the head went."""

    @initialize()
    def bring_a_file_in(self) -> None:
        self.folder = TemporaryDirectory()
        path = Path(self.folder.name) / "plots.csv"
        path.write_text("tenure,hours\n1,4\n2,12 hrs\n,9\n")
        self.path = Path(self.folder.name) / "study.sqlite"
        self.file = StudyFile(self.path)
        self.parents: dict[int, int] = {}
        self.known: dict[int, object] = {1: contents(self.file.study)}
        self.visited = [1]
        self.sent: list[tuple[str, Step]] = []
        from rowtag.formats.intake import guess

        upload = Upload("u", path, "plots.csv", path.stat().st_size, "0")
        outcome = bring_in(self.file, upload, guess(path, "plots.csv"), step_id="bring-in-1")
        self._reached(outcome.state, 1)

    def teardown(self) -> None:
        if hasattr(self, "file"):
            self.file.close()
            self.folder.cleanup()

    def _reached(self, state: int, parent: int) -> None:
        self.parents[state] = parent
        self.known[state] = contents(self.file.study)
        self.visited.append(state)

    def _take(self, step: Step) -> None:
        id, parent = f"step-{len(self.sent)}", self.visited[-1]
        self.sent.append((id, step))
        self._reached(self.file.take(step, id, base=self.file.revision).state, parent)

    @precondition(lambda self: self.visited[-1] != 1)
    @rule(record=st.integers(1, 3), entry=entries, second=st.booleans())
    def type_an_entry(self, record: int, entry: str, second: bool) -> None:
        self._take(SetEntries(variable=self.file.study.order[second], entries={record: entry}))

    @precondition(lambda self: self.visited[-1] != 1)
    @rule(label=labels)
    def set_a_label(self, label: str) -> None:
        self._take(Define(variables=self.file.study.order[:1], parts=Parts(label=label)))

    @precondition(lambda self: self.sent)
    @rule(data=st.data())
    def send_a_step_again(self, data: st.DataObject) -> None:
        id, step = data.draw(st.sampled_from(self.sent))
        before = self.file.revision
        self.file.take(step, id)
        assert self.file.revision == before

    @rule()
    def undo(self) -> None:
        parent = self.parents.get(self.visited[-1])
        if parent is None:
            assert self._refused("undo")
            return
        self.file.move("undo", expected=self.file.revision)
        self.visited.append(parent)

    @rule()
    def redo(self) -> None:
        children = [state for state in self.visited if self.parents.get(state) == self.visited[-1]]
        if not children:
            assert self._refused("redo")
            return
        self.file.move("redo", expected=self.file.revision)
        self.visited.append(children[-1])

    def _refused(self, kind: str) -> bool:
        try:
            self.file.move(kind, expected=self.file.revision)  # type: ignore[arg-type]
        except NotThere:
            return True
        return False

    @rule(data=st.data())
    def go_anywhere(self, data: st.DataObject) -> None:
        state = data.draw(st.sampled_from(sorted(self.known)))
        self.file.move("go", expected=self.file.revision, to=state)
        self.visited.append(state)

    @rule()
    def come_too_late(self) -> None:
        try:
            self.file.move("undo", expected=self.file.revision - 1)
        except Changed:
            return
        raise AssertionError("a move for an older revision went through")

    @rule()
    def close_and_open(self) -> None:
        revision = self.file.revision
        self.file.close()
        self.file = StudyFile(self.path)
        assert self.file.revision == revision

    @invariant()
    def the_head_holds_what_it_should(self) -> None:
        if hasattr(self, "file"):
            assert self.file.head == self.visited[-1]
            assert contents(self.file.study) == self.known[self.visited[-1]]
            assert self.file.step_count() == len(self.parents)
            current = {line.state for line in self.file.diary(most=1_000) if line.current}
            way, state = set(), self.visited[-1]
            while state in self.parents:
                way.add(state)
                state = self.parents[state]
            assert current == way


TestStudyFileModel = StudyFileModel.TestCase
TestStudyFileModel.settings = settings(max_examples=25, stateful_step_count=20, deadline=None)
