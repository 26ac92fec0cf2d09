"""What a formula means in a study: its names and types, checked before anything is worked out, and how it is.

A meaning works on blocks of records. What is looked at down the records is worked out once for all of them.
"""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from functools import reduce
from typing import NoReturn, get_args

from rowtag.core.formulas import figures, functions, looking
from rowtag.core.formulas.down import Down, Grouping
from rowtag.core.formulas.errors import BadFormula, Span, TooLong, nearest
from rowtag.core.formulas.grammar import spelled_name
from rowtag.core.formulas.looking import Work
from rowtag.core.formulas.nodes import Call, Moment, Name, Neighbours, Node, Number, Reads, Text
from rowtag.core.formulas.values import SAID, Kind, Value, chosen, constant
from rowtag.core.frame import Block
from rowtag.core.reading import State, canonical_code, value_of
from rowtag.core.spans import Spans, span_key, span_now
from rowtag.core.study import Study
from rowtag.core.tag import NUMBER_TYPES, MissingLine, Reason
from rowtag.core.words import megabytes

_REASONS: tuple[str, ...] = get_args(Reason)
_SIGNS = {"+", "-", "*", "/", "^"}
_WRITTEN: dict[Kind, str] = {
    "date": "A date is written 2026-05-03.",
    "time": "A time is written 18:30.",
    "datetime": "Its day is date(…), its time time(…); these can be compared.",
}
"""How what a date or time is compared with is written."""
_PARTS: dict[Kind, tuple[str, str]] = {
    "date": ("day", "A date is a year, a month and a day."),
    "time": ("time", "A time is an hour from 0 to 23 and a minute."),
}
_COMPARISONS = {"=", "<>", "<", "<=", ">", ">="}


@dataclass(frozen=True, eq=False)
class Meaning:
    """What a part of a formula gives: values of a kind, worked out block by block.

    `each` are the parts of several that stand side by side, such as neighbours; only figures across a record take
    these. `variable` is set where it is a variable as it stands, `written` where it is a number or text as it stands.
    `computed` numbers may be off by what arithmetic on floats adds.
    """

    kind: Kind
    at: Span
    work: Work
    each: tuple["Meaning", ...] = ()
    variable: str | None = None
    written: float | str | None = None
    digits: str = ""
    computed: bool = False


