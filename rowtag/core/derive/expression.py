"""Formulas as a way of deriving: whatever they give for a record becomes its entry."""

from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from rowtag.core.column import Column, column_of, column_of_numbers
from rowtag.core.derive.outcome import Outcome, yes_no
from rowtag.core.formulas.held import Meant
from rowtag.core.formulas.values import Value
from rowtag.core.frame import Block
from rowtag.core.grammar import canonical_dates
from rowtag.core.reading import State
from rowtag.core.study import Study
from rowtag.core.tokens import large_texts

MOMENTS = ("date", "time", "datetime")


def express(meant: Meant) -> Outcome:
    """Numbers, texts, dates as they come out, conditions as 0 and 1; what is unknown is blank. `gone` are records for
    which nothing comes out although all that the formula looks at is valid there, as when it divides by zero."""
    study, blocks, gone = meant.study, list[tuple[Block, Value]](), []
    for block, value in meant.blocks():
        blocks.append((block, value))
        valid = np.ones(block.positions.size, bool)
        for id in meant.variables:
            valid &= block.states(id) == State.VALID
        gone.append(block.positions[valid & ~value.known])
    column, parts = _text(study, blocks) if meant.kind == "text" else _numbers(meant, blocks)
    return Outcome(column, parts, gone=np.concatenate(gone) if gone else np.empty(0, np.int64))


def _numbers(meant: Meant, blocks: list[tuple[Block, Value]]) -> tuple[Column, dict[str, Any]]:
    values = np.full(meant.study.records.arrived, np.nan)
    for block, value in blocks:
        values[block.positions] = np.where(value.known, value.data, np.nan)
    if meant.kind == "truth":
        return column_of_numbers(values), yes_no()
    known = values[~np.isnan(values)]
    if meant.kind in MOMENTS:
        different, at = np.unique(known, return_inverse=True)
        indexes = np.zeros(values.size, np.int64)
        indexes[~np.isnan(values)] = at + 1
        texts = pa.concat_arrays([large_texts([""]), canonical_dates(different, meant.kind)])
        return column_of(indexes, texts), {"type": meant.kind, "level": "interval"}
    whole = bool((known == np.floor(known)).all()) and bool((np.abs(known) < 1e15).all())
    steps = any(meant.study.tag(id).level in ("ordinal", "interval") for id in meant.variables)
    return column_of_numbers(values), {
        "type": "integer" if whole else "decimal",
        "level": "interval" if steps else "ratio",
    }


def _text(study: Study, blocks: list[tuple[Block, Value]]) -> tuple[Column, dict[str, Any]]:
    indexes = np.zeros(study.records.arrived, np.int64)
    if not blocks:
        return column_of(indexes, large_texts([""])), {"type": "text", "level": "nominal"}
    texts = pa.concat_arrays([pc.if_else(pa.array(value.known), value.data, "") for _, value in blocks])
    grouped = pc.dictionary_encode(pa.concat_arrays([large_texts([""]), texts.cast(pa.large_string())]))
    indexes[np.concatenate([block.positions for block, _ in blocks])] = grouped.indices.to_numpy()[1:]
    return column_of(indexes, grouped.dictionary.cast(pa.large_string())), {"type": "text", "level": "nominal"}
