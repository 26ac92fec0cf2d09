"""A memory of what was worked out, bounded by bytes, that forgets what was used longest ago."""

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import Any, TypeVar

T = TypeVar("T")


class Same:
    """A key that only the very same object equals: for large values that never change, such as tags."""

    __slots__ = ("value",)

    def __init__(self, value: object) -> None:
        self.value = value

    def __hash__(self) -> int:
        return id(self.value)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Same) and self.value is other.value


class Memo:
    """Keeps results under hashable keys, up to about `limit` bytes. Safe between threads."""

    def __init__(self, limit: int) -> None:
        self._limit = limit
        self._held: OrderedDict[Hashable, tuple[Any, int]] = OrderedDict()
        self._bytes = 0
        self._lock = threading.Lock()

    def get(self, key: Hashable, make: Callable[[], T], size: Callable[[T], int]) -> T:
        """What is kept under `key`, else what `make` gives, kept from now on."""
        with self._lock:
            if key in self._held:
                self._held.move_to_end(key)
                kept: T = self._held[key][0]
                return kept
        made = make()
        with self._lock:
            if key not in self._held:
                self._held[key] = (made, weight := size(made) + 200)
                self._bytes += weight
            while self._bytes > self._limit and len(self._held) > 1:
                _, (_, freed) = self._held.popitem(last=False)
                self._bytes -= freed
        return made

    def clear(self) -> None:
        """Forgets everything, so that the next use starts cold."""
        with self._lock:
            self._held.clear()
            self._bytes = 0