class Meanings:
    """Finds out what nodes mean in a study. `ids` gives the variables that names stand for, as they are written, and
    `known` what spans mean; `used` gathers the variables that are looked at, and `spans` what spans were found to mean.
    """

    def __init__(self, study: Study, ids: Callable[[str], str | None], known: Spans) -> None:
        self.study = study
        self._ids, self._known = ids, known
        self._entries: dict[str, Work] = {}
        self.used: dict[str, None] = {}
        self.spans: dict[str, tuple[str, ...]] = {}

    def of(self, node: Node) -> Meaning:
        """What a formula means. Raises BadFormula."""
        found = self._of(node)
        if found.each:
            raise BadFormula(
                "These are several variables at once.", found.at, remedy="Such as: mean(a..b), or count(a..b = 1)"
            )
        return found

    def several(self, node: Node) -> tuple[Meaning, ...]:
        """What a node means where it may stand for several: each of them. Raises BadFormula."""
        found = self._of(node)
        return found.each or (found,)

    # Each kind of node -------------------------------------------------------------------------

    def _of(self, node: Node) -> Meaning:
        if isinstance(node, Number):
            value = node.value
            return Meaning("number", node.at, lambda block: constant("number", value, block.positions.size),
                           written=value, digits=node.digits)  # fmt: skip
        if isinstance(node, Moment):
            return self._moment(node)
        if isinstance(node, Text):
            text = node.text.strip()
            return Meaning("text", node.at, lambda block: constant("text", text, block.positions.size), written=text)
        if isinstance(node, Name):
            return self._variable(self.id_of(node), node.at)
        if isinstance(node, Neighbours):
            return self._several([self._variable(id, node.at) for id in self.between(node.first, node.last)], node.at)
        if isinstance(node, Reads):
            return self._reads(node)
        return self._call(node)

    def _moment(self, node: Moment) -> Meaning:
        """A date or time as it is written, which there has to be."""
        kind: Kind = "time" if "-" not in node.text else "datetime" if ":" in node.text else "date"
        code = canonical_code(node.text, kind)
        if code is None:
            what, remedy = _PARTS["time" if kind == "time" else "date"]
            raise BadFormula(f"There is no such {what}: {node.text}.", node.at, remedy=remedy)
        value = value_of(code, kind)
        return Meaning(
            kind, node.at, lambda block: constant(kind, value, block.positions.size), written=value, digits=code
        )

    def id_of(self, node: Name) -> str:
        """The variable that a name stands for, which counts as looked at. Raises BadFormula where there is none."""
        id = self._ids(node.name)
        if id is not None and id in self.study.variables:
            self.used[id] = None
            return id
        names = {self.study.tag(each).name for each in self.study.order}
        close = nearest(node.name, names)
        raise BadFormula(
            f"There is no variable “{node.name}”.",
            node.at,
            remedy=f"Did you mean {close}?" if close else "",
            suggestion=spelled_name(close) if close else None,
        )

    def between(self, upper: Name, lower: Name) -> list[str]:
        """The variables that a span means, which count as looked at. Raises BadFormula where there are none, or one of
        them is gone."""
        first, last, at = self.id_of(upper), self.id_of(lower), (upper.at[0], lower.at[1])
        key = span_key(upper.name, lower.name)
        found = self._known.get(key) or span_now(self.study, first, last)
        if not found:
            raise BadFormula(
                f"{upper.name} does not stand before {lower.name} in the codebook.",
                at,
                remedy="A range goes from the upper to the lower one.",
            )
        if any(id not in self.study.variables for id in found):
            raise BadFormula(
                f"A variable that stood between {upper.name} and {lower.name} is gone.",
                at,
                remedy="Derive it anew from those that are there.",
            )
        self.spans[key] = tuple(found)
        self.used |= dict.fromkeys(found)
        return list(found)

    def _variable(self, id: str, at: Span) -> Meaning:
        if id not in self._entries:
            self._entries[id] = looking.entries_of(self.study, id)
        return Meaning(looking.kind_of(self.study, id), at, self._entries[id], variable=id)

    def _several(self, each: Sequence[Meaning], at: Span) -> Meaning:
        return Meaning(each[0].kind, at, _no_work, each=tuple(each))

    def _reads(self, node: Reads) -> Meaning:
        of = self._of(node.of)
        if of.each:
            return self._several([self._one_reads(node, each) for each in of.each], node.at)
        return self._one_reads(node, of)

    def _one_reads(self, node: Reads, of: Meaning) -> Meaning:
        id = of.variable
        if id is None:
            raise BadFormula("Only a variable reads as something.", of.at, remedy="Such as: hours is blank")
        if node.how == "label":
            assert node.text is not None
            return Meaning("truth", node.at, looking.labelled(self.study, id, self._lines(id, node.text)))
        if node.how == "missing" and node.text is not None:
            lines = self._reasons(id, node.text)
            return Meaning("truth", node.at, looking.by_state(self.study, id, (State.MISSING,), lines))
        states = {
            "valid": (State.VALID,),
            "missing": (State.MISSING,),
            "blank": (State.BLANK,),
            "stray": (State.UNREADABLE, State.UNLISTED),
        }[node.how]
        return Meaning("truth", node.at, looking.by_state(self.study, id, states))

    def _lines(self, id: str, text: Text) -> list[int]:
        """The code lines of a variable with a label."""
        tag, lines = self.study.tag(id), self.study.codes(id)
        wanted = text.text.strip()
        exact = [number for number, line in enumerate(lines) if line.label == wanted]
        found = exact or [number for number, line in enumerate(lines) if line.label.casefold() == wanted.casefold()]
        if found:
            return found
        missing = [line for line in tag.missing if line.label.casefold() == wanted.casefold()]
        if missing:
            raise BadFormula(
                f"“{wanted}” is the label of a missing code.",
                text.at,
                remedy=f"Ask for {spelled_name(tag.name)} is missing '{_quoted(missing[0].reason)}'.",
            )
        if not lines:
            raise BadFormula(f"{tag.name} has no labels.", text.at, remedy=f"Compare its entries: {tag.name} = …")
        close = nearest(wanted, [line.label for line in lines if line.label])
        raise BadFormula(
            f"No code of {tag.name} has the label “{wanted}”.",
            text.at,
            remedy=f"Did you mean “{close}”?" if close else _some([line.label for line in lines]),
            suggestion=f"'{_quoted(close)}'" if close else None,
        )

    def _reasons(self, id: str, text: Text) -> list[int]:
        """The missing lines of a variable for a reason, or with a label."""
        tag, wanted = self.study.tag(id), text.text.strip().casefold()
        found = [number for number, line in enumerate(tag.missing) if wanted in (line.reason, line.label.casefold())]
        if found or wanted in _REASONS:
            return found  # a reason that no code stands for is never given
        close = nearest(wanted, [*_REASONS, *(line.label for line in tag.missing if line.label)])
        raise BadFormula(
            f"“{text.text}” is no reason for a missing answer.",
            text.at,
            remedy=f"Did you mean “{close}”?" if close else _some(_REASONS),
            suggestion=f"'{_quoted(close)}'" if close else None,
        )

    # Calls -------------------------------------------------------------------------------------

    def _call(self, node: Call) -> Meaning:
        if node.over is not None:
            return self._down(node)
        what = node.what
        if what in figures.ACROSS:
            return self._across(node)
        if node.needs is not None:
            raise BadFormula(f"{what} takes no “needs”.", node.word, remedy=f"It goes with {_listed(figures.ACROSS)}.")
        _refuse_beside(node)
        given = [self._of(each) for each in node.given]
        if what == "&":
            given = [self._as_text(each, meaning) for each, meaning in zip(node.given, given, strict=True)]
        if any(each.each for each in given):
            return self._for_each(node, given)
        return self._plain(node, given)

    def _for_each(self, node: Call, given: Sequence[Meaning]) -> Meaning:
        """An operator on several at once: on each of them, those of a range side by side."""
        sizes = {len(each.each) for each in given if each.each}
        if len(sizes) > 1:
            raise BadFormula("These ranges are not equally long.", node.at)
        (size,) = sizes
        rows = [[each.each[at] if each.each else each for each in given] for at in range(size)]
        return self._several([self._plain(node, row) for row in rows], node.at)

    def _plain(self, node: Call, given: Sequence[Meaning]) -> Meaning:
        what = node.what
        if what in ("and", "or", "not", "follows"):
            for each in given:
                _want(each, ("truth",), f"“{'then' if what == 'follows' else what}”")
            return Meaning("truth", node.at, _on(functions.LOGIC[what], given))
        if what == "if":
            return self._choice(node, given)
        if what == "&":
            return Meaning("text", node.at, _bounded(_on(functions.together, given), node.at))
        if what in _COMPARISONS:
            return self._compared(what, node.at, *given)
        if what in ("in", "between"):
            return self._within(node, given)
        if what in _SIGNS or what == "minus":
            return self._arithmetic(node, given)
        if what == "reverse":
            return self._reverse(node, given)
        return self._function(node, given)

    def _as_text(self, node: Node, of: Meaning) -> Meaning:
        """A part of what is put together as text: variables as they were recorded, numbers as they are written."""
        if of.each:
            return self._several([self._as_text(node, each) for each in of.each], of.at)
        if isinstance(node, Text):
            whole = node.text  # blanks at its ends are meant
            return Meaning("text", of.at, lambda block: constant("text", whole, block.positions.size))
        if of.variable is not None and of.kind != "truth":
            return Meaning("text", of.at, looking.recorded_of(self.study, of.variable))
        if of.kind == "number":
            return Meaning("text", of.at, _on(functions.FUNCTIONS["text"].work, [of]))
        _want(of, ("text",), "“&”")
        return of

    def _choice(self, node: Call, given: Sequence[Meaning]) -> Meaning:
        condition, then, otherwise = given
        _want(condition, ("truth",), "“if”")
        if then.kind != otherwise.kind:
            raise BadFormula(
                f"“then” gives {SAID[then.kind]}, “else” {SAID[otherwise.kind]}.",
                otherwise.at,
                remedy="Make both the same.",
            )

        def work(block: Block) -> Value:
            met, first, second = (each.work(block) for each in given)
            out = chosen(met.data & met.known, first, second)
            return Value(out.kind, out.data, out.known & met.known)

        return Meaning(then.kind, node.at, work, computed=then.computed or otherwise.computed)

    def _compared(self, sign: str, at: Span, left: Meaning, right: Meaning) -> Meaning:
        if left.kind != right.kind:
            self._cannot_compare(left, right)
        if sign not in ("=", "<>"):
            _want(left, functions.ORDERED, f"“{sign}”")
        for one, other in ((left, right), (right, left)):
            if one.variable is not None and other.written is not None and sign in ("=", "<>"):
                self._refuse_no_code(one.variable, other)
        computed = left.computed or right.computed
        return Meaning(
            "truth",
            at,
            lambda block: functions.compared(sign, left.work(block), right.work(block), computed=computed),
        )

    def _cannot_compare(self, left: Meaning, right: Meaning) -> NoReturn:
        remedy = ""
        for one, other in ((left, right), (right, left)):
            if one.variable is None or other.written is None:
                continue
            name = spelled_name(self.study.tag(one.variable).name)
            if one.kind == "text":
                remedy = f"{name} is text: write '{other.digits}'."
            elif one.kind == "number" and self.study.codes(one.variable):
                remedy = f"Labels are asked for by “is”: {name} is '{_quoted(str(other.written))}'."
            elif one.kind in functions.MOMENTS:
                remedy = _WRITTEN[one.kind]
        raise BadFormula(
            f"{_capital(SAID[left.kind])} cannot be compared with {SAID[right.kind]}.", right.at, remedy=remedy
        )

    def _refuse_no_code(self, id: str, other: Meaning) -> None:
        """Refuses what no valid entry of a variable can be: comparing with it is a slip of the keys."""
        tag = self.study.tag(id)
        wanted = (
            canonical_code(str(other.digits or other.written), tag.type)
            if tag.type in NUMBER_TYPES
            else str(other.written)
        )
        code = wanted if wanted is not None else str(other.written)
        for line in tag.missing:
            if _stands_for(line, code, tag.type):
                raise BadFormula(
                    f"{code} is a missing code of {tag.name}: nothing valid equals it.",
                    other.at,
                    remedy=f"Ask for {spelled_name(tag.name)} is missing '{_quoted(line.reason)}'.",
                )
        lines = self.study.codes(id)
        if not tag.complete or not lines or any(line.code is None for line in lines):
            return
        codes = [canonical_code(line.code or "", tag.type) or "" for line in lines]
        if code not in codes:
            raise BadFormula(f"{code} is none of the codes of {tag.name}.", other.at, remedy=_some(codes))

    def _within(self, node: Call, given: Sequence[Meaning]) -> Meaning:
        of, *others = given
        signs = ["="] * len(others) if node.what == "in" else [">=", "<="]
        join = functions.either if node.what == "in" else functions.both
        for sign, each in zip(signs, others, strict=True):
            self._compared(sign, node.at, of, each)  # whether they can be compared
        computed = [of.computed or each.computed for each in others]

        def work(block: Block) -> Value:
            left = of.work(block)  # once, however many it is compared with
            parts = [
                functions.compared(sign, left, each.work(block), computed=noisy)
                for sign, each, noisy in zip(signs, others, computed, strict=True)
            ]
            return reduce(join, parts)

        return Meaning("truth", node.at, work)

    def _arithmetic(self, node: Call, given: Sequence[Meaning]) -> Meaning:
        sign = node.what
        kinds = tuple(each.kind for each in given)
        if sign == "minus":
            _want(given[0], ("number",), "“-”")
            return Meaning("number", node.at, _on(functions.minus, given), computed=True)
        if kinds == ("date", "date") and sign == "-":
            kind: Kind = "number"
        elif kinds == ("date", "number") and sign in "+-":
            kind = "date"
        else:
            if kinds in (("datetime", "datetime"), ("time", "time")) and sign == "-":
                raise BadFormula(
                    "Times are not subtracted.", node.at, remedy="Write hours(a, b), minutes(a, b) or seconds(a, b)."
                )
            for each in given:
                _want(each, ("number",), f"“{sign}”")
            kind = "number"
        if sign == "/" and given[1].written == 0:
            raise BadFormula("Nothing can be divided by zero.", given[1].at)
        left, right = given

        def work(block: Block) -> Value:
            return functions.arithmetic(sign, left.work(block), right.work(block), kind)

        return Meaning(kind, node.at, work, computed=True)

    def _reverse(self, node: Call, given: Sequence[Meaning]) -> Meaning:
        """A scale turned round: of a variable with a list between the ends of that, else between those given."""
        if len(given) not in (1, 3):
            raise BadFormula("reverse takes a variable, or a variable and the two ends.", node.word)
        for each in given:
            _want(each, ("number",), "reverse")
        if len(given) == 3:
            return Meaning("number", node.at, _on(functions.turned, given), computed=True)
        of = given[0]
        codes = self.study.codes(of.variable) if of.variable else ()
        ends = [canonical_code(line.code, "decimal") for line in codes if line.code is not None]
        found = [float(end) for end in ends if end is not None]
        if not found:
            raise BadFormula(
                "Its ends are not known.", of.at, remedy="Write them: reverse(x, 1, 5) makes 1 of 5 and 5 of 1."
            )

        def work(block: Block) -> Value:
            low, high = (constant("number", end, block.positions.size) for end in (min(found), max(found)))
            return functions.turned(of.work(block), low, high)

        return Meaning("number", node.at, work, computed=True)

    def _function(self, node: Call, given: Sequence[Meaning]) -> Meaning:
        found = functions.FUNCTIONS.get(node.what)
        if found is None:
            known = [*functions.FUNCTIONS, *figures.DOWN, "reverse"]
            if node.what in figures.DOWN:
                raise BadFormula(
                    f"{node.what} looks down the records.", node.word, remedy=f"Such as: {node.what}(hours) over all"
                )
            close = nearest(node.what, known)
            raise BadFormula(
                f"There is no function “{node.what}”.",
                node.word,
                remedy=f"Did you mean {close}?" if close else _some(known),
                suggestion=close,
            )
        if not found.least <= len(given) <= len(found.takes) or (found.name == "date" and len(given) == 2):
            raise BadFormula(
                f"{found.name} takes {_how_many(found)}, not {len(given)}.", node.at, remedy=f"It gives {found.said}."
            )
        for each, kinds in zip(given, found.takes, strict=False):
            _want(each, kinds, found.name)
        self._fitting(node, found, given)
        computed = any(each.computed for each in given) or (found.gives == "number" and found.takes[0] != ("text",))
        work = _on(found.work, given)
        return Meaning(
            found.gives, node.at, _bounded(work, node.at) if found.gives == "text" else work, computed=computed
        )

    def _fitting(self, node: Call, found: functions.Function, given: Sequence[Meaning]) -> None:
        """What dates and times are made of goes together, and makes one where it is written out."""
        if found.name in functions.ELAPSED:
            _want(given[1], (given[0].kind,), f"{found.name} from {SAID[given[0].kind]}")
        if found.gives not in functions.MOMENTS:
            return
        if len(given) == 1:
            _want(given[0], ("datetime",) if found.name == "time" else ("date", "datetime"), found.name)
            return
        _want(given[0], ("number",), f"{found.name} of several parts")
        if all(each.written is not None for each in given):
            made = found.work(*(constant("number", each.written or 0, 1) for each in given))
            if not made.known[0]:
                what, remedy = _PARTS[found.gives]
                raise BadFormula(f"There is no such {what}.", node.at, remedy=remedy)

    def _across(self, node: Call) -> Meaning:
        what = node.what
        _refuse_beside(node)
        parts = [part for each in node.given for part in _side_by_side(self._of(each))]
        if not parts:
            raise BadFormula(f"{what} takes variables.", node.at, remedy=f"Such as: {what}(site_1..site_6)")
        kinds: tuple[Kind, ...] = ("number",)
        if what == "count":  # of whatever is valid, or of conditions that are met
            kinds = ("truth",) if parts[0].kind == "truth" else (*functions.ORDERED, "text")
        elif what in ("min", "max", "median"):
            kinds = functions.ORDERED
        for each in parts:
            _want(each, kinds, what)
        other = next((each for each in parts if each.kind != parts[0].kind), None)
        if other is not None and what != "count":
            which = self.study.tag(other.variable).name if other.variable else "One of them"
            raise BadFormula(f"{which} is {SAID[other.kind]}, the first is {SAID[parts[0].kind]}.", node.at)
        needs = node.needs
        if needs is not None and (what == "count" or needs > len(parts)):
            raise BadFormula(
                "A count needs none to be valid." if what == "count" else f"Only {len(parts)} are given.", node.at
            )
        kind = parts[0].kind if what in ("min", "max", "median") else "number"

        def work(block: Block) -> Value:
            return figures.across(what, [looking.countable(each.work(block)) for each in parts], needs)

        return Meaning(kind, node.at, work, computed=what != "count")

    def _down(self, node: Call) -> Meaning:
        what = node.what
        groups = tuple(self.id_of(name) for name in node.over or ())
        if what == "number" and not node.given:
            of = None
        elif what not in figures.DOWN:
            raise BadFormula(
                f"{what} does not look down the records.", node.word, remedy=f"{_capital(_listed(figures.DOWN))} do."
            )
        elif len(node.given) != (2 if what == "quantile" else 1):
            takes = "a number and how many parts there are" if what == "quantile" else "one thing"
            raise BadFormula(f"{what} over records takes {takes}.", node.at)
        else:
            of = self.of(node.given[0])
            if what == "share":
                _want(of, ("truth",), what)
            elif what not in ("count", *figures.PICKED):
                ordered = what in ("min", "max", "median", "rank", "quantile")
                _want(of, functions.ORDERED if ordered else ("number",), what)
        kind = figures.kind_of_figure(what, of.kind) if of is not None else "number"
        work = Down(
            "count" if of is None else what,
            of.work if of else None,
            of.kind if of else "number",
            Grouping(self.study, groups),
            self._beside(node, node.weight, "weighted by", figures.WEIGHTED, ("number",)),
            self._beside(node, node.order, "in order of", figures.PICKED, functions.ORDERED),
            self._parts(node) if what == "quantile" else 1,
        )
        return Meaning(kind, node.at, work, computed=kind == "number" and what not in ("count", "rank", "quantile"))

    def _beside(
        self, node: Call, name: Name | None, word: str, among: Sequence[str], kinds: Sequence[Kind]
    ) -> Work | None:
        """The entries of a variable that weighs or orders the records; None where none does. Raises BadFormula where
        the figure knows no such thing."""
        if name is None:
            return None
        if node.what not in among:
            raise BadFormula(f"{node.what} takes no “{word}”.", name.at, remedy=f"It goes with {_listed(among)}.")
        found = self._variable(self.id_of(name), name.at)
        _want(found, kinds, word)
        return found.work

    def _parts(self, node: Call) -> int:
        """How many parts of equal size there are."""
        found = self.of(node.given[1])
        number = found.written
        if not isinstance(number, float) or number != int(number) or not 2 <= number <= MOST_PARTS:
            raise BadFormula(
                f"This is a whole number from 2 to {MOST_PARTS}.", found.at, remedy="Such as: quantile(x, 5)"
            )
        return int(number)


