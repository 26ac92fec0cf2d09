"""Spans of neighbours: what they mean when they are written is what they go on to mean."""

from collections.abc import Iterable
from typing import Any

import pytest

from rowtag.core.checks import findings_across, findings_on
from rowtag.core.column import column_of_texts
from rowtag.core.derive import derive, derived_from, held, sources_of
from rowtag.core.errors import BadInput
from rowtag.core.formulas import Formula, meant
from rowtag.core.formulas import named as formula_of
from rowtag.core.remedies import remedies
from rowtag.core.rules import Rule
from rowtag.core.steps import dump, load
from rowtag.core.steps.derive import Derive, Into, LetFollow, WorkOutAgain
from rowtag.core.steps.entries import SetEntries
from rowtag.core.steps.rules import KeepRule
from rowtag.core.steps.tags import Rename
from rowtag.core.steps.variables import Arrange, RemoveVariables
from rowtag.core.study import Records, Study, Variable
from rowtag.core.tag import Tag
from rowtag.service.derive import looked
from tests import generate

WHOLE = Tag(name="x", type="integer")


def rows(**columns: list[str]) -> Study:
    """A study of whole numbers; a variable's id is its name behind id_."""
    size = max(map(len, columns.values()))
    return Study(records=Records(size)).with_variables(
        (f"id_{name}", Variable(tag=WHOLE.with_parts(name=name)), column_of_texts(entries))
        for name, entries in columns.items()
    )


def with_derived(study: Study, **sentences: str) -> Study:
    """The study with what sentences make, one after the other."""
    for name, text in sentences.items():
        step = Derive(variables=(Into(how=held(text, study), into={f"id_{name}": name}),))
        study = load(dump(step)).apply(study).study
    return study


def names(study: Study, ids: Iterable[str]) -> list[str]:
    return [study.tag(id).name for id in ids]


def entries_of(study: Study, name: str) -> list[str]:
    column = study.column(f"id_{name}")
    return column.texts_at(column.indexes(0, study.records.arrived))


def told(study: Study, name: str, check: str) -> list[Any]:
    return [each for each in findings_on(study, f"id_{name}") if each.check == check]


ABC = rows(a=["1", "4"], b=["2", "5"], c=["3", "6"], d=["9", "9"])


def test_a_span_never_takes_in_what_was_made_of_it() -> None:
    """Neither its own mean, nor an item turned round, nor what was made of these."""
    study = with_derived(
        ABC, m="mean(a..c)", n="count(a..c)", b_r="reverse b from 1 to 5", b_s="b_r * 2", s="sum(a..c)", o="a + d"
    )
    assert names(study, study.order) == ["a", "b", "b_r", "b_s", "c", "m", "n", "s", "d", "o"]
    assert entries_of(study, "n") == ["3", "3"] and entries_of(study, "s") == ["6", "15"]
    assert names(study, sources_of(study, "id_s")) == ["a", "c", "b"]
    assert names(study, derived_from(study, ["id_b_r"])) == ["b_s"]
    with_d = with_derived(study, all="count(a..d)", means="count(m..s)", wide="count(b..b_s)")
    assert entries_of(with_d, "all") == ["4", "4"]
    assert entries_of(with_d, "means") == ["3", "3"], "what stands between derived ones is not made of them"
    assert entries_of(with_d, "wide") == ["3", "3"], "an end that is made of another is meant"
    assert derive(held("count(b..b_s)", study), study).outcomes[0].notes == (
        "b..b_s takes in b_r, b_s, made of others in it",
    )
    assert not any(told(with_d, name, "span means others") for name in names(with_d, with_d.order))


def test_working_out_again_changes_nothing() -> None:
    """Whatever came to stand between its ends, a span means what it meant; a finding says what it would mean now, and
    the remedy is to derive it from that."""
    study = with_derived(ABC, m="mean(a..c)", n="count(a..c, d)")
    study = Arrange(variables=("id_d",), before="id_b").apply(study).study
    with pytest.raises(BadInput, match="all entries are what comes out"):
        WorkOutAgain(variables=("id_m", "id_n")).apply(study)
    assert not told(study, "m", "not what comes out")
    (found,) = told(study, "m", "span means others")
    assert found.message == "a..c keeps what it meant; written now it would mean with d"
    (remedy,) = remedies(study, found)
    anew = remedy.step.apply(study).study
    assert entries_of(anew, "m") == ["3.75", "6"] and not told(anew, "m", "span means others")
    away = Arrange(variables=("id_c",), before="id_a").apply(study).study
    (found,) = told(away, "m", "span means others")
    assert found.message.endswith("written now it would mean nothing") and not remedies(away, found)
    edited = SetEntries(variable="id_c", entries={1: "6"}).apply(LetFollow(on=True).apply(away).study)
    assert "m followed in 1 entry" in edited.full_sentence
    assert entries_of(edited.study, "m") == ["3", "5"]


