"""Formulas as they were written: a tree of what stands where, before anything is known of a study."""

from dataclasses import dataclass
from typing import Literal, TypeAlias

from rowtag.core.formulas.errors import Span

Tested = Literal["valid", "missing", "blank", "stray", "label"]


@dataclass(frozen=True)
class Number:
    """A number."""

    value: float
    digits: str
    at: Span
    depth: int = 0


@dataclass(frozen=True)
class Moment:
    """A date, a time, or a date with a time, as it is written."""

    text: str
    at: Span
    depth: int = 0


@dataclass(frozen=True)
class Text:
    """A text, in quotes."""

    text: str
    at: Span
    depth: int = 0


@dataclass(frozen=True)
class Name:
    """A variable by its name."""

    name: str
    at: Span
    depth: int = 0


@dataclass(frozen=True)
class Neighbours:
    """Variables that stand one behind the other in the codebook, by the first and the last of them."""

    first: Name
    last: Name
    at: Span
    depth: int = 0


@dataclass(frozen=True)
class Reads:
    """Whether an entry reads in a way: valid, missing (for a reason), blank, stray; or has a label."""

    of: "Node"
    how: Tested
    text: Text | None
    at: Span
    depth: int


@dataclass(frozen=True)
class Call:
    """An operator or a function of some arguments. `needs`: how many of them must be valid. `over`: the variables that
    part the records; all are one where none is named, and None where it is not worked out down the records. `weight`:
    the variable by which records weigh; `order`: the one that puts them in order."""

    what: str
    given: tuple["Node", ...]
    at: Span
    depth: int
    needs: int | None = None
    over: tuple[Name, ...] | None = None
    weight: Name | None = None
    order: Name | None = None
    word: Span = (0, 0)

    @property
    def beside(self) -> tuple[Name, ...]:
        """The variables that part, weigh or order the records."""
        return (*(self.over or ()), *(each for each in (self.weight, self.order) if each is not None))


Node: TypeAlias = Number | Moment | Text | Name | Neighbours | Reads | Call
