"""Missing codes told in words: `99 = missing`, `8 and 9 are missing`, `missing: 9999`, `missing: 8 = refused`."""

import re
from collections.abc import Iterator
from dataclasses import replace

from rowtag.documents.codes import Code
from rowtag.documents.hands.found import NUMBER, Found, as_codes
from rowtag.documents.reasons import missing_reason

_SEVERAL = rf"(?:{NUMBER}(?:\s*[,;]\s*(?:(?:and|or|&)\s+)?|\s+(?:and|or|&)\s+)){{0,40}}{NUMBER}"
_BEFORE = re.compile(
    rf"(?P<codes>{_SEVERAL})\s*(?:=|:|are|is|were|was|means?|denotes?|stands? for|indicates?|represents?)\s*"
    r"(?:(?:treated|coded|counted|used|set) (?:as|for|to) )?(?P<said>missing(?: values?| data)?|na|not [a-z]+)\b",
    re.I,
)
_BEHIND = re.compile(
    rf"\bmissing(?: values?| codes?| data)?\s*(?:[:=]|is|are|coded(?: as)?)\s*(?P<codes>{_SEVERAL})(?![\d.]*\s*=)", re.I
)


_LISTED = re.compile(
    rf"\bmissing(?: values?| codes?)?\s*[:=]\s*"
    rf"(?P<list>{NUMBER}\s*[=:]\s*[^.;=]+(?:[;,]\s*{NUMBER}\s*[=:]\s*[^.;=]+)*)",
    re.I,
)
_ITEM = re.compile(rf"(?P<code>{NUMBER})\s*[=:]\s*(?P<label>[^;=]+?)\s*(?=;|,\s*{NUMBER}\s*[=:]|$)")


def see(text: str) -> Iterator[Found]:
    """All missing codes told so."""
    for found in _LISTED.finditer(text):
        pairs = [(one["code"], one["label"]) for one in _ITEM.finditer(found["list"])]
        if codes := as_codes(pairs):
            reasons = [code.reason or missing_reason(code.label)[0] or "other" for code in codes]
            marked = tuple(replace(code, reason=reason) for code, reason in zip(codes, reasons, strict=True))
            yield Found(found.start(), found.end(), marked, sure=0.99)
    for pattern in (_BEFORE, _BEHIND):
        for found in pattern.finditer(text):
            word = found.groupdict().get("said") or ""
            reason = missing_reason(word)[0] if word else None
            if word and reason is None:
                continue
            label = word if word and not word.lower().startswith(("missing", "na")) else ""
            several = re.findall(NUMBER, found["codes"])
            told = tuple(Code(label, code=code, reason=reason or "other") for code in several)
            yield Found(found.start(), found.end(), told, sure=0.75)
