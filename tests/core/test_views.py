"""Views of several variables: counted and weighed records, compared with plain counts and with SciPy."""

from collections import Counter
from itertools import combinations

import numpy as np
import pytest
import scipy.stats
from hypothesis import given, settings
from hypothesis import strategies as st

from rowtag.core.association import chi_square, cramers_v, gamma, tau_b
from rowtag.core.basis import basis_of
from rowtag.core.column import column_of_texts
from rowtag.core.errors import BadInput
from rowtag.core.formulas import named
from rowtag.core.frame import Frame
from rowtag.core.study import Records, Study, Variable
from rowtag.core.summary import Summary, Weighed, figures_of, weighed_quantile
from rowtag.core.tables import frequency, summary
from rowtag.core.tag import CodeLine, MissingLine, Tag
from rowtag.core.views.battery import Battery
from rowtag.core.views.crosstab import Crosstab, CrosstabTable
from rowtag.core.views.distribution import Distribution
from rowtag.core.views.groups import Groups
from rowtag.core.views.several import Several

HELD = tuple(CodeLine(code=code, label=word) for code, word in (("3", "Own"), ("1", "Shared"), ("2", "Waiting")))
GOOD = tuple(CodeLine(code=str(code), label=word) for code, word in enumerate(("Poor", "Fair", "Good"), 1))
REFUSED = (MissingLine(code="-9", label="Refused", reason="refused"),)
TAGS = {
    "held": Tag(name="held", type="integer", codes=HELD, complete=True, missing=REFUSED),
    "rated": Tag(name="rated", type="integer", level="ordinal", codes=GOOD, complete=True, missing=REFUSED),
    "hours": Tag(name="hours", type="decimal", level="ratio", missing=REFUSED),
    "weight": Tag(name="weight", type="decimal", level="ratio", use="weight"),
    "said": Tag(name="said", type="text"),
}
Rows = list[tuple[str, str, str, str]]


def study_of(rows: Rows) -> Study:
    """A study of held, rated, hours and weight, and a text that is the number of each record."""
    columns = [*zip(*rows, strict=True)] if rows else [(), (), (), ()]
    columns.append(tuple(str(number) for number in range(len(rows))))
    made = [
        (id, Variable(tag=tag), column_of_texts(list(column)))
        for (id, tag), column in zip(TAGS.items(), columns, strict=True)
    ]
    return Study(records=Records(len(rows))).with_variables(made)


ROWS = st.lists(
    st.tuples(
        st.sampled_from(["1", "2", "3", "-9", "", "8", "x"]),
        st.sampled_from(["1", "2", "3", "-9", ""]),
        st.sampled_from(["0", "1.5", "2", "2.5", "40", "-9", "", "?"]),
        st.sampled_from(["0.5", "1", "2.25", "0", "", "k"]),
    ),
    max_size=25,
)


def weight_of(row: tuple[str, str, str, str]) -> float | None:
    """What a record weighs, said slowly; None where it has no weight."""
    return float(row[3]) if row[3] in ("0.5", "1", "2.25") else None


def weighs(rows: Rows) -> bool:
    return any(weight_of(row) for row in rows)


