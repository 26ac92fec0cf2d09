"""Sentences of derivation, read: from text to a way, or an error that says at which character what was expected."""

import re
from functools import cache, lru_cache
from typing import Any, TypeAlias

from lark import Lark, Token, Transformer, UnexpectedInput
from lark.exceptions import VisitError

from rowtag.core.derive.ways import (
    Band,
    Bands,
    Becomes,
    ByRank,
    Coded,
    Codes,
    Convert,
    Expression,
    Indicator,
    Indicators,
    Items,
    Join,
    Line,
    Match,
    Mentions,
    OfThings,
    Recode,
    Reverse,
    Sentence,
    Split,
    Theme,
    Way,
    Which,
)
from rowtag.core.formulas.errors import BadFormula, Span
from rowtag.core.formulas.grammar import named_in, parse, ranges_in, refused
from rowtag.core.formulas.nodes import Name
from rowtag.core.rules import LONGEST

_ONLY = re.compile(r"""(?:'(?:[^'\\]|\\.)*'|`[^`]*`|[^'`])*?(?P<only>\bonly\s+where\b)""", re.IGNORECASE | re.DOTALL)
_FIRST = re.compile(r"\s*(?P<word>[^\W\d]\w*)\s+(?P<then>\S+)", re.IGNORECASE)
_NAMED = re.compile(r"[^\W\d]|`")
_CONDITION = re.compile(r"[\w`'(]")
"""How what follows the first word begins: with a name; behind “indicator” with anything that begins a condition."""
_ASKED = re.compile(
    r"\s*\w+\s+(?:is|in|and|or|between|contains|starts|not\s+(?:in|between|contains|starts))\b", re.IGNORECASE
)
"""Something is asked of a variable that is called like the first word of a sentence."""
_OWN = frozenset(
    ("recode", "reverse", "bands", "codes", "mentions", "indicators", "split", "join", "which", "things", "ranks",
     "convert")
)  # fmt: skip
_WORDS = {
    "VALUE": "a number",
    "TEXT": "a text in 'quotes'",
    "NAME": "a name",
    "ARROW": "->",
    "COLON": ":",
    "SEMICOLON": ";",
    "COMMA": "a comma",
    "ELSE": "else",
    "SAME": "same",
    "BLANK": "blank",
    "MISSING": "missing",
    "BY": "by",
    "OF": "of",
    "FROM": "from",
    "TO": "to",
    "WHERE": "where",
    "EXCEPT": "except",
    "NUMBER": "number",
    "LABELS": "labels",
    "TEXT_WORD": "text",
    "__ANON_0": "..",
    "$END": "the end",
}


_MISTAKEN = {
    "=>": "->", "-->": "->", "=": "->", "‘": "'", "’": "'", "“": "'", "”": "'", '"': "'", "...": "..", "…": ".."
}  # fmt: skip
"""What is written otherwise elsewhere, and how it is written here."""


def _read(text: str) -> Sentence:
    """What a text says of how variables are derived. Raises BadFormula at the characters that are wrong."""
    if len(text) > LONGEST:
        raise BadFormula(f"This has {len(text):,} characters; it may have {LONGEST:,}.", (LONGEST, len(text)))
    tail = _ONLY.match(text)
    only, condition = None, ""
    head = text
    if tail:
        head, at = text[: tail.start("only")], tail.end("only")
        condition = text[at:]
        only = parse(" " * at + condition)
    way, names, ranges = _way(head)
    if only is not None:
        names, ranges = (*names, *named_in(only)), (*ranges, *ranges_in(only))
    return Sentence(way, only, condition.strip(), names, ranges)


read = lru_cache(maxsize=512)(_read)
"""The sentence of a text; sentences never change."""


Ranges: TypeAlias = tuple[tuple[Name, Name], ...]


