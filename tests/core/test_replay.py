"""Steps again: written and read they do the same, replayed they give the same state, elsewhere they mean the same."""

import json
from collections.abc import Mapping
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rowtag.core.derive import shown
from rowtag.core.errors import BadInput, RowTagError
from rowtag.core.refs import Ref, mapped, references
from rowtag.core.replaying import Again, Replay
from rowtag.core.rules import Formula
from rowtag.core.steps import STEPS, Step, Supplies, dump, load
from rowtag.core.steps.beside import PutBeside
from rowtag.core.steps.bring_in import AddRecords, Arrival, BringIn
from rowtag.core.steps.decide import decision_id
from rowtag.core.steps.derive import Derive, Into
from rowtag.core.steps.entries import AddBlankRecords, ReplaceEntries, SetEntries
from rowtag.core.steps.records import Remark, RemoveRecords, RestoreRecords
from rowtag.core.steps.start import AddVariables
from rowtag.core.steps.tags import Define, Rename
from rowtag.core.study import Comment, Source, Study, Titled
from rowtag.core.tag import Parts, Tag
from rowtag.core.touched import Became, touched
from rowtag.core.translation import ByNames, Known, spelled, understood
from tests import generate
from tests.core.test_steps import SENTENCES, plots
from tests.generate import column_of_texts, contents

SOURCE = Source(name="plots.csv", size=9, sha256="0", kind="delimited", records=3)
COLUMNS: Supplies = {"v0": column_of_texts(["0007", "0014", "0021"]), "v1": column_of_texts(["1", " 2", "n/a"])}
IDENTIFIED = Tag(name="plot", use="identifier")
BRING = BringIn(
    source_id="src1",
    source=SOURCE,
    variables=(
        Arrival(id="v0", column=1, name="plot", tag=IDENTIFIED),
        Arrival(id="v1", column=2, name="tenure", tag=Tag(name="tenure", type="integer")),
    ),
)
MORE = AddRecords(source_id="src2", source=SOURCE, matched={"v0": 1, "v1": 2}, identifier="v0", known="replace")

BESIDE = PutBeside(
    source_id="src3",
    source=SOURCE,
    variables=(Arrival(id="v9", column=2, name="visits", tag=Tag(name="visits", type="integer")),),
    identifier="v0",
    column=1,
    head="plot",
)


def read_back(step: Step) -> Step:
    """A step as it comes out of a file or a request."""
    return load(json.loads(json.dumps(dump(step))))


def effect(step: Step, study: Study, supplies: Supplies | None = None) -> Any:
    """What a step makes of a study, or why it does not."""
    try:
        made = step.apply(study, supplies)
    except RowTagError as refused:
        return str(refused)
    return contents(made.study), made.full_sentence


@pytest.mark.parametrize("step", [step for step, _ in SENTENCES], ids=[step.do for step, _ in SENTENCES])
def test_a_step_read_back_does_the_same(step: Step) -> None:
    """For every kind: what is written and read has the very effect of what was asked, and names the same things."""
    assert effect(read_back(step), plots()) == effect(step, plots())
    assert references(read_back(step)) == references(step)
    assert read_back(step).model_fields_set == step.model_fields_set | {"do", "format"}


def test_what_was_not_given_is_not_written() -> None:
    """Setting a label says nothing of question, type or codes, however often it is written and read."""
    step = Define(variables=("v1",), parts=Parts(label="How held"))
    assert dump(step) == {"do": "define", "format": 1, "variables": ["v1"], "parts": {"label": "How held"}}
    tag = read_back(read_back(step)).apply(plots()).study.tag("v1")
    assert tag == plots().tag("v1").with_parts(label="How held")


