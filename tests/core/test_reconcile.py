"""A codebook and a study compared part by part: what differs, with what the data say, and what taking it gives."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rowtag.core.codebook import Described
from rowtag.core.codebook.reconcile import differences, effects, evidence, other_name, taken
from rowtag.core.codebook.telling import Difference
from rowtag.core.column import column_of_texts
from rowtag.core.steps.sheets import Describe
from rowtag.core.study import CodeList, Records, Study, Variable
from rowtag.core.tag import CodeLine, Limits, MissingLine, Parts, Tag
from tests import generate

OWN, SHARED, LENT = (
    CodeLine(code="1", label="Own"),
    CodeLine(code="2", label="Shared"),
    CodeLine(code="8", label="Lent by a friend"),
)
REFUSED = MissingLine(code="-9", reason="refused", label="Refused")


def study_of(tag: Tag, *entries: str) -> Study:
    return Study(records=Records(len(entries))).with_variables(
        [("v", Variable(tag=tag), column_of_texts(list(entries)))]
    )


def told(tag: Tag, parts: Parts, *entries: str) -> dict[str, tuple[str, str, str]]:
    """What differs, under its key: sheet, study, data."""
    found = differences(study_of(tag, *entries), "v", Described("x", parts))
    return {each.key: (each.sheet, each.study, each.data) for each in found}


TENURE = Tag(name="x", label="How held", type="integer", codes=(OWN, SHARED), complete=True)
ENTRIES = ("1", "2", "8", "08", "-9", "1")


@pytest.mark.parametrize(
    ("parts", "expected"),
    [
        (Parts(label="how HELD."), {}),
        (Parts(question="How held"), {}),
        (Parts(label="Held how"), {"label": ("Held how", "How held", "")}),
        (Parts(codes=(OWN, SHARED)), {}),
        (Parts(codes=(OWN, SHARED, LENT)), {"code 8": ("8 Lent by a friend", "not listed", "2 records hold 8")}),
        (Parts(codes=(OWN,)), {"code 2": ("not listed", "2 Shared", "1 record holds 2")}),
        (
            Parts(codes=(OWN, CodeLine(code="02", label="With others"))),
            {"label-of 02": ("With others", "Shared", "")},
        ),
        (Parts(missing=(REFUSED,)), {"missing -9": ("-9 refused", "none", "1 record holds -9")}),
        (
            Parts(missing=(MissingLine(code="2", reason="not asked"),)),
            {"missing 2": ("2 not asked", "listed: 2 Shared", "1 record holds 2")},
        ),
        (Parts(limits=Limits(low="0", high="2")), {"limits": ("0 .. 2", "none", "")}),
        (Parts(type="date"), {"type": ("date", "integer", "")}),
        (Parts(level="ordinal"), {"level": ("ordinal", "nominal", "")}),
        (Parts(complete=False), {"list": ("partial", "complete", "")}),
    ],
)
def test_what_differs(parts: Parts, expected: dict[str, tuple[str, str, str]]) -> None:
    """Only what the codebook says is compared; words whatever their case, codes by value."""
    assert told(TENURE, parts, *ENTRIES) == expected


def test_a_list_where_there_is_none() -> None:
    """The whole list is one difference; taking it also says whether it is complete."""
    bare = Tag(name="x", type="integer", level="ratio")
    parts = Parts(codes=(OWN, SHARED))
    assert told(bare, parts, *ENTRIES) == {"codes": ("1 Own, 2 Shared", "none", "3 entries are among them, 3 are not")}
    got = taken(study_of(bare, *ENTRIES), "v", Described("x", parts))
    assert (got.codes, got.complete, got.level) == ((OWN, SHARED), True, "nominal")


def test_taking_some_differences() -> None:
    """Each difference is taken by itself; a code set aside as missing leaves the list."""
    parts = Parts(label="Held how", codes=(OWN, LENT), missing=(REFUSED, MissingLine(code="2", reason="not asked")))
    study, described = study_of(TENURE, *ENTRIES), Described("x", parts)
    keys = {each.key for each in differences(study, "v", described)}
    assert keys == {"label", "code 8", "missing -9", "missing 2"}
    assert taken(study, "v", described, ["label"]).given() == {"label": "Held how"}
    assert taken(study, "v", described, ["code 8"]).codes == (OWN, SHARED, LENT)
    aside = taken(study, "v", described, ["missing 2"])
    assert aside.codes == (OWN,) and [line.code for line in aside.missing] == ["2"]
    assert taken(study, "v", described, []).given() == {}


def test_a_shared_list_is_compared_and_left() -> None:
    """Lines of a shared list count; taking others gives the variable lines of its own, and the list stays."""
    tag = TENURE.with_parts(codes=(), code_list="list1")
    study = study_of(tag, *ENTRIES).put("list", {"list1": CodeList(name="held", lines=(OWN, SHARED))})
    described = Described("x", Parts(codes=(OWN, SHARED, LENT)))
    assert [each.key for each in differences(study, "v", described)] == ["code 8"]
    after = Describe(tags={"v": taken(study, "v", described)}).apply(study).study
    assert after.codes("v") == (OWN, SHARED, LENT) and after.tag("v").code_list is None
    assert after.shelves["list"]["list1"].lines == (OWN, SHARED)


SAID = st.fixed_dictionaries(
    {},
    optional={
        "label": generate.labels,
        "level": generate.levels,
        "type": generate.types,
        "codes": st.lists(generate.code_lines, min_size=1, max_size=4).map(tuple),
        "missing": st.lists(generate.missing_lines, min_size=1, max_size=3).map(tuple),
        "limits": st.builds(Limits, low=generate.ends, high=generate.ends),
    },
).map(lambda given: Parts(**given))


@given(generate.studies(), SAID)
def test_taking_changes_only_what_differs(study: Study, parts: Parts) -> None:
    """Where nothing differs nothing is taken; what is taken is a step that keeps every entry, and adds up."""
    described = Described("a", parts)
    found: tuple[Difference, ...] = differences(study, "v0", described)
    assert len({each.key for each in found}) == len(found)
    got = taken(study, "v0", described)
    assert bool(got.given()) <= bool(found)
    if got.given():
        made = Describe(tags={"v0": got}).apply(study)
        assert made.study.columns["v0"] is study.columns["v0"]
        fill = made.study.fill("v0")
        assert fill.valid + fill.missing + fill.blank + fill.stray == study.records.count
        assert made.study.tag("v0").name == study.tag("v0").name


@given(generate.studies(), SAID)
def test_the_effect_that_is_said_is_the_effect(study: Study, parts: Parts) -> None:
    """Taking one difference alone gives the readings that were said before; one without an effect leaves them."""
    described = Described("a", parts)
    found = differences(study, "v0", described)
    said = effects(study, "v0", described, found)
    for each in found:
        got = taken(study, "v0", described, [each.key])
        if got.given():
            fill = Describe(tags={"v0": got}).apply(study).study.fill("v0")
            assert fill == said.get(each.key, study.fill("v0")), each


@pytest.mark.parametrize(
    ("here", "name", "also", "expected"),
    [
        ("q3", "tenure", "q3", "tenure"),
        ("Q_3", "tenure", "q3", "tenure"),
        ("q3", "tenure", "", None),
        ("tenure", "tenure", "q3", None),
        ("q3", "Q3", "q3", None),
        ("q3", "two words", "q3", None),
        ("q3", "taken", "q3", None),
    ],
)
def test_a_name_beside_the_number_of_a_question(here: str, name: str, also: str, expected: str | None) -> None:
    """Where a variable is called by its question's number, the sheet's name is one of the parts, if it can be one."""
    study = study_of(Tag(name=here), "1").with_variables(
        [("w", Variable(tag=Tag(name="Taken")), column_of_texts(["1"]))]
    )
    described = Described(name, Parts(), also=also)
    assert other_name(study, "v", described) == expected
    assert [each.sheet for each in differences(study, "v", described)] == ([expected] if expected else [])


@pytest.mark.parametrize(
    ("was", "adds"), [(Tag(name="x"), True), (Tag(name="x", label="Held", limits=Limits(low="1")), False)]
)
def test_what_replaces_nothing(was: Tag, adds: bool) -> None:
    """A difference adds where the study says nothing yet."""
    parts = Parts(label="How held", limits=Limits(low="0", high="9"))
    assert [each.adds for each in differences(study_of(was, "1"), "v", Described("x", parts))] == [adds, adds]


@pytest.mark.parametrize(
    ("parts", "said"),
    [
        (Parts(limits=Limits(low="-10", high="9")), "none lies outside"),
        (Parts(limits=Limits(low="0", high="2")), "3 entries lie outside"),
        (Parts(limits=Limits(low="2", high="9")), "3 entries lie outside"),
        (Parts(limits=Limits(high="7.5")), "2 entries lie outside"),
        (Parts(type="date"), "6 entries would be unreadable"),
        (Parts(type="decimal"), "all entries fit"),
        (Parts(missing=(REFUSED,)), "1 record holds -9"),
    ],
)
def test_what_the_data_say(parts: Parts, said: str) -> None:
    """Entries that limits would leave out, or a type could not read; records that hold a code."""
    tag = TENURE.with_parts(codes=(), complete=False) if parts.limits != Limits() else TENURE
    study, described = study_of(tag, *ENTRIES), Described("x", parts)
    (difference,) = differences(study, "v", described)
    after = effects(study, "v", described, [difference])[difference.key]
    assert evidence(difference, study.fill("v"), after) == said
