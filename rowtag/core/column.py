"""Columns: distinct texts (tokens), and per record a small index into them.

Token 0 of every column is the blank. A column may be shorter than its study; beyond its end is blank.
Indexes come in chunks of 65,536 records, each in the smallest unsigned type that fits. An edit is a
patch beside its chunk, folded in when patches grow; nothing is ever changed in place.
"""

import itertools
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from rowtag.core.tokens import BLANK_SEGMENT, Segment, Texts, joined, large_texts, taken

CHUNK = 65_536
"""Records in one chunk of indexes."""
FOLD_PATCH_AT = 2_048
"""Patched records in a chunk at which the patch is folded into it."""
FEW = 1_000
"""Texts up to which they are few beside those of a column."""
TAIL_SIZE = 1_024
"""Tokens up to which the last segment is extended rather than followed by a new one."""

Indexes = npt.NDArray[np.unsignedinteger[Any]]
Positions = npt.NDArray[np.int64]

_serial = itertools.count()


def smallest(values: npt.NDArray[Any]) -> Indexes:
    """The same indexes in the smallest unsigned type that holds them, frozen."""
    top = int(values.max()) if values.size else 0
    kind = np.uint8 if top < 2**8 else np.uint16 if top < 2**16 else np.uint32
    out: Indexes = np.array(values, dtype=kind)
    out.setflags(write=False)
    return out


class Chunk:
    """Up to 65,536 indexes that never change, with the patches laid over them.

    `where` (int64, ascending, positions within the chunk) and `what` (uint32, tokens) are the patch.
    """

    __slots__ = ("_base", "_fetch", "_itemsize", "base_serial", "key", "size", "what", "where")

    def __init__(
        self,
        size: int,
        *,
        base: Indexes | None = None,
        fetch: Callable[[], Indexes] | None = None,
        key: str | None = None,
        itemsize: int = 0,
        where: Positions | None = None,
        what: npt.NDArray[np.uint32] | None = None,
        base_serial: int | None = None,
    ) -> None:
        assert base is not None or fetch is not None
        assert size <= CHUNK
        self.size = size
        self.key = key
        self.base_serial = next(_serial) if base_serial is None else base_serial
        self._base = base
        self._fetch = fetch
        self._itemsize = itemsize
        self.where: Positions = np.empty(0, np.int64) if where is None else where
        self.what: npt.NDArray[np.uint32] = np.empty(0, np.uint32) if what is None else what
        self.where.setflags(write=False)
        self.what.setflags(write=False)

    @property
    def base(self) -> Indexes:
        """The indexes without the patch, fetched when they are not in memory yet."""
        if self._base is None:
            assert self._fetch is not None
            self._base = self._fetch()
        return self._base

    @property
    def itemsize(self) -> int:
        """Bytes of one index, known without fetching."""
        return self._itemsize or self.base.dtype.itemsize

    @property
    def indexes(self) -> Indexes:
        """The indexes with the patch applied."""
        if not self.where.size:
            return self.base
        out = self.base.astype(np.uint32)
        out[self.where] = self.what
        return out

    def patched(self, where: Positions, what: npt.NDArray[np.uint32]) -> "Chunk":
        """This chunk with other tokens at some positions; folds the patch in when it has grown."""
        if self.where.size + where.size > FOLD_PATCH_AT:
            out = self.indexes.astype(np.uint32)
            out[where] = what
            return Chunk(self.size, base=smallest(out))
        kept = ~np.isin(self.where, where)
        all_where = np.concatenate([self.where[kept], where])
        all_what = np.concatenate([self.what[kept], what])
        order = np.argsort(all_where)
        return Chunk(
            self.size,
            base=self._base,
            fetch=self._fetch,
            key=self.key,
            itemsize=self._itemsize,
            where=all_where[order],
            what=all_what[order],
            base_serial=self.base_serial,
        )

    def same_base(self, other: "Chunk") -> bool:
        """Whether both lie over the very same indexes."""
        return self.base_serial == other.base_serial


