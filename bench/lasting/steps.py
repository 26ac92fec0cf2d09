"""Steps of every kind, made at random from what a study shows of itself, as likely to be refused as anybody's."""

import random
from collections.abc import Callable
from typing import Any

from rowtag.core.steps import STEPS

Shown = dict[str, Any]
"""A study's overview, as the server gives it."""
Written = dict[str, Any]
"""A step as it goes over HTTP."""

ENTRIES = [
    "",
    "1",
    "2",
    "3",
    "4",
    "5",
    "-8",
    "-9",
    "77",
    "n/a",
    "Good",
    "12 hrs",
    " 2 ",
    "2,5",
    "2026-05-03",
    "é",
    "=1+1",
]
LABELS = ["Own", "Shared", "Lent", "", "In the “upper” field", "<b>Дуже</b>", "none of these"]
REASONS = ["refused", "don't know", "not asked", "other"]
MOST_VARIABLES = 45
"""Variables of a study beyond which none is added, so that long work stays the same work."""


class Pick:
    """What a random step is about."""

    def __init__(self, chance: random.Random, shown: Shown) -> None:
        self.chance = chance
        self.ids: list[str] = list(shown["order"])
        self.records: int = max(shown["records"], 1)

    @property
    def one(self) -> str:
        """A variable."""
        return self.chance.choice(self.ids)

    @property
    def some(self) -> list[str]:
        """A few variables."""
        return self.chance.sample(self.ids, min(len(self.ids), self.chance.randint(1, 4)))

    @property
    def record(self) -> int:
        """A record's number, of those that came first."""
        return self.chance.randint(1, self.records)

    @property
    def code(self) -> str:
        """A code as people use them."""
        return str(self.chance.choice([1, 2, 3, 4, 5, 8, 9, -8, -9]))

    def of(self, *these: Any) -> Any:
        """One of these."""
        return self.chance.choice(these)

    def entry(self) -> str:
        """An entry as people make them."""
        return self.chance.choice(ENTRIES)

    def label(self) -> str:
        """A label; most are different from one another."""
        return f"{self.chance.choice(LABELS)} {self.chance.randrange(1_000)}"

    def lines(self) -> list[Written]:
        """Lines of a code list."""
        codes = self.chance.sample(range(1, 10), 3)
        return [{"code": str(code), "label": self.label()} for code in sorted(codes)]

    def missing(self) -> Written:
        """A line of missing codes."""
        return {"code": self.of("-8", "-9", "99"), "reason": self.of(*REASONS), "label": self.label()}

    def new(self) -> str:
        """An id or name that nothing bears."""
        return f"n{self.chance.randrange(1 << 40):x}"

    def known(self, kind: str) -> str:
        """One of the few things of a kind that a study has, or does not have yet."""
        return f"{kind}{self.chance.randrange(4)}"


