"""Formulas held against a plain reading record by record; errors at their characters; names that change."""

import math
import statistics
from collections.abc import Callable
from datetime import date, datetime, timedelta
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rowtag.core.chunk import BLOCK
from rowtag.core.column import column_of_texts
from rowtag.core.formulas import BadFormula, meant, taken_in, written
from rowtag.core.formulas.grammar import DEEPEST, parse
from rowtag.core.rules import LONGEST
from rowtag.core.steps.records import RemoveRecords
from rowtag.core.steps.tags import Rename
from rowtag.core.steps.variables import RemoveVariables
from rowtag.core.study import Records, Study, Variable
from rowtag.core.tag import CodeLine, MissingLine, Tag

Record = dict[str, Any]
Plain = Callable[[Record], Any]
"""What a formula gives for one record; None where it is unknown."""

REFUSED = MissingLine(code="-9", label="Refused", reason="refused")
HELD = tuple(CodeLine(code=str(code), label=label) for code, label in enumerate(("Own", "Shared", "Waiting list"), 1))
TAGS = (
    Tag(name="tenure", type="integer", codes=HELD, complete=True, missing=(REFUSED,)),
    Tag(name="hours", type="decimal", missing=(REFUSED,)),
    Tag(name="age", type="integer"),
    Tag(name="crop", type="text", missing=(MissingLine(code="n/a"),)),
    Tag(name="opened", type="date"),
    Tag(name="site_1", type="integer"),
    Tag(name="site_2", type="integer"),
    Tag(name="site_3", type="integer"),
)
NUMBERS = ("tenure", "hours", "age", "site_1", "site_2", "site_3")
FIRST = date(1970, 1, 1)
ENTRIES = {
    "tenure": st.sampled_from(["1", "2", "3", "-9", "", "7", "x", "01"]),
    "hours": st.sampled_from(["0", "4.5", "10", "0.1", "0.2", "0.3", "33.3", "-9", "", "x", "80", "-2", "1e300"]),
    "age": st.sampled_from(["0", "17", "34", "35", "99", "", "old", "-1"]),
    "crop": st.sampled_from(["Beans", "beans ", "", "n/a", "Onions and beans", "ß", "é 'x'", "12", "3.5"]),
    "opened": st.sampled_from(["2026-05-03", "2024-02-29", "1969-12-31", "", "soon", "2026-02-30"]),
    **{f"site_{number}": st.sampled_from(["1", "2", "3", "4", "5", "", "x"]) for number in (1, 2, 3)},
}  # fmt: skip


def worth(name: str, entry: str) -> Any:
    """What an entry is worth, None where it is not valid: said without anything of the package."""
    entry = entry.strip()
    if name == "crop":
        return None if entry in ("", "n/a") else entry
    if name == "opened":
        try:
            return (date.fromisoformat(entry) - FIRST).days
        except ValueError:
            return None
    try:
        number = float(entry)
    except ValueError:
        return None
    if name in ("tenure", "hours") and number == -9:
        return None
    return None if name == "tenure" and number not in (1, 2, 3) else number


@st.composite
def rows(draw: st.DrawFn) -> list[dict[str, str]]:
    return [{tag.name: draw(ENTRIES[tag.name]) for tag in TAGS} for _ in range(draw(st.integers(1, 6)))]


def study_of(given_rows: list[dict[str, str]], tags: tuple[Tag, ...] = TAGS) -> Study:
    columns = [
        (f"id_{tag.name}", Variable(tag=tag), column_of_texts([row.get(tag.name, "") for row in given_rows]))
        for tag in tags
    ]
    return Study(records=Records(len(given_rows))).with_variables(columns)


def worked_out(text: str, study: Study) -> list[Any]:
    """What a formula gives, record by record; None where it is unknown."""
    out: list[Any] = []
    for _, value in meant(taken_in(text, study), study).blocks():
        data = value.data.to_pylist() if value.kind == "text" else value.data.tolist()
        out += [each if known else None for each, known in zip(data, value.known.tolist(), strict=True)]
    return out


