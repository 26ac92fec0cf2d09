"""Recoding: codes, ranges, texts and readings become other codes; texts become codes; a scale is turned round."""

from collections.abc import Sequence
from decimal import Decimal
from typing import get_args

import numpy as np

from rowtag.core.derive.outcome import Flags, Outcome, Source, Targets, code_type, coded_parts, in_type, kept_missing
from rowtag.core.derive.ways import Becomes, Codes, Line, Match, Recode, Reverse
from rowtag.core.formulas.errors import BadFormula, Span, nearest
from rowtag.core.propose.orders import natural_order
from rowtag.core.reading import State, canonical_code, value_of
from rowtag.core.tag import NUMBER_TYPES, CodeLine, CodeSpan, MissingLine, Reason
from rowtag.core.words import counted

REASONS: tuple[str, ...] = get_args(Reason)
"""Reasons for a missing answer."""


def recode(source: Source, way: Recode) -> Outcome:
    """What no line names stays what it is; `else` concerns valid entries alone, so that a stray or a missing code
    becomes something else only where a line names it."""
    target, results = _targets(source, way.lines, way.rest)
    new = _new_lines(source, [*(line.becomes for line in way.lines), *([way.rest] if way.rest else [])])
    named = [match for line in way.lines for match in line.matches]
    kept = way.rest is None or way.rest.kind == "same"
    staying = [line for line in source.lines if _stays(source, line, way.lines, kept)]
    lines = _together(new.codes, staying)
    missing = _missing(source, named, way.lines, new.missing, new.codes)
    loose = kept and bool((source.valid & (target < 0) & (source.reading.lines < 0) & (source.counts > 0)).any())
    parts = coded_parts(lines, missing, _level(source, way.lines))
    if loose:  # a measured variable of which some values were recoded stays measured
        parts |= {"complete": False, "limits": source.tag.limits, "type": _wider(source.tag.type, parts["type"])}
        if not lines:
            parts |= {"level": source.tag.level, "width": source.tag.width, "decimals": source.tag.decimals}
    return Outcome(source.became(target, results), {**parts, "label": _said(source, "recoded")})


def codes(source: Source, way: Codes) -> Outcome:
    """Texts become codes, and the first of them their label; what no line names becomes `else`, or stays a stray."""
    texts = [text for line in way.lines for text in line.texts]
    _refuse_twice(way)
    which = source.codes(texts)
    of = np.repeat(np.arange(len(way.lines)), [len(line.texts) for line in way.lines])
    results = [line.code for line in way.lines]
    hit = (which >= 0) & (source.reading.states != State.MISSING)
    target: Targets = np.where(hit, of[np.where(hit, which, 0)], -1)
    new = [
        CodeLine(code=line.code, label=line.label if line.label is not None else line.texts[0]) for line in way.lines
    ]
    left = source.valid & ~hit
    if way.rest is not None and way.rest.kind != "same":
        found = _result(source, way.rest)
        target[left] = len(results)
        results.append(found)
        left &= False
        if way.rest.kind == "code" and not way.rest.reason:
            new.append(CodeLine(code=way.rest.code, label=way.rest.label or "Other"))
    lines = _together(new, [])
    missing = _missing(source, (), (), _new_lines(source, [way.rest] if way.rest else []).missing, lines)
    notes = _left_over(source, left)
    parts = coded_parts(lines, missing, _level_of_words(new))
    return Outcome(source.became(target, results), {**parts, "label": source.tag.label}, notes)


def reverse(source: Source, way: Reverse) -> Outcome:
    """The distance to one end becomes that to the other. Labels stay with their meaning; what lies beyond stays."""
    low, high = (_number(source, end, way.at) for end in (way.low, way.high))
    if source.tag.type not in NUMBER_TYPES:
        raise BadFormula(
            f"{source.tag.name} holds no numbers.", way.source.at, remedy="A scale of numbers is reversed."
        )
    if low >= high:
        raise BadFormula("The first end is not below the second.", way.at, remedy="Such as: from 1 to 5")
    inside = np.flatnonzero(source.within(str(low), str(high)) & source.valid)
    spelled = source.reading.canonical(inside).to_pylist()
    different = {text: at for at, text in enumerate(dict.fromkeys(spelled))}
    results = [_plain(low + high - Decimal(text)) for text in different]
    target: Targets = np.full(source.counts.size, -1)
    target[inside] = [different[text] for text in spelled]
    lines = sorted((_turned(line, low, high) for line in source.lines), key=_place)
    parts = {
        part: getattr(source.tag, part)
        for part in ("type", "level", "width", "decimals", "marks", "complete", "missing", "limits")
    }
    made = {**parts, "codes": tuple(lines), "label": _said(source, "turned round")}
    return Outcome(source.became(target, _marked(source, results)), made)


