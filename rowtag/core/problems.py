"""What is wrong with something given, in sentences of our own: one for each thing, with its place."""

from collections.abc import Iterable, Sequence
from typing import Any

from pydantic import ValidationError

_SAID = {
    "missing": "is wanted",
    "extra_forbidden": "is not known here",
    "string_type": "must be text",
    "int_type": "must be a whole number",
    "int_parsing": "must be a whole number",
    "int_from_float": "must be a whole number",
    "float_type": "must be a number",
    "float_parsing": "must be a number",
    "bool_type": "must be true or false",
    "bool_parsing": "must be true or false",
    "none_required": "must be left out",
    "dict_type": "must hold names with their values",
    "mapping_type": "must hold names with their values",
    "model_type": "must hold parts with their values",
    "model_attributes_type": "must hold parts with their values",
    "list_type": "must be a list",
    "tuple_type": "must be a list",
    "string_pattern_mismatch": "must hold something that can be seen",
    "union_tag_not_found": "must say what it does",
}
"""How we say what the checking of models calls by these names."""


def sentences(errors: Iterable[Any], begin: int = 0) -> list[str]:
    """Each problem in a sentence without its stop: the place, from its part `begin` on, and what is wrong there."""
    out = []
    for error in errors:
        if error["type"] == "json_invalid":  # whose place is a character
            out.append(f"what was sent is not well-formed JSON, at character {error['loc'][-1]}")
            continue
        place = _place(error["loc"][begin:])
        out.append(f"{place or 'what was given'} {_said(error)}")
    return list(dict.fromkeys(out))


def problems(error: ValidationError) -> str:
    """All problems of something given, in one line."""
    return "; ".join(sentences(error.errors()))


def _place(loc: Sequence[int | str]) -> str:
    """A place in words: the part of a step, or the number of a line, from 1."""
    inner = loc[2:] if loc[:1] == ("step",) and len(loc) > 2 else loc  # the kind of a step says nothing of the place
    named = (part for part in inner if part != "parts" and not _is_choice(part))
    return " ".join(str(part + 1) if isinstance(part, int) else part for part in named)


def _is_choice(part: object) -> bool:
    """Whether a part of a place only says which of several types was tried."""
    return isinstance(part, str) and ("[" in part or part in ("str", "int", "float", "bool", "none"))


def _said(error: Any) -> str:
    kind, given = error["type"], error.get("ctx", {})
    if kind in _SAID:
        return _SAID[kind]
    if kind == "value_error":
        return f"cannot be used: {given['error']}"
    if kind in ("literal_error", "enum"):
        return f"must be one of {given['expected']}".replace(" or ", ", ")
    if kind == "union_tag_invalid":
        return f"cannot be {given['tag']!r}; known are {given['expected_tags']}"
    if kind in ("too_short", "string_too_short"):
        return f"needs at least {given['min_length']:,}"
    if kind in ("too_long", "string_too_long"):
        return f"has more than the {given['max_length']:,} allowed"
    for word, key in (("at least", "ge"), ("more than", "gt"), ("at most", "le"), ("less than", "lt")):
        if key in given:
            return f"must be {word} {given[key]:,}"
    return "cannot be used as it is"
