"""What a text says of a variable: its meaning, its codes, its limits. Of all that the hands see, what fits best."""

import re
from dataclasses import replace
from functools import lru_cache

from rowtag.documents.codes import Code
from rowtag.documents.hands import behind, categories, ends, indicator, limits, missing, signed, spaced
from rowtag.documents.hands.found import Found, Said
from rowtag.documents.lines import flattened, shortened

HANDS = (signed, spaced, behind, categories, ends, indicator, missing)
"""Ways of writing codes."""
MOST_TEXT = 12_000
"""Characters of a text in which codes are looked for."""
_HOLDS = re.compile(
    r"\d.*\d|^\W*\d|\d\s*[=:).,;]|[(\[/]\s*\d|=|:\s|\b[A-Z]\s\w+\s*[,;]|[\"'“”‘’`]"
    r"|\b(?:levels|categories|one of|yes|factor|if|when|for which|missing|coded?|codes|values?|equals?|indicat)",
    re.I | re.S,
)
"""What a text must hold to declare anything."""


def read_meaning(text: str) -> Said:
    """The codes and limits that a text declares, and what is left of it."""
    said = _read(text)
    return replace(said, codes=list(said.codes))


@lru_cache(maxsize=65_536)
def _read(text: str) -> Said:
    text = shortened(text)
    plain = flattened_but_code(text)
    if len(text) > MOST_TEXT or not _HOLDS.search(plain):
        return Said(tidy_label(text), kind=_kind(plain))
    chosen = _chosen([found for hand in HANDS for found in hand.see(plain)])
    seen = [found for found in limits.see(plain) if not any(found.overlaps(each) for each in chosen)]
    bounded = sorted(seen, key=lambda one: -one.sure)[:1]
    codes: dict[object, Code] = {}
    for each in chosen:
        for code in each.codes:
            codes.setdefault(code.key, code)
    rest = tidy_label(_without(text, [*chosen, *bounded]), listed=bool(codes))
    if not rest and len(chosen) == 1 and (told := indicator.what(plain)):
        rest = told
    return Said(
        rest,
        list(codes.values()),
        bounded[0].limits if bounded else None,
        any(each.ends_only for each in chosen),
        bool(bounded) and bounded[0].sure >= 0.8,
        _kind(plain),
    )


_KIND = re.compile(
    r"(?:^|[(,;:]\s*|\s-\s+)(?:an?\s+)?(?P<word>integer|int|whole number|decimal|float|double|real|string|free text"
    r"|text|character|char|date|datetime|timestamp|nominal|ordinal|interval|ratio|categorical|binary|dichotomous"
    r"|ordered factor|factor)(?=\s*[),;:.]|\s*$|\s+(?:with|vector|variable|levels))",
    re.I,
)


def _kind(plain: str) -> str:
    """The word for a type or a level that a text sets apart."""
    found = _KIND.search(plain)
    return found["word"].casefold() if found else ""


def _chosen(seen: list[Found]) -> list[Found]:
    """Of what overlaps, what is surest; of the rest, no second list that says other things of the same codes."""
    out: list[Found] = []
    for each in sorted(seen, key=lambda one: (-one.sure - 0.01 * len(one.codes), one.start)):
        keys = {code.key for one in out for code in one.codes}
        fresh = not any(code.key in keys for code in each.codes)
        apart = _of_missing(each) or all(_of_missing(one) for one in out)
        if not any(each.overlaps(one) for one in out) and fresh and (apart or not each.codes):
            out.append(each)
    return sorted(out, key=lambda one: one.start)


def _of_missing(found: Found) -> bool:
    return all(code.reason for code in found.codes)


def flattened_but_code(text: str) -> str:
    """A text with straight quotes and hyphens; the backticks of code face stay."""
    return "`".join(flattened(part) for part in text.split("`"))


def _without(text: str, found: list[Found]) -> str:
    for each in sorted(found, key=lambda one: -one.start):
        text = f"{text[: each.start]} ¦ {text[each.end :]}"
    return text