def alike(found: Any, expected: Any) -> bool:
    if isinstance(found, float) and isinstance(expected, float | int) and not isinstance(expected, bool):
        return math.isclose(found, expected, rel_tol=1e-9, abs_tol=1e-12)
    return bool(found == expected)


# Formulas beside what they mean for one record ---------------------------------------------------


def _both(work: Callable[..., Any], *parts: Plain) -> Plain:
    def of(record: Record) -> Any:
        values = [part(record) for part in parts]
        if any(value is None for value in values):
            return None
        try:
            found = work(*values)
        except (ZeroDivisionError, OverflowError, ValueError):
            return None
        return None if isinstance(found, complex) or (isinstance(found, float) and not math.isfinite(found)) else found

    return of


def _and(left: Plain, right: Plain) -> Plain:
    def of(record: Record) -> Any:
        one, other = left(record), right(record)
        if one is False or other is False:
            return False
        return None if one is None or other is None else True

    return of


def _not(of: Plain) -> Plain:
    return _both(lambda met: not met, of)


def _or(left: Plain, right: Plain) -> Plain:
    return _not(_and(_not(left), _not(right)))


def _if(condition: Plain, then: Plain, otherwise: Plain) -> Plain:
    def of(record: Record) -> Any:
        met = condition(record)
        return None if met is None else then(record) if met else otherwise(record)

    return of


def _same(one: Any, other: Any) -> bool:
    if isinstance(one, str):
        return bool(one == other)
    whole = float(one).is_integer() and float(other).is_integer()
    return bool(one == other or (not whole and math.isclose(one, other, rel_tol=1e-12)))


def _half_up(number: float) -> float:
    return math.copysign(math.floor(abs(number) + 0.5), number)


def number_of(name: str) -> tuple[str, Plain]:
    return name, lambda record: worth(name, record[name])


leaves = st.sampled_from(NUMBERS).map(number_of) | st.sampled_from(["0", "1", "2.5", "10", "0.3"]).map(
    lambda text: (text, lambda _: float(text))
)


def _numbers(below: st.SearchStrategy[tuple[str, Plain]]) -> st.SearchStrategy[tuple[str, Plain]]:
    two = st.tuples(below, below)
    return st.one_of(
        two.map(lambda p: (f"({p[0][0]} + {p[1][0]})", _both(lambda a, b: a + b, p[0][1], p[1][1]))),
        two.map(lambda p: (f"({p[0][0]} - {p[1][0]})", _both(lambda a, b: a - b, p[0][1], p[1][1]))),
        two.map(lambda p: (f"{p[0][0]} * {p[1][0]}", _both(lambda a, b: a * b, p[0][1], p[1][1]))),
        two.map(lambda p: (f"{p[0][0]} / (0 + {p[1][0]})", _both(lambda a, b: a / b, p[0][1], p[1][1]))),
        below.map(lambda p: (f"-({p[0]})", _both(lambda a: -a, p[1]))),
        below.map(lambda p: (f"sqrt({p[0]})", _both(math.sqrt, p[1]))),
        below.map(lambda p: (f"round({p[0]})", _both(_half_up, p[1]))),
        below.map(lambda p: (f"floor({p[0]})", _both(lambda a: float(math.floor(a)), p[1]))),
        st.tuples(conditions, below, below).map(
            lambda p: (f"(if {p[0][0]} then {p[1][0]} else {p[2][0]})", _if(p[0][1], p[1][1], p[2][1]))
        ),
        st.just(("length(crop)", _both(len, lambda record: worth("crop", record["crop"])))),
        st.just(("sum(site_1..site_3)", _figure(sum, 3))),
        st.just(("mean(site_1..site_3, needs 2)", _figure(statistics.fmean, 2))),
        st.just(("median(site_1..site_3, needs 1)", _figure(statistics.median, 1))),
        st.just(("sd(site_1..site_3, needs 2)", _figure(statistics.stdev, 2))),
        st.just(("max(site_1..site_3, needs 1)", _figure(max, 1))),
        st.just(("count(site_1..site_3)", lambda record: float(len(_sites(record))))),
        st.just(("count(site_1..site_3 = 4)", lambda record: float(_sites(record).count(4)))),
        st.just((
            "count(site_1..site_3 is stray)",
            lambda record: float(sum(record[f"site_{number}"] == "x" for number in (1, 2, 3))),
        )),
    )  # fmt: skip


