"""What a document says in its own words, as the parts of a tag."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import replace
from itertools import pairwise
from typing import Any

from rowtag.core.propose.orders import natural_order
from rowtag.core.tag import MOST_LABEL, MOST_TEXT, CodeLine, Level, Limits, MissingLine, Parts, Type, can_end
from rowtag.documents.codes import NUMBERED, Code
from rowtag.documents.hands.found import Said
from rowtag.documents.reasons import missing_reason

LEVELS: dict[str, Level] = {
    "nominal": "nominal", "ordinal": "ordinal", "interval": "interval", "ratio": "ratio", "categorical": "nominal",
    "binary": "nominal", "dichotomous": "nominal", "factor": "nominal", "ordered factor": "ordinal",
}  # fmt: skip
TYPES: dict[str, Type] = {
    "integer": "integer", "int": "integer", "whole number": "integer", "decimal": "decimal", "float": "decimal",
    "double": "decimal", "real": "decimal", "string": "text", "text": "text", "free text": "text", "character": "text",
    "char": "text", "date": "date", "time": "time", "datetime": "datetime", "timestamp": "datetime",
}  # fmt: skip
_USUAL_NINES = frozenset({8, 9, 88, 98, 99, 888, 998, 999, 9998, 9999})


def said_level(word: str) -> Level | None:
    """The level that a word names."""
    return LEVELS.get(word.casefold().strip(" ."))


def said_type(word: str) -> Type | None:
    """The type that a word names."""
    return TYPES.get(re.sub(r"\(.*\)|\d+$", "", word.casefold()).strip(" ."))


def parts_from(said: Said, given: Mapping[str, Any]) -> Parts:
    """Parts of a tag: those given, and the codes, missing codes and limits that were said. What is longer than can be
    kept, such as a page that nothing divides, is cut."""
    parts = dict(given)
    for name, most in (("label", MOST_LABEL), ("question", MOST_TEXT)):
        if len(parts.get(name) or "") > most:
            parts[name] = f"{parts[name][: most - 1]}…"
    codes, missing = _parted([code for code in said.codes if _can_be(code)])
    if codes:
        parts["codes"] = tuple(CodeLine(code=c.code, low=c.low, high=c.high, label=c.label) for c in codes)
    if missing:
        parts["missing"] = tuple(
            MissingLine(code=c.code, low=c.low, high=c.high, label=c.label, reason=c.reason or "other") for c in missing
        )
    if said.limits and (not codes or said.bounded):
        low, high = (end if end and can_end(end) else None for end in said.limits)
        if low or high:
            parts["limits"] = Limits(low=low, high=high)
    if "level" not in parts and (level := _level(codes)):
        parts["level"] = level
    return Parts.model_validate(parts)


def _can_be(code: Code) -> bool:
    """Whether something that was said to be a code can be one: what bounds nothing, or is empty, is no code."""
    ends = [end for end in (code.low, code.high) if end is not None]
    return bool(code.code) if code.code is not None else bool(ends) and all(map(can_end, ends))


def _parted(codes: Sequence[Code]) -> tuple[list[Code], list[Code]]:
    """Codes of answers, and those of missing ones. "Don't know" stands for a missing answer where its code is apart."""
    numbers = sorted(_value(code) for code in codes if code.reason is None and _numeric(code) and not _likely(code))
    answers: list[Code] = []
    missing: list[Code] = []
    for code in codes:
        reason = code.reason
        if reason is None and _numeric(code) and (likely := _likely(code)):
            value = _value(code)
            apart = (
                value in _USUAL_NINES
                or bool(re.fullmatch(r"9{2,}[6-9]", code.code or ""))
                or (numbers and value > numbers[-1] + 1)
                or (value < 0 <= min(numbers, default=0))
            )
            reason = likely if apart else None
        (missing if reason else answers).append(code if code.reason == reason else replace(code, reason=reason))
    return answers, missing


def _numeric(code: Code) -> bool:
    return bool(code.code and NUMBERED.fullmatch(code.code))


def _value(code: Code) -> float:
    return float(code.code or 0)


def _likely(code: Code) -> Any:
    return missing_reason(code.label)[0]


def _level(codes: Sequence[Code]) -> Level | None:
    """Ordinal where the labels are words of one scale, in its order or against it."""
    labels = [code.label for code in codes if code.label]
    found = natural_order(labels) if len(labels) >= 3 else None
    if found is None or None in found[1]:
        return None
    ranks = [rank for rank in found[1] if rank is not None]
    ordered = ranks in (sorted(set(ranks)), sorted(set(ranks), reverse=True))
    return "ordinal" if ordered and all(a != b for a, b in pairwise(ranks)) else None
