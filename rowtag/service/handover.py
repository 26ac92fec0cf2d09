"""Handover: what leaves, as one archive."""

import re
import zipfile
from collections.abc import Iterator, Sequence
from dataclasses import replace
from pathlib import Path
from typing import BinaryIO, cast

from rowtag.core.errors import BadInput, not_stored
from rowtag.core.study import Study
from rowtag.formats.table import Watch, unwatched
from rowtag.formats.writers import WRITERS, Handed, Preview, Writer
from rowtag.formats.written import Options


def usual_writers(options: Options) -> list[Writer]:
    """All files that an archive holds unless somebody chooses others, with entries written one way."""
    return [kind(entries=options) for kind in WRITERS.values() if kind.wanted(options)]


def archive(study: Study, title: str, writers: Sequence[Writer], path: Path, watch: Watch = unwatched) -> list[str]:
    """Writes one zip with a file for each writer, in their order; gives notes. A stopped one leaves nothing."""
    names = [writer.file for writer in writers]
    twice = next((name for name in names if names.count(name) > 1), None)
    if twice is not None:
        raise BadInput(f"Two files of the archive are called {twice}.", remedy="Leave one of them out.")
    handed = Handed(study, title)
    try:
        with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED, compresslevel=4) as zipped:
            for writer in writers:
                with zipped.open(writer.file, "w", force_zip64=True) as file:
                    notes = writer.write(handed, cast("BinaryIO", file), watch)
                handed = replace(handed, notes=[*handed.notes, *notes])
    except BaseException as error:
        path.unlink(missing_ok=True)
        if isinstance(error, OSError):
            raise not_stored(f"The archive of {title}", error) from None
        raise
    return handed.notes


def previews(study: Study, title: str, writers: Sequence[Writer]) -> Iterator[Preview]:
    """The first lines of each file of the archive."""
    handed = Handed(study, title)
    for writer in writers:
        shown = writer.preview(handed)
        handed = replace(handed, notes=[*handed.notes, *shown.notes])
        yield shown


def plain(title: str) -> str:
    """A title as a file name that works everywhere."""
    return re.sub(r"[^A-Za-z0-9]+", "-", title).strip("-").lower() or "study"
