"""Deriving said a second time, from its documentation alone, slowly: random sentences, and what each means per record.

    python -m tests.judge [SENTENCES] [SEED]

A `Said` is a piece of a sentence with what it means for one record of a `World`: None where that is not known. Numbers
are fractions, exact until they are cut, compared or kept, where they have 15 significant digits.
"""

import random
import sys
from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime, time
from decimal import Decimal, getcontext
from fractions import Fraction
from functools import cached_property
from typing import Any

from rowtag.core.column import column_of_texts
from rowtag.core.derive import derive as look
from rowtag.core.derive import held, names_for
from rowtag.core.errors import BadInput
from rowtag.core.steps.derive import Derive, Into
from rowtag.core.study import Records, Study, Variable
from rowtag.core.tag import CodeLine, Limits, Marks, MissingLine, Tag
from tests import reference

getcontext().prec = 60


# The world ----------------------------------------------------------------------------------------

REFUSED, UNSURE = MissingLine(code="-9", reason="refused"), MissingLine(low="97", high="99", reason="other")
SCALE = tuple(CodeLine(code=str(code), label=label) for code, label in ((1, "Poor"), (3, "Fair"), (5, "Good")))
OWN = tuple(CodeLine(code=str(code), label=label) for code, label in ((1, "Own"), (2, "Shared"), (3, "Waiting")))
ITEM = Tag(name="x", type="integer", level="ordinal", codes=SCALE, missing=(REFUSED,))
TAGS = (
    *(ITEM.with_parts(name=name) for name in ("site_1", "site_2", "site_3")),
    Tag(
        name="tenure",
        type="integer",
        codes=OWN,
        complete=True,
        missing=(REFUSED, MissingLine(code="-8", reason="other")),
    ),
    Tag(name="hours", type="decimal", level="ratio", missing=(REFUSED, UNSURE), limits=Limits(low="0", high="80")),
    Tag(name="rent", type="decimal", level="ratio", marks=Marks(decimal=",", thousands="."), missing=(REFUSED,)),
    Tag(name="w", type="decimal", level="ratio", use="weight"),
    Tag(name="crop", type="text", missing=(MissingLine(code="n/a", reason="no answer"),)),
    Tag(name="number", type="text"),
    Tag(name="opened", type="date", level="interval", marks=Marks(date_order="dmy")),
    Tag(name="seen", type="date", level="interval"),
    Tag(name="begun", type="time", level="interval"),
    Tag(name="ended", type="time", level="interval"),
    *(Tag(name=name, label=f"Has: {label}", type="integer") for name, label in (("has_1", "tap"), ("has_2", "hut"))),
)
BY_NAME = {tag.name: tag for tag in TAGS}
ENTRIES = {
    **dict.fromkeys(("site_1", "site_2", "site_3"), ("1", "2", "3", "4", "5", "05", " 3", "-9", "", "x", "5.0", "9")),
    "tenure": ["1", "2", "3", "03", " 2 ", "-9", "-8", "", "7", "x", "1.0", "-9.0"],
    "hours": [
        "0",
        "0.1",
        "0.2",
        "0.3",
        "4",
        "4.5",
        "4.50",
        "14.9",
        "80",
        "81",
        "-9",
        "-9.00",
        "98",
        "98.5",
        "",
        "12 hrs",
    ],
    "rent": ["0,1", "0,29", "7", "1,1", "1.200,50", "-9", "-9,0", "", "3.5", "2,675", "33,3"],
    "w": ["1", "0.5", "2", "0", "-1", "", "x", "1.25"],
    "crop": ["Beans", "beans", " Onions", "Kale, beans", "Küche", "n/a", "", "12", "a beanpole"],
    "number": ["007", "12", "012", "A1", "", "3.5", "-4", "1e2"],
    "opened": ["3.5.2026", "29.2.2024", "31.12.1999", "2026-05-03", "", "32.1.2026"],
    "seen": ["2026-05-03", "2024-02-29", "2027-03-01", "2026-02-28", "", "soon"],
    "begun": ["9:05", "10:30", "18:30:15", "", "25:00"],
    "ended": ["10:30", "23:59", "18:30", "", "late"],
    **dict.fromkeys(("has_1", "has_2"), ("0", "1", "", "01")),
}
ITEMS, NUMBERS = ("site_1", "site_2", "site_3"), ("site_1", "site_2", "tenure", "hours", "rent", "w")
TEXTS, DATES, TIMES = ("crop", "number"), ("opened", "seen"), ("begun", "ended")