_KINDS = (
    "ordered|unordered|binary|dichotomous|categorical|nominal|ordinal|continuous|discrete|integer|numerical|logical"
)
_TYPES = (
    rf"(?:an?\s+)?(?:(?:{_KINDS})\s+)*"
    r"(?:numeric|integer|factor|numeric(?:al)? vector|character(?: vector| string)?|string|categorical|logical|binary"
    r"|continuous|ordinal|nominal|dichotomous|factor variable|numeric variable|variable|vector)"
    r"(?:\s+vector|\s+variable)?(?:\s+with(?:\s+\d+)?(?:\s+levels)?)?"
)
_TYPE_AHEAD = re.compile(rf"^{_TYPES}\s*(?:[:;–,-]|\.\s|\bindicating\b|\bgiving\b|\bof\b|\bwith\b|$)\s*", re.I)
_TYPE_BEHIND = re.compile(rf"(?:\s*[:;,(–-]\s*|\s+-\s+|(?<=\))\s+){_TYPES}\s*(?:\(?\s*¦\s*\)?)?\s*[.)]?\s*$", re.I)
_TYPE_INSIDE = re.compile(rf"[,;]\s*{_TYPES}\s*(?=[,;]\s*(?:range|¦))", re.I)
_HOLE = re.compile(r"[(\[\s,;:.]*¦[\s,;:.)\]]*$")
_LEAD = re.compile(
    r"(?:[.;,:]\s*|\b)(?:one of|coded(?: as)?|codes?|coding|(?:possible )?values?(?: are)?|on a scale(?: of| from)?"
    r"|range:)\s*:?\s*$",
    re.I,
)
_ASKED = re.compile(
    r"\b(?:statements?|questions?|items?|asked|wording|prompt)\b[,:]?\s*[“\"](?P<said>[^“”\"]{12,})[”\"]", re.I
)
_SENTENCES = re.compile(r"(?<=[a-z)\]0-9%])\.\s+(?=[A-Z\"“(])")


def tidy_label(text: str, *, listed: bool = False) -> str:
    """What is left of a text as a meaning: its first sentence, without types, loose signs and empty brackets."""
    text = " ".join(text.replace("`", "").split())
    text = re.sub(r"\(\s*¦\s*\)|\[\s*¦\s*\]", "¦", text)
    before, hole, after = text.partition("¦")
    after = after.replace("¦", " ").strip(" .,;:)")
    after = re.sub(r"^denoting\s+", "", after)
    text = before.strip()
    if not re.search(r"\w", text) or (listed and _TYPE_AHEAD.fullmatch(text + " ")):
        text = after
    elif hole and after and text[-1:] not in ".?!":
        text = f"{text} {after}" if text.endswith(("to", "of", "the", "and")) else text
    for _ in range(3):
        text = _TYPE_INSIDE.sub("", text)
        text = _TYPE_BEHIND.sub("", text)
        text = (
            _TYPE_AHEAD.sub("", text, count=1)
            if _TYPE_AHEAD.match(text) and _TYPE_AHEAD.sub("", text, count=1)
            else text
        )
        if re.fullmatch(_TYPES, text.strip(" .,:"), re.I):
            text = ""
        text = _HOLE.sub("", text)
        text = _LEAD.sub("", text) if listed else text
        text = re.sub(r"(?<![\s,;:=–—(\[|-])[\s,;:=–—(\[|-]+$", "", text)
        text = re.sub(r"^[\s:;,=–—-]+(?=\s|\w|[\"'(“])", "", text)
    if quoted := _ASKED.search(text):
        return quoted["said"].strip()
    text = _SENTENCES.split(text)[0]
    if text.count("(") > text.count(")"):
        text = re.sub(r"\s*\((?=[^(]*$)", ", ", text)
    if text.count(")") > text.count("("):
        text = text.rstrip(") ,;:")
    if len(text) > 2 and text[0] in "\"“‘'" and text[-1] in "\"”’'" and text.count(text[0]) <= 2:
        text = text[1:-1]
    return re.sub(r"(?<!\.)\.$", "", text.strip()).strip()
