"""Tables: frequencies and summaries, worked out once per token and carried to the records by counts."""

from collections.abc import Collection
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from rowtag.core.classes import order_by_size
from rowtag.core.frame import Frame
from rowtag.core.reading import Fill, Reading, State, canonical_code, spell, value_of
from rowtag.core.study import Study
from rowtag.core.summary import Summary, Weighed, figures_of
from rowtag.core.tag import DATE_TYPES, NUMBER_TYPES, CodeSpan, Tag

Says = Literal["valid", "missing", "stray"]


@dataclass(frozen=True)
class Row:
    """One value of a frequency table.

    `code` is canonical, that of a range as it is shown, whose ends are `low` and `high`. `listed` tells whether a line
    accounts for it; `unreadable` tells the two kinds of stray apart; `reason` is set for coded missing values. `count`
    is how many records there are, `weighed` what they weigh together under a weight.
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
    weighed: float | None = None

    @property
    def sum(self) -> float:
        """What shares are taken of."""
        return self.count if self.weighed is None else self.weighed


@dataclass(frozen=True)
class Shares:
    """What the records of each of the four readings come to, weighed or counted."""

    valid: float
    missing: float
    blank: float
    stray: float

    @classmethod
    def of(cls, fill: Fill) -> "Shares":
        """Those of records that count the same."""
        return cls(fill.valid, fill.missing, fill.blank, fill.stray)

    @property
    def all(self) -> float:
        """All records together."""
        return self.valid + self.missing + self.blank + self.stray


@dataclass(frozen=True)
class Frequency:
    """A variable's values in list order, then other valid ones by value (of an ordinal one all by size, where its list
    leaves some out), missing, unlisted, unreadable."""

    rows: tuple[Row, ...]
    fill: Fill
    ordered: bool
    sums: Shares
    left_out: int = 0
    """Values that no line accounts for and that are not among the rows, since there are too many of them."""

    def shares(self) -> list[dict[str, float | None]]:
        """Per row: percent of all records, of valid entries, and cumulative where the level is ordered."""
        running, out = 0.0, []
        for row in self.rows:
            valid = row.reading == "valid"
            running += row.sum if valid else 0
            out.append(
                {
                    "percent": percent(row.sum, self.sums.all),
                    "valid_percent": percent(row.sum, self.sums.valid) if valid else None,
                    "cumulative": percent(running, self.sums.valid) if valid and self.ordered else None,
                }
            )
        return out


def frame_of(of: Study | Frame) -> Frame:
    """The records that a table is made of: all of a study, or those of a frame."""
    return of if isinstance(of, Frame) else Frame(of)


def percent(part: float, whole: float) -> float | None:
    """`part` of `whole` in percent, None of nothing."""
    return 100 * part / whole if whole else None


def frequency(of: Study | Frame, id: str, *, unlisted_values: bool = True, most: int | None = None) -> Frequency:
    """The frequency table of one variable; for measured ones the many valid values can be left out, and of values that
    no line accounts for only the first `most` of each reading be given."""
    frame = frame_of(of)
    study, tally = frame.study, _Tally.of(frame, id)
    tag, codes, reading = study.tag(id), study.codes(id), study.reading(id)
    in_lines = tally.of_lines(reading, State.VALID, len(codes))
    in_missing = tally.of_lines(reading, State.MISSING, len(tag.missing))
    aside = {_line_code(line, tag) for line in tag.missing}  # a shared line that this tag sets aside
    listed = [
        (line, told)
        for line, told in zip(codes, in_lines, strict=True)
        if _line_code(line, tag) not in aside or told[0]
    ]
    loose, left_out = _loose(reading, tally, State.VALID, most) if unlisted_values else ([], 0)
    valid = [
        Row(_line_code(line, tag), line.label, count, "valid", low=line.low, high=line.high, weighed=weighed)
        for line, (count, weighed) in listed
    ] + [Row(code, "", count, "valid", listed=False, weighed=weighed) for code, (count, weighed) in loose]
    order = order_by_size(tag, [line for line, _ in listed], [code for code, _ in loose])
    rows = valid if order is None else [valid[at] for at in order]
    rows += [
        Row(_line_code(line, tag), line.label, count, "missing", True, False, line.low, line.high, line.reason, weighed)
        for line, (count, weighed) in zip(tag.missing, in_missing, strict=True)
    ]
    for state in (State.UNLISTED, State.UNREADABLE):
        unreadable = state is State.UNREADABLE
        loose, more = _loose(reading, tally, state, most)
        left_out += more
        rows += [
            Row(code, "", count, "stray", listed=False, unreadable=unreadable, weighed=weighed)
            for code, (count, weighed) in loose
        ]
    return Frequency(
        tuple(rows), frame.fill(id), tag.level == "ordinal" and order is not None, tally.shares(reading), left_out
    )


def _line_code(line: CodeSpan, tag: Tag) -> str:
    """A line's code in canonical form, as far as it fits the type; a range as it is shown."""
    return line.shown if line.code is None else canonical_code(line.code, tag.type) or line.code


