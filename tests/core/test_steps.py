"""Steps: for every registered kind, and for any sequence of them."""

import json
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rowtag.core.arrangement import RecordView
from rowtag.core.column import column_of_texts
from rowtag.core.errors import BadInput, BadName, RowTagError
from rowtag.core.rules import CheckSetting, Formula, Rule
from rowtag.core.steps import STEPS, base, conflicts, dump, load
from rowtag.core.steps.accept import Accept
from rowtag.core.steps.bring_in import Arrival, BringIn
from rowtag.core.steps.codes import DropCodes, ListCodes, Mark, MarkMissing, MarkMissingWhere, OrderCodes, Relabel
from rowtag.core.steps.decide import Decide
from rowtag.core.steps.derive import Derive, Into, LetFollow, WorkOutAgain
from rowtag.core.steps.entries import AddBlankRecords, ReplaceEntries, SetBlock, SetEntries
from rowtag.core.steps.groups import Group, Ungroup
from rowtag.core.steps.lists import DetachList, NameList, ShareList, UseList
from rowtag.core.steps.records import CopyRecords, Remark, RemoveRecords, RestoreRecords, TakeRemarksBack
from rowtag.core.steps.replace import ReplaceFound
from rowtag.core.steps.rules import KeepRule, RemoveRules, SetCheck
from rowtag.core.steps.sheets import Describe, KeepSheet, ReadOtherwise, RemoveSheet
from rowtag.core.steps.skips import SetSkips
from rowtag.core.steps.stamp import Stamp
from rowtag.core.steps.start import AddVariables, NewVariable
from rowtag.core.steps.tags import ClearParts, Define, Rename
from rowtag.core.steps.turn import TurnRound
from rowtag.core.steps.variables import Arrange, CopyVariables, RemoveVariables
from rowtag.core.steps.views import KeepView, RemoveView
from rowtag.core.steps.widths import TrimWidths
from rowtag.core.study import (
    CodeList,
    Comment,
    Decision,
    Origin,
    Otherwise,
    Records,
    Sheet,
    Source,
    Study,
    Titled,
    Variable,
)
from rowtag.core.tag import CodeLine, CodeSpan, MissingLine, Parts, Skip, Tag
from rowtag.core.touched import OneEntry, TagPart
from tests import generate
from tests.generate import contents

SAMPLES = Path(__file__).parent.parent / "samples" / "steps"


def plots() -> Study:
    """Six records of tenure (1, 2, 3, 8, -9, n/a), hours, and shade, which has a battery and a shared list."""
    tenure = Tag(
        name="tenure", type="integer", codes=(CodeLine(code="1", label="Own"), CodeLine(code="2")), complete=True
    )
    tenure = tenure.with_parts(width=8)
    hours = Tag(name="hours", type="integer", level="ratio")
    shade = Tag(name="shade", type="integer", code_list="list1", battery="bat0")
    lines = (CodeLine(code="1", label="Sun"), CodeLine(code="2", label="Shade"))
    study = Study(records=Records(7, (7,))).put("list", {"list1": CodeList(name="shade", lines=lines)})
    study = study.put("sheet", {"sheet0": Sheet(name="Questionnaire", text="tenure - how held\n")})
    study = study.put("view", {"view0": RecordView(name="First look")})
    blank = Formula(text="hours is blank", names={"hours": "v2"})
    empty = Variable(tag=Tag(name="empty", type="integer"), origin=Origin(kind="derived", name="empty", how=blank))
    adults = Rule(title="Adults", holds=Formula(text="hours is valid", names={"hours": "v2"}))
    study = study.put("rule", {"rule0": adults})
    study = study.put("comment", {"note0": Comment(record=1, text="Torn sheet")})
    return study.put("battery", {"bat0": Titled(title="The site")}).with_variables(
        [
            ("v1", Variable(tag=tenure, proposed=True), column_of_texts(["1", "2", "3", "08", "-9", "n/a"])),
            ("v2", Variable(tag=hours), column_of_texts(["4", "12 hrs", "9"])),
            ("v3", Variable(tag=shade), column_of_texts(["1", "2", "7"])),
            ("made", empty, column_of_texts([])),
        ]
    )


