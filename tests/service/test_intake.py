"""Bringing in: what was chosen holds, what was stopped leaves nothing, the source stays as it was."""

import pytest

from rowtag.core.errors import BadName, Cancelled, NotThere
from rowtag.formats.intake import guess, read
from rowtag.service import files
from rowtag.service.intake import Choice, bring_in
from rowtag.store.studyfile import StudyFile
from rowtag.store.workspace import Upload, Workspace
from tests.conftest import PLOTS


@pytest.fixture
def empty(workspace: Workspace) -> StudyFile:
    return workspace.study(workspace.create("Plots").id)


@pytest.fixture
def upload(workspace: Workspace) -> Upload:
    return workspace.receive("plots.csv", [PLOTS.encode()])


def test_choices_hold(empty: StudyFile, upload: Upload) -> None:
    """Chosen parts take the place of proposed ones, the others stay; a column left out does not come."""
    choices = {
        1: Choice(leave_out=True),
        2: Choice(name="held", label="How held", level="ordinal"),
        3: Choice(type="integer", level="ratio"),
    }
    bring_in(empty, upload, guess(upload.path, upload.name), choices, step_id="bring-in-1")
    held, hours = (empty.study.tag(id) for id in empty.study.order)
    assert (held.name, held.label, held.level, held.type) == ("held", "How held", "ordinal", "integer")
    assert (hours.name, hours.type, hours.level) == ("hours", "integer", "ratio")
    origins = [empty.study.variable(id).origin for id in empty.study.order]
    assert [(origin.column, origin.name) for origin in origins] == [(2, "tenure"), (3, "hours")]


def test_chosen_names_are_checked(empty: StudyFile, upload: Upload) -> None:
    """A name that cannot be, or is taken, is refused before anything is kept."""
    for name in ("my plot", "HOURS"):
        with pytest.raises(BadName):
            bring_in(empty, upload, guess(upload.path, upload.name), {1: Choice(name=name)}, step_id="bring-in-1")
    assert empty.revision == 1


@pytest.mark.parametrize("after", [0, 1, 3, 5, 7])
def test_stopped_anywhere_nothing_stays(empty: StudyFile, upload: Upload, after: int) -> None:
    """Whenever the stop comes, the study is as before, and the same file can be brought in then."""
    reports = 0

    def watch(_share: float, _doing: str) -> None:
        nonlocal reports
        reports += 1
        if reports > after:
            raise Cancelled("Stopped.")

    settings = guess(upload.path, upload.name)
    with pytest.raises(Cancelled):
        bring_in(empty, upload, settings, step_id="bring-in-1", watch=watch)
    assert empty.revision == 1 and not empty.study.order and empty.step_count() == 0
    bring_in(empty, upload, settings, step_id="bring-in-1")
    assert empty.study.records.count == 6


def test_progress_only_grows(empty: StudyFile, upload: Upload) -> None:
    """The reported share goes from nothing towards one, and says what is being done."""
    reports: list[tuple[float, str]] = []
    settings = guess(upload.path, upload.name)
    bring_in(empty, upload, settings, step_id="bring-in-1", watch=lambda share, doing: reports.append((share, doing)))
    shares = [share for share, _ in reports]
    assert shares == sorted(shares) and shares[0] >= 0 and 0.8 < shares[-1] < 1
    assert list(dict.fromkeys(doing for _, doing in reports)) == ["reading", "proposing tags", "keeping"]


def test_what_is_shown_is_what_comes(empty: StudyFile, upload: Upload) -> None:
    """The proposals that were looked at are the tags that are brought in."""
    settings = guess(upload.path, upload.name)
    holding = read(upload.path, upload.name, settings)
    bring_in(empty, upload, settings, step_id="bring-in-1")
    assert [empty.study.tag(id) for id in empty.study.order] == [each.tag for each in holding.proposals]
    shown = [holding.study.fill(id) for id in holding.study.order]
    assert shown == [empty.study.fill(id) for id in empty.study.order]
    assert [fill.blank for fill in shown] == [0, 0, 1]


def test_files_rest_and_are_read_again(workspace: Workspace, monkeypatch: pytest.MonkeyPatch) -> None:
    """Of many files that wait only the last stay in memory; an earlier one is read again, to the same entries."""
    monkeypatch.setattr(files, "KEPT_READ", 1)
    waiting = files.Files(workspace)
    first, settings = waiting.receive("plots.csv", [PLOTS.encode()])
    held = waiting.opened(first.id)[1].read(settings)
    assert waiting.opened(first.id)[1].read(settings) is held, "a second look costs nothing"
    waiting.receive("other.csv", [b"a,b\n1,2\n"])
    again = waiting.opened(first.id)[1].read(settings)
    assert again is not held and [each.tag for each in again.proposals] == [each.tag for each in held.proposals]
    waiting.close()


def test_files_that_nobody_looks_at_go_after_an_hour(workspace: Workspace) -> None:
    """One that is looked at now and then stays; what it took on the disk of one that nobody wants is free again."""
    now = 0.0
    waiting = files.Files(workspace, lambda: now)
    kept, _ = waiting.receive("plots.csv", [PLOTS.encode()])
    forgotten, _ = waiting.receive("other.csv", [b"a,b\n1,2\n"])
    for later in (2_000.0, 4_000.0):
        now = later
        waiting.opened(kept.id)
        waiting.discard_forgotten()
    assert kept.path.exists() and not forgotten.path.exists()
    with pytest.raises(NotThere):
        waiting.opened(forgotten.id)
    waiting.close()
