"""Damage: what is not as it was written is told with its place, never read as something else, and harms no other."""

import random
import sqlite3
from collections.abc import Callable
from contextlib import closing
from pathlib import Path
from typing import Any

import pytest

from rowtag.core.errors import BadInput, Damaged, NotThere, RowTagError
from rowtag.core.steps.entries import SetEntries
from rowtag.core.steps.tags import Define
from rowtag.core.tag import Parts
from rowtag.demo.seed import ensure_demo
from rowtag.formats.intake import guess
from rowtag.service.intake import bring_in
from rowtag.store import backups as keeping
from rowtag.store import workspace as opening
from rowtag.store.backups import back_up, folder_of
from rowtag.store.studyfile import StudyFile
from rowtag.store.verify import verify
from rowtag.store.workspace import Workspace, study_files


def made(workspace: Workspace, title: str = "Plots", records: int = 400) -> Path:
    """A study with a source, steps and an undo, closed."""
    entry = workspace.create(title)
    text = "\n".join(["plot,size,said", *(f"{n},{n % 37}.5,{'word ' * (n % 5)}{n}" for n in range(records))])
    upload = workspace.receive("plots.csv", [text.encode()])
    file = workspace.study(entry.id)
    bring_in(file, upload, guess(upload.path, upload.name), step_id="s0")
    plot, size, _ = file.study.order
    file.take(Define(variables=(plot,), parts=Parts(label="Plot")), "s1")
    for number in range(12):
        file.take(SetEntries(variable=size, entries={number + 1: str(90 + number)}), f"e{number}")
    file.move("undo", expected=file.revision)
    workspace.note_change(entry.id)
    path = workspace.path(entry.id)
    file.close()
    return path


def everything(path: Path) -> Any:
    """All that a study's file says, told by reading it."""
    file = StudyFile(path, there=True)
    try:
        states = []
        for state, parent, step in file.tree():
            study = file.state(state)
            entries = [study.column(id).texts_at(study.column(id).indexes(0, 400)) for id in study.order]
            states.append((state, parent, step, [study.tag(id) for id in study.order], entries))
        diary = [(line.step_id, line.sentence, line.revision, line.current) for line in file.diary()]
        source = next(iter(file.study.shelves["source"].values()))
        return file.revision, file.head, file.about(), states, diary, b"".join(file.source_bytes(source.sha256))
    finally:
        file.close()


def one_file(path: Path) -> bytes:
    """A study's file without its log beside it."""
    with sqlite3.connect(path) as connection:
        connection.execute("PRAGMA journal_mode=DELETE")
    connection.close()
    return path.read_bytes()


def test_no_flipped_bit_is_read_as_something_else(workspace: Workspace, tmp_path: Path) -> None:
    """Of a few hundred flips, each is told or harmless; verify tells all that reading tells."""
    path = made(workspace)
    whole = one_file(path)
    expected = everything(path)
    chosen, told = random.Random(7), 0
    other = tmp_path / "flipped" / path.name
    other.parent.mkdir()
    for _ in range(300):
        at = chosen.randrange(len(whole))
        flipped = bytearray(whole)
        flipped[at] ^= 1 << chosen.randrange(8)
        for old in other.parent.iterdir():
            old.unlink()
        other.write_bytes(flipped)
        try:
            found = everything(other)
        except RowTagError as error:
            told += 1
            assert isinstance(error, Damaged), error
            assert error.what.endswith(".") and error.remedy, error
        else:
            assert found == expected, f"byte {at} was read as something else"
    assert told > 30


def test_verify_tells_whatever_is_flipped(workspace: Workspace, tmp_path: Path) -> None:
    """In the schema's own words, too: it says what is wrong in a sentence, and never ends in anything else."""
    whole = bytearray(one_file(made(workspace)))
    other, told = tmp_path / "flipped.sqlite", 0
    begin = whole.index(b"CREATE TABLE")
    for at in range(begin - 400, begin + 1_600, 7):
        whole[at] ^= 4
        other.write_bytes(whole)
        whole[at] ^= 4
        found = verify(other)
        told += not found.sound
        assert all(each.endswith(".") for each in found.problems)
    assert told > 100


