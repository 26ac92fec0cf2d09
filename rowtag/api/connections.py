"""Connections are limited in number and in silence: whoever opens many and says nothing keeps nobody else out."""

import asyncio
import logging
import resource
from collections.abc import Callable
from typing import Any

import h11
import uvicorn
from uvicorn.protocols.http.h11_impl import H11Protocol

MOST = 1_000
"""Connections at once. One more takes the place of the one that has waited longest without asking anything."""
SILENCE = 30.0
"""Seconds that a connection may take to say what it asks, may pause while it does, or may not take what it is sent."""
OPEN_FILES = 65_536
"""Files that may be open at once, where the system allows it."""
_FOR_STUDIES = 256
"""Files that are left for studies and readers."""
_TOLD_AGAIN = 60.0

_log = logging.getLogger("uvicorn.error")


class Connection(H11Protocol):
    """A connection that is closed where nothing comes of it."""

    def connection_made(self, transport: asyncio.Transport) -> None:  # type: ignore[override]
        """Takes a connection, in place of another where there are too many."""
        super().connection_made(transport)
        self._looking: asyncio.TimerHandle | None = None
        self._asked = False
        self._since = self.loop.time()
        """When it began to ask, was heard last, or was sent something that it does not take."""
        if len(self.connections) > most_connections() and not self._takes_a_place():
            self._say("503 Service Unavailable", "There are too many connections; try again.")
        else:
            self._look()

    def connection_lost(self, exc: Exception | None) -> None:
        """Forgets it."""
        if self._looking is not None:
            self._looking.cancel()
        super().connection_lost(exc)

    def data_received(self, data: bytes) -> None:
        """Hears what comes. A head has to be there in time, however slowly it comes; a body goes on."""
        if self.conn.their_state is not h11.IDLE:
            self._since = self.loop.time()
        super().data_received(data)
        self._asked |= self.conn.their_state is not h11.IDLE

    def on_response_complete(self) -> None:
        """What is asked next begins here."""
        self._since = self.loop.time()
        super().on_response_complete()

    def pause_writing(self) -> None:
        """More was sent than is taken at present."""
        self._since = self.loop.time()
        super().pause_writing()

    @property
    def silent(self) -> bool:
        """Whether it is the other side that is waited for."""
        if self.conn.their_state is h11.IDLE or self.flow.write_paused:
            return True
        return self.conn.their_state is h11.SEND_BODY and not self.flow.read_paused

    def _look(self) -> None:
        """Closes it where it has been silent for too long; looks again a little later else."""
        if self.transport.is_closing():
            return
        if self.silent and self.loop.time() - self._since > SILENCE:
            self._say("408 Request Timeout", "Nothing came for too long.")
        else:
            self._looking = self.loop.call_later(SILENCE / 4, self._look)

    def _takes_a_place(self) -> bool:
        """Closes the connection that has waited longest for its other side to ask; sooner one that never has."""
        others = [each for each in self.connections if isinstance(each, Connection) and each is not self]
        idle = [each for each in others if each.conn.their_state is h11.IDLE]
        if not idle:
            return False
        longest = min(idle, key=lambda each: (each._asked, each._since))
        self.connections.discard(longest)
        longest.transport.abort()
        return True

    def _say(self, status: str, sentence: str) -> None:
        """Closes it, with a reply where none was begun."""
        if self.cycle is None or self.cycle.response_complete or not self.cycle.response_started:
            body = sentence.encode()
            head = [
                f"HTTP/1.1 {status}",
                "Content-Type: text/plain",
                f"Content-Length: {len(body)}",
                "Connection: close",
            ]
            self.transport.write("\r\n".join([*head, "", ""]).encode() + body)
        self.connections.discard(self)
        if self.flow.write_paused:
            self.transport.abort()
        else:
            self.transport.close()


class Server(uvicorn.Server):
    """Says of what goes wrong outside of any request once in a while, not a thousand times a second."""

    async def startup(self, sockets: Any = None) -> None:
        """Begins to listen."""
        loop = asyncio.get_running_loop()
        loop.set_exception_handler(telling_once(loop))
        await super().startup(sockets=sockets)

    async def shutdown(self, sockets: Any = None) -> None:
        """Lets windows that listen go first: else they would be cut off, each with words of its own in the log."""
        self.config.app.state.context.announcer.close()  # type: ignore[union-attr]
        await super().shutdown(sockets=sockets)


def telling_once(loop: asyncio.AbstractEventLoop) -> Callable[[asyncio.AbstractEventLoop, dict[str, Any]], None]:
    """What tells the log of errors that no request waits for, each once a minute: where no more files may be open, that
    is met with every try to take a connection."""
    told: dict[str, float] = {}

    def tell(_loop: asyncio.AbstractEventLoop, context: dict[str, Any]) -> None:
        error = context.get("exception")
        said = f"{context['message']} ({error})" if error is not None else str(context["message"])
        if loop.time() - told.get(said, -_TOLD_AGAIN) >= _TOLD_AGAIN:
            told[said] = loop.time()
            _log.error(said, exc_info=None if isinstance(error, OSError) else error)

    return tell


def most_connections() -> int:
    """How many connections there may be at once: fewer where few files may be open."""
    soft, _ = resource.getrlimit(resource.RLIMIT_NOFILE)
    return max(16, min(MOST, soft - _FOR_STUDIES)) if soft != resource.RLIM_INFINITY else MOST


def allow_open_files() -> None:
    """Lets this process open as many files as the system allows it, each connection being one."""
    soft, hard = resource.getrlimit(resource.RLIMIT_NOFILE)
    wanted = OPEN_FILES if hard == resource.RLIM_INFINITY else min(hard, OPEN_FILES)
    if soft != resource.RLIM_INFINITY and soft < wanted:
        resource.setrlimit(resource.RLIMIT_NOFILE, (wanted, hard))
