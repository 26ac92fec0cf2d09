"""Reading formulas: from text to a tree, or an error that says at which character what was expected."""

import re
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from typing import Any

from lark import Lark, Token, Transformer, UnexpectedInput

from rowtag.core.expected import met_and_expected
from rowtag.core.formulas.errors import BadFormula, Span
from rowtag.core.formulas.nodes import Call, Moment, Name, Neighbours, Node, Number, Reads, Text
from rowtag.core.rules import LONGEST

MOST_DIGITS = 15
"""Digits that are exact in what is worked out."""
DEEPEST = 60
"""How deep a formula may be nested."""
_WORDS = {
    "NUMBER": "a number",
    "MOMENT": "a date or time",
    "TEXT": "a text in 'quotes'",
    "NAME": "a name",
    "LPAR": "(",
    "RPAR": ")",
    "COMMA": "a comma",
    "IF": "if",
    "THEN": "then",
    "ELSE": "else",
    "AND": "and",
    "OR": "or",
    "NOT": "not",
    "IS": "is",
    "IN": "in",
    "BETWEEN": "between",
    "JOINS": "& (texts together)",
    "COMPARISON": "a comparison (= <> < <= > >=)",
    "PLUS": "an operator (+ - * / ^)",
    "VALID": "valid, blank, stray, missing or a label in 'quotes'",
    "OVER": "over",
    "ALL": "all",
    "$END": "the end",
}
"""How the errors call what could stand somewhere; what is seldom meant is not named."""
_MISTAKEN = {
    "==": "=",
    "!=": "<>",
    "=>": ">=",
    "=<": "<=",
    "≠": "<>",
    "≤": "<=",
    "≥": ">=",
    "×": "*",
    "·": "*",
    "÷": "/",
    "&&": "and",
    "||": "or",
    "|": "or",
    "‘": "'",
    "’": "'",
    "“": "'",
    "”": "'",
    '"': "'",
    ";": ",",
}
"""What is written otherwise elsewhere, and how it is written here."""


def parse(text: str) -> Node:
    """The tree of a formula. Raises BadFormula with the characters that are concerned and what was expected."""
    if len(text) > LONGEST:
        raise BadFormula(f"This formula has {len(text):,} characters; it may have {LONGEST:,}.", (LONGEST, len(text)))
    if not text.strip():
        raise BadFormula("There is no formula yet.", (0, 0), remedy="Such as: hours > 10 and tenure is 'Own'")
    try:
        found: Node = _parser().parse(text)  # type: ignore[assignment]  # the transformer makes it
    except UnexpectedInput as error:
        raise refused(text, error) from None
    return found


def named_in(node: Node) -> list[Name]:
    """All names of variables in a formula, in the order in which they stand."""
    if isinstance(node, Name):
        return [node]
    if isinstance(node, Neighbours):
        return [node.first, node.last]
    if isinstance(node, Reads):
        return named_in(node.of)
    if isinstance(node, Call):
        return [name for each in (*node.given, *node.beside) for name in named_in(each)]
    return []


def valued_in(node: Node) -> list[Name]:
    """The names of variables whose entries go into what comes out: not of those that part, weigh or order records."""
    if isinstance(node, Call):
        return [name for each in node.given for name in valued_in(each)]
    return named_in(node)


def ranges_in(node: Node) -> list[tuple[Name, Name]]:
    """All ranges of neighbours in a formula, by their ends."""
    if isinstance(node, Neighbours):
        return [(node.first, node.last)]
    below = (node.of,) if isinstance(node, Reads) else node.given if isinstance(node, Call) else ()
    return [each for part in below for each in ranges_in(part)]


def spelled_name(name: str) -> str:
    """A name as it is written in a formula: in backquotes where it is a word of the language."""
    plain = re.fullmatch(r"[^\W\d]\w*", name) and name.lower() not in WORDS
    return name if plain else f"`{name}`"


WORDS = frozenset(
    (
        *("if", "then", "else", "or", "and", "not", "in", "is", "between", "contains", "starts"),
        *("days", "needs", "over", "all", "valid", "blank", "stray", "missing"),
    )
)
"""Words that are written in backquotes where they are names."""


