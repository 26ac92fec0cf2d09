"""Scales of which only the ends are said, or as many labels as codes: `1 (never) to 5 (always)`, `0/1 = no/yes`."""

import re
from collections.abc import Iterator

from rowtag.documents.hands.found import NUMBER, Found, as_codes

_TO = r"(?:to|-+|…|\.\.\.|through|until|,?\s*\.\.\.?,?|;\s*and|,?\s+and)"
_SHORT = r"[A-Za-z][^(),;:=\n]{1,50}?"
_WORDS = r"[A-Za-z][\w ]{1,40}"
_LOW = rf"\((?P<x>[^()]{{1,80}})\)|=\s*(?P<x2>[^,;()=\n]{{1,80}}?)|,\s*(?P<x3>{_SHORT}),|\s(?P<x4>{_WORDS}?)"
_HIGH = rf"\((?P<y>[^()]{{1,80}})\)|=\s*(?P<y2>[^,;()=\n]{{1,80}})|,\s*(?P<y3>{_SHORT})(?=[.,;?)]|$)|\s(?P<y4>{_WORDS})"
_ENDS = re.compile(
    rf"(?:\b(?:on )?(?:a )?(?:scale )?(?:of |from )|[(\[,;:]?\s*)(?<![\w.])(?<!\d[-–,])(?<!\d--)"
    rf"[\"'`]?(?P<a>{NUMBER})[\"'`]?\s*(?:{_LOW})\s*(?P<to>{_TO})\s*[\"'`]?(?P<b>{NUMBER})[\"'`]?\s*(?:{_HIGH})",
    re.I,
)
_WORD_ENDS = re.compile(
    rf"(?:\bfrom\s+|^|(?<=[,;:(] )|(?<=[,;:(]))(?P<x>{_SHORT})\s*\((?P<a>{NUMBER})\)\s*(?:to|-+|…|\.\.\.)\s*"
    rf"(?P<y>{_SHORT})\s*\((?P<b>{NUMBER})\)",
    re.I,
)
_WORD_SIGNED = re.compile(
    rf"(?:^|(?<=[(\[:,;]))\s*(?P<x>{_SHORT})\s?=\s?(?P<a>{NUMBER})\s?(?:-+|to|…|\.\.\.)\s?(?P<y>{_SHORT})\s?=\s?(?P<b>{NUMBER})"
    r"(?=\s*(?:[)\].;]|$))",
    re.I,
)
_QUOTE = r"(?:`|'|\"|‘|“|’|”)?"
_MEANT = re.compile(
    rf"(?P<a>{NUMBER})`?\s*(?:-|:|to)\s*`?(?P<b>{NUMBER})`?,?\s*(?:with meanings? (?:of )?|ranging from |from )"
    rf"{_QUOTE}(?P<x>{_WORDS}?){_QUOTE} to {_QUOTE}(?P<y>{_WORDS}?)(?:`|'|\"|’|”|\.|,|;|$)"
)
_ZIP = re.compile(
    r"(?:^|(?<=[\s(:;,]))(?P<codes>[^\s/=()]{1,12}(?:/[^\s/=()]{1,12})+)\s*=\s*"
    r"(?P<labels>[^/=(),;]{1,40}(?:/[^/=(),;.]{1,40})+)"
)
_FOR = re.compile(
    r"(?:^|(?<=[\s(:;,]))(?P<codes>[^\s/=(),]{1,12}(?:/[^\s/=(),]{1,12})+)\s+(?:for|meaning|stands? for)\s+"
    r"(?P<labels>[^/=(),;.]{1,40}(?:(?:/|,\s+(?:and\s+|or\s+)?|\s+(?:and|or)\s+)[^/=(),;.]{1,40})+)"
)
_LISTED = re.compile(r"/|,\s+(?:and\s+|or\s+)?|\s+(?:and|or)\s+")
_SPAN = re.compile(r"(?:^|(?<=[\s(,;:]))(?P<a>\d{1,2})\s*(?:-|to)\s*(?P<b>\d{1,2})\s*[:=]\s*(?P<words>[^;:=()\n]+)")


def see(text: str) -> Iterator[Found]:
    """All scales of this hand."""
    for found in _ENDS.finditer(text):
        x = next(name for name in ("x", "x2", "x3", "x4") if found[name])
        y = next(name for name in ("y", "y2", "y3", "y4") if found[name])
        told = x in ("x", "x2") and y in ("y", "y2")
        if x == "x4" and "and" in found["to"]:
            continue  # "500 poor and 600 rich" counts something
        yield from _ends(found, found[x], found[y], 0.985 if told else 0.6)
    for pattern in (_WORD_ENDS, _WORD_SIGNED, _MEANT):
        for found in pattern.finditer(text):
            yield from _ends(found, found["x"], found["y"], 0.9)
    for found in _ZIP.finditer(text):
        yield from _all(found, found["codes"].split("/"), found["labels"].split("/"))
    for found in _FOR.finditer(text):
        yield from _all(found, found["codes"].split("/"), _LISTED.split(found["labels"]))
    for found in _SPAN.finditer(text):
        first, last = int(found["a"]), int(found["b"])
        words = [word for word in re.split(r",|;|/", found["words"]) if word.strip()]
        if last - first + 1 == len(words) >= 2:
            yield from _all(found, [str(first + n) for n in range(len(words))], words)


def _ends(found: re.Match[str], low: str, high: str, sure: float) -> Iterator[Found]:
    codes = as_codes([(found["a"], low), (found["b"], high)])
    if codes and float(found["b"]) - float(found["a"]) >= 2:
        yield Found(found.start(), found.end(), codes, sure=sure, ends_only=True)


def _all(found: re.Match[str], codes: list[str], labels: list[str]) -> Iterator[Found]:
    pairs = as_codes(list(zip(codes, labels, strict=True))) if len(codes) == len(labels) else ()
    if pairs:
        yield Found(found.start(), found.end(), pairs, sure=0.95)
