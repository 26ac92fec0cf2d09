"""Codebooks as files, whatever they are: codebook text, prose, tables, workbooks, metadata in open standards."""

import re
from collections import Counter
from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace
from importlib import import_module
from pathlib import Path
from types import MappingProxyType
from typing import Any, get_args

from rowtag.core.codebook import Described, Understood, read_notation, write_notation
from rowtag.core.errors import Place, TooLarge, UnreadableFile
from rowtag.core.tag import Level, Parts, Reason, Type
from rowtag.core.words import megabytes
from rowtag.documents.once import each_once
from rowtag.documents.reading import read_document
from rowtag.documents.standards import read_standard
from rowtag.documents.variable_table import ColumnRole, VariableTable, describing_sheets, variable_table
from rowtag.documents.weighing import AtHand, weighed
from rowtag.formats.intake import ENDINGS, opened
from rowtag.formats.table import Watch, unwatched
from rowtag.formats.text import Text

MOST_TEXT = 8 << 20
"""Bytes of a document that are read."""
MOST_LINES = 100_000
"""Lines of a document that are read."""
MOST_BOOK = 64 << 20
"""Bytes of a workbook, or of a document of a word processor with its pictures, that are read."""
NOTHING_AT_HAND: AtHand = MappingProxyType({})
_WORKBOOKS = frozenset(ending for ending, kind in ENDINGS.items() if kind == "workbook")
_DELIMITED = frozenset({".csv", ".tsv", ".tab"})
_STANDARDS = frozenset({".json", ".xml", ".sss", ".ddi"})


@dataclass(frozen=True)
class Document:
    """A document as text to keep beside a study: as it stands, tables and metadata as codebook text.

    Where it came from a table, that one, and the sheets of its workbook that could be taken instead.
    """

    text: str
    table: VariableTable | None = None
    sheets: tuple[str, ...] = ()


def read_codebook(path: Path, name: str, at_hand: AtHand = NOTHING_AT_HAND) -> Understood:
    """What a file says of variables, weighed by the data at hand. Raises UnreadableFile or TooLarge."""
    found = _read(path, name, tuple(at_hand))
    return replace(found, variables=weighed(found.variables, at_hand)) if at_hand else found


def _read(path: Path, name: str, known: Collection[str]) -> Understood:
    ending = Path(name.lower()).suffix
    _refuse_long(path, name, MOST_BOOK if ending in _WORKBOOKS or ending in _CONTAINERS else MOST_TEXT)
    if ending in _STANDARDS:
        try:
            return Understood(each_once(read_standard(path.read_bytes(), name)))
        except UnreadableFile:
            if ending != ".json" or not (tree := _tree_of(path, name)):
                raise
            return understand(tree, known)
    if ending in _WORKBOOKS or ending in _DELIMITED:
        with opened(path, name) as file:
            sheets = describing_sheets(file)
            if sheets:
                return Understood(variable_table(file, sheets[0]).described())
        if ending in _WORKBOOKS:
            return Understood()
    return understand(text_of(path, name), known)


def as_document(
    path: Path,
    name: str,
    sheet: str | None = None,
    columns: Sequence[ColumnRole] | None = None,
    watch: Watch = unwatched,
) -> Document:
    """A file as a document. Of a workbook, the sheet that was chosen, or the first that describes variables; what
    the columns of a table hold is told by their headings and contents unless it is given. `watch` is told how far
    the reading of pages is."""
    ending = Path(name.lower()).suffix
    if ending in _WORKBOOKS | _DELIMITED:
        _refuse_long(path, name, MOST_BOOK)
        with opened(path, name) as file:
            sheets = describing_sheets(file)
            if sheets or sheet or columns:
                table = variable_table(file, sheet or sheets[0], columns)
                found = table.described()
                names = tuple(file.picture(file.guess()).sheets)
                return Document(write_notation(found) if found else "", table, names)
    if ending in _STANDARDS | _WORKBOOKS:
        found = read_codebook(path, name).variables
        if not found:
            raise UnreadableFile(
                "Nothing in this file describes variables.",
                remedy="A table wants a row of headings such as name, label, codes.",
                where=Place(name),
            )
        return Document(write_notation(found))
    _refuse_long(path, name, MOST_BOOK if ending in _CONTAINERS else MOST_TEXT)
    return Document(text_of(path, name, watch))


def begin_of(path: Path, name: str) -> str:
    """The first page of a document of several pages, which is there before the rest is read; else nothing."""
    with path.open("rb") as opening:
        paged = opening.read(4) == b"%PDF"
    return str(_container("pdf").first_page(path, name)) if paged else ""


def _refuse_long(path: Path, name: str, most: int) -> None:
    """Raises TooLarge where a document is longer than any codebook."""
    size = path.stat().st_size
    if size > most:
        raise TooLarge(
            f"The document has {megabytes(size)}; a codebook of up to {megabytes(most)} is read.",
            remedy="Give the part that describes the variables.",
            where=Place(name),
        )


def understand(text: str, known: Collection[str] = ()) -> Understood:
    """What a text says: strictly where it is codebook text, else as people write. Raises TooLarge."""
    lines = text.count("\n")
    if lines > MOST_LINES:
        raise TooLarge(
            f"The document has {lines:,} lines; a codebook of up to {MOST_LINES:,} is read.",
            remedy="Give the part that describes the variables.",
        )
    slip: UnreadableFile | None = None
    try:
        found = read_notation(text)
        named = all(_NAME_LIKE.fullmatch(each.name) for each in found.variables)
        if named and any(each.parts.model_fields_set or each.code_list for each in found.variables):
            return with_lists(replace(found, variables=_in_company(each_once(found.variables))))
    except UnreadableFile as error:
        slip = error
    prose = read_document(text, known)
    unsure = all(each.certainty < UNSURE for each in prose.variables)
    if slip is not None and (_of_tags(text) or (_MEANT.search(text) and unsure)):
        raise slip
    return replace(prose, variables=_in_company(prose.variables))


