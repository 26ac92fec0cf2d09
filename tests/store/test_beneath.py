"""What lies beneath a study: a clock that goes back, a file that is taken away or replaced while it is open."""

import shutil
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest

from rowtag.core.errors import Damaged
from rowtag.core.steps.entries import SetEntries
from rowtag.service.editions import name_edition
from rowtag.store import backups as keeping
from rowtag.store.editions import editions
from rowtag.store.verify import verify
from rowtag.store.workspace import Workspace
from tests.conftest import brought_in


def typed(workspace: Workspace, id: str, text: str) -> int:
    """Types a text into the first record; gives the revision."""
    file = workspace.study(id)
    return file.take(SetEntries(variable=file.study.order[2], entries={1: text}), f"typed-{text}").revision


def first_entry(workspace: Workspace, id: str) -> str:
    study = workspace.study(id).study
    return study.column(study.order[2]).texts_at(study.column(study.order[2]).indexes(0, 1))[0]


def test_a_clock_that_goes_back(tmp_path: Path) -> None:
    """What was done stays in the order in which it was done, whatever the clock said."""
    hours = iter(range(500, 0, -1))

    def clock() -> str:
        return datetime.fromtimestamp(1_780_000_000 + 3_600 * next(hours), UTC).isoformat(timespec="milliseconds")

    workspace = Workspace(tmp_path, clock=clock)
    id = brought_in(workspace)
    for text in ("11", "12", "13"):
        typed(workspace, id, text)
        name_edition(workspace.study(id), f"after {text}")
    file = workspace.study(id)
    file.move("undo", expected=file.revision)
    assert [line.step_id for line in file.diary()][:3] == ["typed-13", "typed-12", "typed-11"]
    assert [each.name for each in editions(file)] == ["after 13", "after 12", "after 11"]
    assert first_entry(workspace, id) == "12" and file.undo_sentence() and file.redo_sentence()
    workspace.remove(id)
    workspace.restore(id)
    workspace.close()
    again = Workspace(tmp_path, clock=clock)
    assert first_entry(again, id) == "12" and verify(again.path(id)).sound
    again.close()


@pytest.fixture
def made_at(monkeypatch: pytest.MonkeyPatch) -> Iterator[list[datetime]]:
    """The moments at which backups are made, in turn."""
    moments: list[datetime] = []

    class Clock(datetime):
        @classmethod
        def now(cls, tz: object = None) -> datetime:  # type: ignore[override]
            return moments.pop(0)

    monkeypatch.setattr(keeping, "datetime", Clock)
    yield moments
    assert not moments


def test_backups_of_a_clock_that_went_ahead(workspace: Workspace, made_at: list[datetime]) -> None:
    """Those dated later than now push out nothing that is made from now on, and are let go in their own time."""
    id = brought_in(workspace)
    begin = datetime(2026, 5, 3, 12, tzinfo=UTC)
    ahead = [begin + timedelta(days=400, minutes=minute) for minute in range(12)]
    made_at += ahead + [begin + timedelta(minutes=minute) for minute in range(12)] + [ahead[-1] + timedelta(days=99)]
    for _ in range(12):
        workspace.back_up(id)
    kept = [workspace.back_up(id).name for _ in range(12)]
    there = [each.name for each in workspace.backups(id)]
    assert set(kept[-10:]) <= set(there) and len(there) == 20
    workspace.back_up(id)
    assert len(workspace.backups(id)) == 10


def test_a_file_taken_away_and_put_back(workspace: Workspace) -> None:
    """Nothing is acknowledged meanwhile; everything that was is there afterwards."""
    id = brought_in(workspace)
    typed(workspace, id, "31")
    file, path = workspace.study(id), workspace.path(id)
    away = path.with_suffix(".away")
    path.rename(away)
    with pytest.raises(Damaged, match="taken away"):
        workspace.study(id)
    with pytest.raises(Damaged, match="taken away"):
        file.take(SetEntries(variable=file.study.order[2], entries={1: "32"}), "typed-lost")
    away.rename(path)
    assert typed(workspace, id, "33") == 4 and first_entry(workspace, id) == "33"
    workspace.close()
    assert verify(path).sound


def test_a_file_replaced_by_another(workspace: Workspace) -> None:
    """Nothing more goes into the old one; the new one is shown as it is and stays sound: no old log is played back."""
    id, other = brought_in(workspace), brought_in(workspace, "plot;hours;rent\n1;2;5\n2;3;6\n")
    typed(workspace, id, "41")
    file, path, carried = workspace.study(id), workspace.path(id), workspace.carry(other)
    shutil.copyfile(carried, carried.with_suffix(".copy"))
    carried.with_suffix(".copy").replace(path)
    with pytest.raises(Damaged, match="Nothing has changed"):
        file.take(SetEntries(variable=file.study.order[2], entries={1: "42"}), "typed-lost")
    with pytest.raises(Damaged, match="replaced by another while it was open") as told:
        workspace.study(id)
    assert told.value.remedy.split(" is kept in ")[1].rstrip(".") in {each.name for each in path.parent.iterdir()}
    assert workspace.study(id).study.records.count == 2 and first_entry(workspace, id) == "5"
    assert typed(workspace, id, "43") == 3
    workspace.close()
    assert verify(path).sound
