"""Two keyings: which records are met, how far they agree, and what was decided."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from rowtag.core.column import column_of_texts
from rowtag.core.errors import BadInput
from rowtag.core.keyings import Keyings, kappa
from rowtag.core.steps.decide import Decide
from rowtag.core.steps.entries import SetEntries
from rowtag.core.study import Decision, Records, Study, Variable
from rowtag.core.tag import CodeLine, MissingLine, Tag

YES_NO = (CodeLine(code="1", label="Yes"), CodeLine(code="0", label="No"))
TAGS = {
    "plot": Tag(name="plot", use="identifier"),
    "shed": Tag(name="shed", type="integer", codes=YES_NO, complete=True, missing=(MissingLine(code="-9"),)),
    "hours": Tag(name="hours", type="decimal", level="ratio"),
}


def keyed(*rows: tuple[str, str, str], prefix: str = "", removed: tuple[int, ...] = ()) -> Study:
    columns = zip(*rows, strict=True)
    return Study(records=Records(len(rows), removed)).with_variables(
        [(prefix + name, Variable(tag=tag), column_of_texts(list(texts)))
         for (name, tag), texts in zip(TAGS.items(), columns, strict=True)]
    )  # fmt: skip


def test_kappa_by_hand() -> None:
    """Two raters of 50: both yes 20, both no 15, 5 and 10 apart: 0.4. Perfect, by chance alone, and nothing at all."""
    assert kappa(np.array([[20, 5], [10, 15]])) == pytest.approx(0.4)
    assert kappa(np.array([[7, 0], [0, 3]])) == 1 and kappa(np.array([[9]])) is None and kappa(np.zeros((2, 2))) is None
    assert kappa(np.array([[1, 1], [1, 1]])) == pytest.approx(0)


def test_how_far_they_agree() -> None:
    """Records are met by their identifier, entries compared as they read; who is in one keying only is told."""
    own = keyed(("A1", "1", "4"), ("A2", "0", "9"), ("A3", "1", "2.5"), ("A4", "", "7"), ("B1", "1", "1"))
    other = keyed(
        ("A4", "-9", "7"), (" A3", "01", "2.50"), ("A2", "1", "9"), ("A1", "1", "4.0"), ("C1", "", ""), prefix="o"
    )
    found = Keyings(own, other)
    assert (found.met, found.only_own, found.only_other, found.repeated) == (4, 1, 1, 0)
    shed, hours = found.agreements
    assert (shed.compared, shed.agree, hours.agree, hours.kappa) == (4, 2, 4, None)
    # of 4: own 1, 0, 1, blank; other 1, 1, 1, -9: observed 2/4, by chance (2/4)(3/4) = 6/16
    assert shed.kappa == pytest.approx((0.5 - 0.375) / (1 - 0.375))
    told = [(each.record, each.identifier, each.variable, each.own, each.other) for each in found.differences()]
    assert [(each.own_label, each.other_label) for each in found.differences()] == [("No", "Yes"), ("", "")]
    assert told == [(2, "A2", "shed", "0", "1"), (4, "A4", "shed", "", "-9")]


def test_identifiers_that_tell_nothing() -> None:
    """One that is repeated, blank or removed meets nobody; without any, it is said."""
    own = keyed(("A1", "1", "4"), ("A1", "0", "9"), ("", "1", "2"), ("A2", "1", "1"), ("A3", "1", "1"), removed=(5,))
    found = Keyings(own, keyed(("A1", "1", "4"), ("", "1", "2"), ("A2", "0", "1"), ("A3", "0", "1"), prefix="o"))
    assert (found.met, found.repeated) == (1, 1) and [each.record for each in found.differences()] == [4]
    with pytest.raises(BadInput, match="belong together"):
        Keyings(own.with_tags({"plot": own.tag("plot").with_parts(use="answer")}), own)
    assert Keyings(own.with_tags({"plot": own.tag("plot").with_parts(use="answer")}), own, by="plot").met == 1


def test_decisions_are_kept() -> None:
    """What was decided is no open difference, and does not change how far the keyings agreed; it is open again when
    either entry becomes another one."""
    own = keyed(("A1", "1", "4"), ("A2", "0", "9"), ("A3", "1", "2"))
    other = keyed(("A1", "0", "4"), ("A2", "1", "9"), ("A3", "1", "3"), prefix="o")
    before = Keyings(own, other)
    decisions = (
        Decision(record=1, variable="shed", own="1", other="0", kept="1"),
        Decision(record=2, variable="shed", own="0", other="1", kept="1"),
        Decision(record=3, variable="hours", own="2", other="3", kept="2.5"),
    )
    done = Decide(decisions=decisions).apply(own).study
    assert [done.column("shed").texts_at(done.column("shed").tokens_at(np.arange(3)))] == [["1", "1", "1"]]
    after = Keyings(done, other)
    assert after.agreements == before.agreements and (after.differing, after.decided) == (3, 3)
    assert [each.decided.kept for each in after.differences() if each.decided] == ["1", "1", "2.5"]
    again = SetEntries(variable="shed", entries={2: "0"}).apply(done).study
    assert Keyings(again, other).decided == 2
    with pytest.raises(BadInput, match="not “2”"):
        Decide(decisions=(Decision(record=3, variable="hours", own="2", other="3", kept="3"),)).apply(done)


keyed_entries = st.tuples(st.sampled_from("ABCDE"), st.sampled_from(["1", "0", "", "01", "x"]))
sheets = st.lists(keyed_entries, max_size=8, unique_by=lambda row: row[0])


@given(sheets, sheets)
def test_as_told_record_by_record(one: list[tuple[str, str]], two: list[tuple[str, str]]) -> None:
    """Whatever stands where: as a dictionary of each keying tells it."""
    if not one or not two:
        return
    found = Keyings(keyed(*((a, b, "") for a, b in one)), keyed(*((a, b, "") for a, b in two), prefix="o"))
    plain = {"01": "1"}
    there = {name: plain.get(entry, entry) for name, entry in two}
    differing = [name for name, entry in one if name in there and plain.get(entry, entry) != there[name]]
    assert [each.identifier for each in found.differences()] == differing
    assert found.met == len({name for name, _ in one} & there.keys())
