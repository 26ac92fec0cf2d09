"""Documents of word processors in OpenDocument (.odt): as a reader sees them; what was deleted is not in their text.

OASIS Open Document Format 1.3, part 3: 5.3 (lists), 5.5 (changes), 9 (tables), 16.31 (list levels).
"""

import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path

from lxml import etree

from rowtag.core.errors import Place, UnreadableFile
from rowtag.core.words import whole_number
from rowtag.documents.containers.neutral import Neutral
from rowtag.documents.containers.numbers import counted
from rowtag.documents.containers.packed import part_of
from rowtag.formats.table import Watch, unwatched

_NAMES = "urn:oasis:names:tc:opendocument:xmlns:"
_TEXT, _TABLE, _OFFICE, _STYLE = (f"{{{_NAMES}{each}:1.0}}" for each in ("text", "table", "office", "style"))
_FO = f"{{{_NAMES}xsl-fo-compatible:1.0}}"
_DRAW = f"{{{_NAMES}drawing:1.0}}"
_KINDS = {"1": "decimal", "a": "lowerLetter", "A": "upperLetter", "i": "lowerRoman", "I": "upperRoman"}
_UNSEEN = frozenset([f"{_TEXT}note", f"{_OFFICE}annotation", f"{_TEXT}tracked-changes", f"{_DRAW}frame"])
MOST_REPEATED = 64
"""Times that a cell is repeated at most."""

Element = etree._Element


def text_of(path: Path, name: str, _watch: Watch = unwatched) -> str:
    """An .odt as plain text. Raises UnreadableFile or TooLarge."""
    root = part_of(path, name, "content.xml")
    body = root.find(f"{_OFFICE}body/{_OFFICE}text") if root is not None else None
    if root is None or body is None:
        raise UnreadableFile(
            "This is no document of a word processor.", remedy="Save it as .odt again.", where=Place(name)
        )
    out = Neutral()
    _Writing([root, part_of(path, name, "styles.xml")], out).blocks(body)
    return out.text()


@dataclass
class _Counting:
    """How far a list has counted, level by level."""

    counts: dict[int, int] = field(default_factory=dict)


