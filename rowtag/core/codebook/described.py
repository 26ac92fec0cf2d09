"""What a document says of variables: the common form of codebook text, questionnaires, tables and standards."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from rowtag.core.tag import CodeLine, Parts

NO_PARTS = Parts()


@dataclass(frozen=True)
class Onward:
    """A skip as documents tell it: who gave one of the codes goes on at the variable of a name, empty for the end."""

    codes: tuple[str, ...]
    to: str = ""
    proposed: bool = False
    said: str = field(default="", compare=False)

    @property
    def shown(self) -> str:
        """The skip in words: "2, 3 → hours"."""
        return f"{', '.join(self.codes)} → {self.to or 'the end'}"


@dataclass(frozen=True)
class Described:
    """One variable as a document describes it.

    `parts` has given only what the document says. `battery`, `section` and `code_list` go by title and name.
    `lines`: the first and last line it stands on, from 1. `certainty` (0 to 1) says how sure the reading is,
    `reason` why. `also`: another name that stands beside it, such as the number of its question.
    """

    name: str
    parts: Parts = NO_PARTS
    battery: str | None = None
    section: str | None = None
    code_list: str | None = None
    lines: tuple[int, int] = (0, 0)
    certainty: float = 1.0
    reason: str = ""
    also: str = ""
    skips: tuple[Onward, ...] = ()


@dataclass(frozen=True)
class Understood:
    """All that was understood of a document: its variables, its shared code lists, and lines left unplaced."""

    variables: tuple[Described, ...] = ()
    lists: Mapping[str, tuple[CodeLine, ...]] = field(default_factory=dict)
    unplaced: tuple[int, ...] = ()
