"""Text set with backslash commands as blocks: sections, lists of terms, tables, as they are written before printing.

Two ways are read: commands with all they hold in braces, and environments between `\\begin` and `\\end`.
"""

import re
from collections.abc import Sequence
from dataclasses import dataclass, field

from rowtag.documents.blocks import Block, Row
from rowtag.documents.lines import words_in

DEEPEST = 40
"""Braces within one another that are read."""
_TOKEN = re.compile(r"\\[A-Za-z]+\*?|\\.|[{}]|%[^\n]*|[^\\{}%]+", re.S)
_COMMAND = re.compile(r"\\(?:item|describe|begin|code|tabular|section|title|format)\b")
_SIGNS = {
    "\\dots": "…",
    "\\ldots": "…",
    "\\textasciitilde": "~",
    "\\le": "≤",
    "\\ge": "≥",
    "\\cr": "\n",
    "\\tab": "\t",
}
_UNSAID = frozenset(
    ["name", "alias", "keyword", "docType", "encoding", "concept", "label", "vspace", "hspace", "includegraphics"]
)
_CODE = frozenset(["code", "texttt", "verb", "samp", "kbd", "option", "file", "var", "env", "pkg", "command"])
_QUOTED = {"dQuote": "“”", "sQuote": "‘’"}
_LISTS = frozenset(["describe", "itemize", "enumerate", "description"])
_SECOND = frozenset(["href", "eqn", "deqn", "textcolor", "method", "S3method"])
"""Commands of which the last braces hold what is seen."""
_TABLES = frozenset(["tabular", "longtable", "tabularx"])


@dataclass
class _Group:
    """What a pair of braces, or a command with its braces, holds: texts and groups, and the line it begins on."""

    name: str
    line: int
    parts: list["str | _Group"] = field(default_factory=list)
    option: str = ""


def is_set_with_commands(text: str) -> bool:
    """Whether a text is written with backslash commands throughout."""
    return len(_COMMAND.findall(text[:200_000])) >= 3


def blocks_of_commands(text: str) -> list[Block]:
    """The blocks of a text with backslash commands."""
    out: list[Block] = []
    _blocks(_parsed(text).parts, out, 0)
    return out


def _parsed(text: str) -> _Group:
    """The commands of a text, nested as their braces are. Braces that close nothing are left out."""
    root = _Group("", 1)
    open_groups = [root]
    line = 1
    command: _Group | None = None  # the command that the next braces belong to
    beyond = 0  # braces deeper than any that anybody means: what they hold is read as if they were not there
    for token in _TOKEN.findall(text):
        here = open_groups[-1]
        if token == "{" and len(open_groups) > DEEPEST:
            beyond += 1
        elif token == "}" and beyond:
            beyond -= 1
        elif token == "{":
            group = _Group("{", line)
            (command.parts if command is not None else here.parts).append(group)
            open_groups.append(group)
        elif token == "}":
            if len(open_groups) > 1:
                open_groups.pop()
                command = _last_command(open_groups[-1])
        elif token[0] == "\\" and len(token) > 1 and token[1].isalpha():
            command = _Group(token[1:].rstrip("*"), line)
            here.parts.append(command)
        elif token[0] == "%":
            pass
        elif token[0] == "\\":
            here.parts.append("\n" if token == "\\\\" else token[1:])
            command = None
        else:
            rest = token
            if command is not None and not rest.strip() and "\n\n" not in rest:
                here.parts.append(rest)
                line += token.count("\n")
                continue
            if command is not None and command.name == "item" and (found := re.match(r"\s*\[([^\]\n]*)\]", rest)):
                command.option, rest = found[1], rest[found.end() :]
            if rest.strip():
                command = None
            here.parts.append(rest)
        line += token.count("\n")
    return root


def _last_command(group: _Group) -> _Group | None:
    """The command whose braces were closed just now: more may follow."""
    last = group.parts[-1] if group.parts else None
    return last if isinstance(last, _Group) and last.name != "{" else None


def _blocks(parts: Sequence["str | _Group"], out: list[Block], depth: int) -> None:
    """Adds the blocks of some parts; running text between them becomes paragraphs."""
    running: list[str | _Group] = []
    at = 0
    while at < len(parts):
        part = parts[at]
        at += 1
        if isinstance(part, str) or not _is_block(part):
            running.append(part)
            continue
        _paragraphs(running, out, depth)
        running = []
        if part.name in ("begin", "end"):
            at = _environment(parts, at, part, out, depth)
        elif part.name in _LISTS:
            _items(part.parts, out, depth + 1)
        elif part.name in _TABLES:
            out += _table(part.parts[-1:], part.line, depth)
        elif part.name == "item":
            at = _item(parts, at, part, out, depth)
        elif part.name not in _UNSAID:
            _section(part, out, depth)
    _paragraphs(running, out, depth)


def _is_block(part: _Group) -> bool:
    return (
        part.name in _LISTS
        or part.name in _TABLES
        or part.name in _UNSAID
        or part.name in ("begin", "end", "item")
        or part.name in _SECTIONS
    )


_SECTIONS = frozenset(
    words_in(
        """
        title section subsection subsubsection chapter paragraph format description details usage arguments value
        note source references examples seealso author
        """
    )
)


def _section(part: _Group, out: list[Block], depth: int) -> None:
    """`\\format{…}` is a section of this name; `\\section{Title}{…}` says its title first."""
    groups = [each for each in part.parts if isinstance(each, _Group)]
    if not groups:
        return
    titled = part.name in ("title", "section", "subsection", "subsubsection", "chapter", "paragraph")
    level = {"title": 1, "chapter": 1, "section": 2}.get(part.name, 3)
    title = _said(groups[0].parts) if titled else part.name.capitalize()
    out.append(Block("heading", " ".join(title.split()), part.line, part.line, depth=level))
    for group in groups[1:] if titled else groups:
        _blocks(group.parts, out, depth)


