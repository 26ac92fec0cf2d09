"""Indicators: `=1 if …`, `equals 1 if …`, `1 if …, 0 otherwise`, `dummy for …`."""

import re
from collections.abc import Iterator

from rowtag.documents.hands.found import NUMBER, QUOTED, Found, as_codes, lead_before

_IF = re.compile(
    r"^(?:(?:dummy(?: variable)?|indicator|binary)?[,:]?\s*(?:=|equals?|equal to|is|takes? (?:the )?value)"
    r"|(?:dummy(?: variable)?|indicator|binary)[,:])\s*"
    rf"(?P<code>{NUMBER})\s*"
    r"(?:,?\s*(?P<if>if|when|for|where)\s+)(?P<label>[^;\n]{1,120}?)"
    r"(?:[,;]\s*(?:and\s+)?(?:=\s*)?(?P<other>\d)\s*(?P<else>otherwise|if not|else))?\.?$",
    re.I,
)
_ASIDE = re.compile(
    rf"\(\s*=\s*(?P<code>{NUMBER})\s+(?:if|when|for)\s+(?P<label>[^;,()]{{1,80}})"
    r"(?:[;,]\s*(?:and\s+)?=?\s*(?P<other>\d)\s*(?P<else>otherwise|if not|else))?\s*\)",
    re.I,
)
_EITHER = re.compile(
    rf"(?P<code>{NUMBER}|{QUOTED})\s+(?:if|when|for)\s+(?P<label>[^;,\n]{{1,80}}?)[;,]?\s+(?:and\s+)?"
    rf"(?P<other>{NUMBER}|{QUOTED})\s+(?P<else>otherwise|if not|else)\b",
    re.I,
)
_BACK = re.compile(rf"(?P<sep>[;,(.]\s*)(?P<code>{NUMBER})\s+(?:if|when)\s+(?P<label>[^;,.()]{{1,80}})\)?\.?\s*$")


def what(text: str) -> str:
    """What an indicator tells, where the text is nothing but one: then that is its meaning."""
    found = _IF.match(text.strip())
    return found["label"].strip() if found else ""


def see(text: str) -> Iterator[Found]:
    """An indicator as a whole text; or the last clause of one."""
    if found := _ASIDE.search(text):
        pairs = [(found["code"], found["label"]), *([(found["other"], found["else"])] if found["other"] else [])]
        if codes := as_codes(pairs):
            yield Found(found.start(), found.end(), codes, sure=0.9)
    if (found := _EITHER.search(text)) and (
        codes := as_codes([(found["code"], found["label"]), (found["other"], found["else"])])
    ):
        yield Found(lead_before(text, found.start()), found.end(), codes, sure=0.9)
    if found := _IF.match(text.strip()):
        pairs = [(found["code"], found["label"])]
        if found["other"]:
            pairs.append((found["other"], found["else"]))
        if codes := as_codes(pairs):
            yield Found(0, len(text), codes, sure=0.9)
    if (found := _BACK.search(text)) and (codes := as_codes([(found["code"], found["label"])])):
        yield Found(found.start(), found.end(), codes, sure=0.62)
