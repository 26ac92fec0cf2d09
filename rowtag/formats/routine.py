"""Routines as text: the steps of a study in YAML, which people read, change and keep under version control.

A plain scalar is the text that stands there, whatever it looks like: 007 keeps its zeros, and `no` is a word. Tags,
anchors and aliases are refused: they mean nothing here, and can be made to grow without end.
"""

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from typing import Any

import yaml

from rowtag.core.errors import BadInput, Place

VERSION = 1
HEAD = "row tag routine"
PARTS = (HEAD, "study", "steps", "hand over", "strays")
MOST_SIGNS = 8_000_000
"""Characters of a routine: some 50,000 steps."""
DEEPEST = 40
"""Levels that one thing stands within another."""


@dataclass(frozen=True)
class WrittenStep:
    """A step as it is written with names, and the line (from 1) where it begins in its file."""

    says: Mapping[str, Any]
    line: int = 0


@dataclass(frozen=True)
class Routine:
    """The steps of a study, as they were read or, where it is being written, as they come; `strays` are the entries (by
    variable) that were strays behind them when it was saved, and `hand_over` says how data leave."""

    study: str
    steps: Iterable[WrittenStep]
    strays: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    hand_over: Mapping[str, Any] | None = None


# Writing ----------------------------------------------------------------------------------------


def write(routine: Routine) -> str:
    """A routine as text, which reads back to the same routine."""
    return "".join(pieces(routine))


def pieces(routine: Routine) -> Iterator[str]:
    """The text of a routine, step by step: the next one is asked for when the one before it is written."""
    yield _dumped({HEAD: VERSION, "study": routine.study})
    written = False
    for step in routine.steps:
        head, _, line = _dumped({"steps": _Lines([_Parts(step.says)])}).partition("\n")
        yield line if written else f"{head}\n{line}"
        written = True
    rest: dict[str, Any] = {} if written else {"steps": []}
    if routine.hand_over is not None:
        rest["hand over"] = dict(routine.hand_over)
    if routine.strays:
        rest["strays"] = {name: list(texts) for name, texts in routine.strays.items()}
    if rest:
        yield _dumped(rest)


def _dumped(parts: dict[str, Any]) -> str:
    text: str = yaml.dump(_Parts(parts), Dumper=_Dumper, allow_unicode=True, sort_keys=False, width=120)
    return text


class _Lines(list[Any]):
    """A list that is written with a line for each of its elements, however short."""


class _Parts(dict[str, Any]):
    """A mapping that is written with a line for each of its parts, however short."""


class _Dumper(yaml.SafeDumper):
    """Writes short lists and mappings of plain things in one line, and all else in lines of its own."""

    def ignore_aliases(self, _data: Any) -> bool:
        return True

    def increase_indent(self, flow: bool = False, indentless: bool = False) -> None:
        super().increase_indent(flow, False)


def _text(dumper: yaml.SafeDumper, text: str) -> yaml.Node:
    lines = text.split("\n")
    plain = len(lines) > 1 and bool(text.strip()) and all(line == line.rstrip() for line in lines)
    return dumper.represent_scalar(_TEXT, text, style="|" if plain else None)


def _list(dumper: yaml.SafeDumper, items: list[Any]) -> yaml.Node:
    return dumper.represent_sequence(_LIST, items, flow_style=not isinstance(items, _Lines) and _short(items))


def _mapping(dumper: yaml.SafeDumper, parts: dict[Any, Any]) -> yaml.Node:
    return dumper.represent_mapping(_MAPPING, parts, flow_style=not isinstance(parts, _Parts) and _short(parts))


_TEXT, _LIST, _MAPPING = (f"tag:yaml.org,2002:{kind}" for kind in ("str", "seq", "map"))


def _short(data: Any) -> bool:
    """Whether something reads well in one line."""
    inner = data.values() if isinstance(data, dict) else data
    return (
        all(not isinstance(each, dict | list) or (_plain(each) and len(each) <= 8) for each in inner)
        and len(str(data)) <= 100
    )


def _plain(data: Any) -> bool:
    inner = data.values() if isinstance(data, dict) else data
    return all(not isinstance(each, dict | list) for each in inner)


_Dumper.add_representer(str, _text)
_Dumper.add_representer(list, _list)
_Dumper.add_representer(_Lines, _list)
_Dumper.add_representer(dict, _mapping)
_Dumper.add_representer(_Parts, _mapping)


# Reading ----------------------------------------------------------------------------------------


def read(text: str, name: str = "the routine") -> Routine:
    """A routine that somebody wrote. Raises BadInput with line and column where it is none."""
    if len(text) > MOST_SIGNS:
        raise BadInput(
            f"This has {len(text):,} characters; a routine has at most {MOST_SIGNS:,}.",
            remedy="Part it: one routine can be run behind the other.",
            where=Place(name),
        )
    reading, node = _Reading(name), _composed(text, name)
    if not isinstance(node, yaml.MappingNode):
        raise BadInput("This is no routine.", remedy=f"It begins with “{HEAD}: {VERSION}”.", where=Place(name))
    parts = dict(reading.pairs(node))
    version = parts.get(HEAD)
    if version is None:
        raise BadInput("This is no routine.", remedy=f"It begins with “{HEAD}: {VERSION}”.", where=Place(name))
    if reading.plain(version) != str(VERSION):
        raise BadInput(
            f"This routine is of version {reading.plain(version)}; this Row Tag reads version {VERSION}.",
            remedy="Update Row Tag.",
            where=reading.place(version),
        )
    for part, found in parts.items():
        if part not in PARTS:
            raise BadInput(
                f"A routine has no part “{part}”.", remedy=f"Its parts: {', '.join(PARTS)}.", where=reading.place(found)
            )
    steps = parts.get("steps")
    if not isinstance(steps, yaml.SequenceNode):
        raise BadInput(
            "A routine has a list of steps.", remedy="steps:, and each begins with “- do:”.", where=Place(name)
        )
    return Routine(
        study=str(reading.plain(parts["study"]) or "") if "study" in parts else "",
        steps=tuple(reading.steps(steps)),
        strays={each: _listed(texts) for each, texts in reading.mapping(parts.get("strays")).items()},
        hand_over=reading.mapping(parts["hand over"]) if "hand over" in parts else None,
    )


