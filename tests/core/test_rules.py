"""Rules, how checks are set, and what was accepted: quiet for as long as the evidence is what it was."""

from collections.abc import Callable
from typing import Any

import pytest

from rowtag.core.checks import CHECKS, Finding, findings_across, findings_on, records_of, run_checks
from rowtag.core.checks.base import open_entries
from rowtag.core.column import column_of_texts
from rowtag.core.errors import BadInput
from rowtag.core.formulas import BadFormula, Formula, taken_in
from rowtag.core.rules import CheckSetting, Rule
from rowtag.core.steps import Step, dump, load
from rowtag.core.steps.accept import Accept
from rowtag.core.steps.entries import SetEntries
from rowtag.core.steps.rules import KeepRule, RemoveRules, SetCheck
from rowtag.core.steps.tags import Define, Rename
from rowtag.core.steps.variables import RemoveVariables
from rowtag.core.study import Records, Study, Variable
from rowtag.core.tag import CodeLine, MissingLine, Parts, Tag
from tests.cost import grows_in_proportion

HELD = tuple(CodeLine(code=str(code), label=label) for code, label in enumerate(("Own", "Shared", "Waiting"), 1))
TAGS = (
    Tag(name="tenure", label="Held", type="integer", codes=HELD, complete=True),
    Tag(name="hours", label="Hours", type="integer", level="ratio", missing=(MissingLine(code="-9"),)),
    Tag(name="note", label="Note", type="text", use="open-ended"),
)


def plots(tenure: list[str], hours: list[str], note: list[str] | None = None) -> Study:
    columns = zip(TAGS, (tenure, hours, note or [""] * len(tenure)), strict=True)
    return Study(records=Records(len(tenure))).with_variables(
        [(f"id_{tag.name}", Variable(tag=tag), column_of_texts(entries)) for tag, entries in columns]
    )


def done(study: Study, *steps: Step) -> Study:
    for step in steps:
        study = step.apply(study).study
    return study


def ruled(study: Study, text: str, **more: Any) -> Study:
    rule = Rule(title=more.pop("title", "Waiting list"), holds=taken_in(text, study), **more)
    return done(study, KeepRule(rule="rule1", says=rule))


def told(study: Study, check: str) -> list[Finding]:
    return [each for each in run_checks(study, findings_across(study)) if each.check == check]


def test_records_that_break_a_rule() -> None:
    """Counted, shown by what stands side by side, led to; what cannot be told breaks nothing."""
    study = ruled(
        plots(["3", "3", "3", "1", "7", "3"], ["", "4", "-9", "", "8", "4"]), "if tenure = 3 then hours is blank"
    )
    (finding,) = told(study, "rule broken")
    assert finding.severity == "error" and finding.variables == ("id_tenure", "id_hours") and finding.which == "rule1"
    assert finding.message == "3 records break “Waiting list”: if tenure = 3 then hours is blank"
    assert [(each.entry, each.count) for each in finding.evidence] == [
        ("tenure 3, hours 4", 2),
        ("tenure 3, hours -9", 1),
    ]
    assert records_of(study, finding) == [2, 3, 6]
    mended = done(study, SetEntries(variable="id_hours", entries={2: "", 3: "", 6: ""}))
    assert not told(mended, "rule broken")


def test_a_rule_follows_its_variables() -> None:
    study = ruled(plots(["1", "2"], ["4", "99"]), "hours <= 80", severity="warning", title="A week")
    renamed = done(study, Rename(names={"id_hours": "hours_week"}))
    (finding,) = told(renamed, "rule broken")
    assert finding.severity == "warning" and finding.message.endswith("hours_week <= 80")
    as_text = done(study, Define(variables=("id_hours",), parts=Parts(type="text")))
    (finding,) = told(as_text, "rule cannot be held")
    assert finding.variable == "id_hours" and "Text cannot be compared with a number" in finding.message
    gone = done(study, RemoveVariables(variables=("id_hours",)))
    (finding,) = told(gone, "rule cannot be held")
    assert finding.variable == "id_tenure" and "There is no variable “hours”" in finding.message
    assert not told(done(gone, RemoveRules(rules=("rule1",))), "rule cannot be held")


def test_what_is_no_rule() -> None:
    study = plots(["1"], ["4"])
    for text, said in (
        ("hours + 1", "This is no condition"),
        ("hours <", "cannot stand here"),
        ("ours > 1", "no variable"),
    ):
        with pytest.raises(BadFormula, match=said):
            KeepRule(rule="rule1", says=Rule(title="x", holds=Formula(text=text, names={"hours": "id_hours"}))).apply(
                study
            )
    kept = ruled(study, "hours > 1")
    with pytest.raises(BadInput, match="There is a rule “Waiting list” already"):
        KeepRule(rule="rule2", says=Rule(title=" Waiting  list", holds=taken_in("hours > 2", study))).apply(kept)


def test_an_edit_elsewhere_holds_no_rule_again(monkeypatch: pytest.MonkeyPatch) -> None:
    """A rule is held again only where a variable of it changed."""
    study = ruled(plots(["3", "1"], ["4", ""]), "if tenure = 3 then hours is blank")
    told(study, "rule broken")
    from rowtag.core.checks import rules

    monkeypatch.setattr(rules, "Held", None)
    assert told(done(study, SetEntries(variable="id_note", entries={1: "wet"})), "rule broken")
    with pytest.raises(TypeError):
        told(done(study, SetEntries(variable="id_hours", entries={1: "5"})), "rule broken")