def _environment(parts: Sequence["str | _Group"], at: int, part: _Group, out: list[Block], depth: int) -> int:
    """`\\begin{…} … \\end{…}`; gives where it ends."""
    name = _said(part.parts).strip("{} ")
    if part.name == "end" or depth > DEEPEST:
        return at
    inner: list[str | _Group] = []
    nested = 1
    while at < len(parts):
        each = parts[at]
        at += 1
        if isinstance(each, _Group) and each.name in ("begin", "end") and _said(each.parts).strip("{} ") == name:
            nested += 1 if each.name == "begin" else -1
            if not nested:
                break
        inner.append(each)
    if name in _LISTS:
        _items(inner, out, depth + 1)
    elif name in _TABLES:
        out += _table([_Group("{", part.line, list(inner))], part.line, depth, parted="&")
    else:
        _blocks(inner, out, depth + 1)
    return at


def _items(parts: Sequence["str | _Group"], out: list[Block], depth: int) -> None:
    groups = [part for part in parts if isinstance(part, _Group)]
    inner = groups[0].parts if len(groups) == 1 and groups[0].name == "{" else parts
    _blocks(inner, out, depth)


def _item(parts: Sequence["str | _Group"], at: int, part: _Group, out: list[Block], depth: int) -> int:
    """`\\item{term}{meaning}`, `\\item[term] meaning`, `\\item text` up to the next item."""
    groups = [each for each in part.parts if isinstance(each, _Group)]
    if len(groups) >= 2:
        _entry(part, groups[0].parts, groups[1].parts, out, depth)
        return at
    inner: list[str | _Group] = []
    while at < len(parts):
        each = parts[at]
        if isinstance(each, _Group) and each.name == "item":
            break
        inner.append(each)
        at += 1
    if part.option or groups:
        _entry(part, [part.option] if part.option else groups[0].parts, inner, out, depth)
    else:
        text = _tidy(_said(inner))
        out.append(Block("item", text, part.line, part.line + text.count("\n"), depth=depth, mark="-"))
    return at


def _entry(
    part: _Group, term: Sequence["str | _Group"], meaning: Sequence["str | _Group"], out: list[Block], depth: int
) -> None:
    text = _tidy(_said(meaning))
    last = part.line + sum(_lines(each) for each in meaning)
    out.append(Block("entry", text, part.line, last, depth=depth, term=_tidy(_said(term)), strong=_tidy(_said(term))))


def _lines(part: "str | _Group") -> int:
    return part.count("\n") if isinstance(part, str) else sum(map(_lines, part.parts))


def _table(parts: Sequence["str | _Group"], line: int, depth: int, parted: str = "\t") -> list[Block]:
    rows = []
    body = "".join(_said(part.parts) if isinstance(part, _Group) else part for part in parts)
    here = line
    for text in body.split("\v"):  # the sign for the end of a row
        cells = tuple(" ".join(cell.split()) for cell in text.split(parted))
        if any(cells):
            rows.append(Row(cells, here + len(text[: len(text) - len(text.lstrip())].split("\n")) - 1))
        here += text.count("\n")
    return [Block("table", "", line, line + body.count("\n"), depth=depth, rows=tuple(rows))] if rows else []


def _paragraphs(parts: Sequence["str | _Group"], out: list[Block], depth: int) -> None:
    if not parts:
        return
    line = next((part.line for part in parts if isinstance(part, _Group)), None)
    text = _said(parts)
    for paragraph in re.split(r"\n\s*\n", text):
        if tidy := _tidy(paragraph):
            out.append(Block("text", tidy, line or _near(out), line or _near(out), depth=depth))


def _near(out: Sequence[Block]) -> int:
    return out[-1].last if out else 1


def _said(parts: Sequence["str | _Group"]) -> str:
    """What parts say in running text; words in code face keep backticks, ends of rows are marked."""
    return "".join(_one(part) for part in parts)


def _one(part: "str | _Group") -> str:
    if isinstance(part, str):
        return part
    if part.name == "cr":
        return "\v" + _said(part.parts)
    sign = _SIGNS.get(f"\\{part.name}")
    if sign is not None:
        return sign + _said([each for each in part.parts if isinstance(each, str)])
    if part.name in _UNSAID:
        return ""
    groups = [each for each in part.parts if isinstance(each, _Group)]
    if part.name == "{":
        return _said(part.parts)
    if part.name in _TABLES:
        rows = _table(part.parts[-1:], part.line, 0)
        return "\n" + "\n".join("\t".join(filter(None, row.cells)) for block in rows for row in block.rows) + "\n"
    if part.name == "item":
        return "\n" + " ".join(_said(group.parts) for group in groups)
    said = _said(groups[-1].parts) if groups and part.name in _SECOND else "".join(_said(g.parts) for g in groups)
    if part.name in _CODE:
        return f"`{said.strip()}`" if said.strip() and "`" not in said else said
    if part.name in _QUOTED:
        return f"{_QUOTED[part.name][0]}{said}{_QUOTED[part.name][1]}"
    return said


def _tidy(text: str) -> str:
    lines = (" ".join(line.split(" ")).strip(" \v") for line in text.replace("\v", "\n").strip().split("\n"))
    return "\n".join(line for line in lines if line.strip())
