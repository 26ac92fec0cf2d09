"""Everything that a user can cause, as one tree of errors with a sentence for a person.

RowTagError
├── BadInput            something given cannot be used
│   ├── UnreadableFile  a file is not what it claims to be, or is damaged
│   ├── TooLarge        more than the limits allow
│   ├── BadName         a name breaks the study's naming rules; carries a suggestion
│   └── NothingToDo     what a step would do is so already
├── NotThere            what was asked for does not exist (any more)
├── Changed             what a step expected to find has been changed meanwhile
├── Damaged             what was kept cannot be read back as it was written
├── NotKept             the disk would not take it; nothing has changed
├── InUse               somebody else holds the workspace
└── Cancelled           long work was stopped by its user

What only a programmer can cause is an assertion, never one of these.
"""

from dataclasses import asdict, dataclass
from typing import Any


@dataclass(frozen=True)
class Place:
    """Where in an input something is wrong; rows, columns and characters count from 1."""

    file: str | None = None
    sheet: str | None = None
    row: int | None = None
    column: str | None = None
    character: int | None = None

    def __str__(self) -> str:
        said = [self.file, f"sheet {self.sheet}" if self.sheet else None]
        said += [f"row {self.row:,}" if self.row else None]
        said += [f"column {self.column}" if self.column else None]
        said += [f"character {self.character:,}" if self.character else None]
        return ", ".join(part for part in said if part)

    def as_dict(self) -> dict[str, Any]:
        """Only the parts that are known."""
        return {key: value for key, value in asdict(self).items() if value is not None}


class RowTagError(Exception):
    """Says what is wrong, where, and what to do about it."""

    def __init__(
        self,
        what: str,
        *,
        remedy: str = "",
        where: Place | None = None,
        suggestion: str | None = None,
        details: list[str] | None = None,
    ) -> None:
        super().__init__(what)
        self.what = what
        self.remedy = remedy
        self.where = where
        self.suggestion = suggestion
        self.details = details or []

    def __str__(self) -> str:
        place = f"{self.where}: " if self.where and str(self.where) else ""
        return f"{place}{self.what}" + (f" {self.remedy}" if self.remedy else "")


class BadInput(RowTagError):
    """Something given cannot be used as it is."""


class UnreadableFile(BadInput):
    """A file is not what it claims to be, or is damaged."""


class TooLarge(BadInput):
    """More was given than the limits allow."""


class BadName(BadInput):
    """A name breaks the naming rules; `suggestion` holds one that works."""


class NothingToDo(BadInput):
    """What a step would do is so already, or there is nothing that it could be done to."""


class NotThere(RowTagError):
    """What was asked for does not exist, or not any more."""


class Changed(RowTagError):
    """What a step expected to find has been changed meanwhile; `details` names the changes."""


class Damaged(RowTagError):
    """What was kept cannot be read back as it was written: it is gone, cut short, or changed by another hand."""


class NotKept(RowTagError):
    """The disk would not take it; nothing has changed."""


class InUse(RowTagError):
    """Somebody else holds the workspace."""


class Cancelled(RowTagError):
    """Long work was stopped by its user."""


def not_stored(name: str, error: OSError) -> NotKept:
    """The error for a file that the disk did not take."""
    return NotKept(
        f"“{name}” could not be stored: {error.strerror or error}.",
        remedy="Make room on the disk, then try again.",
    )
