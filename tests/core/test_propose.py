"""Proposals: where each rule fires, where it must not, and that no entry ever changes."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rowtag.core.column import column_of_texts
from rowtag.core.propose import Proposal, propose
from rowtag.core.reading import State, read_texts
from rowtag.core.tag import lens_of
from rowtag.core.tokens import large_texts
from tests.generate import entries


def proposed(texts: list[str], name: str = "q1") -> Proposal:
    column = column_of_texts(texts)
    return propose(column, column.counts(None, len(texts)), name)


def spread(*texts: str, times: int = 20) -> list[str]:
    return list(texts) * times


TYPES = [
    # entries, type, level, use
    (spread("1", "2", "3"), "integer", "nominal", "answer"),
    (spread("1", "2", "3", "4", "5"), "integer", "ordinal", "answer"),
    (spread("0", "1"), "integer", "nominal", "answer"),
    (spread("1.0", "2.0"), "integer", "nominal", "answer"),
    (spread(*map(str, range(40))), "integer", "ratio", "answer"),
    (spread(*map(str, range(-20, 20))), "integer", "interval", "answer"),
    (spread(*map(str, range(1960, 2020))), "integer", "interval", "answer"),
    (spread("1.5", "2.25", "3"), "decimal", "ratio", "answer"),
    (spread("1,5", "2,25", "3,0"), "decimal", "ratio", "answer"),
    (spread("£38.50", "£41.00", "£1,204.00"), "decimal", "ratio", "answer"),
    (spread("12%", "7.5%"), "decimal", "ratio", "answer"),
    (spread("007", "012", "100"), "text", "nominal", "answer"),
    (spread("9999999999999999999", "1999999999999999999"), "text", "nominal", "answer"),
    (spread("2026-05-03", "2026-05-04"), "date", "interval", "answer"),
    (spread("3.5.2026", "28.5.2026"), "date", "interval", "answer"),
    (spread("5/3/2026", "5/28/2026"), "date", "interval", "answer"),
    (spread("10:30", "9:05"), "time", "interval", "answer"),
    (spread("2026-05-03 10:30", "2026-05-03T10:31"), "datetime", "interval", "answer"),
    (spread("Own", "Shared"), "text", "nominal", "answer"),
    (spread("seeds; tools", "tools", "advice; seeds"), "text", "nominal", "several answers"),
    ([f"F{number:03d}" for number in range(200)], "text", "nominal", "identifier"),
    ([str(number) for number in range(1001, 1201)], "integer", "nominal", "identifier"),
    ([f"plot {number} floods in winter" for number in range(60)], "text", "nominal", "open-ended"),
    (spread("", " "), "text", "nominal", "answer"),
]


@pytest.mark.parametrize(("texts", "kind", "level", "use"), TYPES, ids=[", ".join(case[0][:2]) for case in TYPES])
def test_types_levels_uses(texts: list[str], kind: str, level: str, use: str) -> None:
    """Each kind of column is taken for what it is."""
    tag = proposed(texts).tag
    assert (tag.type, tag.level, tag.use) == (kind, level, use)


@pytest.mark.parametrize(("odd", "kind"), [(10, "integer"), (11, "text")])
def test_nine_in_ten_must_fit(odd: int, kind: str) -> None:
    """A type is proposed when at least 90 % fit."""
    assert proposed(["7"] * 50 + ["12"] * (50 - odd) + ["about 4"] * odd).tag.type == kind


def test_suspects_do_not_count_against_a_type() -> None:
    """Words for missing are left out of the nine in ten, and are proposed with counts, not applied."""
    found = proposed(["7", "8"] * 25 + ["n/a"] * 40 + ["."] * 9)
    assert found.tag.type == "integer" and not found.tag.missing
    assert [(each.entry, each.count) for each in found.suspects] == [("n/a", 40), (".", 9)]


BOUNDS = [
    # what is on either side of each threshold: entries, then type, level, use
    ("most_codes", spread(*map(str, range(12))), ("integer", "nominal", "answer")),
    ("beyond most_codes", spread(*map(str, range(13))), ("integer", "ratio", "answer")),
    ("highest_code", spread("1", "50", "99"), ("integer", "nominal", "answer")),
    ("beyond highest_code", spread("1", "50", "100"), ("integer", "ratio", "answer")),
    ("repeats", spread("11", "12", "14", times=3), ("integer", "nominal", "answer")),
    ("short of repeats", [*spread("11", "12", times=3), "14", "14"], ("integer", "ratio", "answer")),
    ("scale of 5", spread(*"12345"), ("integer", "ordinal", "answer")),
    ("scale of 5 from 0", spread(*"01234"), ("integer", "ordinal", "answer")),
    ("scale of 7", spread(*"1234567"), ("integer", "ordinal", "answer")),
    ("scale of 11", spread(*map(str, range(11))), ("integer", "ordinal", "answer")),
    ("no scale of 4", spread(*"1234"), ("integer", "nominal", "answer")),
    ("no scale of 6", spread(*"123456"), ("integer", "nominal", "answer")),
    ("no scale from 2", spread(*"23456"), ("integer", "nominal", "answer")),
    ("a rare code apart", [*spread(*"12345", times=50), "8"], ("integer", "ordinal", "answer")),
    ("a code not rare", [*spread(*"12345", times=50), "8", "8"], ("integer", "nominal", "answer")),
    ("years", [*map(str, range(1941, 2036)), *["31"] * 5], ("integer", "interval", "answer")),
    ("too few years", [*map(str, range(1941, 2035)), *["31"] * 6], ("integer", "ratio", "answer")),
    ("leading_zeros", [*["07"], *map(str, range(100, 199))], ("integer", "ratio", "answer")),
    ("beyond leading_zeros", [*["07"] * 2, *map(str, range(100, 198))], ("text", "nominal", "identifier")),
    ("most_categories", spread(*(f"w{n:02d}" for n in range(40)), times=3), ("text", "nominal", "answer")),
    ("too many categories", spread(*(f"w{n:02d}" for n in range(41)), times=3), ("text", "nominal", "open-ended")),
    ("many that recur", spread(*(f"w{n:02d}" for n in range(41))), ("text", "nominal", "answer")),
    ("longest_category", spread("a" * 60, "b", times=3), ("text", "nominal", "open-ended")),
    ("a long one that recurs", spread("a" * 61, "b", "c", times=30), ("text", "nominal", "answer")),
    ("open_average", spread(*(f"{n} {'x' * 23}" for n in range(5)), times=4), ("text", "nominal", "answer")),
    ("beyond open_average", spread(*(f"{n} {'x' * 24}" for n in range(5)), times=4), ("text", "nominal", "open-ended")),
    ("open_distinct", spread(*(f"{n} {'x' * 24}" for n in range(5)), times=5), ("text", "nominal", "answer")),
    ("various", [*(f"w {n}" for n in range(7)), *["w 0"] * 6], ("text", "nominal", "open-ended")),
    ("not various", [*(f"w {n}" for n in range(6)), *["w 0"] * 6], ("text", "nominal", "answer")),
    ("fewest_identifiers", [f"F{n:02d}" for n in range(12)], ("text", "nominal", "identifier")),
    ("too few identifiers", [f"F{n:02d}" for n in range(11)], ("text", "nominal", "answer")),
    ("distinct_identifier", [*(f"F{n:02d}" for n in range(95)), *["F00"] * 5], ("text", "nominal", "identifier")),
    ("too few distinct", [*(f"F{n:02d}" for n in range(94)), *["F00"] * 6], ("text", "nominal", "open-ended")),
    ("longest_identifier", [f"{n:040d}x"[1:] for n in range(20)], ("text", "nominal", "identifier")),
    ("beyond longest_identifier", [f"{n:040d}x" for n in range(20)], ("text", "nominal", "open-ended")),
    ("identifiers with spaces", [f"F {n}" for n in range(20)], ("text", "nominal", "open-ended")),
    ("numbers that run on", [str(n) for n in range(100, 112)], ("integer", "nominal", "identifier")),
    ("numbers with gaps", [str(n * n) for n in range(30, 42)], ("integer", "ratio", "answer")),
    ("several_share", [*["a; b"], *["a"] * 6, *["b"] * 3], ("text", "nominal", "several answers")),
    ("short of several_share", [*["a; b"], *["a"] * 7, *["b"] * 3], ("text", "nominal", "answer")),
    ("most_answers", spread(*(f"w{n};w{n + 1}" for n in range(19))), ("text", "nominal", "several answers")),
    ("beyond most_answers", spread(*(f"w{n};w{n + 1}" for n in range(20))), ("text", "nominal", "answer")),
]


@pytest.mark.parametrize(("texts", "expected"), [case[1:] for case in BOUNDS], ids=[case[0] for case in BOUNDS])
def test_each_threshold_on_either_side(texts: list[str], expected: tuple[str, str, str]) -> None:
    """A rule fires at its threshold and not beyond."""
    tag = proposed(texts).tag
    assert (tag.type, tag.level, tag.use) == expected


@pytest.mark.parametrize(
    ("name", "use"),
    [("weight", "weight"), ("wt_1", "weight"), ("wgt2", "weight"), ("weather", "answer"), ("height", "answer")],
)
def test_weights_by_name(name: str, use: str) -> None:
    """A number never below zero is a weight where its name says so."""
    assert proposed(spread("0.85", "1.20", "1.015"), name).tag.use == use
    assert proposed(spread("-0.85", "1.20", "1.015"), name).tag.use == "answer"


ORDERED = [
    (["Agree", "Strongly agree", "Disagree", "Neither agree nor disagree", "strongly disagree"],
     ["strongly disagree", "Disagree", "Neither agree nor disagree", "Agree", "Strongly agree"]),
    (["Often", "Never", "Sometimes", "Always", "Rarely"], ["Never", "Rarely", "Sometimes", "Often", "Always"]),
    (["Good", "Very poor", "Fair", "Very good", "Poor"], ["Very poor", "Poor", "Fair", "Good", "Very good"]),
    (["Very satisfied", "Dissatisfied", "Satisfied"], ["Dissatisfied", "Satisfied", "Very satisfied"]),
    (["Likely", "Very unlikely", "Very likely"], ["Very unlikely", "Likely", "Very likely"]),
    (["60+", "35–59", "Under 35"], ["Under 35", "35–59", "60+"]),
    (["65 and over", "18 to 24", "25 to 64"], ["18 to 24", "25 to 64", "65 and over"]),
    (["£20,000 or more", "less than £10,000", "£10,000 to £19,999"],
     ["less than £10,000", "£10,000 to £19,999", "£20,000 or more"]),
    (["10-100", "100-1000", "2-10"], ["2-10", "10-100", "100-1000"]),
    (["Mar", "January", "dec", "Feb"], ["January", "Feb", "Mar", "dec"]),
    (["Sunday", "Monday", "Wed"], ["Monday", "Wed", "Sunday"]),
    (["large", "small", "Medium"], ["small", "Medium", "large"]),
    (["XL", "S", "M"], ["S", "M", "XL"]),
    (["Very much", "Not at all", "A little", "Quite a lot"], ["Not at all", "A little", "Quite a lot", "Very much"]),
]  # fmt: skip


@pytest.mark.parametrize(("words", "order"), ORDERED, ids=[case[1][0] for case in ORDERED])
def test_words_with_an_order_of_their_own(words: list[str], order: list[str]) -> None:
    """Categories with a natural order are ordinal in that order, whatever order they occur in."""
    tag = proposed(spread(*words)).tag
    assert (tag.type, tag.level, tag.use) == ("text", "ordinal", "answer")
    assert [line.code for line in tag.codes] == order and tag.complete


@pytest.mark.parametrize(
    "words",
    [["Own", "Shared"], ["May", "June-Ann", "Paul"], ["good", "wet", "dry"], ["10-20", "15-25"], ["3", "12b", "7"],
     ["north 1-3", "south 4-6"], ["yes", "no"]],
    ids=lambda words: words[0],
)  # fmt: skip
def test_words_without_an_order(words: list[str]) -> None:
    """Other words stay nominal and get no list, also bands that overlap and words of which one is of a scale."""
    tag = proposed(spread(*words)).tag
    assert tag.level == "nominal" and not tag.codes


@pytest.mark.parametrize(("odd", "level"), [(10, "ordinal"), (11, "nominal")])
def test_nine_in_ten_must_be_of_the_scale(odd: int, level: str) -> None:
    """Some other words among a scale's are left off the list, which is partial then."""
    tag = proposed(["Agree"] * 50 + ["Disagree"] * (50 - odd) + ["it depends"] * odd).tag
    assert tag.level == level
    assert ([line.code for line in tag.codes], tag.complete) == (
        (["Disagree", "Agree"], False) if level == "ordinal" else ([], False)
    )


