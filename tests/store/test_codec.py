"""States as bytes: small where little changed, compressed where that pays, refused where a newer version wrote them."""

from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from rowtag.core.chunk import CHUNK
from rowtag.core.column import column_of_numbers, column_of_texts
from rowtag.core.errors import UnreadableFile
from rowtag.core.study import Records, Study, Variable
from rowtag.core.tag import Tag
from rowtag.core.tokens import large_texts
from rowtag.store import codec, sources
from rowtag.store.codec import (
    FORMAT,
    Blobs,
    Shared,
    decode,
    difference,
    encode,
    patched,
    texts_from_bytes,
    texts_to_bytes,
)


def long_study(records: int = CHUNK + 10) -> Study:
    column = column_of_texts([str(number % 400) for number in range(records)])
    return Study(records=Records(records)).with_variables([("v", Variable(tag=Tag(name="q1")), column)])


@given(st.dictionaries(st.text(max_size=5), st.text(max_size=300) | st.integers(0, 9), max_size=9))
def test_parts_read_back(parts: dict[str, object]) -> None:
    """Parts come back as they were, long ones through compression."""
    assert decode(encode(parts)) == parts
    long = {**parts, "long": "x" * 5_000}
    assert decode(encode(long)) == long and len(encode(long)) < 2_500


@given(st.lists(st.text(), max_size=20))
def test_texts_read_back(texts: list[str]) -> None:
    """A segment's texts come back to the letter."""
    assert texts_from_bytes(texts_to_bytes(large_texts(texts))).to_pylist() == texts


def test_an_edit_is_written_as_an_edit() -> None:
    """One typed entry becomes its text and its place, and needs no blob; what is read back shares the rest."""
    first = long_study()
    edited = first.with_columns({"v": first.column("v").with_entries({CHUNK + 3: "typed"})})
    blobs = Blobs()
    parts = difference(first, edited, blobs)
    assert parts["columns"]["v"] == {"more": ["typed"], "edits": {"1": [[3], [401]]}}
    assert not blobs.data and len(encode(parts)) < 120
    again = patched(first, decode(encode(parts)), blobs.data.__getitem__)
    assert again.column("v").chunks[0] is first.column("v").chunks[0]
    assert again.column("v").texts_at(again.column("v").indexes(CHUNK + 3, CHUNK + 4)) == ["typed"]


def test_a_replaced_chunk_is_written_anew_and_only_it() -> None:
    """Replacing an entry in one chunk writes that chunk; the other keeps its blob once it has one."""
    first = long_study()
    kept = Blobs()
    difference(Study(), first, kept)
    kept.kept()
    column = first.column("v")
    after = first.with_columns({"v": column.with_replaced(np.array([1], np.int64), "other", CHUNK + 10)})
    fresh = Blobs()
    parts = difference(first, after, fresh)
    chunks = parts["columns"]["v"]["chunks"]
    assert len(fresh.data) == 2, "the chunk that held the entry, and the grown segment"
    assert chunks[0]["key"] in fresh.data and chunks[1]["key"] in kept.data
    whole = patched(Study(), difference(Study(), after, fresh), {**kept.data, **fresh.data}.__getitem__)
    assert whole.column("v").texts_at(whole.column("v").indexes(0, 3)) == ["other", "1", "2"]


def test_exchanged_texts_are_written() -> None:
    """A mapping that keeps the indexes and changes the texts is another column on disk too."""
    first = long_study()
    column = first.column("v")
    texts = [f"code {token}" if token else "" for token in range(column.token_count)]
    after = first.with_columns({"v": column.mapped(large_texts(texts), CHUNK + 10)})
    blobs = Blobs()
    again = patched(first, decode(encode(difference(first, after, blobs))), blobs.data.__getitem__)
    assert again.column("v").texts_at(np.array([1, 2])) == ["code 1", "code 2"]