def _sites(record: Record) -> list[float]:
    found = [worth(f"site_{number}", record[f"site_{number}"]) for number in (1, 2, 3)]
    return [each for each in found if each is not None]


def _figure(work: Callable[[list[float]], float], needs: int) -> Plain:
    return lambda record: float(work(_sites(record))) if len(_sites(record)) >= needs else None


def _reads(name: str, how: str) -> tuple[str, Plain]:
    def of(record: Record) -> bool:
        entry = record[name].strip()
        missing = entry in ("-9", "n/a") and name in ("tenure", "hours", "crop")
        state = (
            "blank" if not entry else "missing" if missing else "valid" if worth(name, entry) is not None else "stray"
        )
        return state == how

    return f"{name} is {how}", of


def _entry(name: str) -> Plain:
    return lambda record: worth(name, record[name])


NEW_YEAR = (date(2026, 1, 1) - FIRST).days
READS = ("valid", "missing", "blank", "stray")
FIXED: list[tuple[str, Plain]] = [
    ("tenure is 'Waiting list'", _both(lambda code: code == 3, _entry("tenure"))),
    ("tenure in (1, 3)", _both(lambda code: code in (1, 3), _entry("tenure"))),
    ("age not between 17 and 34", _both(lambda age: not 17 <= age <= 34, _entry("age"))),
    ("crop contains 'BEAN'", _both(lambda crop: "bean" in crop.lower(), _entry("crop"))),
    ("lower(crop) = 'beans'", _both(lambda crop: crop.lower() == "beans", _entry("crop"))),
    ("opened < date(2026, 1, 1)", _both(lambda day: day < NEW_YEAR, _entry("opened"))),
]
compared = st.tuples(leaves, leaves).map(
    lambda p: (f"{p[0][0]} <= {p[1][0]}", _both(lambda a, b: a <= b, p[0][1], p[1][1]))
)
reads = st.tuples(st.sampled_from([each.name for each in TAGS]), st.sampled_from(READS)).map(lambda p: _reads(*p))
conditions: st.SearchStrategy[tuple[str, Plain]] = st.recursive(
    st.one_of(compared, reads, st.sampled_from(FIXED)),
    lambda below: st.one_of(
        st.tuples(below, below).map(lambda p: (f"({p[0][0]} and {p[1][0]})", _and(p[0][1], p[1][1]))),
        st.tuples(below, below).map(lambda p: (f"({p[0][0]} or {p[1][0]})", _or(p[0][1], p[1][1]))),
        below.map(lambda p: (f"not {p[0]}", _not(p[1]))),
        st.tuples(below, below).map(lambda p: (f"(if {p[0][0]} then {p[1][0]})", _or(_not(p[0][1]), p[1][1]))),
    ),
    max_leaves=5,
)  # fmt: skip
numbers = st.recursive(leaves, _numbers, max_leaves=6)


@settings(max_examples=400, deadline=None)
@given(rows(), st.one_of(numbers, conditions))
def test_as_record_by_record(given_rows: list[dict[str, str]], formula: tuple[str, Plain]) -> None:
    text, plain = formula
    found = worked_out(text, study_of(given_rows))
    expected = [plain(row) for row in given_rows]
    assert all(map(alike, found, expected)), (text, found, expected)


