"""The one memory of what was worked out: each result under what it looked at, weighed, worked out once.

What is remembered was made from values that never change (segments, tags, columns, records), so it never goes stale;
it is let go when room is wanted, and first what costs least to make again for the room it takes (Cao and Irani 1997,
GreedyDual-Size). What nobody can ask for any more, since what it was made from is gone, goes before that.
"""

import sys
import threading
import weakref
from collections.abc import Callable, Hashable, Mapping
from typing import Any, TypeVar

T = TypeVar("T")

LIMIT = 768 * 2**20
"""Bytes that results may take altogether, unless somebody who knows the machine says otherwise."""
SMALL = 1_500
"""Bytes that each result takes besides what it holds: its key and what that names, and its place; an estimate."""
SELDOM = 1_000
"""Results that are kept before it is looked again for those that nobody can ask for."""


class Same:
    """A key that only the very same object equals: for large values that never change, such as tags.

    It does not hold the object, where Python allows for that: with the last state of a study that has it, it goes,
    and equals nothing from then on.
    """

    __slots__ = ("_hash", "_value")

    def __init__(self, value: object) -> None:
        self._hash = id(value)
        try:
            self._value: object = weakref.ref(value)
        except TypeError:  # tuples and other plain values
            self._value = value

    @property
    def gone(self) -> bool:
        """Whether the object is not there any more."""
        return isinstance(self._value, weakref.ref) and self._value() is None

    def _object(self) -> object:
        return self._value() if isinstance(self._value, weakref.ref) else self._value

    def __hash__(self) -> int:
        return self._hash

    def __eq__(self, other: object) -> bool:
        if not isinstance(other, Same) or self._hash != other._hash or self.gone:
            return False
        return self._object() is other._object()


def weight(value: object) -> int:
    """Bytes that a result takes. Whatever has `nbytes` says so itself; what it shares with others does not count."""
    kind = type(value)
    if kind in _PLAIN:
        return sys.getsizeof(value)
    own = getattr(value, "nbytes", None)
    if own is not None:
        return int(own)
    if kind in (tuple, list, frozenset, set):
        return sys.getsizeof(value) + sum(map(weight, value))  # type: ignore[call-overload]
    if isinstance(value, Mapping):
        return sys.getsizeof(value) + sum(weight(key) + weight(each) for key, each in value.items())
    parts = getattr(value, "__dict__", None)
    return sys.getsizeof(value) if parts is None else sys.getsizeof(value) + sum(map(weight, parts.values()))


_PLAIN = frozenset({int, float, bool, str, bytes, type(None)})


class _Held:
    """A result with its weight, what it cost, and its rank: of two, the one with the lower is let go first.

    `made_from`: what its key names without holding it.
    """

    __slots__ = ("cost", "made_from", "rank", "value", "weight")

    def __init__(self, value: Any, cost: float, heavy: int, floor: float, made_from: tuple[Same, ...]) -> None:
        self.value, self.cost, self.weight, self.made_from = value, cost, heavy, made_from
        self.rank = floor + cost / heavy


class Engine:
    """Keeps results under hashable keys. Safe between threads: who asks for what is being made waits for it.

    `clock` gives seconds, by which it is told what a result cost; without one all cost the same.
    """

    def __init__(self, limit: int = LIMIT, clock: Callable[[], float] = lambda: 0.0) -> None:
        self.limit = limit
        self.clock = clock
        self._held: dict[Hashable, _Held] = {}
        self._making: dict[Hashable, threading.Event | None] = {}  # an event where somebody waits
        self._bytes = 0
        self._floor = 0.0
        self._kept = 0  # since it was last looked for what nobody can ask for
        self._lock = threading.Lock()

    @property
    def nbytes(self) -> int:
        """Bytes that all results take."""
        return self._bytes

    def get(self, key: Hashable, make: Callable[[], T]) -> T:
        """What is remembered under `key`, else what `make` gives, remembered from now on."""
        while True:
            with self._lock:
                held = self._held.get(key)
                if held is not None:
                    held.rank = self._floor + held.cost / held.weight
                    found: T = held.value
                    return found
                if key not in self._making:
                    self._making[key] = None
                    break
                making = self._making[key] = self._making[key] or threading.Event()
            making.wait()
        try:
            begun = self.clock()
            value = make()
            self._keep(key, value, self.clock() - begun)
            return value
        finally:
            with self._lock:
                waited_for = self._making.pop(key)
            if waited_for is not None:
                waited_for.set()

    def latest(self, key: Hashable, version: Hashable, make: Callable[[], T]) -> T:
        """What `make` gives for a version of something of which only the version asked for last is remembered."""
        made = self.get((key, version), make)
        last = self.known(key)
        if last != version:
            if last is not None:
                self.drop((key, last))
            self._keep(key, version, 0.0)
        return made

    def drop(self, key: Hashable) -> None:
        """Lets go of what is remembered under a key."""
        with self._lock:
            held = self._held.pop(key, None)
            self._bytes -= held.weight if held is not None else 0

    def known(self, key: Hashable) -> Any:
        """What is remembered under a key, or None; nothing is worked out."""
        with self._lock:
            held = self._held.get(key)
            return None if held is None else held.value

    def forget(self) -> None:
        """Forgets everything, so that the next use starts cold."""
        with self._lock:
            self._held.clear()
            self._bytes, self._floor = 0, 0.0

    def _keep(self, key: Hashable, value: object, cost: float) -> None:
        heavy = weight(value) + SMALL
        made_from = tuple(_sames(key))
        with self._lock:
            before = self._held.get(key)
            self._held[key] = _Held(value, max(cost, 1e-6), heavy, self._floor, made_from)
            self._bytes += heavy - (before.weight if before is not None else 0)
            self._kept += 1
            if self._kept > SELDOM + len(self._held) // 4:
                self._let_go()
            if self._bytes > self.limit:
                self._make_room()

    def _let_go(self) -> None:
        """Lets go of what was made from something that is gone: nobody can ask for it."""
        self._kept = 0
        for key in [key for key, held in self._held.items() if any(each.gone for each in held.made_from)]:
            self._bytes -= self._held.pop(key).weight

    def _make_room(self) -> None:
        """Lets go of what ranks lowest until a tenth of the room is free, so that this is seldom done."""
        for key in sorted(self._held, key=lambda each: self._held[each].rank)[:-1]:
            gone = self._held.pop(key)
            self._bytes -= gone.weight
            self._floor = gone.rank
            if self._bytes <= 0.9 * self.limit:
                return


def _sames(key: Hashable) -> set[Same]:
    """What a key names without holding it."""
    found, left = set[Same](), [key]
    while left:
        part = left.pop()
        if type(part) is Same:
            found.add(part)
        elif type(part) is tuple:
            left += part
    return found


engine = Engine()
"""The engine of this process."""
