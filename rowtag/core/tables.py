"""Tables: frequencies and summaries, worked out once per token and carried to the records by counts."""

from collections.abc import Collection
from dataclasses import dataclass
from fractions import Fraction
from typing import Any, Literal

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from rowtag.core.frame import Frame
from rowtag.core.reading import Fill, Reading, State, canonical_code, spell, value_of
from rowtag.core.study import Study
from rowtag.core.tag import DATE_TYPES, NUMBER_TYPES, CodeSpan, Tag

Says = Literal["valid", "missing", "stray"]


@dataclass(frozen=True)
class Row:
    """One value of a frequency table.

    `code` is canonical, that of a range as it is shown, whose ends are `low` and `high`. `listed` tells whether a line
    accounts for it; `unreadable` tells the two kinds of stray apart; `reason` is set for coded missing values.
    """

    code: str
    label: str
    count: int
    reading: Says
    listed: bool = True
    unreadable: bool = False
    low: str | None = None
    high: str | None = None
    reason: str | None = None


@dataclass(frozen=True)
class Frequency:
    """A variable's values in list order, then other valid ones by value, missing, unlisted, unreadable."""

    rows: tuple[Row, ...]
    fill: Fill
    ordered: bool
    left_out: int = 0
    """Values that no line accounts for and that are not among the rows, since there are too many of them."""

    def shares(self) -> list[dict[str, float | None]]:
        """Per row: percent of all records, of valid entries, and cumulative where the level is ordered."""
        total = self.fill.valid + self.fill.missing + self.fill.blank + self.fill.stray
        running, out = 0, []
        for row in self.rows:
            valid = row.reading == "valid"
            running += row.count if valid else 0
            out.append(
                {
                    "percent": percent(row.count, total),
                    "valid_percent": percent(row.count, self.fill.valid) if valid else None,
                    "cumulative": percent(running, self.fill.valid) if valid and self.ordered else None,
                }
            )
        return out


@dataclass(frozen=True)
class Summary:
    """Figures over n valid numbers. sd with n - 1; quartiles by linear interpolation between order
    statistics (Hyndman and Fan 1996, type 7). None where there are too few entries."""

    n: int
    mean: float | None = None
    sd: float | None = None
    min: float | int | None = None
    q1: float | int | None = None
    median: float | int | None = None
    q3: float | int | None = None
    max: float | int | None = None


def frame_of(of: Study | Frame) -> Frame:
    """The records that a table is made of: all of a study, or those of a frame."""
    return of if isinstance(of, Frame) else Frame(of)


def percent(part: int, whole: int) -> float | None:
    """`part` of `whole` in percent, None of nothing."""
    return 100 * part / whole if whole else None


def frequency(of: Study | Frame, id: str, *, unlisted_values: bool = True, most: int | None = None) -> Frequency:
    """The frequency table of one variable; for measured ones the many valid values can be left out, and of values that
    no line accounts for only the first `most` of each reading be given."""
    frame = frame_of(of)
    study, counts = frame.study, frame.counts(id)
    tag, codes, reading = study.tag(id), study.codes(id), study.reading(id)
    in_lines = _line_counts(reading, counts, State.VALID, len(codes))
    in_missing = _line_counts(reading, counts, State.MISSING, len(tag.missing))
    aside = {_line_code(line, tag) for line in tag.missing}  # a shared line that this tag sets aside
    rows = [
        Row(shown, line.label, count, "valid", low=line.low, high=line.high)
        for line, count in zip(codes, in_lines.tolist(), strict=True)
        if (shown := _line_code(line, tag)) not in aside or count
    ]
    left_out = 0
    if unlisted_values:
        loose, left_out = _loose(reading, counts, State.VALID, most)
        rows += [Row(code, "", count, "valid", listed=False) for code, count in loose]
    rows += [
        Row(_line_code(line, tag), line.label, count, "missing", low=line.low, high=line.high, reason=line.reason)
        for line, count in zip(tag.missing, in_missing.tolist(), strict=True)
    ]
    for state in (State.UNLISTED, State.UNREADABLE):
        unreadable = state is State.UNREADABLE
        loose, more = _loose(reading, counts, state, most)
        left_out += more
        rows += [Row(code, "", count, "stray", listed=False, unreadable=unreadable) for code, count in loose]
    return Frequency(tuple(rows), frame.fill(id), tag.level == "ordinal", left_out)


