"""Tables: order of rows, shares, bands, figures and pictures."""

import statistics
from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from rowtag.core.column import column_of_texts
from rowtag.core.frame import Frame
from rowtag.core.study import Records, Study, Variable
from rowtag.core.summary import quantile
from rowtag.core.tables import commonest, date_span, decimals_found, frequency, histogram, summary
from rowtag.core.tag import CodeLine, Limits, MissingLine, Tag
from rowtag.core.views.distribution import Distribution


def study_of(entries: list[str], **parts: object) -> Study:
    tag = Tag(name="q1").with_parts(**parts)
    return Study(records=Records(len(entries))).with_variables([("v", Variable(tag=tag), column_of_texts(entries))])


def rows(study: Study) -> list[tuple[str, str, int, str]]:
    return [(row.code, row.label, row.count, row.reading) for row in frequency(study, "v").rows]


def test_rows_stand_in_list_order_then_by_value() -> None:
    """Listed codes in the list's order, unused too; then other valid ones by value, missing, strays."""
    study = study_of(
        ["10", "2", "03", "3", "1", "-9", "n/a", "x", "b", "", "2.0"],
        type="integer",
        codes=(CodeLine(code="3", label="Three"), CodeLine(code="1", label="One"), CodeLine(code="7", label="Unused")),
        missing=(MissingLine(code="-9", reason="refused"), MissingLine(code="-8", reason="don't know", label="DK")),
    )
    assert rows(study) == [
        ("3", "Three", 2, "valid"),
        ("1", "One", 1, "valid"),
        ("7", "Unused", 0, "valid"),
        ("2", "", 2, "valid"),
        ("10", "", 1, "valid"),
        ("-9", "", 1, "missing"),
        ("-8", "DK", 0, "missing"),
        ("b", "", 1, "stray"),
        ("n/a", "", 1, "stray"),
        ("x", "", 1, "stray"),
    ]
    assert [row.unreadable for row in frequency(study, "v").rows][-3:] == [True] * 3


def test_bands_gather_measured_values() -> None:
    """Ranges with open ends band a measured variable; the entries stay."""
    bands = (
        CodeLine(high="34", label="Under 35"),
        CodeLine(low="35", high="59", label="35 to 59"),
        CodeLine(low="60", label="60 and over"),
    )
    study = study_of(["20", "34", "35", "59", "60", "99"], type="integer", codes=bands, complete=True)
    assert [row[:3] for row in rows(study)] == [
        (".. 34", "Under 35", 2),
        ("35 .. 59", "35 to 59", 2),
        ("60 ..", "60 and over", 2),
    ]


def test_shares_follow_the_level() -> None:
    """Percent is of all records, valid percent of valid ones; cumulative only where the level is ordered."""
    entries = ["1"] * 2 + ["2"] * 6 + ["-9", ""]
    missing = (MissingLine(code="-9"),)
    ordinal = frequency(study_of(entries, type="integer", level="ordinal", missing=missing), "v").shares()
    assert ordinal[0] == {"percent": 20, "valid_percent": 25, "cumulative": 25}
    assert ordinal[1] == {"percent": 60, "valid_percent": 75, "cumulative": 100}
    assert ordinal[2] == {"percent": 10, "valid_percent": None, "cumulative": None}
    nominal = frequency(study_of(entries, type="integer", missing=missing), "v").shares()
    assert all(row["cumulative"] is None for row in nominal)


def test_nothing_at_all() -> None:
    """No record, no entry, or one entry: figures say none rather than break."""
    empty = study_of([], type="integer")
    assert frequency(empty, "v").rows == () and summary(empty, "v") is not None
    figures = summary(study_of(["", " "], type="decimal"), "v")
    assert figures is not None and (figures.n, figures.mean, figures.sd, figures.median) == (0, None, None, None)
    one = summary(study_of(["5"], type="decimal"), "v")
    assert one is not None and (one.mean, one.sd, one.q1, one.max) == (5, None, 5, 5)
    assert histogram(study_of([""], type="integer"), "v") is None
    assert date_span(study_of([""], type="date"), "v") is None


