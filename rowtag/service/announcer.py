"""Tells every open window of a study that there is a new revision."""

import asyncio
import threading
from collections import defaultdict


class Announcer:
    """Queues of listeners per study; announcing works from any thread."""

    def __init__(self) -> None:
        self._listeners: dict[str, set[tuple[asyncio.AbstractEventLoop, asyncio.Queue[int]]]] = defaultdict(set)
        self._lock = threading.Lock()

    def listen(self, study: str) -> asyncio.Queue[int]:
        """A queue that gets each new revision of a study."""
        queue: asyncio.Queue[int] = asyncio.Queue()
        with self._lock:
            self._listeners[study].add((asyncio.get_running_loop(), queue))
        return queue

    def leave(self, study: str, queue: asyncio.Queue[int]) -> None:
        """No more for this queue."""
        with self._lock:
            self._listeners[study] = {each for each in self._listeners[study] if each[1] is not queue}

    def announce(self, study: str, revision: int) -> None:
        """Tells all listeners of a study."""
        with self._lock:
            listeners = list(self._listeners.get(study, ()))
        for loop, queue in listeners:
            loop.call_soon_threadsafe(queue.put_nowait, revision)
