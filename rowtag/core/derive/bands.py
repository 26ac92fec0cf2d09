"""Bands: values become the number of the range that they fall into. And cut points that could part them."""

import math
from collections.abc import Sequence
from itertools import pairwise

import numpy as np

from rowtag.core.derive.outcome import Flags, Outcome, Source, Targets, coded_parts
from rowtag.core.derive.ways import Band, Bands
from rowtag.core.formulas.errors import BadFormula
from rowtag.core.formulas.looking import kind_of
from rowtag.core.formulas.values import SAID
from rowtag.core.reading import State, canonical_code, spell, value_of
from rowtag.core.study import Study
from rowtag.core.tag import CodeLine
from rowtag.core.words import counted, whole_number

MOST = 100
"""Bands at most."""


def bands(source: Source, way: Bands) -> Outcome:
    """What lies in no band stays as it was recorded, a stray, and is told; so does what was a stray before."""
    kind = source.tag.type
    if kind == "text":
        raise BadFormula(f"{source.tag.name} is text: it has no bands.", way.source.at, remedy="Bands are of numbers.")
    if len(way.bands) > MOST:
        raise BadFormula(f"These are {len(way.bands)} bands; there may be {MOST}.", way.bands[MOST].at)
    _refuse_overlaps(source, way.bands)
    target: Targets = np.full(source.counts.size, -1)
    for number, band in enumerate(way.bands):
        inside = source.within(band.low, band.high, above=band.above, below=band.below)
        target[inside & source.valid] = number
    lines = [CodeLine(code=str(at + 1), label=label_of(band)) for at, band in enumerate(way.bands)]
    parts = coded_parts(lines, source.tag.missing, "ordinal")
    for aside in source.tag.missing:
        code = None if aside.code is None else canonical_code(aside.code, "integer")
        if code is not None and 1 <= (whole_number(code) or 0) <= len(lines):
            raise BadFormula(
                f"{aside.code} is a missing code of {source.tag.name} ({aside.reason}), and would be a band, too.",
                remedy="Set another missing code first.",
            )
    left = source.valid & (target < 0) & (source.counts > 0)
    made = {**parts, "label": f"{source.tag.label or source.tag.name} (in bands)"}
    return source.became(target, [str(at + 1) for at in range(len(lines))], made, notes=_left_over(source, left))


def _left_over(source: Source, left: Flags) -> tuple[str, ...]:
    """What to say of valid entries that lie in no band."""
    records = int(source.counts[left].sum())
    if not records or source.reading.values is None:
        return ()
    values = [spell(value, source.tag.type) for value in np.unique(source.reading.values[left])[:4].tolist()]
    shown = ", ".join(values[:3]) + (" …" if len(values) > 3 else "")
    return (f"{counted(records, 'entry lies', 'entries lie')} in no band and stay strays ({shown})",)


def label_of(band: Band) -> str:
    """What a band is called: as it was said, else by its ends."""
    if band.label is not None:
        return band.label
    if band.low is None:
        return f"under {band.high}" if band.below else f"up to {band.high}"
    if band.high is None:
        return f"over {band.low}" if band.above else f"{band.low} and over"
    low = f"over {band.low}" if band.above else band.low
    return f"{low} to under {band.high}" if band.below else f"{low} to {band.high}"


def _refuse_overlaps(source: Source, bands: Sequence[Band]) -> None:
    """Raises BadFormula where an end is none under the type, or two bands meet in a value."""
    kind = source.tag.type
    spans: list[tuple[float, float, Band]] = []
    for band in bands:
        ends: list[float] = []
        for written, open_end in ((band.low, -np.inf), (band.high, np.inf)):
            code = None if written is None else canonical_code(written, kind)
            if written is not None and code is None:
                raise BadFormula(f"{written} is not {SAID[kind_of(source.study, source.id)]}.", band.at)
            ends.append(open_end if code is None else value_of(code, kind))
        if ends[0] > ends[1] or (ends[0] == ends[1] and (band.above or band.below)):
            raise BadFormula("No value can lie in this band.", band.at, remedy="Its lower end comes first.")
        spans.append((ends[0], ends[1], band))
    for (_, end, one), (begin, last, other) in pairwise(sorted(spans, key=lambda each: each[:2])):
        if begin < end or (begin == end and not one.below and not other.above):
            shared = begin if np.isfinite(begin) else min(end, last)  # two bands that are open below
            raise BadFormula(
                f"This band and “{label_of(one)}” meet: {spell(shared, kind)} lies in both.",
                other.at,
                remedy="Write below or above before an end that does not belong to its band.",
            )


# Cut points ---------------------------------------------------------------------------------------


def equal_counts(study: Study, id: str, number: int) -> list[Band]:
    """Bands with about as many valid entries each; fewer, where one value alone has more."""
    values, counts = study.values(id, State.VALID)
    if not values.size:
        return []
    so_far = np.cumsum(counts)
    wanted = so_far[-1] * np.arange(1, number) / number
    last = np.unique(np.searchsorted(so_far, wanted, side="left"))
    last = last[last < values.size - 1]
    return _between(values[last].tolist(), values[last + 1].tolist(), study.tag(id).type)


def equal_widths(study: Study, id: str, number: int) -> list[Band]:
    """Bands that are equally wide between the lowest and the highest valid entry; the outer ones are open."""
    values, _ = study.values(id, State.VALID)
    if not values.size or values[0] == values[-1]:
        return []
    low, high = float(values[0]), float(values[-1])
    kind = study.tag(id).type
    digits = (study.tag(id).decimals or 0) if kind == "decimal" else 0
    cuts = sorted({round(low + (high - low) * at / number, digits) for at in range(1, number)})
    return _between(cuts, cuts, kind)


def bands_of(lines: Sequence[CodeLine]) -> list[Band]:
    """The ranges of a code list as bands, with their labels: a value in which two meet belongs to the first of them, as
    it does when entries are read."""
    bands: list[Band] = []
    for line in lines:
        if line.code is None:
            met = bool(bands) and line.low is not None and line.low == bands[-1].high
            bands.append(Band(line.low, line.high, above=met, label=line.label or None))
    return bands


def _between(last: Sequence[float], first: Sequence[float], kind: str) -> list[Band]:
    """Bands parted at cuts: whole numbers and days by the last of the lower band, others by the first of the upper."""
    bands: list[Band] = []
    low: str | None = None
    for end, begin in zip(last, first, strict=True):
        if kind in ("integer", "date"):
            bands.append(Band(low, spell(end, kind)))
            low = spell(end + 1, kind)
        else:
            cut = spell(_plainest(end, begin), kind)
            bands.append(Band(low, cut, below=True))
            low = cut
    return [*bands, Band(low, None)] if bands else []


def _plainest(last: float, first: float) -> float:
    """The number with the fewest decimals that parts two values: above the one, and not above the other."""
    for digits in range(16):
        scale = 10.0**digits
        cut = math.floor(first * scale) / scale
        if last < cut <= first:
            return cut
    return first
