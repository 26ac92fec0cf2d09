"""States as bytes: whole ones, and what differs between a state and its parent.

Small values go into JSON; segments and chunks go into blobs under the SHA-256 of what is kept. A few
edits of a column are written as the tokens and patches that came; anything more as the column anew.
"""

import hashlib
from collections.abc import Callable, Mapping
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import numpy as np
import orjson
import pyarrow as pa

from rowtag.core.column import Chunk, Column
from rowtag.core.errors import UnreadableFile
from rowtag.core.study import SHELVES, Records, Study
from rowtag.core.tokens import Segment, Texts, large_texts

FORMAT = 1
"""Version of what `difference` writes; `UPGRADES` brings older ones up to date."""
UPGRADES: dict[int, Callable[[dict[str, Any]], dict[str, Any]]] = {}


class Blobs:
    """Blobs that some parts need and the file does not have yet.

    Segments and chunks learn their keys only by `kept`, once the transaction is on disk: when it fails,
    they are written anew the next time.
    """

    def __init__(self) -> None:
        self.data: dict[str, bytes] = {}
        self._keys: dict[int, tuple[Segment | Chunk, str]] = {}

    def key_of(self, owner: Segment | Chunk, make: Callable[[], bytes]) -> str:
        """The key of a segment's or chunk's blob; what it holds is made only when nobody has it yet."""
        if owner.key is not None:
            return owner.key
        if id(owner) not in self._keys:
            data = make()
            key = hashlib.sha256(data).hexdigest()
            self.data[key] = data
            self._keys[id(owner)] = (owner, key)
        return self._keys[id(owner)][1]

    def kept(self) -> None:
        """Says that all these are in the file now."""
        for owner, key in self._keys.values():
            owner.key = key


Fetch = Callable[[str], bytes]
Parts = dict[str, Any]


def encode(parts: Parts) -> bytes:
    """Parts as they are kept: JSON, compressed where that pays."""
    text = orjson.dumps(parts, option=orjson.OPT_SERIALIZE_NUMPY | orjson.OPT_NON_STR_KEYS)
    if len(text) < 400:
        return text
    return b"Z" + len(text).to_bytes(8, "little") + bytes(pa.compress(text, codec="zstd", asbytes=True))


def decode(data: bytes) -> Parts:
    """What `encode` wrote."""
    if data[:1] == b"Z":
        size = int.from_bytes(data[1:9], "little")
        data = pa.decompress(data[9:], size, codec="zstd", asbytes=True)
    parts: Parts = orjson.loads(data)
    while (version := parts.get("format", FORMAT)) != FORMAT:
        if version not in UPGRADES:
            raise UnreadableFile(
                f"This study was kept by a newer Row Tag (format {version}).", remedy="Update Row Tag."
            )
        parts = UPGRADES[version](parts)
    return parts


def difference(old: Study, new: Study, blobs: Blobs) -> Parts:
    """What of `new` is not in `old`, as parts; blobs that these need are added to `blobs`."""
    parts: Parts = {"format": FORMAT}
    shelves = {name: shelf for name in SHELVES if (shelf := _shelf(old.shelves[name], new.shelves[name]))}
    if shelves:
        parts["shelves"] = shelves
    if old.order != new.order:
        parts["order"] = new.order
    if old.naming != new.naming:
        parts["naming"] = new.naming
    if old.records is not new.records:
        parts["records"] = {"arrived": new.records.arrived, "removed": new.records.removed}
    if old.columns is not new.columns:
        gone = [id for id in old.columns if id not in new.columns]
        changed = {id: column for id, column in new.columns.items() if old.columns.get(id) is not column}

        def written(id: str) -> Parts:
            return _column(old.columns.get(id), changed[id], blobs)

        with ThreadPoolExecutor(2 if len(changed) > 2 else 1) as pool:  # compressing runs beside Python
            written_columns = dict(zip(changed, pool.map(written, changed), strict=True))
        parts["columns"] = {**written_columns, **dict.fromkeys(gone)}
    return parts


def _shelf(old: Mapping[str, Any], new: Mapping[str, Any]) -> dict[str, Any]:
    """Values that were put on a shelf, and None for those that were taken away."""
    if old is new:
        return {}
    put = {id: value.model_dump(exclude_defaults=True) for id, value in new.items() if old.get(id) is not value}
    return {**put, **{id: None for id in old if id not in new}}


def patched(old: Study, parts: Parts, fetch: Fetch) -> Study:
    """The state that `parts` describe as a difference from `old`."""
    shelves = dict(old.shelves)
    for name, values in parts.get("shelves", {}).items():
        kind, shelf = SHELVES[name], dict(shelves[name])
        for id, value in values.items():
            if value is None:
                shelf.pop(id, None)
            else:
                shelf[id] = kind.model_validate(value)
        shelves[name] = shelf
    records = old.records
    if "records" in parts:
        records = Records(parts["records"]["arrived"], tuple(parts["records"]["removed"]))
    columns = old.columns
    if "columns" in parts:
        columns = dict(old.columns)
        for id, written in parts["columns"].items():
            if written is None:
                columns.pop(id, None)
            else:
                columns[id] = _column_from(old.columns.get(id), written, fetch)
    order = tuple(parts["order"]) if "order" in parts else old.order
    return Study(shelves, order, columns, records, parts.get("naming", old.naming))


