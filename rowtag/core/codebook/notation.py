"""Codebook text: Row Tag's own notation for tags, read strictly. What `writing` writes comes back as it was."""

import re
from functools import cache
from typing import Any

from lark import Lark, Token, Transformer, UnexpectedInput, v_args
from lark.exceptions import VisitError
from pydantic import ValidationError

from rowtag.core.codebook.described import Described, Onward, Understood
from rowtag.core.errors import Place, UnreadableFile
from rowtag.core.expected import met_and_expected
from rowtag.core.problems import problems
from rowtag.core.tag import CodeLine, Limits, MissingLine, Parts

_WORDS = {
    "NAME": "a name",
    "LEVEL": "a level (nominal, ordinal, interval, ratio)",
    "TYPE": "a type (integer, decimal, text, date, time, datetime)",
    "SIZE": "a width such as 5 or 5.1",
    "KEY": "battery:, section: or codes:",
    "CODE": "a code",
    "BARE": "a label",
    "LINE": "text",
    "QUOTED": "text in quotes",
    "RANGE": "a range such as 0 .. 80 (two blanks before its label)",
    "REASON": "a reason (refused, don't know, not applicable, not asked, no answer, other)",
    "MISSING": "missing:",
    "USE_NAME": "a use (identifier, answer, several answers, open-ended, weight, design, administrative)",
    "MARK": "decimal, thousands, sign or dates",
    "WORD": "a mark",
    "DATE_PATTERN": "a pattern such as dd.mm.yyyy",
    "COMPLETENESS": "complete or partial",
    "COMMA": "a comma",
    "VBAR": "a bar",
    "_INDENT": "an indented line",
    "_MARGIN": "the next tag at the margin",
    "LIMITS": "limits",
    "USE": "use",
    "MARKS": "marks",
    "PATTERN": "pattern",
    "COMPLETE": "list",
    "LIST": "list:",
    "SKIP": "skip:",
    "ONWARD": "codes, an arrow and a name",
    "ASKED": "?",
    "NOTED": "#",
    "$END": "the end",
}
"""How the errors call what could stand somewhere."""


_END = r'"(?:[^"\\\n]|\\.)*"|[^\s|"]+'
_SPAN = re.compile(rf"(?:({_END})[ \t]+)?\.\.(?:[ \t]({_END}))?")

_WORD = r'(?:"(?:[^"\\\n]|\\.)*"|[^\s",|]+(?![^\s",|]))'
_LEADS = re.compile(rf"(?P<codes>{_WORD}(?:[ \t]*,[ \t]*{_WORD})*)[ \t]*->[ \t]*(?P<to>{_WORD})[ \t]*")
END = "end"
"""Where a skip leads that leads to the end."""


@cache
def grammar() -> Lark:
    """The parser of codebook text."""
    given: dict[str, Any] = {"parser": "lalr", "propagate_positions": True, "maybe_placeholders": False}
    return Lark.open_from_package("rowtag.core.codebook", "notation.lark", ("",), **given)


def read_notation(text: str) -> Understood:
    """The tags that codebook text describes. Raises UnreadableFile with line, character and what was expected."""
    try:
        tree = grammar().parse(text.removeprefix("\ufeff").replace("\r\n", "\n"))
    except UnexpectedInput as error:
        raise _refused(error) from None
    try:
        found = _Tags().transform(tree)
    except VisitError as error:
        if not isinstance(error.orig_exc, ValidationError):
            raise error.orig_exc from None
        line = getattr(getattr(error.obj, "meta", None), "line", None)
        raise UnreadableFile(f"This cannot be so: {problems(error.orig_exc)}.", where=Place(row=line)) from None
    tags = [each for each in found if isinstance(each, list)]
    lists = [each for each in found if isinstance(each, tuple)]
    twice = _twice([name for name, _ in lists])
    if twice:
        raise UnreadableFile(f"The list “{twice}” stands here twice.", remedy="Give one of them another name.")
    return Understood(tuple(one for tag in tags for one in tag), dict(lists))


def unquoted(text: str) -> str:
    """What stands in quotes."""
    return re.sub(r"\\(.)", lambda found: {"n": "\n", "t": "\t", "r": "\r"}.get(found[1], found[1]), text[1:-1])


def _unquoted_each(text: str) -> tuple[str, ...]:
    """Words parted by commas, those in quotes without them."""
    return tuple(unquoted(word) if word.startswith('"') else word for word in re.findall(_WORD, text))


def _twice(names: list[str]) -> str | None:
    seen: set[str] = set()
    return next((name for name in names if name in seen or seen.add(name)), None)  # type: ignore[func-returns-value]


def _refused(error: UnexpectedInput) -> UnreadableFile:
    found, listed = met_and_expected(error, _WORDS)
    return UnreadableFile(
        f"{found} cannot stand here.",
        remedy=f"Expected: {listed}.",
        where=Place(row=max(error.line, 1), character=max(error.column, 1)),
    )