SENTENCES = [
    (Define(variables=("v1",), parts=Parts(label="How held", level="ordinal")),
     "Set label “How held”, level ordinal on tenure."),
    (Define(variables=("v1", "v2"), parts=Parts(type="text")),
     "Set type text on tenure and hours; valid 4 → 5; strays 5 → 4."),
    (Rename(names={"v2": "hours_week"}), "Renamed hours to hours_week."),
    (ListCodes(variables=("v1",), lines=(CodeLine(code="8", label="Lent"),)),
     "Listed 8 “Lent” for tenure; valid 2 → 3; strays 4 → 3."),
    (MarkMissing(variables=("v1", "v2"), lines=(MissingLine(code="-9", reason="refused"),)),
     "Marked -9 as missing (refused) for tenure and hours; coded missing 0 → 1; strays 5 → 4."),
    (MarkMissingWhere(marks=(Mark(line=MissingLine(code="-9", reason="refused"), variables=("v1",)),
                             Mark(line=MissingLine(code="7"), variables=("v2", "v3")))),
     "Marked -9 as missing (refused), 7 as missing (other) in tenure, hours and shade;"
     " valid 7 → 6; coded missing 0 → 2; strays 5 → 4."),
    (DropCodes(variables=("v1",), lines=(CodeSpan(code="02"),)),
     "Took 02 off the list of tenure; valid 2 → 1; strays 4 → 5."),
    (OrderCodes(variables=("v1",), lines=(CodeSpan(code="2"),)), "Put 1 code of tenure into another order."),
    (SetEntries(variable="v2", entries={2: "12"}), "Typed “12” into hours of record 2; valid 2 → 3; strays 1 → 0."),
    (SetBlock(records=(5, 6), more=1, entries={"v1": ("own", "2", ""), "v2": ("4", "9", "12 hrs")}, labels=True),
     "Pasted 6 entries in tenure and hours, records 5 to 8; valid 4 → 8; strays 5 → 4; 1 label became its code;"
     " 1 record added."),
    (ReplaceEntries(variables=("v1",), entries=("8",), by="2"),
     "Replaced “8” by “2” in tenure; valid 2 → 3; strays 4 → 3; 1 entry changed."),
    (ReplaceFound(variables=("v1", "v2"), find=r"(\d+) hrs|n/a", by=r"\1", how="pattern"),
     r"Replaced the pattern “(\d+) hrs|n/a” by “\1” in tenure and hours; valid 4 → 5; strays 5 → 3;"
     " 2 entries changed."),
    (Accept(check="unlisted codes", variable="v1", entries=("8",), reason="lent plots"),
     "Kept “8” as is in tenure (lent plots)."),
    (Group(battery="bat1", title="The plot", variables=("v1", "v2")), "Grouped tenure and hours as “The plot”."),
    (AddVariables(variables=(NewVariable(id="new1", tag=Tag(name="shed", battery="bat2")),),
                  batteries={"bat2": Titled(title="The site")}), "Added 1 variable: shed."),
    (Relabel(line=CodeSpan(code="1"), was="Own", label="Alone"), "Labelled 1 “Alone” in place of “Own” on tenure."),
    (AddBlankRecords(count=3), "Added 3 blank records."),
    (Ungroup(variables=("v3",)), "Took shade out of the battery."),
    (ClearParts(variables=("v1", "v2"), parts=("codes", "limits")),
     "Cleared code lists and limits of tenure; valid 2 → 5; strays 4 → 1."),
    (Stamp(source="v1", parts=("codes", "list", "level"), variables=("v1", "v2")),
     "Stamped codes, list and level of tenure onto hours; valid 2 → 0; strays 1 → 3."),
    (TrimWidths(variables=("v1", "v2")),
     "Trimmed tenure and hours to the width of the longest entry; 5 characters fewer a record in fixed columns."),
    (SetSkips(variable="v1", skips=(Skip(codes=("3",)),)), "Said that 3 of tenure goes on at the end."),
    (RemoveRecords(records=(2, 3, 2)), "Removed records 2 to 3."),
    (RestoreRecords(records=(7,)), "Put record 7 back."),
    (CopyRecords(records=(3, 1)), "Copied records 1 and 3 as records 8 to 9; valid 7 → 12; strays 5 → 6."),
    (Remark(comment="note1", on=Comment(record=2, variable="v1", text="Checked\nagainst paper")),
     "Remarked on tenure of record 2: “Checked against paper”."),
    (TakeRemarksBack(comments=("note0",)), "Took 1 comment back."),
    (KeepView(view="view1", shows=RecordView(name=" Site ", variables=("v3", "v1"))),
     "Kept the view “Site”: 2 variables."),
    (Derive(variables=(
        Into(how=Formula(text="recode tenure: 1 -> 0 'Holds'; else 9", names={"tenure": "v1"}), into={"new1": "holds"}),
        Into(how=Formula(text="indicator hours is valid", names={"hours": "v2"}), into={"new2": "told"}),
    )), "Derived holds = recode tenure: 1 -> 0 'Holds'; else 9; told = indicator hours is valid."),
    (WorkOutAgain(variables=("made",)), "Recalculated empty; valid 0 → 6; 6 entries changed."),
    (LetFollow(on=True), "Let derived variables follow what they are made of."),
    (TurnRound(variables=("v1",)), "Turned the codes of tenure round; 2 entries changed."),
    (RemoveView(view="view0"), "Let the view “First look” go."),
    (KeepRule(rule="rule1", says=Rule(title=" Few  hours ",
                                      holds=Formula(text="hours is not blank", names={"hours": "v2"}))),
     "Wrote the rule “Few hours”: hours is not blank; 3 records break it."),
    (RemoveRules(rules=("rule0",)), "Took the rule “Adults” away."),
    (SetCheck(says=CheckSetting(check="nearly empty", thresholds={"share": 0.5})),
     "Threshold of “nearly empty”: share of blanks set to 0.5 (default 0.95)."),
    (Decide(decisions=(Decision(record=2, variable="v1", own="2", other="1", kept="1"),)),
     "Decided 1 difference between two keyings in tenure; 1 entry changed."),
    (Arrange(variables=("v2",), before="v1"), "Moved hours before tenure."),
    (CopyVariables(copies={"v1": "copy1"}, entries=False), "Copied tenure as tenure_copy, without entries."),
    (RemoveVariables(variables=("v2",)), "Removed hours; valid 2 → 0; strays 1 → 0; 3 entries went along;"
     " empty, which cannot be recalculated without, is kept."),
    (ShareList(list="list9", name="held", variables=("v1",)), "Named the code list “held” and used it on tenure."),
    (UseList(list="list1", variables=("v2",)), "Used the code list “shade” on hours."),
    (DetachList(variables=("v3",)), "Gave shade a code list of its own."),
    (KeepSheet(sheet="sheet9", name="Notes", text="tenure - how held\nhours - hours\n"),
     "Kept the document “Notes” beside the study, 2 lines."),
    (ReadOtherwise(sheet="sheet0", said=(Otherwise(first=1, last=1, are="codes"),)),
     "Said of “Questionnaire” that line 1 holds codes, not variables."),
    (RemoveSheet(sheet="sheet0"), "Let the document “Questionnaire” go."),
    (Describe(tags={"v1": Parts(label="How held", codes=(CodeLine(code="3", label="Waiting"),)),
                    "v3": Parts(level="nominal", codes=(CodeLine(code="7", label="Dark"),))}, source="Notes"),
     "Took what is said of tenure and shade from “Notes”; valid 5 → 4; strays 4 → 5."),
    (NameList(list="list1", name="light"), "Named the code list “shade” “light”."),
]  # fmt: skip