class Unsure(Exception):
    """What comes out depends on more digits than anybody promised."""


@dataclass(frozen=True)
class World:
    """Records with all their entries as recorded."""

    rows: tuple[dict[str, str], ...]

    @cached_property
    def read(self) -> list[dict[str, reference.Read]]:
        return [{name: reference.read(row[name], BY_NAME[name]) for name in BY_NAME} for row in self.rows]

    def state(self, at: int, name: str) -> str:
        return self.read[at][name].state

    def value(self, at: int, name: str) -> Any:
        """What a valid entry is worth."""
        if self.state(at, name) != "valid":
            return None
        found = reference.value(reference.trimmed(self.rows[at][name]), BY_NAME[name])
        return Fraction(found) if isinstance(found, Decimal) else found

    def study(self) -> Study:
        return Study(records=Records(len(self.rows))).with_variables(
            (f"id_{tag.name}", Variable(tag=tag), column_of_texts([row[tag.name] for row in self.rows])) for tag in TAGS
        )


def world(chance: random.Random, size: int) -> World:
    return World(tuple({name: chance.choice(each) for name, each in ENTRIES.items()} for _ in range(size)))


Means = Callable[[World, int], Any]


@dataclass(frozen=True)
class Said:
    """A piece of a formula and what it means for a record."""

    text: str
    means: Means


# Numbers ------------------------------------------------------------------------------------------


def rounded(value: Fraction, size: Fraction | None = None) -> Fraction:
    """A number with 15 significant digits (those of `size`); whole ones are exact."""
    if value.denominator == 1 or not value:
        return value
    largest = abs(size or value)
    exponent = (Decimal(largest.numerator) / Decimal(largest.denominator)).adjusted()
    scale = Fraction(10) ** (14 - exponent)
    return Fraction(round(value * scale)) / scale


def root(value: Fraction) -> Fraction:
    return Fraction((Decimal(value.numerator) / Decimal(value.denominator)).sqrt())


def plus(a: Fraction, b: Fraction) -> Fraction:
    """A sum; what is left of terms that cancel out is told to the 15th digit of the larger one."""
    found, size = a + b, max(abs(a), abs(b))
    return rounded(found, size) if found.denominator != 1 and abs(found) < size else found


def near(a: Fraction, b: Fraction) -> bool:
    return a != b and abs(a - b) <= Fraction(1, 10**13) * max(abs(a), abs(b), Fraction(1, 10**9))


def cut(value: Fraction) -> Fraction:
    """A number that is about to be cut."""
    found = rounded(value)
    if found.denominator != 1 and near(found, Fraction(round(found))):
        raise Unsure
    return found


def half_up(value: Fraction, decimals: int) -> Fraction:
    scale = Fraction(10) ** decimals
    size = cut(abs(value) * scale)
    whole = size.numerator // size.denominator
    if near(size - whole, Fraction(1, 2)):
        raise Unsure
    found = Fraction(whole + (size - whole >= Fraction(1, 2))) / scale
    return -found if value < 0 else found


