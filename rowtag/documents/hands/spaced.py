"""Codes and labels with nothing but a blank between: `1 single, 2 day, 9 refused`, `A (surgery), B (medicine)`."""

import re
from collections.abc import Iterator, Sequence
from itertools import pairwise

from rowtag.documents.hands.found import AHEAD, LEAD, NUMBER, Found, as_codes, closing, lead_before

_BEGIN = re.compile(rf"(?:^|[:;(=]\s*|[.?!]\s+|\bcoded(?: as)?\s+)(?=(?:{NUMBER}|[A-Z])\s+[^\W\d])")
_ITEM = re.compile(
    rf"\s*(?P<code>{NUMBER}|[A-Z])\s+(?P<label>(?!(?:to\s+\d|or|and|equals?|is|if|for|means|indicates?|denotes?)\b)[^\W\d].*)",
    re.S,
)
_BOUNDS = re.compile(rf"{NUMBER}\s*(?:to|-)\s*{NUMBER}")
_PARTED = re.compile(rf"[,;/]\s*(?=(?:{NUMBER}|[A-Z])\s)|\n")
_WORDED = re.compile(r"(?:^|(?<=[\s:,(]))(?P<code>[A-Za-z]\w{0,11})\s*\((?P<label>[^()=]{1,60})\)")
_BEFORE = re.compile(
    rf"\((?P<code>{NUMBER}|[A-Z])\)\s*(?:for|is|means|indicates|denotes|=|:)?\s+(?P<label>[^\d\W][^()=;]{{0,80}}?)"
    r"(?=\s*(?:[,;]\s*(?:and\s+|or\s+)?|\s(?:and|or)\s+)\(|\s*[.;]|\s*$)"
)
_GLUED = re.compile(r"(?:^|(?<=\s))(?P<code>\d{1,2})\s?[-=:.)]\s?(?=[A-Z][a-z])")
_LEVELS = re.compile(r"\blevels?:?\s+(?=[A-Za-z]{1,4}\s+[^\W\d])")
_SHORT = re.compile(r"\s*(?P<code>[A-Za-z]{1,4})\s+(?P<label>[^\W\d].{0,58})")
_PAIR = re.compile(rf"(?P<code>{NUMBER}|[A-Z][A-Za-z]{{0,2}})\s*\((?P<label>[^()=]{{1,60}})\)")
_BETWEEN = re.compile(r"(?:[,;/\s]|\bor\b|\band\b)+")
_SENTENCE = re.compile(r"\.\s+(?=[A-Z])")


def see(text: str) -> Iterator[Found]:
    """All lists of this hand."""
    for begin in _BEGIN.finditer(text):
        if one := _listed(text, begin):
            yield one
            break
    if one := _pairs(text) or _worded(text):
        yield one
    for one in (_bracketed(text), _glued(text), _short(text)):
        if one:
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
    """Codes with their labels in brackets behind them: `A (upper), B (lower)`."""
    found = list(_PAIR.finditer(text))
    if len(found) < 2 or not re.search(r"(?:^|[:;,(]\s*|\bof\s+)$", text[: found[0].start()]):
        return None
    return _in_a_row(text, found, 0.87)


def _worded(text: str) -> Found | None:
    """Words that are codes, what they stand for in brackets behind them: `one of nb (North bank), mi (the mill)`."""
    found = list(_WORDED.finditer(text))
    if len(found) < 3 or not re.search(r"(?:\bone of|\blevels|\bcategories|:)\s*$", text[: found[0].start()], re.I):
        return None
    return _in_a_row(text, found, 0.85)


def _bracketed(text: str) -> Found | None:
    """Codes in brackets before their labels: `(1) for wood, (2) for wire`."""
    found = list(_BEFORE.finditer(text))
    values = [float(one["code"]) for one in found if not one["code"].isalpha()]
    counting = values == [values[0] + n for n in range(len(found))] if values else False
    if len(found) < 2 or not counting or values[0] not in (0.0, 1.0):
        return None
    before = text[: found[0].start()]
    led = LEAD.search(before[-AHEAD:]) or re.search(r"(?:^|[:?])\s*$", before)
    return _in_a_row(text, found, 0.86) if led else None


def _in_a_row(text: str, found: Sequence[re.Match[str]], sure: float) -> Found | None:
    """The list that some items make, where nothing stands between them but signs that part items."""
    if not all(_BETWEEN.fullmatch(text[a.end() : b.start()]) for a, b in pairwise(found)):
        return None
    codes = as_codes([(one["code"], one["label"]) for one in found])
    return Found(lead_before(text, found[0].start()), found[-1].end(), codes, sure=sure) if codes else None


def _glued(text: str) -> Found | None:
    """Codes with a sign and a capital behind them and only blanks before: `1-Owned 2-Leased 3-Shared`."""
    found = list(_GLUED.finditer(text))
    values = sorted(int(one["code"]) for one in found)
    if len(found) < 2 or values != list(range(values[0], values[0] + len(found))) or values[0] > 1:
        return None
    ends = [*(one.start() for one in found[1:]), len(text)]
    pairs = [(one["code"], text[one.end() : end].strip(" ,;./")) for one, end in zip(found, ends, strict=True)]
    codes = as_codes(pairs) if all(0 < len(label) < 60 and not _SENTENCE.search(label) for _, label in pairs) else ()
    return Found(lead_before(text, found[0].start()), len(text), codes, sure=0.7) if codes else None


def _short(text: str) -> Found | None:
    """Letters that begin what they stand for, behind "levels": `levels f female, m male`."""
    begin = _LEVELS.search(text)
    if begin is None:
        return None
    items = [_SHORT.fullmatch(part) for part in re.split(r"[,;]", text[begin.end() :].rstrip(" .")) if part.strip()]
    pairs = [(item["code"], item["label"]) for item in items if item]
    alike = sum(label[0].casefold() == code[0].casefold() for code, label in pairs)
    if len(pairs) < max(2, len(items)) or 2 * alike < len(pairs):
        return None
    codes = as_codes(pairs)
    return Found(lead_before(text, begin.end()), len(text), codes, sure=0.75) if codes else None
