"""What no expression may hold, whichever Python reads it."""

import re
from collections.abc import Iterator
from re import _constants, _parser  # type: ignore[attr-defined]
from typing import Any

from tests.expressions import expressions_of, modules, terminals

AMISS = {_constants.POSSESSIVE_REPEAT, _constants.ATOMIC_GROUP}
"""What Python 3.11.0 to 3.11.4 matches wrongly over groups: possessive quantifiers and atomic groups."""


def operations(parsed: Any) -> Iterator[Any]:
    """All operations of an expression, those within others too."""
    if isinstance(parsed, _parser.SubPattern):
        for operation, given in parsed:
            yield operation
            yield from operations(given)
    elif isinstance(parsed, tuple | list):
        for each in parsed:
            yield from operations(each)


def test_none_is_possessive() -> None:
    """Neither modules nor grammars have an expression that an older Python 3.11 would match otherwise."""
    found = {name: each.pattern for module in modules() for name, each in expressions_of(module).items()}
    found |= dict(terminals())
    assert len(found) > 300
    assert [name for name, text in found.items() if AMISS & set(operations(_parser.parse(text)))] == []


def test_the_look_finds_what_it_looks_for() -> None:
    """Possessive quantifiers and atomic groups are seen, within groups and lookarounds, too."""
    for text in (r"(?:a|b)*+c", r"a++", r"(?>ab)c", r"x(?=(?:a++))y", r"(?P<n>a?+)"):
        assert AMISS & set(operations(_parser.parse(text))), text
    assert not AMISS & set(operations(_parser.parse(r"[*+]+\++")))
    assert re.compile(r"[*+]+\++")
