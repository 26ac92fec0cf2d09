"""Which type nearly all entries of a column fit, how they are written, and what cannot be told for sure."""

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt
import pyarrow.compute as pc

from rowtag.core.column import Column
from rowtag.core.propose.facts import Facts, plain_lens
from rowtag.core.propose.thresholds import THRESHOLDS
from rowtag.core.reading import SegmentReading, State, read_segment
from rowtag.core.tag import DATE_TYPES, NUMBER_TYPES, DateOrder, Marks, Type
from rowtag.core.tokens import Segment, edges_of
from rowtag.core.words import counted

Flags = npt.NDArray[np.bool_]

_WORTH = 0.7
"""Share of the sample from which a type is worth trying."""
_SAMPLE = 1_000
"""Distinct texts looked at to choose which types are worth trying; whether one fits is judged on all."""
_CURRENCIES = "£€$¥₹"
_MAYBE_DATE = r"^\d{1,4}[-/.]\d{1,2}[-/.]\d{1,4}"
_MAYBE_TIME = r"^\d{1,2}:\d\d"
_MAYBE_NUMBER = rf"^[+\-−]?[{_CURRENCIES}]? ?[+\-−]?[.,]?\d|^[+\-−]?\d.* ?[%{_CURRENCIES}]$"
_GROUPS = {" ": " ", "'": "'", "’": "’", "\u00a0": "\u00a0", "\u202f": "\u202f"}
"""Thousands marks that are nothing else."""


@dataclass(frozen=True)
class Taken:
    """What a column is taken for: a type, how entries are written, how they read so, and what is in doubt."""

    type: Type
    marks: Marks
    reading: SegmentReading
    decimals: int | None = None
    doubt: str = ""


def type_of(column: Column, facts: Facts, given: Type | None = None, marks: Marks | None = None) -> Taken:
    """The type that nearly all entries fit (or the given one), written in the way that fits best."""
    segment = column.segments[0]
    if given is not None:
        return _best_written(column, facts, given, marks)
    best = None
    if facts.entries:
        ways = _candidates(facts)
        best = _best_of(ways, segment, facts) or _best_of(ways, segment, facts, but_for_its_mark=True)
    return Taken("text", Marks(), facts.reading) if best is None else _doubted(column, facts, best)


def _best_of(
    ways: Sequence[tuple[Type, Marks]], segment: Segment, facts: Facts, *, but_for_its_mark: bool = False
) -> Taken | None:
    """The type that nearly all entries fit, counting those that are numbers `but_for_its_mark`; None where none is."""
    best: Taken | None = None
    best_share = 0.0
    for kind, written in ways:
        reading = read_segment(segment, plain_lens(kind, written))
        fitting, share = _fitting(reading, facts)
        if written.thousands in _EITHER and not _are_thousands(reading, fitting, facts, written):
            continue
        more = _otherwise_marked(fitting, facts, written) if but_for_its_mark else 0.0
        if share <= best_share or share + more < THRESHOLDS.fits:
            continue
        if kind in NUMBER_TYPES and _keeps_zeros(reading, fitting, facts):
            break
        decimals = _decimals_of(kind, reading, facts.counts)
        if decimals == 0:
            kind, decimals = "integer", None
            reading = read_segment(segment, plain_lens(kind, written))
        best, best_share = Taken(kind, written, reading, decimals), share
        if kind in NUMBER_TYPES or share == 1:
            break  # the plainest way of writing numbers that fits is taken
    return best


_EITHER = {",": ".", ".": ","}
"""Marks that can stand before decimals as well as between thousands, and the other one."""
_FAR = 10
"""How many times as large as the largest other number the smallest one with a thousands mark may be."""


def _are_thousands(reading: SegmentReading, fitting: Flags, facts: Facts, marks: Marks) -> bool:
    """Whether a comma (or point) between digits parts thousands: where it stands between groups of three, and the other
    entries bear it out. None has fewer or more digits behind it; and one has several groups, or decimals behind; or
    the others have no decimals where these have none, and these follow upon them in size. Where there are no others,
    groups of three are thousands."""
    mark = re.escape(marks.thousands)
    marked = _matching(facts, rf"\d{mark}\d")
    if not marked.any() or (marked & ~fitting).any() or reading.parsed is None:
        return not marked.any()
    if (marked & ~_matching(facts, rf"^\D*\d{{1,3}}{mark}\d{{3}}\D*$")).any():
        return True  # several groups, or decimals behind them: no decimal mark stands so
    others = fitting & ~marked
    values = np.abs(reading.parsed.values)
    sized = values[others & (values != 0)]
    if not sized.size:
        return True
    pointed = _matching(facts, rf"\d{re.escape(marks.decimal)}\d")
    rates = [facts.counts[pointed & each].sum() / facts.counts[each].sum() for each in (others, marked)]
    follows = float(values[marked].min()) <= _FAR * float(sized.max())
    return follows and (rates[0] < 0.5 or rates[1] >= rates[0] / 2)