@given(st.lists(st.integers(-50, 50), min_size=2, max_size=60))
def test_quantiles_interpolate(numbers: list[int]) -> None:
    """Quartiles over values with counts are those of the spelled-out list."""
    values, counts = np.unique(numbers, return_counts=True)
    found = [quantile(values.astype(float), counts, share) for share in (0.25, 0.5, 0.75)]
    assert found == pytest.approx(statistics.quantiles(numbers, n=4, method="inclusive"))


@given(st.lists(st.integers(-500, 500), min_size=1, max_size=60), st.sampled_from(["integer", "decimal"]))
def test_histograms_hold_every_valid_value(numbers: list[int], kind: str) -> None:
    """Each valid value is in exactly one bin; whole numbers over few steps get a bin each."""
    study = study_of([*map(str, numbers), "x", ""], type=kind, level="ratio")
    bins = histogram(study, "v")
    assert bins is not None and sum(bins.counts) == len(numbers) and len(bins.edges) == len(bins.counts) + 1
    if kind == "integer" and max(numbers) - min(numbers) < 24:
        assert len(bins.counts) == max(numbers) - min(numbers) + 1


def test_texts_and_dates() -> None:
    """The commonest texts with their counts, blanks at their ends aside; the first and last day."""
    study = study_of(["b", "a", "b ", "", "c", "b"])
    assert commonest(study, "v", most=2) == ([("b", 3), ("a", 1)], 3)
    days = study_of(["2026-05-03", "3.1.2020", "2026-02-30", "2024-02-29"], type="date")
    assert date_span(days, "v") == ("2024-02-29", "2026-05-03")
    assert date_span(study_of(["9:30", "08:05:30"], type="time"), "v") == ("08:05:30", "09:30")


LONG = st.lists(st.integers(-(10**18) + 1, 10**18 - 1) | st.integers(10**18 - 9, 10**18 - 1), min_size=1, max_size=9)


@given(LONG)
def test_quartiles_of_long_numbers(numbers: list[int]) -> None:
    """They lie between the smallest and the largest, in order, and are within half a unit of the exact ones."""
    found = summary(study_of(list(map(str, numbers)), type="integer"), "v")
    assert found is not None
    ordered = sorted(numbers)
    told = [found.min, found.q1, found.median, found.q3, found.max]
    assert told == sorted(told) and (told[0], told[-1]) == (ordered[0], ordered[-1])
    assert ordered[0] <= found.mean <= ordered[-1]
    for share, value in zip((Fraction(1, 4), Fraction(1, 2), Fraction(3, 4)), told[1:4], strict=True):
        place = (len(ordered) - 1) * share
        low = ordered[int(place)]
        high = ordered[min(int(place) + 1, len(ordered) - 1)]
        assert abs(Fraction(value) - (low + (high - low) * (place - int(place)))) <= Fraction(1, 2)


@pytest.mark.parametrize(
    "entries", [["1e308", "-1e308", "1e308"], ["1.7e308", "1.7e308"], ["1.7e308", "-1.7e308"], ["1e-300", "2e-300"]]
)
def test_numbers_at_the_ends_of_what_floats_hold(entries: list[str]) -> None:
    """No figure overflows, and none is told that cannot be."""
    found = summary(study_of(entries, type="decimal"), "v")
    assert found is not None and found.mean is not None
    values = sorted(map(float, entries))
    assert values[0] <= found.q1 <= found.median <= found.q3 <= values[-1]
    assert values[0] <= found.mean <= values[-1]
    assert found.sd is None or np.isfinite(found.sd)