@settings(max_examples=150, deadline=None)
@given(rows(), numbers, numbers, st.sampled_from(["=", "<>", "<", "<=", ">", ">="]))
def test_computed_numbers_compare(
    given_rows: list[dict[str, str]], left: tuple[str, Plain], right: tuple[str, Plain], sign: str
) -> None:
    """Noise of arithmetic makes no difference: exactly one of <, = and > holds of two known numbers."""
    text = f"({left[0]} + 0) {sign} ({right[0]})"
    plain = {
        "=": _same, "<>": lambda a, b: not _same(a, b), "<": lambda a, b: a < b and not _same(a, b),
        ">": lambda a, b: a > b and not _same(a, b), "<=": lambda a, b: a < b or _same(a, b),
        ">=": lambda a, b: a > b or _same(a, b),
    }[sign]  # fmt: skip
    expected = [_both(plain, left[1], right[1])(row) for row in given_rows]
    pairs = [(left[1](row), right[1](row)) for row in given_rows]
    found = worked_out(text, study_of(given_rows))
    for one, other, pair in zip(found, expected, pairs, strict=True):
        close = None not in pair and pair[0] != pair[1] and math.isclose(*pair, rel_tol=1e-9)
        assert one == other or close, (text, found, expected)


def test_sums_that_must_be_a_hundred() -> None:
    """33.3 + 33.3 + 33.4 is 100, whatever floats make of it; 9007199254740992 is not 9007199254740993 − 2."""
    study = study_of([{"hours": "33.3"}, {"hours": "0.1"}])
    assert worked_out("hours + 33.3 + 33.4 = 100", study) == [True, False]
    assert worked_out("hours * 3 = 0.3", study) == [False, True]
    assert worked_out("1000000000000 + 1 = 1000000000000", study) == [False, False]


def test_rounding_is_what_is_written() -> None:
    study = study_of([{"hours": each} for each in ("2.675", "0.5", "1.5", "-2.5", "1.005", "2.4999999")])
    assert worked_out("round(hours, 2)", study) == [2.68, 0.5, 1.5, -2.5, 1.01, 2.5]
    assert worked_out("round(hours)", study) == [3, 1, 2, -3, 1, 2]
    assert worked_out("round(1234.5, -2)", study) == [1200] * 6


def test_refused_is_no_answer() -> None:
    """Where a condition is unknown, so is what is chosen by it: a refusal never becomes a 0."""
    study = study_of([{"hours": "-9"}, {"hours": "12"}, {"hours": ""}, {"hours": "3"}])
    assert worked_out("if hours > 10 then 1 else 0", study) == [None, 1, None, 0]
    assert worked_out("if hours > 10 then age is valid", study) == [None, False, None, True]
    assert worked_out("hours is missing 'refused'", study) == [True, False, False, False]
    assert worked_out("hours is not missing 'Refused'", study) == [False, True, True, True]
    assert worked_out("hours is missing 'not asked'", study) == [False] * 4


def placed(age: float, among: list[float]) -> float:
    """The place by size, the mean of theirs where several are equal."""
    return sum(other < age for other in among) + (among.count(age) + 1) / 2


# Down the records --------------------------------------------------------------------------------


@settings(max_examples=100, deadline=None)
@given(rows())
def test_down_the_records(given_rows: list[dict[str, str]]) -> None:
    study = study_of(given_rows)
    ages = [worth("age", row["age"]) for row in given_rows]
    groups = [worth("tenure", row["tenure"]) for row in given_rows]
    sites = [worth("site_1", row["site_1"]) for row in given_rows]
    both = [None if None in pair else pair for pair in zip(groups, sites, strict=True)]
    for over, keys in (("all", [0] * len(ages)), ("tenure", groups), ("tenure, site_1", both)):

        def within(key: Any, keys: list[Any] = keys) -> list[float]:
            return [age for age, other in zip(ages, keys, strict=True) if other == key and age is not None]

        def of(work: Callable[[list[float]], float], least: int = 1, keys: list[Any] = keys) -> list[Any]:
            return [None if key is None or len(within(key)) < least else float(work(within(key))) for key in keys]

        expected = {
            "sum": of(sum), "mean": of(statistics.fmean), "median": of(statistics.median), "min": of(min),
            "max": of(max), "sd": of(statistics.stdev, 2), "count": of(len, 0),
        }  # fmt: skip
        for what, values in expected.items():
            assert all(map(alike, worked_out(f"{what}(age) over {over}", study), values)), (what, over)
        firsts = [within(key)[0] if key is not None and within(key) else None for key in keys]
        assert worked_out(f"first(age) over {over}", study) == firsts
        ranks = [
            None if key is None or age is None else placed(age, within(key))
            for age, key in zip(ages, keys, strict=True)
        ]
        assert worked_out(f"rank(age) over {over}", study) == ranks
        sizes = [None if key is None else keys.count(key) for key in keys]
        assert worked_out(f"number over {over}", study) == sizes


