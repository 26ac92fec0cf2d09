"""Columns: whatever is done to them, they hold what a plain list of texts would hold."""

from decimal import Decimal

import numpy as np
import pyarrow as pa
import pytest
from hypothesis import given
from hypothesis import strategies as st

from rowtag.core import chunk as chunks
from rowtag.core import column as columns
from rowtag.core.chunk import CHUNK, FOLD_PATCH_AT
from rowtag.core.column import Column, column_of_numbers, column_of_texts
from rowtag.core.tokens import large_texts
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


@given(
    st.lists(entries, max_size=20),
    st.lists(st.dictionaries(st.integers(0, 40), entries, min_size=1), min_size=1, max_size=6),
    st.sets(st.integers(0, 44)),
    st.integers(1, 7),
)
def test_a_column_knows_what_was_edited(
    first: list[str], edits: list[dict[int, str]], gone: set[int], fold: int
) -> None:
    """From any earlier column, what was edited since leads to the later one; counts are told from it to the letter."""
    present = np.ones(45, bool)
    present[list(gone)] = False
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(chunks, "FOLD_PATCH_AT", fold)
        line = [column_of_texts(first)]
        for edit in edits:
            line.append(line[-1].with_entries(edit))
        last = line[-1]
        for earlier in line:
            told = last.since(earlier)
            if told is None:
                continue
            more = last.texts_at(np.arange(earlier.token_count, last.token_count))
            assert texts_of(earlier.edited(more, told.chunks), 45) == texts_of(last, 45)
            for mask in (None, present):
                counts = last.counts_after(earlier, earlier.counts_filled(mask), mask)
                assert counts is not None and counts.tolist() == last.counts_filled(mask).tolist()
        assert last.since(last) is not None and not last.since(last).positions.size  # type: ignore[union-attr]
        assert texts_of(last, 45) == last.texts_at(last.tokens_at(np.arange(45)))


def test_another_line_of_edits_is_not_taken_for_this_one() -> None:
    """Columns that were edited apart from one another, or whose texts were exchanged, are other columns altogether."""
    first = column_of_texts(["1", "2"])
    one, other = first.with_entries({0: "x"}), first.with_entries({0: "y"})
    assert one.since(other) is None and other.since(one) is None
    exchanged = first.mapped(large_texts(["", "b", "a"]), 2)
    assert exchanged.since(first) is None and texts_of(exchanged, 2) == ["b", "a"]


def test_an_entry_in_a_new_record_is_a_patch() -> None:
    """Where nothing was recorded yet, an entry makes no indexes: records typed into a long study cost what is typed."""
    short = column_of_texts(["1"] * 50_000)
    longer = short.with_entries({50_000: "2"}).with_entries({CHUNK * 3 + 5: "1"})
    assert longer.chunks[0].same_base(short.chunks[0]) and longer.chunks[0].size == 50_000
    assert [chunk.size for chunk in longer.chunks[1:]] == [0, 0, 0]
    assert longer.length == CHUNK * 3 + 6 and longer.texts_at(longer.indexes(50_000, 50_002)) == ["2", ""]
    assert longer.counts(None, CHUNK * 4).tolist() == [CHUNK * 4 - 50_002, 50_001, 1]


numbers = st.floats(allow_nan=False, allow_infinity=False, width=64)


@given(st.lists(numbers | st.just(float("nan")), max_size=20), st.dictionaries(st.integers(0, 25), entries, max_size=4))
def test_numbers_are_spelled_only_when_shown(values: list[float], edits: dict[int, str]) -> None:
    """A column of numbers holds what their plain spellings would; it is found, counted and edited like any other."""
    column = column_of_numbers(np.array(values))
    spelt = ["" if np.isnan(value) else format(Decimal(repr(value + 0.0)), "f") for value in values]
    spelt = [text.rstrip("0").rstrip(".") if "." in text else text for text in spelt]
    assert texts_of(column, len(values)) == spelt
    assert all(float(text) == value for text, value in zip(spelt, values, strict=True) if text)
    known = column.texts().to_pylist()
    wanted = [*spelt, "x", "1.0", "1e5"]
    fresh = column_of_numbers(np.array(values))
    assert fresh.find(wanted).tolist() == [known.index(text) if text in known else -1 for text in wanted]
    typed = fresh.with_entries(edits) if edits else fresh
    model = [*spelt, *[""] * (30 - len(spelt))]
    for at, text in edits.items():
        model[at] = text
    assert texts_of(typed, 30) == model
    tokens = typed.texts().to_pylist()
    assert len(set(tokens)) == len(tokens)


@given(st.lists(entries, max_size=12), st.data())
def test_mapped_tokens_are_mapped_records(texts: list[str], data: st.DataObject) -> None:
    """Mapping the tokens of a column is mapping each record's entry, blanks beyond the end too."""
    column, size = column_of_texts(texts), len(texts) + 2
    tokens = column.texts().to_pylist()
    new = data.draw(st.lists(st.none() | entries, min_size=len(tokens), max_size=len(tokens)))
    told = dict(zip(tokens, (each or "" for each in new), strict=True))
    after = column.mapped(pa.array(new, pa.large_string()), size)
    assert texts_of(after, size) == [told[text] for text in [*texts, "", ""]]
    values = data.draw(st.lists(numbers | st.just(float("nan")), min_size=len(tokens), max_size=len(tokens)))
    mapped = column.mapped(np.array(values), size)
    by_record = np.array([dict(zip(tokens, values, strict=True))[text] for text in [*texts, "", ""]])
    assert texts_of(mapped, size) == texts_of(column_of_numbers(by_record), size)


def test_blanks_can_be_replaced_beyond_the_end() -> None:
    """Putting an entry in place of blanks reaches every record of the study, not only those typed into."""
    column = column_of_texts(["a", ""])
    assert texts_of(column.with_replaced(np.array([0]), "none", 4), 4) == ["a", "none", "none", "none"]


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