def _otherwise_marked(fitting: Flags, facts: Facts, marks: Marks) -> float:
    """The share of entries that are numbers but for the other decimal mark: they are strays of a number for sure, which
    most others are."""
    if marks.thousands or marks.decimal not in _EITHER or 2 * facts.counts[fitting].sum() < facts.entries:
        return 0.0
    other = _matching(facts, rf"^[+\-−]?\d+{re.escape(_EITHER[marks.decimal])}\d+$") & ~fitting
    return float(facts.counts[other].sum() / max(facts.entries, 1))


def _matching(facts: Facts, pattern: str) -> Flags:
    """Which tokens that count match a pattern."""
    found: Flags = pc.match_substring_regex(facts.reading.texts, pattern).to_numpy(zero_copy_only=False) & facts.used
    return found


def _best_written(column: Column, facts: Facts, kind: Type, marks: Marks | None) -> Taken:
    """A type somebody chose, written as given or in the way that most entries fit."""
    segment = column.segments[0]
    ways = [marks] if marks else _ways(kind, facts) if facts.entries else [Marks()]
    readings = [(way, read_segment(segment, plain_lens(kind, way))) for way in ways]
    borne_out = [
        (way, reading)
        for way, reading in readings
        if way.thousands not in _EITHER or _are_thousands(reading, _fitting(reading, facts)[0], facts, way)
    ]
    way, reading = max(borne_out or readings, key=lambda each: _fitting(each[1], facts)[1])
    return _doubted(column, facts, Taken(kind, way, reading, _decimals_of(kind, reading, facts.counts)))


def _fitting(reading: SegmentReading, facts: Facts) -> tuple[npt.NDArray[np.bool_], float]:
    """Which tokens that count fit (bool, tokens), and their share of the entries."""
    fitting = reading.parsed.fits & facts.used if reading.parsed else facts.used
    return fitting, float(facts.counts[fitting].sum() / max(facts.entries, 1))