def test_removed_records_count_for_nothing() -> None:
    study = study_of([{"age": str(age), "crop": crop} for age, crop in ((10, "a"), (20, "b"), (60, "b"))])
    left = RemoveRecords(records=(1,)).apply(study).study
    assert worked_out("mean(age) over all", left) == [40, 40]
    assert worked_out("age - mean(age) over all", left) == [-20, 20]
    assert worked_out("first(crop) over all", left) == ["b", "b"]


def test_figures_down_more_records_than_are_looked_at_at_a_time() -> None:
    """A group that begins in the first block and goes on in the third, one that is in the last alone, one of none."""
    ages = [(at * 37) % 71 for at in range(2 * BLOCK + 50)]
    tenures = ["1" if at % 3 else "2" if at < BLOCK else "" for at in range(2 * BLOCK)] + ["3"] * 50
    crops = ["" if at < BLOCK + 7 else f"crop {at}" for at in range(len(ages))]
    columns = {"age": map(str, ages), "tenure": tenures, "crop": crops}
    study = study_of([dict(zip(columns, row, strict=True)) for row in zip(*columns.values(), strict=True)])
    members = {key: [at for at, held in enumerate(tenures) if held == key] for key in "123"}
    expected = {key: [ages[at] for at in where] for key, where in members.items()}
    for what, work in {"median": statistics.median, "sd": statistics.stdev, "max": max, "count": len}.items():
        found = worked_out(f"{what}(age) over tenure", study)
        for key, where in members.items():
            assert {round(found[at], 9) for at in where} == {round(float(work(expected[key])), 9)}, (what, key)
    ranks, firsts = worked_out("rank(age) over tenure", study), worked_out("first(crop) over tenure", study)
    for at in (0, 1, 2, BLOCK - 1, BLOCK + 1, 2 * BLOCK - 1, 2 * BLOCK + 3):
        assert ranks[at] == (placed(ages[at], expected[tenures[at]]) if tenures[at] else None)
    assert [firsts[members[key][0]] for key in "123"] == [f"crop {BLOCK + 7}", None, f"crop {2 * BLOCK}"]


@pytest.mark.parametrize("over", ["crop", "crop, tenure"])
def test_figures_down_the_members_of_many_households(over: str) -> None:
    """About as many groups as records, whose records stand far from one another."""
    size = 2 * BLOCK + 50
    held = [(f"plot {at * 7919 % size // 3}", str(at % 2 + 1)) for at in range(size)]
    ages = [(at * 37) % 71 for at in range(size)]
    study = study_of(
        [{"age": str(age), "crop": crop, "tenure": tenure} for age, (crop, tenure) in zip(ages, held, strict=True)]
    )
    keys = [key[: over.count(",") + 1] for key in held]
    members: dict[tuple[str, ...], list[float]] = {}
    for key, age in zip(keys, ages, strict=True):
        members.setdefault(key, []).append(age)
    for what, work in {"mean": statistics.fmean, "median": statistics.median, "sum": sum, "count": len}.items():
        figures = {key: float(work(of)) for key, of in members.items()}  # type: ignore[operator]
        assert all(map(alike, worked_out(f"{what}(age) over {over}", study), map(figures.get, keys))), what
    ranks = [placed(age, members[key]) for age, key in zip(ages, keys, strict=True)]
    assert worked_out(f"rank(age) over {over}", study) == ranks
    assert worked_out(f"first(age) over {over}", study) == [members[key][0] for key in keys]