MAKERS: dict[str, Callable[[Pick], Written]] = {
    "define": lambda p: {"variables": p.some, "parts": p.of({"label": p.label()}, {"type": p.of("integer", "text")},
                         {"level": p.of("nominal", "ordinal")}, {"complete": p.of(True, False)}, {"width": 12})},
    "rename": lambda p: {"names": {p.one: p.new()}},
    "list codes": lambda p: {"variables": p.some, "lines": p.lines()},
    "mark missing": lambda p: {"variables": p.some, "lines": [p.missing()]},
    "mark missing where": lambda p: {"marks": [{"line": p.missing(), "variables": p.some}]},
    "relabel": lambda p: {"line": {"code": p.code}, "was": "", "label": p.label()},
    "drop codes": lambda p: {"variables": p.some, "lines": [{"code": p.code}]},
    "order codes": lambda p: {"variables": p.some, "lines": [{"code": p.code}]},
    "set entries": lambda p: {"variable": p.one, "entries": {str(p.record): p.entry()}},
    "set block": lambda p: {"records": [p.record], "more": p.of(0, 0, 1), "entries": {p.one: [p.entry()]}},
    "replace entries": lambda p: {"variables": p.some, "entries": [p.entry()], "by": p.entry()},
    "replace found": lambda p: {"variables": p.some, "find": p.of("n/a", "hrs", "1"), "by": p.entry(), "how": "part"},
    "accept": lambda p: {"check": "unlisted codes", "variable": p.one, "entries": [p.code], "reason": p.label()},
    "group": lambda p: {"battery": p.known("battery"), "title": p.label(), "variables": p.some},
    "ungroup": lambda p: {"variables": p.some},
    "clear parts": lambda p: {"variables": p.some, "parts": [p.of("codes", "limits", "missing", "label")]},
    "stamp": lambda p: {"source": p.one, "variables": p.some, "parts": ["codes", "level"]},
    "describe": lambda p: {"tags": {p.one: {"label": p.label(), "codes": p.lines()}}, "source": "Notes"},
    "keep sheet": lambda p: {"sheet": p.known("sheet"), "name": p.label(), "text": f"{p.new()} - {p.label()}\n" * 20},
    "read otherwise": lambda p: {"sheet": p.known("sheet"), "said": [{"first": 1, "last": 2, "are": "nothing"}]},
    "remove sheet": lambda p: {"sheet": p.known("sheet")},
    "set skips": lambda p: {"variable": p.one, "skips": [{"codes": [p.code], "to": p.of(None, p.one)}]},
    "remove records": lambda p: {"records": [p.record]},
    "restore records": lambda p: {"records": [p.record]},
    "copy records": lambda p: {"records": [p.record]},
    "remark": lambda p: {"comment": p.known("note"), "on": {"record": p.record, "variable": p.one, "text": p.label()}},
    "take remarks back": lambda p: {"comments": [p.known("note")]},
    "keep view": lambda p: {"view": p.known("view"), "shows": {"name": p.label(), "variables": p.some}},
    "remove view": lambda p: {"view": p.known("view")},
    "turn round": lambda p: {"variables": [p.one]},
    "work out again": lambda p: {"variables": p.some},
    "let follow": lambda p: {"on": p.of(True, False)},
    "remove rules": lambda p: {"rules": [p.known("rule")]},
    "set check": lambda p: {"says": {"check": "nearly empty", "thresholds": {"share": p.of(0.5, 0.9)}}},
    "trim widths": lambda p: {"variables": p.some},
    "arrange": lambda p: {"variables": [p.one], "before": p.of(None, p.one)},
    "share list": lambda p: {"list": p.known("list"), "name": p.label(), "variables": p.some, "lines": p.lines()},
    "use list": lambda p: {"list": p.known("list"), "variables": p.some},
    "detach list": lambda p: {"variables": p.some},
    "name list": lambda p: {"list": p.known("list"), "name": p.label()},
}  # fmt: skip


def _derive(p: Pick) -> Written:
    how = p.of("recode x: 1, 2 -> 1 'Low'; 3, 4, 5 -> 2 'High'; else blank", "indicator x is valid", "x is blank")
    return {
        "variables": [{"how": {"text": how, "names": {"x": p.one}}, "into": {p.new(): p.new()}, "label": p.label()}]
    }


def _rule(p: Pick) -> Written:
    holds = {"text": f"x is {p.of('valid', 'blank', 'not stray')}", "names": {"x": p.one}}
    return {"rule": p.known("rule"), "says": {"title": p.label(), "holds": holds}}


def _add(p: Pick) -> Written:
    return {"variables": [{"id": p.new(), "tag": {"name": p.new(), "label": p.label(), "type": "integer"}}]}


def _decide(p: Pick) -> Written:
    own = p.of("", "1", "2", "3")
    return {"decisions": [{"record": p.record, "variable": p.one, "own": own, "other": "4", "kept": "4"}]}


MAKERS |= {
    "derive": _derive,
    "keep rule": _rule,
    "add variables": _add,
    "decide": _decide,
    "copy variables": lambda p: {"copies": {p.one: p.new()}, "entries": p.of(True, False)},
    "remove variables": lambda p: {"variables": [p.ids[-1]]},
    "add blank records": lambda p: {"count": 1},
}
GROWING = {"derive", "add variables", "copy variables"}

_forgotten = {kind for kind, step in STEPS.items() if not step.needs_supplies} ^ set(MAKERS)
assert not _forgotten, f"Nobody makes the steps {_forgotten}."


def any_step(chance: random.Random, shown: Shown) -> Written:
    """A step of any kind for a study; how many variables it has stays about the same."""
    kind = chance.choice(list(MAKERS))
    if kind in GROWING and len(shown["order"]) >= MOST_VARIABLES:
        kind = "remove variables"
    elif kind == "remove variables" and len(shown["order"]) < MOST_VARIABLES:
        kind = "set entries"
    return {"do": kind, **MAKERS[kind](Pick(chance, shown))}