# How checks are set ------------------------------------------------------------------------------


def test_a_check_is_turned_off_and_on() -> None:
    study = plots(["1", "9", "9"], ["4", "5", "6"])
    assert told(study, "unlisted codes")
    off = done(study, SetCheck(says=CheckSetting(check="unlisted codes", off=True)))
    assert not told(off, "unlisted codes") and not findings_on(off, "id_tenure")
    assert told(done(off, SetCheck(says=CheckSetting(check="unlisted codes"))), "unlisted codes")
    assert not done(off, SetCheck(says=CheckSetting(check="unlisted codes"))).shelves["check"]


def test_a_threshold_is_set() -> None:
    study = plots(["1"] * 40, ["4"] * 10 + [""] * 30)
    assert not told(study, "nearly empty")
    strict = done(study, SetCheck(says=CheckSetting(check="nearly empty", thresholds={"share": 0.7})))
    assert [each.variable for each in told(strict, "nearly empty")] == ["id_hours"]
    for setting, said in (
        ({"check": "nearly empty", "thresholds": {"share": 3.0}}, "lies between 0.1 and 1; its default is 0.95"),
        ({"check": "nearly empty", "thresholds": {"width": 3.0}}, "It has: share"),
        ({"check": "nowhere"}, "no check called"),
        ({"check": "nearly empty"}, "has its defaults already"),
    ):
        with pytest.raises(BadInput, match=said):
            SetCheck(says=CheckSetting(**setting)).apply(study)


@pytest.mark.parametrize("name", [check.name for check in CHECKS.values() if check.thresholds])
def test_thresholds_are_what_they_say(name: str) -> None:
    for threshold in CHECKS[name].thresholds.values():
        assert threshold.said and threshold.least <= threshold.usual <= threshold.most


# What was accepted -------------------------------------------------------------------------------


def test_an_entry_is_quiet_as_often_as_it_was() -> None:
    study = plots(["1", "9", "9", "8"], ["4"] * 4)
    quiet = done(study, Accept(check="unlisted codes", variable="id_tenure", entries=("9",), reason="as on paper"))
    (finding,) = told(quiet, "unlisted codes")
    assert [each.entry for each in finding.evidence] == ["8"] and not finding.before
    fewer = done(quiet, SetEntries(variable="id_tenure", entries={2: "1", 4: "1"}))
    assert not told(fewer, "unlisted codes")
    more = done(quiet, SetEntries(variable="id_tenure", entries={1: "9", 4: "1"}))
    (finding,) = told(more, "unlisted codes")
    assert finding.count == 3 and records_of(more, finding) == [1, 2, 3]
    assert finding.before == "“9” was accepted in 2 records (as on paper), and there are more now"
    again = done(more, Accept(check="unlisted codes", variable="id_tenure", reason="as on paper"))
    assert not told(again, "unlisted codes")


def test_a_finding_comes_back_when_it_changes() -> None:
    study = ruled(plots(["3", "3", "1"], ["4", "", ""]), "if tenure = 3 then hours is blank")
    step = Accept(check="rule broken", variable="id_tenure", which="rule1", reason="asked by phone")
    assert load(dump(step)) == step
    quiet = done(study, step)
    assert not told(quiet, "rule broken")
    assert not told(done(quiet, SetEntries(variable="id_note", entries={1: "x"})), "rule broken")
    (finding,) = told(done(quiet, SetEntries(variable="id_hours", entries={2: "9"})), "rule broken")
    assert finding.before.startswith("Accepted (asked by phone) when it was: 1 record breaks “Waiting list”")
    assert not done(quiet, RemoveRules(rules=("rule1",))).shelves["accepted"]


def test_what_was_accepted_before_it_was_counted_stays_quiet() -> None:
    """Acceptances of earlier versions say nothing of how it was then."""
    study = plots(["1", "9", "9"], ["4"] * 3)
    from rowtag.core.study import Accepted, accepted_id

    old = Accepted(check="unlisted codes", variable="id_tenure", entry="9", reason="old")
    assert not told(study.put("accepted", {accepted_id(old.check, old.variable, old.entry): old}), "unlisted codes")


def test_every_finding_is_told_apart() -> None:
    """Accepting one finding of a check does not quiet another of its kind on the same variable."""
    study = plots(["3", "1"], ["4", "99"])
    rules = {
        f"rule{number}": Rule(title=f"Rule {number}", holds=taken_in(text, study))
        for number, text in enumerate(("hours < 90", "hours > 4"))
    }
    study = done(study, *(KeepRule(rule=id, says=rule) for id, rule in rules.items()))
    assert len(told(study, "rule broken")) == 2
    quiet = done(study, Accept(check="rule broken", variable="id_hours", which="rule1", reason="so it is"))
    assert [each.which for each in told(quiet, "rule broken")] == ["rule0"]


def test_thousands_of_accepted_entries_cost_in_proportion() -> None:
    """Twice as many strays that were all accepted take about twice as long to leave out, not four times."""

    def leaving_out(size: int) -> Callable[[], object]:
        study = plots(["1"] * size, [f"about {number}" for number in range(size)])
        quiet = done(study, Accept(check="unreadable entries", variable="id_hours", reason="as told"))
        check = CHECKS["unreadable entries"]
        assert not open_entries(quiet, "id_hours", check)[0]
        return lambda: open_entries(quiet, "id_hours", check)

    assert grows_in_proportion(leaving_out, (4_000, 16_000), most=12)