@settings(deadline=None)
@given(st.data())
def test_any_diary_replays(data: st.DataObject) -> None:
    """Whatever was done, done again from what was written gives the same states to the letter, bringing in too."""
    study: Study = Study()
    asked: list[tuple[Step, Supplies]] = [(BRING, COLUMNS)]
    if data.draw(st.booleans()):
        asked.append((MORE, {"v0": column_of_texts(["0014", "0099"]), "v1": column_of_texts(["7", "8"])}))
    if data.draw(st.booleans()):
        asked.append((BESIDE, {"v0": column_of_texts(["0021", "0007", "0099"]), "v9": column_of_texts(["4", "", "5"])}))
    for step, supplies in asked:
        study = step.apply(study, supplies).study
    for _ in range(data.draw(st.integers(0, 6))):
        step = data.draw(generate.steps(study))
        try:
            study = step.apply(study).study
        except RowTagError:
            continue
        asked.append((step, {}))
    again: Study = Study()
    for step, supplies in asked:
        again = read_back(step).apply(again, supplies).study
    assert contents(again) == contents(study)


@settings(deadline=None)
@given(st.data())
def test_any_diary_means_the_same_under_other_ids(data: st.DataObject) -> None:
    """Written with names, as text would have it, and done on the same study under other ids, each step does there what
    it did here."""
    first = data.draw(generate.studies())
    ids: Known = {("variable", id): f"other_{id}" for id in first.order}
    here, there = first, under_other_ids(first, ids)
    numbers = iter(range(1_000))
    names = ByNames(lambda: f"fresh_{next(numbers)}")
    for _ in range(data.draw(st.integers(1, 6))):
        step = data.draw(generate.steps(here))
        try:
            after = step.apply(here).study
        except RowTagError:
            continue
        met = understood(json.loads(json.dumps(spelled(step, here, after))))
        replay = Replay(there)
        again = replay.do(met.step, meet=names.of(met, there))
        assert again.came == "done", (again.came, again.why, spelled(step, here, after))
        for kind in after.shelves:
            fresh = [id for id in after.shelves[kind] if id not in here.shelves[kind]]
            theirs = [id for id in replay.study.shelves[kind] if id not in there.shelves[kind]]
            ids |= {(kind, id): other for id, other in zip(fresh, theirs, strict=True)}
        here, there = after, replay.study
        assert contents(as_said(under_other_ids(here, ids))) == contents(as_said(there))


def as_said(study: Study) -> Study:
    """The same study with the names that formulas have now, however they were written; those that name something that
    is gone read as they were written, which may be by an earlier name."""

    def said(how: Formula) -> Formula:
        gone = not how.names.keys() or not set(how.names.values()) <= study.variables.keys()
        return Formula(text="of what is gone" if gone else shown(how, study))

    rules = {id: each.model_copy(update={"holds": said(each.holds)}) for id, each in study.shelves["rule"].items()}
    variables = {
        id: each.model_copy(update={"origin": each.origin.model_copy(update={"how": said(each.origin.how)})})
        for id, each in study.variables.items()
        if each.origin.how is not None
    }
    return study.put("rule", rules).put("variable", variables)


def under_other_ids(study: Study, ids: Known) -> Study:
    """The same study with other ids for whatever is known under others."""

    def other(kind: str, id: str) -> str:
        return ids.get((kind, id), id)

    def change(ref: Ref, id: Any) -> Any:
        return other(ref.kind, id)

    variables = {
        other("variable", id): each.model_copy(
            update={"tag": mapped(each.tag, change), "origin": mapped(each.origin, change)}
        )
        for id, each in study.variables.items()
    }
    shelves: dict[str, Mapping[str, Any]] = {
        name: {other(name, id): value for id, value in shelf.items()} for name, shelf in study.shelves.items()
    }
    accepted = {
        f"{each.check}/{other('variable', each.variable)}/{each.entry}": each.model_copy(
            update={"variable": other("variable", each.variable)}
        )
        for each in study.shelves["accepted"].values()
    }
    decisions = [
        each.model_copy(update={"variable": other("variable", each.variable)})
        for each in study.shelves["decision"].values()
    ]
    shelves["decision"] = {decision_id(each.record, each.variable): each for each in decisions}
    for shelf in ("view", "comment", "rule"):
        shelves[shelf] = {id: mapped(each, change) for id, each in shelves[shelf].items()}
    return Study(
        {**shelves, "variable": variables, "accepted": accepted},
        tuple(other("variable", id) for id in study.order),
        {other("variable", id): column for id, column in study.columns.items()},
        study.records,
        study.naming,
    )


