"""Chunks: the tokens of 65,536 records, as indexes that never change and a patch laid over them."""

import itertools
from collections.abc import Callable
from typing import Any

import numpy as np
import numpy.typing as npt

CHUNK = 65_536
"""Records in one chunk of indexes."""
BLOCK = CHUNK // 4
"""Records that are looked at at a time: what is held for each of them meanwhile stays small beside the study."""
FOLD_PATCH_AT = 2_048
"""Patched records in a chunk at which the patch is folded into it."""

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
    """The tokens of 65,536 records: indexes of the first ones that never change, and the patch laid over them.

    `where` (int64, ascending, positions within the chunk) and `what` (uint32, tokens) are the patch, which may reach
    further than the indexes. What lies beyond both is blank.
    """

    __slots__ = ("__weakref__", "_base", "_fetch", "_itemsize", "base_serial", "key", "size", "what", "where")

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
        """How many indexes there are, the patch aside."""
        self.key = key
        self.base_serial = next(_serial) if base_serial is None else base_serial
        self._base = base
        self._fetch = fetch
        self._itemsize = itemsize
        self.where: Positions = np.empty(0, np.int64) if where is None else where
        self.what: npt.NDArray[np.uint32] = np.empty(0, np.uint32) if what is None else what
        self.where.setflags(write=False)
        self.what.setflags(write=False)

    def __reduce__(self) -> Any:
        """As another process takes it: its indexes and its patch, not how they are kept."""
        return "BLANK_CHUNK" if self is BLANK_CHUNK else (_again, (self.base, self.where, self.what))

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
    def reach(self) -> int:
        """Records up to the last that is recorded here; beyond is blank."""
        return max(self.size, int(self.where[-1]) + 1) if self.where.size else self.size

    @property
    def indexes(self) -> Indexes:
        """The tokens of the records that this chunk reaches, the patch applied."""
        if not self.where.size:
            return self.base
        out = np.zeros(self.reach, np.uint32)
        out[: self.size] = self.base
        out[self.where] = self.what
        return out

    def at(self, where: Positions) -> npt.NDArray[np.uint32]:
        """The tokens at some positions within the chunk."""
        out = np.zeros(where.size, np.uint32)
        based = where < self.size
        out[based] = self.base[where[based]]
        if self.where.size:
            found = np.minimum(np.searchsorted(self.where, where), self.where.size - 1)
            patched = self.where[found] == where
            out[patched] = self.what[found[patched]]
        return out

    def patched(self, where: Positions, what: npt.NDArray[np.uint32]) -> "Chunk":
        """This chunk with other tokens at some positions (ascending); folds the patch in when it has grown."""
        kept = ~np.isin(self.where, where)
        all_where = np.concatenate([self.where[kept], where])
        all_what = np.concatenate([self.what[kept], what])
        order = np.argsort(all_where)
        laid = self.over(all_where[order], all_what[order])
        return Chunk(laid.reach, base=smallest(laid.indexes)) if laid.where.size > FOLD_PATCH_AT else laid

    def over(self, where: Positions, what: npt.NDArray[np.uint32]) -> "Chunk":
        """A chunk over the same indexes with this patch in place of its own; itself where that is the same."""
        if np.array_equal(self.where, where) and np.array_equal(self.what, what):
            return self
        return Chunk(
            self.size,
            base=self._base,
            fetch=None if self._base is not None else lambda: self.base,
            key=self.key,
            itemsize=self._itemsize,
            where=where,
            what=what,
            base_serial=self.base_serial,
        )

    def same_base(self, other: "Chunk") -> bool:
        """Whether both lie over the very same indexes."""
        return self.base_serial == other.base_serial


def _again(base: Indexes, where: Positions, what: npt.NDArray[np.uint32]) -> Chunk:
    base.setflags(write=False)
    return Chunk(len(base), base=base, where=where, what=what)


BLANK_CHUNK = Chunk(0, base=smallest(np.empty(0, np.uint8)))
"""A chunk in which nothing was ever recorded."""