Told = tuple[int, float | None]
"""How many records there are, and under a weight what they weigh together."""


@dataclass(frozen=True)
class _Tally:
    """How often each token of a variable occurs (int64, n), and what those records weigh (float64, n)."""

    counts: npt.NDArray[np.int64]
    weights: npt.NDArray[np.float64] | None

    @classmethod
    def of(cls, frame: Frame, id: str) -> "_Tally":
        """That of a variable among the records of a frame."""
        return cls(frame.unweighted.counts(id), None if frame.weight is None else frame.counts(id))

    def by(self, tokens: npt.NDArray[Any], group: npt.NDArray[Any], groups: int) -> list[Told]:
        """What some tokens come to in each of so many groups; `group` says in which each of them is."""
        counts = np.bincount(group, self.counts[tokens], groups).astype(np.int64).tolist()
        if self.weights is None:
            return [(count, None) for count in counts]
        return list(zip(counts, np.bincount(group, self.weights[tokens], groups).tolist(), strict=True))

    def of_lines(self, reading: Reading, state: State, lines: int) -> list[Told]:
        """Entries per code line (or missing line), in list order."""
        chosen = np.flatnonzero((reading.states == state) & (reading.lines >= 0))
        return self.by(chosen, reading.lines[chosen], lines)

    def shares(self, reading: Reading) -> Shares:
        """What the records of each reading come to."""
        sums = self.counts if self.weights is None else self.weights
        valid, missing, blank, stray = (
            float(sums[np.isin(reading.states, states)].sum())
            for states in ((State.VALID,), (State.MISSING,), (State.BLANK,), (State.UNREADABLE, State.UNLISTED))
        )
        return Shares(valid, missing, blank, stray)


def _loose(reading: Reading, tally: _Tally, state: State, most: int | None) -> tuple[list[tuple[str, Told]], int]:
    """Values in one state that no line accounts for: canonical code and count, by value, then by text; the first
    `most`, and how many there are more."""
    tokens = np.flatnonzero((reading.states == state) & (reading.lines < 0) & (tally.counts > 0))
    if not tokens.size:
        return [], 0
    grouped = pc.dictionary_encode(reading.canonical(tokens))
    group = grouped.indices.to_numpy(zero_copy_only=False)
    codes = grouped.dictionary
    totals = tally.by(tokens, group, len(codes))
    keys = [("text", "ascending")]
    columns = {"text": codes}
    if reading.values is not None and state is not State.UNREADABLE:
        values = np.full(len(codes), np.nan)
        values[group] = reading.values[tokens]
        columns["value"] = pa.array(values)
        keys.insert(0, ("value", "ascending"))
    order = pc.sort_indices(pa.table(columns), sort_keys=keys)[:most]
    found = [(code, totals[at]) for code, at in zip(pc.take(codes, order).to_pylist(), order.to_pylist(), strict=True)]
    return found, len(codes) - len(found)


def commonest(of: Study | Frame, id: str, most: int = 20) -> tuple[list[tuple[str, int]], int]:
    """The commonest valid entries of a variable with their counts, and how many different ones there are."""
    frame = frame_of(of).unweighted
    reading, counts = frame.study.reading(id), frame.counts(id)
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
    """Values in bins of equal width: n + 1 edges, n counts of valid ones (under a weight, sums of it), and n of
    those beyond limits or list."""

    edges: list[float]
    counts: list[float]
    beyond: list[float]


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
        np.histogram(values, bins=edges, weights=counts)[0].tolist() for values, counts in (inside, outside)
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
    values, counts = frame.unweighted.values(id)
    if frame.weight is None:
        return figures_of(values, counts, kind)
    return figures_of(values, counts, kind, Weighed(frame.values(id)[1], frame.squares(id)))


def date_span(of: Study | Frame, id: str) -> tuple[str, str] | None:
    """The first and last valid date or time, in canonical form; None where there is none."""
    kind = frame_of(of).study.tag(id).type
    values, _ = frame_of(of).values(id)
    if kind not in DATE_TYPES or not values.size:
        return None
    return spell(float(values[0]), kind), spell(float(values[-1]), kind)
