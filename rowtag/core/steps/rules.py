"""Steps on how a study is checked: rules that are written for it, and how its checks are set."""

from typing import Annotated, Literal

from pydantic import Field

from rowtag.core.checks import CHECKS
from rowtag.core.checks.rules import held
from rowtag.core.errors import BadInput, NothingToDo
from rowtag.core.formulas import meant, written
from rowtag.core.refs import NewRuleId, RuleId
from rowtag.core.rules import MOST_RULES, CheckSetting, Rule
from rowtag.core.steps.base import Made, Step, Supplies, register
from rowtag.core.study import Study
from rowtag.core.words import counted


@register
class KeepRule(Step):
    """Keeps a rule that every record is held to, new or in place of what it was."""

    do: Literal["keep rule"] = "keep rule"
    rule: NewRuleId
    says: Rule

    def change(self, study: Study, supplies: Supplies) -> Made:
        there = study.shelves["rule"]
        if self.rule not in there and len(there) >= MOST_RULES:
            raise BadInput(
                f"There are {MOST_RULES:,} rules.", remedy="Take some of them away, or put several into one."
            )
        kept = held(study, self.says.holds)
        title = " ".join(self.says.title.split())
        if any(id != self.rule and each.title == title for id, each in there.items()):
            raise BadInput(f"There is a rule “{title}” already.", remedy="Give this one another title.")
        spans = dict(meant(self.says.holds, study).spans)
        holds = self.says.holds.model_copy(update={"spans": spans}) if spans else self.says.holds
        says = self.says.model_copy(update={"title": title, "holds": holds})
        if there.get(self.rule) == says:
            raise NothingToDo(f"The rule “{title}” is kept so already.")
        verb = "Changed" if self.rule in there else "Wrote"
        sentence = f"{verb} the rule “{title}”: {written(says.holds, study)}"
        breaks = counted(kept.broken.size, "record breaks it", "records break it")
        return Made(study.put("rule", {self.rule: says}), sentence, 0, (breaks,))


@register
class RemoveRules(Step):
    """Takes rules away; what was accepted of them goes with them."""

    do: Literal["remove rules"] = "remove rules"
    rules: Annotated[tuple[RuleId, ...], Field(min_length=1, max_length=10_000)]

    def change(self, study: Study, supplies: Supplies) -> Made:
        there = study.shelves["rule"]
        if any(id not in there for id in self.rules):
            raise BadInput("This rule is not there any more.")
        accepted = [id for id, each in study.shelves["accepted"].items() if each.entry in self.rules]
        left = study.put("rule", dict.fromkeys(self.rules)).put("accepted", dict.fromkeys(accepted))
        titles = [f"“{there[id].title}”" for id in dict.fromkeys(self.rules)]
        more = f" and {len(titles) - 3:,} more" if len(titles) > 3 else ""
        return Made(left, f"Took the rule{'' if len(titles) == 1 else 's'} {', '.join(titles[:3])}{more} away")


@register
class SetCheck(Step):
    """Sets how a check is done in this study: not at all, or with other thresholds; as usual where nothing is said."""

    do: Literal["set check"] = "set check"
    says: CheckSetting

    def change(self, study: Study, supplies: Supplies) -> Made:
        check = CHECKS.get(self.says.check)
        if check is None:
            raise BadInput(f"There is no check called “{self.says.check}”.", remedy=f"Checks: {', '.join(CHECKS)}.")
        said = []
        for name, value in self.says.thresholds.items():
            known = check.thresholds.get(name)
            if known is None:
                listed = ", ".join(check.thresholds) or "none"
                raise BadInput(f"“{check.name}” has no threshold “{name}”.", remedy=f"It has: {listed}.")
            if not known.least <= value <= known.most:
                raise BadInput(
                    f"{value:g} cannot be the threshold “{name}” of “{check.name}”.",
                    remedy=f"It lies between {known.least:g} and {known.most:g}; its default is {known.usual:g}.",
                )
            said.append(f"{known.said} set to {value:g} (default {known.usual:g})")
        thresholds = {
            name: value for name, value in self.says.thresholds.items() if value != check.thresholds[name].usual
        }
        usual = not thresholds and not self.says.off
        if usual and check.name not in study.shelves["check"]:
            raise NothingToDo(f"“{check.name}” has its defaults already.")
        if self.says.off:
            sentence = f"Turned the check “{check.name}” off"
        elif thresholds:
            sentence = f"Threshold{'s' if len(said) > 1 else ''} of “{check.name}”: {'; '.join(said)}"
        else:
            sentence = f"Check “{check.name}” set back to its defaults"
        now = None if usual else self.says.model_copy(update={"thresholds": thresholds})
        return Made(study.put("check", {check.name: now}), sentence)
