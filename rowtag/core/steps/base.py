"""What every step is: a frozen value that says what it expects to find, applies, and accounts for itself.

A kind of step is one class under one registered name (`do`). "What would it do?" and "do it" are the same
call; what differs is only whether the result is kept. Who, when and why are kept beside the step.
"""

from abc import ABC, abstractmethod
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from typing import Annotated, Any, ClassVar

from pydantic import AfterValidator, Field, ValidationError

from rowtag.core.column import Column
from rowtag.core.errors import BadInput, Changed
from rowtag.core.reading import Fill
from rowtag.core.study import Study
from rowtag.core.tag import Frozen


def _distinct(ids: tuple[str, ...]) -> tuple[str, ...]:
    return tuple(dict.fromkeys(ids))


Ids = Annotated[tuple[str, ...], Field(min_length=1), AfterValidator(_distinct)]
"""Internal ids of variables, each once."""

Place = tuple[str, ...]
"""A place in a study, such as ("tag", id, part): what a step may expect something of."""

Supplies = Mapping[str, Column]
"""Entries that come with a step because they are too large for it: columns under variable ids."""


NO_FILL = Fill()


@dataclass(frozen=True)
class Applied:
    """What a step made: the new state, a sentence, and what changed in numbers.

    `variables`: ids touched. `entries`: entries that were changed. `before` and `after`: the fill of the
    touched variables together.
    """

    study: Study
    sentence: str
    variables: tuple[str, ...] = ()
    entries: int = 0
    before: Fill = NO_FILL
    after: Fill = NO_FILL
    notes: tuple[str, ...] = ()

    @property
    def full_sentence(self) -> str:
        """The sentence with its counts."""
        said = [self.sentence]
        for word in ("valid", "missing", "stray"):
            was, now = getattr(self.before, word), getattr(self.after, word)
            if was != now and was + now:
                said.append(f"{WORDS[word]} {was:,} → {now:,}")
        return "; ".join([*said, *self.notes]) + "."


WORDS = {"valid": "valid", "missing": "coded missing", "blank": "blank", "stray": "strays"}


class Step(Frozen, ABC):
    """One change to a study."""

    format: int = 1
    current_format: ClassVar[int] = 1
    needs_supplies: ClassVar[bool] = False

    @abstractmethod
    def expects(self, study: Study) -> dict[Place, Any]:
        """What this step finds at the places that it depends on; it may be applied where the same stands."""

    @abstractmethod
    def change(self, study: Study, supplies: Supplies) -> Applied:
        """The new state and its sentence, without fills. Raises BadInput where it cannot be done."""

    def apply(self, study: Study, supplies: Supplies | None = None) -> Applied:
        """What this step makes of a state, accounted for."""
        made = self.change(study, supplies or {})
        known = [id for id in made.variables if id in study.variables]
        return Applied(
            made.study,
            made.sentence,
            made.variables,
            made.entries,
            fills(study, known),
            fills(made.study, made.variables) if known else Fill(),
            made.notes,
        )


STEPS: dict[str, type[Step]] = {}
"""All kinds of step under their registered names."""

UPGRADES: dict[tuple[str, int], Callable[[dict[str, Any]], dict[str, Any]]] = {}
"""How a step written in an older format becomes one of the next format."""


def register(kind: type[Step]) -> type[Step]:
    """Makes a kind of step known under the name its `do` carries."""
    STEPS[kind.model_fields["do"].default] = kind
    return kind


def step_from(data: Mapping[str, Any]) -> Step:
    """A step read back strictly from JSON data, brought up to date first."""
    written = dict(data)
    name = str(written.get("do"))
    kind = STEPS.get(name)
    if kind is None:
        raise BadInput(f"There is no step called “{name}”.", remedy=f"Known steps: {', '.join(sorted(STEPS))}.")
    while (version := written.get("format", 1)) != kind.current_format:
        if (name, version) not in UPGRADES:
            raise BadInput(f"Step “{name}” has format {version}, which this version of Row Tag does not know.")
        written = UPGRADES[name, version](written)
    try:
        return kind.model_validate(written)
    except ValidationError as error:
        raise BadInput(f"Step “{name}” is not complete: {problems(error)}") from None


def problems(error: ValidationError) -> str:
    """What is wrong with some JSON, each with its place."""
    said = (f"{'.'.join(str(part) for part in each['loc']) or 'the step'}: {each['msg']}" for each in error.errors())
    return "; ".join(said)


def conflicts(step: Step, base: Study, head: Study) -> list[Place]:
    """Places where the head no longer holds what the step expected at its base."""
    if base is head:
        return []
    found = step.expects(head)
    return [place for place, value in step.expects(base).items() if place not in found or found[place] != value]


_SHELVED = {"list": "the code list", "battery": "the battery", "sheet": "the document"}


def refuse_changed(places: Iterable[Place], study: Study, by: Iterable[str]) -> Changed:
    """The error for a step whose expectations no longer hold."""
    said = []
    for place in places:
        kind, id, *rest = (*place, "", "")
        if kind in _SHELVED:
            there = study.shelves[kind].get(id)
            title = getattr(there, "name", "") or getattr(there, "title", "")
            word = _SHELVED[kind]
            said.append(f"{word} “{title}”" if title else word)
            continue
        if not id:
            said.append({"order": "which variables there are", "records": "how many records there are"}[kind])
            continue
        name = study.tag(id).name if id in study.variables else "a variable that is gone"
        said.append(f"{kind} {rest[0]} of {name}" if rest[0] else f"{kind} of {name}")
    listed = ", ".join(said[:5]) + ("…" if len(said) > 5 else "")
    return Changed(
        f"Meanwhile this was changed: {listed}.",
        remedy="Look at what stands there now, then do it again if it is still right.",
        details=[*said, *by],
    )


def fills(study: Study, ids: Iterable[str]) -> Fill:
    """The fill of several variables together."""
    return sum((study.fill(id) for id in ids if id in study.variables), Fill())


def names_of(study: Study, ids: Iterable[str]) -> str:
    """Variables by name for a sentence: up to three, then how many more."""
    names = [study.tag(id).name for id in ids]
    if len(names) <= 3:
        return " and ".join([", ".join(names[:-1]), names[-1]]) if len(names) > 1 else names[0]
    return f"{', '.join(names[:2])} and {len(names) - 2} more"


def parts_found(study: Study, ids: Iterable[str], parts: Iterable[str]) -> dict[Place, Any]:
    """What some parts of some tags are now; a variable that is gone has none."""
    parts = list(parts)
    return {("tag", id, part): getattr(study.tag(id), part) for id in ids if id in study.variables for part in parts}
