"""Documents that are packed folders of XML: parts are read within bounds, and nothing in them refers outside."""

import zipfile
import zlib
from pathlib import Path

from lxml import etree

from rowtag.core.errors import Place, TooLarge, UnreadableFile
from rowtag.core.words import megabytes

MOST_XML = 64 << 20
"""Bytes of a part, unpacked, that is read."""


def part_of(path: Path, name: str, part: str) -> etree._Element | None:
    """A part of a packed document as XML; None where there is no such part. Raises UnreadableFile or TooLarge."""
    try:
        with zipfile.ZipFile(path) as archive:
            try:
                size = archive.getinfo(part).file_size
            except KeyError:
                return None
            if size > MOST_XML:
                raise TooLarge(
                    f"The document would unpack to {megabytes(size)}; up to {megabytes(MOST_XML)} are read.",
                    remedy="Save the part that describes the variables as a document of its own.",
                    where=Place(name),
                )
            with archive.open(part) as file:
                data = file.read(MOST_XML + 1)
    except (zipfile.BadZipFile, zlib.error, EOFError, OSError, RuntimeError, NotImplementedError, ValueError) as error:
        raise UnreadableFile(
            "This is no such document: it cannot be unpacked.",
            remedy="Open it where it was made, and save it again; a document with a password is saved without it.",
            where=Place(name),
        ) from error
    parser = etree.XMLParser(resolve_entities=False, no_network=True, huge_tree=False, load_dtd=False)
    try:
        root = etree.fromstring(data[:MOST_XML], parser)
    except etree.XMLSyntaxError as error:
        raise UnreadableFile(
            f"The document is damaged: {error.msg} (line {error.lineno}).",
            remedy="Open it where it was made, and save it again.",
            where=Place(name),
        ) from error
    if root.getroottree().docinfo.internalDTD is not None:
        raise UnreadableFile(
            "The document declares entities, which no document needs.",
            remedy="Save it again with a word processor.",
            where=Place(name),
        )
    return root