@pytest.mark.parametrize(("step", "sentence"), SENTENCES, ids=[step.do for step, _ in SENTENCES])
def test_sentence_and_account(step: base.Step, sentence: str) -> None:
    """Each kind of step says what it did, with counts, and reads back what it writes."""
    study = plots()
    applied = step.apply(study)
    assert applied.full_sentence == sentence
    assert load(json.loads(json.dumps(dump(step)))) == step
    assert contents(study) == contents(plots()), "the state before stays as it was"


def test_every_kind_is_covered() -> None:
    """A new kind of step needs a sentence above and a kept sample of its format."""
    supplied = {kind for kind, step in STEPS.items() if step.needs_supplies}
    assert {step.do for step, _ in SENTENCES} | supplied == set(STEPS)
    assert {path.stem.replace("_", " ").rsplit(" ", 1)[0] for path in SAMPLES.glob("*.json")} == set(STEPS)


@pytest.mark.parametrize("path", sorted(SAMPLES.glob("*.json")), ids=lambda path: path.stem)
def test_kept_samples_are_understood(path: Path) -> None:
    """A step written by any earlier version is still read."""
    written = json.loads(path.read_text("utf-8"))
    assert load(written).do == written["do"]


@settings(deadline=None)
@given(st.data())
def test_any_step_keeps_the_laws(data: st.DataObject) -> None:
    """Sources stay, fills add up, the tag is a lens, a preview is the effect, a step reads back what it writes."""
    study = data.draw(generate.studies())
    for _ in range(data.draw(st.integers(1, 4))):
        step = data.draw(generate.steps(study))
        before = contents(study)
        assert load(json.loads(json.dumps(dump(step)))) == step
        try:
            applied = step.apply(study)
        except RowTagError as refused:
            assert str(refused) and contents(study) == before
            continue
        assert contents(step.apply(study).study) == contents(applied.study)
        assert contents(study) == before
        after = applied.study
        for id in after.order:
            fill = after.fill(id)
            assert fill.valid + fill.missing + fill.blank + fill.stray == after.records.count
            if id in study.variables and step.do not in (
                "set entries",
                "set block",
                "replace entries",
                "replace found",
                "copy records",
                "decide",
            ):
                assert after.column(id) is study.column(id), "only reshaping steps make new entries"
        study = after


