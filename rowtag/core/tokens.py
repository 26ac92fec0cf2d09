"""Segments: the distinct texts of a column, in order of arrival, append-only."""

import itertools
from collections.abc import Callable, Iterable
from typing import Any

import pyarrow as pa

Texts = Any  # pa.LargeStringArray; pyarrow carries no types

_serial = itertools.count()


def large_texts(texts: Iterable[str]) -> Texts:
    """An Arrow large string array of the given texts."""
    return pa.array(list(texts), type=pa.large_string())


class Segment:
    """A run of tokens that never changes. What was kept on disk is fetched at its first use.

    `serial` tells segments apart within this process (for caches); `size` is known without fetching.
    """

    __slots__ = ("_fetch", "_texts", "key", "serial", "size")

    def __init__(
        self, size: int, *, texts: Texts = None, fetch: Callable[[], Texts] | None = None, key: str | None = None
    ) -> None:
        assert texts is not None or fetch is not None
        assert texts is None or len(texts) == size
        self.serial = next(_serial)
        self.size = size
        self.key = key
        self._texts = texts
        self._fetch = fetch

    @classmethod
    def of(cls, texts: Texts) -> "Segment":
        """A segment made from texts in memory."""
        return cls(len(texts), texts=texts)

    @property
    def texts(self) -> Texts:
        """The tokens, fetched when they are not in memory yet."""
        if self._texts is None:
            assert self._fetch is not None
            self._texts = self._fetch()
            self._fetch = None
        return self._texts

    def extended(self, more: Texts) -> "Segment":
        """A new segment that holds these tokens and then `more`."""
        return Segment.of(pa.concat_arrays([self.texts, more]))


BLANK_SEGMENT = Segment.of(large_texts([""]))
