"""The syntax of numbers, dates and times: our own, over whole arrays of texts.

Numbers: an optional sign (+, -, or the typographic minus), digits with an optional thousands mark in groups of
three. A whole number has at most 18 digits (zeros in front do not count) and a fraction only of zeros. A decimal
may have a fraction, any number of digits, and an exponent (1e-05, 2.5E+03), as far as a double reaches; up to 18
significant digits it is exactly what is written, with more it is the nearest double. No underscores, no "nan".
Dates: year-month-day with four digits for the year, or day and month first where the marks say so.
Times: hours and minutes, optionally seconds with a fraction. Date and time are joined by a blank or a T.
"""

import re
from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import Any

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from rowtag.core.tag import Marks
from rowtag.core.tokens import Texts, large_texts, spelled, without_exponent

_ZERO, _HYPHEN, _NOTHING = (pa.scalar(text, pa.large_string()) for text in ("0", "-", ""))
MINUS = "\u2212"
"""The typographic minus."""

Flags = npt.NDArray[np.bool_]
Values = npt.NDArray[np.float64]


FLOAT_DIGITS = 15
"""Decimal digits that a float tells apart for sure."""
EXACT_DIGITS = 18
"""Significant digits up to which numbers are exactly what is written."""


@dataclass(frozen=True)
class Parsed:
    """What a parser made of n texts: which fit (bool, n), and their values (float64, n; NaN where unfit).

    `plain`: numbers with point, hyphen and exponent only, dates and times canonical (Arrow, n; null where unfit); None
    where the texts were spelled from the values and are canonical themselves.
    """

    fits: Flags
    values: Values
    plain: Texts | None
    numeric: bool

    def plain_at(self, tokens: npt.NDArray[Any] | None = None) -> Texts:
        """Plain forms of all, or of those asked for."""
        if self.plain is None:
            values = self.values if tokens is None else self.values[tokens]
            known = np.isfinite(values)
            return pc.if_else(pa.array(known), spelled(np.where(known, values, 0.0)), _NULL)
        return self.plain if tokens is None else pc.take(self.plain, pa.array(tokens, pa.int64()))

    def canonical(self, tokens: npt.NDArray[Any] | None = None) -> Texts:
        """One spelling per value, of all or of those asked for: Arrow, null where unfit."""
        if not self.numeric or self.plain is None:
            return self.plain_at(tokens)
        if tokens is None:
            return self._spelled
        if "_spelled" not in self.__dict__ and 2 * len(tokens) < len(self.fits):  # only these are worth spelling
            return canonical_numbers(self.plain_at(tokens), self.values[tokens])
        return pc.take(self._spelled, pa.array(tokens, pa.int64()))

    @cached_property
    def _spelled(self) -> Texts:
        """Canonical numbers of all. Of most columns these are the plain forms themselves, and take no room."""
        assert self.plain is not None
        return canonical_numbers(self.plain, self.values)

    @cached_property
    def coarse(self) -> Flags | None:
        """Which have so many digits that their floats may not tell them apart (bool, n); None where none has."""
        if self.plain is None or not self.numeric:
            return None
        long: Flags = pc.greater(pc.binary_length(self.plain), FLOAT_DIGITS).fill_null(False).to_numpy(False)
        return long if long.any() else None

    @cached_property
    def decimals(self) -> npt.NDArray[np.int8]:
        """How many digits, up to 18, each number has behind the mark (int8, n); zeros at the end are none.

        Canonical numbers, which cost more, are made only of what is long or has an exponent.
        """
        written = self.plain_at()
        unusual = pc.greater(pc.binary_length(written), EXACT_DIGITS)
        for exponent in "eE":
            unusual = pc.or_(unusual, pc.match_substring(written, exponent))
        behind = _behind_the_mark(pc.if_else(pc.match_substring(written, "."), pc.utf8_rtrim(written, "0"), written))
        again = np.flatnonzero(unusual.fill_null(False).to_numpy(zero_copy_only=False))
        if again.size:
            behind[again] = _behind_the_mark(self.canonical(again))
        return behind

    @property
    def nbytes(self) -> int:
        """Memory this holds, for caches, with room for what is made of it later."""
        plain = 0 if self.plain is None else (1 + self.numeric) * self.plain.nbytes + 2 * len(self.fits)
        return int(self.fits.nbytes + self.values.nbytes + plain)