# Texts and dates ---------------------------------------------------------------------------------


@settings(max_examples=150, deadline=None)
@given(st.lists(st.tuples(st.text("aBß é1.-", max_size=6), st.text("aBß", max_size=2)), min_size=1, max_size=6))
def test_texts(pairs: list[tuple[str, str]]) -> None:
    tags = (Tag(name="one", type="text"), Tag(name="other", type="text"))
    study = study_of([{"one": one, "other": other} for one, other in pairs], tags)
    both = [(one.strip() or None, other.strip() or None) for one, other in pairs]

    def each(work: Callable[[str, str], Any]) -> list[Any]:
        return [None if None in pair else work(*pair) for pair in both]  # type: ignore[arg-type]

    assert worked_out("one contains other", study) == each(lambda a, b: b.lower() in a.lower())
    assert worked_out("one starts with other", study) == each(lambda a, b: a.lower().startswith(b.lower()))
    assert worked_out("replace(one, other, 'x')", study) == each(lambda a, b: a.replace(b, "x"))
    assert worked_out("part(one, length(other), 2)", study) == each(lambda a, b: a[len(b) - 1 : len(b) + 1])
    assert worked_out("one = other", study) == each(lambda a, b: a == b)


@settings(max_examples=150, deadline=None)
@given(
    st.dates(date(1600, 1, 1), date(2400, 1, 1)), st.dates(date(1600, 1, 1), date(2400, 1, 1)), st.integers(-500, 500)
)
def test_dates(one: date, other: date, days: int) -> None:
    tags = (Tag(name="first", type="date"), Tag(name="last", type="date"))
    study = study_of([{"first": one.isoformat(), "last": other.isoformat()}], tags)
    assert worked_out("days between `first` and last", study) == [(other - one).days]
    assert worked_out("last - `first`", study) == [(other - one).days]
    parts = [worked_out(f"{part}(last)", study)[0] for part in ("year", "month", "day", "weekday")]
    assert parts == [other.year, other.month, other.day, other.isoweekday()]
    assert worked_out("date(year(last), month(last), day(last)) = last", study) == [True]
    years = other.year - one.year - ((other.month, other.day) < (one.month, one.day))
    assert worked_out("age(`first`, last)", study) == [years if years >= 0 else None]
    moved = other + timedelta(days)
    later = f"last + {days}" if days >= 0 else f"last - {-days}"
    assert worked_out(f"{later} = date({moved.year}, {moved.month}, {moved.day})", study) == [True]


def test_days_that_are_none() -> None:
    study = study_of([{"age": each} for each in ("28", "29", "30", "1.5", "")])
    assert [each is None for each in worked_out("date(2026, 2, age)", study)] == [False, True, True, True, True]


@settings(max_examples=100, deadline=None)
@given(
    st.datetimes(datetime(1900, 1, 1), datetime(2100, 1, 1)), st.datetimes(datetime(1900, 1, 1), datetime(2100, 1, 1))
)
def test_times(one: datetime, other: datetime) -> None:
    """Of whole seconds, before 1970, too."""
    one, other = one.replace(microsecond=0), other.replace(microsecond=0)
    tags = (
        *(Tag(name=name, type="datetime") for name in ("begun", "ended")),
        *(Tag(name=name, type="time") for name in ("come", "gone")),
    )
    clocks = {"come": one.time().isoformat(), "gone": other.time().isoformat()}
    study = study_of([{"begun": one.isoformat(), "ended": other.isoformat(), **clocks}], tags)
    assert [worked_out(f"{part}(begun)", study) for part in ("hour", "minute")] == [[one.hour], [one.minute]]
    assert [worked_out(f"{part}(gone)", study) for part in ("hour", "minute")] == [[other.hour], [other.minute]]
    assert worked_out("minutes(begun, ended)", study) == [pytest.approx((other - one).total_seconds() / 60)]
    seconds = [each.hour * 3_600 + each.minute * 60 + each.second for each in (one, other)]
    assert worked_out("minutes(come, gone)", study) == [pytest.approx((seconds[1] - seconds[0]) / 60)]
    assert worked_out("time(begun) = come and date(begun) <= date(begun)", study) == [True]
    assert worked_out(f"come >= time({one.hour}, {one.minute})", study) == [True]
    assert worked_out("time(minute(come) + 24, 0)", study) == [None]


