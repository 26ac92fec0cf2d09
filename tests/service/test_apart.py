"""Reading apart: what comes back is what was made, and whatever a file makes of its reader stays with the reader."""

import os
import threading
import time
from pathlib import Path

import numpy as np
import pytest

from rowtag.core.errors import BadInput, Cancelled, Place, RowTagError, TooLarge, UnreadableFile
from rowtag.formats import intake
from rowtag.formats.table import Watch
from rowtag.service.apart import MOST_READERS, Apart, apart, typed
from rowtag.service.files import Looked
from tests.formats.books import xlsx


def _adds(a: int, b: int) -> int:
    return a + b


def _refuses(name: str) -> None:
    raise BadInput("No.", remedy="Do otherwise.", where=Place(name, row=3), suggestion="this")


def _stumbles() -> None:
    raise KeyError("constraints")


def _dies() -> None:
    os.abort()


def _hoards(size: int) -> int:
    return len(np.ones(size, np.uint8))


def _waits(sign: Path) -> None:
    while not sign.exists():
        time.sleep(0.01)


def _counts(watch: Watch) -> str:
    for number in range(1_000):
        watch(number / 1_000, "counting")
        time.sleep(0.01)
    return "done"


def test_work_comes_back_and_goes_on() -> None:
    """Results come back; refusals with all they say; and the same reader goes on afterwards."""
    apart = Apart(readers=1)
    assert apart.read("a", _adds, 2, 3) == 5
    with pytest.raises(BadInput) as refused:
        apart.read("a", _refuses, "plots.csv")
    assert (str(refused.value), refused.value.suggestion) == ("plots.csv, row 3: No. Do otherwise.", "this")
    assert apart.read("a", _adds, 2, 2) == 4
    apart.close()


def test_whatever_goes_wrong_is_a_sentence(tmp_path: Path) -> None:
    """A reader that stumbles, dies, takes too much memory or too long says so with the file; others go on."""
    apart = Apart(readers=1, memory=1 << 30, silent=2)
    cases: list[tuple[object, tuple[object, ...], type[RowTagError], str]] = [
        (_stumbles, (), UnreadableFile, "could not be read; it is damaged"),
        (_dies, (), UnreadableFile, "breaks its reader, or makes it take more than the 1,024 MB"),
        (_hoards, (3 << 30,), TooLarge, "larger than the memory there is"),
        (_waits, (tmp_path / "never",), TooLarge, "takes too long"),
    ]
    for work, args, kind, said in cases:
        with pytest.raises(kind, match=said) as refused:
            apart.read("plots.xlsx", work, *args)  # type: ignore[arg-type]
        assert str(refused.value).startswith("plots.xlsx: ") and refused.value.remedy
        assert apart.read("a", _adds, 1, 1) == 2
    apart.close()


def test_a_reader_is_stopped_at_once() -> None:
    """Who stops long work need not wait for it; its progress was told until then."""
    apart, told = Apart(readers=1), []

    def watch(share: float, doing: str) -> None:
        told.append((share, doing))
        if sum(each[1] == "counting" for each in told) > 5:  # it may take a while to begin
            raise Cancelled("Stopped.")

    with pytest.raises(Cancelled):
        apart.read("a", _counts, watch=watch)
    assert told[-1][1] == "counting" and told[-1][0] < 0.5
    assert apart.read("a", _adds, 1, 2) == 3
    apart.close()


def test_readers_hold_up_nobody(tmp_path: Path) -> None:
    """While one file takes its time another is read."""
    apart = Apart(readers=2)
    apart.read("a", _adds, 0, 0)
    slow = threading.Thread(target=lambda: apart.read("slow", _waits, tmp_path / "go on"))
    slow.start()
    assert apart.read("a", _adds, 1, 2) == 3
    assert slow.is_alive()
    (tmp_path / "go on").touch()
    slow.join()
    apart.close()


def test_what_is_typed_waits_for_no_file(tmp_path: Path) -> None:
    """However many files are read, lines that somebody types are read meanwhile."""
    typed.read("a", _adds, 0, 0)
    slow = [
        threading.Thread(target=lambda: apart.read("slow", _waits, tmp_path / "go on")) for _ in range(2 * MOST_READERS)
    ]
    for each in slow:
        each.start()
    assert typed.read("a", _adds, 1, 2) == 3
    assert all(each.is_alive() for each in slow)
    (tmp_path / "go on").touch()
    for each in slow:
        each.join()


@pytest.mark.parametrize("ending", [".csv", ".xlsx"])
def test_a_file_read_apart_is_the_same(tmp_path: Path, ending: str) -> None:
    """Columns, proposals and notes come back as they would be here."""
    rows = [["plot", "size", "since", "said"]]
    rows += [[f"{n:04}", f"{n * 1.25}", f"{1 + n % 28:02}.05.2026", "" if n % 9 else "ä, ö"] for n in range(3_000)]
    path = tmp_path / f"a{ending}"
    if ending == ".csv":
        path.write_text("\n".join(";".join(row) for row in rows), encoding="utf-8")
    else:
        xlsx(path, {"S": rows})
    looked = Looked(path, path.name)
    settings = looked.guess()
    assert settings == intake.guess(path, path.name)
    here, there = intake.read(path, path.name, settings), looked.read(settings)
    assert there.proposals == here.proposals
    assert (there.table.heads, there.table.notes, there.table.foot) == (
        here.table.heads, here.table.notes, here.table.foot
    )  # fmt: skip
    for one, other in zip(here.table.columns, there.table.columns, strict=True):
        assert one.texts().equals(other.texts())
        assert np.array_equal(one.indexes(0, 3_000), other.indexes(0, 3_000))
    assert looked.read(settings) is there, "what was read last is kept"
