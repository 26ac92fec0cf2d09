"""Columns that are gathered block by block hold what came out, whether few values differ or nearly all."""

from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rowtag.core import gathering
from rowtag.core.chunk import BLOCK, CHUNK
from rowtag.core.column import Column
from rowtag.core.tokens import large_texts


def gathered(values: list[Any], *, of_texts: bool = False) -> tuple[Column, Any]:
    """A column of some values, in blocks; None where nothing comes out."""
    column = gathering.texts(len(values)) if of_texts else gathering.numbers(len(values))
    for first in range(0, len(values), BLOCK):
        there = [at for at in range(first, min(first + BLOCK, len(values))) if values[at] is not None]
        held = [values[at] for at in there]
        column.add(np.array(there, np.int64), large_texts(held) if of_texts else np.array(held, np.float64))
    return column.column()


def entries(column: Column, records: int) -> list[str]:
    return column.texts_at(column.indexes(0, records))


@settings(max_examples=150, deadline=None)
@given(st.lists(st.none() | st.sampled_from([0.0, -0.0, 1.0, 2.5, -7.0, 1e20, 0.1]), max_size=12))
def test_numbers_stand_as_they_are_spelled(values: list[float | None]) -> None:
    """What is not there is blank; zero is zero whatever its sign; tokens stand by size."""
    column, different = gathered(values)
    spelled = {None: "", 0.0: "0", 1.0: "1", 2.5: "2.5", -7.0: "-7", 1e20: "100000000000000000000", 0.1: "0.1"}
    assert entries(column, len(values)) == [spelled[each] for each in values]
    known = sorted({each + 0.0 for each in values if each is not None})
    assert (different is None) == (not known)
    assert column.texts().to_pylist() == ["", *(spelled[each] for each in known)]


@settings(max_examples=150, deadline=None)
@given(st.lists(st.none() | st.sampled_from(["Beans", "beans", "ß", "Kale and leek"]), max_size=12))
def test_texts_stand_as_they_are(values: list[str | None]) -> None:
    column, _ = gathered(values, of_texts=True)
    assert entries(column, len(values)) == [each or "" for each in values]
    assert sorted(column.texts().to_pylist()) == sorted({"", *(each for each in values if each)})


@pytest.mark.parametrize("step", [1, 7, CHUNK], ids=["all differ", "some are the same", "few differ"])
def test_over_several_chunks(step: int) -> None:
    """A chunk with nothing in it lies between others; values of one chunk come again in another."""
    size = 3 * CHUNK + 100
    values = [
        None if CHUNK <= at < 2 * CHUNK or at % 11 == 0 else float(at * 7919 % size // step) for at in range(size)
    ]
    column, different = gathered(values)
    known = sorted({each for each in values if each is not None})
    assert different.tolist() == known
    found = column.indexes(0, size)
    place = {each: at + 1 for at, each in enumerate(known)}
    assert found.tolist() == [0 if each is None else place[each] for each in values]
    texts, _ = gathered([None if each is None else f"{each:.0f}" for each in values], of_texts=True)
    assert entries(texts, size) == ["" if each is None else f"{each:.0f}" for each in values]