@settings(max_examples=60, deadline=None)
@given(ROWS, st.booleans(), st.sampled_from(["column", "row", "total"]))
def test_a_crosstab_is_a_plain_count(rows: Rows, weighed: bool, percent: str) -> None:
    """Each cell, each margin and each share, in the order of the list; every record is in it or told as left out."""
    weighed = weighed and weighs(rows)
    study = study_of(rows)
    frame = basis_of(study, weight="weight" if weighed else None).frame
    found = Crosstab(rows="held", columns="rated", percent=percent).look(frame)  # type: ignore[arg-type]
    assert [each.code for each in found.row_values] == ["3", "1", "2"]
    kept = [(row, weight_of(row) if weighed else 1.0) for row in rows if not weighed or weight_of(row)]
    counts, sums = Counter[tuple[str, str]](), Counter[tuple[str, str]]()
    for (held, rated, *_), weight in kept:
        if held in "123" and rated in "123" and held and rated:
            for cell in ((held, rated), (held, "all"), ("all", rated), ("all", "all")):
                counts[cell] += 1
                sums[cell] += weight  # type: ignore[assignment]
    of = [*"312", "all"], [*"123", "all"]
    (table,) = found.tables
    assert table.records == [[counts[down, along] for along in of[1]] for down in of[0]]
    assert np.allclose(table.sums, [[sums[down, along] for along in of[1]] for down in of[0]])
    for down, shares in zip(of[0], table.percents, strict=True):
        for along, share in zip(of[1], shares, strict=True):
            whole = sums[{"column": ("all", along), "row": (down, "all"), "total": ("all", "all")}[percent]]
            assert share == pytest.approx(100 * sums[down, along] / whole) if whole else share is None
    assert found.inside == counts["all", "all"] == frame.size - sum(each.records for each in found.left)
    out = Counter(
        ("held", {"-9": "Refused", "": "blank"}.get(held, "stray")) if held not in ("1", "2", "3") else
        ("rated", {"-9": "Refused", "": "blank"}[rated])
        for (held, rated, *_), _ in kept if held not in ("1", "2", "3") or rated not in ("1", "2", "3")
    )  # fmt: skip
    assert {(each.variable, each.words): each.records for each in found.left} == out


@settings(max_examples=40, deadline=None)
@given(ROWS)
def test_missing_ones_stand_in_it_on_wish(rows: Rows) -> None:
    """Then nobody is left out, and how both go together is still said of the valid ones alone."""
    frame = Frame(study_of(rows))
    found, plain = (Crosstab(rows="held", columns="rated", missing=missing).look(frame) for missing in (True, False))
    assert found.inside == frame.size and not found.left
    assert found.association == plain.association
    layered = Crosstab(rows="held", columns="hours", within="rated", missing=True).look(frame)
    assert sum(table.records[-1][-1] for table in layered.tables) == frame.size


TABLES = st.integers(1, 4).flatmap(
    lambda rows: st.integers(1, 4).flatmap(
        lambda columns: st.lists(
            st.lists(st.integers(0, 6), min_size=columns, max_size=columns), min_size=rows, max_size=rows
        )
    )
)  # fmt: skip


@settings(max_examples=150, deadline=None)
@given(TABLES)
def test_association_as_scipy_has_it(cells: list[list[int]]) -> None:
    """Chi-square, Cramér's V and tau-b; gamma pair by pair."""
    table = np.array(cells)
    used = table[table.sum(axis=1) > 0][:, table.sum(axis=0) > 0]
    if min(used.shape) < 2:
        assert chi_square(table) is None and cramers_v(table) is None and tau_b(table) is None
    else:
        found, theirs = chi_square(table), scipy.stats.chi2_contingency(used, correction=False)
        assert found is not None
        assert (found.value, found.p, found.freedom) == pytest.approx((theirs.statistic, theirs.pvalue, theirs.dof))
        assert found.few == pytest.approx((theirs.expected_freq < 5).mean())
        assert cramers_v(table) == pytest.approx(scipy.stats.contingency.association(used), abs=1e-12)
    records = [(down, along) for (down, along), n in np.ndenumerate(table) for _ in range(n)]
    if min(used.shape) >= 2:
        downs, alongs = zip(*records, strict=True)
        assert tau_b(table) == pytest.approx(scipy.stats.kendalltau(downs, alongs).statistic, abs=1e-9)
        assert tau_b(table * 0.37) == pytest.approx(tau_b(table)), "weights count by their proportions"
    signs = [np.sign((a[0] - b[0]) * (a[1] - b[1])) for a, b in combinations(records, 2)]
    same, opposite = signs.count(1), signs.count(-1)
    assert gamma(table) == (pytest.approx((same - opposite) / (same + opposite)) if same + opposite else None)


