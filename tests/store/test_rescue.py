"""What can be read of a damaged study is a study of its own, and holds nothing that the damaged one never held."""

import random
import sqlite3
from contextlib import closing
from pathlib import Path
from typing import Any

import pytest

from rowtag.core.errors import Damaged, RowTagError
from rowtag.core.study import Study
from rowtag.store.rescue import rescue
from rowtag.store.studyfile import StudyFile
from rowtag.store.verify import verify
from rowtag.store.workspace import Workspace
from tests.store.test_damage import made, one_file


def held(study: Study) -> Any:
    """All entries and tags of a state."""
    entries = {id: study.column(id).texts_at(study.column(id).indexes(0, study.records.arrived)) for id in study.order}
    return study.records.arrived, study.records.removed, study.order, {id: study.tag(id) for id in study.order}, entries


def states_of(path: Path) -> list[Any]:
    file = StudyFile(path, there=True)
    try:
        return [held(file.state(number)) for number, *_ in file.tree()]
    finally:
        file.close()


def spoiled(path: Path, statements: str) -> None:
    with closing(sqlite3.connect(path)) as connection:
        connection.executescript(statements)


@pytest.fixture
def kept(workspace: Workspace) -> Path:
    return made(workspace)


@pytest.mark.parametrize(
    ("statements", "steps", "sources"),
    [
        ("DELETE FROM move WHERE revision = 5", 13, True),
        ("DELETE FROM move", 14, True),
        ("UPDATE state SET parts = x'00' WHERE id = 9", 7, True),
        ("DELETE FROM step WHERE state = 9", 5, True),
        ("DELETE FROM about", 13, True),
        ("DELETE FROM piece", 13, False),
        ("DELETE FROM alembic_version", 13, True),
        ("CREATE TRIGGER another AFTER INSERT ON step BEGIN DELETE FROM step; END", 13, True),
    ],
)
def test_the_newest_state_with_its_steps(
    kept: Path, tmp_path: Path, statements: str, steps: int, sources: bool
) -> None:
    """Whatever is gone, what stands beside it is kept: the state at the head, the diary, the source."""
    before = states_of(kept)
    spoiled(kept, statements)
    found = rescue(kept, tmp_path / "new.sqlite", "Plots")
    assert found.steps == steps and found.records == 400 and found.variables == 3
    assert verify(tmp_path / "new.sqlite").sound
    file = StudyFile(tmp_path / "new.sqlite", there=True)
    assert held(file.study) in before and len(file.diary()) == steps
    (source,) = file.study.shelves["source"].values()
    if sources:
        assert b"".join(file.source_bytes(source.sha256)).startswith(b"plot,size")
    file.close()


def test_a_study_cut_short(kept: Path, tmp_path: Path) -> None:
    """However much of its file is left, what is read was a state of it once; or it is said that nothing can be."""
    before, whole, read = states_of(kept), one_file(kept), 0
    for share in range(1, 20):
        kept.write_bytes(whole[: len(whole) * share // 20])
        target = tmp_path / f"{share}.sqlite"
        try:
            rescue(kept, target, "Plots")
        except Damaged as error:
            assert error.what.endswith(".")
            continue
        read += 1
        assert verify(target).sound and all(each in before for each in states_of(target)[1:])
    assert read


def test_flipped_bits(kept: Path, tmp_path: Path) -> None:
    """Of many flips most leave nearly all of it to be read; nothing is read that never was."""
    before, whole, chosen, read = states_of(kept), one_file(kept), random.Random(3), 0
    for number in range(60):
        flipped = bytearray(whole)
        for _ in range(5):
            flipped[chosen.randrange(100, len(whole))] ^= 1 << chosen.randrange(8)
        kept.write_bytes(flipped)
        target = tmp_path / f"{number}.sqlite"
        try:
            rescue(kept, target, "Plots")
        except RowTagError as error:
            assert isinstance(error, Damaged)
            continue
        read += 1
        assert verify(target).sound and all(each in before for each in states_of(target)[1:])
    assert read > 30