def test_a_suspect_makes_no_stray() -> None:
    """Where a word for missing stands among ordered words, the list is partial: it reads as valid until accepted."""
    tag = proposed(spread("Agree", "Disagree", "n/a")).tag
    assert [line.code for line in tag.codes] == ["Disagree", "Agree"] and not tag.complete


DOUBTS = [
    (spread("3/5/2026", "11/12/2026"), "dmy", "3/5/2026 is read day before month; it could be month before day"),
    (spread("3/5/2026", "28/5/2026"), "dmy", ""),
    (spread("3/5/2026", "5/28/2026"), "mdy", ""),
    (
        spread("5/5/2026 9:00", "7/6/2026 10:30"),
        "dmy",
        "7/6/2026 10:30 is read day before month; it could be month before day",
    ),
    (spread("2026-05-03", "2026-11-12"), "ymd", ""),
]  # fmt: skip


@pytest.mark.parametrize(("texts", "order", "doubt"), DOUBTS, ids=[case[0][0] + case[0][1] for case in DOUBTS])
def test_ambiguous_dates_are_said_aloud(texts: list[str], order: str, doubt: str) -> None:
    """Where no entry tells day from month, the proposal says how it reads them and that it could be otherwise."""
    found = proposed(texts)
    assert (found.tag.marks.date_order, found.doubt) == (order, doubt)


