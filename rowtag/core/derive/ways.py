"""The ways of deriving: what a sentence says, before anything is known of a study."""

from dataclasses import dataclass, field
from typing import Literal, TypeAlias

from rowtag.core.formulas.errors import Span
from rowtag.core.formulas.nodes import Name, Node


@dataclass(frozen=True)
class Match:
    """Which entries a line of a recoding is about: a code, a range, a label or text, or how they read."""

    kind: Literal["code", "range", "text", "missing", "blank", "stray"]
    low: str | None = None
    high: str | None = None
    text: str | None = None
    at: Span = field(default=(0, 0), compare=False)


@dataclass(frozen=True)
class Becomes:
    """What entries become: a code with its label (which may stand for a missing answer), a text, blank, a missing code
    of the source for a reason, or what they are."""

    kind: Literal["code", "same", "blank", "missing"]
    code: str = ""
    label: str = ""
    reason: str = ""
    at: Span = field(default=(0, 0), compare=False)


@dataclass(frozen=True)
class Line:
    """A line of a recoding."""

    matches: tuple[Match, ...]
    becomes: Becomes


@dataclass(frozen=True)
class Recode:
    """Codes, ranges, texts and readings become other codes. What no line names becomes `rest`, else stays."""

    source: Name
    lines: tuple[Line, ...]
    rest: Becomes | None = None


@dataclass(frozen=True)
class Reverse:
    """A scale turned round between two ends, those of its code list unless they are told; labels stay with their
    meaning."""

    source: Name
    low: str | None = None
    high: str | None = None
    at: Span = field(default=(0, 0), compare=False)


@dataclass(frozen=True)
class Band:
    """A range of values; an end that is `above` or `below` does not belong to it itself."""

    low: str | None
    high: str | None
    above: bool = False
    below: bool = False
    label: str | None = None
    at: Span = field(default=(0, 0), compare=False)


@dataclass(frozen=True)
class Bands:
    """Values become the number of the range that they fall into, from 1."""

    source: Name
    bands: tuple[Band, ...]


@dataclass(frozen=True)
class Coded:
    """Texts that become one code."""

    texts: tuple[str, ...]
    code: str
    label: str | None = None
    at: Span = field(default=(0, 0), compare=False)


@dataclass(frozen=True)
class Codes:
    """Texts become codes."""

    source: Name
    lines: tuple[Coded, ...]
    rest: Becomes | None = None


@dataclass(frozen=True)
class Theme:
    """A theme of open answers: those that hold one of its words, or are one of its texts as a whole."""

    label: str
    words: tuple[str, ...] = ()
    whole: tuple[str, ...] = ()


@dataclass(frozen=True)
class Mentions:
    """Open answers become one 0/1 variable for each theme."""

    source: Name
    themes: tuple[Theme, ...]


@dataclass(frozen=True)
class Indicator:
    """1 where a condition is met, 0 where it is not, blank where that is unknown."""

    condition: Node
    text: str
    names: tuple[Name, ...]


@dataclass(frozen=True)
class Indicators:
    """One 0/1 variable for each code of a list, but for one that the others are compared with."""

    source: Name
    base: str | None = None
    at: Span = field(default=(0, 0), compare=False)


@dataclass(frozen=True)
class Split:
    """Several answers in one entry become one 0/1 variable each; `answers` are their spellings."""

    source: Name
    by: str
    answers: tuple[tuple[str, ...], ...]


Items: TypeAlias = tuple[tuple[Name, Name | None], ...]
"""Variables one by one, or from one to another in codebook order."""


@dataclass(frozen=True)
class Join:
    """What is ticked in several 0/1 variables becomes one text; `rest` where nothing is."""

    items: Items
    by: str
    rest: str = ""


@dataclass(frozen=True)
class Which:
    """The only one that is ticked of several 0/1 variables becomes one code."""

    items: Items


@dataclass(frozen=True)
class ByRank:
    """Variables that hold the rank of a thing each become variables that hold the thing of a rank each."""

    items: Items


@dataclass(frozen=True)
class OfThings:
    """Variables that hold the thing of a rank each become variables that hold the rank of a thing each."""

    items: Items


@dataclass(frozen=True)
class Convert:
    """Entries become numbers, texts or labels; those that cannot stay what they were."""

    source: Name
    to: Literal["number", "text", "labels"]
    width: int = 0
    decimals: int | None = None


@dataclass(frozen=True)
class Expression:
    """Whatever a formula gives."""

    formula: Node
    text: str
    names: tuple[Name, ...]


Way: TypeAlias = (
    Recode | Reverse | Bands | Codes | Mentions | Indicator | Indicators | Split | Join | Which | ByRank | OfThings
    | Convert | Expression
)  # fmt: skip


@dataclass(frozen=True)
class Sentence:
    """How variables are derived, and under which condition alone; with all names of variables that stand in it, and
    the ends of ranges of neighbours."""

    way: Way
    only: Node | None
    only_text: str
    names: tuple[Name, ...]
    ranges: tuple[tuple[Name, Name], ...] = ()
