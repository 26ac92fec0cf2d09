"""The operators and functions of formulas that look at one record: what each takes, gives and does.

All work on columns of m values. What they are given that is not known makes what they give unknown, unless they say
otherwise; so does what cannot be: division by zero, a root of a negative number, the 31st of February.
"""

import operator
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from rowtag.core.formulas.digits import as_written, without_noise
from rowtag.core.formulas.errors import TooLong
from rowtag.core.formulas.values import Flags, Kind, Numbers, Value, numbers, same, texts, truth
from rowtag.core.grammar import parse_numbers
from rowtag.core.reading import tidy
from rowtag.core.tag import Marks
from rowtag.core.tokens import spelled

DAY = 86_400
"""Seconds of a day."""
MOST_DECIMALS = 15
"""Decimals to which numbers can be rounded."""
MOMENTS: tuple[Kind, ...] = ("date", "datetime", "time")
ORDERED: tuple[Kind, ...] = ("number", *MOMENTS)

Work = Callable[..., Value]


@dataclass(frozen=True)
class Function:
    """A function by its name: the kinds that each argument may have, how many there must be at least, what it gives
    and how it is worked out. `said` tells a person what it does."""

    name: str
    takes: tuple[tuple[Kind, ...], ...]
    gives: Kind
    work: Work
    said: str
    least: int


FUNCTIONS: dict[str, Function] = {}
"""Functions of one record, under their names."""


def _function(
    name: str, *takes: Kind | tuple[Kind, ...], gives: Kind, said: str, least: int | None = None
) -> Callable[[Work], Work]:
    kinds = tuple((each,) if isinstance(each, str) else each for each in takes)

    def known(work: Work) -> Work:
        FUNCTIONS[name] = Function(name, kinds, gives, work, said, len(kinds) if least is None else least)
        return work

    return known


def both_known(*given: Value) -> Flags:
    """Where all of some values are known."""
    known: Flags = np.logical_and.reduce([each.known for each in given])
    return known


# Conditions --------------------------------------------------------------------------------------


def both(left: Value, right: Value) -> Value:
    """And, in three-valued logic (Kleene): one that is not met decides, whatever the other."""
    no = (left.known & ~left.data) | (right.known & ~right.data)
    met = left.known & left.data & right.known & right.data
    return truth(met, met | no)


def either(left: Value, right: Value) -> Value:
    """Or: one that is met decides."""
    met = (left.known & left.data) | (right.known & right.data)
    no = left.known & ~left.data & right.known & ~right.data
    return truth(met, met | no)


def negated(of: Value) -> Value:
    """Not: what is unknown stays so."""
    return truth(~of.data, of.known)


def follows(condition: Value, then: Value) -> Value:
    """If … then …: broken only where the condition is met and what follows from it is not."""
    return either(negated(condition), then)


LOGIC: dict[str, Work] = {"and": both, "or": either, "not": negated, "follows": follows}
BEYOND: dict[str, Callable[[Any, Any], Any]] = {"<": operator.lt, ">": operator.gt}


def compared(sign: str, left: Value, right: Value, *, computed: bool) -> Value:
    """One of = <> < <= > >= between values of one kind."""
    known, equal = both_known(left, right), same(left, right, computed=computed)
    if sign in ("=", "<>"):
        return truth(equal if sign == "=" else ~equal, known)
    beyond = BEYOND[sign[0]](left.data, right.data)
    return truth(beyond | equal if sign.endswith("=") else beyond & ~equal, known)


# Arithmetic --------------------------------------------------------------------------------------


def arithmetic(sign: str, left: Value, right: Value, kind: Kind) -> Value:
    """One of + - * / ^ on numbers; days are added to dates, and dates subtracted from one another."""
    work = {"+": np.add, "-": np.subtract, "*": np.multiply, "/": np.divide, "^": np.power}[sign]
    with np.errstate(all="ignore"):
        found = work(left.data, right.data)
    if sign in "+-" and kind == "number":
        found = without_noise(found, left.data, right.data)
    return numbers(found, both_known(left, right), kind)


def minus(of: Value) -> Value:
    """The number with the other sign."""
    return numbers(-of.data, of.known)


def turned(of: Value, low: Value, high: Value) -> Value:
    """A scale between two ends turned round: the one end becomes the other."""
    return arithmetic("-", arithmetic("+", low, high, "number"), of, "number")


