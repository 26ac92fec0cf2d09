"""Level and use of a column, and the evidence for them in words."""

import re
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import pyarrow.compute as pc

from rowtag.core.propose.counts import is_count
from rowtag.core.propose.facts import Facts, Suspect
from rowtag.core.propose.numbers import Values
from rowtag.core.propose.orders import natural_order
from rowtag.core.propose.thresholds import THRESHOLDS
from rowtag.core.tag import DATE_TYPES, NUMBER_TYPES, CodeLine, Level, Type, Use
from rowtag.core.words import counted

_ID_NAME = re.compile(
    r"(^|_)(id|ident|identifier|no|nr|number|case|key|token|uuid|respondent|participant)($|_)|id$", re.I
)
_WEIGHT_NAME = re.compile(r"^w(_|\d|$)|(^|_)(wt|wgt|weight|weighting)(_|\d|$)", re.I)
LONGEST_SCALE = 11
"""Steps of the longest rating scales."""
_KIND_WORDS = {"date": "date", "time": "time", "datetime": "moment"}


@dataclass(frozen=True)
class Standing:
    """Level and use, the evidence in words, and code lines where words have an order of their own."""

    level: Level
    use: Use
    evidence: str
    codes: tuple[CodeLine, ...] = ()
    complete: bool = False


def standing_of(
    kind: Type,
    numbers: Values,
    facts: Facts,
    suspects: tuple[Suspect, ...],
    name: str,
    said: str = "",
    *,
    first: bool = False,
) -> Standing:
    """Level and use of a column of this type under this name, with what else its heading `said`; `first`: it stands in
    front of all others."""
    if not facts.entries:
        return Standing("nominal", "answer", "no entry")
    if kind in NUMBER_TYPES:
        if first and kind == "integer" and _numbers_records(numbers, facts):
            return Standing("nominal", "identifier", f"in front, {len(numbers.values):,} numbers, all different")
        return Standing(*_number_level(kind, numbers, suspects, name, said))
    if kind in DATE_TYPES:
        return Standing("interval", "answer", counted(len(numbers.values), f"different {_KIND_WORDS[kind]}"))
    return _ordered(facts) or Standing(*_text_level(facts))


def _numbers_records(numbers: Values, facts: Facts) -> bool:
    """Whether every entry is another whole number, none below zero and not all years: a number of the record's own."""
    values = numbers.values
    if len(values) < THRESHOLDS.fewest_in_front or len(values) < facts.entries or values[0] < 0:
        return False
    return not (values[0] >= 1900 and values[-1] <= 2100)


def _ordered(facts: Facts) -> Standing | None:
    """An ordinal column with its words in their natural order, where nearly all are of one scale."""
    tokens = np.flatnonzero(facts.used)
    if len(tokens) > 2 * THRESHOLDS.most_categories:
        return None
    words = pc.take(facts.reading.texts, tokens).to_pylist()
    found = natural_order(words)
    if found is None:
        return None
    scale, ranks = found
    counts = facts.counts[tokens]
    known = np.array([rank is not None for rank in ranks])
    if counts[known].sum() < THRESHOLDS.ordered_words * counts.sum():
        return None
    ordered = sorted({(rank, word) for rank, word in zip(ranks, words, strict=True) if rank is not None})
    lines = tuple(CodeLine(code=word) for word in dict.fromkeys(word for _, word in ordered))
    said = f"{ordered[0][1]} … {ordered[-1][1]}: {scale} in order"
    return Standing("ordinal", "answer", said, lines, bool(known.all()) and not facts.words)