def test_numbers_are_kept_as_numbers() -> None:
    """Computed numbers go to disk as they are, and are spelled when somebody looks at them after reading them back."""
    values = np.array([0.1, 1e-7, np.nan, 3.0] * 1_000)
    first = long_study()
    study = first.with_columns({"v": column_of_numbers(values)})
    blobs = Blobs()
    again = patched(Study(), decode(encode(difference(Study(), study, blobs))), blobs.data.__getitem__).column("v")
    assert again.segments[1].numeric and again.segments[1]._texts is None
    assert again.texts_at(again.indexes(0, 5)) == ["0.1", "0.0000001", "", "3", "0.1"]


def test_states_read_back_share_what_is_in_memory() -> None:
    """Segments, chunks and columns that somebody holds are not made anew, so that nothing is worked out twice."""
    first = long_study()
    shared = Shared()
    blobs = Blobs(shared)
    parts = difference(Study(), first, blobs)
    blobs.kept()
    edited = first.with_columns({"v": first.column("v").with_entries({3: "typed"})})
    more = difference(first, edited, blobs)
    fetch = blobs.data.__getitem__
    again = patched(Study(), decode(encode(parts)), fetch, shared)
    assert again.column("v") is first.column("v")
    assert patched(again, decode(encode(more)), fetch, shared).column("v") is edited.column("v")
    whole = difference(Study(), edited, Blobs(shared))
    read = patched(Study(), decode(encode(whole)), fetch, shared).column("v")
    assert read is edited.column("v"), "kept whole it is the same column"
    del again, read
    lone = Shared()
    lone.chunks.update(shared.chunks)
    read = patched(Study(), decode(encode(whole)), fetch, lone).column("v")
    assert read.chunks[0].same_base(first.column("v").chunks[0]) and read.chunks[1] is first.column("v").chunks[1]


def test_nothing_changed_is_nothing_written() -> None:
    """A state differs from itself in nothing."""
    study = long_study()
    assert difference(study, study, Blobs()) == {"format": codec.FORMAT}


def test_what_a_newer_version_wrote_is_refused() -> None:
    """A newer format is said to be one, and nothing is guessed."""
    with pytest.raises(UnreadableFile, match="kept by a newer Row Tag"):
        decode(encode({"format": codec.FORMAT + 1}))


def test_older_parts_are_brought_up_to_date(monkeypatch: pytest.MonkeyPatch) -> None:
    """A registered upgrade turns what an older version wrote into the present format."""
    monkeypatch.setitem(codec.UPGRADES, 0, lambda old: {"format": 1, "order": old["variables"]})
    assert decode(encode({"format": 0, "variables": ["v"]})) == {"format": codec.FORMAT, "order": ["v"]}


@pytest.mark.parametrize("size", [0, 1, 999, 1_000, 2_500])
def test_a_source_goes_in_and_comes_out_in_pieces(tmp_path: Path, monkeypatch: pytest.MonkeyPatch, size: int) -> None:
    """The bytes of a file, whatever its size, are the pieces put together again."""
    monkeypatch.setattr(sources, "PIECE", 1_000)
    path = tmp_path / "plots.csv"
    path.write_bytes(bytes(number % 251 for number in range(size)))
    kept = list(sources.compressed_pieces(path))
    assert len(kept) == -(-size // 1_000)
    assert b"".join(sources.piece_from(data) for _, data in kept) == path.read_bytes()


def test_ends_that_bounded_nothing_are_gone() -> None:
    """What an earlier format took for an end of a range or of limits, and read as none, is none; the rest stays."""
    was = {
        "format": 2,
        "tags": {"v": {"limits": {"low": "nan", "high": "40"}, "label": "low"}},
        "lists": [{"code": None, "low": "x", "high": None}, {"code": "1", "low": None}, {"low": "1", "high": "inf"}],
    }
    assert decode(encode(was)) == {
        "format": FORMAT,
        "tags": {"v": {"limits": {"low": None, "high": "40"}, "label": "low"}},
        "lists": [{"code": "1", "low": None}, {"low": "1", "high": None}],
    }
