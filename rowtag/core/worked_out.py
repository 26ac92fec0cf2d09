"""Results that say what they look at, and are remembered for as long as that stays the same.

What a result looks at is a list of aspects of a variable. A result may look at nothing else: whatever changes beside
these leaves it as it is, which a generated test holds for all of them.
"""

from collections.abc import Callable, Hashable, Iterable
from functools import wraps
from typing import TYPE_CHECKING, Any, ParamSpec, TypeVar, cast

from rowtag.core.engine import Same, engine

if TYPE_CHECKING:
    from rowtag.core.study import Study

T = TypeVar("T")
P = ParamSpec("P")
Aspect = Callable[["Study", str], Hashable]
"""Something that can be looked at on a variable, as a key: the same key, the same thing."""

_of_the_study: set[Aspect] = set()


def of_the_study(aspect: Aspect) -> Aspect:
    """Marks an aspect that is the same whatever variable it is looked at on: of ten thousand it is looked at once."""
    _of_the_study.add(aspect)
    return aspect


def reading(study: "Study", id: str) -> Hashable:
    """How its entries are read: type, marks, codes, limits, missing codes; not labels."""
    return study.lens(id)


def words(study: "Study", id: str) -> Hashable:
    """Everything that its tag says, its earlier names, and the lines of the shared list that it uses."""
    return Same(study.variable(id)), Same(study.codes(id))


def made_of(study: "Study", id: str) -> Hashable:
    """Everything of what a derived variable was made from: tags, entries, which records there are; and how. Nothing
    where it is not derived."""
    how = study.variable(id).origin.how
    if how is None:
        return None
    from rowtag.core.derive.sources import sources_of  # which stands upon studies

    of = kept_under((words, reading, entries, records), study, sources_of(study, id))
    return Same(study.variable(id)), of


def spans_now(study: "Study", id: str) -> Hashable:
    """What the spans of a derived variable would mean now, where that is something else."""
    how = study.variable(id).origin.how
    if how is None or not how.spans:
        return None
    from rowtag.core.spans import means_otherwise

    return tuple(means_otherwise(study, how).items())


def skips(study: "Study", id: str) -> Hashable:
    """Where its answers lead."""
    return study.tag(id).skips


def entries(study: "Study", id: str) -> Hashable:
    """What is recorded in the records that are there. A blank record more changes none of it."""
    return Same(study.column(id)), study.records.gone


def records_named(study: "Study", id: str) -> Hashable:
    """Which records there are, where a variable is to name each of them."""
    return records(study, id) if study.tag(id).use == "identifier" else None


@of_the_study
def records(study: "Study", _id: str) -> Hashable:
    """Which records there are: how many blanks there are, too."""
    return study.records.gone, study.records.arrived


def accepted(study: "Study", id: str) -> Hashable:
    """What somebody accepted on it."""
    return study.accepted_on.get(id)


@of_the_study
def rules(study: "Study", _id: str) -> Hashable:
    """The rules that were written for the study."""
    return _shelf(study, "rule")


@of_the_study
def sheets(study: "Study", _id: str) -> Hashable:
    """The documents beside the study."""
    return _shelf(study, "sheet")


@of_the_study
def settings(study: "Study", _id: str) -> Hashable:
    """How the checks are set in the study."""
    return _shelf(study, "check")


def _shelf(study: "Study", name: str) -> Hashable:
    """What stands on a shelf, none of which the key holds: documents are large, and go when nobody has them."""
    if name not in study.shelf_keys:
        study.shelf_keys[name] = frozenset((id, Same(value)) for id, value in study.shelves[name].items())
    return study.shelf_keys[name]


def worked_out(
    *aspects: Aspect, also: Callable[[], tuple[Aspect, ...]] = tuple
) -> Callable[[Callable[P, T]], Callable[P, T]]:
    """Remembers what a function of a study makes under the aspects it looks at, and those that others say that it calls
    (`also`).

    The function takes a study, then the id of a variable, a tuple of ids, or nothing: then it concerns all of them.
    Whatever it takes besides must be hashable.
    """

    def remembered(work: Callable[P, T]) -> Callable[P, T]:
        @wraps(work)
        def found(study: "Study", of: str | tuple[str, ...] | None = None, *more: Hashable) -> T:
            ids = study.order if of is None else (of,) if isinstance(of, str) else of
            seen = kept_under((*aspects, *also()), study, ids)
            given = (study,) if of is None else (study, of, *more)
            make = cast("Callable[..., T]", work)
            return engine.get((work, of, more, seen), lambda: make(*given))

        return cast("Callable[P, T]", found)

    return remembered


def kept_under(aspects: tuple[Aspect, ...], study: "Study", ids: Iterable[str]) -> tuple[Any, ...]:
    """Everything that some aspects of some variables are, as a key."""
    once = tuple(aspect(study, "") for aspect in aspects if aspect in _of_the_study)
    each = [aspect for aspect in aspects if aspect not in _of_the_study]
    return *once, *(aspect(study, id) for id in ids for aspect in each)
