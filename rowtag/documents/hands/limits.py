"""Limits: `range: 0-80`, `(min: 1, max: 12)`, `(0 to 100)`, `from 1 to 14`, `age: 14-45`, `0 :: 1260`."""

import re
from collections.abc import Iterator

from rowtag.documents.hands.found import AHEAD, Found

_N = r"[-+]?\d{1,9}(?:[.,]\d+)?"
_TO = r"(?:-+|–|to(?: at most)?|and|\.\.+|…|::?|through|bis|und|à|et|do|a)"
_SAID = re.compile(
    r"[(\[,;:.]?\s*(?:(?:(?:valid |possible |admissible )?(?<!normal )(?:range|values?|levels|limits|scale)"
    r"(?: of numbers)?"
    r"(?: is| are)?\s*[:=]?\s*(?:from\s+)?)"
    rf"|(?<!rate is )\b(?:ranging |ranges )?(?:from|between|od|von|zwischen|entre)\s+|\bmin(?:imum)?\s*[:=]?\s*)"
    rf"(?P<a>{_N})\s*(?:{_TO}|,?\s*max(?:imum)?\s*[:=]?)\s*(?P<b>{_N})(?![\d/]|\s*[=%]|-\d)(?P<unit>\s*(?:[a-z%€$]+\b)?)\s*[)\]]?",
    re.I,
)
_BARE = re.compile(
    rf"(?:[(\[]\s*(?:[a-z]+[:,]\s+)?|[,:]\s+|^)(?P<a>{_N})\s*(?:{_TO})\s*(?P<b>{_N})(?P<unit>\s+[a-zA-Z€$%]{{1,12}})?\s*(?:[)\]]|$|(?=[;.]))"
)
_CODED = re.compile(rf"`(?P<a>{_N})\s*:\s*(?P<b>{_N})`")
_CLOCK = re.compile(r"0\d{3}")
_UNLESS = re.compile(r"\b(?:normal|average|mean|usual|typical)\s+\w+\s+(?:is|are|was|were|lies?)\b[^.;(]*$", re.I)


def see(text: str) -> Iterator[Found]:
    """All limits of this hand."""
    for pattern, sure in ((_SAID, 0.8), (_BARE, 0.7), (_CODED, 0.3)):
        for found in pattern.finditer(text):
            low, high = (end.replace(",", ".").lstrip("+") for end in (found["a"], found["b"]))
            if (
                float(low) <= float(high)
                and not _CLOCK.match(low)
                and not _UNLESS.search(text[max(0, found.start() - AHEAD) : found.start()])
                and not _year_span(low, high, text)
            ):
                yield Found(found.start(), found.end(), limits=(low, high), sure=sure)


def _year_span(low: str, high: str, text: str) -> bool:
    """Whether this is when something happened, not how far a value may go."""
    return all(re.fullmatch(r"(?:19|20)\d\d", end) for end in (low, high)) and "year" not in text.lower()