def _number_level(
    kind: Type, numbers: Values, suspects: tuple[Suspect, ...], name: str, said: str
) -> tuple[Level, Use, str]:
    values, counts = numbers.values, numbers.counts
    suspect = {float(each.entry) for each in suspects if each.number}
    if suspect:
        kept = ~np.isin(values, list(suspect))
        values, counts = values[kept], counts[kept]
    if not values.size:
        return "nominal", "answer", "only suspected missing codes"
    entries, distinct, low, high = int(counts.sum()), len(values), float(values[0]), float(values[-1])
    span = f"{low:g} to {high:g}, {counted(distinct, 'different number')}"
    if kind == "integer":
        unique = distinct >= THRESHOLDS.distinct_identifier * entries and entries >= THRESHOLDS.fewest_identifiers
        if unique and (_ID_NAME.search(name) or (high - low < THRESHOLDS.identifier_gaps * distinct and low >= 0)):
            return "nominal", "identifier", f"{distinct:,} of {entries:,} entries are different"
        years = counts[(values >= 1900) & (values <= 2100)].sum()
        if distinct > 2 and years >= THRESHOLDS.years * entries:
            return "interval", "answer", f"years {span}"
        repeated = entries >= THRESHOLDS.repeats * distinct or distinct <= 2
        if distinct <= THRESHOLDS.most_codes and low >= 0 and high <= THRESHOLDS.highest_code and repeated:
            usual = values[counts >= THRESHOLDS.rare_code * entries]
            run = len(usual) and usual[0] in (0, 1) and usual[-1] - usual[0] == len(usual) - 1
            scale = bool(run) and len(usual) in THRESHOLDS.scale_steps
            if is_count(
                Values(values, counts), f"{name} {said}", may_be_scale=bool(run) and len(usual) <= LONGEST_SCALE
            ):
                return "ratio", "answer", f"a count or amount, {span}"
            return (
                "ordinal" if scale else "nominal",
                "answer",
                f"{counted(distinct, 'different code')}, {low:g} to {high:g}",
            )
    if _WEIGHT_NAME.search(name) and low >= 0:
        return "ratio", "weight", span
    return "ratio" if low >= 0 else "interval", "answer", span


def _text_level(facts: Facts) -> tuple[Level, Use, str]:
    tokens = np.flatnonzero(facts.used)
    counts = facts.counts[tokens]
    lengths = facts.lengths[tokens]
    entries, distinct = int(counts.sum()), len(tokens)
    average = float(np.dot(lengths, counts) / entries)
    various = entries >= THRESHOLDS.fewest_identifiers and distinct > THRESHOLDS.various * entries
    unique = (
        various
        and distinct >= THRESHOLDS.distinct_identifier * entries
        and lengths.max() <= THRESHOLDS.longest_identifier
    )
    if unique and facts.share_holding(" ") < THRESHOLDS.spaced_identifier:
        return "nominal", "identifier", f"{distinct:,} of {entries:,} entries are different"
    answers = _several_answers(facts, tokens)
    if answers:
        return "nominal", "several answers", f"{', '.join(answers[0][:4])}; separated by “{answers[1]}”"
    long = average > THRESHOLDS.open_average and distinct > THRESHOLDS.open_distinct * entries
    many = distinct > THRESHOLDS.most_categories or lengths.max() > THRESHOLDS.longest_category
    if long or various or (many and distinct > THRESHOLDS.recurring * entries):
        return "nominal", "open-ended", f"{counted(distinct, 'different text')}, {average:.0f} characters on average"
    return "nominal", "answer", counted(distinct, "different text")


def _several_answers(facts: Facts, tokens: npt.NDArray[np.int64]) -> tuple[list[str], str] | None:
    """The answers and their separator, where cells hold several of a few answers."""
    if len(tokens) > 2_000:
        return None
    texts = pc.take(facts.reading.texts, tokens)
    for separator in (";", "|", ","):
        if facts.share_holding(separator) < THRESHOLDS.several_share:
            continue
        parts: dict[str, int] = {}
        for text in texts.to_pylist():
            for part in text.split(separator):
                if part.strip():
                    parts[part.strip()] = parts.get(part.strip(), 0) + 1
        if 2 <= len(parts) <= THRESHOLDS.most_answers and sum(parts.values()) > len(texts):
            return sorted(parts, key=lambda part: -parts[part]), separator
    return None
