"""A document as lines without their markup: bars, bullets and tags say how a text is set, not what it says."""

import html
import re
from collections.abc import Iterator
from dataclasses import dataclass, field

_QUOTES = str.maketrans("“”„«»‟″‘’‚‛`´", '"""""""' + "''''''")
_DASHES = str.maketrans("–—‐‑‒―−", "-------")

_ORNAMENT = re.compile(r"[\s\-=_*~#|+:.·•]*")
_BULLET = re.compile(r"(?:--?|[*+•‣◦▪]|o)\s+(?=\S)")
_NUMBERED = re.compile(r"(?:\d{1,3}[.)]|[ivx]{1,4}[.)])\s+(?=\S)")
_PAGE = re.compile(r"^[-\s]*(?:page|p\.)?\s*\d+\s*(?:(?:of|/)\s*\d+)?[-\s]*", re.I)
_PAGE_BEHIND = re.compile(r"\s{6,}page\s+\d+\s*$", re.I)
_COMMAND_LINE = re.compile(r"\\(?!item|code|emph|strong|bold|dfn|sQuote|dQuote|textit|textbf|texttt)[A-Za-z]+")
_ITEM = re.compile(r"\\item\s*(?:\{((?:[^{}]|\{[^{}]*\})*)\}\s*\{?|\[((?:[^\[\]])*)\]|)")
_COMMAND = re.compile(r"\\(?:[A-Za-z]+)\{([^{}]*)\}")
_TAG = re.compile(r"</?[A-Za-z][^<>]{0,200}>")
_CELL_END = re.compile(r"</t[dh]>", re.I)
_MARKUP = re.compile(r"[|*`<>&\\{}#~\t]|__|\bpage\s+\d+$|^o\s", re.I)
"""Signs that may be markup; a line without them, from its first letter on, is as it stands."""
_MARKED = re.compile(r"^(\*\*|__|``|`|\*|<code>|')(?=\S)(.{1,70}?)(?<=\S)\1(?P<behind>\s*:?)")
_EMPHASIS = re.compile(r"(\*\*|``|`|(?<!\w)__)(?=\S)(.+?)(?<=\S)\1")


MOST_READ = 4_000
"""Characters of the longest line that is read."""
RUN = 80
"""Times that a character is repeated at most: rules, leaders and blanks say no more when they are longer."""
_RUN = re.compile(rf"(.)\1{{{RUN},}}", re.S)


@dataclass(frozen=True)
class Line:
    """One line of a document, from 1, without its markup.

    `text` is as written; `plain` is the same in length with straight quotes and hyphens, for looking at.
    `cells` holds a table's row. `marked`: it begins with a word set apart by markup. `bullet`: it had one.
    `heading`, and lines that say nothing (`empty`: blank, rules, page numbers, commands of a layout).
    """

    number: int
    indent: int
    text: str
    plain: str = field(init=False)
    cells: tuple[str, ...] = ()
    marked: bool = False
    bullet: str = ""
    heading: bool = False
    empty: bool = False
    blank: bool = False
    unread: bool = False
    """Longer than any line that tells of variables: it is left as it is."""

    def __post_init__(self) -> None:
        object.__setattr__(self, "plain", flattened(self.text))


def flattened(text: str) -> str:
    """A text with straight quotes and hyphens, the same in length."""
    if text.isascii() and "`" not in text:
        return text
    return text.translate(_QUOTES).translate(_DASHES)


def shortened(text: str) -> str:
    """A text in which nothing is repeated more often than anybody means; expressions need not run through more."""
    return _RUN.sub(lambda found: found[1] * RUN, text) if len(text) > RUN else text


def lines_of(text: str) -> list[Line]:
    """All lines of a document."""
    raw = text.replace("\ufeff", "").replace("\r\n", "\n").replace("\r", "\n").replace("\f", "\n").split("\n")
    front = _front_matter(raw)
    out = []
    for number, line in enumerate(raw, 1):
        line = raw[number - 1] = shortened(line)
        if len(line) > MOST_READ:
            out.append(Line(number, 0, "", empty=True, unread=True))
        else:
            out.append(Line(number, 0, line.strip(), empty=True) if number <= front else _line(number, line))
    for at, line in enumerate(raw):
        if at and ("--" in line or "==" in line) and _RULER.fullmatch(line.expandtabs(8)):
            _split_table(out, raw, at)
    return out


_RULER = re.compile(r"\s*(?:[-=]{2,})(?:\s+[-=]{2,})+\s*")
"""A rule with gaps: it tells where the columns of a table set in blanks begin."""