NUMBERS = [
    (spread("1,204", "12,500", "380"), ".", ",", "1,204 is read with a thousands mark; it could be a decimal comma"),
    (spread("1,204", "1,250,000", "380"), ".", ",", ""),
    (spread("0,125", "1,250", "2,5"), ",", "", ""),
    (spread("1 204,50", "38,50"), ",", " ", ""),
    (spread("1'204.50", "38.50"), ".", "'", ""),
    (spread("1 204", "12 500", "38"), ".", " ", ""),
]


@pytest.mark.parametrize(("texts", "decimal", "thousands", "doubt"), NUMBERS, ids=[case[0][0] for case in NUMBERS])
def test_marks_of_numbers(texts: list[str], decimal: str, thousands: str, doubt: str) -> None:
    """Marks that set groups of three apart are told from decimal marks; where they cannot be, it is said."""
    found = proposed(texts)
    assert (found.tag.marks.decimal, found.tag.marks.thousands, found.doubt) == (decimal, thousands, doubt)


def test_a_chosen_type_is_written_as_fits_best() -> None:
    """Where somebody chose the type, the marks under which most entries fit are proposed with it."""
    column = column_of_texts([*spread("1,5", "2,25", times=5), *["about 4"] * 12])
    counts = column.counts(None, 22)
    assert propose(column, counts, "size").tag.type == "text"
    tag = propose(column, counts, "size", kind="decimal").tag
    assert (tag.type, tag.marks.decimal, tag.level, tag.decimals) == ("decimal", ",", "ratio", 2)


