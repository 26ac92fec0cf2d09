"""Documents of word processors in Office Open XML (.docx): as a reader sees them, with all changes accepted.

ECMA-376 part 1: 17.9 (numbering), 17.13.5 (changes), 17.4 (tables).
"""

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

_W = "{http://schemas.openxmlformats.org/wordprocessingml/2006/main}"
_MC = "{http://schemas.openxmlformats.org/markup-compatibility/2006}"
_GONE = frozenset(
    [f"{_W}del", f"{_W}moveFrom", f"{_W}instrText", f"{_W}delText", f"{_MC}Fallback", f"{_W}rPr", f"{_W}pPr"]
)
_LETTERS = {"tab": "\t", "br": "\n", "cr": "\n", "noBreakHyphen": "-", "softHyphen": "", "ptab": "\t"}
_INDENT_STEP = 280
"""Twentieths of a point that count as one step further in."""

Element = etree._Element


def text_of(path: Path, name: str, _watch: Watch = unwatched) -> str:
    """A .docx as plain text. Raises UnreadableFile or TooLarge."""
    document = part_of(path, name, "word/document.xml")
    body = document.find(f"{_W}body") if document is not None else None
    if body is None:
        raise UnreadableFile(
            "This is no document of a word processor.", remedy="Save it as .docx again.", where=Place(name)
        )
    styles = _Styles(part_of(path, name, "word/styles.xml"))
    numbering = _Numbering(part_of(path, name, "word/numbering.xml"))
    out = Neutral()
    _Writing(styles, numbering, out).blocks(body)
    return out.text()


def _val(node: Element | None, name: str = "val") -> str:
    return "" if node is None else (node.get(f"{_W}{name}") or "")


def _int(text: str, otherwise: int = 0) -> int:
    try:
        return int(float(text))
    except ValueError:
        return otherwise


class _Styles:
    """Styles of paragraphs: which are headings, and which number or indent their paragraphs."""

    def __init__(self, root: Element | None) -> None:
        self._by_id = {_val(style, "styleId"): style for style in root.iter(f"{_W}style")} if root is not None else {}

    def chain(self, id: str) -> Iterator[Element]:
        """A style and those it is based on."""
        seen: set[str] = set()
        while id in self._by_id and id not in seen:
            seen.add(id)
            style = self._by_id[id]
            yield style
            id = _val(style.find(f"{_W}basedOn"))

    def properties(self, paragraph: Element) -> list[Element]:
        """Where to look for a property of a paragraph, nearest first."""
        own = paragraph.find(f"{_W}pPr")
        id = _val(own.find(f"{_W}pStyle")) if own is not None else ""
        return [each for each in (own, *(style.find(f"{_W}pPr") for style in self.chain(id))) if each is not None]

    def level(self, paragraph: Element) -> int:
        """The level of a heading, from 1; 0 where it is none."""
        own = paragraph.find(f"{_W}pPr")
        id = _val(own.find(f"{_W}pStyle")) if own is not None else ""
        for style in self.chain(id):
            name = _val(style.find(f"{_W}name")).casefold()
            if name == "title":
                return 1
            if name.startswith("heading ") and (level := whole_number(name[8:])) is not None:
                return level + 1
        for properties in self.properties(paragraph):
            outline = properties.find(f"{_W}outlineLvl")
            if outline is not None and _int(_val(outline), 9) < 9:
                return _int(_val(outline)) + 2
        return 0


@dataclass
class _Level:
    """How one level of a list is numbered."""

    start: int = 1
    kind: str = "decimal"
    text: str = ""
    restart: int | None = None
    indent: int = 0


@dataclass
class _List:
    """The levels of a list, and how far each has counted."""

    levels: dict[int, _Level] = field(default_factory=dict)
    counts: dict[int, int] = field(default_factory=dict)


