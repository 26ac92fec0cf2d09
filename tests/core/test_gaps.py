"""Gaps: who misses what, held against looking at every record; every record is in one row and one pattern."""

from collections import Counter

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from rowtag.core.column import column_of_texts
from rowtag.core.gaps import ROWS, gaps
from rowtag.core.steps.records import RemoveRecords
from rowtag.core.study import Records, Study, Variable
from rowtag.core.tag import MissingLine, Tag

rows = st.lists(st.tuples(*[st.sampled_from(["1", "", "-9", "x"])] * 3), min_size=1, max_size=12)


def study_of(entries: list[tuple[str, ...]]) -> Study:
    tag = {"type": "integer", "missing": (MissingLine(code="-9"),)}
    columns = list(zip(*entries, strict=True))
    return Study(records=Records(len(entries))).with_variables(
        [
            (f"v{at}", Variable(tag=Tag(name=f"q{at}", **tag)), column_of_texts(list(each)))
            for at, each in enumerate(columns)
        ]
    )


@given(rows)
def test_patterns_are_those_of_the_records(entries: list[tuple[str, ...]]) -> None:
    study = study_of(entries)
    found = gaps(study, study.order)
    expected = Counter(tuple(f"v{at}" for at, entry in enumerate(row) if entry != "1") for row in entries)
    assert {each.variables: each.count for each in found.patterns} == expected
    assert found.different == len(expected) and int(found.sizes.sum()) == len(entries)
    for each in found.patterns:
        assert tuple(f"v{at}" for at, entry in enumerate(entries[each.first - 1]) if entry != "1") == each.variables
    coded = (found.coded / 255 * found.sizes[:, None]).sum(axis=0).round().tolist()
    assert coded == [sum(row[at] == "-9" for row in entries) for at in range(3)]
    blank = (found.blank / 255 * found.sizes[:, None]).sum(axis=0).round().tolist()
    assert blank == [sum(row[at] in ("", "x") for row in entries) for at in range(3)]


def test_alike_records_stand_together() -> None:
    """In a long study a row holds records of one pattern, but where one ends and the next begins."""
    study = study_of([("1", "", "1"), ("1", "1", "1"), ("", "", "1")] * 400)
    found = gaps(study, study.order)
    assert found.blank.shape == (ROWS, 3) and {each.count for each in found.patterns} == {400}
    mixed = ((found.blank > 0) & (found.blank < 255)).any(axis=1).sum()
    assert mixed <= 2
    changes = np.abs(np.diff((found.blank[:, 1] == 255).astype(int))).sum()
    assert changes == 1, "those that miss the second variable stand one behind the other"


def test_a_gap_in_one_record_of_thousands_is_seen() -> None:
    study = study_of([("1", "1", "1")] * 5_000 + [("1", "", "1")])
    found = gaps(study, study.order)
    assert found.blank[:, 1].max() >= 1 and found.blank[:, 0].max() == 0
    without = RemoveRecords(records=(5_001,)).apply(study).study
    assert gaps(without, without.order).blank.max() == 0