# Columns ---------------------------------------------------------------------------------------


def _column(old: Column | None, new: Column, blobs: Blobs) -> Parts:
    """A column as the few edits since `old`, else anew."""
    if old is not None and _only_edited(old, new):
        edits = {}
        for number, (before, after) in enumerate(zip(old.chunks, new.chunks, strict=True)):
            if before is not after:
                came = _patch_since(before, after)
                edits[str(number)] = [after.where[came].tolist(), after.what[came].tolist()]
        return {"more": _texts_beyond(new, old.token_count), "edits": edits}
    return {
        "segments": [_segment_doc(segment, blobs) for segment in new.segments],
        "chunks": [_chunk_doc(chunk, blobs) for chunk in new.chunks],
    }


def _only_edited(old: Column, new: Column) -> bool:
    """Whether `new` lies over the same indexes as `old`, with patches and tokens added."""
    return len(old.chunks) == len(new.chunks) and all(
        before is after or (before.same_base(after) and before.size == after.size)
        for before, after in zip(old.chunks, new.chunks, strict=True)
    )


def _patch_since(before: Chunk, after: Chunk) -> Any:
    """Which entries of the later patch are not in the earlier one."""
    at = np.searchsorted(before.where, after.where)
    at[at == before.where.size] = 0
    if not before.where.size:
        return np.ones(after.where.size, bool)
    return (before.where[at] != after.where) | (before.what[at] != after.what)


def _texts_beyond(column: Column, known: int) -> list[str]:
    """The texts of the tokens from `known` on."""
    out: list[str] = []
    first = 0
    for segment in column.segments:
        if first + segment.size > known:
            out += segment.texts[max(known - first, 0) :].to_pylist()
        first += segment.size
    return out


def _column_from(old: Column | None, written: Parts, fetch: Fetch) -> Column:
    """A column read back; what is large is fetched at its first use."""
    if "edits" in written:
        assert old is not None
        grown = old
        if written["more"]:
            grown = Column(old.with_more_texts(large_texts(written["more"])), old.chunks)
        chunks = list(grown.chunks)
        for number, (where, what) in written["edits"].items():
            chunk = chunks[int(number)]
            chunks[int(number)] = chunk.patched(np.array(where, np.int64), np.array(what, np.uint32))
        return Column(grown.segments, tuple(chunks))
    segments = tuple(_segment_from(doc, fetch) for doc in written["segments"])
    return Column(segments, tuple(_chunk_from(doc, fetch) for doc in written["chunks"]))


def _segment_doc(segment: Segment, blobs: Blobs) -> Parts:
    if segment.size <= 24 and segment.key is None:
        texts = segment.texts.to_pylist()
        if sum(map(len, texts)) <= 400:
            return {"texts": texts}
    return {"key": blobs.key_of(segment, lambda: texts_to_bytes(segment.texts)), "size": segment.size}


def _segment_from(doc: Parts, fetch: Fetch) -> Segment:
    if "texts" in doc:
        return Segment.of(large_texts(doc["texts"]))
    key = doc["key"]
    return Segment(doc["size"], fetch=lambda: texts_from_bytes(fetch(key)), key=key)


def texts_to_bytes(texts: Texts) -> bytes:
    """Arrow texts as a compressed Arrow stream."""
    sink = pa.BufferOutputStream()
    batch = pa.record_batch([texts], names=["texts"])
    with pa.ipc.new_stream(sink, batch.schema, options=pa.ipc.IpcWriteOptions(compression="zstd")) as writer:
        writer.write_batch(batch)
    return bytes(sink.getvalue())


def texts_from_bytes(data: bytes) -> Texts:
    """What `texts_to_bytes` wrote."""
    with pa.ipc.open_stream(data) as stream:
        return stream.read_next_batch().column(0)


def _chunk_doc(chunk: Chunk, blobs: Blobs) -> Parts:
    def indexes() -> bytes:
        little = chunk.base.astype(chunk.base.dtype.newbyteorder("<"), copy=False)
        return bytes(pa.compress(little.tobytes(), codec="zstd", asbytes=True))

    doc: Parts = {"key": blobs.key_of(chunk, indexes), "size": chunk.size, "bytes": chunk.itemsize}
    if chunk.where.size:
        doc["patch"] = [chunk.where.tolist(), chunk.what.tolist()]
    return doc


def _chunk_from(doc: Parts, fetch: Fetch) -> Chunk:
    key, size, itemsize = doc["key"], doc["size"], doc["bytes"]

    def indexes() -> Any:
        data = pa.decompress(fetch(key), size * itemsize, codec="zstd", asbytes=True)
        return np.frombuffer(data, np.dtype(f"<u{itemsize}"))

    where, what = doc.get("patch", [[], []])
    return Chunk(
        size,
        fetch=indexes,
        key=key,
        itemsize=itemsize,
        where=np.array(where, np.int64),
        what=np.array(what, np.uint32),
    )
