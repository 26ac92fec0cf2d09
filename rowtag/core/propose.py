"""Proposals: what a column looks like it is, with the evidence. A proposal never changes an entry.

All thresholds stand in `Thresholds`; docs/proposals.md says the same in words.
"""

import re
from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt
import pyarrow.compute as pc

from rowtag.core.column import Column
from rowtag.core.reading import SegmentReading, State, read_segment
from rowtag.core.tag import DATE_TYPES, NUMBER_TYPES, Lens, Level, Marks, Tag, Type, Use
from rowtag.core.tokens import large_texts
from rowtag.core.words import counted


@dataclass(frozen=True)
class Thresholds:
    """Where one proposal ends and the next begins."""

    fits: float = 0.9
    """Share of entries, neither blank nor suspect, that must fit a type."""
    most_codes: int = 12
    """Distinct numbers up to which an integer can be coded."""
    highest_code: int = 99
    """Largest number that can be a code."""
    repeats: float = 3.0
    """How often a code occurs on average, at least."""
    scale_steps: tuple[int, ...] = (5, 7, 10, 11)
    """Lengths of an unbroken run of codes from 0 or 1 that look like a rating scale."""
    rare_code: float = 0.005
    """Share of entries below which a code does not count when a scale is looked for."""
    years: float = 0.95
    """Share of entries between 1900 and 2100 from which whole numbers are years."""
    most_categories: int = 40
    """Distinct texts up to which text can be categories."""
    longest_category: int = 60
    """Characters up to which a text can be a category."""
    open_average: float = 25.0
    """Average length of text from which it is open-ended, unless it repeats itself."""
    distinct_identifier: float = 0.95
    """Share of distinct entries from which a column can be an identifier."""
    fewest_identifiers: int = 12
    """Entries from which a column can be recognised as identifier or open-ended by its variety."""
    several_share: float = 0.1
    """Share of entries with a separator from which several answers stand in one cell."""
    most_answers: int = 20
    """Distinct answers up to which a column can hold several answers in one cell."""


THRESHOLDS = Thresholds()

MISSING_WORDS = large_texts(
    """na|n/a|n.a.|.|..|-|--|---|?|null|none|nan|nil|missing|#n/a|#null!|unknown|refused|dk|don't know|don’t know
    |not asked|no answer|not applicable""".replace("\n    ", "").split("|")
)
"""Texts (in lower case) that often stand for a missing answer."""
_LONGEST_WORD = 16
"""Bytes of the longest of them."""
_WORTH = 0.7
"""Share of the sample from which a type is worth trying."""
_SAMPLE = 1_000
"""Distinct texts looked at to choose which types are worth trying; whether one fits is judged on all."""
_CURRENCIES = "£€$¥₹"
_NEGATIVE_CODES = (*range(-9, 0), *range(-99, -90), -66, -77, -88, *range(-999, -990), -888, -777)
"""Negative numbers that are used as missing codes."""
_ID_NAME = re.compile(
    r"(^|_)(id|ident|identifier|no|nr|number|case|key|token|uuid|respondent|participant)($|_)|id$", re.I
)
_WEIGHT_NAME = re.compile(r"(^|_)(w|wt|wgt|weight|weighting)(_|\d|$)", re.I)
_LEADING_ZERO = r"^[+-]?0\d"
_MAYBE_DATE = r"^\d{1,4}[-/.]\d{1,2}[-/.]\d{1,4}"
_MAYBE_TIME = r"^\d{1,2}:\d\d"


@dataclass(frozen=True)
class Suspect:
    """An entry that may stand for a missing answer; it reads as it reads until somebody says so."""

    entry: str
    count: int
    why: str


@dataclass(frozen=True)
class Proposal:
    """A proposed tag, the evidence for it in words, and what wants a look."""

    tag: Tag
    evidence: str
    suspects: tuple[Suspect, ...] = ()
    strays: tuple[tuple[str, int], ...] = ()
    stray_count: int = 0


@dataclass(frozen=True, eq=False)
class _Facts:
    """What proposals are made from: the entries that occur, neither blank nor a suspect word."""

    reading: SegmentReading
    counts: npt.NDArray[np.int64]
    used: npt.NDArray[np.bool_]
    words: tuple[Suspect, ...] = field(default=())

    @property
    def entries(self) -> int:
        return int(self.counts[self.used].sum())