# Names -------------------------------------------------------------------------------------------


def test_renaming_changes_the_words_alone() -> None:
    study = study_of([{"hours": "3", "age": "40"}])
    formula = taken_in("mean(HOURS, age) > 2 and `hours` is valid", study)
    renamed = Rename(names={"id_hours": "over", "id_age": "years"}).apply(study).study
    assert written(formula, renamed) == "mean(`over`, years) > 2 and `over` is valid"
    again = taken_in(written(formula, renamed), renamed)
    assert [value.data.tolist() for _, value in meant(again, renamed).blocks()] == [[True]]
    assert written(formula, study) == "mean(hours, age) > 2 and hours is valid"
    without = RemoveVariables(variables=("id_age",)).apply(study).study
    with pytest.raises(BadFormula, match="There is no variable “age”") as told:
        meant(formula, without)
    assert told.value.span == (12, 15)


def test_what_is_looked_at() -> None:
    study = study_of([{}])
    found = meant(taken_in("mean(site_1) over tenure > count(site_1..site_3)", study), study)
    assert found.variables == ("id_tenure", "id_site_1", "id_site_2", "id_site_3")


# What cannot be ----------------------------------------------------------------------------------

WRONG = {
    "": ((0, 0), "no formula", None),
    "huors > 3": ((0, 5), "no variable “huors”", "hours"),
    "hours > ": ((7, 7), "The end cannot stand here", None),
    "hours >> 3": ((7, 8), "“>” cannot stand here", None),
    "  hours == 3": ((8, 10), "“==” is written =", "="),
    "hours => 3": ((6, 8), "“=>” is written >=", ">="),
    "hours ≥ 3": ((6, 7), "written >=", ">="),
    'crop = "Beans"': ((7, 8), "written '", "'"),
    "crop = 'Beans": ((7, 13), "does not end", None),
    "mean(site_1..site_3": ((19, 19), "The end", None),
    "3x + 1": ((0, 2), "“3x” is no number", None),
    "1e999 > 1": ((0, 5), "too large", None),
    "hours = 12345678901234567": ((8, 25), "more than 15 digits", None),
    "foo(3)": ((0, 3), "no function “foo”", "floor"),
    "rank(hours)": ((0, 4), "looks down the records", None),
    "round(1, 2, 3)": ((0, 14), "round takes 1 or 2 things, not 3", None),
    "sqrt(hours) over all": ((0, 4), "does not look down", None),
    "time(25, 0)": ((0, 11), "There is no such time", None),
    "time(opened)": ((5, 11), "Time takes a number or a date with a time; this is a date", None),
    "minutes(opened, opened)": ((8, 14), "Minutes takes a time or a date with a time; this is a date", None),
    "minutes(time(8, 0), opened)": ((20, 26), "Minutes takes a time or a date with a time; this is a date", None),
    "date(2026, 2, 30) < opened": ((0, 17), "There is no such day", None),
    "hours = 'x'": ((8, 11), "A number cannot be compared with text", None),
    "crop = 3": ((7, 8), "Text cannot be compared with a number", None),
    "crop + 1": ((0, 4), "“+” takes a number; this is text", None),
    "sum(crop, crop)": ((4, 8), "Sum takes a number; this is text", None),
    "hours and age > 3": ((0, 5), "“and” takes a condition; this is a number", None),
    "if hours > 3 then 1 else 'a'": ((25, 28), "“then” gives a number, “else” text", None),
    "site_3..site_1": ((0, 14), "does not stand before", None),
    "site_1..site_3": ((0, 14), "several variables at once", None),
    "count(site_1..site_2 = site_1..site_3)": ((6, 37), "not equally long", None),
    "tenure = -9": ((9, 11), "-9 is a missing code of tenure", None),
    "tenure = 5": ((9, 10), "5 is none of the codes of tenure", None),
    "tenure is 'waiting lst'": ((10, 23), "No code of tenure has the label", "'Waiting list'"),
    "tenure is 'Refused'": ((10, 19), "the label of a missing code", None),
    "tenure is missing 'refusd'": ((18, 26), "no reason for a missing answer", "'refused'"),
    "age is 'old'": ((7, 12), "age has no labels", None),
    "(age + 1) is blank": ((0, 0), "Only a variable reads", None),
    "7 / 0": ((4, 5), "divided by zero", None),
    "date(2026, 2, 30)": ((0, 17), "There is no such day", None),
    "mean(site_1..site_3, needs 4)": ((0, 29), "Only 3 are given", None),
    "mean(site_1..site_3, needs 1.5)": ((27, 30), "a whole number", None),
    "round(age, needs 2)": ((0, 5), "takes no “needs”", None),
    "reverse(age)": ((8, 11), "Its ends are not known", None),
}  # fmt: skip