def refused(
    text: str, error: UnexpectedInput, words: Mapping[str, str] = _WORDS, mistaken: Mapping[str, str] = _MISTAKEN
) -> BadFormula:
    """What to say of a text that cannot be read; `words` are what could stand somewhere, as they are called, and
    `mistaken` what is often written otherwise."""
    at = len(text.rstrip()) if (error.pos_in_stream or 0) < 0 else min(error.pos_in_stream or 0, len(text))
    if getattr(getattr(error, "token", None), "type", "") == "$END":
        at = len(text.rstrip())
    there = text[at:]
    for wrong, right in mistaken.items():
        for first in (at, at - 1):  # of two signs, the second may be what is met
            if first >= 0 and text.startswith(wrong, first) and at < first + len(wrong):
                return BadFormula(f"“{wrong}” is written {right} here.", (first, first + len(wrong)), suggestion=right)
    if there.startswith("'"):
        return BadFormula(
            "This text does not end.", (at, len(text)), remedy="A text ends with '; within it, write \\'."
        )
    if there.startswith("`"):
        return BadFormula("This name does not end.", (at, len(text)), remedy="A name in backquotes ends with `.")
    if number := re.match(r"[\d.]+[^\W\d]\w*", there):
        return BadFormula(
            f"“{number[0]}” is no number, nor a name.", (at, at + len(number[0])), remedy="Names begin with a letter."
        )
    found, listed = met_and_expected(error, words)
    word = re.match(r"\w+|\S", there)
    return BadFormula(
        f"{found} cannot stand here.", (at, at + len(word[0]) if word else at), remedy=f"Expected: {listed}."
    )


@cache
def _parser() -> Lark:
    given: dict[str, Any] = {"parser": "lalr", "maybe_placeholders": True}
    return Lark.open_from_package("rowtag.core.formulas", "formula.lark", ("",), transformer=_Nodes(), **given)


def _deeper(at: Span, *below: Node) -> int:
    """How deep a node lies over others; too deep ones are refused, so that nobody who walks a tree gets lost."""
    depth = 1 + max((each.depth for each in below), default=0)
    if depth > DEEPEST:
        raise BadFormula("This formula is nested too deep.", at, remedy="Make it in several steps.")
    return depth


def _call(what: str, at: Span, *given: Node, word: Span | None = None, **more: Any) -> Call:
    return Call(what, given, at, _deeper(at, *given), word=word or at, **more)


def _span(token: Token) -> Span:
    return token.start_pos or 0, token.end_pos or 0


def _op(token: Token) -> str:
    return re.sub(r"\s+", " ", str(token)).lower().replace("\u2212", "-")


