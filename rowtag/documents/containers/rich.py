"""Documents in rich text format (.rtf): their text, line by line."""

from pathlib import Path

from striprtf.striprtf import rtf_to_text

from rowtag.core.errors import Place, UnreadableFile
from rowtag.formats.table import Watch, unwatched

_OPENS = b"{\\rtf"


def text_of(path: Path, name: str, _watch: Watch = unwatched) -> str:
    """An .rtf as plain text; cells of tables are parted by tabs. Raises UnreadableFile."""
    data = path.read_bytes()
    if not data.lstrip()[: len(_OPENS)] == _OPENS:
        raise UnreadableFile("This is no rich text.", remedy="Save it as .rtf or .docx again.", where=Place(name))
    try:
        text: str = rtf_to_text(data.decode("latin-1"), encoding="cp1252", errors="replace")  # type: ignore[no-untyped-call]
    except (ValueError, LookupError, IndexError, KeyError, RecursionError) as error:
        raise UnreadableFile(
            "The document is damaged.", remedy="Open it where it was made, and save it again.", where=Place(name)
        ) from error
    lines = (line.replace("|", "\t") if line.count("|") > 1 else line for line in text.split("\n"))
    return "\n".join("\t".join(part.strip() for part in line.split("\t")).rstrip() for line in lines).strip() + "\n"
