"""Reading what people hand in, in processes beside the server.

Whatever a file makes of its reader, it takes down nothing but such a process, and holds up nobody who does something
else: a reader has limits of memory and of time, and is started anew when it dies.
"""

import multiprocessing
import pickle
import resource
import signal
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from functools import partial
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any, ParamSpec, TypeVar

from rowtag.core.errors import NotKept, Place, TooLarge, UnreadableFile
from rowtag.core.words import megabytes
from rowtag.formats.damage import told
from rowtag.formats.table import Watch, unwatched
from rowtag.service.machine import MEMORY

MOST_READERS = 3
"""Files that are read at once; others wait."""
MOST_MEMORY = max(2 << 30, MEMORY * 3 // 4)
"""Bytes that one reader may take."""
MOST_SILENT = 120.0
"""Seconds after which a reader that has said nothing is given up."""
_GLANCE = 0.1
_TIRED = 512 << 10
"""Kilobytes from which on a reader that has done its work is ended, so that its memory goes."""
_PRELOADED = (
    "rowtag.service.files",
    "rowtag.service.sheets",
    *(f"rowtag.documents.{each}" for each in ("document", "containers.pdf", "containers.word", "containers.opentext")),
    *(f"rowtag.formats.{each}" for each in ("delimited", "fixed", "workbook", "parquet")),
)
"""What a reader has loaded before it is needed."""

P = ParamSpec("P")
T = TypeVar("T")

_context = multiprocessing.get_context("forkserver")  # forked from a process that holds the readers and nothing else
_context.set_forkserver_preload(list(_PRELOADED))


class Broken(Exception):
    """A reader died at its work."""


class Silent(Exception):
    """A reader has said nothing for too long."""


class Apart:
    """Reads in processes beside this one, as many at once as are allowed."""

    def __init__(self, readers: int = MOST_READERS, memory: int = MOST_MEMORY, silent: float = MOST_SILENT) -> None:
        self._memory = memory
        self._silent = silent
        self._room = threading.Semaphore(readers)
        self._idle: list[_Reader] = []
        self._lock = threading.Lock()

    def read(self, name: str, work: Callable[..., T], *args: Any, watch: Watch | None = None) -> T:
        """What `work` makes of its arguments; told of its progress as its last argument where `watch` is given.

        `name` is the file that is read. Raises what the work raises; UnreadableFile where its reader dies of it,
        TooLarge where it takes more memory or time than allowed, Cancelled where `watch` raises that.
        """
        with self._room:
            reader = self._taken()
            try:
                found: T = reader.do(name, work, args, watch)
            except Broken:
                raise _gave_up(name, self._memory) from None
            except Silent:
                raise TooLarge(
                    "Reading this takes too long; it was given up.",
                    remedy="Split it, or save the data alone as .csv (UTF-8).",
                    where=Place(name),
                ) from None
            finally:
                self._back(reader)
            return found

    def warm(self) -> None:
        """Starts a first reader beside whoever waits, so that the first file need not."""
        threading.Thread(target=self._start_one, daemon=True).start()

    def _start_one(self) -> None:
        with suppress(NotKept):  # whoever reads first is told
            self._back(self._taken())

    def close(self) -> None:
        """Ends all readers that do nothing."""
        with self._lock:
            idle, self._idle = self._idle, []
        for reader in idle:
            reader.end()

    def _taken(self) -> "_Reader":
        with self._lock:
            while self._idle:
                reader = self._idle.pop()
                if reader.alive:
                    return reader
        try:
            return _Reader(self._memory, self._silent)
        except OSError as error:  # it is started through a socket in the temporary folder
            raise NotKept(
                f"Nothing can be read now: the system starts no reader ({error.strerror or error}).",
                remedy="See that the temporary folder of this machine can be written to, then try again.",
            ) from None

    def _back(self, reader: "_Reader") -> None:
        if reader.alive:
            with self._lock:
                self._idle.append(reader)


def _gave_up(name: str, memory: int) -> UnreadableFile:
    return UnreadableFile(
        f"This breaks its reader, or makes it take more than the {megabytes(memory)} of memory allowed.",
        remedy="Save the data alone, as .csv (UTF-8) or as a new workbook.",
        where=Place(name),
    )


class _Reader:
    """One process, which does one piece of work after the other; it is ended when one goes wrong or is stopped."""

    def __init__(self, memory: int, silent: float) -> None:
        self._silent = silent
        self._pipe, theirs = _context.Pipe()
        self._process = _context.Process(target=_serve, args=(theirs, memory), daemon=True)
        self._process.start()
        theirs.close()
        self.alive = True

    def do(self, name: str, work: Callable[..., Any], args: tuple[Any, ...], watch: Watch | None) -> Any:
        """What the work comes to. Raises what it raises, Broken where the process dies, Silent where it never ends."""
        try:
            self._pipe.send((name, work, args, watch is not None))
            kind, said = self._heard(watch or unwatched)
            if kind == "done":
                buffers = [self._pipe.recv_bytes() for _ in range(said)]
                if self._pipe.recv() == "tired":
                    self.end()
                return pickle.loads(buffers[0], buffers=buffers[1:])
        except (EOFError, OSError):
            self.end()
            raise Broken from None
        except BaseException:
            self.end()
            raise
        raise said

    def _heard(self, watch: Watch) -> tuple[str, Any]:
        """What the process says at last; on the way how far it is."""
        at, since = (0.0, "reading"), time.monotonic()
        while True:
            if self._pipe.poll(_GLANCE):
                kind, said = self._pipe.recv()
                if kind != "at":
                    return kind, said
                at, since = said, time.monotonic()
            elif time.monotonic() - since > self._silent:
                raise Silent
            watch(*at)  # which raises where somebody stopped it

    def end(self) -> None:
        """Ends the process at once."""
        self.alive = False
        self._process.kill()
        self._process.join()
        self._pipe.close()


def _serve(pipe: Connection, memory: int) -> None:
    """What a reader's process does: one piece of work after the other, until nobody asks any more."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    most = _data_size() + memory
    resource.setrlimit(resource.RLIMIT_DATA, (most, most))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))

    def watch(share: float, doing: str) -> None:
        pipe.send(("at", (share, doing)))

    while True:
        try:
            name, work, args, watched = pipe.recv()
        except EOFError:
            return
        try:
            found = work(*args, watch) if watched else work(*args)
        except BaseException as error:
            answer = partial(pipe.send, ("failed", told(error, name)))
        else:
            answer = partial(_send, pipe, found)
            del found
        try:
            answer()
        except BrokenPipeError:  # whoever asked is gone
            return
        del answer


def _data_size() -> int:
    """Bytes of memory that this process has reserved, used or not."""
    pages = Path("/proc/self/statm").read_text().split()[5]
    return int(pages) * resource.getpagesize()


def _send(pipe: Connection, found: Any) -> None:
    """Sends a result; columns go as the bytes that they are, uncopied."""
    buffers: list[pickle.PickleBuffer] = []
    head = pickle.dumps(found, 5, buffer_callback=buffers.append)
    pipe.send(("done", 1 + len(buffers)))
    pipe.send_bytes(head)
    for buffer in buffers:
        pipe.send_bytes(buffer.raw())
    pipe.send("tired" if resource.getrusage(resource.RUSAGE_SELF).ru_maxrss > _TIRED else "")


apart = Apart()
"""The readers of files in this process."""
typed = Apart(readers=2)
"""Readers of what is typed or pasted, which wait for no file."""