def test_a_table_worked_by_hand() -> None:
    """Rows 10, 20 and 30, 40: expected 12, 18, 28, 42; chi-square 4/12 + 4/18 + 4/28 + 4/42 = 0.7937; concordant
    10 × 40 = 400, discordant 20 × 30 = 600."""
    table = np.array([[10, 20], [30, 40]])
    found = chi_square(table)
    assert found is not None and found.value == pytest.approx(0.79365, abs=1e-5) and found.freedom == 1
    assert cramers_v(table) == pytest.approx((0.79365 / 100) ** 0.5, abs=1e-5)
    assert gamma(table) == pytest.approx(-0.2)
    assert tau_b(table) == pytest.approx(-200 / (2100 * 2400) ** 0.5)


NUMBERS = st.lists(st.integers(-50, 50).map(lambda n: n / 4), min_size=1, max_size=30)


@settings(max_examples=150, deadline=None)
@given(NUMBERS)
def test_figures_as_scipy_has_them(numbers: list[float]) -> None:
    """Of numbers with ties, of one, of a constant: the figure, or none where there is none."""
    values, counts = np.unique(numbers, return_counts=True)
    found, n = figures_of(values, counts, "decimal"), len(numbers)
    assert (found.n, found.mean, found.min, found.max) == (
        n,
        pytest.approx(np.mean(numbers)),
        min(numbers),
        max(numbers),
    )
    assert found.range == max(numbers) - min(numbers)
    assert found.variance == (pytest.approx(np.var(numbers, ddof=1), abs=1e-9) if n > 1 else None)
    assert found.se == (pytest.approx(scipy.stats.sem(numbers), abs=1e-9) if n > 1 else None)
    quantiles = (found.low, found.q1, found.median, found.q3, found.high)
    assert quantiles == pytest.approx(np.quantile(numbers, [0.05, 0.25, 0.5, 0.75, 0.95]))
    mode = scipy.stats.mode(numbers)
    assert (found.mode, found.modes) == (mode.mode, int((counts == mode.count).sum()))
    if n > 3 and values.size > 1:
        assert found.skewness == pytest.approx(scipy.stats.skew(numbers, bias=False), abs=1e-9)
        assert found.kurtosis == pytest.approx(scipy.stats.kurtosis(numbers, bias=False), abs=1e-9)
    elif values.size == 1:
        assert found.skewness is None and found.kurtosis is None
    same = figures_of(values, counts, "decimal", Weighed(counts * 0.4, float(n * 0.16)))
    for name, figure in vars(found).items():
        if name != "weighed":
            assert getattr(same, name) == (figure if figure is None else pytest.approx(figure, abs=1e-8)), name


@settings(max_examples=100, deadline=None)
@given(st.lists(st.tuples(st.integers(0, 12), st.floats(0.1, 9)), min_size=2, max_size=20))
def test_weighed_figures_said_slowly(records: list[tuple[int, float]]) -> None:
    """Mean, spread and quartiles under weights, record by record, as the documentation says."""
    n, whole = len(records), sum(weight for _, weight in records)
    mean = sum(weight * value for value, weight in records) / whole
    spread = sum(weight * n / whole * (value - mean) ** 2 for value, weight in records) / (n - 1)
    effective = whole**2 / sum(weight**2 for _, weight in records)
    values, place, counts = np.unique([value for value, _ in records], return_inverse=True, return_counts=True)
    weighed = Weighed(np.bincount(place, [weight for _, weight in records]), sum(weight**2 for _, weight in records))
    found = figures_of(values, counts, "integer", weighed)
    assert (found.n, found.weighed) == (n, pytest.approx(whole))
    assert found.mean == pytest.approx(mean) and found.variance == pytest.approx(spread, abs=1e-9)
    assert found.se == pytest.approx((spread / effective) ** 0.5, abs=1e-9)

    def slowly(share: float) -> float:
        """The mean of the values between two shares of the weight, in steps of a hundred-thousandth of it."""
        first = (effective - 1) * share / effective
        ordered, at, out, sum_before = sorted(records), 0.0, 0.0, 0.0
        for value, weight in ordered:
            at = sum_before + weight / whole
            out += value * max(0.0, min(at, first + 1 / effective) - max(sum_before, first))
            sum_before = at
        return out * effective

    for share in (0.05, 0.25, 0.5, 0.95):
        assert weighed_quantile(values, weighed, share) == pytest.approx(slowly(share), abs=1e-6)