def modulo(a: Fraction, b: Fraction) -> Fraction | None:
    if not b:
        return None
    times = cut(a / b)
    return plus(a, -(times.numerator // times.denominator) * b)


# Formulas -----------------------------------------------------------------------------------------


def of(*parts: Said) -> Callable[[Callable[..., Any]], Means]:
    """What a function makes of what some parts mean, where all of them are known."""

    def made(work: Callable[..., Any]) -> Means:
        def means(here: World, at: int) -> Any:
            given = [part.means(here, at) for part in parts]
            return None if any(each is None for each in given) else work(*given)

        return means

    return made


def variable(name: str) -> Said:
    return Said(name, lambda here, at: here.value(at, name))


def number(chance: random.Random, depth: int) -> Said:
    """A piece that gives numbers."""
    if depth <= 0 or chance.random() < 0.25:
        if chance.random() < 0.3:
            text = chance.choice(["0", "1", "2", "3", "7", "0.1", "0.29", "100", "2.5", "1.005", "12"])
            return Said(text, lambda here, at: Fraction(text))
        return variable(chance.choice(NUMBERS))
    return chance.choice(_NUMBERS)(chance, depth - 1)


def _two(chance: random.Random, depth: int) -> Said:
    a, b, sign = number(chance, depth), number(chance, depth), chance.choice("+-*/")
    if sign == "/" and b.text in ("0",):
        b = variable("hours")
    work = {
        "+": plus, "-": lambda x, y: plus(x, -y), "*": lambda x, y: x * y, "/": lambda x, y: x / y if y else None
    }[sign]  # fmt: skip
    return Said(f"({a.text} {sign} {b.text})", of(a, b)(work))


def _one(chance: random.Random, depth: int) -> Said:
    a = number(chance, depth)
    name = chance.choice(["abs", "floor", "ceiling", "round", "round1", "sqrt", "minus", "reverse"])
    if name == "round1":
        return Said(f"round({a.text}, 1)", of(a)(lambda x: half_up(x, 1)))
    if name == "minus":
        return Said(f"(-{a.text})" if not a.text.startswith("-") else a.text, of(a)(lambda x: -x))
    if name == "reverse":
        return Said(f"reverse({a.text}, 1, 5)", of(a)(lambda x: plus(Fraction(6), -x)))
    work: dict[str, Callable[[Fraction], Any]] = {
        "abs": abs,
        "floor": lambda x: Fraction(cut(x).numerator // cut(x).denominator),
        "ceiling": lambda x: Fraction(-((-cut(x).numerator) // cut(x).denominator)),
        "round": lambda x: half_up(x, 0),
        "sqrt": lambda x: None if x < 0 else root(x),
    }
    return Said(f"{name}({a.text})", of(a)(work[name]))


def _mod(chance: random.Random, depth: int) -> Said:
    a, b = number(chance, depth), variable(chance.choice(["site_1", "hours", "rent"]))
    return Said(f"mod({a.text}, {b.text})", of(a, b)(modulo))


def _choice(chance: random.Random, depth: int) -> Said:
    met, a, b = condition(chance, depth), number(chance, depth), number(chance, depth)

    def means(here: World, at: int) -> Any:
        known = met.means(here, at)
        return None if known is None else (a if known else b).means(here, at)

    return Said(f"(if {met.text} then {a.text} else {b.text})", means)


def figure(what: str, values: Sequence[Fraction]) -> Fraction | None:
    """A figure of known values."""
    n, ordered = len(values), sorted(values)
    if what == "count":
        return Fraction(n)
    if not n:
        return None
    total = sum(values, Fraction(0))
    if what in ("min", "max"):
        return ordered[0] if what == "min" else ordered[-1]
    if what == "median":
        return (ordered[(n - 1) // 2] + ordered[n // 2]) / 2
    if what == "sd":
        return root(sum(((value - total / n) ** 2 for value in values), Fraction(0)) / (n - 1)) if n > 1 else None
    return total if what == "sum" else total / n


def _across(chance: random.Random, depth: int) -> Said:
    what = chance.choice(["sum", "mean", "median", "sd", "min", "max", "count"])
    if chance.random() < 0.6:
        parts, text = [variable(name) for name in ITEMS], "site_1..site_3"
        if chance.random() < 0.4:
            more = number(chance, depth)
            parts, text = [*parts, more], f"{text}, {more.text}"
    else:
        parts = [number(chance, depth) for _ in range(chance.randint(2, 3))]
        text = ", ".join(part.text for part in parts)
    needs = chance.choice([None, 1, 2]) if what != "count" else None
    needed = 0 if what == "count" else len(parts) if needs is None else needs

    def means(here: World, at: int) -> Any:
        known = [value for part in parts if (value := part.means(here, at)) is not None]
        return figure(what, known) if len(known) >= needed else None

    return Said(f"{what}({text}{f', needs {needs}' if needs else ''})", means)


def _met(chance: random.Random, depth: int) -> Said:
    sign, code = chance.choice(["=", ">", "<="]), chance.choice(["3", "4"])
    check = {"=": lambda x: x == int(code), ">": lambda x: x > int(code), "<=": lambda x: x <= int(code)}[sign]

    def means(here: World, at: int) -> Any:
        known = [value for name in ITEMS if (value := here.value(at, name)) is not None]
        return Fraction(sum(map(check, known)))

    return Said(f"count(site_1..site_3 {sign} {code})", means)


def _of_dates(chance: random.Random, _depth: int) -> Said:
    a, b = variable(chance.choice(DATES)), variable(chance.choice(DATES))
    kind = chance.choice(["year", "month", "day", "weekday", "days", "age", "minus", "hour", "minutes", "hours"])
    if kind in ("hour", "minutes", "hours"):
        x, y = variable("begun"), variable("ended")
        if kind == "hour":
            return Said("hour(begun)", of(x)(lambda t: Fraction(t.hour)))
        unit = 60 if kind == "minutes" else 3_600
        return Said(f"{kind}(begun, ended)", of(x, y)(lambda s, t: Fraction(_seconds(t) - _seconds(s)) / unit))
    if kind == "days":
        return Said(f"days between {a.text} and {b.text}", of(a, b)(lambda s, t: Fraction((t - s).days)))
    if kind == "minus":
        return Said(f"({a.text} - {b.text})", of(a, b)(lambda s, t: Fraction((s - t).days)))
    if kind == "age":
        return Said(f"age({a.text}, {b.text})", of(a, b)(_age))
    return Said(
        f"{kind}({a.text})", of(a)(lambda d: Fraction(d.isoweekday() if kind == "weekday" else getattr(d, kind)))
    )


def _seconds(t: time) -> int:
    return t.hour * 3_600 + t.minute * 60 + t.second


def _age(born: date, on: date) -> Fraction | None:
    years = on.year - born.year - ((on.month, on.day) < (born.month, born.day))
    return Fraction(years) if years >= 0 else None


def _of_texts(chance: random.Random, depth: int) -> Said:
    a = words(chance, depth)
    if chance.random() < 0.5:
        return Said(f"length({a.text})", of(a)(lambda t: Fraction(len(t))))
    one = variable("number")

    def worth(text: str) -> Fraction | None:
        found = reference.plain_number(text)
        return None if found is None else Fraction(found)

    return Said("number(number)", of(one)(worth))


def _down(chance: random.Random, depth: int) -> Said:
    """A figure down the records, within groups."""
    by = chance.choice([(), ("tenure",), ("tenure", "has_1"), ("crop",)])
    over = f"over {', '.join(by) or 'all'}"
    what = chance.choice(
        ["sum", "mean", "count", "min", "max", "median", "sd", "rank", "quantile", "z", "share", "first", "last",
         "previous", "number"]
    )  # fmt: skip

    def group(here: World, at: int) -> tuple[Any, ...] | None:
        key = tuple(here.read[at][name].canonical if here.state(at, name) == "valid" else None for name in by)
        return None if None in key else key

    def members(here: World, at: int) -> list[int]:
        own = group(here, at)
        return [] if own is None else [other for other in range(len(here.rows)) if group(here, other) == own]

    if what == "number":
        return Said(f"(number {over})", lambda here, at: Fraction(len(members(here, at))) or None)
    weighted = what in ("sum", "mean", "count", "share") and chance.random() < 0.4
    if what == "share":
        met = condition(chance, depth - 1)

        def share(here: World, at: int) -> Any:
            known = [(_weight(here, other, weighted), met.means(here, other)) for other in members(here, at)]
            known = [(weight, each) for weight, each in known if weight is not None and each is not None]
            total = sum((weight for weight, _ in known), Fraction(0))
            return sum((weight for weight, each in known if each), Fraction(0)) / total if total else None

        return Said(f"(share({met.text}{', weighted by w' if weighted else ''}) {over})", share)
    a = number(chance, min(depth - 1, 1))
    if what in ("first", "last", "previous"):
        order = chance.choice([None, "seen", "hours"])
        said = f", in order of {order}" if order else ""
        return Said(f"({what}({a.text}{said}) {over})", _picked(what, a, order, members))

    def means(here: World, at: int) -> Any:
        others = members(here, at)
        if not others:
            return None
        known = {other: value for other in others if (value := a.means(here, other)) is not None}
        if what in ("rank", "quantile", "z"):
            if at not in known:
                return None
            return _standing(what, known, at)
        if weighted:
            return _weighed(what, here, known)
        return figure(what, list(known.values()))

    parts = ", 3" if what == "quantile" else ", weighted by w" if weighted else ""
    return Said(f"({what}({a.text}{parts}) {over})", means)


def _weight(here: World, at: int, weighted: bool) -> Fraction | None:
    if not weighted:
        return Fraction(1)
    found = here.value(at, "w")
    return found if found is not None and found >= 0 else None


def _weighed(what: str, here: World, known: dict[int, Fraction]) -> Fraction | None:
    pairs = [(weight, value) for at, value in known.items() if (weight := _weight(here, at, True)) is not None]
    total = sum((weight for weight, _ in pairs), Fraction(0))
    if what == "count":
        return total
    found = sum((weight * value for weight, value in pairs), Fraction(0))
    return None if not total else found if what == "sum" else found / total


def _standing(what: str, known: dict[int, Fraction], at: int) -> Fraction | None:
    own, values = known[at], list(known.values())
    if any(near(own, value) for value in values):
        raise Unsure
    if what == "z":
        sd = figure("sd", values)
        return None if not sd else (own - sum(values, Fraction(0)) / len(values)) / sd
    below, same = sum(value < own for value in values), sum(value == own for value in values)
    rank = Fraction(2 * below + same + 1, 2)
    return rank if what == "rank" else Fraction(-((-3 * rank) // len(values)))


def _picked(what: str, a: Said, order: str | None, members: Callable[[World, int], list[int]]) -> Means:
    def means(here: World, at: int) -> Any:
        there = [other for other in members(here, at) if order is None or here.value(other, order) is not None]
        there.sort(key=lambda other: (0 if order is None else here.value(other, order), other))
        if what == "previous":
            place = there.index(at) if at in there else 0
            return a.means(here, there[place - 1]) if place else None
        known = [other for other in there if a.means(here, other) is not None]
        return None if not known else a.means(here, known[0 if what == "first" else -1])

    return means


_NUMBERS = (_two, _two, _one, _mod, _choice, _across, _across, _met, _of_dates, _of_texts, _down, _down, _down)


def words(chance: random.Random, depth: int) -> Said:
    """A piece that gives texts."""
    if depth <= 0 or chance.random() < 0.4:
        return variable(chance.choice(TEXTS))
    kind = chance.choice(["&", "lower", "upper", "part", "replace"])
    a = words(chance, depth - 1)
    if kind == "&":
        b, between = chance.choice(["site_1", "tenure", "number", "seen"]), chance.choice(["-", " / ", ""])

        def means(here: World, at: int) -> Any:
            left = _recorded(here, at, a.text) if a.text in BY_NAME else a.means(here, at)
            right = _recorded(here, at, b)
            return None if left is None or right is None else left + between + right

        return Said(f"({a.text} & '{between}' & {b})", means)
    if kind == "part":
        return Said(f"part({a.text}, 2, 3)", of(a)(lambda t: t[1:4]))
    if kind == "replace":
        return Said(f"replace({a.text}, 'e', 'ee')", of(a)(lambda t: t.replace("e", "ee")))
    return Said(f"{kind}({a.text})", of(a)(str.lower if kind == "lower" else str.upper))


def _recorded(here: World, at: int, name: str) -> str | None:
    return reference.trimmed(here.rows[at][name]) if here.state(at, name) == "valid" else None


def condition(chance: random.Random, depth: int) -> Said:
    """A condition: True, False or not known."""
    kind = chance.choice(
        ["compared", "compared", "reads", "label", "dates", "text", "between", "in", "not", "and", "or"]
    )
    if kind in ("not", "and", "or") and depth > 0:
        a, b = condition(chance, depth - 1), condition(chance, depth - 1)
        if kind == "not":
            return Said(f"not ({a.text})", of(a)(lambda met: not met))
        decided = kind == "or"

        def both(here: World, at: int) -> Any:
            met = [a.means(here, at), b.means(here, at)]
            return decided if decided in met else None if None in met else not decided

        return Said(f"({a.text} {kind} {b.text})", both)
    if kind == "reads":
        name, how = chance.choice(list(BY_NAME)), chance.choice(["valid", "missing", "blank", "stray"])
        states = {"stray": ("unreadable", "unlisted")}.get(how, (how,))
        return Said(f"{name} is {how}", lambda here, at: here.state(at, name) in states)
    if kind == "label":
        line = chance.choice(OWN)
        return Said(
            f"tenure is '{line.label}'", lambda here, at: _same(here.value(at, "tenure"), Fraction(line.code or 0))
        )
    if kind == "dates":
        name, sign = chance.choice(["opened", "seen", "begun"]), chance.choice(["<", ">=", "=", "<>"])
        end: Any = time(10, 30) if name == "begun" else date(2026, 5, 3)
        text = "10:30" if name == "begun" else "2026-05-03"
        return Said(f"{name} {sign} {text}", of(variable(name))(lambda value: _compared(sign, value, end)))
    if kind == "text":
        a, part = words(chance, depth - 1), chance.choice(["bean", "on", "1"])
        return Said(f"{a.text} contains '{part}'", of(a)(lambda t: part in t.lower()))
    a, b = number(chance, depth - 1), number(chance, depth - 1)
    if kind == "between":
        return Said(
            f"{a.text} between 1 and {b.text}",
            _and(of(a)(lambda x: _compared(">=", x, Fraction(1))), of(a, b)(lambda x, y: _compared("<=", x, y))),
        )
    if kind == "in":
        a = variable(chance.choice(["hours", "rent"]))
        return Said(f"{a.text} in (0.1, 4, 7)", of(a)(lambda x: x in (Fraction("0.1"), 4, 7)))
    sign = chance.choice(["=", "<>", "<", "<=", ">", ">="])
    if {a.text, b.text} & {"tenure"}:  # which refuses what its list does not have
        a, b = variable("hours"), number(chance, 0)
        b = variable("rent") if b.text == "tenure" else b
    return Said(f"{a.text} {sign} {b.text}", of(a, b)(lambda x, y: _compared(sign, x, y)))


def _and(one: Means, other: Means) -> Means:
    def means(here: World, at: int) -> Any:
        met = [one(here, at), other(here, at)]
        return False if False in met else None if None in met else True

    return means


def _same(value: Fraction | None, wanted: Fraction) -> bool | None:
    return None if value is None else value == wanted


def _compared(sign: str, x: Any, y: Any) -> bool:
    if isinstance(x, Fraction):
        x, y = rounded(x), rounded(y)
        if near(x, y):
            raise Unsure
    return {"=": x == y, "<>": x != y, "<": x < y, "<=": x <= y, ">": x > y, ">=": x >= y}[sign]


# Sentences ----------------------------------------------------------------------------------------

Kept = Any
"""What a record has in what is derived: (state, value), the value None where only the state counts."""


@dataclass(frozen=True)
class Sentence:
    """A sentence and what each record has in each of what it makes."""

    text: str
    means: Callable[[World, int], list[Kept]]
    several: int = 1


def _stays(here: World, at: int, name: str) -> Kept:
    """What no line names stays what it is."""
    read = here.read[at][name]
    return ("stray", None) if read.state in ("unreadable", "unlisted") else (read.state, None)


def _code(code: str) -> Kept:
    return ("valid", Fraction(code))


def formula(chance: random.Random) -> Sentence:
    kind = chance.choice(["number", "number", "number", "condition", "text", "indicator"])
    depth = chance.randint(1, 3)
    piece = (
        number(chance, depth)
        if kind == "number"
        else words(chance, depth)
        if kind == "text"
        else condition(chance, depth)
    )

    def means(here: World, at: int) -> list[Kept]:
        value = piece.means(here, at)
        if value is None or value == "":
            return [("blank", None)]
        if isinstance(value, str):
            return [("valid", value) if reference.trimmed(value) else ("blank", None)]
        return [("valid", Fraction(int(value)) if isinstance(value, bool) else value)]

    return Sentence(f"{'indicator ' if kind == 'indicator' else ''}{piece.text}", means)


def recoded(chance: random.Random) -> Sentence:
    name = chance.choice(["tenure", "hours", "site_1", "rent"])
    lines: list[tuple[str, Callable[[World, int], bool]]] = []
    wholes = {"tenure": ["1", "2", "3"], "site_1": ["1", "2", "5"]}.get(name, ["0", "4", "7"])
    lines += [
        (code, lambda here, at, code=code: _is(here, at, name, Fraction(code)))
        for code in chance.sample(wholes, chance.randint(1, 2))
    ]
    if name in ("hours", "rent", "site_1") and chance.random() < 0.6:
        low, high = sorted(chance.sample(["0.2", "1", "4.5", "15", "90"], 2), key=float)
        shape = chance.choice(["both", "up", "on"])
        text = {"both": f"{low} .. {high}", "up": f".. {high}", "on": f"{low} .."}[shape]

        def within(here: World, at: int) -> bool:
            value = here.value(at, name)
            up, on = shape != "on", shape != "up"
            return value is not None and (not on or value >= Fraction(low)) and (not up or value <= Fraction(high))

        lines.append((text, within))
    for word in chance.sample(["missing", "blank", "stray"], chance.randint(0, 2)):
        states = {"stray": ("unreadable", "unlisted")}.get(word, (word,))
        lines.append((word, lambda here, at, states=states: here.state(at, name) in states))
    chance.shuffle(lines)
    results = [chance.choice(["41", "42", "43", "blank"]) for _ in lines]
    rest = chance.choice([None, "44", "blank", "same"])
    said = [f"{text} -> {result}" for (text, _), result in zip(lines, results, strict=True)]

    def means(here: World, at: int) -> list[Kept]:
        met = [number for number, (_, check) in enumerate(lines) if check(here, at)]
        if met:
            result = results[met[0]]
            return [("blank", None) if result == "blank" else _code(result)]
        if rest not in (None, "same") and here.state(at, name) == "valid":
            return [("blank", None) if rest == "blank" else _code(str(rest))]
        if here.state(at, name) == "valid":
            return [("valid", here.value(at, name))]
        return [_stays(here, at, name)]

    return Sentence(f"recode {name}: {'; '.join(said)}" + (f"; else {rest}" if rest else ""), means)


def _is(here: World, at: int, name: str, code: Fraction) -> bool:
    """A code that stands in a line is what is recorded so, a stray of that number, too."""
    if here.state(at, name) in ("missing", "blank", "unreadable"):
        return False
    found = reference.value(reference.trimmed(here.rows[at][name]), BY_NAME[name])
    return isinstance(found, Decimal) and Fraction(found) == code


def bands(chance: random.Random) -> Sentence:
    name = chance.choice(["hours", "rent"])
    ends = sorted(chance.sample([Fraction(each) for each in ("0.2", "1", "4.5", "7", "15")], 2))
    low, high = (f"{float(end):g}" for end in ends)

    def means(here: World, at: int) -> list[Kept]:
        value = here.value(at, name)
        if value is None:
            return [_stays(here, at, name)]
        return [_code("1" if value <= ends[0] else "2" if value < ends[1] else "3")]

    return Sentence(f"bands {name}: .. {low}; above {low} .. below {high}; {high} ..", means)


def turned(chance: random.Random) -> Sentence:
    name = chance.choice(ITEMS)

    def means(here: World, at: int) -> list[Kept]:
        value = here.value(at, name)
        if value is None:
            return [_stays(here, at, name)]
        return [("valid", 6 - value if 1 <= value <= 5 else value)]

    return Sentence(f"reverse {name}{chance.choice(['', ' from 1 to 5'])}", means)


def coded(chance: random.Random) -> Sentence:
    rest = chance.choice(["", "; else 9 'Other'"])

    def means(here: World, at: int) -> list[Kept]:
        text = here.value(at, "crop")
        if text is None:
            return [_stays(here, at, "crop")]
        known = {"Beans": "1", "beans": "1", "Onions": "2"}.get(text)
        return [_code(known or "9") if known or rest else ("stray", None)]

    return Sentence(f"codes crop: 'Beans', 'beans' 1; 'Onions' 2{rest}", means)


def mentioned(_chance: random.Random) -> Sentence:
    def plain(text: str) -> str:
        return text.lower().replace("ü", "u")

    def means(here: World, at: int) -> list[Kept]:
        text = here.value(at, "crop")
        if text is None:
            return [_stays(here, at, "crop")] * 3
        found = "".join(sign if sign.isalnum() else " " for sign in plain(text)).split()
        met = [
            "beans" in found,
            any(word.startswith("bean") for word in found) or plain(text) == "12",
            "kuche" in found,
        ]
        return [_code(str(int(each))) for each in met]

    said = "'A' where 'BEANS'; 'B' where 'bean*', = '12'; 'C' where 'kuche'"
    return Sentence(f"mentions crop: {said}", means, 3)


def indicated(chance: random.Random) -> Sentence:
    base = chance.choice(["", " except 3", " except 'Waiting'"])
    codes = [line.code for line in OWN if not base or line.code != "3"]

    def means(here: World, at: int) -> list[Kept]:
        value = here.value(at, "tenure")
        if value is None:
            return [_stays(here, at, "tenure")] * len(codes)
        return [_code(str(int(value == Fraction(code or 0)))) for code in codes]

    return Sentence(f"indicators tenure{base}", means, len(codes))


def parted(_chance: random.Random) -> Sentence:
    def means(here: World, at: int) -> list[Kept]:
        text = here.value(at, "crop")
        if text is None:
            return [_stays(here, at, "crop")] * 2
        found = {part.strip().casefold() for part in text.split(",")}
        return [_code(str(int(word in found))) for word in ("kale", "beans")]

    return Sentence("split crop by ',': 'Kale'; 'Beans', 'beans'", means, 2)


def ticked(chance: random.Random) -> Sentence:
    which = chance.random() < 0.5

    def means(here: World, at: int) -> list[Kept]:
        values = [here.value(at, name) for name in ("has_1", "has_2")]
        met = [number for number, value in enumerate(values) if value == 1]
        if which:
            return [_code(str(met[0] + 1)) if len(met) == 1 else ("stray", None) if met else ("blank", None)]
        text = " + ".join(("tap", "hut")[number] for number in met) or ("" if None in values else "none")
        return [("valid", text) if text else ("blank", None)]

    return Sentence("which of has_1, has_2" if which else "join has_1, has_2 by ' + ' else 'none'", means)


def converted(chance: random.Random) -> Sentence:
    name, to = chance.choice([("tenure", "labels"), ("hours", "text"), ("rent", "text"), ("number", "number")])

    def means(here: World, at: int) -> list[Kept]:
        read, value = here.read[at][name], here.value(at, name)
        if to == "number":
            found = None if value is None else reference.plain_number(value)
            return [
                ("valid", Fraction(found))
                if found is not None
                else ("stray", None)
                if value is not None
                else (read.state, None)
            ]
        if value is None:
            return [("valid", None) if read.state in ("unreadable", "unlisted") else (read.state, None)]
        return [("valid", read.label if to == "labels" else read.canonical)]

    return Sentence(f"convert {name} to {to}", means)


SENTENCES = (formula,) * 6 + (recoded, recoded, bands, turned, coded, mentioned, indicated, parted, ticked, converted)


def sentence(chance: random.Random) -> Sentence:
    """A random sentence, with a condition behind it now and then."""
    found = chance.choice(SENTENCES)(chance)
    if chance.random() < 0.2:
        only, whole = condition(chance, 1), found

        def means(here: World, at: int) -> list[Kept]:
            return whole.means(here, at) if only.means(here, at) is True else [("blank", None)] * whole.several

        return replace(found, text=f"{found.text} only where {only.text}", means=means)
    return found


# Judged -------------------------------------------------------------------------------------------


def judged(said: Sentence, here: World) -> str:
    """What is wrong with what a sentence makes of a world; "" where nothing is, and why where it is refused."""
    study = here.study()
    try:
        how = held(said.text, study)
        found = look(how, study)
        names = names_for([f"new_{at}" for at in range(said.several)], found.outcomes)
        into = {f"made_{at}": name for at, name in enumerate(names)}
        after = Derive(variables=(Into(how=how, into=into),)).apply(study).study
    except BadInput as error:
        return f"refused: {error.what}"
    columns = [(after.tag(id), after.column(id).texts_at(after.column(id).indexes(0, len(here.rows)))) for id in into]
    for at in range(len(here.rows)):
        try:
            wanted = said.means(here, at)
        except Unsure:
            continue
        for (tag, entries), (state, value) in zip(columns, wanted, strict=True):
            read = reference.read(entries[at], tag)
            now = "stray" if read.state in ("unreadable", "unlisted") else read.state
            if now != state or (value is not None and not _alike(value, entries[at], tag)):
                shown = value if not isinstance(value, Fraction) else f"{float(value):.17g}"
                return f"record {at + 1} {here.rows[at]}: {now} “{entries[at]}”, not {state} {shown}"
    return ""


def _alike(value: Any, entry: str, tag: Tag) -> bool:
    """Whether an entry is what was wanted: exactly, where that has twelve digits or fewer."""
    text = reference.trimmed(entry)
    if isinstance(value, str):
        return text == reference.trimmed(value)
    if isinstance(value, date | time | datetime):
        return reference.value(text, tag) == value
    found = reference.number(text, tag) if tag.type != "text" else reference.plain_number(text)
    if found is None:
        return False
    exact = rounded(value)
    scale = 10**12
    if exact.denominator == 1 or ((exact * scale).denominator == 1 and abs(exact) < 1_000):
        return Fraction(found) == exact
    return abs(Fraction(found) - exact) <= Fraction(1, 10**13) * max(abs(exact), Fraction(1, 10**9))


def main() -> None:
    count, seed = (int(each) for each in (*sys.argv[1:], "20000", "1")[:2])
    chance, refused, wrong = random.Random(seed), Counter[str](), 0
    for number_of in range(count):
        said, here = sentence(chance), world(chance, chance.randint(1, 9))
        found = judged(said, here)
        if found.startswith("refused"):
            refused[found[:60]] += 1
        elif found:
            wrong += 1
            print(f"{number_of}: {said.text}\n    {found}")
            if wrong >= 15:
                break
    print(f"{count:,} sentences, {sum(refused.values()):,} refused, {wrong:,} wrong")
    for why, times in refused.most_common(14):
        print(f"{times:>6,}  {why}")


if __name__ == "__main__":
    main()
