"""Looking at records: pages, removed records, and finding entries across chunks."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from rowtag.core.chunk import CHUNK
from rowtag.core.column import column_of_texts
from rowtag.core.frame import Frame
from rowtag.core.records import StrayCell, Strays, page_of, position_of, record_called, record_numbers
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
    numbers = record_numbers(study, start, start + 7).tolist()
    (column,) = page_of(study, ["v"], record_numbers(study, start, start + 7))
    present = [number for number in range(1, len(entries) + 1) if number not in removed]
    assert numbers == present[start : start + 7]
    assert [column.texts[at] for at in column.index] == [entries[number - 1] for number in numbers]
    fill = study.fill("v")
    assert fill.valid + fill.missing + fill.blank + fill.stray == len(present) == study.records.count


def test_labels_and_reasons_stand_beside_codes() -> None:
    """A valid code carries its label, a missing one its reason, a stray nothing."""
    (column,) = page_of(study_of(["01", "-9", "8"]), ["v"], np.arange(1, 4))
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
    assert Strays(study).beside(4, "v") == StrayCell(CHUNK + 3, "v", 2, 2)


@pytest.mark.parametrize(
    ("text", "record"),
    [
        ("0148", 2),
        (" 148 ", 2),
        ("3", 4),
        ("2", 2),
        ("1", 1),
        ("5", None),
        ("9", None),
        ("x", 4),
        ("", None),
        ("-1", None),
    ],
)
def test_a_record_is_called_by_its_identifier(text: str, record: int | None) -> None:
    """Its identifier, as it stands or as it reads, goes before its number; one that is gone has neither."""
    tag = Tag(name="plot_no", type="integer" if text != "x" else "text", use="identifier")
    columns = [column_of_texts(["7", "0148", "9", "3" if text != "x" else "x", "5"])]
    study = Study(records=Records(5, (3, 5))).with_variables([("v", Variable(tag=tag), columns[0])])
    assert record_called(study, text) == record


@given(st.lists(st.tuples(*[st.sampled_from(["1", "x", "8", "", "-9"])] * 3), min_size=1, max_size=12), st.data())
def test_strays_are_walked_both_ways(rows: list[tuple[str, str, str]], data: st.DataObject) -> None:
    """Along the record first, then below; each once, with its number; back the same way."""
    removed = tuple(data.draw(st.sets(st.integers(1, len(rows)))))
    named = [(name, Variable(tag=TAG.with_parts(name=name))) for name in "abc"]
    columns = [column_of_texts([row[at] for row in rows]) for at in range(3)]
    study = replace(Study(records=Records(len(rows), removed))).with_variables(
        [(name, variable, column) for (name, variable), column in zip(named, columns, strict=True)]
    )
    there = [
        (number, name)
        for number, row in enumerate(rows, 1)
        for name, entry in zip("abc", row, strict=True)
        if number not in removed and entry in ("x", "8")
    ]
    for back in (False, True):
        way, record, variable = [], len(rows) + 1 if back else 0, None
        while (found := Strays(study).beside(record, variable, back=back)) is not None:
            way.append(found)
            record, variable = found.record, found.variable
        cells = [(each.record, each.variable) for each in way]
        assert cells == (there[::-1] if back else there)
        numbers = [each.number for each in way]
        assert numbers == (sorted(numbers, reverse=True) if back else list(range(1, len(there) + 1)))
        assert all(each.of == len(there) for each in way)


def test_positions_without_removed_records_are_numbers() -> None:
    """Where nothing was removed, the first record is number one."""
    assert np.array_equal(record_numbers(study_of(["1"] * 5), 2, 9), [3, 4, 5])


def test_a_record_is_found_where_it_stands() -> None:
    """With records removed a number is not a position; what is not there has none."""
    study = study_of(["1"] * 5, removed=(2, 3))
    assert [position_of(study, record) for record in (0, 1, 2, 4, 5, 6)] == [None, 0, None, 1, 2, None]
    assert [record_numbers(study, at, at + 1).tolist() for at in (0, 1, 2)] == [[1], [4], [5]]
