"""What a writer is: a small frozen specification of a file that leaves, which it previews and writes."""

from abc import ABC, abstractmethod
from dataclasses import dataclass, field
from typing import BinaryIO, ClassVar

from rowtag.core.study import Study
from rowtag.core.tag import Frozen
from rowtag.formats.table import Watch
from rowtag.formats.written import Options

MOST_LINES = 40
"""Lines of a text that a preview shows."""


@dataclass(frozen=True)
class Preview:
    """A file as it would leave: its name, its first lines, and what is worth knowing about it."""

    name: str
    head: str
    notes: list[str]


@dataclass(frozen=True)
class Handed:
    """What is handed over: a study, its title, and what was noted while other files were written."""

    study: Study
    title: str
    notes: list[str] = field(default_factory=list)


class Writer(Frozen, ABC):
    """One file of an archive. A kind of writer is one class under one registered name (`writer`).

    `entries` says how entries are written, or were written in the data that it describes.
    """

    file: ClassVar[str]
    entries: Options = Options()

    @classmethod
    def wanted(cls, options: Options) -> bool:
        """Whether the file is in an archive that holds what these options ask for."""
        return True

    @abstractmethod
    def preview(self, handed: Handed) -> Preview:
        """The first lines."""

    @abstractmethod
    def write(self, handed: Handed, file: BinaryIO, watch: Watch) -> list[str]:
        """Writes the whole file; gives what is to be noted. What `watch` raises stops it."""


WRITERS: dict[str, type[Writer]] = {}
"""All kinds of writer under their registered names, in the order in which their files stand in an archive."""


def register(kind: type[Writer]) -> type[Writer]:
    """Makes a kind of writer known under the name its `writer` carries."""
    WRITERS[kind.model_fields["writer"].default] = kind
    return kind
