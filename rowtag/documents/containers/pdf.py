"""Pages (.pdf with a text layer): lines, paragraphs, columns and tables found by where words stand on them."""

import logging
import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from statistics import median
from typing import Any

import pdfplumber
from pdfminer.layout import LTChar
from pdfminer.pdfdocument import PDFPasswordIncorrect
from pdfplumber.utils.exceptions import MalformedPDFException, PdfminerException

from rowtag.core.errors import Place, TooLarge, UnreadableFile
from rowtag.documents.containers.neutral import Neutral
from rowtag.formats.table import Watch, unwatched

MOST_PAGES = 1_000
"""Pages that are read."""
logging.getLogger("pdfminer").setLevel(logging.ERROR)  # what it meets on the way concerns nobody
_BROKEN = (
    PDFPasswordIncorrect, PdfminerException, MalformedPDFException, ValueError, LookupError, TypeError, AttributeError,
    RecursionError, OSError,
)  # fmt: skip
"""What reading a damaged document raises."""
_EDGE = 0.12
"""Share of a page's height at its top and foot where heads and feet stand."""
_SAME = 2.5
"""Points that words of one line differ in height at most."""


@dataclass
class _Line:
    """A line of words on a page, with where it stands (points), its size, and what of its begin is bold."""

    words: list[dict[str, Any]]
    table: list[list[str]] | None = None

    def __post_init__(self) -> None:
        self.left = min(word["x0"] for word in self.words) if self.words else 0.0
        self.right = max(word["x1"] for word in self.words) if self.words else 0.0
        self.top = min(word["top"] for word in self.words) if self.words else 0.0
        self.bottom = max(word["bottom"] for word in self.words) if self.words else 0.0
        self.size = median(word["size"] for word in self.words) if self.words else 0.0

    @property
    def text(self) -> str:
        """Its words; a wide gap between two is a tab."""
        out = ""
        for before, word in zip([None, *self.words], self.words, strict=False):
            if before is not None:
                out += "\t" if word["x0"] - before["x1"] > 2.2 * self.size else " "
            out += word["text"]
        return out

    @property
    def bold(self) -> str:
        """The words at its begin that are set in bold."""
        said = []
        for word in self.words:
            if not _is_bold(word):
                break
            said.append(word["text"])
        return " ".join(said)


def text_of(path: Path, name: str, watch: Watch = unwatched) -> str:
    """A .pdf as plain text. Raises UnreadableFile where it is locked, damaged or has no text, TooLarge, and Cancelled
    where `watch`, which is told how far it is, raises that."""
    return _written_down(_pages_of(path, name, watch), name)


def first_page(path: Path, name: str) -> str:
    """The first page of a .pdf as plain text; nothing where it has only one. Raises what `text_of` raises."""
    pages = _pages_of(path, name, unwatched, only_first=True)
    return _written_down(pages, name) if pages and any(lines for lines, _ in pages) else ""


_Page = tuple[list[_Line], float]
"""The lines of a page, and its height."""


def _pages_of(path: Path, name: str, watch: Watch, *, only_first: bool = False) -> list[_Page]:
    """The lines of all pages, or of the first of several."""
    out: list[_Page] = []
    try:
        with pdfplumber.open(path) as document:
            count = len(document.pages)
            if count > MOST_PAGES:
                raise TooLarge(
                    f"The document has {count:,} pages; up to {MOST_PAGES:,} are read.",
                    remedy="Give the pages that describe the variables.",
                    where=Place(name),
                )
            for number, page in enumerate(document.pages[: 1 if only_first else count] if count > only_first else []):
                watch(number / count, f"page {number + 1:,} of {count:,}")
                out.append(_page(page))
    except _BROKEN as error:
        locked = "Password" in repr(error)
        raise UnreadableFile(
            "The document is locked with a password." if locked else "The document is damaged.",
            remedy="Save it without a password." if locked else "Open it where it was made, and save it again.",
            where=Place(name),
        ) from error
    return out


def _written_down(pages: Sequence[_Page], name: str) -> str:
    """Pages as plain text: heads and feet left out, each behind a line with its number."""
    if not any(lines for lines, _ in pages):
        raise UnreadableFile(
            "The pages hold pictures of text, no text.",
            remedy="Give the document that they were printed from, or one in which a program has recognised the text.",
            where=Place(name),
        )
    out = Neutral()
    repeated = _heads_and_feet(pages)
    sizes = Counter(round(line.size, 1) for lines, _ in pages for line in lines for _ in line.words)
    body = sizes.most_common(1)[0][0]
    for number, (lines, height) in enumerate(pages, 1):
        kept = [line for line in lines if not (_at_edge(line, height) and _key(line) in repeated)]
        if number > 1:
            out.page(number)
        _write(kept, out, body)
    return out.text()