def _in_company(found: Sequence[Described]) -> tuple[Described, ...]:
    """Variables without the batteries that they are alone in: a battery of one is none."""
    counts = Counter(each.battery for each in found)
    return tuple(replace(each, battery=None) if counts[each.battery] == 1 else each for each in found)


_HEAD = re.compile(
    r'^(?:"(?:[^"\\\n]|\\.)*"|[^\s,":]+)(?:[ \t]*,[ \t]*(?:"(?:[^"\\\n]|\\.)*"|[^\s,":]+))*'
    rf"(?P<said>(?:[ \t]+(?:{'|'.join((*get_args(Level), *get_args(Type)))})(?:[ \t]+\d{{1,4}}(?:\.\d{{1,2}})?)?,?)+"
    r"|(?=[ \t]+(?:battery|section|codes):))(?:[ \t]+(?:battery|section|codes):[ \t].*)?\s*"
)
"""A line at the margin that begins a tag: names, and behind them levels, types, widths and places only."""


def _of_tags(text: str) -> bool:
    """Whether a text means to be codebook text: most lines at the margin begin tags; or some do, with parts indented
    beneath, and what only codebook text has stands in a head or among the parts."""
    lines = [line for line in text.split("\n") if line.strip()]
    margin = [at for at, line in enumerate(lines) if not line[0].isspace()]
    begun = [at for at in margin if _HEAD.fullmatch(lines[at])]
    beneath = [at for at in begun if at + 1 < len(lines) and lines[at + 1][0].isspace()]
    if beneath and (2 * len(begun) > len(margin) or _PART.search(text) or any(_is_sure(lines[at]) for at in beneath)):
        return True
    return len(begun) > 1 and len(begun) > 0.6 * len(margin)


def _is_sure(head: str) -> bool:
    """Whether a head gives level and type both, as no prose does."""
    words = set(head.split())
    return bool(words & set(get_args(Level)) and words & set(get_args(Type)))


UNSURE = 0.6
_NAME_LIKE = re.compile(r"[^\\{}<>`]+")
_PART = re.compile(
    rf"^[ \t]+\S.*[ \t]missing:[ \t]*(?:{'|'.join(get_args(Reason))})[ \t]*$"
    r"|^[ \t]+(?:limits [\d.+\-\u2212]|list (?:complete|partial)[ \t]*$|(?:proposed )?skip:.*->)",
    re.M,
)
"""Parts of a tag that stand in codebook text alone."""
_MEANT = re.compile(r'^[ \t]+(?:"[^"\n]*"?[ \t]*$|\? |limits [\d-]|list (?:complete|partial)|use )|^list[ \t]*:', re.M)
"""Lines that codebook text has and prose has not: then a slip in it is told with its place."""


def with_lists(found: Understood) -> Understood:
    """What was understood, with the codes of its shared lists at the variables that use them."""

    def told(each: Described) -> Described:
        codes = found.lists.get(each.code_list or "")
        if codes is None or "codes" in each.parts.model_fields_set:
            return each
        return replace(each, parts=Parts(**{**each.parts.given(), "codes": codes}))

    return replace(found, variables=tuple(map(told, found.variables)))


_CONTAINERS = {
    ".docx": "word",
    ".docm": "word",
    ".odt": "opentext",
    ".rtf": "rich",
    ".pdf": "pdf",
    ".html": "web",
    ".htm": "web",
    ".xhtml": "web",
    ".yaml": "trees",
    ".yml": "trees",
    ".toml": "trees",
}
"""Kinds of documents that are written down as plain text, by their endings: the module that does it, loaded with the
first of them."""


def _container(name: str) -> Any:
    return import_module(f"rowtag.documents.containers.{name}")


def _tree_of(path: Path, name: str) -> str:
    """A .json that follows no standard as plain text; nothing where it describes no variables."""
    try:
        return str(_container("trees").text_of(path, name))
    except UnreadableFile:
        return ""


_OLDER = frozenset([".doc", ".dot", ".wpd", ".pages", ".sxw"])
_OLD = b"\xd0\xcf\x11\xe0"
_BEGINS = {b"%PDF": ".pdf", b"{\\rtf": ".rtf"}


def text_of(path: Path, name: str, watch: Watch = unwatched) -> str:
    """A document's text: as it is seen where the file holds more than text, in whatever encoding it is."""
    ending = Path(name.lower()).suffix
    with path.open("rb") as opening:
        begin = opening.read(8)
    container = _CONTAINERS.get(ending) or next(
        (_CONTAINERS[kind] for sign, kind in _BEGINS.items() if begin.startswith(sign)), None
    )
    if container is not None and not begin.startswith(_OLD):
        return str(_container(container).text_of(path, name, watch))
    if ending in _OLDER or begin.startswith(_OLD):
        raise UnreadableFile(
            "This is a document of an older word processor, or one with a password.",
            remedy="Save it as .docx, .odt or .pdf, without a password.",
            where=Place(name),
        )
    file = Text(path, name, MOST_TEXT)
    try:
        data = file.utf8(file.guess_encoding())
        return bytes(data).decode("utf-8").removeprefix("\ufeff")
    finally:
        file.close()
