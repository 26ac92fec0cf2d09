"""Items that are reversed: it is said beside one, or told once for several, and kept in the note of each."""

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace

from rowtag.core.codebook import Described
from rowtag.core.tag import Parts
from rowtag.documents.blocks import Block, bare
from rowtag.documents.heads import names_in
from rowtag.documents.lines import flattened

REVERSED = "reversed item"
"""What stands in the note of a reversed item."""
_WORD = (
    r"(?:reverse(?:d|[- ]?(?:scored|coded|keyed|worded|scoring|coding))|negatively (?:worded|keyed)"
    r"|umgepolt|invers(?:é|ée|és|ées)|odwrócon[aey])"
)
_BESIDE = re.compile(rf"[(\[] ?(?:R|rev\.?|(?i:{_WORD}(?: items?)?)) ?[)\]]|(?i:\b{_WORD} items?\b)")
_TOLD = re.compile(rf"\b{_WORD}\b", re.I)
_DENIED = re.compile(r"\b(?:not|no|none|never|nicht|keine?|pas|nie)\b", re.I)
_SPAN = re.compile(r"\b(?P<one>[^\W\d]\w{0,40}\d{1,4}) ?(?:-|to|bis|à|do) ?(?P<other>[^\W\d]\w{0,40}\d{1,4}|\d{1,4})\b")
_NUMBERS = re.compile(
    r"\b(?:items?|questions?|statements?|numbers?|nos?\.?) (?P<list>\d{1,3}(?:(?:, ?| and |, and | & )\d{1,3})*)", re.I
)
_NUMBERED = re.compile(r"(?<!\w)(?P<stem>\w{0,60}[^\W\d])(?P<number>\d{1,6})(?!\w)")


def with_reversed(found: Sequence[Described], blocks: Sequence[Block]) -> tuple[Described, ...]:
    """Variables, those that a document calls reversed with that in their notes."""
    by_name = {each.name.casefold(): each.name for each in found}
    placed = {line for each in found for line in range(each.lines[0], each.lines[1] + 1)}
    turned = {each.name for each in found if _BESIDE.search(f"{each.parts.label} {each.parts.question}")}
    family = _only_family(found)
    for block in blocks:
        for sentence in _sentences(flattened(block.text)) if block.line not in placed else ():
            if _TOLD.search(sentence) and not _DENIED.search(sentence):
                turned |= _named(sentence, by_name) or _numbered(sentence, family)
    return tuple(_noted(each) if each.name in turned else each for each in found)


def _sentences(text: str) -> list[str]:
    return re.split(r"(?<=[.;])\s+", text)


def without_told(text: str) -> str:
    """A text without the sentences that say which items are reversed: what else it tells is not for these alone."""
    return " ".join(each for each in _sentences(text) if not _TOLD.search(each)) if _TOLD.search(text) else text


def _named(text: str, by_name: dict[str, str]) -> set[str]:
    """The variables that a sentence names: words like no others, names in code face, or ranges of names."""
    words = {word for word in re.findall(r"[^\W\d]\w*", bare(text)) if re.search(r"[\d_]", word)}
    words |= set(re.findall(r"`([^`\s]+)`", text))
    for found in _SPAN.finditer(bare(text)):
        words |= set(names_in(f"{found['one']}-{found['other']}"))
    return {by_name[word.casefold()] for word in words if word.casefold() in by_name}


def _only_family(found: Iterable[Described]) -> dict[int, str]:
    """The variables of the one numbered family of three or more, by their numbers; none where there are several."""
    families: dict[str, dict[int, str]] = {}
    for each in found:
        if numbered := _NUMBERED.fullmatch(each.name):
            families.setdefault(numbered["stem"], {})[int(numbered["number"])] = each.name
    large = [family for family in families.values() if len(family) > 2]
    return large[0] if len(large) == 1 else {}


def _numbered(text: str, family: Mapping[int, str]) -> set[str]:
    """The variables of a family whose numbers a sentence gives."""
    told = _NUMBERS.search(text)
    numbers = map(int, re.findall(r"\d+", told["list"])) if told else ()
    return {family[number] for number in numbers if number in family}


def _noted(each: Described) -> Described:
    note = "; ".join(part for part in (each.parts.note, REVERSED) if part)
    return replace(each, parts=Parts(**{**each.parts.given(), "note": note}))