def _split_table(lines: list[Line], raw: list[str], ruler: int) -> None:
    """Makes rows with cells of the lines above and below a ruler, up to a blank line or another one."""
    begins = [found.start() for found in re.finditer(r"[-=]{2,}", raw[ruler].expandtabs(8))]
    ends = [*begins[1:], None]
    for at in (ruler - 1, *range(ruler + 1, len(raw))):
        text = raw[at].expandtabs(8)
        if at > ruler and (not text.strip() or _RULER.fullmatch(text)):
            break
        if text.strip() and not any(text[begin - 1 : begin].strip() for begin in begins[1:] if begin <= len(text)):
            cells = tuple(text[begin:end].strip() for begin, end in zip(begins, ends, strict=True))
            lines[at] = Line(at + 1, 0, "\t".join(cells), cells=cells)


def _front_matter(raw: list[str]) -> int:
    """How many lines at the beginning tell about the document itself, between two rules."""
    if not raw or raw[0].strip() != "---":
        return 0
    ends = (number for number, line in enumerate(raw[1:60], 2) if line.strip() in ("---", "..."))
    end = next(ends, 0)
    return end if all(":" in line or line.startswith((" ", "-")) for line in raw[1 : end - 1] if line.strip()) else 0


def _line(number: int, raw: str) -> Line:
    expanded = raw.expandtabs(8)
    indent = len(expanded) - len(expanded.lstrip())
    body = raw.strip()
    if not body:
        return Line(number, indent, "", empty=True, blank=True)
    if (body[0].isalnum() or body[0] == "(") and not _MARKUP.search(body) and not _PAGE.fullmatch(body):
        return Line(number, indent, body)
    if _ORNAMENT.fullmatch(body) or body.startswith("```") or _PAGE.fullmatch(body):
        return Line(number, indent, body, empty=True)
    body = _PAGE_BEHIND.sub("", body)
    if body.startswith("%") or _COMMAND_LINE.match(body):
        return Line(number, indent, body, empty=True)
    marked, body = _uncommanded(body)
    if "<" in body:
        body = html.unescape(_TAG.sub("", _CELL_END.sub("\t", body))).strip()
    if "&" in body and ";" in body:
        body = html.unescape(body)
    cells = _cells(body)
    if cells:
        return Line(number, indent, "\t".join(cells), cells=cells)
    heading = bool(re.match(r"#{1,6}\s+\S", body))
    body = re.sub(r"^#{1,6}\s+|\s+#+$", "", body) if heading else body
    bullet = ""
    while found := _BULLET.match(body):
        indent += found.end()
        body, bullet = body[found.end() :], "-"
    if (found := _NUMBERED.match(body)) and _MARKED.match(body[found.end() :]):
        indent += found.end()
        body, bullet = body[found.end() :], "1"
    if found := _MARKED.match(body):
        marked = not found[2].endswith("?")  # a question is set apart as a whole, no name in it
        behind = ":" if found["behind"].strip() or found[2].endswith(":") else found["behind"]
        body = found[2].rstrip(":") + behind + body[found.end() :]
    if re.match(r":[A-Za-z][\w .-]*:\s", body):
        return Line(number, indent, body, empty=True)
    body = _EMPHASIS.sub(r"\2", body)
    return Line(number, indent, body.strip(), marked=marked, bullet=bullet, heading=heading, empty=not body.strip())


def _uncommanded(body: str) -> tuple[bool, str]:
    """A line without backslash commands and stray braces; whether it begins an item."""
    if "\\" not in body and not re.fullmatch(r"[{}\s]*", body):
        return False, body.removesuffix("}") if body.count("}") > body.count("{") else body
    marked = False
    if found := _ITEM.match(body):
        name = found[1] or found[2] or ""
        while _COMMAND.search(name):
            name = _COMMAND.sub(r"\1", name)
        body = f"{name.strip().rstrip(':')}: {body[found.end() :]}" if name else body[found.end() :]
        marked = True
    while _COMMAND.search(body):
        marked = marked or bool(re.match(r"\\code\{", body))
        body = _COMMAND.sub(r"\1", body)
    body = re.sub(r"\\(?=[%$&_#{}])", "", body).replace("\\cr", " ").replace("\\tab", "\t").replace("\\ldots", "…")
    while body.endswith("}") and body.count("}") > body.count("{"):
        body = body[:-1].rstrip()
    return marked, body.strip()


def _cells(body: str) -> tuple[str, ...]:
    """The cells of a table's row drawn with bars; none where it is no row."""
    if body.count("|") < 2:
        return ()
    cells = body.strip("|").split("|") if body.startswith("|") else body.split("|")
    found = tuple(_EMPHASIS.sub(r"\2", cell.strip()) for cell in cells)
    return found if any(found) else ()


def words_in(text: str) -> Iterator[str]:
    """The words of a text, without capitals."""
    return (found[0].casefold() for found in re.finditer(r"[^\W\d_]+(?:['’][^\W\d_]+)?", text))
