"""The bytes of source files and all other blobs, as they go into a study's file and come out of it."""

import hashlib
from collections.abc import Iterator
from pathlib import Path

import pyarrow as pa
import sqlalchemy as sa

from rowtag.core.errors import Damaged
from rowtag.store.codec import unpacked
from rowtag.store.database import blobs, pieces
from rowtag.store.sums import added

PIECE = 8 << 20
"""Bytes of a source file in one piece."""

Pieces = Iterator[tuple[str, bytes]]
"""Compressed pieces of a file under their keys."""


def keep_blobs(connection: sa.Connection, fresh: dict[str, bytes]) -> None:
    """Adds blobs that the file does not have yet."""
    if fresh:
        statement = blobs.insert().prefix_with("OR IGNORE")
        connection.execute(statement, [{"key": key, "data": data} for key, data in fresh.items()])


def keep_source(connection: sa.Connection, sha256: str, data: Pieces) -> None:
    """Keeps the bytes of a source file, compressed, in pieces."""
    for number, (key, piece) in enumerate(data):
        keep_blobs(connection, {key: piece})
        added(connection, pieces, source=sha256, number=number, blob=key)


def compressed_pieces(path: Path) -> Pieces:
    """A file's bytes in compressed pieces under their keys."""
    with path.open("rb") as file:
        while piece := file.read(PIECE):
            data = len(piece).to_bytes(8, "little") + bytes(pa.compress(piece, codec="zstd", asbytes=True))
            yield hashlib.sha256(data).hexdigest(), data


def piece_from(data: bytes) -> bytes:
    """The bytes that a compressed piece holds."""
    size = int.from_bytes(data[:8], "little")
    if size > PIECE:
        raise Damaged(f"A piece of a source says that it has {size:,} bytes.", remedy="Restore a backup.")
    return unpacked(data[8:], size)