def meant(step: Step, here: Study, there: Study) -> Again:
    """A step of one study, written with names and done on another."""
    met = understood(spelled(step, here, here))
    return Replay(there).do(met.step, meet=ByNames(lambda: "fresh").of(met, there))


def test_what_cannot_be_met_is_said() -> None:
    """A step that names what another study does not have cannot be done, and each such thing is said once."""
    again = meant(Define(variables=("v1", "v2"), parts=Parts(label="x")), plots(), Study())
    assert (again.came, again.step) == ("not possible", None)
    assert again.why == ("no variable is called “tenure”", "no variable is called “hours”")
    twice = Study().put("battery", {"a111": Titled(title="The site"), "b222": Titled(title="The site")})
    added = AddVariables.model_validate({"variables": [{"id": "new1", "tag": {"name": "shed", "battery": "bat0"}}]})
    assert meant(added, plots(), twice).why == ("more than one battery is called “The site”",)


@given(
    st.lists(
        st.tuples(st.sampled_from(["note1", "note2", "note3"]), st.sampled_from(["wet", "dry", "torn"])), max_size=12
    )
)
def test_a_title_stands_for_what_alone_bears_it(remarks: list[tuple[str, str]]) -> None:
    """Remarks that come, change and are called alike: a step names its remark by its text where no other has that."""
    study = plots()
    for id, text in remarks:
        step = Remark(comment=id, on=Comment(record=1, text=text))
        before = study
        study = step.change(before, {}).study

        def alone(id: str, there: Study) -> str | None:
            texts = {each: comment.text for each, comment in there.shelves["comment"].items()}
            return texts[id] if id in texts and list(texts.values()).count(texts[id]) == 1 else None

        assert spelled(step, before, study)["comment"] == (alone(id, before) or alone(id, study) or id)


def test_records_are_met_by_identifier() -> None:
    """Where a variable identifies the records, a typed entry finds its record wherever it stands."""
    here = BRING.apply(Study(), COLUMNS).study
    turned = {"v0": column_of_texts(["0099", "0021", "0007", "0014"]), "v1": column_of_texts(["1"] * 4)}
    there = BRING.model_copy(update={"source": SOURCE.model_copy(update={"records": 4})}).apply(Study(), turned).study
    typed = SetEntries(variable="v1", entries={1: "5", 3: "6"})
    assert spelled(typed, here, here) == {
        "do": "set entries", "records by": "plot", "variable": "tenure", "entries": {"0007": "5", "0021": "6"}
    }  # fmt: skip
    assert meant(typed, here, there).step == SetEntries(variable="v1", entries={3: "5", 2: "6"})
    back = RestoreRecords(records=(3,))
    assert meant(back, without_records(here, 3), without_records(there, 2)).step == RestoreRecords(records=(2,))
    again = meant(typed, here, without_records(there, 3))
    assert again.came == "in part" and again.why == ("no record has the plot “0007”",)


def without_records(study: Study, *numbers: int) -> Study:
    return RemoveRecords(records=numbers).apply(study).study