@pytest.mark.parametrize("text", WRONG)
def test_told_at_its_characters(text: str) -> None:
    span, said, suggestion = WRONG[text]
    with pytest.raises(BadFormula) as told:
        taken_in(text, study_of([{}]))
    assert said in str(told.value) and told.value.suggestion == suggestion
    assert told.value.span == span or text.startswith("(")
    assert told.value.where is not None and told.value.where.character == told.value.span[0] + 1


def test_too_long_and_too_deep() -> None:
    study = study_of([{"age": "1"}])
    for text in (
        "-" * 3_000 + "age",
        "not " * 900 + "age > 1",
        "(" * 1_500 + "age" + ")" * 1_500,
        "1 + " * 900 + "age",
    ):
        try:
            worked_out(text, study)
        except BadFormula as error:
            assert "nested" in str(error)
    with pytest.raises(BadFormula, match=f"may have {LONGEST:,}"):
        parse("1" * (LONGEST + 1))
    assert worked_out("-" * (DEEPEST - 10) + "age", study) == [1]


WORDS = """if then else and or not in is between over all needs missing valid blank stray 'x' 'Own' hours tenure
    crop opened site_1 .. , ( ) = < > <= <> + - * / ^ 3 2.5 -9 mean count sum round date number text part first
    rank ` ' ."""


@settings(max_examples=1_500, deadline=None)
@given(st.lists(st.sampled_from(WORDS.split()) | st.text(max_size=3), max_size=14).map(" ".join) | st.text(max_size=40))
def test_any_text_is_refused_in_words(text: str) -> None:
    """Whatever is typed either means something, and is worked out, or is told where it does not."""
    study = study_of([{"hours": "3", "tenure": "1", "crop": "x"}, {}])
    try:
        found = worked_out(text, study)
    except BadFormula as error:
        assert str(error) and 0 <= error.span[0] <= error.span[1] <= max(len(text), 1)
    else:
        assert len(found) == 2


def test_texts_that_multiply() -> None:
    """Sentences whose texts would grow beyond all bounds are told at their character, at once and in little memory."""
    crop = Variable(tag=Tag(name="crop", type="text"))
    study = Study(records=Records(200)).with_variables([("id_crop", crop, column_of_texts(["a" * 20] * 200))])
    sentence = "crop"
    for _ in range(5):
        sentence = f"replace({sentence}, 'a', '{'a' * 27}')"
    with pytest.raises(BadFormula, match=r"Of 200 records these texts would have more than 256 MB") as refused:
        list(meant(taken_in(sentence, study), study).blocks())
    assert sentence[refused.value.span[0] :].startswith("replace(" * 4 + "crop")
    twice = "crop & crop"
    for _ in range(4):
        twice = f"({twice}) & ({twice})"
    assert len(next(meant(taken_in(twice, study), study).blocks())[1].data[0].as_py()) == 20 * 32