class _Numbering:
    """Numbers and bullets of paragraphs, as they are seen."""

    def __init__(self, root: Element | None) -> None:
        self._lists: dict[str, _List] = {}
        self._numbers: dict[str, _List] = {}
        if root is None:
            return
        for abstract in root.iter(f"{_W}abstractNum"):
            levels = {_int(_val(level, "ilvl")): _level(level) for level in abstract.iter(f"{_W}lvl")}
            self._lists[_val(abstract, "abstractNumId")] = _List(levels)
        for number in root.iter(f"{_W}num"):
            base = self._lists.get(_val(number.find(f"{_W}abstractNumId")), _List())
            changed = dict(base.levels)
            for override in number.iter(f"{_W}lvlOverride"):
                at = _int(_val(override, "ilvl"))
                own = override.find(f"{_W}lvl")
                level = _level(own) if own is not None else changed.get(at, _Level())
                start = override.find(f"{_W}startOverride")
                if start is not None:
                    level = _Level(_int(_val(start), 1), level.kind, level.text, level.restart, level.indent)
                changed[at] = level
            own_counts = bool(number.findall(f"{_W}lvlOverride"))
            self._numbers[_val(number, "numId")] = _List(changed, {} if own_counts else base.counts)

    def mark(self, id: str, at: int) -> tuple[str, int] | None:
        """The number or bullet of the next paragraph of a list at a level, and how far in it stands."""
        listed = self._numbers.get(id)
        level = listed.levels.get(at) if listed is not None else None
        if listed is None or level is None or level.kind == "none":
            return None
        if level.kind == "bullet":
            return "-", level.indent
        listed.counts[at] = listed.counts.get(at, level.start - 1) + 1
        for deeper in [other for other in listed.counts if other > at]:
            restart = listed.levels[deeper].restart if deeper in listed.levels else None
            if restart is None or at < restart:
                del listed.counts[deeper]
        text = level.text
        for other in range(9):
            if f"%{other + 1}" in text:
                of = listed.levels.get(other, level)
                text = text.replace(f"%{other + 1}", counted(listed.counts.get(other, of.start), of.kind))
        return text.strip(), level.indent


def _level(node: Element) -> _Level:
    restart = node.find(f"{_W}lvlRestart")
    indent = node.find(f"{_W}pPr/{_W}ind")
    return _Level(
        _int(_val(node.find(f"{_W}start")), 1),
        _val(node.find(f"{_W}numFmt")) or "decimal",
        _val(node.find(f"{_W}lvlText")),
        _int(_val(restart)) if restart is not None else None,
        _int(_val(indent, "left") or _val(indent, "start")),
    )


