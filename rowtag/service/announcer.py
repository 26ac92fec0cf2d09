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


Heard = asyncio.Queue[Event | None]


class Announcer:
    """Queues of listeners per study; announcing works from any thread."""

    def __init__(self) -> None:
        self._listeners: dict[str, set[tuple[asyncio.AbstractEventLoop, Heard]]] = defaultdict(set)
        self._lock = threading.Lock()

    def listen(self, study: str) -> Heard:
        """A queue that gets all events of a study, and None when there will be no more."""
        queue: Heard = asyncio.Queue()
        with self._lock:
            self._listeners[study].add((asyncio.get_running_loop(), queue))
        return queue

    def leave(self, study: str, queue: Heard) -> None:
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

    def close(self) -> None:
        """Tells everybody that there will be no more."""
        with self._lock:
            listeners = [each for listening in self._listeners.values() for each in listening]
        for loop, queue in listeners:
            loop.call_soon_threadsafe(queue.put_nowait, None)