SUSPECTS = [
    (spread("1", "2", "3", "-8", "-9"), ["-9", "-8"]),
    (spread("-3", "-2", "-1", "0", "1", "2"), []),
    (spread("1", "2", "3", "9"), ["9"]),
    (spread("7", "8", "9"), []),
    (spread(*map(str, range(60)), "99"), ["99"]),
    (spread(*map(str, range(99)), "99"), []),
    (spread(*map(str, range(20, 90)), "999"), ["999"]),
    (spread("1", "2", "null", "N/A", "-"), ["null", "N/A", "-"]),
    (spread("Nairobi", "Namur"), []),
]


@pytest.mark.parametrize(("texts", "suspects"), SUSPECTS, ids=[", ".join(case[0][-3:]) for case in SUSPECTS])
def test_suspects(texts: list[str], suspects: list[str]) -> None:
    """What often stands for missing is named; what merely looks like it is not."""
    assert [each.entry for each in proposed(texts).suspects] == suspects


def test_marks_follow_the_entries() -> None:
    """Decimal mark, thousands mark, sign and order of dates are told from the entries."""
    assert proposed(spread("1,5", "2,25")).tag.marks.decimal == ","
    marks = proposed(spread("1.204,50", "38,50")).tag.marks
    assert (marks.decimal, marks.thousands) == (",", ".")
    assert proposed(spread("£1,204.00", "£3.50")).tag.marks.sign == "£"
    assert proposed(spread("28/05/2026", "3/5/2026")).tag.marks.date_order == "dmy"
    assert proposed(spread("05/28/2026", "5/3/2026")).tag.marks.date_order == "mdy"


