"""States as bytes: whole ones, and what differs between a state and its parent.

Small values go into JSON; segments and chunks go into blobs under the SHA-256 of what is kept. A column that knows
what was edited of it since its earlier one is written as that; any other as the column anew.
"""

import hashlib
from collections.abc import Callable, Mapping
from concurrent.futures import ThreadPoolExecutor
from typing import Any
from weakref import WeakKeyDictionary, WeakValueDictionary

import numpy as np
import numpy.typing as npt
import orjson
import pyarrow as pa

from rowtag.core.chunk import BLANK_CHUNK, Chunk
from rowtag.core.column import Column
from rowtag.core.errors import Damaged, UnreadableFile
from rowtag.core.study import SHELVES, Records, Study
from rowtag.core.tag import can_end
from rowtag.core.tokens import BLANK_SEGMENT, Segment, Texts, large_texts

FEW = 2
"""Columns up to which it is not worth while to write several at once."""
FREELY, MOST_TIMES = 64 << 20, 1_000
"""Bytes that anything may unpack to, and how many times its own size what is larger may: entries are different ones,
which never shrink so."""
FORMAT = 3
"""Version of what `difference` writes; `UPGRADES` brings older ones up to date."""


def _bounding(value: Any) -> Any:
    """The same without ends of ranges and limits that are no number, date or time: they bounded nothing."""
    if isinstance(value, list):
        return [_bounding(each) for each in value if not _bounds_nothing(each)]
    if not isinstance(value, dict):
        return value
    return {key: None if key in ("low", "high") and _odd(each) else _bounding(each) for key, each in value.items()}


def _bounded(parts: dict[str, Any]) -> dict[str, Any]:
    """Parts of a study so; columns hold entries alone, which need not be gone through."""
    return {name: part if name == "columns" else _bounding(part) for name, part in parts.items()}


def _odd(end: Any) -> bool:
    return isinstance(end, str) and not can_end(end)


def _bounds_nothing(line: Any) -> bool:
    """Whether this is a line of a range that only has such ends."""
    if not isinstance(line, dict) or line.get("code") is not None:
        return False
    ends = [end for end in (line.get("low"), line.get("high")) if end is not None]
    return bool(ends) and all(map(_odd, ends))


UPGRADES: dict[int, Callable[[dict[str, Any]], dict[str, Any]]] = {
    1: lambda parts: {**parts, "format": 2},
    2: lambda parts: _bounded(parts) | {"format": 3},
}
"""2: chunks may be blank, segments may be numbers; what 1 wrote means the same. 3: ends bound something."""

Parts = dict[str, Any]
Fetch = Callable[[str], bytes]


def _nowhere(key: str) -> bytes:
    raise KeyError(key)


class Shared:
    """Segments, chunks and columns of a study that are in memory, by how they are kept.

    States that are read back are made of these as far as they can be, so that nothing is worked out twice on them; and
    so are those of a study that was closed and is opened again. `fetch` reads a blob from the file opened last; what
    is in memory holds on to nothing else of a file.
    """

    def __init__(self) -> None:
        self.fetch: Fetch = _nowhere
        self.segments: WeakValueDictionary[str, Segment] = WeakValueDictionary()
        self.chunks: WeakValueDictionary[str, Chunk] = WeakValueDictionary()
        self._columns: WeakValueDictionary[bytes, Column] = WeakValueDictionary()
        self._prints: WeakKeyDictionary[Column, bytes] = WeakKeyDictionary()

    @property
    def empty(self) -> bool:
        """Whether nothing of the study is in memory."""
        return not (self.segments or self.chunks)

    def fetched(self, key: str) -> bytes:
        """A blob, read by whoever has the file open now."""
        return self.fetch(key)

    def column(self, written: Parts, old: Column | None) -> Column | None:
        """The column in memory that is kept as `written`, over `old` where it only says what was edited."""
        found = self._print(written, old)
        return None if found is None else self._columns.get(found)

    def note(self, column: Column, written: Parts, old: Column | None = None) -> None:
        """Notes how a column is kept."""
        found = self._print(written, old)
        if found is not None:
            self._columns[found] = column
            self._prints[column] = found

    def _print(self, written: Parts, old: Column | None) -> bytes | None:
        if "edits" not in written:
            return hashlib.sha256(orjson.dumps(written)).digest()
        before = None if old is None else self._prints.get(old)
        return None if before is None else hashlib.sha256(before + orjson.dumps(written)).digest()


