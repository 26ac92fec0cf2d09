"""What can be wrong with a formula: told at the characters where it is wrong."""

from collections.abc import Iterable
from difflib import get_close_matches

from rowtag.core.errors import BadInput, Place

Span = tuple[int, int]
"""Where something stands in a formula: its first character and the one behind its last, counted from 0."""


class BadFormula(BadInput):
    """A formula cannot be read, or means nothing.

    `span` tells which of its characters are concerned; `suggestion` holds what could stand there instead.
    """

    def __init__(
        self,
        what: str,
        span: Span = (0, 0),
        *,
        remedy: str = "",
        suggestion: str | None = None,
        where: Place | None = None,
    ) -> None:
        where = where or Place(character=span[0] + 1)
        super().__init__(what, remedy=remedy, where=where, suggestion=suggestion)
        self.span = span


class TooLong(Exception):
    """Texts would come out that are longer than anything works with."""


def nearest(word: str, known: Iterable[str]) -> str | None:
    """The known word that is most like another one, whatever its case; None where none is."""
    folded: dict[str, str] = {}
    for each in known:
        folded.setdefault(each.casefold(), each)
    found = get_close_matches(word.casefold(), folded, n=1, cutoff=0.6)
    return folded[found[0]] if found else None