@dataclass(frozen=True, eq=False)
class Column:
    """The entries of one variable. Equality is identity: a column that changed is another column."""

    segments: tuple[Segment, ...]
    chunks: tuple[Chunk, ...]
    serial: int = field(default_factory=lambda: next(_serial))

    @property
    def length(self) -> int:
        """Records this column reaches; beyond is blank."""
        return (len(self.chunks) - 1) * CHUNK + self.chunks[-1].size if self.chunks else 0

    @property
    def token_count(self) -> int:
        """How many tokens there are, used or not."""
        return sum(segment.size for segment in self.segments)

    def texts(self) -> Texts:
        """All tokens as one Arrow array."""
        return joined([segment.texts for segment in self.segments])

    def texts_at(self, tokens: npt.NDArray[Any]) -> list[str]:
        """The texts of a few tokens, in the order asked for."""
        texts: list[str] = taken([segment.texts for segment in self.segments], tokens).to_pylist()
        return texts

    def indexes(self, start: int, stop: int) -> Indexes:
        """Tokens of the records start..stop-1 (0-based), blanks beyond the end."""
        out = np.zeros(max(stop - start, 0), np.uint32)
        for number in range(start // CHUNK, min(-(-stop // CHUNK), len(self.chunks))):
            chunk, first = self.chunks[number], number * CHUNK
            low, high = max(start, first), min(stop, first + chunk.size)
            if low < high:
                out[low - start : high - start] = chunk.indexes[low - first : high - first]
        return out

    def counts(self, present: npt.NDArray[np.bool_] | None, records: int) -> npt.NDArray[np.int64]:
        """How often each token occurs among `records` records (`present` masks out removed ones)."""
        out = np.zeros(self.token_count, np.int64)
        for number, chunk in enumerate(self.chunks):
            indexes = chunk.indexes
            if present is not None:
                first = number * CHUNK
                indexes = indexes[present[first : first + chunk.size]]
            counted = np.bincount(indexes)
            out[: counted.size] += counted
        total = records if present is None else int(present.sum())
        out[0] += total - int(out.sum())
        return out

    def find(self, texts: Sequence[str] | Texts) -> npt.NDArray[np.int64]:
        """The token of each text (a list, or Arrow texts), -1 where the column does not have it."""
        out = np.full(len(texts), -1, np.int64)
        wanted, first = texts if isinstance(texts, pa.Array) else large_texts(texts), 0
        few = len(wanted) <= FEW and len(wanted.unique()) == len(wanted)
        for segment in self.segments:
            if few:  # the hash is made of what is looked for, not of all that is there
                found = pc.fill_null(pc.index_in(segment.texts, wanted), -1).to_numpy()
                tokens = np.flatnonzero(found >= 0)
                out[found[tokens]] = tokens + first
            else:
                found = pc.fill_null(pc.index_in(wanted, segment.texts), -1).to_numpy()
                hit = (found >= 0) & (out < 0)
                out[hit] = found[hit] + first
            first += segment.size
        return out

    def kept(self, keep: npt.NDArray[np.bool_], records: int) -> "Column":
        """The column of those of `records` records that are to be kept, in their order."""
        return Column(self.segments, chunks_of(self.indexes(0, records)[keep]))

    def appended(self, other: "Column", at: int) -> "Column":
        """The column with the entries of another behind position `at`, which this column does not exceed."""
        grown, known = self._reaching(at)._knowing(other)
        came = known[other.indexes(0, other.length)]
        chunks = list(grown.chunks)
        if chunks and chunks[-1].size < CHUNK:
            came = np.concatenate([chunks.pop().indexes, came])
        return Column(grown.segments, (*chunks, *chunks_of(came)))

    def with_entries_of(self, other: "Column", positions: Positions, records: Positions) -> "Column":
        """The column with entries of another: at each of `positions` (ascending) that of the record beside it."""
        if not positions.size:
            return self
        grown, known = self._knowing(other)
        return grown.with_tokens_at(
            positions, known[other.indexes(0, int(records.max()) + 1)[records]].astype(np.uint32)
        )

    def _knowing(self, other: "Column") -> tuple["Column", npt.NDArray[np.int64]]:
        """The column that knows all tokens of another, and its own token for each of them."""
        texts = other.texts()
        tokens = self.find(texts)
        new = np.flatnonzero(tokens < 0)
        if not new.size:
            return self, tokens
        tokens[new] = np.arange(new.size) + self.token_count
        return Column(self.with_more_texts(pc.take(texts, pa.array(new))), self.chunks), tokens

    def with_entries(self, entries: Mapping[int, str]) -> "Column":
        """The column with other entries at some records (0-based position → text)."""
        texts = list(dict.fromkeys(entries.values()))
        grown, tokens = self._with_tokens(texts)
        token_of = dict(zip(texts, tokens.tolist(), strict=True))
        positions = np.array(sorted(entries), np.int64)
        what = np.array([token_of[entries[position]] for position in positions.tolist()], np.uint32)
        return grown.with_tokens_at(positions, what)

    def with_tokens_at(self, positions: Positions, what: npt.NDArray[np.uint32]) -> "Column":
        """The column with other tokens at some records (positions ascending)."""
        if not positions.size:
            return self
        grown = self._reaching(int(positions[-1]) + 1)
        chunks = list(grown.chunks)
        owners = positions // CHUNK
        for number in np.unique(owners).tolist():
            here = owners == number
            chunks[number] = chunks[number].patched(positions[here] - number * CHUNK, what[here])
        return Column(grown.segments, tuple(chunks))

    def with_replaced(self, tokens: npt.NDArray[np.int64], text: str) -> "Column":
        """The column with one text wherever one of `tokens` stood."""
        grown, (target,) = self._with_tokens([text])
        lookup = np.arange(grown.token_count, dtype=np.uint32)
        lookup[tokens] = target
        chunks = []
        for chunk in grown.chunks:
            before = chunk.indexes
            after = lookup[before]
            chunks.append(chunk if np.array_equal(before, after) else Chunk(chunk.size, base=smallest(after)))
        return Column(grown.segments, tuple(chunks))

    def _with_tokens(self, texts: Sequence[str]) -> tuple["Column", npt.NDArray[np.int64]]:
        """The column that knows all these texts, and the token of each."""
        tokens = self.find(texts)
        new = [text for text, token in zip(texts, tokens.tolist(), strict=True) if token < 0]
        if not new:
            return self, tokens
        tokens[tokens < 0] = np.arange(len(new)) + self.token_count
        return Column(self.with_more_texts(large_texts(new)), self.chunks), tokens

    def with_more_texts(self, more: Texts) -> tuple[Segment, ...]:
        """The segments with more tokens at their end; a small last segment is extended."""
        *before, last = self.segments
        if last.size + len(more) <= TAIL_SIZE:
            return (*before, last.extended(more))
        return (*self.segments, Segment.of(more))

    def _reaching(self, length: int) -> "Column":
        """The column with blanks up to `length` records."""
        if length <= self.length:
            return self
        chunks = list(self.chunks)
        if chunks and chunks[-1].size < CHUNK:
            last = chunks.pop()
            size = min(CHUNK, length - len(chunks) * CHUNK)
            chunks.append(
                Chunk(size, base=smallest(np.concatenate([last.indexes, np.zeros(size - last.size, np.uint8)])))
            )
        while (reached := len(chunks) * CHUNK) < length:
            size = min(CHUNK, length - reached)
            chunks.append(Chunk(size, base=smallest(np.zeros(size, np.uint8))))
        return Column(self.segments, tuple(chunks))


EMPTY_COLUMN = Column((BLANK_SEGMENT,), ())


def column_of(indexes: npt.NDArray[Any], texts: Texts) -> Column:
    """A column from one index per record and the distinct texts they point to.

    The texts are reordered so that the blank is token 0; they must be distinct.
    """
    blank = pc.index(texts, pa.scalar("", pa.large_string())).as_py()
    if blank != 0:
        others = texts if blank < 0 else pa.concat_arrays([texts[:blank], texts[blank + 1 :]])
        if blank < 0:
            indexes = indexes + 1
        else:
            lookup = smallest(np.concatenate([np.arange(1, blank + 1), [0], np.arange(blank + 1, len(texts))]))
            indexes = lookup[indexes]
        texts = pa.concat_arrays([large_texts([""]), others])
    return Column((Segment.of(texts),), chunks_of(indexes))


def chunks_of(indexes: npt.NDArray[Any]) -> tuple[Chunk, ...]:
    """One index per record as chunks."""
    return tuple(
        Chunk(min(CHUNK, len(indexes) - first), base=smallest(indexes[first : first + CHUNK]))
        for first in range(0, len(indexes), CHUNK)
    )


def column_of_texts(texts: Any) -> Column:
    """A column from one text per record: a list, or an Arrow (chunked) array of strings."""
    if not isinstance(texts, pa.ChunkedArray | pa.Array):
        texts = large_texts(texts)
    encoded = pc.dictionary_encode(texts)
    if isinstance(encoded, pa.ChunkedArray):
        encoded = encoded.combine_chunks() if encoded.num_chunks else pa.array([], encoded.type)
        encoded = encoded.chunk(0) if isinstance(encoded, pa.ChunkedArray) else encoded
    distinct = encoded.dictionary.cast(pa.large_string())
    return column_of(encoded.indices.to_numpy(zero_copy_only=False), distinct)
