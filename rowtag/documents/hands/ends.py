"""Scales of which only the ends are said, or as many labels as codes: `1 (never) to 5 (always)`, `0/1 = no/yes`."""

import re
from collections.abc import Iterator

from rowtag.documents.hands.found import NUMBER, Found, as_codes

_TO = r"(?:to|-+|…|\.\.\.|through|until|,?\s*\.\.\.?,?|;\s*and|,?\s+and)"
_SHORT = r"[A-Za-z][^(),;:=\n]{1,50}?"
_ENDS = re.compile(
    rf"(?:\b(?:on )?(?:a )?(?:scale )?(?:of |from )|[(\[,;:]?\s*)"
    rf"(?P<a>{NUMBER})\s*(?:\((?P<x>[^()]{{1,80}})\)|=\s*(?P<x2>[^,;()=\n]{{1,80}}?)|,\s*(?P<x3>{_SHORT}),|\s(?P<x4>[A-Za-z][\w ]{{1,40}}?))\s*{_TO}\s*"
    rf"(?P<b>{NUMBER})\s*(?:\((?P<y>[^()]{{1,80}})\)|=\s*(?P<y2>[^,;()=\n]{{1,80}})|,\s*(?P<y3>{_SHORT})(?=[.,;?)]|$)|\s(?P<y4>[A-Za-z][\w ]{{1,40}}))",
    re.I,
)
_WORD_ENDS = re.compile(
    rf"(?:\bfrom\s+|^|(?<=[,;:(] )|(?<=[,;:(]))(?P<x>{_SHORT})\s*\((?P<a>{NUMBER})\)\s*(?:to|-+|…|\.\.\.)\s*"
    rf"(?P<y>{_SHORT})\s*\((?P<b>{NUMBER})\)",
    re.I,
)
_MEANT = re.compile(
    rf"(?P<a>{NUMBER})`?\s*(?:-|:|to)\s*`?(?P<b>{NUMBER})`?,?\s*(?:with meanings? (?:of )?|ranging from |from )"
    r"(?:`|'|\"|‘|“)?(?P<x>[A-Za-z][\w ]{1,40}?)(?:`|'|\"|’|”)? to (?:`|'|\"|‘|“)?(?P<y>[A-Za-z][\w ]{1,40}?)(?:`|'|\"|’|”|\.|,|;|$)"
)
_ZIP = re.compile(
    r"(?:^|(?<=[\s(:;,]))(?P<codes>[^\s/=()]{1,12}(?:/[^\s/=()]{1,12})+)\s*=\s*"
    r"(?P<labels>[^/=(),;]{1,40}(?:/[^/=(),;.]{1,40})+)"
)
_SPAN = re.compile(r"(?:^|(?<=[\s(,;:]))(?P<a>\d{1,2})\s*(?:-|to)\s*(?P<b>\d{1,2})\s*[:=]\s*(?P<words>[^;:=()\n]+)")


def see(text: str) -> Iterator[Found]:
    """All scales of this hand."""
    for found in _ENDS.finditer(text):
        x = next(name for name in ("x", "x2", "x3", "x4") if found[name])
        y = next(name for name in ("y", "y2", "y3", "y4") if found[name])
        codes = as_codes([(found["a"], found[x]), (found["b"], found[y])])
        if codes and float(found["b"]) - float(found["a"]) >= 2:
            told = x in ("x", "x2") and y in ("y", "y2")
            yield Found(found.start(), found.end(), codes, sure=0.985 if told else 0.6, ends_only=True)
    for found in (*_WORD_ENDS.finditer(text), *_MEANT.finditer(text)):
        codes = as_codes([(found["a"], found["x"]), (found["b"], found["y"])])
        if codes and float(found["b"]) - float(found["a"]) >= 2:
            yield Found(found.start(), found.end(), codes, sure=0.9, ends_only=True)
    for found in _ZIP.finditer(text):
        codes, labels = found["codes"].split("/"), found["labels"].split("/")
        if len(codes) == len(labels) and (pairs := as_codes(list(zip(codes, labels, strict=True)))):
            yield Found(found.start(), found.end(), pairs, sure=0.95)
    for found in _SPAN.finditer(text):
        first, last = int(found["a"]), int(found["b"])
        words = [word for word in re.split(r",|;|/", found["words"]) if word.strip()]
        if last - first + 1 == len(words) >= 2 and (
            pairs := as_codes([(str(first + n), w) for n, w in enumerate(words)])
        ):
            yield Found(found.start(), found.end(), pairs, sure=0.95)