# What becomes of tokens ---------------------------------------------------------------------------


def _targets(source: Source, lines: Sequence[Line], rest: Becomes | None) -> tuple[Targets, list[str]]:
    """For each token the number of the text that it becomes, -1 where it stays; and these texts."""
    results: list[str] = []
    target: Targets = np.full(source.counts.size, -1)
    left = np.ones(target.size, bool)
    exact = _exact(source, lines)
    for number, line in enumerate(lines):
        met = exact == number
        for match in line.matches:
            if match.kind != "code":
                met |= _met(source, match)
        met &= left
        left &= ~met
        if line.becomes.kind != "same":
            target[met] = len(results)
            results.append(_result(source, line.becomes))
    if rest is not None and rest.kind != "same":
        target[left & source.valid] = len(results)
        results.append(_result(source, rest))
    return target, results


def _exact(source: Source, lines: Sequence[Line]) -> Targets:
    """For each token the line that names it as a code, all codes looked for at once; -1 where none does."""
    codes, owner = [], []
    met: dict[str, Span] = {}
    for number, line in enumerate(lines):
        for match in line.matches:
            if match.kind != "code" or match.low is None:
                continue
            code = canonical_code(match.low, source.tag.type)
            if code is None:
                raise BadFormula(f"{match.low} is no entry of {source.tag.name} ({source.tag.type}).", match.at)
            if code in met:
                raise BadFormula(f"{match.low} stands in two lines.", match.at, remedy="Leave it in one of them.")
            met[code] = match.at
            codes.append(match.low)
            owner.append(number)
    if not codes:
        return np.full(source.counts.size, -1)
    which = source.codes(codes)
    found: Targets = np.where(which >= 0, np.array(owner)[np.maximum(which, 0)], -1)
    return found


def _met(source: Source, match: Match) -> Flags:
    """Which tokens a match other than a code is about."""
    reading = source.reading
    if match.kind == "range":
        _refuse_ends(source, match)
        return source.within(match.low, match.high)
    if match.kind == "blank":
        blank: Flags = reading.states == State.BLANK
        return blank
    if match.kind == "stray":
        return source.stray
    if match.kind == "missing":
        numbers = _missing_numbers(source, match)
        found: Flags = (reading.states == State.MISSING) & np.isin(reading.lines, numbers)
        return found
    assert match.text is not None
    if source.tag.type == "text" and not _labelled(source, match.text):
        entries: Flags = source.codes([match.text]) >= 0
        return entries
    numbers = _labelled(source, match.text)
    if not numbers:
        close = nearest(match.text, [line.label for line in source.lines if line.label])
        raise BadFormula(
            f"No code of {source.tag.name} has the label “{match.text}”.",
            match.at,
            remedy=f"Did you mean “{close}”?" if close else "",
            suggestion=f"'{close}'" if close else None,
        )
    named: Flags = source.valid & np.isin(reading.lines, numbers)
    return named


def _labelled(source: Source, text: str) -> list[int]:
    """The code lines with a label; of a text, an entry is meant where it is none."""
    return [
        number for number, line in enumerate(source.lines) if line.label and line.label.casefold() == text.casefold()
    ]


def _missing_numbers(source: Source, match: Match) -> list[int]:
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


def _refuse_ends(source: Source, match: Match) -> None:
    for end in (match.low, match.high):
        if end is not None and (source.tag.type == "text" or canonical_code(end, source.tag.type) is None):
            raise BadFormula(
                f"{source.tag.name} is {source.tag.type}: {end} bounds nothing there.",
                match.at,
                remedy="Ranges are of numbers and dates.",
            )


def _result(source: Source, becomes: Becomes) -> str:
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


# What the tag says --------------------------------------------------------------------------------