def test_text_that_has_become_bytes(workspace: Workspace, tmp_path: Path) -> None:
    """One bit tells them apart, and what they hold is the same: that is told, too."""
    other = tmp_path / "bytes.sqlite"
    for change in (
        "UPDATE step SET by = CAST(by AS BLOB)",
        "UPDATE step SET sentence = CAST(sentence AS BLOB)",
        "UPDATE move SET kind = CAST(kind AS BLOB) WHERE revision = 1",
        "UPDATE step SET body = CAST(body AS TEXT)",
    ):
        other.write_bytes(one_file(made(workspace)))
        with sqlite3.connect(other) as connection:
            connection.execute(change)
        connection.close()
        assert not verify(other).sound, change
    other.write_bytes(one_file(made(workspace)))
    with sqlite3.connect(other) as connection:
        connection.execute("UPDATE blob SET data = CAST(data AS TEXT)")
    connection.close()
    with pytest.raises(Damaged):
        everything(other)


def test_names_in_a_file_that_are_no_text(workspace: Workspace, tmp_path: Path) -> None:
    """Where the database itself cannot say what is wrong, since it would have to name it, that is damage, too."""
    whole = one_file(made(workspace))
    for name in (b"CREATE TABLE blob", b"CREATE TABLE step", b"CREATE INDEX"):
        at = whole.index(name)
        for spoilt in (whole[:at] + b"CR\xb1\xff" + whole[at + 4 :], whole[: at + 13] + b"\xb1" + whole[at + 14 :]):
            other = tmp_path / "named.sqlite"
            other.write_bytes(spoilt)
            with pytest.raises(Damaged):
                StudyFile(other, there=True)
            assert not verify(other).sound


