"""Looking at records: pages, removed records, and finding entries across chunks."""

from dataclasses import replace

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from rowtag.core.chunk import CHUNK
from rowtag.core.column import column_of_texts
from rowtag.core.frame import Frame
from rowtag.core.records import Strays, page, position_of, record_numbers
from rowtag.core.study import Records, Study, Variable
from rowtag.core.tag import CodeLine, MissingLine, Tag

TAG = Tag(
    name="q1",
    type="integer",
    codes=(CodeLine(code="1", label="Yes"),),
    complete=True,
    missing=(MissingLine(code="-9", reason="refused"),),
)


def study_of(entries: list[str], removed: tuple[int, ...] = (), extra: int = 0) -> Study:
    study = Study(records=Records(len(entries) + extra)).with_variables(
        [("v", Variable(tag=TAG), column_of_texts(entries))]
    )
    return replace(study, records=Records(len(entries) + extra, removed))


@given(st.lists(st.sampled_from(["1", "8", "-9", "", "x"]), min_size=1, max_size=30), st.data())
def test_pages_show_present_records_only(entries: list[str], data: st.DataObject) -> None:
    """A page holds the records that are there, under their stable numbers, each with its entry."""
    removed = tuple(data.draw(st.sets(st.integers(1, len(entries)))))
    study = study_of(entries, removed)
    start = data.draw(st.integers(0, len(entries)))
    numbers, (column,) = page(study, ["v"], start, start + 7)
    present = [number for number in range(1, len(entries) + 1) if number not in removed]
    assert numbers == present[start : start + 7]
    assert [column.texts[at] for at in column.index] == [entries[number - 1] for number in numbers]
    fill = study.fill("v")
    assert fill.valid + fill.missing + fill.blank + fill.stray == len(present) == study.records.count


def test_labels_and_reasons_stand_beside_codes() -> None:
    """A valid code carries its label, a missing one its reason, a stray nothing."""
    _, (column,) = page(study_of(["01", "-9", "8"]), ["v"], 0, 3)
    shown = [(column.codes[at], column.labels[at]) for at in column.index]
    assert shown == [("1", "Yes"), ("-9", "refused"), ("8", "")]


def test_entries_are_found_across_chunks_and_beyond_the_end() -> None:
    """Search goes on from a record, over chunk borders, and finds blanks of records that never reached the column."""
    entries = ["1"] * (CHUNK + 5)
    entries[3] = entries[CHUNK + 2] = "x"
    study = study_of(entries, extra=4, removed=(CHUNK + 7,))
    (token,) = study.column("v").find(["x"]).tolist()
    assert Frame(study).numbers_of("v", [token]) == [4, CHUNK + 3]
    assert Frame(study).numbers_of("v", [token], after=4) == [CHUNK + 3]
    assert Frame(study).numbers_of("v", [token], most=1) == [4]
    assert Frame(study).numbers_of("v", [0]) == [CHUNK + 6, CHUNK + 8, CHUNK + 9]
    assert Strays(study).next_after(4, "v") == (CHUNK + 3, "v")


def test_strays_go_along_the_record_first() -> None:
    """From a cell the next stray is looked for along the record, then in the records below."""
    other = Variable(tag=TAG.with_parts(name="q2"))
    study = study_of(["x", "1", "x"]).with_variables([("w", other, column_of_texts(["1", "x", "x"]))])
    way, cell = [], (0, None)
    while (found := Strays(study).next_after(*cell)) is not None:
        way.append(found)
        cell = found
    assert way == [(1, "v"), (2, "w"), (3, "v"), (3, "w")]


def test_positions_without_removed_records_are_numbers() -> None:
    """Where nothing was removed, the first record is number one."""
    assert np.array_equal(record_numbers(study_of(["1"] * 5), 2, 9), [3, 4, 5])


def test_a_record_is_found_where_it_stands() -> None:
    """With records removed a number is not a position; what is not there has none."""
    study = study_of(["1"] * 5, removed=(2, 3))
    assert [position_of(study, record) for record in (0, 1, 2, 4, 5, 6)] == [None, 0, None, 1, 2, None]
    assert [record_numbers(study, at, at + 1).tolist() for at in (0, 1, 2)] == [[1], [4], [5]]
