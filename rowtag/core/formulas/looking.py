"""What formulas look at: the entries of variables and how they read, block by block."""

from collections.abc import Callable, Sequence
from functools import cache
from typing import Any

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from rowtag.core.formulas.values import Kind, Value, texts, truth
from rowtag.core.frame import Block
from rowtag.core.reading import State
from rowtag.core.study import Study
from rowtag.core.tag import NUMBER_TYPES

Work = Callable[[Block], Value]
"""Gives the values of the records of a block."""


def work_on(work: Callable[..., Value], given: Sequence[Work]) -> Work:
    """An operator or function on what others give."""
    return lambda block: work(*(each(block) for each in given))


def kind_of(study: Study, id: str) -> Kind:
    """The kind of what a variable holds."""
    kind = study.tag(id).type
    return "number" if kind in NUMBER_TYPES else kind  # type: ignore[return-value]


def entries_of(study: Study, id: str) -> Work:
    """The valid entries of a variable; whatever is not valid is unknown."""
    kind = kind_of(study, id)

    @cache
    def per_token() -> tuple[Any, npt.NDArray[np.bool_]]:
        reading = study.reading(id)
        known = reading.states == State.VALID
        if kind == "text":
            return reading.canonical(), known
        none = np.full(known.size, np.nan)
        return none if reading.values is None else np.where(known, reading.values, none), known

    def work(block: Block) -> Value:
        (data, known), tokens = per_token(), block.tokens(id)
        return Value(kind, pc.take(data, pa.array(tokens)) if kind == "text" else data[tokens], known[tokens])

    return _once_a_block(work)


def _once_a_block(work: Work) -> Work:
    """What was given for a block last is given again: a formula may name a variable more than once."""
    last: tuple[Block, Value] | None = None

    def remembered(block: Block) -> Value:
        nonlocal last
        met = last  # at once: others may be at another block meanwhile
        if met is None or met[0] is not block:
            last = met = (block, work(block))
        return met[1]

    return remembered


def recorded_of(study: Study, id: str) -> Work:
    """The valid entries of a variable as they were recorded, without blanks at their ends."""

    @cache
    def spellings() -> Any:
        reading = study.reading(id)
        return reading.texts(np.arange(reading.states.size))

    def work(block: Block) -> Value:
        return texts(pc.take(spellings(), pa.array(block.tokens(id))), block.states(id) == State.VALID)

    return work


def by_state(study: Study, id: str, states: Sequence[State], lines: Sequence[int] | None = None) -> Work:
    """Whether entries read in one of some ways, and (where told) match one of some lines; never unknown."""
    reading = study.reading(id)
    met = np.isin(reading.states, states)
    if lines is not None:
        met &= np.isin(reading.lines, lines)

    def work(block: Block) -> Value:
        tokens = block.tokens(id)
        return truth(met[tokens], np.ones(tokens.size, bool))

    return work


def labelled(study: Study, id: str, lines: Sequence[int]) -> Work:
    """Whether entries have one of some code lines; unknown where they are not valid."""
    reading = study.reading(id)
    met, known = np.isin(reading.lines, lines), reading.states == State.VALID

    def work(block: Block) -> Value:
        tokens = block.tokens(id)
        return truth(met[tokens], known[tokens])

    return work


def countable(value: Value) -> Value:
    """Texts are only counted: whatever stands for them has a number."""
    return Value("number", np.zeros(value.size), value.known) if value.kind == "text" else value