def _plain(name: str, said: str, work: Callable[[Numbers], Any]) -> None:
    def of(x: Value) -> Value:
        with np.errstate(all="ignore"):
            return numbers(work(x.data), x.known)

    _function(name, "number", gives="number", said=said)(of)


_plain("floor", "the whole number below, or the number itself", lambda x: np.floor(as_written(x)))
_plain("ceiling", "the whole number above, or the number itself", lambda x: np.ceil(as_written(x)))
_plain("abs", "the number without its sign", np.abs)
_plain("sqrt", "the square root; blank for negative numbers", np.sqrt)
_plain("exp", "e to the power of the number", np.exp)


def half_up(values: Numbers, decimals: Any = 0) -> Numbers:
    """Numbers rounded to some decimals, halves away from zero, as they are written: 2.675 to two is 2.68."""
    scale = np.power(10.0, np.asarray(decimals, np.float64))
    with np.errstate(all="ignore"):
        size = as_written(np.abs(values) * scale)
        down = np.floor(size)
        found = np.copysign((down + (size - down >= 0.5)) / scale, values)
    return np.where(np.isfinite(size), found, values) + 0.0


@_function("round", "number", "number", gives="number", least=1, said="rounded to whole numbers, or to some decimals")
def _round(x: Value, decimals: Value | None = None) -> Value:
    if decimals is None:
        return numbers(half_up(x.data), x.known)
    fits = (decimals.data == np.floor(decimals.data)) & (np.abs(decimals.data) <= MOST_DECIMALS)
    return numbers(half_up(x.data, np.where(fits, decimals.data, 0)), both_known(x, decimals) & fits)


@_function("log", "number", "number", gives="number", least=1, said="the natural logarithm, or that to another base")
def _log(x: Value, base: Value | None = None) -> Value:
    with np.errstate(all="ignore"):
        if base is None:
            return numbers(np.where(x.data > 0, np.log(x.data), np.nan), x.known)
        fits = (x.data > 0) & (base.data > 0) & (base.data != 1)
        tens, twos = base.data == 10, base.data == 2  # exact where they can be
        found = np.where(tens, np.log10(x.data), np.where(twos, np.log2(x.data), np.log(x.data) / np.log(base.data)))
        return numbers(found, both_known(x, base) & fits)


@_function("mod", "number", "number", gives="number", said="what is left when the first is divided by the second")
def _mod(x: Value, by: Value) -> Value:
    with np.errstate(all="ignore"):
        times = np.floor(as_written(x.data / by.data)) * by.data
        return numbers(without_noise(x.data - times, x.data, times), both_known(x, by))


# Texts -------------------------------------------------------------------------------------------


def together(left: Value, right: Value) -> Value:
    """One text behind the other. Raises TooLong."""
    if left.data.nbytes + right.data.nbytes > MOST_AT_ONCE:
        raise TooLong
    return texts(pc.binary_join_element_wise(left.data, right.data, _NOTHING), both_known(left, right))


_NOTHING = pa.scalar("", pa.large_string())
MOST_AT_ONCE = 1 << 28
"""Bytes of the texts of a block."""


@_function("trim", "text", gives="text", said="without blanks at its ends")
def _trim(x: Value) -> Value:
    return texts(tidy(x.data), x.known)


@_function("lower", "text", gives="text", said="in small letters")
def _lower(x: Value) -> Value:
    return texts(pc.utf8_lower(x.data), x.known)


@_function("upper", "text", gives="text", said="in capitals")
def _upper(x: Value) -> Value:
    return texts(pc.utf8_upper(x.data), x.known)


@_function("length", "text", gives="number", said="how many characters it has")
def _length(x: Value) -> Value:
    return numbers(pc.utf8_length(x.data).to_numpy(zero_copy_only=False), x.known)


def _way_by_way(
    of: Any, ways: Sequence[tuple[Any, ...]], which: npt.NDArray[np.int64], work: Callable[..., Any]
) -> Any:
    """What Arrow makes of m texts in ways that differ from record to record: each way once, on its records alone.

    `which` (m) tells the way of each; `work` takes texts and what a way says.
    """
    if len(ways) == 1:
        return work(of, *ways[0])
    order = np.argsort(which, kind="stable")
    ends = np.searchsorted(which[order], np.arange(len(ways) + 1)).tolist()
    made = [
        work(pc.take(of, pa.array(order[first:stop])), *way)
        for way, first, stop in zip(ways, ends[:-1], ends[1:], strict=True)
    ]
    return pc.take(pa.concat_arrays(made), pa.array(np.argsort(order))) if made else of