class _Tags(Transformer[Token, Any]):
    """From the parsed text to what it describes. Each part becomes a pair of its name and its value."""

    QUOTED = staticmethod(unquoted)
    BARE = LINE = staticmethod(str.rstrip)

    def RANGE(self, token: Token) -> tuple[str | None, str | None]:  # noqa: N802 - the name of a terminal
        found = _SPAN.fullmatch(token)
        assert found
        low, high = (end and (unquoted(end) if end.startswith('"') else end) for end in found.groups())
        return low, high

    def start(self, children: list[Any]) -> list[Any]:
        return children

    @v_args(meta=True)
    def tag(self, meta: Any, children: list[Any]) -> list[Described]:
        names, *given = children
        parts: dict[str, Any] = {}
        outer: dict[str, str] = {}
        for key, value in (pair for pairs in given for pair in pairs):
            if key in ("battery", "section", "code_list"):
                outer[key] = value
            elif key in ("codes", "missing", "skips"):
                parts[key] = (*parts.get(key, ()), *value)
            else:
                parts[key] = value
        skips = tuple(parts.pop("skips", ()))
        try:
            tag = Parts.model_validate(parts)
        except ValidationError as error:
            raise UnreadableFile(f"{names[0]} cannot be so: {problems(error)}.", where=Place(row=meta.line)) from None
        places = (outer.get("battery"), outer.get("section"), outer.get("code_list"))
        return [Described(name, tag, *places, lines=(meta.line, meta.end_line), skips=skips) for name in names]

    def shared(self, children: list[Any]) -> tuple[str, tuple[CodeLine, ...]]:
        _, name, *codes = children
        lines = [line for pairs in codes for key, value in pairs if key == "codes" for line in value]
        return name, tuple(lines)

    def names(self, children: list[Any]) -> list[str]:
        return children

    def name(self, children: list[Any]) -> str:
        return str(children[0])

    text = line_text = name

    def head(self, children: list[Any]) -> list[tuple[str, Any]]:
        return children[0]  # type: ignore[no-any-return]

    item = head

    def label(self, children: list[Any]) -> list[tuple[str, Any]]:
        return [("label", children[0])]

    def question(self, children: list[Any]) -> list[tuple[str, Any]]:
        return [("question", "".join(children[1:]))]

    def note(self, children: list[Any]) -> list[tuple[str, Any]]:
        return [("note", "".join(children[1:]))]

    def level(self, children: list[Any]) -> list[tuple[str, Any]]:
        return [("level", str(children[0]))]

    def typed(self, children: list[Any]) -> list[tuple[str, Any]]:
        width, _, decimals = str(children[1]).partition(".") if len(children) > 1 else ("", "", "")
        sized = [("width", width), ("decimals", decimals)]
        return [("type", str(children[0])), *((key, int(size)) for key, size in sized if size)]

    def limits(self, children: list[Any]) -> list[tuple[str, Any]]:
        low, high = children[1]
        return [("limits", Limits(low=low, high=high))]

    def use(self, children: list[Any]) -> list[tuple[str, Any]]:
        return [("use", str(children[1]))]

    def marks(self, children: list[Any]) -> list[tuple[str, Any]]:
        return [("marks", dict(children[1:]))]

    def mark(self, children: list[Any]) -> tuple[str, str]:
        return {"dates": "date_order"}.get(str(children[0]), str(children[0])), str(children[1])

    def pattern(self, children: list[Any]) -> list[tuple[str, Any]]:
        return [("pattern", str(children[1]))]

    def complete(self, children: list[Any]) -> list[tuple[str, Any]]:
        return [("complete", children[1] == "complete")]

    def keyed(self, children: list[Any]) -> list[tuple[str, Any]]:
        key = str(children[0])[:-1]
        return [("code_list" if key == "codes" else key, children[1])]

    @v_args(meta=True)
    def skip(self, meta: Any, children: list[Any]) -> list[tuple[str, Any]]:
        found = _LEADS.fullmatch(str(children[1]))
        if found is None:
            raise UnreadableFile(
                "This does not say which codes lead where.",
                remedy="Write the codes, an arrow and a name, such as skip: 2, 3 -> hours, or -> end.",
                where=Place(row=meta.line, character=meta.column),
            )
        codes, to = (_unquoted_each(found[part]) for part in ("codes", "to"))
        to = ("",) if found["to"] == END else to
        return [("skips", (Onward(codes, to[0], proposed=str(children[0]).startswith("proposed")),))]

    def codes(self, children: list[Any]) -> list[tuple[str, Any]]:
        return children

    def code(self, children: list[Any]) -> tuple[str, Any]:
        first, *rest = children
        low, high = first if isinstance(first, tuple) else (None, None)
        code = None if isinstance(first, tuple) else str(first)
        label, reason = rest[0] if rest else ("", None)
        span = {"code": code, "low": low, "high": high, "label": label}
        if reason is None:
            return "codes", (CodeLine(**span),)
        return "missing", (MissingLine(**span, reason=reason),)

    def rest(self, children: list[Any]) -> tuple[str, str | None]:
        texts = [child for child in children if not isinstance(child, tuple)]
        reasons = [child[0] for child in children if isinstance(child, tuple)]
        return "".join(texts), reasons[0] if reasons else None

    def missing(self, children: list[Any]) -> tuple[str]:
        return (str(children[1]),)
