"""The plain text that all kinds of documents are written as: headings, items, entries and tables by the signs that
people use for them in plain text, so that it can be kept, shown and read without the file it came from.

    ## Heading                       level by the number of signs
    - item, 3.<tab>item             the number or bullet as a reader sees it, two blanks further in for each level
    **term** / : meaning            an entry: a term, its meaning below
    | cell | cell |                 a table; cells of several paragraphs with <br>, a rule below its head
"""

import re
from collections.abc import Sequence
from dataclasses import dataclass, field

_BLANKS = re.compile(r"[ \t\u00a0\u2002-\u200a\u202f]+")


@dataclass
class Neutral:
    """A document as it is written down."""

    lines: list[str] = field(default_factory=list)

    def heading(self, level: int, text: str) -> None:
        """A heading; level 1 is the title."""
        if said := one_line(text):
            self._apart()
            self.lines += [f"{'#' * min(max(level, 1), 6)} {said}", ""]

    def paragraph(self, text: str, depth: int = 0) -> None:
        """A paragraph; line breaks within it stay."""
        self._apart()
        for line in text.split("\n"):
            if said := _tabbed(line):
                self.lines.append(f"{'  ' * depth}{said}")
        self._apart()

    def item(self, mark: str, text: str, depth: int = 0) -> None:
        """An item of a list, with its number or bullet as it is seen."""
        lines = [line for line in map(_tabbed, text.split("\n")) if line]
        if lines:
            begin = "  " * depth
            self.lines.append(f"{begin}{mark}\t{lines[0]}" if mark not in "-•" else f"{begin}- {lines[0]}")
            self.lines += [f"{begin}    {line}" for line in lines[1:]]

    def entry(self, term: str, text: str) -> None:
        """A term and its meaning, of one line or several."""
        lines = [line for line in map(_tabbed, text.split("\n")) if line]
        if term.strip():
            self._apart()
            self.lines.append(f"**{one_line(term)}**")
            self.lines += [f": {line}" if number == 0 else f"    {line}" for number, line in enumerate(lines or [""])]
            self._apart()

    def table(self, rows: Sequence[Sequence[str]], *, headed: bool = True) -> None:
        """A table; cells that belong to one above are blank."""
        kept = [row for row in rows if any(cell.strip() for cell in row)]
        width = max((len(row) for row in kept), default=0)
        if not kept or not width:
            return
        self._apart()
        if not headed:
            kept = [[""] * width, *kept]
        for number, row in enumerate(kept):
            cells = [_cell(cell) for cell in row] + [""] * (width - len(row))
            self.lines.append(f"| {' | '.join(cells)} |")
            if number == 0:
                self.lines.append("|" + "---|" * width)
        self._apart()

    def page(self, number: int) -> None:
        """Where a page begins."""
        self._apart()
        self.lines += [f"--- page {number} ---", ""]

    def text(self) -> str:
        """The whole document."""
        return re.sub(r"\n{3,}", "\n\n", "\n".join(self.lines)).strip("\n") + "\n"

    def _apart(self) -> None:
        if self.lines and self.lines[-1]:
            self.lines.append("")


def one_line(text: str) -> str:
    """A text on one line, with single blanks."""
    return " ".join(text.split())


def _tabbed(line: str) -> str:
    """A line with single blanks; tabs, which part columns, stay."""
    return "\t".join(_BLANKS.sub(" ", part).strip() for part in line.split("\t")).strip("\n ").rstrip("\t")


def _cell(text: str) -> str:
    lines = [one_line(line) for line in text.split("\n")]
    return "<br>".join(line for line in lines if line).replace("|", "\\|")