def _line_code(line: CodeSpan, tag: Tag) -> str:
    """A line's code in canonical form, as far as it fits the type; a range as it is shown."""
    return line.shown if line.code is None else canonical_code(line.code, tag.type) or line.code


def _line_counts(reading: Reading, counts: npt.NDArray[np.int64], state: State, lines: int) -> npt.NDArray[np.int64]:
    """Entries per code line (or missing line), in list order."""
    chosen = (reading.states == state) & (reading.lines >= 0)
    return np.bincount(reading.lines[chosen], weights=counts[chosen], minlength=lines).astype(np.int64)


def _loose(
    reading: Reading, counts: npt.NDArray[np.int64], state: State, most: int | None
) -> tuple[list[tuple[str, int]], int]:
    """Values in one state that no line accounts for: canonical code and count, by value, then by text; the first
    `most`, and how many there are more."""
    tokens = np.flatnonzero((reading.states == state) & (reading.lines < 0) & (counts > 0))
    if not tokens.size:
        return [], 0
    grouped = pc.dictionary_encode(reading.canonical(tokens))
    group = grouped.indices.to_numpy(zero_copy_only=False)
    totals = np.bincount(group, weights=counts[tokens]).astype(np.int64)
    codes = grouped.dictionary
    keys = [("text", "ascending")]
    columns = {"text": codes}
    if reading.values is not None and state is not State.UNREADABLE:
        values = np.full(len(codes), np.nan)
        values[group] = reading.values[tokens]
        columns["value"] = pa.array(values)
        keys.insert(0, ("value", "ascending"))
    order = pc.sort_indices(pa.table(columns), sort_keys=keys)[:most]
    found = list(zip(pc.take(codes, order).to_pylist(), totals[order.to_numpy()].tolist(), strict=True))
    return found, len(codes) - len(found)


def commonest(of: Study | Frame, id: str, most: int = 20) -> tuple[list[tuple[str, int]], int]:
    """The commonest valid entries of a variable with their counts, and how many different ones there are."""
    reading, counts = frame_of(of).study.reading(id), frame_of(of).counts(id)
    tokens = np.flatnonzero((reading.states == State.VALID) & (counts > 0))
    grouped = pc.dictionary_encode(
        reading.canonical(tokens)
    )  # entries that differ only in how they are written are one
    totals = np.bincount(grouped.indices.to_numpy(zero_copy_only=False), counts[tokens], len(grouped.dictionary))
    order = np.argsort(-totals, kind="stable")[:most]
    texts = grouped.dictionary.take(pa.array(order)).to_pylist()
    return list(zip(texts, totals[order].astype(int).tolist(), strict=True)), len(grouped.dictionary)


@dataclass(frozen=True)
class Histogram:
    """Values in bins of equal width: n + 1 edges, n counts of valid ones, and n of those beyond limits or list."""

    edges: list[float]
    counts: list[int]
    beyond: list[int]


def histogram(
    of: Study | Frame, id: str, bins: int = 24, *, beyond: bool = False, apart: Collection[float] = ()
) -> Histogram | None:
    """The distribution of a number or date variable; None where it has no such value, or where its values are so long
    that floats do not tell its bins apart.

    Whole numbers spread over few steps get one bin each. With `beyond` unlisted values are shown too; values
    that stand `apart` from the rest, such as 999, are left out.
    """
    frame, study = frame_of(of), frame_of(of).study
    inside = _within(*frame.values(id), apart)
    outside = _within(*frame.values(id, State.UNLISTED), apart) if beyond else (np.empty(0), np.empty(0))
    values = np.concatenate([inside[0], outside[0]])
    if not values.size:
        return None
    low, high = float(values.min()), float(values.max())
    if beyond:
        low, high = _with_limits(study.tag(id), low, high)
    if study.tag(id).type == "integer":
        width = max(1, int(np.ceil((high - low + 1) / bins)))
        edges = np.arange(low - 0.5, high + 0.5 + width, width)
    else:
        edges = np.linspace(low, high if high > low else low + 1, bins + 1)
    if (np.diff(edges) <= 0).any():
        return None
    counts, more = (
        np.histogram(values, bins=edges, weights=counts)[0].astype(int).tolist() for values, counts in (inside, outside)
    )
    return Histogram(edges.tolist(), counts, more)


