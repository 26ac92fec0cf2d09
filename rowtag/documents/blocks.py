"""A document as a row of blocks: what a reader sees of its structure, whatever kind of file it came in."""

import re
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

Kind = Literal["heading", "text", "item", "entry", "table"]


@dataclass(frozen=True)
class Row:
    """A row of a table: its cells (paragraphs within one are parted by line breaks), and the line it stands on."""

    cells: tuple[str, ...]
    line: int


@dataclass(frozen=True)
class Block:
    """A part of a document, on the lines from `line` to `last` (from 1).

    `text` is without markup but for words in code face, which keep their backticks; the lines of a paragraph are
    parted by line breaks. `depth`: the level of a heading, else how far in it stands. `mark`: the number or bullet
    before an item. `term`: what an entry defines by its text. `strong`: words at the beginning that are set apart.
    A table is `headed` where its first row is set as its head.
    """

    kind: Kind
    text: str
    line: int
    last: int
    depth: int = 0
    mark: str = ""
    term: str = ""
    strong: str = ""
    rows: tuple[Row, ...] = ()
    headed: bool = False


_CODE = re.compile(r"(``?)(?=\S)([^`\n]+?)(?<=\S)\1")
_BOLD = re.compile(r"(\*\*)(?=\S)(.+?)(?<=\S)\1|(?<![\w|])(__)(?=[^\W_])(.+?)(?<=[^\W_])\3(?![\w|])")
_SLANTED = re.compile(r"(?<![\w*])([*_])(?=[^\s*_])([^*_\n]{1,200})(?<=[^\s*_])\1(?![\w*])")
_ESCAPED = re.compile(r"\\([!-/:-@\[-`{-~])")
_STRONG = re.compile(r"^(?:\*\*|__|``?)(?=\S)(?P<said>[^*`\n]{1,80}?)(?<=\S)(?:\*\*|__|``?)")


def plain(text: str) -> str:
    """A text without marks for bold and slanted words and without escapes; code face keeps its backticks."""
    if not any(sign in text for sign in "*_`\\"):
        return text
    text = _CODE.sub(r"`\2`", text)
    text = _SLANTED.sub(r"\2", _BOLD.sub(lambda found: found[2] or found[4], text))
    return _ESCAPED.sub(r"\1", text)


def strong_of(text: str) -> str:
    """The words at the beginning of a text that are set apart by its markup."""
    found = _STRONG.match(text)
    return _ESCAPED.sub(r"\1", found["said"]) if found else ""


def bare(text: str) -> str:
    """A text without the backticks of code face."""
    return text.replace("`", "")


def wide(rows: Iterable[Row]) -> int:
    """How many columns rows have at most."""
    return max((len(row.cells) for row in rows), default=0)