def _placed(page: Any, item: Any) -> dict[str, Any]:
    """What is on a page, with its place there. Of the many characters only what is looked at is told: all else that
    the package tells of each takes longer than the rest of reading."""
    if not isinstance(item, LTChar):
        placed: dict[str, Any] = type(page).process_object(page, item)
        return placed
    left, above = page.mediabox[:2]
    top, bottom = page.height - item.y1 + above, page.height - item.y0 + above
    font = item.fontname.decode("latin-1") if isinstance(item.fontname, bytes) else item.fontname
    return {
        "object_type": "char", "text": item.get_text(), "fontname": font, "size": item.size, "upright": item.upright,
        "x0": item.x0 + left, "x1": item.x1 + left, "y0": item.y0, "y1": item.y1, "top": top, "bottom": bottom,
        "doctop": page.initial_doctop + top, "width": item.width, "height": item.height, "matrix": item.matrix,
    }  # fmt: skip


def _page(page: Any) -> _Page:
    """The lines of a page in the order of reading; a table is a line of its own."""
    page.process_object = partial(_placed, page)
    words = page.extract_words(
        x_tolerance_ratio=0.15, keep_blank_chars=False, use_text_flow=False, extra_attrs=["fontname", "size"]
    )
    tables = [table for table in _tables(page) if len(table.rows) > 1 and len(table.rows[0].cells) > 1]
    out: list[_Line] = []
    inside: set[int] = set()
    for table in tables:
        rows = []
        for row in table.rows:
            cells = []
            boxes = [row.bbox] if _spans(page, row.bbox) else row.cells
            for box in boxes:
                within = [word for word in words if box and _in(word, box)]
                inside.update(map(id, within))
                cells.append("\n".join(_cell_lines(within)))
            rows.append(cells)
        x0, top, x1, bottom = table.bbox
        place = {"x0": x0, "x1": x1, "top": top, "bottom": bottom, "size": 0.0, "text": "", "fontname": ""}
        out.append(_Line([place], table=rows))
    rest = [word for word in words if id(word) not in inside]
    for column in _columns(rest, page.width):
        out += _lines(column)
    gutter = len(_columns(rest, page.width)) > 1
    page.close()
    return (out if gutter else sorted(out, key=lambda line: (line.top, line.left))), page.height


def _tables(page: Any) -> list[Any]:
    """The ruled tables of a page. Where only rows are ruled, the rules' pieces tell where columns begin."""
    rows: dict[int, set[int]] = {}
    for line in page.lines:
        if abs(line["top"] - line["bottom"]) < 1 and line["x1"] - line["x0"] > 5:
            rows.setdefault(round(line["top"]), set()).update((round(line["x0"]), round(line["x1"])))
    shapes = Counter(tuple(sorted(ends)) for ends in rows.values() if len(ends) > 2)
    upright = any(abs(line["x0"] - line["x1"]) < 1 for line in page.lines)
    if shapes and not upright:
        ends, count = shapes.most_common(1)[0]
        if count > 2:
            told = {"vertical_strategy": "explicit", "explicit_vertical_lines": list(ends)}
            return list(page.find_tables({**told, "horizontal_strategy": "lines"}))
    return list(page.find_tables())


def _spans(page: Any, box: tuple[float, float, float, float]) -> bool:
    """Whether a row is set on one ground from its begin to its end: a heading within a table."""
    for rect in page.rects:
        edges = rect["x0"], rect["top"], rect["x1"], rect["bottom"]
        if all(abs(edge - side) < 3 for edge, side in zip(edges, box, strict=True)):
            return True
    return False


def _in(word: dict[str, Any], box: tuple[float, float, float, float]) -> bool:
    across, down = float(word["x0"] + word["x1"]) / 2, float(word["top"] + word["bottom"]) / 2
    return box[0] <= across <= box[2] and box[1] <= down <= box[3]


def _cell_lines(words: Sequence[dict[str, Any]]) -> list[str]:
    """What a cell says; lines that only wrapped are put together, parted words too."""
    lines = [line.text.replace("\t", " ") for line in _lines(words)]
    joined: list[str] = []
    for line in lines:
        if joined and not _begins_apart(line):
            joined[-1] = _together(joined[-1], line)
        else:
            joined.append(line)
    return joined


_APART = re.compile(r"(?:[-+]?\d+\*?\s*[=:.)]|[•□☐○-]\s|\(\d+\)$)")


def _begins_apart(line: str) -> bool:
    """Whether a line of a cell begins something new: a code with its sign, a bullet."""
    return bool(_APART.match(line))


