"""Arrangements: which records meet conditions, in which order, which are alike; compared with a slow reference."""

from itertools import pairwise

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from rowtag.core.arrangement import ALL, Arrangement, Condition, SortKey
from rowtag.core.arranging import arranged, now
from rowtag.core.column import column_of_texts
from rowtag.core.steps.entries import AddBlankRecords, SetEntries
from rowtag.core.steps.records import Remark, RemoveRecords
from rowtag.core.study import Comment, Records, Study, Variable
from rowtag.core.tag import CodeLine, MissingLine, Tag
from tests import generate
from tests.reference import read

LIST = (CodeLine(code="3", label="Often"), CodeLine(code="1", label="Never"), CodeLine(code="2", label="Seldom"))


def study_of(*columns: tuple[Tag, list[str]], removed: tuple[int, ...] = ()) -> Study:
    size = max(len(entries) for _, entries in columns)
    return Study(records=Records(size, removed)).with_variables(
        [(tag.name, Variable(tag=tag), column_of_texts(entries)) for tag, entries in columns]
    )


OFTEN = Tag(name="often", type="integer", codes=LIST, complete=True, missing=(MissingLine(code="-9"),))
HOURS = Tag(name="hours", type="decimal", level="ratio")
NOTE = Tag(name="note", type="text", level="nominal", use="open-ended")


def rows(study: Study, **asked: object) -> list[int]:
    return (arranged(study, Arrangement.model_validate(asked)) + 1).tolist()


def test_conditions() -> None:
    """By codes however they are spelt, by reading, by text whatever its case, by value; several at once; all but."""
    study = study_of(
        (OFTEN, ["1", "02", "3", "-9", "7", "", "x"]), (HOURS, ["4.5", "10", "9", "", "100", "4", "2"]),
        (NOTE, ["The Tap", "", "tap and gate", "gate", "", "TAP", "x"]),
    )  # fmt: skip
    assert rows(study, conditions=[{"variable": "often", "codes": ["2", "01"]}]) == [1, 2]
    assert rows(study, conditions=[{"variable": "often", "readings": ["missing", "unlisted"]}]) == [4, 5]
    assert rows(study, conditions=[{"variable": "often", "codes": ["1"], "readings": ["blank"]}]) == [1, 6]
    assert rows(study, conditions=[{"variable": "note", "text": "tap"}]) == [1, 3, 6]
    assert rows(study, conditions=[{"variable": "hours", "low": "4", "high": "9"}]) == [1, 3, 6]
    assert rows(study, conditions=[{"variable": "hours", "low": "9"}, {"variable": "note", "text": "gate"}]) == [3]
    assert rows(study, conditions=[{"variable": "note", "text": "tap", "other": True}]) == [2, 4, 5, 7]
    assert rows(study, conditions=[{"variable": "gone", "text": "tap"}]) == [1, 2, 3, 4, 5, 6, 7]


def test_orders() -> None:
    """By the list's order, by value, by letter; what is not valid behind, whichever way; ties as the records came."""
    study = study_of(
        (OFTEN, ["1", "3", "2", "-9", "7", "", "03"]), (HOURS, ["10", "9", "9.0", "", "x", "2", "1e1"]),
        (NOTE, ["b", "A", "a", "", "C", "b", "c"]),
    )  # fmt: skip
    assert rows(study, sort=[{"variable": "often"}]) == [2, 7, 1, 3, 4, 5, 6]
    plain = study.with_tags({"often": study.tag("often").with_parts(level="ratio")})
    assert rows(plain, sort=[{"variable": "often"}]) == [1, 3, 2, 7, 4, 5, 6]
    assert rows(study, sort=[{"variable": "hours"}]) == [6, 2, 3, 1, 7, 5, 4]
    assert rows(study, sort=[{"variable": "hours", "down": True}]) == [1, 7, 2, 3, 6, 5, 4]
    assert rows(study, sort=[{"variable": "note"}]) == [2, 3, 1, 6, 5, 7, 4]
    assert rows(study, sort=[{"variable": "note"}, {"variable": "hours", "down": True}]) == [2, 3, 1, 6, 7, 5, 4]