def test_widths_and_decimals_are_as_found() -> None:
    """Width is the longest entry, decimals the most digits that say something."""
    tag = proposed(spread("1.50", "2.255", "10.1")).tag
    assert (tag.width, tag.decimals) == (5, 3)


@given(st.lists(entries, max_size=40))
def test_no_proposal_changes_an_entry(texts: list[str]) -> None:
    """Whatever a column holds, a proposal is made and the column stays as it was; only words that occur are listed."""
    column = column_of_texts(texts)
    found = propose(column, column.counts(None, len(texts)), "weight")
    assert column.texts_at(column.indexes(0, len(texts))) == texts
    assert not found.tag.missing
    assert {line.code for line in found.tag.codes} <= {text.strip() for text in texts}


@pytest.mark.parametrize(
    ("texts", "use"),
    [
        (["117", "5", "1040"], "identifier"),
        (["117", "5"], "answer"),
        (["117", "5", "5", "9"], "answer"),
        (["-1", "5", "9"], "answer"),
        (["1990", "1991", "2004"], "answer"),
        (["117", "5", ""], "answer"),
    ],
)
def test_different_numbers_in_front_identify(texts: list[str], use: str) -> None:
    """Whole numbers that are all different number the records where they stand in front, and nowhere else."""
    column = column_of_texts(texts)
    counts = column.counts(None, len(texts))
    assert propose(column, counts, "plot", first=True).tag.use == use
    assert propose(column, counts, "plot").tag.use == "answer"


@pytest.mark.parametrize(
    ("texts", "kind", "doubt"),
    [
        (
            [*spread("1", "2", "3", "4", "5"), "3.5", "3.5", "1.5"],
            "integer",
            "3 entries (1.5, 3.5) are no step of this scale",
        ),
        ([*spread("1", "2", "3", "4", "5", "-9", "99"), "3.5"], "integer", "1 entry (3.5) is no step of this scale"),
        ([*spread("1", "2", "3", "4", "5"), "6.5"], "decimal", ""),
        ([*spread("1", "2", "3"), "2.5"], "decimal", ""),
        ([*spread("1", "2", "3", "4", "5", times=4), "1.5", "2.5", "3.5"], "decimal", ""),
        ([*spread("1,0", "2,0", "3,0", "4,0", "5,0"), "3,5"], "integer", "1 entry (3.5) is no step of this scale"),
    ],
)
def test_ratings_with_a_few_fractions(texts: list[str], kind: str, doubt: str) -> None:
    """A scale of whole numbers stays one; the fractions are strays, and it says so. Nothing is rounded."""
    found = proposed(texts)
    assert (found.tag.type, found.doubt) == (kind, doubt)
    assert found.tag.level == ("ordinal" if kind == "integer" else "ratio")