MOST_PARTS = 100
"""Parts of equal size at most."""


def _refuse_beside(node: Call) -> None:
    """Raises BadFormula where what looks at one record is to weigh or order them."""
    for name, word in ((node.weight, "weighted by"), (node.order, "in order of")):
        if name is not None:
            raise BadFormula(
                f"“{word}” goes with what looks down the records.",
                name.at,
                remedy="Such as: mean(x, weighted by w) over all",
            )


def _on(work: Callable[..., Value], given: Sequence[Meaning]) -> Work:
    return looking.work_on(work, [each.work for each in given])


def _bounded(work: Work, at: Span) -> Work:
    """Work that makes texts, which are told where they would be longer than anything works with."""

    def bounded(block: Block) -> Value:
        try:
            return work(block)
        except TooLong:
            most = megabytes(functions.MOST_AT_ONCE)
            said = f"Of {block.positions.size:,} records these texts would have more than {most}."
            raise BadFormula(said, at, remedy="Make shorter ones.") from None

    return bounded


def _no_work(block: Block) -> Value:
    raise AssertionError("several at once are never worked out as one")


def _side_by_side(of: Meaning) -> tuple[Meaning, ...]:
    return of.each or (of,)


# What is said ------------------------------------------------------------------------------------


def _want(of: Meaning, kinds: Sequence[Kind], who: str) -> None:
    if of.each:
        raise BadFormula(f"{_capital(who)} takes one thing, not several at once.", of.at)
    if of.kind not in kinds:
        wanted = " or ".join(SAID[kind] for kind in kinds)
        remedy = ""
        if of.kind == "text" and "number" in kinds:
            remedy = "number(…) makes a number of a text."
        elif of.kind == "number" and kinds == ("text",):
            remedy = "text(…) makes a text of a number."
        elif of.kind != "truth" and kinds == ("truth",):
            remedy = "Such as: hours > 10"
        raise BadFormula(f"{_capital(who)} takes {wanted}; this is {SAID[of.kind]}.", of.at, remedy=remedy)


def _stands_for(line: MissingLine, code: str, kind: str) -> bool:
    if line.code is not None:
        return (canonical_code(line.code, kind) or line.code) == code
    value = canonical_code(code, "decimal")
    if value is None:
        return False
    low, high = (
        None if end is None else float(canonical_code(end, "decimal") or "nan") for end in (line.low, line.high)
    )
    return (low is None or float(value) >= low) and (high is None or float(value) <= high)


def _how_many(found: functions.Function) -> str:
    most = len(found.takes)
    if found.name == "date":
        return "a year, a month and a day"
    said = str(most) if found.least == most else f"{found.least} or {most}"
    return f"{said} {'thing' if most == 1 else 'things'}"


def _quoted(text: str) -> str:
    return text.replace("\\", "\\\\").replace("'", "\\'")


def _capital(text: str) -> str:
    return text[:1].upper() + text[1:]


def _listed(words: Iterable[str]) -> str:
    found = list(words)
    return f"{', '.join(found[:-1])} and {found[-1]}"


def _some(words: Iterable[str], most: int = 12) -> str:
    found = list(dict.fromkeys(words))
    more = " …" if len(found) > most else ""
    return f"There are: {', '.join(found[:most])}{more}"
