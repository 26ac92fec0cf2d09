"""A study's tags as codebook text, and what a text that was edited or pasted means for them."""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from typing import Any

from rowtag.core.codebook.described import Described, Understood
from rowtag.core.codebook.matching import new_tag
from rowtag.core.codebook.shelves import SHELVES, Shelves, title_of, told_skips
from rowtag.core.errors import BadInput, Place
from rowtag.core.names import key_of
from rowtag.core.steps.sheets import Describe
from rowtag.core.steps.start import NewVariable, Places
from rowtag.core.study import CodeList, Study
from rowtag.core.tag import CodeLine, Parts, Skip, Tag

_DEFAULT = Parts()


@dataclass(frozen=True)
class Edited:
    """What a text means for a study: the step, or nothing where it says what stands there; names of variables that
    are new, and ids of those that were asked for and are not in the text (they stay as they are)."""

    step: Describe | None
    new: tuple[str, ...] = ()
    absent: tuple[str, ...] = ()


def described(study: Study, ids: Iterable[str]) -> tuple[list[Described], dict[str, tuple[CodeLine, ...]]]:
    """Some tags with all that they say, and the shared code lists that they use, by name."""
    found, lists = [], {}
    for id in ids:
        tag = study.tag(id)
        said = {
            part: getattr(tag, part)
            for part in Parts.model_fields
            if part in ("type", "level") or getattr(tag, part) != getattr(_DEFAULT, part)
        }
        if tag.code_list is not None:
            said.pop("codes", None)
            shared: CodeList = study.shelves["list"][tag.code_list]
            lists[shared.name] = shared.lines
        battery, section, code_list = (title_of(study, place, getattr(tag, place)) for place in SHELVES)
        found.append(Described(tag.name, Parts(**said), battery, section, code_list, skips=told_skips(study, tag)))
    return found, lists


def edited(
    study: Study, understood: Understood, ids: Sequence[str], new_id: Callable[[], str], *, whole: bool
) -> Edited:
    """What codebook text means for some tags. Raises BadInput where it cannot be carried out.

    As a `whole` the text says all there is to say: what it leaves out is cleared, and other names are new variables.
    Otherwise it is put onto tags: what it leaves out stays; a single description goes onto all of `ids`, several go
    by their names.
    """
    _refuse_twice(understood)
    by_name = {key_of(each.name): each for each in understood.variables}
    if not whole and len(by_name) == 1 and ids:
        onto = dict.fromkeys(ids, understood.variables[0])
    else:
        onto = {id: by_name[key] for key, id in study.name_keys.items() if key in by_name}
    new = [each for each in understood.variables if key_of(each.name) not in study.name_keys]
    if not whole and not onto:
        raise BadInput(
            f"No variable is called {', '.join(each.name for each in new[:3])}.",
            remedy="Choose the tags that are to get it, and paste a single description.",
        )
    fresh = {each.name: new_id() for each in (new if whole else ())}
    shelves = Shelves(study, understood.lists, new_id, fresh)
    tags, places = {}, {}
    for id, each in onto.items():
        parts = _parts(study, id, each, whole=whole)
        if parts.given():
            tags[id] = parts
        other: dict[str, Any] = shelves.places(each, study.tag(id), whole=whole)
        if (whole or each.skips) and each.skips != told_skips(study, study.tag(id)):
            other["skips"] = _with_words(shelves.skips(each, whole=True), study.tag(id).skips)
        if other:
            places[id] = Places(**other)
    added = tuple(NewVariable(id=fresh[each.name], tag=_added(each, shelves)) for each in (new if whole else ()))
    step = Describe(tags=tags, places=places, add=added, **shelves.added(), source="codebook text")
    something = tags or places or added or step.lists
    absent = tuple(id for id in ids if id not in onto) if whole else ()
    return Edited(step if something else None, tuple(each.name for each in new), absent)


_NOWHERE = Tag(name="x")


def _added(each: Described, shelves: Shelves) -> Tag:
    """The tag of a new variable: here a list is complete only where the text says so."""
    places = shelves.places(each, _NOWHERE, whole=True)
    skips = shelves.skips(each, whole=True)
    return new_tag(each, each.name).with_parts(complete=each.parts.complete, skips=skips, **places)


def _with_words(skips: tuple[Skip, ...], before: tuple[Skip, ...]) -> tuple[Skip, ...]:
    """Skips with the words in which they were told before, which the text does not show."""
    words = {(skip.codes, skip.to): skip.said for skip in before}
    return tuple(skip.model_copy(update={"said": words.get((skip.codes, skip.to), "")}) for skip in skips)


def _refuse_twice(understood: Understood) -> None:
    seen: dict[str, Described] = {}
    for each in understood.variables:
        first = seen.setdefault(key_of(each.name), each)
        if first is not each:
            raise BadInput(
                f"{each.name} is described twice, on lines {first.lines[0]} and {each.lines[0]}.",
                remedy="Leave one of them out.",
                where=Place(row=each.lines[0]),
            )


def _parts(study: Study, id: str, each: Described, *, whole: bool) -> Parts:
    """The parts of a tag that a description says otherwise."""
    tag, said = study.tag(id), each.parts.given()
    if whole:
        said = {part: getattr(_DEFAULT, part) for part in Parts.model_fields} | said
    if each.code_list is not None:
        said.pop("codes", None)
    elif "codes" in said and tag.code_list is not None and (whole or said["codes"] != study.codes(id)):
        return Parts(**{part: value for part, value in said.items() if part == "codes" or value != getattr(tag, part)})
    return Parts(**{part: value for part, value in said.items() if value != getattr(tag, part)})
