"""Whether a state that was read back is one that Row Tag writes: a sum says that it is what somebody wrote, not that
its parts fit together."""

from typing import Any
from weakref import WeakSet

import numpy as np
import pyarrow as pa

from rowtag.core.chunk import CHUNK, Chunk
from rowtag.core.column import Column
from rowtag.core.errors import Damaged
from rowtag.core.study import Study
from rowtag.core.tokens import Segment


class Known:
    """Parts of states that were looked at; most of them stand in many states."""

    def __init__(self) -> None:
        self.columns: WeakSet[Column] = WeakSet()
        self.segments: WeakSet[Segment] = WeakSet()
        self.tops: dict[int, int] = {}
        """The largest token that the indexes of a chunk name, by their serial."""


def refuse_impossible(study: Study, known: Known) -> None:
    """Raises Damaged where the parts of a state do not fit together. All that it holds is read."""
    arrived, removed = study.records.arrived, study.records.removed
    if set(study.order) != set(study.variables) or len(set(study.order)) != len(study.order):
        raise Damaged("The order of the variables does not name each of them once.")
    if not set(study.columns) <= set(study.variables):
        raise Damaged("Entries are kept of a variable that is not there.")
    if not _whole_number(arrived) or not all(map(_whole_number, removed)):
        raise Damaged("Which records there are is not told in numbers.")
    if list(removed) != sorted(set(removed)) or (removed and not 0 < removed[0] <= removed[-1] <= arrived):
        raise Damaged("Records are said to be removed that never were there.")
    for id, column in study.columns.items():
        if column not in known.columns:
            _refuse(column, study.tag(id).name, known)
            known.columns.add(column)
        if column.length > arrived:
            raise Damaged(f"{study.tag(id).name} has entries in more records than there are.")


def _refuse(column: Column, name: str, known: Known) -> None:
    for segment in column.segments:
        if segment not in known.segments:
            _refuse_segment(segment, name)
            known.segments.add(segment)
    if not column.segments or column.segments[0].texts[0].as_py() != "":
        raise Damaged(f"The entries of {name} are not as Row Tag keeps them.")
    for chunk in column.chunks:
        if _top(chunk, known) >= column.token_count:
            raise Damaged(f"Entries of {name} are kept nowhere.")


def _refuse_segment(segment: Segment, name: str) -> None:
    tokens: Any = segment.numbers if segment.numeric else segment.texts
    fits = np.isfinite(tokens).all() if segment.numeric else tokens.type == pa.large_string() and not tokens.null_count
    if len(tokens) != segment.size or not segment.size or not fits:
        raise Damaged(f"The entries of {name} are not as Row Tag keeps them.")


def _top(chunk: Chunk, known: Known) -> int:
    """The largest token that a chunk names."""
    if chunk.base_serial not in known.tops:
        base = chunk.base
        if base.size != chunk.size:
            raise Damaged("Entries are fewer than they are said to be.")
        known.tops[chunk.base_serial] = int(base.max()) if base.size else 0
    where, what = chunk.where, chunk.what
    if where.size != what.size or (
        where.size and not (np.all(np.diff(where) > 0) and 0 <= where[0] <= where[-1] < CHUNK)
    ):
        raise Damaged("Edits are kept of records that cannot be.")
    return max(known.tops[chunk.base_serial], int(what.max()) if what.size else 0)


def _whole_number(value: object) -> bool:
    return isinstance(value, int) and not isinstance(value, bool) and 0 <= value < 1 << 40