def propose(column: Column, counts: npt.NDArray[np.int64], name: str, label: str = "") -> Proposal:
    """What one column, as it arrived (one segment, tokens occurring `counts` times), looks like under this name."""
    assert len(column.segments) == 1
    facts = _facts(column, counts)
    kind, marks, reading = _type_of(column, facts)
    suspects = facts.words
    if kind in NUMBER_TYPES:
        suspects += _suspect_numbers(reading, counts)
    level, use, why = _level_and_use(kind, reading, facts, suspects, name)
    text_lengths = pc.utf8_length(reading.texts).to_numpy()
    tag = Tag(
        name=name,
        label=label,
        type=kind,
        level=level,
        use=use,
        marks=marks,
        width=max(1, min(32_767, int(text_lengths[counts > 0].max(initial=1)))),
        decimals=_decimals(reading, counts) if kind == "decimal" else None,
    )
    strays = _strays(reading, counts) if kind != "text" else []
    return Proposal(tag, why, suspects, tuple(strays[:20]), sum(count for _, count in strays))


def plain_lens(kind: Type, marks: Marks = Marks()) -> Lens:
    """How entries read under a type alone: no codes, no limits, nothing missing."""
    return Lens(kind, marks, (), False, None, None, ())


def _facts(column: Column, counts: npt.NDArray[np.int64]) -> _Facts:
    reading = read_segment(column.segments[0], plain_lens("text"))
    used = (counts > 0) & (reading.states != State.BLANK)
    short = np.flatnonzero(used & (pc.binary_length(reading.texts).to_numpy() <= _LONGEST_WORD))
    texts = pc.take(reading.texts, short)
    suspect = short[pc.is_in(pc.utf8_lower(texts), MISSING_WORDS).to_numpy(zero_copy_only=False)]
    used[suspect] = False
    words: dict[str, int] = {}
    for token, text in zip(suspect.tolist(), pc.take(reading.texts, suspect).to_pylist(), strict=True):
        words[text] = words.get(text, 0) + int(counts[token])
    suspects = tuple(Suspect(text, count, "often stands for a missing answer") for text, count in words.items())
    return _Facts(reading, counts, used, suspects)


def _type_of(column: Column, facts: _Facts) -> tuple[Type, Marks, SegmentReading]:
    """The type that nearly all entries fit, how they are written, and how they read so."""
    if facts.entries:
        for kind, marks in _candidates(facts):
            reading = read_segment(column.segments[0], plain_lens(kind, marks))
            fitting = reading.parsed.fits & facts.used if reading.parsed else facts.used
            if facts.counts[fitting].sum() >= THRESHOLDS.fits * facts.entries:
                if kind == "decimal" and _keeps_zeros(reading, fitting, facts):
                    break
                if kind == "decimal" and _decimals(reading, facts.counts) == 0:
                    return "integer", marks, read_segment(column.segments[0], plain_lens("integer", marks))
                return kind, marks, reading
    return "text", Marks(), facts.reading