def _way(text: str) -> tuple[Way, tuple[Name, ...], Ranges]:
    first = None if _ASKED.match(text) else _FIRST.match(text)
    word = first["word"].lower() if first else ""
    if first and word == "indicator" and _CONDITION.match(first["then"]):
        at = first.end("word")
        node = parse(" " * at + text[at:])
        names = tuple(named_in(node))
        return Indicator(node, text[at:].strip(), names), names, tuple(ranges_in(node))
    if not first or word not in _OWN or not _NAMED.match(first["then"]):
        if not text.strip():
            raise BadFormula(
                "This does not say yet how it is derived.", (0, 0), remedy="Such as: mean(site_1..site_6), or: recode …"
            )
        node = parse(text)
        names = tuple(named_in(node))
        return Expression(node, text.strip(), names), names, tuple(ranges_in(node))
    reader = _Ways()
    try:
        way: Way = reader.transform(_parser().parse(text))
    except UnexpectedInput as error:
        raise refused(text, error, _WORDS, _MISTAKEN) from None
    except VisitError as error:  # which wraps whatever is refused on the way
        raise error.orig_exc from None
    return way, tuple(reader.names), tuple(reader.ranges)


@cache
def _parser() -> Lark:
    return Lark.open_from_package(
        "rowtag.core.derive", "derivation.lark", ("",), parser="lalr", maybe_placeholders=True
    )


def _at(token: Token) -> Span:
    return token.start_pos or 0, token.end_pos or 0


def _text(token: Token) -> str:
    return re.sub(r"\\(.)", r"\1", str(token)[1:-1])


def _value(token: Token) -> str:
    return str(token).replace("\u2212", "-").removeprefix("+")


def _tokens(children: list[Any], *kinds: str) -> list[Token]:
    return [each for each in children if isinstance(each, Token) and each.type in kinds]


def _texts(children: list[Any]) -> tuple[str, ...]:
    return tuple(_text(each) for each in _tokens(children, "TEXT"))


def _of(children: list[Any], kind: type[Any]) -> tuple[Any, ...]:
    return tuple(each for each in children if isinstance(each, kind))