class _Nodes(Transformer[Token, Any]):
    """Makes nodes while the text is read, from the innermost outwards."""

    def start(self, children: list[Any]) -> Node:
        return children[0]  # type: ignore[no-any-return]

    def inner(self, children: list[Any]) -> Node:
        return children[0]  # type: ignore[no-any-return]

    def choice(self, children: list[Any]) -> Node:
        return _call("if", _across(children), children[1], children[3], children[5])

    def rule(self, children: list[Any]) -> Node:
        return _call("follows", _across(children), children[1], children[3])

    def both_ways(self, children: list[Any]) -> Node:
        left, sign, right = children
        return _call(_op(sign), _across(children), left, right, word=_span(sign))

    def negated(self, children: list[Any]) -> Node:
        return _call("not", _across(children), children[1], word=_span(children[0]))

    def minus(self, children: list[Any]) -> Node:
        sign, of = children
        if isinstance(of, Number):
            return Number(-of.value, f"-{of.digits}", _across(children))
        return _call("minus", _across(children), of, word=_span(sign))

    def within(self, children: list[Any]) -> Node:
        return self._maybe_not(children, "in")

    def between(self, children: list[Any]) -> Node:
        return self._maybe_not(children, "between")

    def said_of(self, children: list[Any]) -> Node:
        return self._maybe_not(children, _op(children[-2]))

    def _maybe_not(self, children: list[Any], what: str) -> Node:
        at = _across(children)
        given = [each for each in children if isinstance(each, Node)]
        word = next(each for each in children if _is_token(each, "IN", "BETWEEN", "CONTAINS", "STARTS_WITH"))
        found = _call(what, at, *given, word=_span(word))
        return _call("not", at, found) if any(_is_token(each, "NOT") for each in children) else found

    def read(self, children: list[Any]) -> Node:
        of, how = children[0], children[-1]
        at = of.at[0], how.end
        found = Reads(of, how.how, how.text, at, _deeper(at, of))
        return _call("not", at, found) if any(_is_token(each, "NOT") for each in children) else found

    def reading(self, children: list[Any]) -> "_How":
        tokens = [each for each in children if each is not None]
        text = self.text([tokens[-1]]) if tokens[-1].type == "TEXT" else None
        return _How("label" if tokens[0].type == "TEXT" else _op(tokens[0]), text, _span(tokens[-1])[1])

    def number(self, children: list[Any]) -> Node:
        (token,) = children
        value = float(token)
        if value in (float("inf"), float("-inf")):
            raise BadFormula("This number is too large.", _span(token))
        if len(re.sub(r"[eE].*|\.", "", str(token)).strip("0")) > MOST_DIGITS:
            raise BadFormula(
                f"Numbers of more than {MOST_DIGITS} digits cannot be told apart here.",
                _span(token),
                remedy="What only names records is compared as text.",
            )
        return Number(value, str(token), _span(token))

    def moment(self, children: list[Any]) -> Node:
        (token,) = children
        return Moment(str(token), _span(token))

    def text(self, children: list[Any]) -> Text:
        (token,) = children
        return Text(re.sub(r"\\(.)", r"\1", str(token)[1:-1]), _span(token))

    def name(self, children: list[Any]) -> Name:
        (token,) = children
        return Name(str(token).strip("`"), _span(token))

    def neighbours(self, children: list[Any]) -> Node:
        return Neighbours(children[0], children[1], _across(children))

    def call(self, children: list[Any]) -> Node:
        word, given, closing, over = children
        found = given or _Arguments()
        at = _span(word)[0], over.end if over else _span(closing)[1]
        return _call(
            _op(word),
            at,
            *found.given,
            word=_span(word),
            needs=found.needs,
            over=over.names if over else None,
            weight=found.weight,
            order=found.order,
        )

    def call_of_records(self, children: list[Any]) -> Node:
        word, over = children
        return _call(_op(word), (_span(word)[0], over.end), word=_span(word), over=over.names)

    def days_between(self, children: list[Any]) -> Node:
        word, first, _, last = children
        return _call("days between", _across(children), first, last, word=_span(word))

    def arguments(self, children: list[Any]) -> "_Arguments":
        behind: dict[str, Any] = {}
        given: list[Node] = []
        for before, each in zip((None, *children), children, strict=False):
            if isinstance(before, Token) and before.type in _BEHIND:
                behind[before.type] = each
            elif isinstance(each, Node):
                given.append(each)
        needs = behind.get("NEEDS")
        if needs is not None and not re.fullmatch(r"[1-9]\d{0,4}", needs):
            raise BadFormula("How many must be valid is a whole number from 1.", _span(needs))
        return _Arguments(
            tuple(given), None if needs is None else int(needs), behind.get("WEIGHTED_BY"), behind.get("IN_ORDER_OF")
        )

    def over(self, children: list[Any]) -> "_Over":
        last = children[-1]
        end = last.at[1] if isinstance(last, Name) else _span(last)[1]
        return _Over(tuple(each for each in children if isinstance(each, Name)), end)


_BEHIND = ("NEEDS", "WEIGHTED_BY", "IN_ORDER_OF")
"""Words behind the arguments of a function, which something follows."""


@dataclass(frozen=True)
class _Arguments:
    """What a function is given."""

    given: tuple[Node, ...] = ()
    needs: int | None = None
    weight: Name | None = None
    order: Name | None = None


@dataclass(frozen=True)
class _How:
    """How an entry is asked to read, and where that ends."""

    how: Any
    text: Text | None
    end: int


@dataclass(frozen=True)
class _Over:
    """The variables that part the records, and where they end."""

    names: tuple[Name, ...]
    end: int


def _across(children: list[Any]) -> Span:
    """From where the first part begins to where the last ends."""
    spans = [_span(each) if isinstance(each, Token) else each.at for each in (children[0], children[-1])]
    return spans[0][0], spans[1][1]


def _is_token(value: Any, *kinds: str) -> bool:
    return isinstance(value, Token) and value.type in kinds
