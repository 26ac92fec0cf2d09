"""Steps done again on states that they were not made for: nothing stops, and what is left out is told."""

from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st

from rowtag.core.errors import RowTagError
from rowtag.core.replaying import Replay
from rowtag.core.rules import Formula
from rowtag.core.steps import Step
from rowtag.core.steps.derive import Derive, Into
from rowtag.core.steps.entries import AddBlankRecords, SetBlock, SetEntries
from rowtag.core.steps.records import RemoveRecords
from rowtag.core.steps.tags import Define, Rename
from rowtag.core.steps.variables import RemoveVariables
from rowtag.core.study import Study
from rowtag.core.tag import Parts
from tests import generate
from tests.core.test_steps import plots
from tests.generate import contents


def again(step: Step, study: Study) -> Any:
    return Replay(study).do(step, made_for=plots)


def without(*ids: str) -> Study:
    return RemoveVariables(variables=ids).apply(plots()).study


@settings(deadline=None, max_examples=60)
@given(st.data())
def test_what_is_done_again_where_it_was_done_is_the_same(data: st.DataObject) -> None:
    """Steps that could be done are done whole and lead to the same states; those that could not are told."""
    first = data.draw(generate.studies())
    replay, study = Replay(first), first
    for _ in range(data.draw(st.integers(1, 6))):
        step = data.draw(generate.steps(study))
        came = replay.do(step)
        try:
            study = step.apply(study).study
        except RowTagError as error:
            if came.applied is None:
                assert came.came in ("nothing to do", "not possible") and came.why and error.what
                continue
            assert came.came == "in part" and came.why and came.step != step
            study = came.applied.study
        else:
            assert (came.came, came.step, came.why) == ("done", step, ())
        assert contents(replay.study) == contents(study)


@settings(deadline=None, max_examples=60)
@given(st.data())
def test_what_lost_variables_never_breaks(data: st.DataObject) -> None:
    """On a study that lacks variables each step is done, in part or not at all; what was done accounts for itself."""
    first = data.draw(generate.studies())
    gone = data.draw(st.lists(st.sampled_from(first.order), unique=True, max_size=2)) if first.order else []
    step = data.draw(generate.steps(first))
    lacking = first.without_variables(gone)
    came = again(step, lacking)
    if came.came == "done":
        assert contents(step.apply(lacking).study) == contents(came.applied.study)
    if came.came == "in part":
        assert came.why and (came.step is None) == (came.applied is None)
        if came.step is not None:  # else what is left of it has nothing to do
            assert contents(came.step.apply(lacking).study) == contents(came.applied.study)
    if came.came == "not possible":
        assert came.why and came.applied is None


def test_what_is_not_there_is_left_out() -> None:
    """Of several variables those that are there are defined; one alone that is gone makes a step impossible."""
    came = again(Define(variables=("v1", "v2"), parts=Parts(note="x")), without("v2"))
    assert (came.came, came.step) == ("in part", Define(variables=("v1",), parts=Parts(note="x")))
    assert came.why == ("the variable “hours” is not there any more",)
    came = again(Rename(names={"v1": "held", "v2": "time"}), without("v2"))
    assert came.step == Rename(names={"v1": "held"})
    came = again(SetEntries(variable="v2", entries={1: "5"}), without("v2"))
    assert (came.came, came.step, came.applied) == ("not possible", None, None)


def test_records_that_are_not_there_take_their_entries_along() -> None:
    """A block keeps the entries of each record that stays, in its place."""
    block = SetBlock(records=(2, 900, 1), more=1, entries={"v1": ("1", "2", "3", "1")})
    came = again(block, plots())
    assert came.step == SetBlock(records=(2, 1), more=1, entries={"v1": ("1", "3", "1")})
    assert came.why == ("there is no record 900",)


def test_what_is_refused_in_part_is_done_in_part() -> None:
    """Elements that are refused alone are left out, with the reason; the others are done."""
    came = again(Rename(names={"v1": "held", "v2": "1 hour"}), plots())
    assert came.came == "in part" and came.why[0] == "1 of 2 names" and "1 hour" in came.why[1]
    assert [came.applied.study.tag(id).name for id in ("v1", "v2")] == ["held", "hours"]
    holds = Into(how=Formula(text="recode tenure: 1 -> 2", names={"tenure": "v1"}), into={"new1": "holds"})
    later = Into(how=Formula(text="holds * 2", names={"holds": "gone1"}), into={"new2": "double"})
    came = again(Derive(variables=(holds, later)), plots())
    assert came.came == "in part" and "new1" in came.applied.study.variables
    assert came.why == ("the variable is not there any more",)
    both = Derive(
        variables=(holds, later.model_copy(update={"how": Formula(text="holds * 2", names={"holds": "new1"})}))
    )
    assert again(both, plots()).came == "done", "what the step itself makes is there"
    came = again(Rename(names={"v1": "1 hour"}), plots())
    assert came.came == "not possible" and came.why


def test_few_wrong_ones_among_many_cost_little() -> None:
    """Of thousands of entries those for records that are gone are found by halves, not one by one."""
    study = AddBlankRecords(count=4_000).apply(plots()).study
    study = RemoveRecords(records=(2_000, 3_000)).apply(study).study
    tried = []

    class Counted(SetEntries):
        def change(self, study: Study, supplies: Any) -> Any:
            tried.append(len(self.entries))
            return super().change(study, supplies)

    came = again(Counted(variable="v1", entries=dict.fromkeys(range(1, 4001), "1")), study)
    assert came.came == "in part" and came.why[0] == "3,997 of 4,000 entries", "one of the plots is gone already"
    assert len(tried) < 100
