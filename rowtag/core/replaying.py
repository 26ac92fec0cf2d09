"""Steps done again on a state that they were not made for: whole, in part, or not at all, and why.

What is done again never stops: a step that cannot be done whole is done as far as it can, and says what was left out;
one that cannot be done at all is told, and those behind it go on without it.
"""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from typing import Any, Literal

from rowtag.core.errors import BadInput, NothingToDo, NotThere, RowTagError
from rowtag.core.refs import Lost, Ref, references
from rowtag.core.steps.base import Applied, Step, Supplies
from rowtag.core.study import Study
from rowtag.core.touched import TITLED, title_of

Came = Literal["done", "in part", "nothing to do", "not possible"]
"""What came of a step that was done again."""
MOST_TRIED = 400
"""Times that a step which is refused is tried without some of its elements."""
MOST_TOLD = 5
"""Things that were not found or not possible which are told one by one."""

Meet = Callable[[Ref, Any, Study], Any]
"""What an id of a step means in a state; raises `Unmet` where it means nothing there."""
WORDS = {"variable": "variable", **{kind: said.removeprefix("the ") for kind, said in TITLED.items()}}


class Unmet(Lost):
    """Something that a step names is not in the study; `said` tells what."""

    def __init__(self, said: str) -> None:
        super().__init__(said)
        self.said = said


@dataclass(frozen=True)
class Again:
    """A step that was done again: as it is done here (None where it is not), what came of it, why, and the result."""

    asked: Step
    came: Came
    step: Step | None = None
    why: tuple[str, ...] = ()
    applied: Applied | None = None

    @property
    def whole(self) -> bool:
        """Whether nothing of it was left undone."""
        return self.came in ("done", "nothing to do")


@dataclass
class Replay:
    """Steps done again one after the other from a state on; `study` is the state that they have led to."""

    study: Study
    done: list[Again] = field(default_factory=list)
    number_of: Callable[[int], int | None] | None = None
    """The number that a record has here, per number that it had on the way the steps were made for; None where it is
    not here. Without it numbers are the same."""
    _made_for: Callable[[], Study] | None = None
    _meet: Meet | None = None

    def do(
        self,
        step: Step,
        supplies: Supplies | None = None,
        *,
        meet: Meet | None = None,
        made_for: Callable[[], Study] | None = None,
    ) -> Again:
        """Does one more step as far as it can be done. `meet` says what is meant by what it names; without it ids mean
        themselves, and one that is gone is told by what it was called in the state that the step was `made_for`."""
        self._meet, self._made_for = meet or self._by_id, made_for
        again = self._done(step, supplies or {})
        self.done.append(again)
        if again.applied is not None:
            self.study = again.applied.study
        return again

    def _done(self, asked: Step, supplies: Supplies) -> Again:
        met, unmet = self._met(asked)
        if met is None:
            return Again(asked, "not possible", why=unmet or ("nothing of what it names is there",))
        try:
            return Again(asked, "in part" if unmet else "done", met, unmet, met.apply(self.study, supplies))
        except NothingToDo as error:
            return Again(asked, "in part" if unmet else "nothing to do", None, (*unmet, _said(error)))
        except RowTagError as error:
            refused = error
        smaller = self._as_far_as_possible(met, supplies)
        if smaller is None:
            return Again(asked, "not possible", why=(*unmet, _said(refused)))
        step, applied, why = smaller
        return Again(asked, "in part", step, (*unmet, *why), applied)

    def _met(self, step: Step) -> tuple[Step | None, tuple[str, ...]]:
        """A step with what its ids mean here, without what means nothing here; and what that is."""
        unmet: dict[str, None] = {}
        brought = {(each.ref.kind, each.id) for each in references(step) if each.ref.may_be_new}

        def change(ref: Ref, id: Any) -> Any:
            try:
                own = self._meet == self._by_id and (ref.kind, id) in brought
                return id if own or self._meet is None else self._meet(ref, id, self.study)
            except Unmet as error:
                unmet[error.said] = None
                raise

        met = step.without_lost(change)
        said = tuple(unmet)
        more = (f"and {len(said) - MOST_TOLD:,} more",) if len(said) > MOST_TOLD else ()
        return met, said[:MOST_TOLD] + more

    def _by_id(self, ref: Ref, id: Any, study: Study) -> Any:
        """Ids mean themselves, where they are there or may be new; records, where so many have arrived."""
        if ref.kind == "record":
            number: int | None = id if self.number_of is None else self.number_of(id)
            if number is None or not 1 <= number <= study.records.arrived:
                raise Unmet(f"there is no record {id:,}" if self.number_of is None else f"record {id:,} is gone")
            return number
        if id not in study.shelves[ref.kind]:
            there = self._made_for().shelves[ref.kind].get(id) if self._made_for is not None else None
            called = f" “{title_of(there)}”" if there is not None else ""
            raise Unmet(f"the {WORDS[ref.kind]}{called} is not there any more")
        return id

    def _as_far_as_possible(self, step: Step, supplies: Supplies) -> tuple[Step, Applied, tuple[str, ...]] | None:
        """A step that was refused without those elements of one of its lists or mappings that are refused alone."""
        for name, elements in _lists_of(step):
            why, tries = dict[str, None](), iter(range(MOST_TRIED))
            stay = self._stays(step, supplies, name, elements, why, tries)
            if not stay or not why:
                continue
            smaller = step.model_copy(update={name: _of(step, name, stay)})
            try:
                applied = smaller.apply(self.study, supplies)
            except (BadInput, NotThere):
                continue
            return smaller, applied, (f"{len(stay):,} of {len(elements):,} {name}", *list(why)[:MOST_TOLD])
        return None

    def _stays(
        self,
        step: Step,
        supplies: Supplies,
        name: str,
        elements: Sequence[Any],
        why: dict[str, None],
        tries: Iterator[int],
    ) -> list[Any]:
        """The elements of a list that are not refused, told by halves, so that many good ones cost little; none of
        those that are left when it was tried `MOST_TRIED` times."""
        if next(tries, None) is None:
            why["and more that were not tried"] = None
            return []
        try:
            step.model_copy(update={name: _of(step, name, elements)}).apply(self.study, supplies)
        except NothingToDo:
            return []
        except RowTagError as error:
            if len(elements) == 1:
                why[_said(error)] = None
                return []
        else:
            return list(elements)
        middle = len(elements) // 2
        halves = (elements[:middle], elements[middle:])
        return [each for half in halves for each in self._stays(step, supplies, name, half, why, tries)]


def _lists_of(step: Step) -> Iterator[tuple[str, Sequence[Any]]]:
    """The lists and mappings of a step that have more than one element, as lists."""
    for name in type(step).model_fields:
        value = getattr(step, name)
        if name in step.model_fields_set and isinstance(value, tuple | dict) and len(value) > 1:
            yield name, list(value.items()) if isinstance(value, dict) else value


def _of(step: Step, name: str, elements: Sequence[Any]) -> Any:
    return dict(elements) if isinstance(getattr(step, name), dict) else tuple(elements)


def _said(error: RowTagError) -> str:
    return error.what.rstrip(".")