# Commas and points ------------------------------------------------------------------------------


def numbers_of(*values: float, mark: str = ".", digits: int = 3) -> list[str]:
    return [f"{value:,.{digits}f}".replace(",", "").replace(".", mark) for value in values]


WEIGHTS = numbers_of(*(0.4 + at / 300 for at in range(700)))
LARGE = [f"{number:,}" for number in range(120, 60_000, 271)]


@pytest.mark.parametrize(
    ("texts", "decimal", "thousands", "type", "said"),
    [
        (WEIGHTS + ["0,985", "0,912"] * 42, ".", "", "decimal", "84 entries with a comma"),
        (WEIGHTS + ["1,125", "2,250"] * 42, ".", "", "decimal", "as decimals 1.125"),
        ([text.replace(".", ",") for text in WEIGHTS] + ["1.125"] * 9, ",", "", "decimal", "as decimals 1,125"),
        ([*map(str, range(1, 41))] * 3 + ["1,125", "2,500"], ".", "", "integer", "as thousands 1125"),
        (LARGE, ".", ",", "integer", "it could be a decimal comma"),
        (LARGE + ["950", "12", "3"] * 20, ".", ",", "integer", "it could be a decimal comma"),
        ([f"{text}.50" for text in LARGE] + ["12.25"] * 9, ".", ",", "decimal", ""),
        (["1,234,567", "2,345,678", "12"] * 9, ".", ",", "integer", ""),
        (LARGE + ["1,5"] * 30, ",", "", "decimal", ""),
    ],
)
def test_commas_between_digits(texts: list[str], decimal: str, thousands: str, type: str, said: str) -> None:
    """A comma parts thousands only where the other entries bear it out; else those with it are strays, or all have it
    for a decimal mark. Never does one entry become a thousand times as large without a word."""
    found = proposed(texts)
    assert (found.tag.marks.decimal, found.tag.marks.thousands, found.tag.type) == (decimal, thousands, type)
    assert said in found.doubt
    reading = read_texts(large_texts(texts), lens_of(found.tag, ()))
    assert found.doubt or (reading.states == State.VALID).all()


# Counts and amounts -----------------------------------------------------------------------------

TAIL = [str(1 + at) for at, times in enumerate((210, 280, 160, 90, 40, 14, 4)) for _ in range(times)]
AMOUNTS = ["5", "10", "15", "20", "30", "45", "60"] * 40
SCALE = [str(1 + at) for at, times in enumerate((60, 140, 220, 180, 90)) for _ in range(times)]
FLAT = ["1", "2", "3", "4", "5", "6", "7", "8"] * 30


@pytest.mark.parametrize(
    ("texts", "name", "label", "level"),
    [
        (AMOUNTS, "walk", "", "ratio"),
        ([*AMOUNTS, "3", "12", "7"], "minutes_walked", "", "ratio"),
        (TAIL, "q7", "", "ratio"),
        (SCALE, "household_size", "", "ratio"),
        (SCALE, "q7", "How many people live with you?", "ratio"),
        (SCALE, "q7", "Number of visits", "ratio"),
        (["0", "1", "2", "3"] * 30, "children", "", "ratio"),
        (FLAT, "q7", "", "nominal"),
        (FLAT, "region", "", "nominal"),
        (SCALE, "q7", "", "ordinal"),
        (SCALE, "site_1", "How satisfied are you with the paths?", "ordinal"),
        (SCALE, "hours_ok", "Opening hours suit me", "ordinal"),
        (["1", "2", "3", "4", "8", "9"] * 30, "income", "Monthly income, in groups", "nominal"),
        (["0", "1"] * 30, "children", "Has children", "nominal"),
    ],
)
def test_counts_and_amounts(texts: list[str], name: str, label: str, level: str) -> None:
    """Whole numbers of which few are different are counts by their name, heading or shape; ratings and brackets are
    not, whatever their words."""
    column = column_of_texts(texts)
    assert propose(column, column.counts(None, len(texts)), name, label).tag.level == level
