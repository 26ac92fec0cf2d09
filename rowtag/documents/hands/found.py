"""What a hand sees in a text."""

import re
from collections.abc import Sequence
from dataclasses import dataclass, field

from rowtag.documents.codes import NUMBER, Code, coded
from rowtag.documents.lines import flattened

Ends = tuple[str | None, str | None]


@dataclass(frozen=True)
class Found:
    """Codes or limits between two places of a text, and how surely they are that (0 to 1).

    `ends_only`: a scale of which only some codes are said. `bare`: categories that stand for themselves.
    """

    start: int
    end: int
    codes: tuple[Code, ...] = ()
    limits: Ends | None = None
    sure: float = 0.8
    ends_only: bool = False

    def overlaps(self, other: "Found") -> bool:
        """Whether both claim some of the same text."""
        return self.start < other.end and other.start < self.end


@dataclass
class Said:
    """What a text says besides its own words: codes, limits; `rest` is what is left of it."""

    rest: str = ""
    codes: list[Code] = field(default_factory=list)
    limits: Ends | None = None
    ends_only: bool = False
    bounded: bool = False
    """Limits are said beside codes."""
    kind: str = ""
    """A word for its type or level."""


QUOTED = r"`[^`\n]{1,40}`|\"[^\"\n]{1,60}\"|'[^'\n]{1,40}'(?![a-z])"
"""A word or several in code face or in quotes."""

AHEAD = 90
"""Characters before a list in which its lead is looked for."""
LEAD = re.compile(
    r"(?:[,.;:–-]\s*)?\(?\b(?:(?:(?:an?|the)\s+)?(?:(?:ordered|unordered|binary|categorical|nominal|ordinal|numeric)\s+)*"
    r"(?:factor|variable|indicator(?: variable)?|vector|response|integer)?[,:]?\s*"
    r"(?:with (?:the )?(?:following )?(?:\w+ )?(?:levels?|categories|values|codes)(?: of)?|"
    r"levels?|categories|(?:possible |allowed |valid |posible )?values?(?: are| is| in)?|"
    r"(?:which is |is |are |was |were )?coded(?: as)?|codes?(?: are)?|coding|for which|"
    r"taking (?:the )?values?|one of|either|answers?|responses?|options?|where)"
    r"|(?:(?<=[,:(-] )|^)factor|range\s*:|categorical)\s*:?\s*$",
    re.I,
)
"""Words that lead over to a list and belong to it."""


def lead_before(text: str, start: int) -> int:
    """Where a list begins together with the words that lead over to it."""
    found = LEAD.search(text[max(0, start - AHEAD) : start])
    return max(0, start - AHEAD) + found.start() if found else start


def opened(text: str, at: int) -> int | None:
    """Where the bracket opens that a place stands in; None where it stands in none."""
    depth = 0
    for place in range(at - 1, max(-1, at - 400), -1):
        sign = text[place]
        if sign in ")]":
            depth += 1
        elif sign in "([":
            if depth == 0:
                return place
            depth -= 1
    return None


def closing(text: str, at: int) -> int:
    """Where the bracket closes in which a place stands; the end of the text where it does not."""
    depth = 0
    for place in range(at, len(text)):
        if text[place] in "([":
            depth += 1
        elif text[place] in ")]":
            if depth == 0:
                return place
            depth -= 1
    return len(text)


def unquoted(text: str) -> str:
    """A code without its quotes or code face."""
    return text.strip().strip("`").strip("'\"").strip()


def as_codes(pairs: Sequence[tuple[str, str]]) -> tuple[Code, ...]:
    """Codes with their labels; none where one of them cannot be, or two are the same."""
    codes = []
    for code, label in pairs:
        one = coded(unquoted(code), label.replace("`", "").replace("\n", " "))
        if one is None:
            return ()
        codes.append(one)
    return tuple(codes) if len({code.key for code in codes}) == len(codes) else ()


__all__ = [
    "AHEAD",
    "LEAD",
    "NUMBER",
    "QUOTED",
    "Ends",
    "Found",
    "Said",
    "as_codes",
    "closing",
    "flattened",
    "lead_before",
    "opened",
    "unquoted",
]