class Blobs:
    """Blobs that some parts need and the file does not have yet.

    Segments and chunks learn their keys only by `kept`, once the transaction is on disk: when it fails,
    they are written anew the next time.
    """

    def __init__(self, shared: Shared | None = None) -> None:
        self.data: dict[str, bytes] = {}
        self.shared = shared or Shared()
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

    def more(self) -> "Blobs":
        """Blobs that come on top of these, if what needs them is kept."""
        further = Blobs(self.shared)
        further._keys = dict(self._keys)
        return further

    def take(self, further: "Blobs") -> None:
        """Takes what came on top."""
        self.data |= further.data
        self._keys |= further._keys

    def kept(self) -> None:
        """Says that all these are in the file now."""
        for owner, key in self._keys.values():
            owner.key = key
            if isinstance(owner, Segment):
                self.shared.segments[key] = owner
            else:
                self.shared.chunks[key] = owner


def encode(parts: Parts) -> bytes:
    """Parts as they are kept: JSON, compressed where that pays."""
    text = orjson.dumps(parts, option=orjson.OPT_SERIALIZE_NUMPY | orjson.OPT_NON_STR_KEYS)
    if len(text) < 400:
        return text
    return b"Z" + len(text).to_bytes(8, "little") + bytes(pa.compress(text, codec="zstd", asbytes=True))


def decode(data: bytes) -> Parts:
    """What `encode` wrote."""
    if data[:1] == b"Z":
        data = unpacked(data[9:], int.from_bytes(data[1:9], "little"))
    parts: Parts = orjson.loads(data)
    while (version := parts.get("format", FORMAT)) != FORMAT:
        if version not in UPGRADES:
            raise UnreadableFile(
                f"This study was kept by a newer Row Tag (format {version}).", remedy="Update Row Tag."
            )
        parts = UPGRADES[version](parts)
    return parts


def unpacked(data: bytes, size: int) -> bytes:
    """Compressed bytes as the so many that they were; Damaged where nothing that is kept would shrink so."""
    _refuse_blown_up(size, data)
    return bytes(pa.decompress(data, size, codec="zstd", asbytes=True))


def _refuse_blown_up(size: int, data: bytes) -> None:
    if size > max(FREELY, MOST_TIMES * len(data)):
        raise Damaged(f"{len(data):,} bytes unpack to {size:,}.", remedy="Restore a backup.")


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
            return column_parts(old.columns.get(id), changed[id], blobs)

        if len(changed) > FEW:  # compressing runs beside Python
            with ThreadPoolExecutor(2) as pool:
                made = list(pool.map(written, changed))
        else:
            made = list(map(written, changed))
        parts["columns"] = {**dict(zip(changed, made, strict=True)), **dict.fromkeys(gone)}
    return parts


def _shelf(old: Mapping[str, Any], new: Mapping[str, Any]) -> dict[str, Any]:
    """Values that were put on a shelf, and None for those that were taken away."""
    if old is new:
        return {}
    put = {id: value.model_dump(exclude_defaults=True) for id, value in new.items() if old.get(id) is not value}
    return {**put, **{id: None for id in old if id not in new}}


def patched(old: Study, parts: Parts, fetch: Fetch, shared: Shared | None = None) -> Study:
    """The state that `parts` describe as a difference from `old`, made of what is `shared` with others in memory."""
    shared = shared or Shared()
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
        removed = tuple(parts["records"]["removed"])
        same = removed == old.records.removed
        records = Records(parts["records"]["arrived"], old.records.removed if same else removed)
    columns = old.columns
    if "columns" in parts:
        columns = dict(old.columns)
        for id, written in parts["columns"].items():
            if written is None:
                columns.pop(id, None)
            else:
                columns[id] = column_from(old.columns.get(id), written, fetch, shared)
    order = tuple(parts["order"]) if "order" in parts else old.order
    return Study(shelves, order, columns, records, parts.get("naming", old.naming))


# Columns ---------------------------------------------------------------------------------------

MOST_MORE = 10_000
"""Tokens that are written as text where a column only has more of them; beyond that it is written anew."""