def _behind_the_mark(numbers: Texts) -> npt.NDArray[np.int8]:
    """The characters behind the point of each of n numbers, up to 18; none where there is no point or no number."""
    mark = pc.find_substring(numbers, ".").fill_null(-1).to_numpy(zero_copy_only=False)
    length = pc.binary_length(numbers).fill_null(0).to_numpy(zero_copy_only=False)
    return np.where(mark >= 0, np.minimum(length - mark - 1, 18), 0).astype(np.int8)


_NULL = pa.scalar(None, pa.large_string())
_EXPONENT = r"(?:[eE][+-]?\d{1,3})?"


def _plainest_pattern(marks: Marks, *, whole: bool) -> str:
    """The regular expression of most numbers: no mark but the decimal one, few digits. It is matched in one pass."""
    fraction = re.escape(marks.decimal) + ("0+" if whole else r"\d{1,18}")
    return rf"^-?\d{{1,18}}(?:{fraction})?$"


@lru_cache(maxsize=256)
def number_pattern(marks: Marks, *, whole: bool) -> str:
    """The regular expression (RE2) of a number; `whole` allows only fractions of zeros."""
    digits = r"0*\d{1,18}" if whole else r"\d+"
    if marks.thousands:
        groups = "{1,5}" if whole else "+"
        digits = rf"(?:{digits}|[1-9]\d{{0,2}}(?:{re.escape(marks.thousands)}\d{{3}}){groups})"
    mark = re.escape(marks.decimal)
    fraction = rf"{mark}0+" if whole else rf"{mark}\d+"
    bare = rf"{digits}(?:{fraction})?" if whole else rf"(?:{digits}(?:{fraction})?|{fraction}){_EXPONENT}"
    polarity = rf"[+\-{MINUS}]?"
    if not marks.sign:
        return rf"^{polarity}{bare}$"
    sign = re.escape(marks.sign)
    return rf"^(?:{polarity}(?:{sign} ?)?{bare}|{sign} ?{polarity}{bare}|{polarity}{bare} ?{sign})$"


def _plain_numbers(texts: Texts, fits: Any, marks: Marks) -> Texts:
    """Fitting numbers with point, hyphen and exponent only; null where unfit."""
    plain = pc.if_else(fits, texts, _NULL)
    if marks.sign:
        plain = pc.replace_substring_regex(plain, rf" ?{re.escape(marks.sign)} ?", "")
    if marks.thousands:
        plain = pc.replace_substring(plain, marks.thousands, "")
    if marks.decimal != ".":
        plain = pc.replace_substring(plain, marks.decimal, ".")
    if not pc.all(pc.string_is_ascii(plain)).as_py():
        plain = pc.replace_substring(plain, MINUS, "-")
    return plain


def parse_numbers(texts: Texts, marks: Marks, *, whole: bool = False) -> Parsed:
    """Which of n trimmed texts are numbers (`whole`: numbers without a fraction), and which."""
    fits = np.array(pc.match_substring_regex(texts, _plainest_pattern(marks, whole=whole)))
    others = np.flatnonzero(~fits & (pc.binary_length(texts).to_numpy() > 0))
    unusual = others
    if others.size:
        fits[others] = pc.match_substring_regex(pc.take(texts, others), number_pattern(marks, whole=whole))
        unusual = others[fits[others]]
    plain = _plain_numbers(texts, pa.array(fits), marks)
    values = pc.cast(pc.utf8_ltrim(plain, "+"), pa.float64()).to_numpy(zero_copy_only=False)
    if unusual.size and not whole:  # beyond what a double reaches: as good as infinite, or as nothing
        beyond = ~np.isfinite(values[unusual])
        nothing = np.flatnonzero(values[unusual] == 0)
        some = pc.match_substring_regex(pc.take(plain, unusual[nothing]), r"^[+-]?[0.]*[1-9]")
        beyond[nothing] |= some.to_numpy(zero_copy_only=False)
        if beyond.any():
            fits[unusual[beyond]] = False
            values = np.where(fits, values, np.nan)
            plain = pc.if_else(pa.array(fits), plain, _NULL)
    return Parsed(fits, values, plain, numeric=True)


