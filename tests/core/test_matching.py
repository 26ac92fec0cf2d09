"""A codebook beside a study: whose names meet, and tags read under it."""

from functools import cache

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rowtag.core.codebook import Described
from rowtag.core.codebook.matching import match, new_tag, study_under, tag_under
from rowtag.core.column import column_of_texts
from rowtag.core.naming import slips_between
from rowtag.core.study import Origin, Records, Study, Variable
from rowtag.core.tag import CodeLine, Limits, MissingLine, Parts, Tag

YES_NO = (CodeLine(code="1", label="Yes"), CodeLine(code="2", label="No"))


def study_of(**columns: list[str]) -> Study:
    variables = [
        (
            f"v-{name}",
            Variable(tag=Tag(name=name), origin=Origin(kind="source", name=f"{name}_src")),
            column_of_texts(texts),
        )
        for name, texts in columns.items()
    ]
    return Study(records=Records(max(map(len, columns.values())))).with_variables(variables)


def test_names_meet_exactly_first() -> None:
    """Exactly, by earlier names, by question numbers, whatever the case; what is only near is asked about."""
    study = study_of(site_1=["1"], Site1=["1"], hours=["1"], rent=["1"], wishes=["1"])
    found = match(study, [Described(name) for name in ("site_1", "HOURS", "rent_src", "whishes", "gone")])
    assert {id: each.name for id, each in found.found.items()} == {
        "v-site_1": "site_1", "v-hours": "HOURS", "v-rent": "rent_src",
    }  # fmt: skip
    assert [each.name for each in found.only_described] == ["whishes", "gone"]
    assert found.only_data == ("v-Site1", "v-wishes") and found.near == {"whishes": "v-wishes"}
    assert not match(study, [Described("SITE1")]).found, "two names differ in signs only: neither is meant"
    by_number = match(study, [Described("q7", also="hours")])
    assert list(by_number.found) == ["v-hours"]


def test_a_near_name_is_one_with_a_slip_in_it() -> None:
    """Neither another number of a battery, nor a word that merely shares its letters, is asked about."""
    study = study_of(q6_6=["1"], wait_here=["1"], travel=["1"], household=["1"])
    told = [Described(name) for name in ("q6", "Weather", "travle", "houseolds", "hose")]
    assert match(study, told).near == {"travle": "v-travel", "houseolds": "v-household"}


@given(st.text("abc", max_size=5), st.text("abc", max_size=5))
def test_slips_are_counted_as_they_are_defined(one: str, other: str) -> None:
    """The least number of edits, tried out one after the other; what was changed over is not changed again."""

    @cache
    def least(one: str, other: str) -> int:
        if not one or not other:
            return len(one) + len(other)
        ways = [least(one[1:], other) + 1, least(one, other[1:]) + 1, least(one[1:], other[1:]) + (one[0] != other[0])]
        if one[:2] == other[1::-1] and len(one) > 1 and len(other) > 1:
            ways.append(least(one[2:], other[2:]) + 1)
        return min(ways)

    assert slips_between(one, other) == least(one, other)


def test_codes_as_the_entries_bear_them_out() -> None:
    """Numbers make a whole number of a text; labels that stand in the data are the codes; scale ends stay partial."""
    study = study_of(a=["1", "2", "x", "1"], b=["Yes", "No", "Yes", "Perhaps"], c=["1", "4", "7", "3"])
    said = Described("a", Parts(codes=YES_NO, missing=(MissingLine(code="x"),)))
    under = tag_under(study, "v-a", said)
    assert (under.type, under.complete, under.missing[0].code) == ("integer", True, "x")
    assert [line.code for line in tag_under(study, "v-b", said).codes] == ["Yes", "No"]
    ends = Described("c", Parts(codes=(CodeLine(code="1", label="low"), CodeLine(code="7", label="high"))))
    assert not tag_under(study, "v-c", ends).complete
    read = study_under(study, match(study, [said, Described("b", Parts(codes=YES_NO)), ends]))
    assert [(read.fill(id).valid, read.fill(id).missing, read.fill(id).stray) for id in read.order] == [
        (3, 1, 0), (3, 0, 1), (4, 0, 0),
    ]  # fmt: skip


@pytest.mark.parametrize(
    ("was", "parts", "level", "use"),
    [
        ({"level": "ratio", "use": "weight", "type": "integer"}, Parts(codes=YES_NO), "nominal", "answer"),
        ({"level": "ratio", "use": "weight", "type": "integer"}, Parts(label="Weight"), "ratio", "weight"),
        ({"level": "ratio", "type": "integer"}, Parts(type="text"), "nominal", "answer"),
        ({"level": "nominal", "type": "integer"}, Parts(limits=Limits(low="0", high="80")), "ratio", "answer"),
        ({"level": "ordinal", "type": "integer"}, Parts(limits=Limits(low="-5", high="5")), "interval", "answer"),
        ({"level": "ordinal", "type": "integer"}, Parts(limits=Limits(low="0"), level="ordinal"), "ordinal", "answer"),
        ({"level": "nominal"}, Parts(type="date"), "interval", "answer"),
    ],
)
def test_what_is_said_goes_before_what_was_guessed(was: dict[str, object], parts: Parts, level: str, use: str) -> None:
    """Level and use that contradict what a codebook says give way; those that do not stay."""
    study = study_of(a=["1", "2", "2"])
    study = study.with_tags({"v-a": study.tag("v-a").with_parts(**was)})
    under = tag_under(study, "v-a", Described("a", parts))
    assert (under.level, under.use) == (level, use)


@pytest.mark.parametrize(
    ("parts", "expected"),
    [
        (Parts(codes=YES_NO), {"type": "integer", "level": "nominal", "complete": True}),
        (Parts(codes=(CodeLine(code="Y"), CodeLine(code="N"))), {"type": "text", "complete": True}),
        (Parts(codes=YES_NO, type="text", complete=False), {"type": "text", "complete": False}),
        (Parts(codes=(CodeLine(code="0"), CodeLine(code="10"))), {"complete": False}),
        (Parts(limits=Limits(low="0", high="80")), {"type": "integer", "level": "ratio"}),
        (Parts(limits=Limits(low="0.5")), {"type": "decimal", "level": "ratio"}),
        (Parts(limits=Limits(low="0", high="80"), level="interval"), {"level": "interval"}),
        (Parts(label="Anything"), {"type": "text", "level": "nominal", "label": "Anything"}),
    ],
)
def test_a_variable_that_only_the_document_has(parts: Parts, expected: dict[str, object]) -> None:
    """Its type and level come from what is said of it, for there are no entries to tell."""
    tag = new_tag(Described("x", parts), "other")
    assert tag.name == "other" and {part: getattr(tag, part) for part in expected} == expected