def column_parts(old: Column | None, new: Column, blobs: Blobs) -> Parts:
    """A column as what was edited since `old`, where it knows that, else anew."""
    edits = None if old is None else new.since(old)
    if old is not None and edits is not None and edits.grown <= MOST_MORE:
        chunks = {str(number): [where.tolist(), what.tolist()] for number, (where, what) in edits.chunks.items()}
        more = new.texts_at(np.arange(old.token_count, new.token_count))
        parts: Parts = {"more": more, "edits": chunks}
        blobs.shared.note(new, parts, old)
        return parts
    parts = {
        "segments": [_segment_doc(segment, blobs) for segment in new.segments],
        "chunks": [_chunk_doc(chunk, blobs) for chunk in new.chunks],
    }
    blobs.shared.note(new, parts)
    return parts


def column_from(old: Column | None, written: Parts, fetch: Fetch, shared: Shared) -> Column:
    """A column read back, or the very one that is in memory; what is large is fetched at its first use."""
    there = shared.column(written, old)
    if there is not None:
        return there
    if "edits" in written:
        assert old is not None
        edits = {
            int(number): (np.array(where, np.int64), np.array(what, np.uint32))
            for number, (where, what) in written["edits"].items()
        }
        column = old.edited(written["more"], edits)
        shared.note(column, written, old)
        return column
    column = Column(
        tuple(_segment_from(doc, fetch, shared) for doc in written["segments"]),
        tuple(_chunk_from(doc, fetch, shared) for doc in written["chunks"]),
    )
    shared.note(column, written)
    return column


def _segment_doc(segment: Segment, blobs: Blobs) -> Parts:
    if segment.numeric:
        key = blobs.key_of(segment, lambda: _packed(segment.numbers))
        return {"key": key, "size": segment.size, "numbers": True}
    if segment.size <= 24 and segment.key is None:
        texts = segment.texts.to_pylist()
        if sum(map(len, texts)) <= 400:
            blobs.shared.segments.setdefault(_name_of(texts), segment)
            return {"texts": texts}
    return {"key": blobs.key_of(segment, lambda: texts_to_bytes(segment.texts)), "size": segment.size}


def _name_of(texts: list[str]) -> str:
    """What a segment goes by that is kept beside its column, not as a blob."""
    return f"texts {hashlib.sha256(orjson.dumps(texts)).hexdigest()}"


def _segment_from(doc: Parts, fetch: Fetch, shared: Shared) -> Segment:
    if "texts" in doc:
        if doc["texts"] == [""]:
            return BLANK_SEGMENT
        name = _name_of(doc["texts"])
        small = shared.segments.get(name) or Segment.of(large_texts(doc["texts"]))
        shared.segments[name] = small
        return small
    key, size, numeric = doc["key"], doc["size"], doc.get("numbers", False)
    there = shared.segments.get(key)
    if there is not None:
        return there

    def tokens() -> Any:
        return _unpacked(fetch(key), size, np.dtype("<f8")) if numeric else texts_from_bytes(fetch(key))

    segment = Segment(size, fetch=tokens, key=key, numeric=numeric)
    shared.segments[key] = segment
    return segment


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
        texts = stream.read_next_batch().column(0)
    _refuse_blown_up(texts.nbytes, data)
    return texts


def _packed(values: npt.NDArray[Any]) -> bytes:
    little = values.astype(values.dtype.newbyteorder("<"), copy=False)
    return bytes(pa.compress(little.tobytes(), codec="zstd", asbytes=True))


def _unpacked(data: bytes, size: int, kind: np.dtype[Any]) -> npt.NDArray[Any]:
    return np.frombuffer(unpacked(data, size * kind.itemsize), kind)


def _chunk_doc(chunk: Chunk, blobs: Blobs) -> Parts:
    doc: Parts = {"size": chunk.size}
    if chunk.size:
        doc |= {"key": blobs.key_of(chunk, lambda: _packed(chunk.base)), "bytes": chunk.itemsize}
    if chunk.where.size:
        doc["patch"] = [chunk.where.tolist(), chunk.what.tolist()]
    return doc


def _chunk_from(doc: Parts, fetch: Fetch, shared: Shared) -> Chunk:
    where, what = doc.get("patch", [[], []])
    patch = np.array(where, np.int64), np.array(what, np.uint32)
    if not doc["size"]:
        return BLANK_CHUNK.over(*patch)
    key, size, itemsize = doc["key"], doc["size"], doc["bytes"]
    there = shared.chunks.get(key)
    if there is None:
        there = Chunk(
            size, fetch=lambda: _unpacked(fetch(key), size, np.dtype(f"<u{itemsize}")), key=key, itemsize=itemsize
        )
        shared.chunks[key] = there
    return there.over(*patch)
