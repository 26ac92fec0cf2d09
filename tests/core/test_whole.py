"""A codebook edited as text: what is written changes nothing, what is edited becomes one step, nothing is lost."""

import itertools

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rowtag.core.codebook import read_notation, write_notation
from rowtag.core.codebook.telling import changed
from rowtag.core.codebook.whole import Edited, described, edited
from rowtag.core.column import column_of_texts
from rowtag.core.errors import BadInput
from rowtag.core.study import CodeList, Records, Study, Titled, Variable
from rowtag.core.tag import CodeLine, MissingLine, Tag
from tests import generate

YES_NO = (CodeLine(code="1", label="Yes"), CodeLine(code="0", label="No"))


def read(study: Study, text: str, ids: list[str] | None = None, *, whole: bool = True) -> Edited:
    numbers = itertools.count(1)
    return edited(study, read_notation(text), ids or list(study.order), lambda: f"new{next(numbers)}", whole=whole)


def text_of(study: Study, *ids: str) -> str:
    return write_notation(*described(study, ids or study.order))


@pytest.fixture
def study() -> Study:
    """Three variables: a shared list, a battery, missing codes, a label."""
    missing = (MissingLine(code="-9", reason="refused", label="Refused"),)
    tags = {
        "id_a": Tag(name="tap", label="Has a tap", type="integer", code_list="list1", complete=True, missing=missing),
        "id_b": Tag(name="shed", label="Has a shed", type="integer", code_list="list1", battery="bat1"),
        "id_c": Tag(name="hours", label="Hours", type="decimal", level="ratio", width=5, note="in summer"),
    }
    empty = Study(records=Records(3)).with_variables(
        (id, Variable(tag=tag), column_of_texts(["1", "0", "-9"])) for id, tag in tags.items()
    )
    listed = empty.put("list", {"list1": CodeList(name="yes or no", lines=YES_NO)})
    return listed.put("battery", {"bat1": Titled(title="What there is")})


def test_what_is_written_changes_nothing(study: Study) -> None:
    """The text of all tags, unedited, is no step."""
    assert read(study, text_of(study)) == Edited(None)


@given(st.data())
def test_any_tag_survives_its_text(data: st.DataObject) -> None:
    """Whatever a tag says, its text put back says the same; and the text of another makes it that other."""
    one, other = (data.draw(generate.tags).with_parts(name="x", battery=None, code_list=None) for _ in range(2))
    study = Study(records=Records(1)).with_variables([("v", Variable(tag=one), column_of_texts(["1"]))])
    then = study.with_tags({"v": other})
    assert read(study, text_of(study)).step is None
    found = read(study, text_of(then))
    after = study if found.step is None else found.step.apply(study).study
    assert after.tag("v") == other
    assert bool(changed(study, after, "v")) == (one != other)


def test_an_edited_text_is_one_step(study: Study) -> None:
    """Labels, lists, batteries, new variables; what is left out is cleared, who is left out stays."""
    text = text_of(study, "id_a", "id_c").replace("Has a tap", "Tap on the plot").replace("No", "None")
    text = (
        text.replace("  # in summer\n", "")
        + '\nfrost  integer  battery: Weather\n  "Days of frost"\n  1 few | 2 many\n'
    )
    found = read(study, text)
    assert found.step is not None and found.new == ("frost",) and found.absent == ("id_b",)
    after = found.step.apply(study).study
    assert after.tag("id_a").label == "Tap on the plot" and after.tag("id_c").note == ""
    assert [line.label for line in after.codes("id_b")] == ["Yes", "None"]
    frost = after.tag(after.order[-1])
    assert (frost.name, frost.type, after.shelves["battery"][frost.battery].title) == ("frost", "integer", "Weather")
    assert after.tag("id_b") == study.tag("id_b")


def test_out_of_a_battery_and_a_shared_list(study: Study) -> None:
    """Without its battery and with lines of its own a tag stands alone again."""
    found = read(study, 'shed  nominal  integer\n  "Has a shed"\n  1 Yes | 0 No\n', ["id_b"])
    assert found.step is not None
    after = found.step.apply(study).study
    tag = after.tag("id_b")
    assert (tag.battery, tag.code_list, tag.codes) == (None, None, YES_NO)
    assert {(each.part, each.sheet, each.study) for each in changed(study, after, "id_b")} == {
        ("battery", "none", "What there is"), ("shared list", "none", "yes or no"),
    }  # fmt: skip


def test_pasted_onto_tags(study: Study) -> None:
    """One description goes onto all chosen, whatever its name, and only with what it says."""
    found = read(study, "any  ordinal\n  -8 Don't know missing: don't know\n", ["id_a", "id_c"], whole=False)
    assert found.step is not None
    after = found.step.apply(study).study
    assert {after.tag(id).level for id in ("id_a", "id_c")} == {"ordinal"}
    assert after.tag("id_a").label == "Has a tap" and after.tag("id_a").code_list == "list1"
    by_name = read(study, 'TAP\n  "Tap"\n\nhours\n  "Hours a week"\n\ngone\n  "?"\n', ["id_b"], whole=False)
    assert by_name.step is not None and by_name.new == ("gone",)
    assert set(by_name.step.tags) == {"id_a", "id_c"}


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ('tap\n  "a"\n\nTap\n  "b"\n', "Tap is described twice, on lines 1 and 4."),
        ("tap  codes: agree5\n", "There is no shared list “agree5”."),
    ],
)
def test_what_cannot_be_carried_out(study: Study, text: str, said: str) -> None:
    """A sentence, and no step."""
    with pytest.raises(BadInput) as refused:
        read(study, text)
    assert said in str(refused.value)


def test_several_descriptions_of_nobody(study: Study) -> None:
    """Pasted descriptions none of whose names is here are refused."""
    with pytest.raises(BadInput, match="No variable is called frost, hail"):
        read(study, 'frost\n  "a"\n\nhail\n  "b"\n', ["id_a"], whole=False)
