"""Columns: distinct texts or numbers (tokens), and per record a small index into them.

Token 0 of every column is the blank. A column may be shorter than its study; beyond its end is blank.
Indexes come in chunks of 65,536 records, each in the smallest unsigned type that fits. An edit is a
patch beside its chunk, folded in when patches grow; a chunk that holds nothing yet is the blank one, whatever
is recorded in it first being a patch too. Nothing is ever changed in place.
"""

import weakref
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from rowtag.core.chunk import BLANK_CHUNK, CHUNK, Chunk, Indexes, Positions, smallest
from rowtag.core.tokens import BLANK_SEGMENT, Segment, Texts, gathered, joined, large_texts

FEW = 1_000
"""Texts up to which they are few beside those of a column."""
TAIL_SIZE = 1_024
"""Tokens up to which the last segment is extended rather than followed by a new one."""


@dataclass(frozen=True, eq=False)
class Edits:
    """What a column has more or otherwise than an earlier one over the same indexes.

    `grown`: tokens it knows more. Per chunk by its number: positions within it (int64), and the tokens there (uint32).
    """

    grown: int
    chunks: Mapping[int, tuple[Positions, npt.NDArray[np.uint32]]]

    @property
    def positions(self) -> Positions:
        """All positions in the column, ascending."""
        parts = [where + number * CHUNK for number, (where, _) in sorted(self.chunks.items())]
        return np.concatenate(parts) if parts else np.empty(0, np.int64)