def _candidates(facts: _Facts) -> list[tuple[Type, Marks]]:
    """Types and marks worth trying, judged by which characters the entries hold."""
    tokens = np.flatnonzero(facts.used)
    tokens = tokens[:: -(-len(tokens) // _SAMPLE)]
    texts, counts = pc.take(facts.reading.texts, tokens), facts.counts[tokens]

    def share(pattern: str) -> float:
        hits = pc.match_substring_regex(texts, pattern).to_numpy(zero_copy_only=False)
        return float(counts[hits].sum() / counts.sum())

    out: list[tuple[Type, Marks]] = []
    if share(_MAYBE_DATE) >= _WORTH:
        orders = ("ymd", "dmy", "mdy")
        out += [(kind, Marks(date_order=order)) for kind in ("date", "datetime") for order in orders]
    elif share(_MAYBE_TIME) >= _WORTH:
        out.append(("time", Marks()))
    elif share(rf"^[+\-−]?[{_CURRENCIES}]? ?[+\-−]?[.,]?\d|^[+\-−]?\d.* ?[%{_CURRENCIES}]$") >= _WORTH:
        out += [("decimal", marks) for marks in _marks(share)]
    return out


def _marks(share: Callable[[str], float]) -> list[Marks]:
    """Ways of writing numbers that could fit, plainest first."""
    signs = [""] + [sign for sign in _CURRENCIES + "%" if share(re.escape(sign)) > 0]
    comma, point = share(r"\d,\d|^,\d") > 0, share(r"\d\.\d") > 0
    out = []
    for sign in signs:
        out.append(Marks(sign=sign))
        if comma:
            out.append(Marks(decimal=",", sign=sign))
            out.append(Marks(thousands=",", sign=sign))
        if comma and point:
            out.append(Marks(decimal=",", thousands=".", sign=sign))
    return out


def _keeps_zeros(reading: SegmentReading, fitting: npt.NDArray[np.bool_], facts: _Facts) -> bool:
    """Whether zeros lead whole numbers, as in plot or postal numbers: such entries are names, not numbers."""
    padded = pc.match_substring_regex(reading.texts, _LEADING_ZERO).to_numpy(zero_copy_only=False) & fitting
    return bool(facts.counts[padded].sum() > 0.01 * facts.entries)


def _decimals(reading: SegmentReading, counts: npt.NDArray[np.int64]) -> int:
    """The most digits that follow the mark in any entry that is not zero there."""
    assert reading.parsed is not None
    chosen = np.flatnonzero((reading.states == State.VALID) & (counts > 0))
    if not chosen.size:
        return 0
    plain = pc.take(reading.parsed.plain, chosen)
    digits = pc.utf8_rtrim(plain, "0")
    after = pc.subtract(pc.subtract(pc.binary_length(digits), pc.find_substring(digits, ".")), 1).to_numpy()
    return int(min(18, np.where(pc.match_substring(digits, ".").to_numpy(zero_copy_only=False), after, 0).max()))


def _valid_values(
    reading: SegmentReading, counts: npt.NDArray[np.int64]
) -> tuple[npt.NDArray[np.float64], npt.NDArray[np.int64]]:
    """Distinct valid numbers in ascending order, and how often each occurs."""
    assert reading.parsed is not None
    chosen = (reading.states == State.VALID) & (counts > 0)
    values, group = np.unique(reading.parsed.values[chosen], return_inverse=True)
    return values, np.bincount(group, weights=counts[chosen], minlength=len(values)).astype(np.int64)


def _suspect_numbers(reading: SegmentReading, counts: npt.NDArray[np.int64]) -> tuple[Suspect, ...]:
    """Negative codes among numbers that are never negative, and 9, 99, 999 … apart from the rest."""
    values, times = _valid_values(reading, counts)
    found: list[Suspect] = []
    codes = np.isin(values, _NEGATIVE_CODES)
    others = values[~codes]
    if 0 < codes.sum() < others.size and codes.sum() <= 8 and (others >= 0).all():
        pairs = zip(values[codes].tolist(), times[codes].tolist(), strict=True)
        found += [Suspect(f"{value:.0f}", count, "a negative code among positive numbers") for value, count in pairs]
    for nines in (9, 99, 999, 9999):
        at = np.flatnonzero(values == nines)
        below = values[(values < nines) & (values >= 0)]
        if at.size and below.size and values[-1] == nines and _apart(float(below[-1]), nines, len(below)):
            found.append(Suspect(str(nines), int(times[at[0]]), "stands apart from the other numbers"))
    return tuple(found)


def _apart(highest: float, nines: int, below: int) -> bool:
    """Whether a value of nines lies too far above the highest other value to belong to it."""
    return highest <= (nines - 2 if nines == 9 and below <= 8 else nines * 0.85)


def _strays(reading: SegmentReading, counts: npt.NDArray[np.int64]) -> list[tuple[str, int]]:
    """Entries that do not fit the type, commonest first."""
    tokens = np.flatnonzero((reading.states == State.UNREADABLE) & (counts > 0))
    texts = pc.take(reading.texts, tokens).to_pylist()
    return sorted(zip(texts, counts[tokens].tolist(), strict=True), key=lambda each: (-each[1], each[0]))


def _level_and_use(
    kind: Type, reading: SegmentReading, facts: _Facts, suspects: tuple[Suspect, ...], name: str
) -> tuple[Level, Use, str]:
    """Level and use of a column of this type, and the evidence in words."""
    if not facts.entries:
        return "nominal", "answer", "no entry"
    if kind in NUMBER_TYPES:
        return _number_level(kind, reading, facts, suspects, name)
    if kind in DATE_TYPES:
        values, _ = _valid_values(reading, facts.counts)
        return "interval", "answer", counted(len(values), f"different {_KIND_WORDS[kind]}")
    return _text_level(facts, name)


_KIND_WORDS = {"date": "date", "time": "time", "datetime": "moment"}


def _number_level(
    kind: Type, reading: SegmentReading, facts: _Facts, suspects: tuple[Suspect, ...], name: str
) -> tuple[Level, Use, str]:
    values, counts = _valid_values(reading, facts.counts)
    suspect = {float(each.entry) for each in suspects if re.fullmatch(r"-?\d+", each.entry)}
    kept = ~np.isin(values, list(suspect))
    values, counts = values[kept], counts[kept]
    if not values.size:
        return "nominal", "answer", "only suspected missing codes"
    entries, distinct, low, high = int(counts.sum()), len(values), float(values[0]), float(values[-1])
    span = f"{low:g} to {high:g}, {counted(distinct, 'different number')}"
    if kind == "integer":
        unique = distinct >= THRESHOLDS.distinct_identifier * entries and entries >= THRESHOLDS.fewest_identifiers
        if unique and (_ID_NAME.search(name) or (high - low < 1.2 * distinct and low >= 0)):
            return "nominal", "identifier", f"{distinct:,} of {entries:,} entries are different"
        years = counts[(values >= 1900) & (values <= 2100)].sum()
        if distinct > 2 and years >= THRESHOLDS.years * entries:
            return "interval", "answer", f"years {span}"
        repeated = entries >= THRESHOLDS.repeats * distinct or distinct <= 2
        if distinct <= THRESHOLDS.most_codes and low >= 0 and high <= THRESHOLDS.highest_code and repeated:
            usual = values[counts >= THRESHOLDS.rare_code * entries]
            run = len(usual) and usual[0] in (0, 1) and usual[-1] - usual[0] == len(usual) - 1
            scale = run and len(usual) in THRESHOLDS.scale_steps
            return (
                "ordinal" if scale else "nominal",
                "answer",
                f"{counted(distinct, 'different code')}, {low:g} to {high:g}",
            )
    if _WEIGHT_NAME.search(name) and low >= 0:
        return "ratio", "weight", span
    return "ratio" if low >= 0 else "interval", "answer", span


def _text_level(facts: _Facts, name: str) -> tuple[Level, Use, str]:
    tokens = np.flatnonzero(facts.used)
    counts = facts.counts[tokens]
    lengths = pc.utf8_length(pc.take(facts.reading.texts, tokens)).to_numpy()
    entries, distinct = int(counts.sum()), len(tokens)
    average = float(np.dot(lengths, counts) / entries)
    various = entries >= THRESHOLDS.fewest_identifiers and distinct > 0.5 * entries
    unique = various and distinct >= THRESHOLDS.distinct_identifier * entries and lengths.max() <= 40
    if unique and _share_matching(facts, tokens, r"\s") < 0.05:
        return "nominal", "identifier", f"{distinct:,} of {entries:,} entries are different"
    answers = _several_answers(facts, tokens)
    if answers:
        return "nominal", "several answers", f"{', '.join(answers[0][:4])}; separated by “{answers[1]}”"
    long = average > THRESHOLDS.open_average and distinct > 0.2 * entries
    many = distinct > THRESHOLDS.most_categories or lengths.max() > THRESHOLDS.longest_category
    if long or various or (many and distinct > 0.05 * entries):
        return "nominal", "open-ended", f"{counted(distinct, 'different text')}, {average:.0f} characters on average"
    return "nominal", "answer", counted(distinct, "different text")


def _share_matching(facts: _Facts, tokens: npt.NDArray[np.int64], pattern: str) -> float:
    """Share of entries that match a pattern."""
    hits = pc.match_substring_regex(pc.take(facts.reading.texts, tokens), pattern).to_numpy(zero_copy_only=False)
    return float(facts.counts[tokens][hits].sum() / facts.counts[tokens].sum())


def _several_answers(facts: _Facts, tokens: npt.NDArray[np.int64]) -> tuple[list[str], str] | None:
    """The answers and their separator, where cells hold several of a few answers."""
    if len(tokens) > 2_000:
        return None
    texts = pc.take(facts.reading.texts, tokens)
    for separator in (";", "|", ","):
        if _share_matching(facts, tokens, re.escape(separator)) < THRESHOLDS.several_share:
            continue
        parts: dict[str, int] = {}
        for text in texts.to_pylist():
            for part in text.split(separator):
                if part.strip():
                    parts[part.strip()] = parts.get(part.strip(), 0) + 1
        if 2 <= len(parts) <= THRESHOLDS.most_answers and sum(parts.values()) > len(texts):
            return sorted(parts, key=lambda part: -parts[part]), separator
    return None