class _Writing:
    """Writes down the blocks of a text."""

    def __init__(self, roots: list[Element | None], out: Neutral) -> None:
        self._out = out
        there = [root for root in roots if root is not None]
        self._lists = {each.get(f"{_STYLE}name"): each for root in there for each in root.iter(f"{_TEXT}list-style")}
        self._styles = {each.get(f"{_STYLE}name"): each for root in there for each in root.iter(f"{_STYLE}style")}
        self._counting: dict[str, _Counting] = {}
        self._last: dict[str | None, _Counting] = {}

    def blocks(self, parent: Element) -> None:
        """Headings, paragraphs, lists and tables in their order."""
        for node in parent:
            if node.tag == f"{_TEXT}h":
                level = node.get(f"{_TEXT}outline-level") or "1"
                self._out.heading(whole_number(level) or 1, _said(node))
            elif node.tag == f"{_TEXT}p":
                self._out.paragraph(_said(node), self._depth(node))
                self._boxes(node)
            elif node.tag == f"{_TEXT}list":
                self._list(node, 0, node.get(f"{_TEXT}style-name"), self._counting_of(node))
                self._out.paragraph("")
            elif node.tag == f"{_TABLE}table":
                self._out.table(list(_rows(node)))
            elif node.tag in (f"{_TEXT}section", f"{_TEXT}index-body"):
                self.blocks(node)

    def _boxes(self, node: Element) -> None:
        for box in node.iter(f"{_DRAW}text-box"):
            self.blocks(box)

    def _depth(self, node: Element) -> int:
        style = self._styles.get(node.get(f"{_TEXT}style-name"))
        properties = style.find(f"{_STYLE}paragraph-properties") if style is not None else None
        margin = (properties.get(f"{_FO}margin-left") or "") if properties is not None else ""
        found = re.match(r"([\d.]{1,12})(cm|mm|in|pt)", margin)
        step = {"cm": 0.5, "mm": 5.0, "in": 0.2, "pt": 14.0}
        return round(float(found[1]) / step[found[2]]) if found else 0

    def _counting_of(self, node: Element) -> _Counting:
        """The counting that a list goes on with, or its own."""
        id = node.get("{http://www.w3.org/XML/1998/namespace}id") or ""
        before = node.get(f"{_TEXT}continue-list")
        style = node.get(f"{_TEXT}style-name")
        if before and before in self._counting:
            counting = self._counting[before]
        elif node.get(f"{_TEXT}continue-numbering") == "true" and style in self._last:
            counting = self._last[style]
        else:
            counting = _Counting()
        self._counting[id] = self._last[style] = counting
        return counting

    def _list(self, node: Element, level: int, style: str | None, counting: _Counting) -> None:
        own = node.get(f"{_TEXT}style-name") or style
        counting.counts.pop(level + 1, None)
        for item in node:
            if item.tag not in (f"{_TEXT}list-item", f"{_TEXT}list-header"):
                continue
            numbered = item.tag == f"{_TEXT}list-item"
            for child in item:
                if child.tag in (f"{_TEXT}p", f"{_TEXT}h"):
                    mark = self._mark(own, level, counting, item.get(f"{_TEXT}start-value")) if numbered else ""
                    text = _said(child)
                    if mark and text.strip():
                        self._out.item(mark, text, level + 1)
                    else:
                        self._out.paragraph(text, level + 2)
                    numbered = False
                    self._boxes(child)
                elif child.tag == f"{_TEXT}list":
                    deeper = child.get(f"{_TEXT}style-name")
                    counting.counts.pop(level + 1, None)
                    self._list(child, level + 1, deeper or own, counting)

    def _mark(self, style: str | None, level: int, counting: _Counting, start: str | None) -> str:
        """The number or bullet of the next item at a level."""
        found = self._lists.get(style or "")
        levels = {} if found is None else {each.get(f"{_TEXT}level"): each for each in found}
        one = levels.get(str(level + 1))
        kind = _KINDS.get(one.get(f"{_STYLE}num-format") or "") if one is not None else None
        if one is None or kind is None or not str(one.tag).endswith("number"):
            return "-"
        first = start or one.get(f"{_TEXT}start-value") or "1"
        if start or level not in counting.counts:
            counting.counts[level] = (1 if (begin := whole_number(first)) is None else begin) - 1
        counting.counts[level] += 1
        return (
            (one.get(f"{_STYLE}num-prefix") or "")
            + counted(counting.counts[level], kind)
            + (one.get(f"{_STYLE}num-suffix") or "")
        ).strip()


def _rows(table: Element) -> Iterator[list[str]]:
    for row in _direct_rows(table):
        cells: list[str] = []
        for cell in row:
            if cell.tag not in (f"{_TABLE}table-cell", f"{_TABLE}covered-table-cell"):
                continue
            repeated = cell.get(f"{_TABLE}number-columns-repeated") or "1"
            text = "\n".join(_said(part) for part in cell.iter(f"{_TEXT}p", f"{_TEXT}h"))
            covered = cell.tag == f"{_TABLE}covered-table-cell"
            cells += ["" if covered else text] * min(whole_number(repeated) or 1, MOST_REPEATED)
        yield cells


def _direct_rows(table: Element) -> Iterator[Element]:
    """The rows of a table, not those of tables within its cells."""
    for child in table:
        if child.tag == f"{_TABLE}table-row":
            yield child
        elif child.tag in (f"{_TABLE}table-header-rows", f"{_TABLE}table-rows", f"{_TABLE}table-row-group"):
            yield from _direct_rows(child)


def _said(node: Element) -> str:
    """What is read of a paragraph."""
    out = [node.text or ""]
    for child in node:
        if child.tag == f"{_TEXT}s":
            count = child.get(f"{_TEXT}c") or "1"
            out.append(" " * min(whole_number(count) or 1, 80))
        elif child.tag == f"{_TEXT}tab":
            out.append("\t")
        elif child.tag == f"{_TEXT}line-break":
            out.append("\n")
        elif child.tag not in _UNSEEN and isinstance(child.tag, str):
            out.append(_said(child))
        out.append(child.tail or "")
    return "".join(out)
