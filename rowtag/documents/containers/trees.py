"""Trees of keys and values (.yaml, .toml, .json that follows no standard): variables with their parts, as a table."""

import tomllib
from collections.abc import Iterator, Mapping, Sequence
from pathlib import Path
from typing import Any

import orjson
import yaml

from rowtag.core.errors import Place, UnreadableFile
from rowtag.documents.containers.neutral import Neutral
from rowtag.documents.table import Role, roles_of
from rowtag.formats.table import Watch, unwatched

_COLUMNS: tuple[Role, ...] = (
    "name", "label", "question", "type", "level", "codes", "missing", "minimum", "maximum", "limits", "note",
)  # fmt: skip
MOST_ALIASES = 1_000
"""References within a .yaml that are followed."""
_DEEPEST = 40
"""Levels of a tree that are looked into."""


def text_of(path: Path, name: str, _watch: Watch = unwatched) -> str:
    """A tree as plain text. Raises UnreadableFile where it is none, or describes no variables."""
    data = path.read_bytes()
    try:
        tree = _parsed(data, Path(name.lower()).suffix)
    except (yaml.YAMLError, tomllib.TOMLDecodeError, orjson.JSONDecodeError, ValueError, RecursionError) as error:
        raise UnreadableFile(
            f"This is not written as {Path(name).suffix[1:].upper()} is: {str(error).splitlines()[0][:200]}.",
            remedy="Look at the place that it names.",
            where=Place(name),
        ) from error
    found = max(_collections(tree, 0), key=len, default=[])
    if not found:
        raise UnreadableFile(
            "Nothing in this file describes variables.",
            remedy="Variables want a name each, with keys such as label, codes, missing below it.",
            where=Place(name),
        )
    out = Neutral()
    used = [column for column in _COLUMNS if column == "name" or any(each.get(column) for each in found)]
    out.table([list(used), *([each.get(column, "") for column in used] for each in found)])
    return out.text()


def _parsed(data: bytes, ending: str) -> Any:
    if ending == ".toml":
        return tomllib.loads(data.decode("utf-8-sig"))
    if ending == ".json":
        return orjson.loads(data)
    if data.count(b"*") > MOST_ALIASES and data.count(b"&"):
        raise ValueError("it refers to itself too often")
    return yaml.safe_load(data)


def _collections(tree: Any, depth: int) -> Iterator[list[dict[str, str]]]:
    """All collections of variables within a tree."""
    if depth > _DEEPEST:
        return
    if isinstance(tree, Mapping):
        keyed = {str(name): each for name, each in tree.items() if isinstance(each, Mapping)}
        found = [_variable({"name": name, **_keys(each)}) for name, each in keyed.items()]
        if len(found) > 1 and sum(len(each) > 1 for each in found) > 0.6 * len(tree):
            yield [each for each in found if len(each) > 1]
        for each in tree.values():
            yield from _collections(each, depth + 1)
    elif isinstance(tree, Sequence) and not isinstance(tree, str | bytes):
        found = [_variable(_keys(each)) for each in tree if isinstance(each, Mapping)]
        named = [each for each in found if each.get("name") and len(each) > 1]
        if len(named) > 1:
            yield named
        for each in tree:
            yield from _collections(each, depth + 1)


def _keys(mapping: Mapping[Any, Any]) -> dict[str, Any]:
    return {str(key): value for key, value in mapping.items()}


def _variable(keys: Mapping[str, Any]) -> dict[str, str]:
    """What keys say of a variable, by the columns that they would be of a table."""
    names = list(keys)
    out: dict[str, str] = {}
    for role, at in roles_of(names).items():
        column: Role = "codes" if role in ("code", "code label") else role
        said = _said(keys[names[at]], column)
        if said and column in _COLUMNS and column not in out:
            out[column] = said
    return out


def _said(value: Any, role: Role) -> str:
    """A value as a cell: codes and missing codes a line each, limits with "to" between."""
    if isinstance(value, Mapping):
        return "\n".join(f"{code} = {_plain(label)}" for code, label in value.items())
    if isinstance(value, Sequence) and not isinstance(value, str | bytes):
        if role == "limits" and len(value) == 2:
            return f"{_plain(value[0])} to {_plain(value[1])}"
        return "\n".join(_pair(each) for each in value)
    return _plain(value)


def _pair(each: Any) -> str:
    if isinstance(each, Mapping):
        values = [_plain(value) for value in each.values()]
        return " = ".join(values[:2])
    if isinstance(each, Sequence) and not isinstance(each, str | bytes):
        return " = ".join(_plain(value) for value in each[:2])
    return _plain(each)


def _plain(value: Any) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    return " ".join(str(value).split())
