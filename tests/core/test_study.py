"""A study as a state: what changes is another study, what does not change is shared."""

import pytest

from rowtag.core.column import EMPTY_COLUMN, column_of_texts
from rowtag.core.errors import NotThere
from rowtag.core.steps.entries import SetEntries
from rowtag.core.steps.tags import Define
from rowtag.core.study import SHELVES, CodeList, Records, Study, Titled, Variable
from rowtag.core.tables import frequency
from rowtag.core.tag import CodeLine, Parts, Tag


def two_variables() -> Study:
    return Study(records=Records(3)).with_variables(
        [
            ("v1", Variable(tag=Tag(name="site_1", type="integer"), proposed=True), column_of_texts(["1", "2", "9"])),
            ("v2", Variable(tag=Tag(name="site_2", type="integer"), proposed=True), column_of_texts(["2"])),
        ]
    )


def test_a_change_shares_what_it_does_not_touch() -> None:
    """Another label touches one variable and no entry; another entry touches one column and no tag."""
    first = two_variables()
    labelled = Define(variables=("v1",), parts=Parts(label="Water supply")).apply(first).study
    assert labelled.columns is first.columns and labelled.variable("v2") is first.variable("v2")
    assert labelled.records is first.records and labelled.shelves["list"] is first.shelves["list"]
    typed = SetEntries(variable="v2", entries={1: "3"}).apply(labelled).study
    assert typed.shelves is labelled.shelves and typed.column("v1") is first.column("v1")
    assert typed.column("v2") is not first.column("v2")
    assert first.tag("v1").label == "" and first.fill("v2").valid == 1


def test_looked_at_is_no_longer_proposed() -> None:
    """A tag counts as proposed until somebody has changed a part of it."""
    study = Define(variables=("v1",), parts=Parts(level="ordinal")).apply(two_variables()).study
    assert not study.variable("v1").proposed and study.variable("v2").proposed


def test_a_shared_list_counts_for_all_its_tags() -> None:
    """Tags that use a shared list read by it, whatever codes of their own they have."""
    agree = CodeList(name="agree2", lines=(CodeLine(code="1", label="No"), CodeLine(code="2", label="Yes")))
    study = two_variables().put("list", {"l1": agree})
    own = {"codes": (CodeLine(code="9", label="Own"),), "complete": True}
    study = study.with_tags({id: study.tag(id).with_parts(code_list="l1", **own) for id in study.order})
    assert [row.label for row in frequency(study, "v1").rows] == ["No", "Yes", ""]
    assert (study.fill("v1").unlisted, study.fill("v2").unlisted) == (1, 0)
    longer = agree.model_copy(update={"lines": (*agree.lines, CodeLine(code="9", label="Both"))})
    assert study.put("list", {"l1": longer}).fill("v1").unlisted == 0


def test_what_is_gone_is_said() -> None:
    """A variable that is not there is an error with a sentence, not a blank."""
    with pytest.raises(NotThere, match="not in the study any more"):
        two_variables().tag("v9")


def test_short_columns_are_blank_beyond_their_end() -> None:
    """A variable without any recorded entry is blank in every record."""
    study = two_variables().put("variable", {"v3": Variable(tag=Tag(name="note"))})
    assert study.column("v3") is EMPTY_COLUMN
    assert (study.fill("v3").blank, study.fill("v2").blank) == (3, 2)


def test_shelves_take_and_give_back() -> None:
    """A value put on a shelf is there, None takes it away, and older states keep theirs."""
    first = two_variables()
    with_battery = first.put("battery", {"b1": Titled(title="The site")})
    without = with_battery.put("battery", {"b1": None, "b2": None})
    assert with_battery.shelves["battery"]["b1"].title == "The site"
    assert not without.shelves["battery"] and not first.shelves["battery"]
    assert set(SHELVES) == set(without.shelves)


def test_names_are_known_by_their_keys() -> None:
    """Names differ by more than capitals; renaming moves the key."""
    study = two_variables()
    assert study.name_keys == {"site_1": "v1", "site_2": "v2"}
    renamed = study.with_tags({"v1": study.tag("v1").with_parts(name="Water")})
    assert renamed.name_keys == {"water": "v1", "site_2": "v2"}
