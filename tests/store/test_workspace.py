"""The workspace: its catalogue, files handed in, its lock, and its database files."""

import gc
import weakref
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest
import sqlalchemy as sa
from alembic.autogenerate import compare_metadata
from alembic.runtime.migration import MigrationContext

from rowtag.core.engine import engine as engine_of_results
from rowtag.core.errors import BadInput, InUse, NotKept, NotThere, TooLarge
from rowtag.core.steps.entries import SetEntries
from rowtag.demo.seed import DEMO_ID, ensure_demo
from rowtag.store import database
from rowtag.store.migrating import scripts
from rowtag.store.workspace import Workspace
from tests.conftest import brought_in


def test_create_rename_remove_restore(workspace: Workspace) -> None:
    """A study can be made, renamed, removed and restored; what was removed is listed as such."""
    made = workspace.create("  Plots   2026 ")
    assert made.title == "Plots 2026" and made.removed_at is None
    assert workspace.rename(made.id, "Plots").title == "Plots"
    assert workspace.remove(made.id).removed_at
    assert workspace.restore(made.id).removed_at is None
    assert [entry.id for entry in workspace.entries()] == [made.id]


@pytest.mark.parametrize(("title", "sentence"), [(" ", "A study needs a title."), ("x" * 201, "The title has 201")])
def test_titles_are_checked(workspace: Workspace, title: str, sentence: str) -> None:
    """A title is neither empty nor endless."""
    with pytest.raises(BadInput, match=sentence):
        workspace.create(title)


def test_unknown_studies(workspace: Workspace) -> None:
    """A study that is not there is said not to be there, and no file appears."""
    for ask in (workspace.study, workspace.remove, workspace.entry):
        with pytest.raises(NotThere, match="no such study"):
            ask("../../etc/passwd")


def test_a_second_server_is_refused(tmp_path: Path) -> None:
    """One server at a time holds a workspace; when it ends the next may."""
    first = Workspace(tmp_path)
    with pytest.raises(InUse, match="Another Row Tag is serving"):
        Workspace(tmp_path)
    first.close()
    Workspace(tmp_path).close()


def test_uploads_have_limits_and_no_paths(workspace: Workspace) -> None:
    """A file that is too large leaves nothing; a name is never a path."""
    with pytest.raises(TooLarge, match="larger than"):
        workspace.receive("a.csv", [b"x" * 100], most=50)
    upload = workspace.receive("../../evil/.csv", [b"a,b\n"])
    assert upload.path.parent == workspace.folder / "handed-in"
    assert len(list((workspace.folder / "handed-in").iterdir())) == 1
    workspace.discard(upload.id)
    with pytest.raises(NotThere):
        workspace.upload(upload.id)


def test_a_full_disk_keeps_nothing_half(workspace: Workspace) -> None:
    """A file that the disk does not take is refused with what to do, and leaves nothing."""

    def blocks() -> Iterator[bytes]:
        yield b"a,b\n"
        raise OSError(28, "No space left on device")

    with pytest.raises(NotKept) as refused:
        workspace.receive("plots.csv", blocks())
    assert str(refused.value) == (
        "“plots.csv” could not be stored: No space left on device. Make room on the disk, then try again."
    )
    assert not list(workspace.scratch.iterdir())


@pytest.mark.parametrize("kind", ["catalogue", "study"])
def test_migrations_make_what_the_tables_say(tmp_path: Path, kind: str) -> None:
    """The migrations and the tables in code agree, and running them again changes nothing."""
    for _ in range(2):
        engine = database.open_database(tmp_path / "x.sqlite", kind)
        with engine.connect() as connection:
            context = MigrationContext.configure(connection)
            assert compare_metadata(context, getattr(database, kind)) == []
            assert context.get_current_heads() == (database.newest(kind),) == tuple(scripts(kind).get_heads())
        engine.dispose()


def test_commits_are_durable(tmp_path: Path) -> None:
    """The file is in write-ahead mode with full synchronisation."""
    engine = database.open_database(tmp_path / "x.sqlite", "study")
    with engine.connect() as connection:
        assert connection.execute(sa.text("PRAGMA journal_mode")).scalar() == "wal"
        assert connection.execute(sa.text("PRAGMA synchronous")).scalar() == 2
    engine.dispose()


def test_the_demo_is_made_once(workspace: Workspace) -> None:
    """A demo study that somebody has worked on is never overwritten, and comes back when it was removed."""
    ensure_demo(workspace)
    file = workspace.study(DEMO_ID)
    file.move("undo", expected=file.revision)
    revision = file.revision
    workspace.remove(DEMO_ID)
    assert ensure_demo(workspace).removed_at is None
    assert file.revision == revision


def test_many_make_studies_at_once(workspace: Workspace) -> None:
    """Studies made at the same moment are each whole, under their own titles."""
    titles = [f"Plots {number}" for number in range(24)]
    with ThreadPoolExecutor(8) as several:
        made = list(several.map(workspace.create, titles))
    assert [entry.title for entry in made] == titles
    assert all(workspace.study(entry.id).about()["title"] == entry.title for entry in made)
    assert len(workspace.entries()) == 24 and not list(workspace.scratch.iterdir())


def test_a_closed_study_is_let_go_and_taken_up_again(workspace: Workspace) -> None:
    """What was worked out on a study holds on to none of its states; opened again, none of it is worked out anew."""
    study = brought_in(workspace)
    file = workspace.study(study)
    edited, other = file.study.order[1:3]
    for number in range(3):
        file.take(SetEntries(variable=edited, entries={1: str(number)}), f"step-{number}")
    reading = file.study.reading(other)
    states = weakref.ref(file._states)
    workspace._recent.clear()
    del file
    gc.collect()
    assert states() is None
    again = workspace.study(study).study
    assert again.reading(other).parts[0] is reading.parts[0]
    assert again.column(edited).texts_at(again.column(edited).indexes(0, 1)) == ["2"]


def test_who_holds_something_of_a_closed_study_can_read_it(workspace: Workspace) -> None:
    """Entries that were not read while a study was open are read from its closed file, which is not held on to."""
    study = brought_in(workspace)
    workspace.study(study)
    workspace._recent.clear()
    gc.collect()
    file = workspace.study(study)
    held, engine = file.study, weakref.ref(file._engine)
    workspace._recent.clear()
    del file
    gc.collect()
    assert engine() is None
    first = held.order[0]
    assert len(held.column(first).texts_at(held.column(first).indexes(0, 1))) == 1
    del held
    engine_of_results.forget()
    gc.collect()
    other = workspace.create("Other").id
    workspace._recent.clear()
    workspace.study(other)
    assert set(workspace._shared) <= {other}
