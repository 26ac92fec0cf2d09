"""Proposals: where each rule fires, where it must not, and that no entry ever changes."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rowtag.core.column import column_of_texts
from rowtag.core.propose import Proposal, propose
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
    """A type is proposed when at least 90 % fit; the rest are strays, listed with counts."""
    found = proposed(["7"] * 50 + ["12"] * (50 - odd) + ["about 4"] * odd)
    assert found.tag.type == kind
    assert found.strays == ((("about 4", odd),) if kind == "integer" else ())


def test_suspects_do_not_count_against_a_type() -> None:
    """Words for missing are left out of the nine in ten, and are proposed with counts, not applied."""
    found = proposed(["7", "8"] * 25 + ["n/a"] * 40 + ["."] * 9)
    assert found.tag.type == "integer" and not found.tag.missing
    assert [(each.entry, each.count) for each in found.suspects] == [("n/a", 40), (".", 9)]


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
    """Whatever a column holds, a proposal is made and the column stays as it was."""
    column = column_of_texts(texts)
    found = propose(column, column.counts(None, len(texts)), "weight")
    assert column.texts_at(column.indexes(0, len(texts))) == texts
    assert not found.tag.missing and not found.tag.codes