class _Sample:
    """Some of the entries, from which it is judged what is worth trying."""

    def __init__(self, facts: Facts) -> None:
        used = np.flatnonzero(facts.used)
        tokens = used[:: -(-len(used) // _SAMPLE)]
        self.whole = len(tokens) == len(used)
        self._texts, self._counts = pc.take(facts.reading.texts, tokens), facts.counts[tokens]
        self._total = int(self._counts.sum())
        self.characters = frozenset("".join(self._texts.to_pylist()))

    def share(self, pattern: str) -> float:
        """The share of entries that match a pattern."""
        hits = pc.match_substring_regex(self._texts, pattern).to_numpy(zero_copy_only=False)
        return float(self._counts[hits].sum() / self._total)


def _candidates(facts: Facts) -> list[tuple[Type, Marks]]:
    """Types and marks worth trying, judged by which characters the entries hold."""
    sample = _Sample(facts)
    if sample.characters & set("-/.") and sample.share(_MAYBE_DATE) >= _WORTH:
        orders: tuple[DateOrder, ...] = ("ymd",) if sample.share(r"^\d{4}\D") > 0.5 else ("dmy", "mdy")
        dated: Type = "datetime" if sample.share(":") > 0.5 else "date"
        return [(dated, Marks(date_order=order)) for order in orders]
    if ":" in sample.characters and sample.share(_MAYBE_TIME) >= _WORTH:
        return [("time", Marks())]
    if sample.share(_MAYBE_NUMBER) < _WORTH:
        return []
    kind: Type = "decimal" if sample.characters & set(".,") or not sample.whole else "integer"
    return [(kind, marks) for marks in _number_marks(sample)]


def _two_readings(example: str, mark: str, taken: Taken, count: int) -> str:
    """What to say of strays that have the other decimal mark."""
    word = {",": "a comma", ".": "a point"}[mark]
    such = f"with {word}, such as {example}"
    what = counted(count, f"entry {such}, is a stray", f"entries {such}, are strays")
    said = f"{what}: as decimals {example.replace(mark, taken.marks.decimal)}"
    said += " (a remedy of Checks reads them so)" if taken.type == "decimal" else ""
    if not re.search(rf"{re.escape(mark)}\d{{3}}$", example):
        return said
    whole = example.replace(mark, "").lstrip("+-−0")
    return f"{said}, as thousands {whole or '0'}"


_ORDERS: tuple[DateOrder, ...] = ("ymd", "dmy", "mdy")


def _ways(kind: Type, facts: Facts) -> list[Marks]:
    """Ways of writing entries of a type that could fit."""
    if kind in NUMBER_TYPES:
        return _number_marks(_Sample(facts))
    return [Marks(date_order=order) for order in _ORDERS] if kind in DATE_TYPES else [Marks()]


def _number_marks(sample: _Sample) -> list[Marks]:
    """Ways of writing numbers that could fit, plainest first."""
    there = sample.characters
    signs = [""] + [sign for sign in _CURRENCIES + "%" if sign in there]
    comma = "," in there and sample.share(r"\d,\d|^,\d") > 0
    point = "." in there and sample.share(r"\d\.\d") > 0
    grouped = comma and sample.share(r"(^|\D)[1-9]\d{0,2}(,\d{3})+(\D|$)") == sample.share(",")
    groups = [mark for mark in _GROUPS if mark in there and sample.share(rf"\d{mark}\d{{3}}") > 0]
    out = []
    for sign in signs:
        out.append(Marks(sign=sign))
        if comma:
            ways = [Marks(decimal=",", sign=sign), Marks(thousands=",", sign=sign)]
            out += reversed(ways) if grouped else ways
        if comma and point:
            out.append(Marks(decimal=",", thousands=".", sign=sign))
        for mark in groups:
            out.append(Marks(thousands=mark, sign=sign))
            if comma:
                out.append(Marks(decimal=",", thousands=mark, sign=sign))
    return out


_MAY_LEAD_ZERO = np.zeros(256, bool)
"""First bytes of numbers that may begin with a zero."""
_MAY_LEAD_ZERO[list(b"0+-")] = True


def _keeps_zeros(reading: SegmentReading, fitting: npt.NDArray[np.bool_], facts: Facts) -> bool:
    """Whether zeros lead whole numbers, as in plot or postal numbers: such entries are names, not numbers."""
    likely = np.flatnonzero(_MAY_LEAD_ZERO[edges_of(reading.texts)[0]] & fitting)
    if not likely.size:
        return False
    padded = likely[
        pc.match_substring_regex(pc.take(reading.texts, likely), r"^[+-]*0\d").to_numpy(zero_copy_only=False)
    ]
    return bool(facts.counts[padded].sum() > THRESHOLDS.leading_zeros * facts.entries)


def _decimals_of(kind: Type, reading: SegmentReading, counts: npt.NDArray[np.int64]) -> int | None:
    """The most digits that follow the mark in any entry that is not zero there; None under another type."""
    if kind != "decimal" or reading.parsed is None:
        return None
    return int(reading.parsed.decimals[(reading.states == State.VALID) & (counts > 0)].max(initial=0))


def _doubted(column: Column, facts: Facts, taken: Taken) -> Taken:
    """The same, with what the entries themselves cannot tell."""
    if taken.type in NUMBER_TYPES and taken.marks.decimal in _EITHER and not taken.marks.thousands:
        mark = _EITHER[taken.marks.decimal]
        fitting, _ = _fitting(taken.reading, facts)
        strays = _matching(facts, rf"^[+\-−]?\d+{re.escape(mark)}\d+$") & ~fitting
        if example := _first_text(facts, strays):
            count = int(facts.counts[strays].sum())
            return replace(taken, doubt=_two_readings(example, mark, taken, count))
    ordered = taken.type in ("date", "datetime") and taken.marks.date_order != "ymd"
    if not ordered and not (taken.type in NUMBER_TYPES and taken.marks.thousands == ","):
        return taken
    fitting, share = _fitting(taken.reading, facts)
    example = _first_text(facts, fitting & _distinctive(taken, facts))
    if not example:
        return taken
    if ordered:
        other: DateOrder = "mdy" if taken.marks.date_order == "dmy" else "dmy"
        swapped = read_segment(column.segments[0], plain_lens(taken.type, Marks(date_order=other)))
        if _fitting(swapped, facts)[1] >= share:
            words = ("day before month", "month before day")
            here, there = words if taken.marks.date_order == "dmy" else reversed(words)
            return replace(taken, doubt=f"{example} is read {here}; it could be {there}")
    else:
        fraction = read_segment(column.segments[0], plain_lens("decimal", Marks(decimal=",", sign=taken.marks.sign)))
        if _fitting(fraction, facts)[1] >= share:
            return replace(taken, doubt=f"{example} is read with a thousands mark; it could be a decimal comma")
    return taken


def _distinctive(taken: Taken, facts: Facts) -> npt.NDArray[np.bool_]:
    """Which tokens could be read another way."""
    pattern = r"\d,\d" if taken.type in NUMBER_TYPES else r"^\d{1,2}[-/.]\d{1,2}[-/.]\d{4}"
    hits: npt.NDArray[np.bool_] = pc.match_substring_regex(facts.reading.texts, pattern).to_numpy(zero_copy_only=False)
    return hits


def _first_text(facts: Facts, chosen: npt.NDArray[np.bool_]) -> str:
    """The first of some texts; for a date the first whose day and month differ."""
    tokens = np.flatnonzero(chosen)[:200]
    texts: list[str] = pc.take(facts.reading.texts, tokens).to_pylist()
    differing = (text for text in texts if not re.match(r"0?(\d{1,2})([-/.])0?\1\2", text))
    return next(differing, texts[0] if texts else "")
