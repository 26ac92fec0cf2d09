"""What formulas are worked out with: columns of m values of one kind, some of them unknown."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from rowtag.core.formulas.digits import as_written

Kind = Literal["number", "text", "truth", "date", "time", "datetime"]
Flags = npt.NDArray[np.bool_]
Numbers = npt.NDArray[np.float64]

SAID: dict[Kind, str] = {
    "number": "a number",
    "text": "text",
    "truth": "a condition",
    "date": "a date",
    "time": "a time",
    "datetime": "a date with a time",
}
"""Kinds in words."""


@dataclass(frozen=True, eq=False)
class Value:
    """m values of a kind: float64 (numbers; days of dates; seconds of times), bool (conditions) or Arrow texts, and
    which of them are known (bool, m). What is unknown holds anything."""

    kind: Kind
    data: Any
    known: Flags

    @property
    def size(self) -> int:
        """How many they are."""
        return int(self.known.size)

    def at(self, rows: npt.NDArray[np.int64]) -> "Value":
        """Those in some rows, in the order asked for."""
        data = pc.take(self.data, pa.array(rows)) if self.kind == "text" else self.data[rows]
        return Value(self.kind, data, self.known[rows])


def numbers(data: Any, known: Flags, kind: Kind = "number") -> Value:
    """Numbers; what is infinite or none is unknown."""
    data = np.asarray(data, np.float64)
    return Value(kind, data, known & np.isfinite(data))


def truth(data: Any, known: Flags) -> Value:
    """Conditions: met (True) or not."""
    return Value("truth", data, known)


def texts(data: Any, known: Flags) -> Value:
    """Texts, tidied at their ends."""
    return Value("text", data, known)


def constant(kind: Kind, of: float | str | bool, size: int) -> Value:
    """The same value m times."""
    known = np.ones(size, bool)
    if kind == "text":
        return Value(kind, pa.repeat(pa.scalar(of, pa.large_string()), size), known)
    return Value(kind, np.full(size, of), known)


def in_a_row(parts: Sequence[Value]) -> Value:
    """Columns of one kind, at least one, as one behind the other."""
    data = [each.data for each in parts]
    together = pa.concat_arrays(data) if parts[0].kind == "text" else np.concatenate(data)
    return Value(parts[0].kind, together, np.concatenate([each.known for each in parts]))


def unknown(kind: Kind, size: int) -> Value:
    """m values none of which is known."""
    empty = constant(kind, "" if kind == "text" else 0.0, size)
    return Value(kind, empty.data.astype(bool) if kind == "truth" else empty.data, np.zeros(size, bool))


def chosen(where: Flags, first: Value, second: Value) -> Value:
    """Of each pair the first where it is chosen, else the second."""
    known = np.where(where, first.known, second.known)
    if first.kind == "text":
        return Value("text", pc.if_else(pa.array(where), first.data, second.data), known)
    return Value(first.kind, np.where(where, first.data, second.data), known)


def same(left: Value, right: Value, *, computed: bool) -> Flags:
    """Which pairs are the same; `computed` numbers as they are written."""
    if left.kind == "text":
        equal: Flags = pc.equal(left.data, right.data).to_numpy(zero_copy_only=False)
        return equal
    exact: Flags = left.data == right.data
    if not computed or left.kind != "number":
        return exact
    with np.errstate(all="ignore"):
        apart = np.abs(left.data - right.data)
        near = np.flatnonzero(~exact & (apart <= _NEAR * np.abs(left.data)))
    exact[near] = as_written(left.data[near]) == as_written(right.data[near])
    return exact


_NEAR = 1e-13
"""What two numbers differ by at most, as a share of one, that are the same to 15 digits (5e-15 each, and to spare)."""
