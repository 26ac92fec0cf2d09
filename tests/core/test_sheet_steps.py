"""Documents kept beside a study, and what is taken from them: one step, however much it brings."""

import pytest

from rowtag.core.codebook.telling import changed
from rowtag.core.column import column_of_texts
from rowtag.core.errors import BadInput, BadName
from rowtag.core.steps import conflicts, sheets
from rowtag.core.steps.sheets import Describe, KeepSheet, RemoveSheet
from rowtag.core.steps.start import NewVariable, Places
from rowtag.core.steps.tags import Define, Rename
from rowtag.core.study import CodeList, Records, Study, Titled, Variable
from rowtag.core.tag import CodeLine, Limits, Marks, MissingLine, Parts, Tag

YES_NO = (CodeLine(code="1", label="Yes"), CodeLine(code="0", label="No"))
AGREE = (CodeLine(code="1", label="No"), CodeLine(code="2", label="Partly"), CodeLine(code="3", label="Yes"))


@pytest.fixture
def study() -> Study:
    """Two variables that share a list, one in a battery, and one by itself."""
    tags = {
        "tap": Tag(name="q1", type="integer", code_list="list1", complete=True),
        "shed": Tag(name="q2", type="integer", code_list="list1", battery="bat1"),
        "hours": Tag(name="hours", type="integer", level="ratio"),
    }
    bare = Study(records=Records(4)).with_variables(
        (id, Variable(tag=tag), column_of_texts(["1", "0", "2", "-9"])) for id, tag in tags.items()
    )
    listed = bare.put("list", {"list1": CodeList(name="yes or no", lines=YES_NO)})
    return listed.put("battery", {"bat1": Titled(title="What there is")})


def test_a_document_is_kept_changed_and_let_go(study: Study) -> None:
    """Its name and lines are told; another text under its id takes its place; what is gone cannot go again."""
    kept = KeepSheet(sheet="doc1", name=" Notes ", text="one\ntwo\n").apply(study)
    assert kept.made.sentence == "Kept the document “Notes” beside the study, 2 lines"
    again = KeepSheet(sheet="doc1", name="Notes", text="one").apply(kept.study)
    assert again.made.sentence.startswith("Changed the document “Notes”")
    gone = RemoveSheet(sheet="doc1").apply(again.study)
    assert gone.study.shelves["sheet"] == {} and gone.made.sentence == "Let the document “Notes” go"
    with pytest.raises(BadInput, match="not beside the study any more"):
        RemoveSheet(sheet="doc1").apply(gone.study)


def test_documents_that_are_not_kept(study: Study, monkeypatch: pytest.MonkeyPatch) -> None:
    """An empty one, and one longer than any codebook."""
    with pytest.raises(BadInput, match="The document is empty"):
        KeepSheet(sheet="doc1", name="Notes", text=" \n ").apply(study)
    monkeypatch.setattr(sheets, "MOST_TEXT", 10)
    with pytest.raises(BadInput, match="11 characters; up to 10 are kept"):
        KeepSheet(sheet="doc1", name="Notes", text="x" * 11).apply(study)


def test_all_that_a_codebook_can_bring(study: Study) -> None:
    """Parts, names, places, a changed list and new variables in one step, told in one sentence."""
    step = Describe(
        tags={"hours": Parts(label="Hours", missing=(MissingLine(code="-9", reason="refused"),))},
        names={"tap": "has_tap", "hours": "hours_week"},
        places={"tap": Places(battery="bat1"), "shed": Places(battery=None, section="sec1")},
        sections={"sec1": Titled(title="Beginning")},
        lists={"list1": CodeList(name="agree", lines=AGREE)},
        add=(NewVariable(id="frost1", tag=Tag(name="frost", battery="bat1")),),
        source="Notes",
    )
    made = step.apply(study)
    assert made.made.sentence == (
        "Took what is said of hours, q1 and q2; renamed 2 variables; set 1 shared list; "
        "added 1 variable (frost) from “Notes”"
    )
    after = made.study
    assert [after.tag(id).name for id in after.order] == ["has_tap", "q2", "hours_week", "frost"]
    assert (after.tag("tap").battery, after.tag("shed").battery, after.tag("shed").section) == ("bat1", None, "sec1")
    assert after.codes("tap") == after.codes("shed") == AGREE
    assert after.variable("hours").former == ("hours",) and after.tag("hours").missing[0].reason == "refused"
    assert made.variables == ("tap", "shed", "hours", "frost1")
    assert made.after.valid == sum(after.fill(id).valid for id in made.variables)
    assert after.fill("frost1").blank == 4