@dataclass(frozen=True, eq=False)
class Column:
    """The entries of one variable. Equality is identity: a column that changed is another column."""

    segments: tuple[Segment, ...]
    chunks: tuple[Chunk, ...]
    came: "weakref.ref[Column] | None" = None
    """The column that this one was edited from, as long as somebody holds it."""

    def __reduce__(self) -> Any:
        """As another process takes it: its entries, not what it was edited from."""
        return Column, (self.segments, self.chunks)

    @property
    def length(self) -> int:
        """Records this column reaches; beyond is blank."""
        return (len(self.chunks) - 1) * CHUNK + self.chunks[-1].reach if self.chunks else 0

    @property
    def token_count(self) -> int:
        """How many tokens there are, used or not."""
        return sum(segment.size for segment in self.segments)

    def texts(self) -> Texts:
        """All tokens as one Arrow array."""
        return joined([segment.texts for segment in self.segments])

    def arrow_at(self, tokens: npt.NDArray[Any]) -> Texts:
        """The texts of some tokens, in the order asked for, as an Arrow array."""
        return gathered(self.segments, [each.size for each in self.segments], tokens, Segment.texts_at)

    def texts_at(self, tokens: npt.NDArray[Any]) -> list[str]:
        """The texts of a few tokens, in the order asked for."""
        texts: list[str] = self.arrow_at(tokens).to_pylist()
        return texts

    def indexes(self, start: int, stop: int) -> Indexes:
        """Tokens of the records start..stop-1 (0-based), blanks beyond the end."""
        out = np.zeros(max(stop - start, 0), np.uint32)
        for number in range(start // CHUNK, min(-(-stop // CHUNK), len(self.chunks))):
            chunk, first = self.chunks[number], number * CHUNK
            low, high = max(start, first), min(stop, first + chunk.reach)
            if low < high:
                out[low - start : high - start] = chunk.indexes[low - first : high - first]
        return out

    def tokens_at(self, positions: Positions) -> npt.NDArray[np.int64]:
        """The tokens of some records (0-based, ascending): int64, as many."""
        out = np.zeros(positions.size, np.int64)
        ends = np.searchsorted(positions, np.arange(len(self.chunks) + 1) * CHUNK)
        for number, chunk in enumerate(self.chunks):
            here = slice(ends[number], ends[number + 1])
            if here.start < here.stop:
                out[here] = chunk.at(positions[here] - number * CHUNK)
        return out

    def tokens_in(self, positions: Positions) -> npt.NDArray[np.int64]:
        """The tokens of some records, in any order."""
        order = np.argsort(positions, kind="stable")
        out = np.empty(positions.size, np.int64)
        out[order] = self.tokens_at(positions[order])
        return out

    def counts(self, present: npt.NDArray[np.bool_] | None, records: int) -> npt.NDArray[np.int64]:
        """How often each token occurs among `records` records (`present` masks out removed ones)."""
        return with_blanks(self.counts_filled(present), records if present is None else int(present.sum()))

    def counts_filled(self, present: npt.NDArray[np.bool_] | None) -> npt.NDArray[np.int64]:
        """How often each token but the blank occurs; the blank counts 0, however many records there are."""
        out = np.zeros(self.token_count, np.int64)
        for number, chunk in enumerate(self.chunks):
            indexes = chunk.indexes
            if present is not None:
                first = number * CHUNK
                indexes = indexes[present[first : first + chunk.reach]]
            counted = np.bincount(indexes)
            out[: counted.size] += counted
        out[0] = 0
        return out

    def counts_after(
        self, earlier: "Column", counts: npt.NDArray[np.int64], present: npt.NDArray[np.bool_] | None
    ) -> npt.NDArray[np.int64] | None:
        """`counts_filled`, told from that of an earlier column and what was edited since; None where that cannot be
        told."""
        edits = self.since(earlier)
        if edits is None:
            return None
        out = np.zeros(self.token_count, np.int64)
        out[: counts.size] = counts
        positions = edits.positions
        if present is not None:
            positions = positions[present[positions]]
        np.subtract.at(out, earlier.tokens_at(positions), 1)
        np.add.at(out, self.tokens_at(positions), 1)
        out[0] = 0
        return out

    def find(self, texts: Sequence[str] | Texts) -> npt.NDArray[np.int64]:
        """The token of each text (a list, or Arrow texts), -1 where the column does not have it."""
        out = np.full(len(texts), -1, np.int64)
        wanted, first = texts if isinstance(texts, pa.Array) else large_texts(texts), 0
        few = len(wanted) <= FEW and len(wanted.unique()) == len(wanted)
        for segment in self.segments:
            if few and not segment.numeric:  # the hash is made of what is looked for, not of all that is there
                found = pc.fill_null(pc.index_in(segment.texts, wanted), -1).to_numpy()
                tokens = np.flatnonzero(found >= 0)
                out[found[tokens]] = tokens + first
            else:
                found = segment.find(wanted)
                hit = (found >= 0) & (out < 0)
                out[hit] = found[hit] + first
            first += segment.size
        return out

    # What changed ---------------------------------------------------------------------------

    def since(self, earlier: "Column") -> Edits | None:
        """What was edited since an earlier column; None where this one does not lie over the same indexes and tokens,
        so that it is another column altogether."""
        if len(self.chunks) < len(earlier.chunks) or len(self.segments) < len(earlier.segments):
            return None
        pairs = zip(self.segments, earlier.segments, strict=False)
        if not all(now is then or now.continues(then) for now, then in pairs):
            return None
        longer = [now.size != then.size for now, then in zip(self.segments, earlier.segments, strict=False)]
        if any(longer[:-1]):
            return None
        edited = {}
        for number, chunk in enumerate(self.chunks):
            before = earlier.chunks[number] if number < len(earlier.chunks) else BLANK_CHUNK
            if before is chunk:
                continue
            if not chunk.same_base(before):
                return None
            at = np.minimum(np.searchsorted(before.where, chunk.where), max(before.where.size - 1, 0))
            new = np.ones(chunk.where.size, bool)
            if before.where.size:
                new = (before.where[at] != chunk.where) | (before.what[at] != chunk.what)
            edited[number] = chunk.where[new], chunk.what[new]
        return Edits(self.token_count - earlier.token_count, edited)

    def edited(self, texts: Sequence[str], chunks: Mapping[int, tuple[Positions, npt.NDArray[np.uint32]]]) -> "Column":
        """The column with more tokens, and other tokens at positions within some chunks: what `since` told."""
        segments = self.with_more_texts(large_texts(texts)) if texts else self.segments
        out = list(self.chunks)
        for number, (where, what) in sorted(chunks.items()):
            out += [BLANK_CHUNK] * (number + 1 - len(out))
            out[number] = out[number].patched(where, what)
        return Column(segments, tuple(out), self._origin)

    @property
    def _origin(self) -> "weakref.ref[Column]":
        """Where an edited column came from: this one; or, where this is only a stage on the way, where it came from."""
        return weakref.ref(self)

    # Other columns --------------------------------------------------------------------------

    def mapped(self, new: Texts | npt.NDArray[np.float64], records: int, otherwise: Texts | None = None) -> "Column":
        """The column whose every token became another text, or number (per token; null, "" and NaN are blank).

        Texts: Arrow (token_count); numbers: float64 (token_count), with the texts that stand `otherwise`, where there
        is no number; none of these is spelled as one of the numbers. Tokens are mapped, records are not looked at;
        where the blank becomes something, so do the blanks up to `records` records.
        """
        token_of, segments = _numbered(new, otherwise) if isinstance(new, np.ndarray) else _lettered(new)
        source = self if token_of[0] == 0 else self._reaching(records)
        chunks = (Chunk(chunk.reach, base=smallest(token_of[chunk.indexes])) for chunk in source.chunks)
        return Column(segments, tuple(BLANK_CHUNK if not chunk.size else chunk for chunk in chunks))

    def kept(self, keep: npt.NDArray[np.bool_], records: int) -> "Column":
        """The column of those of `records` records that are to be kept, in their order."""
        return Column(self.segments, chunks_of(self.indexes(0, records)[keep]))

    def taken(self, records: Positions) -> "Column":
        """The entries of some records, in the order asked for (positions; blank where it is -1)."""
        if not records.size:
            return Column(self.segments, ())
        known = np.append(self.indexes(0, int(records.max()) + 1), np.uint32(0))  # the last one stands for -1
        return Column(self.segments, chunks_of(known[records]))

    def appended(self, other: "Column", at: int) -> "Column":
        """The column with the entries of another behind position `at`, which this column does not exceed."""
        grown, known = self._knowing(other)
        came = known[other.indexes(0, other.length)]
        whole, rest = divmod(at, CHUNK)
        chunks = list(grown.chunks) + [BLANK_CHUNK] * (whole - len(grown.chunks))
        if rest:
            begun = chunks.pop().indexes if len(chunks) > whole else np.empty(0, np.uint8)
            came = np.concatenate([begun, np.zeros(rest - begun.size, np.uint8), came])
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
        return self._with_segments(self.with_more_texts(pc.take(texts, pa.array(new)))), tokens

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
        owners = positions // CHUNK
        parts = {}
        for number in np.unique(owners).tolist():
            here = owners == number
            parts[number] = positions[here] - number * CHUNK, what[here]
        return self.edited((), parts)

    def with_replaced(self, tokens: npt.NDArray[np.int64], text: str, records: int) -> "Column":
        """The column with one text wherever one of `tokens` stood; where it is the blank, among `records` records."""
        return self.with_each_replaced(tokens, [text] * tokens.size, records)

    def with_each_replaced(self, tokens: npt.NDArray[np.int64], texts: Sequence[str], records: int) -> "Column":
        """The column with a text of its own in place of each of `tokens`; of the blank, among `records` records."""
        distinct = {text: at for at, text in enumerate(dict.fromkeys(texts))}
        grown, targets = (self._reaching(records) if 0 in tokens else self)._with_tokens(list(distinct))
        lookup = np.arange(grown.token_count, dtype=np.uint32)
        lookup[tokens] = targets[[distinct[text] for text in texts]]
        chunks = []
        for chunk in grown.chunks:
            before = chunk.indexes
            after = lookup[before]
            chunks.append(chunk if np.array_equal(before, after) else Chunk(chunk.reach, base=smallest(after)))
        return Column(grown.segments, tuple(chunks))

    def _with_tokens(self, texts: Sequence[str]) -> tuple["Column", npt.NDArray[np.int64]]:
        """The column that knows all these texts, and the token of each."""
        tokens = self.find(texts)
        new = [text for text, token in zip(texts, tokens.tolist(), strict=True) if token < 0]
        if not new:
            return self, tokens
        tokens[tokens < 0] = np.arange(len(new)) + self.token_count
        return self._with_segments(self.with_more_texts(large_texts(new))), tokens

    def _with_segments(self, segments: tuple[Segment, ...]) -> "_Stage":
        """The same entries among more tokens: a stage on the way to another column."""
        return _Stage(segments, self.chunks, self._origin)

    def with_more_texts(self, more: Texts) -> tuple[Segment, ...]:
        """The segments with more tokens at their end; a small last segment is extended."""
        *before, last = self.segments
        if last.size + len(more) <= TAIL_SIZE and not last.numeric:
            return (*before, last.extended(more))
        return (*self.segments, Segment.of(more))

    def _reaching(self, length: int) -> "Column":
        """The column with its blanks up to `length` records written out."""
        return self if length <= self.length else Column(self.segments, chunks_of(self.indexes(0, length)))


def with_blanks(filled: npt.NDArray[np.int64], total: int) -> npt.NDArray[np.int64]:
    """Counts of tokens with the blanks counted too: whatever of `total` records holds no other."""
    out = filled.copy()
    out[0] = total - int(filled.sum())
    return out


class _Stage(Column):
    """A column that nobody keeps: what is edited of it came from the one before."""

    @property
    def _origin(self) -> "weakref.ref[Column]":
        assert self.came is not None
        return self.came


def _lettered(texts: Texts) -> tuple[npt.NDArray[Any], tuple[Segment, ...]]:
    """Per text its number among the different ones, the blank being 0, and the segments that hold these."""
    encoded = pc.dictionary_encode(pa.concat_arrays([large_texts([""]), pc.fill_null(texts, "")]))
    return encoded.indices.to_numpy()[1:], (Segment.of(encoded.dictionary),)


def _numbered(
    values: npt.NDArray[np.float64], otherwise: Texts | None = None
) -> tuple[npt.NDArray[Any], tuple[Segment, ...]]:
    """Per number its number among the different ones, NaN being 0 for blank, or the text that it is `otherwise` behind
    all numbers; and the segments that hold these."""
    known = np.isfinite(values)
    distinct, index = np.unique(values[known] + 0.0, return_inverse=True)
    tokens = np.zeros(len(values), np.int64)
    tokens[known] = index + 1
    segments = (BLANK_SEGMENT, Segment.of_numbers(distinct)) if distinct.size else (BLANK_SEGMENT,)
    if otherwise is None or known.all():
        return tokens, segments
    at, (texts,) = _lettered(pc.take(otherwise, pa.array(np.flatnonzero(~known))))
    tokens[~known] = np.where(at > 0, at + distinct.size, 0)
    return tokens, (*segments, Segment.of(texts.texts[1:])) if texts.size > 1 else segments


def column_of_numbers(values: npt.NDArray[np.float64]) -> Column:
    """A column from one number per record (float64); what is not finite is blank."""
    tokens, segments = _numbered(values)
    return Column(segments, chunks_of(tokens))


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