def spoiled(how: str, path: Path) -> None:
    """Spoils a study's file."""
    whole = one_file(path)
    if how == "missing":
        path.unlink()
    elif how == "empty":
        path.write_bytes(b"")
    elif how == "cut":
        path.write_bytes(whole[: len(whole) // 2])
    elif how == "text":
        path.write_text("plot,size\n1,2\n" * 20)
    elif how == "folder":
        path.unlink()
        path.mkdir()
    else:
        with sqlite3.connect(path) as connection:
            connection.executescript(
                {
                    "newer": "UPDATE alembic_version SET version_num = '0999'",
                    "another": "ALTER TABLE blob RENAME TO something",
                    "no moves": "DELETE FROM move",
                    "a move": "DELETE FROM move WHERE revision = 5",
                    "last step": "DELETE FROM move WHERE revision >= (SELECT max(revision) FROM step)",
                    "last undo": "DELETE FROM move WHERE revision = (SELECT max(revision) FROM move)",
                    "no blob": "DELETE FROM blob",
                }[how]
            )
        connection.close()


CASES = {
    "missing": "is missing",
    "empty": "is empty",
    "cut": "was cut short",
    "text": "is no database",
    "folder": "a folder where a file should be",
    "newer": "kept by a newer Row Tag",
    "another": "no study of Row Tag's",
    "no moves": "holds no study",
    "a move": "not all there",
    "last step": "not all there",
    "last undo": "not all there",
    "no blob": "are gone",
}


@pytest.mark.parametrize("how", CASES)
def test_spoiled_files_say_so(tmp_path: Path, how: str) -> None:
    """A study whose file is spoiled says what is wrong, each time, is left as it is, and leaves the others alone."""
    workspace = Workspace(tmp_path / "ws")
    path, other = made(workspace), made(workspace, "Others")
    workspace.close()
    spoiled(how, path)
    before = path.read_bytes() if path.is_file() else None
    workspace = Workspace(tmp_path / "ws")
    for _ in range(2):
        with pytest.raises(Damaged, match=CASES[how]) as refused:
            everything(path) if how == "no blob" else workspace.study(path.stem)
        assert path.name in str(refused.value) and refused.value.remedy
    assert workspace.study(other.stem).study.records.count == 400
    assert [entry.title for entry in workspace.entries() if entry.id == path.stem] == ["Plots"]
    workspace.remove(path.stem)
    workspace.close()
    if how in ("missing", "empty", "cut", "text", "folder"):
        assert (path.read_bytes() if path.is_file() else None) == before
    assert not verify(path).sound


def test_a_file_cut_off_while_its_log_was_written_back(workspace: Workspace, tmp_path: Path) -> None:
    """Killed, or out of room, when its first page was written back and others were not: all is in the log still."""
    id = workspace.create("Plots").id
    path = workspace.path(id)
    before = path.stat().st_size
    upload = workspace.receive(
        "plots.csv", ["\n".join(["plot,size", *(f"{n},{n % 37}.5" for n in range(5_000))]).encode()]
    )
    file = workspace.study(id)
    bring_in(file, upload, guess(upload.path, upload.name), step_id="s0")
    expected = everything(path)
    log = path.with_name(path.name + "-wal").read_bytes()
    with closing(sqlite3.connect(path)) as connection:
        connection.execute("PRAGMA wal_checkpoint(PASSIVE)")
    back = path.read_bytes()
    assert len(back) > before
    other = tmp_path / "killed" / path.name
    other.parent.mkdir()
    other.write_bytes(back[:before])
    with pytest.raises(Damaged, match="was cut short"):  # without the log what is beyond is nowhere
        everything(other)
    other.with_name(path.name + "-wal").write_bytes(log)
    assert verify(other).sound
    assert everything(other) == expected


def test_a_lost_catalogue_is_made_again(tmp_path: Path) -> None:
    """Studies say themselves what they are called and whether they were removed; a damaged catalogue is put aside."""
    workspace = Workspace(tmp_path)
    kept, gone = made(workspace), made(workspace, "Old plots")
    workspace.rename(kept.stem, "Plots of 2026")
    workspace.remove(gone.stem)
    before = {entry.id: (entry.title, bool(entry.removed_at), entry.records) for entry in workspace.entries()}
    workspace.close()
    for spoil in (Path.unlink, lambda path: path.write_bytes(b"no catalogue" * 100)):
        spoil(tmp_path / "catalogue.sqlite")
        workspace = Workspace(tmp_path)
        assert {e.id: (e.title, bool(e.removed_at), e.records) for e in workspace.entries()} == before
        assert any("was taken into the catalogue" in note for note in workspace.notes)
        workspace.close()
    assert list(tmp_path.glob("catalogue-damaged-*"))


def test_nothing_of_others_is_deleted(tmp_path: Path) -> None:
    """Where files wait, only Row Tag's own are taken away; a link there is refused."""
    elsewhere = tmp_path / "elsewhere"
    elsewhere.mkdir()
    (elsewhere / "0123456789abcdef.csv").write_text("mine")
    workspace = Workspace(tmp_path / "ws")
    workspace.receive("a.csv", [b"a\n1\n"])
    (workspace.scratch / "notes.txt").write_text("mine too")
    workspace.close()
    Workspace(tmp_path / "ws").close()
    assert [path.name for path in (tmp_path / "ws" / "handed-in").iterdir()] == ["notes.txt"]
    (tmp_path / "ws" / "handed-in" / "notes.txt").unlink()
    (tmp_path / "ws" / "handed-in").rmdir()
    (tmp_path / "ws" / "handed-in").symlink_to(elsewhere)
    with pytest.raises(BadInput, match="leads elsewhere"):
        Workspace(tmp_path / "ws")
    assert (elsewhere / "0123456789abcdef.csv").read_text() == "mine"


@pytest.mark.parametrize("make", [lambda path: path.write_text("a file"), lambda path: path.symlink_to("nowhere/x/y")])
def test_impossible_workspaces(tmp_path: Path, make: Callable[[Path], Any]) -> None:
    """A folder that cannot be one is refused with a sentence."""
    make(tmp_path / "ws")
    with pytest.raises(BadInput, match="cannot be used as a workspace"):
        Workspace(tmp_path / "ws")


def test_studies_that_nobody_looks_at_are_closed(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """However many are opened in turn, few stay open; one that somebody still holds stays the only one of its file."""
    monkeypatch.setattr(opening, "KEPT_OPEN", 3)
    workspace = Workspace(tmp_path)
    ids = [workspace.create(f"Study {number}").id for number in range(12)]
    held = workspace.study(ids[0])
    for id in ids:
        workspace.study(id)
    handles = [path.resolve() for path in Path("/proc/self/fd").iterdir() if path.exists()]
    assert sum(path.suffix == ".sqlite" and path.parent == tmp_path for path in handles) <= 2 * (3 + 1 + 1)
    assert workspace.study(ids[0]) is held
    workspace.close()


# Backups ----------------------------------------------------------------------------------------


def test_a_backup_in_use_and_back(workspace: Workspace) -> None:
    """A backup of a study in use is whole; taken back it is a study of its own, beside the newer one."""
    path = made(workspace)
    file = workspace.study(path.stem)
    made_backup = workspace.back_up(path.stem)
    plot, *_ = file.study.order
    file.take(Define(variables=(plot,), parts=Parts(label="Later")), "later")
    assert [each.name for each in workspace.backups(path.stem)] == [made_backup.name]
    back = workspace.restore_backup(path.stem, made_backup.name)
    assert back.title.startswith("Plots, as of 20") and back.records == 400
    assert workspace.study(back.id).study.tag(plot).label == "Plot"
    assert workspace.study(path.stem).study.tag(plot).label == "Later"
    with pytest.raises(NotThere):
        workspace.restore_backup(path.stem, "../../catalogue")


def test_a_damaged_study_is_not_backed_up(workspace: Workspace) -> None:
    """Earlier backups stay when the study is damaged, and it is said."""
    path = made(workspace)
    back_up(path, folder_of(path))
    with sqlite3.connect(path) as connection:
        connection.execute("UPDATE move SET head = 1 WHERE revision = 3")
    connection.close()
    with pytest.raises(Damaged, match="was not backed up: A move of the head is not as it was written"):
        back_up(path, folder_of(path))
    assert len(workspace.backups(path.stem)) == 1


def test_backups_are_kept_by_number_and_date(workspace: Workspace, monkeypatch: pytest.MonkeyPatch) -> None:
    """The newest are kept, and the last of each of the last days."""
    monkeypatch.setattr(keeping, "NEWEST", 2)
    path = made(workspace, records=20)
    folder = folder_of(path)
    back_up(path, folder)
    (first,) = folder.iterdir()
    today = first.stem[:10]
    old = ["2020-01-01_10-00-00-000000", f"{today}_00-00-00-000001", f"{today}_00-00-00-000002"]
    for name in old:
        (folder / f"{name}.sqlite").write_bytes(first.read_bytes())
    back_up(path, folder)
    assert [each.name for each in workspace.backups(path.stem)][1:] == [first.stem]
    assert study_files(workspace.folder, "Plots") == [path]


def test_a_damaged_file_is_not_made_over(tmp_path: Path) -> None:
    """Where the demo's file is damaged it is told, and left as it is; another that is made at the same time, too."""
    workspace = Workspace(tmp_path / "ws")
    path = workspace.path(ensure_demo(workspace).id)
    workspace.close()
    spoiled("cut", path)
    (tmp_path / "ws" / "catalogue.sqlite").unlink()
    before = path.read_bytes()
    workspace = Workspace(tmp_path / "ws")
    with pytest.raises(BadInput, match=r"There is a file demo\.sqlite in"):
        ensure_demo(workspace)
    assert path.read_bytes() == before and workspace.entries() == []
    assert not list(workspace.scratch.iterdir())
    workspace.close()
