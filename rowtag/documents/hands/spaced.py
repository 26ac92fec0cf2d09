"""Codes and labels with nothing but a blank between: `1 single, 2 day, 9 refused`, `A (surgery), B (medicine)`."""

import re
from collections.abc import Iterator
from itertools import pairwise

from rowtag.documents.hands.found import NUMBER, Found, as_codes, closing, lead_before

_BEGIN = re.compile(rf"(?:^|[:;(=]\s*|[.?!]\s+|\bcoded(?: as)?\s+)(?=(?:{NUMBER}|[A-Z])\s+[^\W\d])")
_ITEM = re.compile(
    rf"\s*(?P<code>{NUMBER}|[A-Z])\s+(?P<label>(?!(?:to\s+\d|equals?|is|if|for|means|indicates?|denotes?)\b)[^\W\d].*)",
    re.S,
)
_BOUNDS = re.compile(rf"{NUMBER}\s*(?:to|-)\s*{NUMBER}")
_PARTED = re.compile(rf"[,;/]\s*(?=(?:{NUMBER}|[A-Z])\s)|\n")
_PAIR = re.compile(rf"(?P<code>{NUMBER}|[A-Z][A-Za-z]{{0,2}})\s*\((?P<label>[^()=]{{1,60}})\)")
_SENTENCE = re.compile(r"\.\s+(?=[A-Z])")


def see(text: str) -> Iterator[Found]:
    """All lists of this hand."""
    for begin in _BEGIN.finditer(text):
        if one := _listed(text, begin):
            yield one
            break
    if one := _pairs(text):
        yield one


def _listed(text: str, begin: re.Match[str]) -> Found | None:
    end = closing(text, begin.end()) if begin[0].rstrip().endswith("(") else len(text)
    stop = _SENTENCE.search(text, begin.end(), end)
    body = text[begin.end() : stop.start() if stop else end]
    parts = [part for part in _PARTED.split(body) if part.strip()]
    bounded = bool(parts) and _BOUNDS.fullmatch(parts[0].strip()) is not None
    items = [_ITEM.fullmatch(part) for part in parts[bounded:]]
    if len(items) < 2 - bounded or not items or not all(items):
        return None
    pairs = [(item["code"], item["label"].strip(" .")) for item in items if item]
    kinds = {code.isalpha() for code, _ in pairs}
    values = [float(code) for code, _ in pairs if not code.isalpha()]
    counting = not values or (values == sorted(values) and values[0] in (0.0, 1.0)) or min(values) < 0
    codes = as_codes(pairs) if len(kinds) == 1 and counting and all(len(label) < 60 for _, label in pairs) else ()
    start = begin.start() + (0 if begin[0].startswith("(") and not bounded else len(begin[0]))
    if bounded:
        start = text.index(parts[1], begin.end())
    if not codes:
        return None
    last = begin.end() + len(body)
    return Found(lead_before(text, start), last + (text[last : last + 1] == ")"), codes, sure=0.86)


def _pairs(text: str) -> Found | None:
    """Codes with their labels in brackets behind them."""
    found = list(_PAIR.finditer(text))
    if len(found) < 2 or not re.search(r"(?:^|[:;,(]\s*|\bof\s+)$", text[: found[0].start()]):
        return None
    gaps = [text[a.end() : b.start()] for a, b in pairwise(found)]
    if not all(re.fullmatch(r"\s*(?:[,;/]|\bor\b|\band\b|\s)+\s*", gap) for gap in gaps):
        return None
    codes = as_codes([(one["code"], one["label"]) for one in found])
    return Found(lead_before(text, found[0].start()), found[-1].end(), codes, sure=0.87) if codes else None