def parse_values(values: Values, *, whole: bool) -> Parsed:
    """Which of n finite numbers (float64) are of a kind: `whole` ones have no fraction and at most 18 digits."""
    fits = (values == np.floor(values)) & (np.abs(values) < 10.0**18) if whole else np.ones(len(values), bool)
    return Parsed(fits, np.where(fits, values, np.nan), None, numeric=True)


_CANONICAL = r"^(?:0|-?(?:[1-9]\d{0,13}|(?:0|[1-9]\d{0,13})\.\d{0,3}[1-9]))$"
"""Numbers of few digits that are spelled as they are shown."""


def canonical_numbers(plain: Texts, values: Values) -> Texts:
    """One spelling for each value: no plus, no superfluous zeros, no exponent, no minus zero. Nulls stay null.

    Numbers of more than 18 significant digits are spelled as the double that they are.
    """
    otherwise = pc.invert(pc.fill_null(pc.match_substring_regex(plain, _CANONICAL), True))
    if not pc.any(otherwise, min_count=0).as_py():
        return plain  # the usual case: nulls aside, all are spelled so already
    few = values[np.flatnonzero(otherwise.to_numpy(zero_copy_only=False))]
    return pc.replace_with_mask(plain, otherwise, _respelled(plain.filter(otherwise), few))


def _respelled(plain: Texts, values: Values) -> Texts:
    """Canonical numbers of those that are written otherwise, or may be."""
    body = pc.utf8_ltrim(pc.utf8_ltrim(without_exponent(plain), "+-"), "0")
    trimmed = pc.utf8_rtrim(pc.utf8_rtrim(body, "0"), ".")
    body = pc.if_else(pc.match_substring(body, "."), trimmed, body)
    short = pc.or_(pc.equal(body, ""), pc.starts_with(body, "."))
    body = pc.if_else(short, pc.binary_join_element_wise(_ZERO, body, _NOTHING), body)
    negative = pc.and_(pc.starts_with(plain, "-"), pc.not_equal(body, "0"))
    found = pc.if_else(negative, pc.binary_join_element_wise(_HYPHEN, body, _NOTHING), body)
    return _rounded(found, body, values)


def _rounded(found: Texts, body: Texts, values: Values) -> Texts:
    """Canonical numbers, those of too many significant digits (`body` has no sign) as their double."""
    long = pc.fill_null(pc.greater(pc.binary_length(body), EXACT_DIGITS), False)
    if not pc.any(long, min_count=0).as_py():
        return found
    digits = pc.utf8_trim(pc.replace_substring(body, ".", ""), "0")
    many = pc.fill_null(pc.greater(pc.binary_length(digits), EXACT_DIGITS), False).to_numpy(zero_copy_only=False)
    if not many.any():
        return found
    doubles = spelled(np.where(many, values, 0.0))
    return pc.if_else(pa.array(many), doubles, found)


def canonical_number(text: str) -> str | None:
    """The canonical spelling of one number in plain notation (point, typographic minus allowed), else None."""
    found: str | None = parse_numbers(large_texts([text.strip()]), Marks()).canonical()[0].as_py()
    return found


# Dates and times -------------------------------------------------------------------------------

_YEAR, _MONTH, _DAY = r"(?P<y>\d{4})", r"(?P<m>\d{1,2})", r"(?P<d>\d{1,2})"
_ORDERS = {"ymd": (_YEAR, _MONTH, _DAY), "dmy": (_DAY, _MONTH, _YEAR), "mdy": (_MONTH, _DAY, _YEAR)}
_CLOCK = r"(?P<H>\d{1,2}):(?P<M>\d{2})(?::(?P<S>\d{2})(?P<F>\.\d{1,6})?)?"


