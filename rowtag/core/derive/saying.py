"""Sentences of derivation, written: what is said is read back to the same way."""

import re
from typing import Any

from rowtag.core.derive.ways import (
    Band,
    Bands,
    Becomes,
    ByRank,
    Coded,
    Codes,
    Convert,
    Expression,
    Indicator,
    Indicators,
    Items,
    Join,
    Match,
    Mentions,
    OfThings,
    Recode,
    Reverse,
    Split,
    Theme,
    Way,
    Which,
)
from rowtag.core.formulas.grammar import spelled_name
from rowtag.core.formulas.nodes import Name


def quoted(text: str) -> str:
    """A text as it stands in a sentence."""
    return "'" + re.sub(r"(['\\])", r"\\\1", re.sub(r"\s", " ", text)) + "'"


def say(way: Way) -> str:
    """A way as the sentence that says it; read back, it is the same."""
    said: str = _SAY[type(way)](way)
    return said


def _lines(word: str, source: Name, lines: list[str]) -> str:
    return f"{word} {spelled_name(source.name)}: {'; '.join(lines)}"


def _rest(rest: Becomes | None) -> list[str]:
    return [] if rest is None else [f"else {_becomes(rest)}"]


def _becomes(becomes: Becomes) -> str:
    if becomes.kind == "missing":
        return f"missing {quoted(becomes.reason)}"
    if becomes.kind != "code":
        return becomes.kind
    if not _VALUE.fullmatch(becomes.code):
        return quoted(becomes.code)
    label = f" {quoted(becomes.label)}" if becomes.label else ""
    return f"{becomes.code}{label}" + (f" missing {quoted(becomes.reason)}" if becomes.reason else "")


_CLOCK = r"\d{1,2}:\d{2}(?::\d{2}(?:\.\d{1,6})?)?"
_VALUE = re.compile(rf"\d{{4}}-\d{{1,2}}-\d{{1,2}}(?:[T ]{_CLOCK})?|{_CLOCK}|-?\d+(?:\.\d+)?(?:[eE][+-]?\d+)?")
"""What stands in a sentence without quotes; as in the grammar."""


def _match(match: Match) -> str:
    if match.kind == "code":
        return match.low or ""
    if match.kind == "range":
        return f"{match.low or ''} .. {match.high or ''}".strip()
    if match.kind == "text":
        return quoted(match.text or "")
    return match.kind if match.text is None else f"{match.kind} {quoted(match.text)}"


def _band(band: Band) -> str:
    low = f"{'above ' if band.above else ''}{band.low} " if band.low is not None else ""
    high = f" {'below ' if band.below else ''}{band.high}" if band.high is not None else ""
    return f"{low}..{high}" + (f" {quoted(band.label)}" if band.label is not None else "")


def _coded(line: Coded) -> str:
    label = f" {quoted(line.label)}" if line.label is not None else ""
    return f"{', '.join(map(quoted, line.texts))} {line.code}{label}"


def _theme(theme: Theme) -> str:
    words = [*map(quoted, theme.words), *(f"= {quoted(text)}" for text in theme.whole)]
    return f"{quoted(theme.label)} where {', '.join(words)}"


def _base(way: Indicators) -> str:
    if way.base is None:
        return ""
    return f" except {way.base if _VALUE.fullmatch(way.base) else quoted(way.base)}"


def _items(items: Items) -> str:
    return ", ".join(
        spelled_name(first.name) + (f"..{spelled_name(last.name)}" if last is not None else "") for first, last in items
    )


def _convert(way: Convert) -> str:
    width = f" width {way.width}" if way.width else ""
    decimals = "" if way.decimals is None else f" decimals {way.decimals}"
    return f"convert {spelled_name(way.source.name)} to {way.to}{width}{decimals}"


_SAY: dict[type[Any], Any] = {
    Recode: lambda way: _lines(
        "recode",
        way.source,
        [f"{', '.join(map(_match, line.matches))} -> {_becomes(line.becomes)}" for line in way.lines] + _rest(way.rest),
    ),
    Reverse: lambda way: (
        f"reverse {spelled_name(way.source.name)}" + (f" from {way.low} to {way.high}" if way.low is not None else "")
    ),
    Bands: lambda way: _lines("bands", way.source, list(map(_band, way.bands))),
    Codes: lambda way: _lines("codes", way.source, list(map(_coded, way.lines)) + _rest(way.rest)),
    Mentions: lambda way: _lines("mentions", way.source, list(map(_theme, way.themes))),
    Indicator: lambda way: f"indicator {way.text}",
    Indicators: lambda way: f"indicators {spelled_name(way.source.name)}{_base(way)}",
    Split: lambda way: (
        f"split {spelled_name(way.source.name)} by {quoted(way.by)}: "
        + "; ".join(", ".join(map(quoted, each)) for each in way.answers)
    ),
    Join: lambda way: (
        f"join {_items(way.items)} by {quoted(way.by)}" + (f" else {quoted(way.rest)}" if way.rest else "")
    ),
    Which: lambda way: f"which of {_items(way.items)}",
    ByRank: lambda way: f"things by rank {_items(way.items)}",
    OfThings: lambda way: f"ranks of {_items(way.items)}",
    Convert: _convert,
    Expression: lambda way: way.text,
}
