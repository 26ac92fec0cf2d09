"""Categories that stand for themselves: in code face or quotes, or behind words such as "levels"."""

import re
from collections.abc import Iterator, Sequence

from rowtag.documents.codes import Code, tidied
from rowtag.documents.hands.found import LEAD, NUMBER, QUOTED, Found, lead_before, unquoted

_ONE = rf"(?:{QUOTED})"
_RUN = re.compile(
    rf"(?:c\()?{_ONE}(?:\s*\([^()]{{1,80}}\))?"
    rf"(?:(?:\s*[,;/<]\s*|\s+|(?<=`)(?=`))(?:(?:and|or|vs\.?|<)\s*(?![\w]))?(?:(?:…|\.\.\.|`?\.\.\.`?)\s*[,<]?\s*)?{_ONE}(?:\s*\([^()]{{1,80}}\))?)+\)?`?"
)
_ITEM = re.compile(rf"(?P<code>{_ONE})(?:\s*\((?P<aside>[^()]{{1,80}})\))?")
_MEANING = re.compile(
    r"\s*,?\s*(?:representing|for|standing for|meaning|denoting|respectively)\s*:?\s*(?P<labels>[^.;]+)", re.I
)
_LEVELS = re.compile(
    r"(?:levels|categories|values|grouped as|one of|factor(?=\s*:))\s*(?:of|are|:)?\s*\(?"
    r"(?P<words>[^.;()`\"]{3,200}?)(?=[.;)]|$|\s+-\s)",
    re.I,
)
_EITHER = "yes|no|true|false|male|female|m|f|y|n"
_TWO = re.compile(rf"(?P<a>{_EITHER})\s*(?:/|,|\bor\b|;)\s*(?P<b>{_EITHER})\.?", re.I)
_ASIDE = re.compile(rf"\((?P<a>{_EITHER})\s*(?:/|,|\bor\b)\s*(?P<b>{_EITHER})\)", re.I)
_VALUES = re.compile(
    rf"[(\[]?\s*\b(?:value|values|coded|code)s?(?:\s+as)?\s+(?P<codes>{NUMBER}(?:(?:\s*,\s*(?:and|or)\s|\s*(?:or|/|and|,))\s*{NUMBER})+)"
    r"\s*[)\]]?(?!\s*(?:[=:%]|per ?cent))(?![\w.]*\d)",
    re.I,
)
_COUNTED = re.compile(rf"[:(]\s*(?P<codes>{NUMBER}(?:,\s*{NUMBER})*,?\s+(?:or|and)\s+{NUMBER})\s*[.)]?$")
_ZERO_ONE = re.compile(r"(?:^|(?<=[\s,;:(\[]))0\s?[/-]\s?1(?=$|[\s,;.)\]])(?!\s*=)")
_SLASHED = re.compile(rf"[(\[](?P<codes>{NUMBER}(?:\s*/\s*{NUMBER})+)[)\]]")
_CVECTOR = re.compile(r"`?c\((?P<inner>[^()]*)\)`?")


def see(text: str) -> Iterator[Found]:
    """All categories that stand for themselves."""
    for found in _CVECTOR.finditer(text):
        words = re.findall(r"[^\",]+", found["inner"].replace('"', ",")) if '"' in found["inner"] else []
        words = [word.strip() for word in words if word.strip()]
        if len(words) > 1 and len(set(words)) == len(words):
            yield _bare(text, found.start(), found.end(), [(word, "") for word in words], 0.92)
    for found in _RUN.finditer(text):
        if one := _run(text, found):
            yield one
    for found in (each for pattern in (_VALUES, _SLASHED, _COUNTED) for each in pattern.finditer(text)):
        codes = tuple(Code("", code=code) for code in re.findall(NUMBER, found["codes"]))
        fraction = found.re is _SLASHED and not _counting(codes)
        if len({code.code for code in codes}) == len(codes) and not fraction:
            yield Found(found.start(), found.end(), codes, sure=0.8)
    for found in _ZERO_ONE.finditer(text):
        yield Found(found.start(), found.end(), (Code("", code="0"), Code("", code="1")), sure=0.8)
    if whole := _TWO.fullmatch(text.strip(" .?")):
        yield Found(0, len(text), (Code("", code=whole["a"]), Code("", code=whole["b"])), sure=0.8)
    for found in _ASIDE.finditer(text):
        yield Found(found.start(), found.end(), (Code("", code=found["a"]), Code("", code=found["b"])), sure=0.75)
    for found in _LEVELS.finditer(text):
        words = [word.strip(" `'\"") for word in re.split(r",|/|<|\band\b|\bor\b|\|", found["words"]) if word.strip()]
        fits = len(words) >= 2 and all(0 < len(word.split()) <= 4 and not re.search(r"[=:]", word) for word in words)
        if fits and len(set(words)) == len(words) and not _prose(words):
            bracketed = text[found.start("words") - 1] == "("
            start = found.start() if bracketed else found.start("words")
            yield _bare(text, start, found.end("words"), [(word, "") for word in words], 0.7)


def _counting(codes: Sequence[Code]) -> bool:
    values = [float(code.code or 0) for code in codes]
    return abs(values[-1] - values[0]) == len(values) - 1


def _prose(words: list[str]) -> bool:
    return any(re.match(r"(?:the|a|an|in|of|from|to|that|which|is|are)\b", word, re.I) for word in words)


def _run(text: str, found: re.Match[str]) -> Found | None:
    items = list(_ITEM.finditer(found[0]))
    pairs = [(unquoted(one["code"]), one["aside"] or "") for one in items]
    codes = [code for code, _ in pairs]
    if len(set(codes)) != len(codes) or any(not code for code in codes):
        return None
    before = text[: found.start()]
    led = bool(LEAD.search(before)) or before.rstrip().endswith(("(", ":"))
    whole = not before.strip(" (") and not text[found.end() :].strip(" ).")
    counted = re.search(r"\b(?:levels|categories|values)\b", before[-60:]) is not None
    if not (led or whole or counted):
        return None
    end = found.end()
    meant = _MEANING.match(text, end)
    if meant and not any(aside for _, aside in pairs):
        labels = [
            label.strip()
            for label in re.split(r",\s*(?:and\s+|or\s+)?|\s+(?:and|or)\s+", meant["labels"])
            if label.strip()
        ]
        if len(labels) == len(pairs):
            pairs = list(zip(codes, labels, strict=True))
            end = meant.end()
    ends_only = "..." in found[0] or "…" in found[0]
    one = _bare(text, found.start(), end, pairs, 0.9)
    return Found(one.start, one.end, one.codes, sure=0.9, ends_only=ends_only)


def _bare(text: str, start: int, end: int, pairs: list[tuple[str, str]], sure: float) -> Found:
    codes = tuple(Code(tidied(label) if label else "", code=code) for code, label in pairs)
    begin = lead_before(text, start)
    if text[end : end + 1] == ")" and text[begin:start].count("(") > text[begin:start].count(")"):
        end += 1
    elif text[end : end + 1] == ")" and begin and text[begin - 1] == "(":
        begin, end = begin - 1, end + 1
    return Found(begin, end, codes, sure=sure)
