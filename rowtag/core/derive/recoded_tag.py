"""What the tag says of what is recoded: its codes and missing codes, those that stay and those that lines make."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import get_args

from rowtag.core.derive.outcome import Source, code_type, in_type, kept_missing
from rowtag.core.derive.ways import Becomes, Line, Match
from rowtag.core.formulas.errors import BadFormula
from rowtag.core.propose.orders import natural_order
from rowtag.core.reading import canonical_code, value_of
from rowtag.core.tag import NUMBER_TYPES, CodeLine, CodeSpan, MissingLine, Reason

REASONS: tuple[str, ...] = get_args(Reason)
"""Reasons for a missing answer."""


@dataclass
class NewLines:
    """The codes and missing codes that lines make."""

    codes: list[CodeLine] = field(default_factory=list)
    missing: list[MissingLine] = field(default_factory=list)


def new_lines(source: Source, made: Sequence[Becomes]) -> NewLines:
    """What some results add to the code list. Raises BadFormula where a reason is none, or has no code."""
    out = NewLines()
    for becomes in made:
        if becomes.kind == "missing":
            code = result_of(source, becomes)
            out.missing += [line for line in source.tag.missing if line.code == code]
        elif becomes.kind == "code" and becomes.reason:
            reason = becomes.reason.casefold()
            if reason not in REASONS:
                raise BadFormula(
                    f"“{becomes.reason}” is no reason for a missing answer.",
                    becomes.at,
                    remedy=f"Known are {', '.join(REASONS)}.",
                )
            out.missing.append(MissingLine(code=becomes.code, reason=reason, label=becomes.label))
        elif becomes.kind == "code":
            out.codes.append(CodeLine(code=becomes.code, label=becomes.label))
    return out


def together(new: Sequence[CodeLine], staying: Sequence[CodeLine]) -> list[CodeLine]:
    """Code lines, each code once; of several labels the first that says something."""
    kind = code_type([line.code or "" for line in (*new, *staying) if line.code is not None])
    out: dict[str, CodeLine] = {}
    for line in (*new, *staying):
        key = line.shown if line.code is None else in_type(line.code, kind)
        known = out.get(key)
        if known is None or (line.label and not known.label):
            out[key] = line
    return list(out.values())


def stays(source: Source, line: CodeLine, lines: Sequence[Line], kept: bool) -> bool:
    """Whether a code line of the source is one of what is derived, too."""
    for each in lines:
        if any(_names(source, match, line) for match in each.matches):
            return each.becomes.kind == "same"
    return kept


def _names(source: Source, match: Match, line: CodeSpan) -> bool:
    """Whether a match is about a code line (or missing line) of the source."""
    if match.kind == "text":
        label = getattr(line, "label", "")
        return bool(match.text and (label.casefold() == match.text.casefold() or line.code == match.text))
    if line.code is None:
        return match.kind == "range" and (match.low, match.high) == (line.low, line.high)
    kind = source.tag.type
    if match.kind == "code":
        return match.low is not None and in_type(match.low, kind) == in_type(line.code, kind)
    code = canonical_code(line.code, kind)
    if match.kind != "range" or code is None or kind == "text":
        return False
    value = value_of(code, kind)
    low, high = (None if end is None else value_of(in_type(end, kind), kind) for end in (match.low, match.high))
    return (low is None or value >= low) and (high is None or value <= high)


def missing_lines(
    source: Source,
    named: Sequence[Match],
    lines: Sequence[Line],
    new: Sequence[MissingLine],
    codes: Sequence[CodeLine],
) -> list[MissingLine]:
    """The missing codes of what is derived: those of the source that no line names, and new ones. Raises BadFormula
    where one of them would be a code, too."""
    kind = code_type([line.code for line in codes if line.code is not None])
    told = {number for match in named if match.kind == "missing" for number in missing_numbers(source, match)}
    same = {
        number
        for line in lines
        if line.becomes.kind == "same"
        for match in line.matches
        if match.kind == "missing"
        for number in missing_numbers(source, match)
    }
    staying = [
        line
        for number, line in enumerate(source.tag.missing)
        if (number not in told or number in same)
        and not any(match.kind == "code" and _names(source, match, line) for match in named)
    ]
    allowed = kept_missing(source.tag, kind)
    out: dict[str, MissingLine] = {line.shown: line for line in new}
    out = {**{line.shown: line for line in staying if line in allowed}, **out}
    for line in codes:
        for aside in out.values():
            if line.code is not None and _covers(aside, line.code, kind):
                raise BadFormula(
                    f"{line.code} is a missing code of {source.tag.name} ({aside.reason}).",
                    remedy="Say what becomes of it (missing -> …), or take another code.",
                )
    return list(out.values())


def _covers(aside: MissingLine, code: str, kind: str) -> bool:
    if aside.code is not None:
        return in_type(aside.code, kind) == in_type(code, kind)
    value = canonical_code(code, "decimal")
    ends = [None if end is None else canonical_code(end, "decimal") for end in (aside.low, aside.high)]
    if value is None or kind not in NUMBER_TYPES:
        return False
    low, high = (None if end is None else float(end) for end in ends)
    return (low is None or float(value) >= low) and (high is None or float(value) <= high)


def missing_numbers(source: Source, match: Match) -> list[int]:
    """The missing lines that a match is about: all, or those with a reason or label."""
    lines = source.tag.missing
    if match.text is None:
        return list(range(len(lines)))
    wanted = match.text.casefold()
    found = [at for at, line in enumerate(lines) if wanted in (line.reason, line.label.casefold())]
    if not found and wanted not in REASONS:
        raise BadFormula(
            f"“{match.text}” is no reason for a missing answer.", match.at, remedy=f"Known are {', '.join(REASONS)}."
        )
    return found


def result_of(source: Source, becomes: Becomes) -> str:
    """The text that entries become."""
    if becomes.kind == "blank":
        return ""
    if becomes.kind == "code":
        return becomes.code
    found = [line for line in source.tag.missing if line.code is not None and line.reason == becomes.reason.casefold()]
    if not found:
        raise BadFormula(
            f"{source.tag.name} has no code for “{becomes.reason}”.",
            becomes.at,
            remedy="Give one: -9 missing 'refused'",
        )
    return found[0].code or ""


def level_of(source: Source, lines: Sequence[Line]) -> str:
    """Ordinal where codes in the order of the source become codes in order; of two codes there is none."""
    codes = list(dict.fromkeys(line.becomes.code for line in lines if line.becomes.kind == "code"))
    if source.tag.level == "nominal" or len(codes) < 3:
        return "nominal"
    pairs = []
    for line in lines:
        for match in line.matches:
            end = match.low if match.low is not None else match.high
            if match.kind in ("code", "range") and end is not None and line.becomes.kind == "code":
                old, new = canonical_code(end, source.tag.type), canonical_code(line.becomes.code, "decimal")
                if old is None or new is None:
                    return "nominal"
                pairs.append((value_of(old, source.tag.type), float(new)))
    new_ones = [new for _, new in sorted(pairs)]
    return "ordinal" if new_ones in (sorted(new_ones), sorted(new_ones, reverse=True)) else "nominal"


def level_of_words(lines: Sequence[CodeLine]) -> str:
    """Ordinal where labels have an order of their own, and the codes follow it."""
    found = natural_order([line.label for line in lines]) if len(lines) > 2 else None
    ranks = found[1] if found is not None else [None]
    known = [rank for rank in ranks if rank is not None]
    return (
        "ordinal" if len(known) == len(ranks) and known in (sorted(known), sorted(known, reverse=True)) else "nominal"
    )
