"""Codebooks as files, whatever they are: codebook text, prose, tables, workbooks, metadata in open standards."""

from collections.abc import Collection
from pathlib import Path

from rowtag.core.codebook import Described, Understood, read_document, read_notation, write_notation
from rowtag.core.codebook.table import Role, is_codebook, read_rows, roles_of
from rowtag.core.errors import Place, TooLarge, UnreadableFile
from rowtag.core.words import megabytes
from rowtag.formats.intake import ENDINGS, Opened, opened
from rowtag.formats.standards import read_standard
from rowtag.formats.table import Settings
from rowtag.formats.text import Text

MOST_TEXT = 8 << 20
"""Bytes of a document that are read."""
_WORKBOOKS = frozenset(ending for ending, kind in ENDINGS.items() if kind == "workbook")
_DELIMITED = frozenset({".csv", ".tsv", ".tab"})
_STANDARDS = frozenset({".json", ".xml", ".sss", ".ddi"})


def read_codebook(path: Path, name: str, known: Collection[str] = ()) -> Understood:
    """What a file says of variables; `known` are names of the study at hand. Raises UnreadableFile or TooLarge."""
    ending = Path(name.lower()).suffix
    if ending not in _WORKBOOKS:
        _refuse_long(path, name)
    if ending in _STANDARDS:
        return Understood(_once(read_standard(path.read_bytes(), name)))
    if ending in _WORKBOOKS or ending in _DELIMITED:
        found = _from_table(path, name, workbook=ending in _WORKBOOKS)
        if found is not None or ending in _WORKBOOKS:
            return found or Understood()
    return understand(text_of(path, name), known)


def _refuse_long(path: Path, name: str) -> None:
    """Raises TooLarge where a document is longer than any codebook."""
    size = path.stat().st_size
    if size > MOST_TEXT:
        raise TooLarge(
            f"The document has {megabytes(size)}; a codebook of up to {megabytes(MOST_TEXT)} is read.",
            remedy="Give the part that describes the variables.",
            where=Place(name),
        )


def as_text(path: Path, name: str) -> str:
    """A document as text to keep beside a study: as it stands, tables and metadata as codebook text."""
    ending = Path(name.lower()).suffix
    if ending in _STANDARDS | _WORKBOOKS | _DELIMITED:
        found = read_codebook(path, name)
        if not found.variables:
            raise UnreadableFile(
                "No sheet of this file describes variables.",
                remedy="It wants a row of headings such as name, label, codes.",
                where=Place(name),
            )
        return write_notation(found.variables, found.lists)
    _refuse_long(path, name)
    return text_of(path, name)


def understand(text: str, known: Collection[str] = ()) -> Understood:
    """What a text says: strictly where it is codebook text, else as people write."""
    try:
        found = read_notation(text)
        if any(each.parts.model_fields_set for each in found.variables):
            return found
    except UnreadableFile:
        pass
    return read_document(text, known)


def text_of(path: Path, name: str) -> str:
    """A document's text, in whatever encoding it is."""
    file = Text(path, name)
    try:
        data = file.utf8(file.guess_encoding())
        return bytes(data).decode("utf-8").removeprefix("\ufeff")
    finally:
        file.close()


def _from_table(path: Path, name: str, *, workbook: bool) -> Understood | None:
    """The variables of the first sheet (or the delimited table) that describes any."""
    with opened(path, name) as file:
        guessed = file.guess()
        sheets = file.picture(guessed).sheets if workbook else [None]
        for sheet in sheets:
            settings = (
                guessed if sheet in (None, guessed.sheet) else file.heads(guessed.model_copy(update={"sheet": sheet}))
            )
            settings = settings.model_copy(update={"wordings_row": None, "data_row": None, "rows_below": 0})
            rows = _rows(file, settings)
            roles: dict[Role, int] = roles_of(rows[0], rows[1:]) if rows else {}
            if is_codebook(roles):
                first = settings.names_row or 1
                return Understood(_once(read_rows(rows[1:], roles, range(first + 1, first + len(rows)))))
    return None


def _rows(file: Opened, settings: Settings) -> list[list[str]]:
    """All rows of a table as texts, its heads first."""
    table = file.table(settings)
    columns = [column.texts_at(column.indexes(0, table.records)) for column in table.columns]
    return [list(table.heads), *(list(row) for row in zip(*columns, strict=True))]


def _once(found: list[Described]) -> tuple[Described, ...]:
    """Each variable once, as it is described first."""
    return tuple({each.name: each for each in reversed(found) if each.name}.values())[::-1]
