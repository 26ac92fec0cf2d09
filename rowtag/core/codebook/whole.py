"""A study's tags as codebook text, and what a text that was edited or pasted means for them."""

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from rowtag.core.codebook.described import Described, Understood
from rowtag.core.codebook.matching import new_tag
from rowtag.core.errors import BadInput, Place
from rowtag.core.names import key_of
from rowtag.core.steps.sheets import Describe
from rowtag.core.steps.start import NewVariable, Places
from rowtag.core.study import CodeList, Study, Titled
from rowtag.core.tag import CodeLine, Parts, Tag

_DEFAULT = Parts()
_SHELVES = {"battery": "battery", "section": "section", "code_list": "list"}
"""Places of a tag, and the shelves that they name."""


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
        battery, section, code_list = (_title(study, place, getattr(tag, place)) for place in _SHELVES)
        found.append(Described(tag.name, Parts(**said), battery, section, code_list))
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
    shelves = _Shelves(study, understood.lists, new_id)
    tags, places = {}, {}
    for id, each in onto.items():
        parts = _parts(study, id, each, whole=whole)
        if parts.given():
            tags[id] = parts
        other = shelves.places(each, study.tag(id), whole=whole)
        if other:
            places[id] = Places(**other)
    added = tuple(NewVariable(id=new_id(), tag=_added(each, shelves)) for each in (new if whole else ()))
    step = Describe(tags=tags, places=places, add=added, **shelves.added(), source="codebook text")
    something = tags or places or added or step.lists
    absent = tuple(id for id in ids if id not in onto) if whole else ()
    return Edited(step if something else None, tuple(each.name for each in new), absent)


_NOWHERE = Tag(name="x")


def _added(each: Described, shelves: "_Shelves") -> Tag:
    """The tag of a new variable: here a list is complete only where the text says so."""
    places = shelves.places(each, _NOWHERE, whole=True)
    return new_tag(each, each.name).with_parts(complete=each.parts.complete, **places)


def _title(study: Study, place: str, id: str | None) -> str | None:
    if id is None:
        return None
    value = study.shelves[_SHELVES[place]][id]
    return str(value.name if isinstance(value, CodeList) else value.title)


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


class _Shelves:
    """Batteries, sections and shared lists by title: those of the study, and those that a text brings."""

    def __init__(self, study: Study, lists: Mapping[str, tuple[CodeLine, ...]], new_id: Callable[[], str]) -> None:
        self._study = study
        self._new_id = new_id
        self._new: dict[str, dict[str, Any]] = {"battery": {}, "section": {}, "list": {}}
        known = {each.name: id for id, each in study.shelves["list"].items()}
        for name, lines in lists.items():
            id = known.get(name) or new_id()
            if name not in known or study.shelves["list"][id].lines != lines:
                self._new["list"][id] = CodeList(name=name, lines=lines)

    def places(self, each: Described, tag: Tag, *, whole: bool) -> dict[str, str | None]:
        """Where a description puts a tag, by id, as far as that is elsewhere."""
        found = {}
        for place in _SHELVES:
            title, now = getattr(each, place), getattr(tag, place)
            if title is None and not whole:
                continue
            meant = self._meant(place, title, now) if title else None
            if meant != now:
                found[place] = meant
        return found

    def added(self) -> dict[str, dict[str, Any]]:
        """What comes with the step."""
        return {"batteries": self._new["battery"], "sections": self._new["section"], "lists": self._new["list"]}

    def _meant(self, place: str, title: str, now: str | None) -> str:
        if _title(self._study, place, now) == title:
            return str(now)
        shelf = _SHELVES[place]
        for id, value in {**self._study.shelves[shelf], **self._new[shelf]}.items():
            if (value.name if isinstance(value, CodeList) else value.title) == title:
                return id
        if shelf == "list":
            raise BadInput(
                f"There is no shared list “{title}”.", remedy=f"Give its lines too, beginning with list: {title}"
            )
        id = self._new_id()
        self._new[shelf][id] = Titled(title=title)
        return id