@settings(max_examples=50, deadline=None)
@given(ROWS, st.booleans())
def test_groups_are_the_figures_of_their_records(rows: Rows, weighed: bool) -> None:
    """Each group as if its records were a study of their own, and all together; every record accounted for."""
    weighed = weighed and weighs(rows)
    weight = "weight" if weighed else None
    frame = basis_of(study_of(rows), weight=weight).frame
    found = Groups(variable="hours", by="held").look(frame)
    assert found.inside + sum(each.records for each in found.left) == frame.size
    for code, group in zip([*"312", None], found.groups, strict=True):
        own = [row for row in rows if (row[0] == code if code else row[0] in ("1", "2", "3"))]
        if weighed and not weighs(own):
            assert group.figures.n == 0
            continue
        assert group.figures == close(summary(basis_of(study_of(own), weight=weight).frame, "hours"))


def close(figures: Summary | None) -> object:
    """The same figures, but for the last digits."""

    class Close:
        def __eq__(self, other: object) -> bool:
            pairs = [(vars(figures)[name], value) for name, value in vars(other).items()]
            return all(one == (other if other is None else pytest.approx(other, abs=1e-9)) for one, other in pairs)

        def __repr__(self) -> str:
            return repr(figures)

    return Close()


def test_weighed_frequencies() -> None:
    """Sums stand beside the records, shares are of the sums, and nothing is cut to whole numbers."""
    rows = [
        ("3", "1", "1", "0.7"),
        ("3", "1", "1", "2.5"),
        ("1", "1", "1", "0.8"),
        ("-9", "1", "1", "1"),
        ("1", "1", "1", ""),
    ]
    basis = basis_of(study_of(rows), weight="weight")
    found = frequency(basis.frame, "held")
    told = [(row.code, row.count, row.weighed) for row in found.rows]
    assert told == [("3", 2, pytest.approx(3.2)), ("1", 1, 0.8), ("2", 0, 0.0), ("-9", 1, 1.0)]
    assert [share["valid_percent"] for share in found.shares()][:2] == [80.0, 20.0]
    assert found.shares()[0]["percent"] == pytest.approx(64.0)
    assert basis.unweighed == {"blank": 1} and (basis.records, basis.met, basis.frame.size) == (5, 5, 4)
    assert basis.weights is not None
    assert (basis.weights.least, basis.weights.greatest, basis.weights.sum) == (0.7, 2.5, pytest.approx(5.0))
    assert basis.weights.effective == pytest.approx(25 / (0.49 + 6.25 + 0.64 + 1))
    table = Distribution(variable="hours").look(basis.frame)
    assert table.records == 4 and table.histogram is not None and sum(table.histogram.counts) == pytest.approx(5.0)


def test_only_those_that_meet_a_condition() -> None:
    """Who meets it, and of whom it cannot be told; and what is no condition."""
    study = study_of([("3", "1", "5", "1"), ("3", "1", "1", "1"), ("1", "2", "", "1"), ("1", "3", "9", "0")])
    basis = basis_of(study, named("hours > 2", study), "weight")
    assert (basis.records, basis.met, basis.unknown, basis.frame.size) == (4, 2, 1, 1)
    assert basis.unweighed == {"0": 1}
    assert [row.count for row in frequency(basis.frame, "held").rows] == [1, 0, 0, 0]
    with pytest.raises(BadInput, match="no condition"):
        basis_of(study, named("hours + 1", study))