def _with_limits(tag: Tag, low: float, high: float) -> tuple[float, float]:
    """The ends of a picture that shows the limits too, unless they lie so far out that all else would be pressed."""
    reach = max(high - low, 1.0)
    for end in (tag.limits.low, tag.limits.high):
        canonical = None if end is None else canonical_code(end, tag.type)
        if canonical is not None and low - reach <= (value := value_of(canonical, tag.type)) <= high + reach:
            low, high = min(low, value), max(high, value)
    return low, high


def _within(
    values: npt.NDArray[np.float64], counts: npt.NDArray[np.int64], apart: Collection[float]
) -> tuple[npt.NDArray[np.float64], npt.NDArray[np.int64]]:
    """Values that do not stand apart, with their counts."""
    kept = ~np.isin(values, list(apart))
    return values[kept], counts[kept]


def decimals_found(study: Study, id: str) -> int | None:
    """The most digits behind the mark in any valid entry of a decimal variable; None of other types."""
    if study.tag(id).type != "decimal":
        return None
    reading, counts = study.reading(id), study.counts(id)
    return int(reading.decimals[(reading.states == State.VALID) & (counts > 0)].max(initial=0))


def summary(of: Study | Frame, id: str) -> Summary | None:
    """The figures of one variable; None where its type is no number."""
    frame = frame_of(of)
    kind = frame.study.tag(id).type
    if kind not in NUMBER_TYPES:
        return None
    values, counts = frame.values(id)
    n = int(counts.sum())
    if not n:
        return Summary(0)
    least = values[0].item() if values.dtype == np.int64 else 0.0  # floats do not tell long whole numbers apart
    floats = (values - least).astype(np.float64)
    scale = max(float(np.abs(floats).max()), 1.0) if np.abs(floats).max() > _LARGEST else 1.0
    above = float(np.dot(floats / scale, counts) / n)
    deviation = scale * float(np.sqrt(np.dot((floats / scale - above) ** 2, counts) / (n - 1))) if n > 1 else None
    deviation = deviation if deviation is None or np.isfinite(deviation) else None
    mean = min(max(least + above * scale, values[0].item()), values[-1].item())  # which floats may not tell from it
    ranked = (values[0].item(), *(quantile(values, counts, share) for share in (0.25, 0.5, 0.75)), values[-1].item())
    low, q1, median, q3, high = (_number(value, kind) for value in ranked)
    return Summary(n, mean, deviation, low, q1, median, q3, high)


_LARGEST = 1e150
"""Size of numbers beyond which their squares are none."""
_WHOLE = 2**53
"""Size of whole numbers beyond which floats have no fractions."""


def _number(value: float | int, kind: str) -> float | int:
    """A whole value as an integer where its type says so."""
    return int(value) if kind == "integer" and value == int(value) else value


def quantile(values: npt.NDArray[Any], counts: npt.NDArray[np.int64], share: float) -> float | int:
    """The quantile of ascending distinct values with counts, by linear interpolation. Of whole numbers it is exact,
    but to the next whole number where these are so long that floats have no fractions."""
    reach = np.cumsum(counts)
    position = (int(reach[-1]) - 1) * Fraction(share)
    below = int(position)
    low: float | int = values[np.searchsorted(reach, below, side="right")].item()
    high: float | int = values[np.searchsorted(reach, min(below + 1, int(reach[-1]) - 1), side="right")].item()
    part = position - below
    if isinstance(low, int) and isinstance(high, int):
        exact = low + (high - low) * part
        return round(exact) if exact.denominator == 1 or abs(exact) >= _WHOLE else float(exact)
    return low if low == high else low * float(1 - part) + high * float(part)


def date_span(of: Study | Frame, id: str) -> tuple[str, str] | None:
    """The first and last valid date or time, in canonical form; None where there is none."""
    kind = frame_of(of).study.tag(id).type
    values, _ = frame_of(of).values(id)
    if kind not in DATE_TYPES or not values.size:
        return None
    return spell(float(values[0]), kind), spell(float(values[-1]), kind)