class _Ways(Transformer[Token, Any]):
    """Makes ways of what was read, and gathers their names."""

    def __init__(self) -> None:
        super().__init__()
        self.names: list[Name] = []
        self.ranges: list[tuple[Name, Name]] = []

    def start(self, children: list[Any]) -> Way:
        return children[0]  # type: ignore[no-any-return]

    def name(self, children: list[Any]) -> Name:
        found = Name(str(children[0]).strip("`"), _at(children[0]))
        self.names.append(found)
        return found

    def recode(self, children: list[Any]) -> Way:
        return Recode(children[1], _of(children, Line), next(iter(_of(children, Becomes)), None))

    def line(self, children: list[Any]) -> Line:
        return Line(_of(children, Match), children[-1])

    def exactly(self, children: list[Any]) -> Match:
        return Match("code", low=_value(children[0]), at=_at(children[0]))

    def worded(self, children: list[Any]) -> Match:
        return Match("text", text=_text(children[0]), at=_at(children[0]))

    def from_to(self, children: list[Any]) -> Match:
        low, high = _tokens(children, "VALUE")
        return Match("range", _value(low), _value(high), at=(_at(low)[0], _at(high)[1]))

    def from_on(self, children: list[Any]) -> Match:
        return Match("range", low=_value(children[0]), at=_at(children[0]))

    def up_to(self, children: list[Any]) -> Match:
        (high,) = _tokens(children, "VALUE")
        return Match("range", high=_value(high), at=_at(high))

    def for_reason(self, children: list[Any]) -> Match:
        return Match("missing", text=next(iter(_texts(children)), None), at=_at(children[0]))

    def blank(self, children: list[Any]) -> Match:
        return Match("blank", at=_at(children[0]))

    def stray(self, children: list[Any]) -> Match:
        return Match("stray", at=_at(children[0]))

    def stays(self, children: list[Any]) -> Becomes:
        return Becomes("same", at=_at(children[0]))

    def made_blank(self, children: list[Any]) -> Becomes:
        return Becomes("blank", at=_at(children[0]))

    def made_missing(self, children: list[Any]) -> Becomes:
        return Becomes("missing", reason=_texts(children)[0], at=_at(children[1]))

    def made_code(self, children: list[Any]) -> Becomes:
        code, label, _, reason = children
        return Becomes(
            "code", _value(code), _text(label) if label else "", _text(reason) if reason else "", at=_at(code)
        )

    def made_text(self, children: list[Any]) -> Becomes:
        return Becomes("code", _text(children[0]), at=_at(children[0]))

    def reverse(self, children: list[Any]) -> Way:
        ends = _tokens(children, "VALUE")
        if not ends:
            return Reverse(children[1], at=children[1].at)
        return Reverse(children[1], _value(ends[0]), _value(ends[1]), at=(_at(ends[0])[0], _at(ends[1])[1]))

    def bands(self, children: list[Any]) -> Way:
        return Bands(children[1], _of(children, Band))

    def band_between(self, children: list[Any]) -> Band:
        above, low, below, high, label = children
        return Band(_value(low), _value(high), bool(above), bool(below), _label(label), (_at(low)[0], _at(high)[1]))

    def band_from(self, children: list[Any]) -> Band:
        above, low, label = children
        return Band(_value(low), None, bool(above), False, _label(label), _at(low))

    def band_to(self, children: list[Any]) -> Band:
        below, high, label = children
        return Band(None, _value(high), False, bool(below), _label(label), _at(high))

    def codes(self, children: list[Any]) -> Way:
        return Codes(children[1], _of(children, Coded), next(iter(_of(children, Becomes)), None))

    def coded(self, children: list[Any]) -> Coded:
        place = next(at for at, each in enumerate(children) if each is not None and each.type == "VALUE")
        label = children[place + 1]
        return Coded(_texts(children[:place]), _value(children[place]), _label(label), _at(children[place]))

    def mentions(self, children: list[Any]) -> Way:
        return Mentions(children[1], _of(children, Theme))

    def theme(self, children: list[Any]) -> Theme:
        words = _of(children, tuple)
        return Theme(
            _text(children[0]),
            tuple(text for whole, text in words if not whole),
            tuple(text for whole, text in words if whole),
        )

    def word(self, children: list[Any]) -> tuple[bool, str]:
        return len(children) > 1 and children[0] is not None, _text(children[-1])

    def indicators(self, children: list[Any]) -> Way:
        base = children[-1] if len(children) > 2 and children[-1] is not None else None
        if base is None:
            return Indicators(children[1])
        return Indicators(children[1], _text(base) if base.type == "TEXT" else _value(base), at=_at(base))

    def split(self, children: list[Any]) -> Way:
        return Split(children[1], _texts(children)[0], _of(children, tuple))

    def spelled(self, children: list[Any]) -> tuple[str, ...]:
        return _texts(children)

    def join(self, children: list[Any]) -> Way:
        by, *rest = _texts(children)
        return Join(children[1], by, "".join(rest))

    def which(self, children: list[Any]) -> Way:
        return Which(children[-1])

    def by_rank(self, children: list[Any]) -> Way:
        return ByRank(children[-1])

    def of_things(self, children: list[Any]) -> Way:
        return OfThings(children[-1])

    def to_number(self, children: list[Any]) -> Way:
        return Convert(children[1], "number")

    def to_labels(self, children: list[Any]) -> Way:
        return Convert(children[1], "labels")

    def to_text(self, children: list[Any]) -> Way:
        width, decimals = (self._whole(children, word) for word in ("WIDTH", "DECIMALS"))
        return Convert(children[1], "text", width or 0, decimals)

    def _whole(self, children: list[Any], word: str) -> int | None:
        """The whole number behind a word."""
        at = next((at for at, each in enumerate(children) if _tokens([each], word)), None)
        if at is None:
            return None
        token = children[at + 1]
        if not re.fullmatch(r"\d{1,9}", str(token)):
            raise BadFormula("This is a whole number, such as 3.", _at(token))
        return int(token)

    def items(self, children: list[Any]) -> Items:
        return tuple(children)

    def item(self, children: list[Any]) -> tuple[Name, Name | None]:
        first, last = children
        if last is not None:
            self.ranges.append((first, last))
        return first, last


def _label(token: Token | None) -> str | None:
    return None if token is None else _text(token)