@pytest.mark.parametrize(
    ("weights", "said"),
    [
        (["-1", "2"], "holds 1 negative number, such as -1"),
        (["0", ""], "no record weighs anything"),
    ],
)
def test_what_is_no_weight(weights: list[str], said: str) -> None:
    """A sentence says why, and what to do."""
    study = study_of([("1", "1", "1", each) for each in weights])
    with pytest.raises(BadInput, match=said):
        basis_of(study, weight="weight")
    with pytest.raises(BadInput, match="of type text"):
        basis_of(study, weight="said")


def test_what_cannot_be_looked_at() -> None:
    """Codes have no mean, too many values no columns; each is said with what to do instead."""
    frame = Frame(study_of([("1", "1", str(n / 8), "1") for n in range(80)]))
    with pytest.raises(BadInput, match="only tell its values apart"):
        Groups(variable="held", by="rated").look(frame)
    with pytest.raises(BadInput, match="ordinal"):
        Groups(variable="rated", by="held").look(frame)
    assert Groups(variable="rated", by="held", equal_steps=True).look(frame).equal_steps
    with pytest.raises(BadInput, match="too many different values to stand side by side: 80"):
        Crosstab(rows="held", columns="hours").look(frame)
    empty: CrosstabTable = Crosstab(rows="held", columns="rated").look(Frame(study_of([])))
    assert empty.inside == 0 and empty.tables[0].percents[0][0] is None and empty.association.v is None


@settings(max_examples=50, deadline=None)
@given(ROWS, st.booleans())
def test_items_of_a_battery(rows: Rows, weighed: bool) -> None:
    """Shares of each answer, record by record; alpha over the complete ones; the order of agreement."""
    weighed = weighed and weighs(rows)
    frame = basis_of(study_of(rows), weight="weight" if weighed else None).frame
    with pytest.raises(BadInput, match="different code lists"):
        Battery(items=("held", "rated")).look(frame)
    study = frame.study.with_tags({"held": TAGS["rated"].with_parts(name="held")})
    found = Battery(items=("held", "rated")).look(Frame(study, frame.chosen, frame.weight))
    kept = [(row, weight_of(row) if weighed else 1.0) for row in rows if not weighed or weight_of(row)]
    for at, item in enumerate(found.items):
        sums = [sum(weight or 0 for row, weight in kept if row[at] == code) for code in "123"]
        assert item.sums == pytest.approx(sums) and item.valid + item.left == frame.size
        assert item.percents == ([pytest.approx(100 * each / sum(sums)) for each in sums] if sum(sums) else [None] * 3)
    both = np.array([[float(each) for each in row[:2]] for row, _ in kept if {row[0], row[1]} <= {"1", "2", "3"}])
    assert found.complete == len(both)
    if len(both) > 1 and both.sum(axis=1).var() > 0:
        spread = both.var(axis=0, ddof=1).sum() / both.sum(axis=1).var(ddof=1)
        assert found.alpha == pytest.approx(2 * (1 - spread))
    else:
        assert found.alpha is None


