"""Recoding: codes, ranges, texts and readings become other codes; texts become codes; a scale is turned round."""

from collections.abc import Sequence
from decimal import Decimal

import numpy as np

from rowtag.core.derive.outcome import Flags, Outcome, Source, Targets, coded_parts
from rowtag.core.derive.recoded_tag import (
    level_of,
    level_of_words,
    missing_lines,
    missing_numbers,
    new_lines,
    result_of,
    stays,
    together,
)
from rowtag.core.derive.ways import Becomes, Codes, Line, Match, Recode, Reverse
from rowtag.core.formulas.errors import BadFormula, Span, nearest
from rowtag.core.reading import State, canonical_code, value_of
from rowtag.core.tag import NUMBER_TYPES, CodeLine
from rowtag.core.words import counted


def recode(source: Source, way: Recode) -> Outcome:
    """What no line names stays what it is; `else` concerns valid entries alone, so that a stray or a missing code
    becomes something else only where a line names it."""
    target, results = _targets(source, way.lines, way.rest)
    new = new_lines(source, [*(line.becomes for line in way.lines), *([way.rest] if way.rest else [])])
    named = [match for line in way.lines for match in line.matches]
    kept = way.rest is None or way.rest.kind == "same"
    staying = [line for line in source.lines if stays(source, line, way.lines, kept)]
    lines = together(new.codes, staying)
    missing = missing_lines(source, named, way.lines, new.missing, new.codes)
    staying_valid = source.valid & (target < 0) & (source.reading.lines < 0) & (source.counts > 0)
    told_same = (each for line in way.lines if line.becomes.kind == "same" for each in line.matches)
    open_end = not source.lines and any(each.kind == "range" for each in told_same)
    loose = bool(staying_valid.any()) or open_end
    parts = coded_parts(lines, missing, level_of(source, way.lines))
    if loose:  # a measured variable of which some values were recoded stays measured
        kind, level = _wider(source.tag.type, parts["type"]), source.tag.level
        parts |= {"complete": False, "limits": source.tag.limits, "type": kind, "level": level}
        if not lines:
            parts |= {"width": source.tag.width, "decimals": source.tag.decimals}
    return source.became(target, results, {**parts, "label": _said(source, "recoded")})


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
        found = result_of(source, way.rest)
        target[left] = len(results)
        results.append(found)
        left &= False
        if way.rest.kind == "code" and not way.rest.reason:
            new.append(CodeLine(code=way.rest.code, label=way.rest.label or "Other"))
    lines = together(new, [])
    missing = missing_lines(source, (), (), new_lines(source, [way.rest] if way.rest else []).missing, lines)
    notes = _left_over(source, left)
    parts = coded_parts(lines, missing, level_of_words(new))
    return source.became(target, results, {**parts, "label": source.tag.label}, notes=notes)


def reverse(source: Source, way: Reverse) -> Outcome:
    """The distance to one end becomes that to the other. Labels stay with their meaning; what lies beyond stays."""
    if source.tag.type not in NUMBER_TYPES:
        raise BadFormula(
            f"{source.tag.name} holds no numbers.", way.source.at, remedy="A scale of numbers is reversed."
        )
    low, high = _ends(source, way)
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
    return source.became(target, _marked(source, results), made)


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
            results.append(result_of(source, line.becomes))
    if rest is not None and rest.kind != "same":
        target[left & source.valid] = len(results)
        results.append(result_of(source, rest))
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
        named: Flags = source.within(match.low, match.high) & source.valid  # a stray is named as one
        return named
    if match.kind == "blank":
        blank: Flags = reading.states == State.BLANK
        return blank
    if match.kind == "stray":
        return source.stray
    if match.kind == "missing":
        numbers = missing_numbers(source, match)
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
    labelled: Flags = source.valid & np.isin(reading.lines, numbers)
    return labelled


def _labelled(source: Source, text: str) -> list[int]:
    """The code lines with a label; of a text, an entry is meant where it is none."""
    return [
        number for number, line in enumerate(source.lines) if line.label and line.label.casefold() == text.casefold()
    ]


def _refuse_ends(source: Source, match: Match) -> None:
    for end in (match.low, match.high):
        if end is not None and (source.tag.type == "text" or canonical_code(end, source.tag.type) is None):
            raise BadFormula(
                f"{source.tag.name} is {source.tag.type}: {end} bounds nothing there.",
                match.at,
                remedy="Ranges are of numbers and dates.",
            )
    ends = [None if end is None else canonical_code(end, source.tag.type) for end in (match.low, match.high)]
    if all(ends) and value_of(ends[0] or "", source.tag.type) > value_of(ends[1] or "", source.tag.type):
        raise BadFormula(
            f"Nothing lies from {match.low} to {match.high}.", match.at, remedy="The lower end of a range comes first."
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


def _ends(source: Source, way: Reverse) -> tuple[Decimal, Decimal]:
    """The ends between which a scale is turned round. Raises BadFormula where they are not known."""
    if way.low is not None and way.high is not None:
        return _number(source, way.low, way.at), _number(source, way.high, way.at)
    codes = [Decimal(code) for line in source.lines if line.code and (code := canonical_code(line.code, "decimal"))]
    if not codes:
        raise BadFormula("Its ends are not known.", way.at, remedy="Write them: reverse x from 1 to 5")
    return min(codes), max(codes)


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
