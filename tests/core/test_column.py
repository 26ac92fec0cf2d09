"""Columns: whatever is done to them, they hold what a plain list of texts would hold."""

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from rowtag.core import column as columns
from rowtag.core.column import CHUNK, FOLD_PATCH_AT, Column, column_of_texts
from tests.generate import entries


def texts_of(column: Column, records: int) -> list[str]:
    return column.texts_at(column.indexes(0, records))


@given(st.lists(entries, max_size=20), st.lists(st.dictionaries(st.integers(0, 30), entries, min_size=1), max_size=6))
def test_edits_are_those_of_a_list(first: list[str], edits: list[dict[int, str]]) -> None:
    """Typing at any place, beyond the end too, gives what a list would hold; earlier columns stay as they were."""
    column, model = column_of_texts(first), [*first, *[""] * (40 - len(first))]
    for edit in edits:
        before, old = column, list(model)
        column = column.with_entries(edit)
        for at, text in edit.items():
            model[at] = text
        assert texts_of(column, 40) == model
        assert texts_of(before, 40) == old
    counts = column.counts(None, 40)
    assert int(counts.sum()) == 40
    tokens = column.texts().to_pylist()
    assert tokens[0] == "" and len(set(tokens)) == len(tokens)
    assert all(model.count(text) == count for text, count in zip(tokens, counts.tolist(), strict=True))


@given(st.lists(entries, min_size=1, max_size=20), entries, entries)
def test_replacing_is_whole_entries(texts: list[str], old: str, new: str) -> None:
    """Replacing one text by another changes exactly the records that held it."""
    column = column_of_texts(texts)
    token = column.find([old])
    after = column.with_replaced(token[token >= 0], new, len(texts))
    assert texts_of(after, len(texts)) == [new if text == old else text for text in texts]


def test_indexes_take_the_smallest_type() -> None:
    """A chunk is as narrow as its own tokens allow, and a second chunk begins after 65,536 records."""
    column = column_of_texts(["1", "2"] * CHUNK)
    assert [chunk.base.dtype for chunk in column.chunks] == [np.uint8, np.uint8]
    assert column_of_texts([str(n) for n in range(300)]).chunks[0].base.dtype == np.uint16


def test_an_edit_touches_one_chunk_and_no_base() -> None:
    """An edit leaves the indexes of every chunk alone; only when patches have grown is one chunk folded."""
    column = column_of_texts(["1"] * (2 * CHUNK))
    first, second = column.chunks
    for record in range(FOLD_PATCH_AT):
        column = column.with_entries({record: "2"})
        assert column.chunks[1] is second
        assert column.chunks[0].same_base(first)
    column = column.with_entries({FOLD_PATCH_AT: "2"})
    assert not column.chunks[0].same_base(first) and not column.chunks[0].where.size
    assert texts_of(column, FOLD_PATCH_AT + 2)[-2:] == ["2", "1"]


def test_removed_records_are_not_counted() -> None:
    """Counts follow the mask of present records, and blanks beyond the end are counted."""
    column = column_of_texts(["a", "b", "a"])
    present = np.array([True, True, False, True])
    counts = dict(zip(column.texts().to_pylist(), column.counts(present, 4).tolist(), strict=True))
    assert counts == {"": 1, "a": 1, "b": 1}


def test_frozen_for_real() -> None:
    """Nobody can write into the indexes of a column."""
    assert not column_of_texts(["a", "b"]).chunks[0].base.flags.writeable
    assert columns.EMPTY_COLUMN.length == 0


@given(st.lists(st.text(max_size=3), max_size=30), st.lists(st.text(max_size=3), max_size=12))
def test_find_gives_the_token_of_each_text(there: list[str], wanted: list[str]) -> None:
    """Few texts and many, repeated ones too, in a column of several segments."""
    column = column_of_texts(there).with_entries({0: "a text typed later", 1: "another"})
    for sought in (wanted, wanted * 200 if len(wanted) > 5 else wanted):
        tokens = column.find(sought).tolist()
        known = column.texts().to_pylist()
        assert tokens == [known.index(text) if text in known else -1 for text in sought]