def test_bring_in_needs_an_empty_study() -> None:
    """A file goes into an empty study only; the error says what to do."""
    source = Source(name="a.csv", size=4, sha256="0", kind="delimited", records=2)
    step = BringIn(source_id="s", source=source, variables=(Arrival(id="x", column=1, name="q1", tag=Tag(name="q1")),))
    applied = step.apply(Study(), {"x": column_of_texts(["1", "2"])})
    assert applied.full_sentence == "Brought in 2 records × 1 variable from a.csv."
    assert applied.study.variable("x").proposed
    with pytest.raises(BadInput, match="has data already"):
        step.apply(applied.study, {"x": column_of_texts([])})


def test_variables_name_only_what_is_there() -> None:
    """New variables come with the batteries and lists that they name, and under names that are free."""
    loose = AddVariables(variables=(NewVariable(id="new1", tag=Tag(name="shed", battery="gone")),))
    with pytest.raises(BadInput, match="shed names a battery that is not there"):
        loose.apply(plots())
    with pytest.raises(BadName):
        AddVariables(variables=(NewVariable(id="new1", tag=Tag(name="Tenure")),)).apply(plots())
    twice = AddVariables(variables=tuple(NewVariable(id="new1", tag=Tag(name=name)) for name in ("a", "b")))
    with pytest.raises(BadInput, match="cannot have the same id"):
        twice.apply(plots())
    with pytest.raises(BadInput, match="no variable to key entries into"):
        AddBlankRecords(count=1).apply(Study())


