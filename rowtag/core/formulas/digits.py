"""Fractions as they are written: what arithmetic on floats adds beyond 15 digits is none of a number.

0.29 * 100 is 28.999999999999996 in floats. Any decimal of at most 15 significant digits comes back from the nearest
float by rounding it to 15 of them (IEEE 754, double precision), so that computed numbers are rounded so before they are
kept, compared or cut. Whole numbers are exact as they are.
"""

from decimal import Decimal
from typing import Any

import numpy as np
import numpy.typing as npt

Numbers = npt.NDArray[np.float64]

DIGITS = 15
"""Significant digits of a decimal that come back from a float."""
_AT_ONCE = 8_192
"""Numbers that are rounded at once: what is worked out on the way stays in the processor's memory."""
_TENS = np.array([float(f"1e{power}") for power in range(23)])
"""Powers of ten that a float holds exactly."""
_SPLIT = 134217729.0
"""2^27 + 1, which splits a float into two halves (Veltkamp), whose products are exact (Dekker, 1971)."""


def as_written(values: Any) -> Numbers:
    """Numbers (n) rounded to 15 significant digits, each to the nearest float of what is written then; whole numbers,
    and what is infinite or none, as they are."""
    out = np.array(values, np.float64)
    for first in range(0, out.size, _AT_ONCE):
        part = out[first : first + _AT_ONCE]
        with np.errstate(all="ignore"):
            broken = np.flatnonzero(np.isfinite(part) & (part != np.floor(part)))
        if broken.size == part.size:
            part[:] = _rounded(part, np.abs(part))
        elif broken.size:
            part[broken] = _rounded(part[broken], np.abs(part[broken]))
    return out


def without_noise(results: Numbers, one: Numbers, other: Numbers) -> Numbers:
    """Sums or differences (n) of two terms each, rounded to the 15th digit of the larger one where some of these
    cancelled out: 0.1 * 3 - 0.3 is 0, not 5.6e-17."""
    out = results
    for first in range(0, results.size, _AT_ONCE):
        here = slice(first, first + _AT_ONCE)
        part = results[here]
        with np.errstate(all="ignore"):
            if (part == np.floor(part)).all():
                continue
            told = as_large_as(part, np.maximum(np.abs(one[here]), np.abs(other[here])))
        if told is not part:
            out = results.copy() if out is results else out
            out[here] = told
    return out


def as_large_as(results: Numbers, size: Numbers) -> Numbers:
    """Numbers (n) rounded to the 15th digit of others (n) that are larger: what is left of terms of that size."""
    with np.errstate(all="ignore"):
        near = np.flatnonzero((results != np.floor(results)) & (np.abs(results) < size) & np.isfinite(size))
    if not near.size:
        return results
    out = results.copy()
    out[near] = _rounded(results[near], size[near])
    return out


def _rounded(values: Numbers, size: Numbers) -> Numbers:
    """Numbers rounded to the 15th digit of others (above 0) as large or larger."""
    power = DIGITS - 1 - np.floor(np.log10(size)).astype(np.int64)
    tens = _TENS.take(power, mode="clip")
    scaled = size * tens
    power += scaled < 10.0 ** (DIGITS - 1)  # a logarithm can be off by one beside a power of ten
    power -= scaled >= 10.0**DIGITS
    tens = _TENS.take(power, mode="clip")
    out = _whole(values, tens)
    out /= tens
    for at in np.flatnonzero((power < 1) | (power >= _TENS.size - 1)).tolist():  # very small or very large ones
        exponent = int(f"{size[at]:.{DIGITS - 1}e}".partition("e")[2])
        out[at] = float(f"{round(Decimal(float(values[at])), DIGITS - 1 - exponent)}")
    out += 0.0
    return out


def _whole(values: Numbers, tens: Numbers) -> Numbers:
    """The whole numbers nearest to exact products, which lie below 2^53."""
    product = values * tens
    near = np.rint(product)
    rest = product - near
    between = np.flatnonzero(np.abs(rest) > 0.25)  # a product is off by an eighth at most
    if between.size:
        rest = rest[between] + _low(values[between], tens[between], product[between])
        near[between] += (rest > 0.5).astype(np.float64) - (rest < -0.5)
    return near


def _low(one: Numbers, other: Numbers, product: Numbers) -> Numbers:
    """What a product of floats lacks of the exact one (Dekker's product)."""
    halves = []
    for each in (one, other):
        large = each * _SPLIT
        high = large - (large - each)
        halves.append((high, each - high))
    (a, b), (c, d) = halves
    found: Numbers = b * d - (((product - a * c) - b * c) - a * d)
    return found


def summed(data: Numbers) -> Numbers:
    """The sums of columns of k numbers each (k × n), those that are none left out; what floats lose on the way is
    gathered beside (Neumaier, 1974), and what cancels out is told to the 15th digit of all of it."""
    total, lost, size = (np.zeros(data.shape[1]) for _ in range(3))
    with np.errstate(all="ignore"):
        for row in data:
            each = np.where(np.isnan(row), 0.0, row)
            size += np.abs(each)
            grown = total + each
            larger = np.abs(total) >= np.abs(each)
            lost += np.where(larger, (total - grown) + each, (each - grown) + total)
            total = grown
        whole = np.isfinite(total)
    return as_large_as(np.where(whole, total + np.where(whole, lost, 0.0), total), size)