@settings(max_examples=60, deadline=None)
@given(
    st.lists(st.tuples(*[st.sampled_from(["0", "1", "", "-9", "7"])] * 3, st.sampled_from(["0.5", "2", ""]))),
    st.booleans(),
)
def test_several_answers(rows: list[tuple[str, ...]], weighed: bool) -> None:
    """Shares of who answered and of what was ticked, record by record; who ticked nothing is among the first."""
    weighed = weighed and any(row[3] for row in rows)
    ticks = {"codes": (CodeLine(code="1", label="Yes"), CodeLine(code="0", label="No")), "complete": True}
    tags = [Tag(name=f"t{n}", type="integer", missing=REFUSED, **ticks) for n in range(3)]  # type: ignore[arg-type]
    tags.append(TAGS["weight"])
    columns = [*zip(*rows, strict=True)] if rows else [()] * 4
    made = [
        (tag.name, Variable(tag=tag), column_of_texts(list(column))) for tag, column in zip(tags, columns, strict=True)
    ]
    study = Study(records=Records(len(rows))).with_variables(made)
    frame = basis_of(study, weight="weight" if weighed else None).frame
    found = Several(things=("t0", "t1", "t2")).look(frame)
    kept = [(row, float(row[3]) if weighed else 1.0) for row in rows if row[3] or not weighed]
    asked = [(row, weight) for row, weight in kept if {"0", "1"} & set(row[:3])]
    whole, answers = sum(weight for _, weight in asked), sum(weight * row[:3].count("1") for row, weight in kept)
    assert (found.answered, found.nothing) == (len(asked), sum("1" not in row[:3] for row, _ in asked))
    for at, thing in enumerate(found.things):
        heavy = sum(weight for row, weight in kept if row[at] == "1")
        assert (thing.records, thing.sum) == (sum(row[at] == "1" for row, _ in kept), pytest.approx(heavy))
        assert thing.of_records == (pytest.approx(100 * heavy / whole) if whole else None)
        assert thing.of_answers == (pytest.approx(100 * heavy / answers) if answers else None)
    ordered = [thing.sum for thing in Several(things=("t0", "t1", "t2"), order="count").look(frame).things]
    assert ordered == sorted(ordered, reverse=True)


ENDS = (CodeLine(code="1", label="Not at all"), CodeLine(code="5", label="Very much"))


def scaled(first: list[str], second: list[str]) -> Study:
    """Two ordinal variables of which only the ends, 1 and 5, are listed."""
    tags = [Tag(name=name, type="integer", level="ordinal", codes=ENDS) for name in ("a", "b")]
    made = [
        (tag.name, Variable(tag=tag), column_of_texts(each)) for tag, each in zip(tags, (first, second), strict=True)
    ]
    return Study(records=Records(len(first))).with_variables(made)


@settings(max_examples=60, deadline=None)
@given(st.lists(st.tuples(st.integers(1, 5), st.integers(1, 5)), min_size=2, max_size=30))
def test_scales_of_which_only_the_ends_have_labels(pairs: list[tuple[int, int]]) -> None:
    """The steps between stand between: in frequencies and what they add up to, in tau-b, and in a battery."""
    study = scaled([str(one) for one, _ in pairs], [str(other) for _, other in pairs])
    rows, shares = frequency(study, "a").rows, frequency(study, "a").shares()
    met = sorted({1, 5} | {one for one, _ in pairs})
    assert [row.code for row in rows] == [str(value) for value in met]
    for value, share in zip(met, shares, strict=True):
        assert share["cumulative"] == pytest.approx(100 * sum(one <= value for one, _ in pairs) / len(pairs))
    found = Crosstab(rows="a", columns="b").look(Frame(study)).association
    slowly = scipy.stats.kendalltau(*zip(*pairs, strict=True)).statistic if found.tau_b is not None else None
    assert found.tau_b == (slowly if slowly is None else pytest.approx(slowly, abs=1e-9))
    battery = Battery(items=("a", "b")).look(Frame(study))
    answers = sorted({1, 5} | {value for pair in pairs for value in pair})
    assert [value.code for value in battery.values] == [str(value) for value in answers]
    for at, item in enumerate(battery.items):
        assert item.left == 0
        assert item.records == [sum(pair[at] == value for pair in pairs) for value in answers]


def test_a_table_that_nobody_can_read() -> None:
    """Long lists by long lists are refused before they are counted."""
    codes = tuple(CodeLine(code=str(code), label=f"Place {code}") for code in range(1_000))
    tags = [Tag(name=name, type="integer", codes=codes) for name in ("born", "lives")]
    study = Study(records=Records(2)).with_variables(
        [(tag.name, Variable(tag=tag), column_of_texts(["1", "2"])) for tag in tags]
    )
    with pytest.raises(BadInput, match="more than the 20,000 cells of one table"):
        Crosstab(rows="born", columns="lives").look(Frame(study))
