"""What the HTTP interface says of rules, formulas, and how checks are set."""

from typing import Annotated

from pydantic import BaseModel, Field

from rowtag.core.checks import CHECKS
from rowtag.core.checks.base import Check, setting
from rowtag.core.checks.rules import held
from rowtag.core.formulas import BadFormula, Formula, Kind, meant, taken_in, written
from rowtag.core.rules import LONGEST, Rule, Severity
from rowtag.core.ruletext import WrittenRule, read_rules, write_rules
from rowtag.core.study import Study


class FormulaProblem(BaseModel):
    """What is wrong with a formula, and at which of its characters (from 0); `suggestion` is what could stand there."""

    what: str
    remedy: str
    first: int
    end: int
    suggestion: str | None

    @classmethod
    def of(cls, error: BadFormula) -> "FormulaProblem":
        first, end = error.span
        return cls(what=error.what, remedy=error.remedy, first=first, end=end, suggestion=error.suggestion)


class HeldRecords(BaseModel):
    """How many records meet a condition, do not, or cannot tell."""

    met: int
    broken: int
    unknown: int

    @classmethod
    def of(cls, study: Study, formula: Formula) -> "HeldRecords":
        found = held(study, formula)
        return cls(met=found.met, broken=int(found.broken.size), unknown=found.unknown)


class FormulaRequest(BaseModel):
    text: Annotated[str, Field(max_length=2 * LONGEST)]


class FormulaLook(BaseModel):
    """What a formula means in a study: either a problem, or the kind of what it gives and the formula as steps take it;
    of a condition how the records keep to it."""

    problem: FormulaProblem | None = None
    kind: Kind | None = None
    formula: Formula | None = None
    held: HeldRecords | None = None

    @classmethod
    def of(cls, study: Study, text: str) -> "FormulaLook":
        try:
            formula = taken_in(text, study)
        except BadFormula as error:
            return cls(problem=FormulaProblem.of(error))
        kind = meant(formula, study).kind
        return cls(kind=kind, formula=formula, held=HeldRecords.of(study, formula) if kind == "truth" else None)


class FormulaWords(BaseModel):
    """Functions with what they give; and words, for which a variable that is called so stands in backquotes."""

    functions: dict[str, str]
    words: list[str]


class RuleModel(BaseModel):
    """A rule of a study, with the names that its variables have now; and how the records keep to it, or why it cannot
    be held any more."""

    id: str
    title: str
    text: str
    severity: Severity
    note: str
    held: HeldRecords | None = None
    problem: FormulaProblem | None = None

    @classmethod
    def of(cls, study: Study, id: str) -> "RuleModel":
        rule: Rule = study.shelves["rule"][id]
        shown = cls(id=id, title=rule.title, text=written(rule.holds, study), severity=rule.severity, note=rule.note)
        try:
            return shown.model_copy(update={"held": HeldRecords.of(study, rule.holds)})
        except BadFormula as error:
            return shown.model_copy(update={"problem": FormulaProblem.of(error)})


class LibraryRule(BaseModel):
    """A rule of the library, as it is written."""

    title: Annotated[str, Field(min_length=1, max_length=200, pattern=r"\S")]
    text: Annotated[str, Field(min_length=1, max_length=LONGEST)]
    severity: Severity = "error"
    note: Annotated[str, Field(max_length=2_000)] = ""

    @classmethod
    def of(cls, rule: WrittenRule) -> "LibraryRule":
        return cls(title=rule.title, text=rule.condition, severity=rule.severity, note=rule.note)

    def as_written(self) -> WrittenRule:
        """The rule as it reads back from rules text. Raises UnreadableFile where its condition cannot be read."""
        return read_rules(write_rules([WrittenRule(self.title, self.text, self.severity, self.note)]))[0]


class ThresholdModel(BaseModel):
    """A threshold of a check: as it is set, as it usually is, in words, and between which ends it can be set."""

    name: str
    said: str
    value: float
    usual: float
    least: float
    most: float


class CheckModel(BaseModel):
    """A check: what it notices, and how it is set in a study."""

    name: str
    family: str
    notices: str
    off: bool
    thresholds: list[ThresholdModel]

    @classmethod
    def of(cls, study: Study, check: Check) -> "CheckModel":
        own = setting(study, check.name)
        given = own.thresholds if own is not None else {}
        return cls(
            name=check.name,
            family=check.family,
            notices=check.notices,
            off=own is not None and own.off,
            thresholds=[
                ThresholdModel(
                    name=name, said=each.said, value=given.get(name, each.usual), usual=each.usual, least=each.least,
                    most=each.most,
                )
                for name, each in check.thresholds.items()
            ],
        )  # fmt: skip


def checks_of(study: Study) -> list[CheckModel]:
    """All checks, and how they are set in a study."""
    return [CheckModel.of(study, check) for check in CHECKS.values()]