def _columns(words: Sequence[dict[str, Any]], width: float) -> list[list[dict[str, Any]]]:
    """The words of one column, or of two where a gutter runs down the page between most lines."""
    lines = _lines(words)
    if len(lines) < 20:
        return [list(words)]
    for middle in (width * share / 100 for share in range(42, 59, 2)):
        crossing = sum(any(word["x0"] < middle < word["x1"] for word in line.words) for line in lines)
        spaced = sum(
            any(
                b["x0"] - a["x1"] > 8 and a["x1"] < middle + 4 and b["x0"] > middle - 4
                for a, b in zip(line.words, line.words[1:], strict=False)
            )
            for line in lines
        )
        if crossing < 0.06 * len(lines) and spaced > 0.5 * len(lines):
            left = [word for word in words if word["x1"] <= middle]
            chosen = set(map(id, left))
            return [left, [word for word in words if id(word) not in chosen]]
    return [list(words)]


def _lines(words: Sequence[dict[str, Any]]) -> list[_Line]:
    """Words on one height make a line, from left to right."""
    rows: list[list[dict[str, Any]]] = []
    for word in sorted(words, key=lambda word: (word["bottom"], word["x0"])):
        if rows and abs(rows[-1][0]["bottom"] - word["bottom"]) <= _SAME:
            rows[-1].append(word)
        else:
            rows.append([word])
    return [_Line(sorted(row, key=lambda word: word["x0"])) for row in rows]


def _is_bold(word: dict[str, Any]) -> bool:
    return bool(re.search(r"bold|black|heavy|demi|-bd|cmbx|sfbx|bx\d|medi", word["fontname"], re.I))


def _at_edge(line: _Line, height: float) -> bool:
    return line.bottom < height * _EDGE or line.top > height * (1 - _EDGE)


def _key(line: _Line) -> str:
    return re.sub(r"\d+", "#", " ".join(sorted(line.text.split())))


def _heads_and_feet(pages: Sequence[tuple[list[_Line], float]]) -> set[str]:
    """Lines at the edges that most pages have alike, numbers aside."""
    seen = Counter(key for lines, height in pages for key in {_key(line) for line in lines if _at_edge(line, height)})
    return {
        key
        for key, count in seen.items()
        if (key and count > max(1, 0.4 * len(pages))) or ("#" in key and not re.search(r"\w", key))
    }


def _write(lines: Sequence[_Line], out: Neutral, body: float) -> None:
    """Writes down headings, tables and paragraphs; lines that only wrapped are put together."""
    right = max((line.right for line in lines if line.table is None), default=0.0)
    held: list[_Line] = []
    for line in [*lines, None]:
        if line is not None and held and _goes_on(held, line, right):
            held.append(line)
            continue
        _flush(held, out, body, lines)
        held = []
        if line is not None and line.table is not None:
            out.table(line.table)
        elif line is not None:
            held = [line]


def _goes_on(held: Sequence[_Line], line: _Line, right: float) -> bool:
    """Whether a line goes on with the paragraph above it: that one was full, and this begins nothing new."""
    last = held[-1]
    if line.table is not None or last.table is not None:
        return False
    close = line.top - last.bottom < 0.75 * last.size and abs(line.size - last.size) < 1.0
    if not close or _BEGINS.match(line.text):
        return False
    bold_differs = bool(line.bold) and last.bold != last.text
    if bold_differs and line.bold != line.text:
        return False
    if (line.bold == line.text) != (last.bold == last.text):
        return False
    first_word = line.words[0]["x1"] - line.words[0]["x0"]
    full = last.right + first_word + 0.3 * last.size > right - 0.5 * last.size or last.text.endswith(("-", ",", "="))
    hanging = len(held) > 1 or line.left >= held[0].left - 1
    return full and hanging and (len(held) == 1 or abs(line.left - held[-1].left) < 3 * last.size)


_BEGINS = re.compile(r"(?:[□☐○•◦▪]|[A-Z]{0,3}\d{1,3}[.)]\s|[a-z]\)\s|_{2,})")


def _flush(held: Sequence[_Line], out: Neutral, body: float, lines: Sequence[_Line]) -> None:
    if not held:
        return
    text = held[0].text
    for line in held[1:]:
        text = _together(text, line.text)
    first = held[0]
    large = first.size > 1.12 * body
    if (large or first.bold == first.text) and len(held) <= 2 and len(text) < 120 and any(map(str.isalpha, text)):
        out.heading(2 if large else 3, text.replace("\t", " "))
        return
    if first.bold and first.bold != first.text:
        text = f"**{first.bold}**{text[len(first.bold) :]}"
    margin = min((line.left for line in lines if line.table is None), default=0.0)
    depth = max(0, round((first.left - margin) / 12))
    out.paragraph(text, depth)


def _together(text: str, more: str) -> str:
    """Two lines as one; a word parted at the end of the first is whole again."""
    if re.search(r"[^\W\d]-$", text) and more[:1].islower() and not re.search(r"\s(?:\w+)-$", text[-3:]):
        return text[:-1] + more
    return f"{text} {more}"
