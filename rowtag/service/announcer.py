"""Tells every open window of a study what happens to it."""

import asyncio
import threading
from collections import defaultdict
from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True)
class Event:
    """Something that happened: its kind, and what is told of it (JSON data)."""

    kind: str
    told: dict[str, Any]


class Announcer:
    """Queues of listeners per study; announcing works from any thread."""

    def __init__(self) -> None:
        self._listeners: dict[str, set[tuple[asyncio.AbstractEventLoop, asyncio.Queue[Event]]]] = defaultdict(set)
        self._lock = threading.Lock()

    def listen(self, study: str) -> asyncio.Queue[Event]:
        """A queue that gets all events of a study."""
        queue: asyncio.Queue[Event] = asyncio.Queue()
        with self._lock:
            self._listeners[study].add((asyncio.get_running_loop(), queue))
        return queue

    def leave(self, study: str, queue: asyncio.Queue[Event]) -> None:
        """No more for this queue."""
        with self._lock:
            left = {each for each in self._listeners.pop(study, ()) if each[1] is not queue}
            if left:
                self._listeners[study] = left

    def announce(self, study: str, event: Event) -> None:
        """Tells all listeners of a study."""
        with self._lock:
            listeners = list(self._listeners.get(study, ()))
        for loop, queue in listeners:
            loop.call_soon_threadsafe(queue.put_nowait, event)
