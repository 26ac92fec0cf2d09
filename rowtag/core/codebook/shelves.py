"""Batteries, sections and shared lists as codebooks name them: by title."""

from collections.abc import Callable, Mapping
from types import MappingProxyType
from typing import Any

from rowtag.core.codebook.described import Described, Onward
from rowtag.core.errors import BadInput
from rowtag.core.names import key_of
from rowtag.core.study import CodeList, Study, Titled
from rowtag.core.tag import CodeLine, Skip, Tag

SHELVES = {"battery": "battery", "section": "section", "code_list": "list"}
"""Places of a tag, and the shelves that they name."""


def told_skips(study: Study, tag: Tag) -> tuple[Onward, ...]:
    """Where the answers of a tag lead, by name."""
    return tuple(
        Onward(skip.codes, study.tag(skip.to).name if skip.to else "", skip.proposed, skip.said) for skip in tag.skips
    )


def title_of(study: Study, place: str, id: str | None) -> str | None:
    """What the battery, the section or the shared list of an id is called; None for none."""
    value = study.shelves[SHELVES[place]].get(id) if id is not None else None
    return None if value is None else str(value.name if isinstance(value, CodeList) else value.title)


class Shelves:
    """Batteries, sections and shared lists by title, and variables by name: those of the study, and those that a text
    brings (`called`: name → id)."""

    def __init__(
        self,
        study: Study,
        lists: Mapping[str, tuple[CodeLine, ...]],
        new_id: Callable[[], str],
        called: Mapping[str, str] = MappingProxyType({}),
    ) -> None:
        self._study = study
        self._called = {**study.name_keys, **{key_of(name): id for name, id in called.items()}}
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
        for place in SHELVES:
            title, now = getattr(each, place), getattr(tag, place)
            if title is None and not whole:
                continue
            meant = self._meant(place, title, now) if title else None
            if meant != now:
                found[place] = meant
        return found

    def skips(self, each: Described, *, whole: bool) -> tuple[Skip, ...]:
        """Where the answers lead that a description tells of. What leads to an unknown name is left out, unless the
        description says the `whole`: then BadInput says so."""
        found = []
        for skip in each.skips:
            to = self._called.get(key_of(skip.to)) if skip.to else None
            if skip.to and to is None:
                if whole:
                    raise BadInput(
                        f"{each.name} goes on at “{skip.to}”, and no variable is called so.",
                        remedy="Name a variable of the study or of the text, or the end.",
                    )
                continue
            found.append(Skip(codes=skip.codes, to=to, proposed=skip.proposed, said=skip.said))
        return tuple(found)

    def added(self) -> dict[str, dict[str, Any]]:
        """What comes with the step."""
        return {"batteries": self._new["battery"], "sections": self._new["section"], "lists": self._new["list"]}

    def _meant(self, place: str, title: str, now: str | None) -> str:
        if title_of(self._study, place, now) == title:
            return str(now)
        shelf = SHELVES[place]
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
