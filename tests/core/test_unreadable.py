"""What is wrong with entries that do not fit: sorted by fault, and a unit that all bear read as one."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from rowtag.core.checks import findings_on
from rowtag.core.column import column_of_texts
from rowtag.core.remedies import remedies
from rowtag.core.study import Records, Study, Variable
from rowtag.core.tag import Tag
from rowtag.core.tokens import large_texts
from rowtag.core.unreadable import faults, unit_of

FAULTS = {
    "decimal": {
        "two values": ["2-3", "2 to 3", "4 or 5", "1,5 – 2", "10/12"],
        "“about” or the like": ["about 4", "ca. 12", "~5", "at least 3", "12+", "5 or so", "> 10"],
        "another decimal mark": ["3,5", "1.234,5", "12,0"],
        "a unit in the entry": ["12 hrs", "101 m²", "30%", "5kg", "£40", "12 hrs."],
        "a number among words": ["in 2012", "3 plots and a shed", "12 (see note)"],
        "words": ["often", "n/a", "?", "—"],
    },
    "date": {
        "a year alone": ["2026", "1998"],
        "a day that is none, or another order": ["2026-02-30", "31.04.2026", "5/3/26"],
        "a month in words": ["3 May 2026", "May 2026", "May 3, 2026"],
        "a number": ["46143", "46143.5"],
        "words": ["spring", "unknown"],
    },
}


@pytest.mark.parametrize(
    ("kind", "what", "entry"),
    [(kind, what, each) for kind, all_ in FAULTS.items() for what, some in all_.items() for each in some],
)
def test_faults(kind: str, what: str, entry: str) -> None:
    assert [each.what for each in faults(large_texts([entry]), np.array([2]), kind)] == [what]


@given(
    st.lists(st.tuples(st.text(max_size=8), st.integers(1, 9)), min_size=1, max_size=8),
    st.sampled_from(["decimal", "date"]),
)
def test_every_entry_has_one_fault(pairs: list[tuple[str, int]], kind: str) -> None:
    found = faults(large_texts([text for text, _ in pairs]), np.array([count for _, count in pairs]), kind)
    assert sum(each.count for each in found) == sum(count for _, count in pairs)
    assert [each.count for each in found] == sorted((each.count for each in found), reverse=True)


def test_units() -> None:
    assert unit_of(large_texts(["101 m²", "96 m²"])) == "m²"
    assert unit_of(large_texts(["101 m²", "96 sqm"])) is None
    assert unit_of(large_texts(["101 m²", "96"])) is None


def test_a_unit_is_read_as_one() -> None:
    """The remedy reads them all, and nothing is written anew."""
    column = column_of_texts(["101 m²", "96", "88 m²", "70.5"])
    study = Study(records=Records(4)).with_variables(
        [("v", Variable(tag=Tag(name="size", label="Size", type="decimal")), column)]
    )
    (finding,) = [each for each in findings_on(study, "v") if each.check == "unreadable entries"]
    assert finding.table == (("what is wrong", "entries", "such as"), ("a unit in the entry", "2", "101 m²"))
    (remedy,) = remedies(study, finding)
    assert remedy.word == "read “m²” as its unit"
    mended = remedy.step.apply(study).study
    assert mended.fill("v").valid == 4 and mended.column("v") is study.column("v")