def test_records_that_are_alike() -> None:
    """Records with the same entries, as they read, stand together; blank ones are not alike."""
    study = study_of(
        (OFTEN, ["1", "2", "01", "", "2", "", "2"]), (NOTE, ["x", "y", "x", "", "z", "", "y"]), removed=(7,)
    )
    assert rows(study, alike=["often", "note"]) == [1, 3]
    assert rows(study, alike=["often"]) == [1, 3, 2, 5]
    assert rows(study, alike=["note"], sort=[{"variable": "often", "down": True}]) == [1, 3]


def test_those_remarked_on() -> None:
    """Records with a comment."""
    study = study_of((NOTE, ["a", "b", "c"]))
    study = Remark(comment="note1", on=Comment(record=2, text="torn")).apply(study).study
    assert rows(study, remarked=True) == [2] and rows(study) == [1, 2, 3]


def test_rows_stay_where_they_are() -> None:
    """What was typed moves no row until it is arranged anew; records that came stand behind, those removed are out."""
    study = study_of((HOURS, ["3", "1", "2", "9"]))
    asked = Arrangement(sort=(SortKey(variable="hours"),), conditions=(Condition(variable="hours", high="5"),))
    before = arranged(study, asked)
    assert before.tolist() == [1, 2, 0]
    later = SetEntries(variable="hours", entries={2: "8"}).apply(study).study
    later = RemoveRecords(records=(3,)).apply(AddBlankRecords(count=2).apply(later).study).study
    assert now(before, study, later).tolist() == [1, 0, 4, 5]
    assert arranged(later, asked).tolist() == [0]
    assert now(before, study, study) is before and arranged(study, ALL).tolist() == [0, 1, 2, 3]


@settings(max_examples=60)
@given(generate.tags, st.lists(generate.entries, min_size=1, max_size=14), st.booleans())
def test_against_a_reference(tag: Tag, entries: list[str], down: bool) -> None:
    """Whatever the tag: each reading gives the records a slow reading gives, and the order never sets a blank ahead."""
    study = study_of((tag, entries))
    id = tag.name
    found = [read(entry, tag) for entry in entries]
    for reading in ("valid", "missing", "blank", "unreadable", "unlisted"):
        expected = [at for at, each in enumerate(found, 1) if each.state == reading]
        assert rows(study, conditions=[{"variable": id, "readings": [reading]}]) == expected
    order = arranged(study, Arrangement(sort=(SortKey(variable=id, down=down),)))
    assert sorted(order.tolist()) == list(range(len(entries)))
    behind = {"valid": 0, "missing": 1, "unreadable": 2, "unlisted": 2, "blank": 3}
    assert all(behind[found[a].state] <= behind[found[b].state] for a, b in pairwise(order))
    values = study.reading(id).values
    if values is not None and not study.codes(id):
        tokens = study.column(id).tokens_at(np.arange(len(entries)))
        valid = [float(values[tokens[at]]) for at in order if found[at].state == "valid"]
        assert valid == sorted(valid, reverse=down)


def test_over_many_chunks() -> None:
    """Records of all chunks take their places."""
    size = 200_000
    study = study_of((HOURS, [str(number % 97) for number in range(size)]))
    order = arranged(study, Arrangement(sort=(SortKey(variable="hours", down=True),)))
    assert order[:3].tolist() == [96, 193, 290] and np.unique(order).size == size


def test_a_range_on_what_became_text() -> None:
    """A kept view with a range is no error where its variable became text: it bounds nothing there."""
    study = study_of((HOURS, ["4", "12", "about 5"]))
    condition = {"variable": "hours", "low": "10", "high": "80"}
    assert rows(study, conditions=[condition]) == [2]
    text = study.with_tags({"hours": study.tag("hours").with_parts(type="text")})
    assert rows(text, conditions=[condition]) == []
    assert rows(text, conditions=[{**condition, "text": "about"}]) == [3]