def test_large_integers_stay_exact_where_they_are_codes() -> None:
    """Numbers of 18 digits that floats cannot tell apart are different codes."""
    study = study_of(["999999999999999998", "999999999999999999", "999999999999999998"], type="integer")
    assert [(row.code, row.count) for row in frequency(study, "v").rows] == [
        ("999999999999999998", 2),
        ("999999999999999999", 1),
    ]


def test_histograms_show_what_lies_beyond() -> None:
    """Unlisted values are shown beside the valid ones, in the same bins; values that stand apart are left out."""
    study = study_of(["1", "2", "3", "50", "999", "x"], type="integer", level="ratio", limits=Limits(high="10"))
    inside = histogram(study, "v")
    assert inside is not None and sum(inside.counts) == 3 and not any(inside.beyond)
    both = histogram(study, "v", beyond=True, apart={999.0})
    assert both is not None and (sum(both.counts), sum(both.beyond)) == (3, 1) and both.edges[-1] >= 50
    assert both.edges[-1] < 999
    wide = study_of(["1", "2", "30"], type="integer", level="ratio", limits=Limits(low="-5", high="1000"))
    shown = histogram(wide, "v", beyond=True)
    assert shown is not None and shown.edges[0] <= -5 and shown.edges[-1] < 100, "a limit that is near is shown"


def test_a_line_set_aside_stands_once() -> None:
    """Where a code is both listed and missing, the missing line is its row."""
    study = study_of(["1", "2", "2"], type="integer", codes=(CodeLine(code="1"), CodeLine(code="02", label="Two")),
                     missing=(MissingLine(code="2", reason="refused"),))  # fmt: skip
    assert [(row.code, row.reading, row.count) for row in frequency(study, "v").rows] == [
        ("1", "valid", 1), ("2", "missing", 2)
    ]  # fmt: skip


def test_decimals_as_found() -> None:
    """Digits behind the mark in valid entries, zeros at the end aside; none of other types."""
    study = study_of(["1.5", "2,25", "3.1250", "4"], type="decimal", level="ratio")
    assert decimals_found(study, "v") == 3
    assert decimals_found(study_of(["7", "8.0"], type="decimal"), "v") == 0
    assert decimals_found(study_of(["1.5"]), "v") is None


def test_long_whole_numbers_stay_exact() -> None:
    """Two of eighteen digits that differ by two are two, in minimum and maximum, in the table, and as texts."""
    texts = ["999999999999999997", "999999999999999999", "-999999999999999998", "5"]
    tag = Tag(name="q", type="integer", level="ratio")
    study = Study(records=Records(4)).with_variables([("v", Variable(tag=tag), column_of_texts(texts))])
    figures = summary(study, "v")
    assert figures is not None and (figures.min, figures.max) == (-999999999999999998, 999999999999999999)
    assert study.values("v")[0].tolist() == [-999999999999999998, 5, 999999999999999997, 999999999999999999]
    table = Distribution(variable="v").look(Frame(study))
    assert (table.exact["min"], table.exact["max"]) == ("-999999999999999998", "999999999999999999")
    assert table.histogram is not None
    bounded = study.with_tags({"v": tag.with_parts(limits=Limits(high="999999999999999998"))})
    assert bounded.fill("v").unlisted == 1


def test_figures_of_long_whole_numbers_lie_close_together() -> None:
    """Floats at this size are 128 apart: quartiles and sd are right nevertheless, and no picture is made up."""
    texts = [str(900719925474099000 + 2 * step) for step in range(9)]
    study = study_of(texts, type="integer", level="ratio")
    figures = summary(study, "v")
    assert figures is not None and figures.sd == pytest.approx(statistics.stdev(range(0, 18, 2)))
    table = Distribution(variable="v").look(Frame(study))
    assert {name: int(text) - 900719925474099000 for name, text in table.exact.items()} == {
        "min": 0, "q1": 4, "median": 8, "q3": 12, "max": 16
    }  # fmt: skip
    assert table.histogram is None