class _Writing:
    """Writes down the blocks of a body."""

    def __init__(self, styles: _Styles, numbering: _Numbering, out: Neutral) -> None:
        self._styles = styles
        self._numbering = numbering
        self._out = out

    def blocks(self, parent: Element) -> None:
        """Paragraphs and tables in their order; a paragraph whose end was deleted runs into the next."""
        held = ""
        for node in _children(parent):
            if node.tag == f"{_W}tbl":
                self._table(node)
            elif node.tag == f"{_W}p":
                if node.find(f"{_W}pPr/{_W}rPr/{_W}del") is not None:
                    held += "".join(_runs(node))
                    continue
                self._paragraph(node, held)
                held = ""
                for box in node.iter(f"{_W}txbxContent"):
                    if not any(each.tag == f"{_MC}Fallback" for each in box.iterancestors()):
                        self.blocks(box)

    def _paragraph(self, node: Element, held: str) -> None:
        text = held + "".join(_runs(node))
        level = self._styles.level(node)
        mark, indent = self._mark(node) if text.strip() else ("", 0)
        depth = max(0, round(indent / _INDENT_STEP))
        if level and text.strip():
            self._out.heading(level, f"{mark} {text}" if mark else text)
        elif mark and text.strip():
            self._out.item(mark, text, depth)
        elif text.strip():
            self._out.paragraph(self._run_in(node, text), depth)

    def _mark(self, node: Element) -> tuple[str, int]:
        """The number or bullet of a paragraph, and its indentation in twentieths of a point."""
        id = level = None
        indent: int | None = None
        for properties in self._styles.properties(node):
            number = properties.find(f"{_W}numPr")
            if number is not None and id is None and number.find(f"{_W}numId") is not None:
                id = _val(number.find(f"{_W}numId"))
                level = _int(_val(number.find(f"{_W}ilvl")))
            ind = properties.find(f"{_W}ind")
            if ind is not None and indent is None:
                left = _val(ind, "left") or _val(ind, "start")
                indent = _int(left) if left else None
        found = self._numbering.mark(id, level or 0) if id else None
        if found is None:
            return "", indent or 0
        return found[0], found[1] if indent is None else indent

    def _run_in(self, node: Element, text: str) -> str:
        """A paragraph that begins with a word in bold, which is set apart from what follows, keeps that."""
        bold = ""
        for run in node.iter(f"{_W}r"):
            said = "".join(_runs(run))
            on = run.find(f"{_W}rPr/{_W}b")
            if on is None or _val(on) in ("0", "false"):
                break
            bold += said
        bold = bold.rstrip()
        if any(map(str.isalnum, bold)) and len(bold) < len(text.rstrip()) and text.startswith(bold) and len(bold) < 60:
            return f"**{bold.strip()}**{text[len(bold) :]}"
        return text

    def _table(self, node: Element) -> None:
        rows: list[list[str]] = []
        for row in _children(node):
            if row.tag != f"{_W}tr" or row.find(f"{_W}trPr/{_W}del") is not None:
                continue
            before = row.find(f"{_W}trPr/{_W}gridBefore")
            cells = [""] * _int(_val(before))
            for cell in _children(row):
                if cell.tag != f"{_W}tc":
                    continue
                properties = cell.find(f"{_W}tcPr")
                span = _int(_val(properties.find(f"{_W}gridSpan")), 1) if properties is not None else 1
                merge = properties.find(f"{_W}vMerge") if properties is not None else None
                below = merge is not None and _val(merge) != "restart"
                cells += ["" if below else self._cell(cell), *[""] * (max(1, min(span, 64)) - 1)]
            rows.append(cells)
        self._out.table(rows)

    def _cell(self, node: Element) -> str:
        """What a cell says: its paragraphs, with their numbers, as lines."""
        lines = []
        for paragraph in node.iter(f"{_W}p"):
            text = "".join(_runs(paragraph)).strip()
            mark = self._mark(paragraph)[0] if text else ""
            if text:
                lines.append(f"{mark}\t{text}" if mark and mark != "-" else text)
        return "\n".join(lines)


def _children(node: Element) -> Iterator[Element]:
    """The blocks within an element, those within content controls and accepted insertions too."""
    for child in node:
        if child.tag in (f"{_W}sdt", f"{_W}ins", f"{_W}customXml", f"{_W}moveTo", f"{_W}smartTag"):
            inner = child.find(f"{_W}sdtContent") if child.tag == f"{_W}sdt" else child
            if inner is not None:
                yield from _children(inner)
        elif child.tag == f"{_MC}AlternateContent":
            choice = child.find(f"{_MC}Choice")
            if choice is not None:
                yield from _children(choice)
        elif child.tag not in _GONE:
            yield child


def _runs(node: Element) -> Iterator[str]:
    """What is read of a paragraph: without what was deleted, fields as they show, text boxes apart."""
    for child in node:
        if child.tag in _GONE or child.tag == f"{_W}txbxContent":
            continue
        if child.tag == f"{_W}t":
            yield child.text or ""
        elif child.tag == f"{_W}sym":
            yield "☐" if _val(child, "char").upper() in _BOXES else " "
        elif isinstance(child.tag, str) and child.tag.startswith(_W) and child.tag[len(_W) :] in _LETTERS:
            yield _LETTERS[child.tag[len(_W) :]]
        elif isinstance(child.tag, str):
            yield from _runs(child)


_BOXES = frozenset(["F0A8", "F06F", "F071", "F0FE", "F052", "00A8", "F0A3"])
"""Signs of symbol fonts that are boxes to tick."""