def _fields(texts: Texts, pattern: str) -> tuple[Flags, dict[str, Values]]:
    """Which texts match, and the named parts as numbers (0 where a part is absent or unmatched)."""
    found = pc.extract_regex(texts, rf"^{pattern}$")
    fits = pc.is_valid(found)
    parts = {}
    for field in found.type:
        part = pc.struct_field(found, field.name)
        if field.name == "p":
            fits = pc.and_(fits, pc.fill_null(pc.equal(part, pc.struct_field(found, "q")), False))
        elif field.name != "q":
            part = pc.if_else(pc.equal(part, ""), "0", part)
            part = pc.fill_null(pc.cast(part, pa.float64()), 0.0)
            parts[field.name] = part.to_numpy(zero_copy_only=False)
    return fits.to_numpy(zero_copy_only=False), parts


def _days(parts: dict[str, Values]) -> tuple[Flags, Values]:
    """Which of the year-month-day parts are days of the calendar, and their days since 1970-01-01."""
    year, month, day = (parts[key].astype(np.int64) for key in "ymd")
    plausible = (year >= 1) & (month >= 1) & (month <= 12) & (day >= 1)
    months = np.where(plausible, (year - 1970) * 12 + month - 1, 0)
    first = months.astype("datetime64[M]").astype("datetime64[D]").astype(np.int64)
    following = (months + 1).astype("datetime64[M]").astype("datetime64[D]").astype(np.int64)
    real = plausible & (day <= following - first)
    return real, (first + day - 1).astype(np.float64)


def _seconds(parts: dict[str, Values]) -> tuple[Flags, Values]:
    """Which of the clock parts are times of a day, and their seconds since midnight."""
    real = (parts["H"] < 24) & (parts["M"] < 60) & (parts["S"] < 60)
    return real, parts["H"] * 3600 + parts["M"] * 60 + parts["S"] + parts["F"]


def _parse_parts(texts: Texts, kind: str, order: str) -> tuple[Flags, Values]:
    """Which texts are dates, times or both in this order, and their days or seconds."""
    first, second, third = _ORDERS[order]
    day = rf"{first}(?P<p>[-/.]){second}(?P<q>[-/.]){third}"
    pattern = {"date": day, "time": _CLOCK, "datetime": rf"{day}[ T]{_CLOCK}"}[kind]
    fits, parts = _fields(texts, pattern)
    values = np.zeros(len(texts))
    if kind != "time":
        real, days = _days(parts)
        fits, values = fits & real, days * (86_400 if kind == "datetime" else 1)
    if kind != "date":
        real, seconds = _seconds(parts)
        fits, values = fits & real, values + seconds
    return fits, values


def parse_dates(texts: Texts, kind: str, marks: Marks) -> Parsed:
    """Which of n trimmed texts are of `kind` "date", "time" or "datetime".

    Values: days since 1970-01-01 for dates, seconds since midnight for times, seconds since
    1970-01-01 00:00 for both. A year in front is read under every order.
    """
    fits, values = _parse_parts(texts, kind, marks.date_order)
    if kind != "time" and marks.date_order != "ymd" and not fits.all():
        more, more_values = _parse_parts(texts, kind, "ymd")
        values = np.where(fits, values, more_values)
        fits = fits | more
    values = np.where(fits, values, np.nan)
    return Parsed(fits, values, canonical_dates(values, kind), numeric=False)


def canonical_dates(values: Values, kind: str) -> Texts:
    """ISO 8601 texts of the values of `parse_dates`; null where NaN. Seconds are shown where there are any."""
    known = ~np.isnan(values)
    whole = np.where(known, values, 0.0)
    if kind == "date":
        texts = np.datetime_as_string(whole.astype(np.int64).astype("datetime64[D]"), unit="D")
        return pa.array(texts.astype(object), pa.large_string(), mask=~known)
    micros = np.round(whole * 1_000_000).astype(np.int64).astype("datetime64[us]")
    full = pa.array(np.datetime_as_string(micros, unit="us").astype(object), pa.large_string(), mask=~known)
    if kind == "time":
        full = pc.utf8_slice_codeunits(full, 11)
    fraction = pc.ends_with(full, ".000000")
    full = pc.if_else(fraction, pc.utf8_slice_codeunits(full, 0, -7), pc.utf8_rtrim(full, "0"))
    even = pc.and_(fraction, pc.match_substring_regex(full, r"\d\d:\d\d:00$"))
    return pc.if_else(even, pc.utf8_slice_codeunits(full, 0, -3), full)
