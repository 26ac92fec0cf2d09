"""Converting: entries become numbers, texts or labels. What cannot stays what it was, and is told."""

from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from rowtag.core.column import Column
from rowtag.core.derive.outcome import Flags, Outcome, Source, kept_missing
from rowtag.core.derive.ways import Convert
from rowtag.core.formulas.errors import BadFormula
from rowtag.core.formulas.functions import half_up
from rowtag.core.reading import Reading, State, canonical_code, read_column
from rowtag.core.tag import NUMBER_TYPES, Lens, Marks
from rowtag.core.tokens import Texts, large_texts
from rowtag.core.words import counted

WIDEST, MOST_DECIMALS = 200, 18
_HYPHEN, _NOTHING = (pa.scalar(text, pa.large_string()) for text in ("-", ""))


def convert(source: Source, way: Convert) -> Outcome:
    """Valid entries, written otherwise; those of no valid reading stay as they are."""
    if way.to == "number":
        return _to_number(source)
    return _to_labels(source, way) if way.to == "labels" else _to_text(source, way)


def _as_texts(source: Source, texts: Texts, fits: Flags, parts: dict[str, Any], notes: tuple[str, ...]) -> Outcome:
    """The variable of which valid tokens became texts where these fit; what was missing stays missing."""
    codes = large_texts([line.code for line in source.tag.missing if line.code is not None])
    notes += _now_missing(source, fits & pc.is_in(texts, codes).to_numpy(zero_copy_only=False))
    texts = pc.if_else(pa.array(fits), texts, source.column.texts())
    return source.with_texts(texts, ~fits & (source.reading.states == State.MISSING), parts, notes=notes)


def _left(source: Source, fits: Flags) -> tuple[str, ...]:
    """What to say of valid entries that do not fit."""
    left = source.valid & ~fits & (source.counts > 0)
    records = int(source.counts[left].sum())
    if not records:
        return ()
    shown = ", ".join(f"“{text}”" for text in source.reading.texts(np.flatnonzero(left)[:3]).to_pylist())
    return (f"{counted(records, 'entry', 'entries')} cannot be converted and stay as they are ({shown})",)


def _to_number(source: Source) -> Outcome:
    tag = source.tag
    if tag.type in NUMBER_TYPES:
        raise BadFormula(f"{tag.name} holds numbers already.")
    numbers = _as_numbers(source)
    fits = _fitting(source, numbers)
    if not fits.any() or numbers.values is None:
        raise BadFormula(f"No entry of {tag.name} is a number.")
    values = numbers.values[fits]
    whole = bool((values == np.floor(values)).all())
    decimals = int(numbers.decimals[fits].max(initial=0))
    parts = {
        "type": "integer" if whole else "decimal",
        "level": "ratio",
        "missing": tag.missing,
        "decimals": None if whole else decimals,
        "label": tag.label,
    }
    if numbers.coarse:
        return _as_texts(source, numbers.canonical(), fits, parts, _left(source, fits))
    codes = [canonical_code(line.code, "decimal") for line in tag.missing if line.code is not None]
    missing = fits & np.isin(numbers.values, [float(code) for code in codes if code is not None])
    return Outcome(_numeric(source, numbers, fits), parts, _left(source, fits) + _now_missing(source, missing))


def _now_missing(source: Source, missing: Flags) -> tuple[str, ...]:
    """What to say of valid entries that are a missing code as they are written now, such as 09 that became 9."""
    at = np.flatnonzero(missing & source.valid & (source.counts > 0))
    if not at.size:
        return ()
    records = int(source.counts[at].sum())
    shown = ", ".join(f"“{text}”" for text in source.reading.texts(at[:3]).to_pylist())
    return (f"{counted(records, 'entry reads', 'entries read')} as missing there, being written otherwise ({shown})",)


def _numeric(source: Source, numbers: Reading, fits: Flags) -> Column:
    """The column of which tokens became numbers where they fit. No text is written for a number."""
    assert numbers.values is not None
    others = np.flatnonzero(~fits & (numbers.states == State.VALID))  # such as missing codes, which are numbers, too
    same = pc.equal(numbers.canonical(others), source.column.arrow_at(others)).to_numpy(zero_copy_only=False)
    known = fits.copy()
    known[others[same]] = True
    values = np.where(known, numbers.values, np.nan)
    return source.column.mapped(values, source.study.records.arrived, source.column.texts())


def _as_numbers(source: Source) -> Reading:
    """The entries as numbers by the decimal mark by which more of them are, the point where it makes no difference."""

    def read_by(mark: str) -> Reading:
        return read_column(source.column, Lens("decimal", Marks(decimal=mark), (), False, None, None, ()))

    point = read_by(".")
    left = np.flatnonzero(source.valid & ~_fitting(source, point) & (source.counts > 0))
    if not pc.any(pc.match_substring(source.column.arrow_at(left), ","), min_count=0).as_py():
        return point
    comma = read_by(",")
    more = source.counts[_fitting(source, comma)].sum() > source.counts[_fitting(source, point)].sum()
    return comma if more else point


def _fitting(source: Source, numbers: Reading) -> Flags:
    """Which valid entries are numbers, too."""
    fitting: Flags = source.valid & (numbers.states == State.VALID)
    return fitting


def _to_text(source: Source, way: Convert) -> Outcome:
    """Numbers with so many decimals, and zeros in front up to a width; dates as they are written; texts trimmed."""
    tag = source.tag
    if way.width > WIDEST or (way.decimals or 0) > MOST_DECIMALS:
        raise BadFormula(f"A width goes to {WIDEST}, decimals to {MOST_DECIMALS}.", way.source.at)
    texts = source.reading.canonical()
    if tag.type in NUMBER_TYPES and way.decimals is not None and source.reading.values is not None:
        values = np.where(source.valid, source.reading.values, 0.0)
        rounded = half_up(values, way.decimals)
        texts = large_texts([f"{value:.{way.decimals}f}" for value in rounded.tolist()])
    if way.width:
        negative = pc.starts_with(texts, "-")
        body = pc.utf8_ltrim(texts, "-") if tag.type in NUMBER_TYPES else texts
        padded = pc.utf8_lpad(body, way.width, "0")
        signed = pc.binary_join_element_wise(_HYPHEN, pc.utf8_lpad(body, way.width - 1, "0"), _NOTHING)
        texts = pc.if_else(negative, signed, padded) if tag.type in NUMBER_TYPES else padded
    parts = {"type": "text", "level": "nominal", "missing": kept_missing(tag, "text"), "label": tag.label}
    notes = _strays_as_text(source)
    return _as_texts(source, texts.cast(pa.large_string()), source.valid, parts, notes)


def _to_labels(source: Source, way: Convert) -> Outcome:
    labels = [line.label for line in source.lines]
    if not any(labels):
        raise BadFormula(f"{source.tag.name} has no labels.", way.source.at)
    lines = source.reading.lines
    named = np.array([bool(label) for label in labels], bool)
    fits = source.valid & (lines >= 0)
    fits[fits] = named[lines[fits]]
    texts = pc.take(large_texts(labels), pa.array(np.where(fits, lines, 0)))
    missing = kept_missing(source.tag, "text")
    parts = {"type": "text", "level": "nominal", "missing": missing, "label": source.tag.label}
    notes = _left(source, fits) + _strays_as_text(source)
    return _as_texts(source, texts, fits, parts, notes)


def _strays_as_text(source: Source) -> tuple[str, ...]:
    """What to say of strays, which under text are none."""
    strays = int(source.counts[source.stray].sum())
    return (f"{counted(strays, 'stray counts', 'strays count')} as text there",) if strays else ()