class _New:
    """The codes and missing codes that lines make."""

    def __init__(self) -> None:
        self.codes: list[CodeLine] = []
        self.missing: list[MissingLine] = []


def _new_lines(source: Source, made: Sequence[Becomes]) -> _New:
    out = _New()
    for becomes in made:
        if becomes.kind == "missing":
            code = _result(source, becomes)
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


def _together(new: Sequence[CodeLine], staying: Sequence[CodeLine]) -> list[CodeLine]:
    """Code lines, each code once; of several labels the first that says something."""
    kind = code_type([line.code or "" for line in (*new, *staying) if line.code is not None])
    out: dict[str, CodeLine] = {}
    for line in (*new, *staying):
        key = line.shown if line.code is None else in_type(line.code, kind)
        known = out.get(key)
        if known is None or (line.label and not known.label):
            out[key] = line
    return list(out.values())


def _stays(source: Source, line: CodeLine, lines: Sequence[Line], kept: bool) -> bool:
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


def _missing(
    source: Source,
    named: Sequence[Match],
    lines: Sequence[Line],
    new: Sequence[MissingLine],
    codes: Sequence[CodeLine],
) -> list[MissingLine]:
    """The missing codes of what is derived: those of the source that no line names, and new ones. Raises BadFormula
    where one of them would be a code, too."""
    kind = code_type([line.code for line in codes if line.code is not None])
    told = {number for match in named if match.kind == "missing" for number in _missing_numbers(source, match)}
    same = {
        number
        for line in lines
        if line.becomes.kind == "same"
        for match in line.matches
        if match.kind == "missing"
        for number in _missing_numbers(source, match)
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


def _level(source: Source, lines: Sequence[Line]) -> str:
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


def _level_of_words(lines: Sequence[CodeLine]) -> str:
    """Ordinal where labels have an order of their own, and the codes follow it."""
    found = natural_order([line.label for line in lines]) if len(lines) > 2 else None
    ranks = found[1] if found is not None else [None]
    known = [rank for rank in ranks if rank is not None]
    return (
        "ordinal" if len(known) == len(ranks) and known in (sorted(known), sorted(known, reverse=True)) else "nominal"
    )


def _wider(kind: str, other: str) -> str:
    """The type that holds the entries of two."""
    if kind == other:
        return kind
    return "decimal" if {kind, other} <= set(NUMBER_TYPES) else "text"


def _said(source: Source, how: str) -> str:
    return f"{source.tag.label or source.tag.name} ({how})"


def _left_over(source: Source, left: Flags) -> tuple[str, ...]:
    """What to say of entries that no line names."""
    used = left & (source.counts > 0)
    records = int(source.counts[used].sum())
    if not records:
        return ()
    return (f"{counted(int(used.sum()), 'text')} in {counted(records, 'record')} have no code yet and stay strays",)


def _refuse_twice(way: Codes) -> None:
    met: set[str] = set()
    for line in way.lines:
        for text in line.texts:
            if text in met:
                raise BadFormula(f"“{text}” stands in two lines.", line.at, remedy="Leave it in one of them.")
            met.add(text)


# Turning round ------------------------------------------------------------------------------------


def _number(source: Source, text: str, at: Span) -> Decimal:
    found = canonical_code(text, "decimal")
    if found is None:
        raise BadFormula(f"{text} is no number.", at)
    return Decimal(found)


def _plain(value: Decimal) -> str:
    """A number as it is written: no exponent, no zeros at the end."""
    found = canonical_code(format(value, "f"), "decimal")
    assert found is not None
    return found


def _marked(source: Source, numbers: Sequence[str]) -> list[str]:
    """Numbers with the decimal mark that the entries of the source have."""
    return [number.replace(".", source.tag.marks.decimal) for number in numbers]


def _turned(line: CodeLine, low: Decimal, high: Decimal) -> CodeLine:
    code = None if line.code is None else canonical_code(line.code, "decimal")
    if code is None or not low <= Decimal(code) <= high:
        return line
    return line.model_copy(update={"code": _plain(low + high - Decimal(code))})


def _place(line: CodeLine) -> tuple[int, float]:
    code = None if line.code is None else canonical_code(line.code, "decimal")
    return (1, 0.0) if code is None else (0, float(code))