@dataclass(frozen=True)
class _Reading:
    """Reads nodes, and says of each where it stands."""

    file: str

    def place(self, node: yaml.Node) -> Place:
        mark = node.start_mark
        assert mark is not None
        return Place(self.file, row=mark.line + 1, character=mark.column + 1)

    def steps(self, node: yaml.SequenceNode) -> Iterator[WrittenStep]:
        for each in node.value:
            says = self.plain(each)
            if not isinstance(says, dict) or "do" not in says:
                raise BadInput("A step says what it does.", remedy="It begins with “do:”.", where=self.place(each))
            yield WrittenStep(says, self.place(each).row or 0)

    def mapping(self, node: yaml.Node | None) -> dict[str, Any]:
        found = {} if node is None else self.plain(node)
        if not isinstance(found, dict):
            assert node is not None
            raise BadInput("Here names are expected, each with what it stands for.", where=self.place(node))
        return found

    def pairs(self, node: yaml.MappingNode) -> Iterator[tuple[str, yaml.Node]]:
        met: set[str] = set()
        for key, value in node.value:
            if not isinstance(key, yaml.ScalarNode):
                raise BadInput("A name is a text.", where=self.place(key))
            if key.value in met:
                raise BadInput(f"“{key.value}” stands here twice.", remedy="Leave one out.", where=self.place(key))
            met.add(key.value)
            yield key.value, value

    def plain(self, node: yaml.Node) -> Any:
        """What a node holds: texts, lists, mappings; nothing (None) where nothing, `null` or `~` stands unquoted."""
        if isinstance(node, yaml.MappingNode):
            return {key: self.plain(value) for key, value in self.pairs(node)}
        if isinstance(node, yaml.SequenceNode):
            return [self.plain(each) for each in node.value]
        assert isinstance(node, yaml.ScalarNode)
        return None if node.style is None and node.value in ("", "null", "~") else node.value


def _listed(found: Any) -> tuple[str, ...]:
    """The texts of a list, which may be one text alone, or nothing."""
    return tuple(map(str, found if isinstance(found, list) else [] if found is None else [found]))


class _Loader(yaml.SafeLoader):
    """Refuses on the way what can name, repeat or make anything but texts, lists and mappings; and what nests without
    end."""

    def __init__(self, text: str, name: str) -> None:
        super().__init__(text)
        self._said, self._file, self._depth = text, name, 0

    def get_event(self) -> yaml.Event:
        """The next event, which is looked at."""
        event: yaml.Event = super().get_event()  # type: ignore[no-untyped-call]
        mark = event.start_mark
        assert mark is not None
        where = Place(self._file, row=mark.line + 1, character=mark.column + 1)
        if isinstance(event, yaml.AliasEvent) or getattr(event, "anchor", None):
            raise BadInput("Anchors and aliases (& and *) mean nothing here.", remedy="Write it out.", where=where)
        if getattr(event, "tag", None):
            raise BadInput("Tags (!) mean nothing here.", remedy="Leave it out.", where=where)
        self._depth += isinstance(event, yaml.CollectionStartEvent) - isinstance(event, yaml.CollectionEndEvent)
        if self._depth > DEEPEST:
            raise BadInput("This nests too deeply for a routine.", where=where)
        if isinstance(event, yaml.DocumentStartEvent) and event.explicit and mark.line > 0 and mark.index > 0:
            _refuse_second(self._said, mark.index, where)
        return event


def _composed(text: str, name: str) -> yaml.Node | None:
    """The node that a text holds. Raises BadInput where it cannot be read."""
    try:
        loader = _Loader(text, name)
        try:
            return loader.get_single_node()
        finally:
            loader.dispose()
    except yaml.MarkedYAMLError as error:
        raise _unreadable(error, name) from None
    except yaml.reader.ReaderError as error:
        raise BadInput(f"Here stands a character that no text has ({error.reason}).", where=Place(name)) from None


def _refuse_second(text: str, index: int, where: Place) -> None:
    before = [line for line in text[:index].splitlines() if line.strip() and not line.lstrip().startswith(("#", "%"))]
    if before:
        raise BadInput("A file holds one routine.", remedy="Put the second one into a file of its own.", where=where)


def _unreadable(error: yaml.MarkedYAMLError, name: str) -> BadInput:
    mark = error.problem_mark or error.context_mark
    place = Place(name) if mark is None else Place(name, row=mark.line + 1, character=mark.column + 1)
    return BadInput(
        f"This is not readable: {error.problem or error.context}.",
        remedy="Look at indents, and put texts with colons or brackets into quotes.",
        where=place,
    )