def test_a_code_stands_in_one_place() -> None:
    """A listed code set aside as missing leaves the list and keeps its label; listing it again brings it back."""
    study = MarkMissing(variables=("v1",), lines=(MissingLine(code="01", reason="other"),)).apply(plots()).study
    tag = study.tag("v1")
    assert [line.code for line in tag.codes] == ["2"]
    assert [(line.code, line.label) for line in tag.missing] == [("01", "Own")]
    back = ListCodes(variables=("v1",), lines=(CodeLine(code="1", label="Own"),)).apply(study).study.tag("v1")
    assert not back.missing and [line.code for line in back.codes] == ["2", "1"]


def test_parts_are_independent() -> None:
    """Changing level or type and back drops no label, code, limit or missing code."""
    first = plots()
    study = first
    for parts in ({"type": "date"}, {"level": "ratio"}, {"type": "text"}, {"level": "nominal"}, {"type": "integer"}):
        study = Define(variables=("v1",), parts=Parts.model_validate(parts)).apply(study).study
    assert study.tag("v1") == first.tag("v1")
    assert study.fill("v1") == first.fill("v1")


def test_renames_swap_and_refuse() -> None:
    """Two names can change places in one step; a taken or unfit name is refused with one that works."""
    swapped = Rename(names={"v1": "hours", "v2": "tenure"}).apply(plots()).study
    assert [swapped.tag(id).name for id in swapped.order[:3]] == ["hours", "tenure", "shade"]
    with pytest.raises(BadName) as refused:
        Rename(names={"v1": "hours"}).apply(plots())
    assert refused.value.suggestion == "hours_2"


def test_conflicts_name_what_changed() -> None:
    """A step conflicts only where what it expected was changed, not when anything was."""
    first = plots()
    labelled = Define(variables=("v1",), parts=Parts(label="New")).apply(first).study
    typed = SetEntries(variable="v2", entries={1: "5"}).apply(labelled).study
    assert conflicts(Define(variables=("v1",), parts=Parts(label="Other")), first, typed) == [TagPart("v1", "label")]
    assert conflicts(Define(variables=("v1",), parts=Parts(question="?")), first, typed) == []
    assert conflicts(SetEntries(variable="v2", entries={1: "6"}), first, typed) == [OneEntry("v2", 1)]
    assert conflicts(SetEntries(variable="v2", entries={2: "6"}), first, typed) == []
    assert conflicts(ReplaceEntries(variables=("v2",), entries=("4",), by="5"), first, typed) == [OneEntry("v2", 1)]


@pytest.mark.parametrize(
    ("written", "message"),
    [
        ({"do": "fly"}, "There is no step called “fly”."),
        ({"do": "rename", "format": 9, "names": {"v1": "a"}}, "has format 9, which this version"),
        ({"do": "rename"}, "names is wanted"),
        ({"do": "define", "variables": ["v1"], "parts": {"colour": "red"}}, "colour is not known here"),
        (
            {"do": "list codes", "variables": ["v1"], "lines": [{"code": "1", "low": "2"}]},
            "either one code, or a range",
        ),
    ],
)
def test_unknown_or_unfit_steps_say_so(written: dict[str, object], message: str) -> None:
    """Reading a step is strict."""
    with pytest.raises(BadInput) as refused:
        load(written)
    assert message in str(refused.value)


def test_older_formats_are_brought_up_to_date(monkeypatch: pytest.MonkeyPatch) -> None:
    """A registered upgrade turns an older format into the present one before the strict reading."""
    monkeypatch.setitem(base.UPGRADES, ("rename", 0), lambda old: {"do": "rename", "names": {old["of"]: old["to"]}})
    assert load({"do": "rename", "format": 0, "of": "v1", "to": "a"}) == Rename(names={"v1": "a"})