def test_a_written_step_reads_aloud() -> None:
    """Formulas are their text with the names of now; earlier names are met where nothing else bears them."""
    how = Formula(text="recode tenure: 1 -> 0", names={"tenure": "v1"})
    step = Derive(variables=(Into(how=how, into={"new1": "holds"}),))
    here = Rename(names={"v1": "held_as"}).apply(plots()).study
    written = spelled(step, here, step.apply(here).study)
    assert written == {"do": "derive", "variables": [{"how": "recode held_as: 1 -> 0", "into": {"holds": "holds"}}]}
    met = understood({"do": "derive", "variables": [{"how": "recode tenure: 1 -> 0", "into": {"x": "x"}}]})
    again = Replay(here).do(met.step, meet=ByNames(lambda: "fresh").of(met, here))
    assert again.came == "done" and again.applied is not None
    with pytest.raises(BadInput, match="There is no step called"):
        understood({"do": "dance"})
    with pytest.raises(BadInput):
        understood({"do": "derive", "variables": [{"how": "recode tenure 1", "into": {"x": "x"}}]})


def test_every_kind_names_what_its_types_say() -> None:
    """References come from the types alone; by name they are what a person calls them."""
    named = {step.do: {(each.ref.kind, each.id) for each in references(step)} for step, _ in SENTENCES}
    assert named["stamp"] == {("variable", "v1"), ("variable", "v2")}
    assert named["set entries"] == {("variable", "v2"), ("record", 2)}
    assert named["group"] == {("battery", "bat1"), ("variable", "v1"), ("variable", "v2")}
    assert named["use list"] == {("list", "list1"), ("variable", "v2")}
    assert ("battery", "bat2") in named["add variables"] and ("variable", "new1") in named["add variables"]
    names_nothing = {"add blank records", "let follow", "relabel", "set check"}
    assert {do for do, names in named.items() if not names} == names_nothing
    assert spelled(SENTENCES[0][0], plots(), plots())["variables"] == ["tenure"]
    assert spelled(BRING, Study(), Study())["do"] == "bring in" and set(STEPS) >= set(named)


@settings(max_examples=80)
@given(st.data())
def test_a_step_tells_what_it_touched(data: st.DataObject) -> None:
    """What is not said to be touched is the same to the letter before and after."""
    study = data.draw(generate.studies())
    step = data.draw(generate.steps(study))
    try:
        applied = step.apply(study)
    except RowTagError:
        return
    told, after = applied.touched, applied.study
    assert told == touched(study, after)
    before_contents, after_contents = contents(study), contents(after)
    for id in set(study.order) & set(after.order):
        if id not in told.tags:
            assert study.variable(id) == after.variable(id)
        else:
            parts = {name for name in Tag.model_fields if getattr(study.tag(id), name) != getattr(after.tag(id), name)}
            assert told.tags[id] == parts
        if id not in told.entries and not told.records:
            assert before_contents["entries"][id] == after_contents["entries"][id]  # type: ignore[index]
        if id not in told.variables and not told.records:
            assert study.fill(id) == after.fill(id)
    there = [(state.records.arrived, state.records.removed) for state in (study, after)]
    assert told.records == (there[0] != there[1])
    assert set(study.order) - set(after.order) == told.gone and set(after.order) - set(study.order) == told.came


def test_reshaping_carries_its_evidence() -> None:
    """A step that makes new entries says what became of the old ones, each pair counted."""
    (evidence,) = ReplaceEntries(variables=("v1",), entries=("8", "2"), by="1").apply(plots()).made.evidence
    assert (evidence.variable, evidence.different) == ("v1", 2)
    assert set(evidence.pairs) == {Became("08", "1", 1), Became("2", "1", 1)}


def test_runs_of_keying_are_told_together() -> None:
    """Entries typed one after the other are one run; anything else begins another."""
    steps = [
        SetEntries(variable="v1", entries={1: "5"}),
        AddBlankRecords(count=1),
        SetEntries(variable="v2", entries={7: "2"}),
    ]
    assert steps[1].continues(steps[0]) and steps[2].continues(steps[1])
    assert not steps[0].continues(Define(variables=("v1",), parts=Parts(label="x")))
    said = SetEntries.told_together(steps, plots())
    assert said == "Typed 2 entries into tenure and hours, records 1 to 7 and added 1 blank record."
