"""What a document says, weighed by the data that it is about: names that are there, codes that occur."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import replace

from rowtag.core.codebook import Described
from rowtag.core.tag import CodeLine, CodeSpan, MissingLine
from rowtag.documents.codes import NUMBER

AtHand = Mapping[str, frozenset[str]]
"""The variables of the data at hand by name, with their different entries where these are few, else none."""
SURE = 0.98
DOUBTED = 0.4
ELSEWHERE = 0.8
"""How sure is what fits the data, and what are codes that fit no entry; how much of it stays for a name elsewhere."""


def weighed(found: Sequence[Described], at_hand: AtHand) -> tuple[Described, ...]:
    """Descriptions with how sure they are in the light of the data, and why."""
    entries = {name.casefold(): texts for name, texts in at_hand.items()}
    if not any(each.name.casefold() in entries or each.also.casefold() in entries for each in found):
        return tuple(found)
    return tuple(_weighed(each, entries.get(each.name.casefold(), entries.get(each.also.casefold()))) for each in found)


def _weighed(each: Described, texts: frozenset[str] | None) -> Described:
    if texts is None:
        reason = f"{each.reason}; the data have no such name"
        return replace(each, certainty=round(each.certainty * ELSEWHERE, 2), reason=reason)
    spans: tuple[CodeLine | MissingLine, ...] = (*each.parts.codes, *each.parts.missing)
    said = {_same(text) for text in texts}
    if not spans or not said:
        return replace(each, certainty=max(each.certainty, SURE - 0.02))
    fitting = {text for text in said if any(_is(span, text) for span in spans)}
    labels = {label.casefold() for span in spans if (label := span.label)}
    if not fitting and not {text.casefold() for text in texts} & labels:
        return replace(each, certainty=min(each.certainty, DOUBTED), reason=f"{each.reason}; none of its codes occurs")
    if fitting == said:
        return replace(each, certainty=max(each.certainty, SURE))
    return each


def _same(text: str) -> str:
    """An entry as codes are compared: numbers by their value."""
    text = text.strip()
    return f"{float(text):g}" if re.fullmatch(NUMBER, text) else text


def _is(span: CodeSpan, text: str) -> bool:
    if span.code is not None:
        return _same(span.code) == text
    try:
        value = float(text)
        return (span.low is None or float(span.low) <= value) and (span.high is None or value <= float(span.high))
    except ValueError:
        return False
