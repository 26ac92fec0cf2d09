"""What a parser met where something else could stand, in words."""

from collections.abc import Mapping

from lark import UnexpectedCharacters, UnexpectedEOF, UnexpectedInput, UnexpectedToken

MOST_TOLD = 60
"""Characters of what cannot stand in a place, as it is told."""


def met_and_expected(error: UnexpectedInput, words: Mapping[str, str]) -> tuple[str, str]:
    """What stands there, and what could: terminals by their words; those without one are not named."""
    expected: set[str] = set()
    found = "this"
    if isinstance(error, UnexpectedToken):
        expected = error.accepts or error.expected
        found = "the end" if error.token.type == "$END" else f"“{_short(str(error.token)) or 'the next line'}”"
    elif isinstance(error, UnexpectedCharacters):
        expected, found = error.allowed or set(), f"“{error.char}”"
    elif isinstance(error, UnexpectedEOF):
        expected, found = set(error.expected), "the end"
    said = sorted({words[name] for name in expected if name in words})
    listed = f"{', '.join(said[:-1])} or {said[-1]}" if len(said) > 1 else "".join(said) or "something else"
    return f"{found[0].upper()}{found[1:]}", listed


def _short(text: str) -> str:
    """A text as it is told: not all of a long one."""
    text = text.strip()
    return text if len(text) <= MOST_TOLD else f"{text[:MOST_TOLD]}…"