def _ways(*texts: Any) -> tuple[list[tuple[Any, ...]], npt.NDArray[np.int64]]:
    """The different ways that m texts, side by side, tell; and the way of each."""
    pair = np.zeros(len(texts[0]), np.int64)
    met = [pc.dictionary_encode(each) for each in texts]
    for each in met:
        pair = pair * len(each.dictionary) + each.indices.to_numpy()
    _, first, which = np.unique(pair, return_index=True, return_inverse=True)
    said = [pc.take(each, pa.array(first)).to_pylist() for each in texts]
    return list(zip(*said, strict=True)), which


@_function(
    "part", "text", "number", "number", gives="text", least=2, said="from a character on (the first is 1), or so many"
)
def _part(x: Value, first: Value, size: Value | None = None) -> Value:
    known = both_known(x, first) if size is None else both_known(x, first, size)
    end = np.full(x.size, _FAR) if size is None else first.data - 1 + np.minimum(size.data, _FAR)
    known &= (first.data >= 1) & (first.data == np.floor(first.data)) & (end >= first.data - 1) & (end == np.floor(end))
    spans = np.stack([np.where(known, first.data - 1, 0), np.where(known, end, 0)]).clip(0, _FAR).astype(np.int64)
    different, which = np.unique(spans[0] * (_FAR + 1) + spans[1], return_inverse=True)
    ways = [(span // (_FAR + 1), span % (_FAR + 1)) for span in different.tolist()]
    return texts(_way_by_way(x.data, ways, which, pc.utf8_slice_codeunits), known)


_FAR = 10**7
"""Characters behind which no text goes on."""


@_function("replace", "text", "text", "text", gives="text", said="with one part replaced by another wherever it stands")
def _replace(x: Value, part: Value, by: Value) -> Value:
    grown = 0

    def one(of: Any, old: str, new: str) -> Any:
        nonlocal grown
        more = len(new.encode()) - len(old.encode())
        if old and of.nbytes + more * (of.nbytes // len(old.encode())) > MOST_AT_ONCE:  # it may grow so: it is counted
            grown += of.nbytes + more * (pc.sum(pc.count_substring(of, old)).as_py() or 0)
            if grown > MOST_AT_ONCE:
                raise TooLong
        return pc.replace_substring(of, old, new) if old else of

    return texts(_way_by_way(x.data, *_ways(part.data, by.data), one), both_known(x, part, by))


def _meets(x: Value, part: Value, work: Callable[..., Any]) -> Value:
    """Whether texts meet a test with others, whatever their case."""
    lower, ways = pc.utf8_lower(x.data), _ways(pc.utf8_lower(part.data))
    return truth(_way_by_way(lower, *ways, work).to_numpy(zero_copy_only=False), both_known(x, part))


@_function("contains", "text", "text", gives="truth", said="whether another text stands in it, whatever its case")
def _contains(x: Value, part: Value) -> Value:
    return _meets(x, part, pc.match_substring)


@_function("starts with", "text", "text", gives="truth", said="whether it begins with another text, whatever its case")
def _starts_with(x: Value, part: Value) -> Value:
    return _meets(x, part, pc.starts_with)


@_function("number", "text", gives="number", said="the number that a text spells; blank where it spells none")
def _number(x: Value) -> Value:
    parsed = parse_numbers(tidy(x.data), Marks())
    return numbers(parsed.values, x.known & parsed.fits)


@_function("text", ("number", "text"), gives="text", said="a number as it is written")
def _text(x: Value) -> Value:
    return x if x.kind == "text" else texts(spelled(np.where(x.known, x.data, 0.0)), x.known)


# Dates -------------------------------------------------------------------------------------------


def _days(x: Value) -> Any:
    """Dates of dates and of dates with a time, as NumPy's days; of what is unknown, any."""
    days = x.data // DAY if x.kind == "datetime" else x.data
    return np.where(x.known, days, 0).astype("datetime64[D]")


def _parts(x: Value) -> tuple[Numbers, Numbers, Numbers]:
    days = _days(x)
    months = days.astype("datetime64[M]")
    year = days.astype("datetime64[Y]").astype(np.int64) + 1970
    return year, months.astype(np.int64) % 12 + 1, (days - months).astype(np.int64) + 1


@_function("year", ("date", "datetime"), gives="number", said="the year of a date")
def _year(x: Value) -> Value:
    return numbers(_parts(x)[0], x.known)


@_function("month", ("date", "datetime"), gives="number", said="the month of a date, from 1 to 12")
def _month(x: Value) -> Value:
    return numbers(_parts(x)[1], x.known)


@_function("day", ("date", "datetime"), gives="number", said="the day of the month of a date")
def _day(x: Value) -> Value:
    return numbers(_parts(x)[2], x.known)


@_function("weekday", ("date", "datetime"), gives="number", said="the day of the week: Monday is 1, Sunday 7")
def _weekday(x: Value) -> Value:
    return numbers((_days(x).astype(np.int64) + 3) % 7 + 1, x.known)


def _made_date(year: Value, month: Value, day: Value) -> Value:
    """The dates of a year, a month and a day; unknown where there is no such day."""
    known = both_known(year, month, day)
    parts = [np.where(known, each.data, 1) for each in (year, month, day)]
    whole = np.logical_and.reduce([each == np.floor(each) for each in parts])
    y, m, d = parts
    fits = known & whole & (y >= 1) & (y <= 9999) & (m >= 1) & (m <= 12) & (d >= 1) & (d <= 31)
    y, m, d = (np.where(fits, each, 1).astype(np.int64) for each in parts)
    months = ((y - 1970) * 12 + m - 1).astype("datetime64[M]")
    days = months.astype("datetime64[D]") + (d - 1)
    fits &= days.astype("datetime64[M]") == months
    return numbers(days.astype(np.int64), fits, "date")


@_function(
    "date",
    ("number", "date", "datetime"),
    "number",
    "number",
    gives="date",
    least=1,
    said="the date of a year, a month and a day; or the day of a date with a time",
)
def _date(x: Value, month: Value | None = None, day: Value | None = None) -> Value:
    if month is not None and day is not None:
        return _made_date(x, month, day)
    return numbers(_days(x).astype(np.int64), x.known, "date")


@_function(
    "age", ("date", "datetime"), ("date", "datetime"), gives="number", said="whole years from a day to a later one"
)
def _age(born: Value, on: Value) -> Value:
    (year, *rest), (now, *then) = _parts(born), _parts(on)
    not_yet = then[0] * 100 + then[1] < rest[0] * 100 + rest[1]
    years = now - year - not_yet
    return numbers(years, both_known(born, on) & (years >= 0))


@_function("days between", ("date", "datetime"), ("date", "datetime"), gives="number", said="days from one to another")
def days_between(first: Value, last: Value) -> Value:
    """The days from one day to another, whatever the time of day; negative where the second comes first."""
    between = (_days(last).astype(np.int64) - _days(first).astype(np.int64)).astype(np.float64)
    return numbers(between, both_known(first, last))


# Times -------------------------------------------------------------------------------------------


def _clock(x: Value) -> Numbers:
    """Seconds since midnight of times and of dates with a time."""
    found: Numbers = np.where(x.known, x.data, 0.0) % DAY
    return found


@_function("hour", ("time", "datetime"), gives="number", said="the hour of a time, from 0 to 23")
def _hour(x: Value) -> Value:
    return numbers(_clock(x) // 3_600, x.known)


@_function("minute", ("time", "datetime"), gives="number", said="the minute of a time, from 0 to 59")
def _minute(x: Value) -> Value:
    return numbers(_clock(x) // 60 % 60, x.known)


@_function(
    "time",
    ("number", "datetime"),
    "number",
    gives="time",
    least=1,
    said="the time of an hour and a minute; or the time of a date with a time",
)
def _time(x: Value, minute: Value | None = None) -> Value:
    if minute is None:
        return numbers(_clock(x), x.known, "time")
    known = both_known(x, minute)
    for each, end in ((x, 24), (minute, 60)):
        known = known & (each.data >= 0) & (each.data < end) & (each.data == np.floor(each.data))
    return numbers(x.data * 3_600 + minute.data * 60, known, "time")


def _elapsed(name: str, seconds: int) -> None:
    def between(first: Value, last: Value) -> Value:
        return numbers((last.data - first.data) / seconds, both_known(first, last))

    kinds: tuple[Kind, ...] = ("time", "datetime")
    _function(name, kinds, kinds, gives="number", said=f"{name} from a time to a later one")(between)


ELAPSED = {"hours": 3_600, "minutes": 60, "seconds": 1}
"""Differences of two times, or of two dates with a time, and their units in seconds."""
for _name, _unit in ELAPSED.items():
    _elapsed(_name, _unit)
