"""What every step is: a frozen value that applies to a state and accounts for itself.

A kind of step is one class under one registered name (`do`). "What would it do?" and "do it" are the same
call; what differs is only whether the result is kept. Who, when and why are kept beside the step. What a step refers
to stands in its types (`rowtag.core.refs`); what it touched is told from the states before and after it.
"""

from abc import ABC, abstractmethod
from collections.abc import Callable, Hashable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Annotated, Any, ClassVar, TypeVar

from pydantic import AfterValidator, Field, ValidationError

from rowtag.core.column import Column
from rowtag.core.derive import read
from rowtag.core.errors import BadInput
from rowtag.core.following import followed
from rowtag.core.problems import problems
from rowtag.core.reading import Fill
from rowtag.core.refs import NAMES, Change, VariableId, without_lost
from rowtag.core.study import Study
from rowtag.core.tag import Frozen
from rowtag.core.touched import OldByNew, Touched, touched

Named = TypeVar("Named", bound=Hashable)


def each_once(named: tuple[Named, ...]) -> tuple[Named, ...]:
    """What is named, each once, in the same order."""
    return tuple(dict.fromkeys(named))


Ids = Annotated[tuple[VariableId, ...], Field(min_length=1), AfterValidator(each_once)]
"""Internal ids of variables, each once."""

Supplies = Mapping[str, Column]
"""Entries that come with a step because they are too large for it: columns under variable ids."""


NO_FILL = Fill()


@dataclass(frozen=True)
class Made:
    """What a kind of step makes: the new state, a sentence, how many entries it changed, and what is worth adding.

    `evidence`: for steps that make new entries, what became of the old ones.
    """

    study: Study
    sentence: str
    entries: int = 0
    notes: tuple[str, ...] = ()
    evidence: tuple[OldByNew, ...] = ()


@dataclass(frozen=True)
class Applied:
    """What a step made of a state, accounted for: what it touched, and the fill of the touched variables before and
    after, which is worked out when somebody asks for it: of steps that are done again in thousands nobody does."""

    made: Made
    touched: Touched
    was: Study
    variables: tuple[str, ...] = ()

    @property
    def study(self) -> Study:
        """The new state."""
        return self.made.study

    @property
    def _known(self) -> list[str]:
        """Those of the touched variables that were there before."""
        return [id for id in self.variables if id in self.was.variables]

    @cached_property
    def before(self) -> Fill:
        """What was valid, missing, blank and stray in them before."""
        return fills(self.was, self._known)

    @cached_property
    def after(self) -> Fill:
        """The same of what is there now; nothing where all of them are new."""
        return fills(self.study, self.variables) if self._known else NO_FILL

    @property
    def full_sentence(self) -> str:
        """The sentence with its counts."""
        said = [self.made.sentence]
        for word in ("valid", "missing", "stray"):
            was, now = getattr(self.before, word), getattr(self.after, word)
            if was != now and was + now:
                said.append(f"{WORDS[word]} {was:,} → {now:,}")
        return "; ".join([*said, *self.made.notes]) + "."


WORDS = {"valid": "valid", "missing": "coded missing", "blank": "blank", "stray": "strays"}


class Step(Frozen, ABC):
    """One change to a study."""

    format: int = 1
    current_format: ClassVar[int] = 1
    needs_supplies: ClassVar[bool] = False

    @abstractmethod
    def change(self, study: Study, supplies: Supplies) -> Made:
        """The new state and its sentence. Raises BadInput where it cannot be done."""

    def apply(self, study: Study, supplies: Supplies | None = None) -> Applied:
        """What this step makes of a state, accounted for."""
        made = self.change(study, supplies or {})
        led = followed(study, made.study)
        if led.study is not made.study or led.notes:
            notes, evidence = (*made.notes, *led.notes), (*made.evidence, *led.evidence)
            made = Made(led.study, made.sentence, made.entries + led.entries, notes, evidence)
        changed = touched(study, made.study)
        order = dict.fromkeys((*study.order, *made.study.order))
        return Applied(made, changed, study, tuple(id for id in order if id in changed.variables))

    def without_lost(self, change: Change) -> "Step | None":
        """This step with other ids, without what names something that is lost; None where nothing of it is left."""
        return without_lost(self, change)

    def continues(self, _earlier: "Step") -> bool:
        """Whether this step and the one before it belong to one run of work, which the diary tells in one line."""
        return False

    @classmethod
    def told_together(cls, steps: "Sequence[Step]", study: Study) -> str:
        """A run of steps in one sentence."""
        raise AssertionError(f"{cls.__name__} is never told together")


STEPS: dict[str, type[Step]] = {}
"""All kinds of step under their registered names."""

UPGRADES: dict[tuple[str, int], Callable[[dict[str, Any]], dict[str, Any]]] = {}
"""How a step written in an older format becomes one of the next format."""


def register(kind: type[Step]) -> type[Step]:
    """Makes a kind of step known under the name its `do` carries."""
    STEPS[kind.model_fields["do"].default] = kind
    return kind


def dump(step: Step, *, names: bool = False) -> dict[str, Any]:
    """A step as JSON data: its kind, and exactly what was asked. What was not given is not there. It may have `names`
    in place of ids."""
    given = step.model_dump(mode="json", exclude_unset=True, exclude={"do", "format"}, warnings=not names)
    return {"do": type(step).model_fields["do"].default, "format": step.current_format, **given}


def load(data: Mapping[str, Any], *, names: bool = False) -> Step:
    """A step read back strictly from JSON data, brought up to date first; what was not given stays so. It may have
    `names` in place of ids."""
    written = up_to_date(data)
    try:
        return STEPS[written["do"]].model_validate(written, context={NAMES: _named_in} if names else None)
    except ValidationError as error:
        raise BadInput(f"Step “{written['do']}” is not complete: {problems(error)}.") from None


def _named_in(formula: str) -> list[str]:
    """The names in the text of a formula. Raises BadFormula."""
    return [each.name for each in read(formula).names]


def up_to_date(data: Mapping[str, Any]) -> dict[str, Any]:
    """A written step in the present format of its kind. Raises BadInput where it is of none that is known."""
    written = dict(data)
    name = str(written.get("do"))
    kind = STEPS.get(name)
    if kind is None:
        raise BadInput(f"There is no step called “{name[:60]}”.", remedy=f"Known steps: {', '.join(sorted(STEPS))}.")
    while (version := written.get("format", 1)) != kind.current_format:
        if not isinstance(version, int) or (name, version) not in UPGRADES:
            raise BadInput(
                f"Step “{name}” has format {str(version)[:40]}, which this version of Row Tag does not know."
            )
        written = UPGRADES[name, version](written)
    return written


def fills(study: Study, ids: Iterable[str]) -> Fill:
    """The fill of several variables together."""
    return sum((study.fill(id) for id in ids if id in study.variables), Fill())


def names_of(study: Study, ids: Iterable[str]) -> str:
    """Variables by name for a sentence: up to three, then how many more."""
    names = [study.tag(id).name for id in ids]
    if len(names) <= 3:
        return " and ".join([", ".join(names[:-1]), names[-1]]) if len(names) > 1 else names[0]
    return f"{', '.join(names[:2])} and {len(names) - 2} more"