def test_lines_of_its_own_leave_a_shared_list(study: Study) -> None:
    """A variable that gets lines uses the list no more; the list and its other user stay."""
    after = Describe(tags={"tap": Parts(codes=AGREE)}).apply(study).study
    assert (after.tag("tap").code_list, after.codes("tap"), after.codes("shed")) == (None, AGREE, YES_NO)


@pytest.mark.parametrize(
    ("step", "error", "said"),
    [
        (Describe(), BadInput, "Nothing is taken"),
        (Describe(tags={"tap": Parts()}), BadInput, "Nothing is taken"),
        (Describe(names={"tap": "q2"}), BadName, "Another variable is called “q2” already"),
        (Describe(places={"tap": Places(battery="none")}), BadInput, "q1 names a battery that is not there"),
        (Describe(places={"tap": Places(code_list="none")}), BadInput, "q1 names a list that is not there"),
        (Describe(add=(NewVariable(id="new1", tag=Tag(name="Q1")),)), BadName, "Another variable is called “Q1”"),
        (Describe(add=(NewVariable(id="hours", tag=Tag(name="x")),)), BadInput, "cannot have the same id"),
    ],
)
def test_what_cannot_be_taken(study: Study, step: Describe, error: type[Exception], said: str) -> None:
    """A sentence says why, and the study stays."""
    with pytest.raises(error, match=said):
        step.apply(study)


def test_what_was_changed_meanwhile(study: Study) -> None:
    """A step that was made for another label, name or list does not go over what somebody else set."""
    step = Describe(
        tags={"hours": Parts(label="Hours")}, names={"tap": "has_tap"},
        lists={"list1": CodeList(name="agree", lines=AGREE)},
    )  # fmt: skip
    elsewhere = Define(variables=("hours",), parts=Parts(level="ordinal")).apply(study).study
    assert conflicts(step, study, elsewhere) == []
    for other in (
        Define(variables=("hours",), parts=Parts(label="Hours a week")),
        Rename(names={"tap": "water"}),
        Describe(lists={"list1": CodeList(name="yes or no", lines=YES_NO[:1])}),
    ):
        assert len(conflicts(step, study, other.apply(study).study)) == 1


def test_what_is_otherwise_in_words(study: Study) -> None:
    """Every kind of part, as it was and as it is then; order alone is told too; nothing where nothing changed."""
    parts = Parts(
        label="Hours", type="decimal", width=5, decimals=1, limits=Limits(low="0", high="80"), pattern="dd.mm.yyyy",
        marks=Marks(decimal=","), codes=YES_NO, missing=(MissingLine(code="-9", reason="refused"),), complete=True,
    )  # fmt: skip
    after = Describe(tags={"hours": parts}, places={"shed": Places(battery=None)}).apply(study).study
    told = {each.part: (each.study, each.sheet) for each in changed(study, after, "hours")}
    assert told == {
        "label": ("none", "Hours"), "type": ("integer", "decimal"), "width": ("none", "5"), "decimals": ("none", "1"),
        "pattern": ("yyyy-mm-dd", "dd.mm.yyyy"), "limits": ("none", "0 .. 80"), "list": ("partial", "complete"),
        "marks": ("decimal ., dates ymd", "decimal ,, dates ymd"), "missing -9": ("none", "-9 (refused)"),
        "code 1": ("not listed", "1 Yes"), "code 0": ("not listed", "0 No"),
    }  # fmt: skip
    assert [(each.part, each.study, each.sheet) for each in changed(study, after, "shed")] == [
        ("battery", "What there is", "none")
    ]
    assert changed(study, after, "tap") == ()
    turned = Describe(tags={"hours": Parts(codes=YES_NO[::-1])}).apply(after).study
    (order,) = changed(after, turned, "hours")
    assert (order.part, order.study, order.sheet) == ("order of codes", "1 Yes, 0 No", "0 No, 1 Yes")