def test_a_source_that_is_gone_is_told() -> None:
    """What is made of a span that lost a variable cannot be recalculated, and windows hear of it."""
    study = with_derived(ABC, m="mean(a..c)")
    applied = RemoveVariables(variables=("id_b",)).apply(study)
    assert "id_m" in applied.touched.variables
    (found,) = told(applied.study, "m", "not what comes out")
    assert "A variable that stood between a and c is gone" in found.message
    assert entries_of(applied.study, "m") == entries_of(study, "m")


def test_a_sentence_of_older_files_means_what_stands_there() -> None:
    """Without a kept meaning a span is read from the order, and still never takes in what was made of it."""
    study = with_derived(ABC, m="mean(a..c)")
    how = Formula(text="mean(a..c)", names={"a": "id_a", "c": "id_c"})
    origin = study.variable("id_m").origin.model_copy(update={"how": how})
    older = study.put("variable", {"id_m": study.variable("id_m").model_copy(update={"origin": origin})})
    older = Arrange(variables=("id_m",), before="id_b").apply(older).study
    assert names(older, sources_of(older, "id_m")) == ["a", "c", "b"]
    with pytest.raises(BadInput, match="all entries are what comes out"):
        WorkOutAgain(variables=("id_m",)).apply(older)
    assert entries_of(with_derived(older, n="count(a..c)"), "n") == ["3", "3"]


def test_a_rule_keeps_to_its_variables() -> None:
    """A rule about a span goes on to be about the same variables."""
    says = Rule(title="All asked", holds=formula_of("count(a..c) = 3", ABC))
    kept = KeepRule(rule="rule1", says=says).apply(ABC).study
    moved = Arrange(variables=("id_d",), before="id_b").apply(kept).study
    assert meant(moved.shelves["rule"]["rule1"].holds, moved).variables == ("id_a", "id_b", "id_c")
    assert not [each for each in findings_across(moved) if each.check == "rule broken"]
    (found,) = [each for each in findings_across(moved) if each.check == "a rule's span means others"]
    assert found.message == "in the rule “All asked”, a..c keeps what it meant; written now it would mean with d"
    (remedy,) = remedies(moved, found)
    anew = remedy.step.apply(moved)
    assert meant(anew.study.shelves["rule"]["rule1"].holds, anew.study).variables == ("id_a", "id_d", "id_b", "id_c")
    assert {each.check for each in findings_across(anew.study)} == {"rule broken"}
    away = Arrange(variables=("id_c",), before="id_a").apply(kept).study
    (found,) = findings_across(away)
    assert found.message.endswith("written now it would mean nothing") and not remedies(away, found)


def test_what_is_derived_of_several_stands_behind_the_last() -> None:
    """Not behind the first, nor behind what only parts the records or bounds them; what came before stays in front."""
    study = with_derived(ABC, x="b - a", y="mean(a) over c", z="a * 2 only where d = 9", w="max(d, a)")
    assert names(study, study.order) == ["a", "y", "z", "b", "x", "c", "d", "w"]


def test_states_keep_what_spans_mean() -> None:
    """The kept sentence holds it; the step is what was asked, and reads back."""
    study = with_derived(ABC, m="mean(a..c)")
    how = study.variable("id_m").origin.how
    assert how is not None and how.spans == {"a..c": ("id_a", "id_b", "id_c")}
    step = Derive(variables=(Into(how=held("mean(a..c)", ABC), into={"id_m": "m"}),))
    assert "spans" not in str(dump(step)) and load(dump(step)) == step
    assert generate.contents(step.apply(ABC).study) == generate.contents(study)


def test_a_sentence_that_is_changed_keeps_what_its_spans_mean() -> None:
    """Whoever opens a derived variable and changes its sentence works with what it is made of; renamed, too."""
    study = with_derived(ABC, m="mean(a..c)")
    study = Arrange(variables=("id_d",), before="id_b").apply(study).study
    study = Rename(names={"id_a": "first"}).apply(study).study
    look = looked(study, "m", "mean(first..c, needs 2) + count(b..c)", into="id_m")
    (into,) = look.step.variables
    assert into.how.spans == {"first..c": ("id_a", "id_b", "id_c")}
    assert entries_of(look.applied.study, "m") == ["4", "7"]
    anew = looked(study, "n", "count(first..c)").step.variables[0].how
    assert not anew.spans, "what is new means what stands there now"
