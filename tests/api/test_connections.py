"""Connections that say nothing, or never end: they keep nobody out, and end by themselves."""

import asyncio
import resource
import socket
import threading
import time
from collections.abc import Iterator
from contextlib import ExitStack
from pathlib import Path

import httpx2
import pytest

from rowtag.api import connections
from rowtag.api.app import create_app
from rowtag.api.connections import Server, telling_once
from rowtag.api.server import configured
from rowtag.store.workspace import Workspace
from tests.conftest import brought_in
from tests.test_server import serving

Address = tuple[str, int]


@pytest.fixture
def served(workspace: Workspace, monkeypatch: pytest.MonkeyPatch) -> Iterator[Address]:
    """A server of little patience, which takes 20 connections."""
    monkeypatch.setattr(connections, "SILENCE", 1.0)
    monkeypatch.setattr(connections, "MOST", 20)
    listener = socket.create_server(("127.0.0.1", 0))
    server = Server(configured(create_app(workspace, hosts=frozenset({"127.0.0.1"}))))
    thread = threading.Thread(target=server.run, args=([listener],))
    thread.start()
    yield listener.getsockname()
    server.should_exit = True
    thread.join()
    listener.close()


def ended(connection: socket.socket) -> bytes:
    """What comes before the other side ends a connection."""
    connection.settimeout(60)
    said = b""
    try:
        while data := connection.recv(65_536):
            said += data
    except ConnectionResetError:
        pass
    return said


@pytest.mark.parametrize(
    "begun",
    [
        b"",
        b"GET /api/studies HTTP/1.1\r\nHost: 127",
        b"POST /api/studies HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 99\r\n\r\n{",
    ],
    ids=["nothing", "half a head", "half a body"],
)
def test_silence_ends(served: Address, begun: bytes) -> None:
    """Before the head, within it, within the body."""
    with socket.create_connection(served) as connection:
        connection.sendall(begun)
        assert ended(connection).startswith(b"HTTP/1.1 408")


def test_a_head_that_drips(served: Address) -> None:
    """A sign now and then is no head: it has to be whole in time."""
    with socket.create_connection(served) as connection:
        began = time.monotonic()
        try:
            for sign in b"GET /api/studies HTTP/1.1\r\nX: " + b"x" * 100_000:
                connection.sendall(bytes([sign]))
                time.sleep(0.05)
        except OSError:
            pass
        assert time.monotonic() - began < 60


def test_what_goes_on_is_left_alone(served: Address, workspace: Workspace) -> None:
    """A body that comes slowly but goes on, and a stream of events on which nothing happens."""
    study = brought_in(workspace)
    with socket.create_connection(served) as stream, socket.create_connection(served) as slow:
        stream.sendall(f"GET /api/studies/{study}/events HTTP/1.1\r\nHost: 127.0.0.1\r\n\r\n".encode())
        body = b'{"title": "Slow"}'
        slow.sendall(b"POST /api/studies HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Type: application/json\r\n")
        slow.sendall(f"Content-Length: {len(body)}\r\nConnection: close\r\n\r\n".encode())
        for sign in body:
            time.sleep(0.2)
            slow.sendall(bytes([sign]))
        assert ended(slow).startswith(b"HTTP/1.1 201")
        workspace.study(study).say(title="Another")
        stream.setblocking(False)
        assert b": listening" in stream.recv(65_536)
        with pytest.raises(BlockingIOError):
            stream.recv(1)  # it is open still


def test_many_silent_ones_keep_nobody_out(served: Address, monkeypatch: pytest.MonkeyPatch) -> None:
    """The longest silent one makes room; who asks is answered at once."""
    monkeypatch.setattr(connections, "SILENCE", 10.0)  # longer than sixty take to come, on any machine
    with ExitStack() as held:
        silent = [held.enter_context(socket.create_connection(served)) for _ in range(60)]
        assert httpx2.get(f"http://127.0.0.1:{served[1]}/api/studies").status_code == 200
        assert ended(silent[0]) == b""  # it made room, without a word
        assert sum(ended(each).startswith(b"HTTP/1.1 408") for each in silent) in (19, 20)


def test_where_all_are_asking_one_more_is_told(
    served: Address, workspace: Workspace, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Nobody who asked something is cut off for another."""
    monkeypatch.setattr(connections, "SILENCE", 60.0)  # nobody is closed for being slow to ask
    study = brought_in(workspace)
    with ExitStack() as held:
        streams = [held.enter_context(socket.create_connection(served)) for _ in range(20)]
        for stream in streams:
            stream.sendall(f"GET /api/studies/{study}/events HTTP/1.1\r\nHost: 127.0.0.1\r\n\r\n".encode())
            assert stream.recv(65_536).startswith(b"HTTP/1.1 200")
        with socket.create_connection(served) as more:
            assert ended(more).startswith(b"HTTP/1.1 503")


def test_more_than_a_thousand(tmp_path: Path) -> None:
    """A server as it is: 1,100 silent connections, and everybody else is answered; its log stays quiet."""
    soft, hard = resource.getrlimit(resource.RLIMIT_NOFILE)
    resource.setrlimit(resource.RLIMIT_NOFILE, (min(hard, 4_096) if hard > 0 else 4_096, hard))
    try:
        args = ("serve", "--workspace", str(tmp_path), "--port", "0", "--no-token")
        with serving(*args) as (_, address), ExitStack() as held:
            port = httpx2.URL(address).port
            for number in range(1_100):
                held.enter_context(socket.create_connection(("127.0.0.1", port)))
                if number % 100 == 0:
                    assert httpx2.get(f"{address}api/studies").status_code == 200
            assert httpx2.get(f"{address}api/studies").status_code == 200
    finally:
        resource.setrlimit(resource.RLIMIT_NOFILE, (soft, hard))


def test_the_log_says_it_once(caplog: pytest.LogCaptureFixture) -> None:
    """However often no more files may be open."""
    loop = asyncio.new_event_loop()
    tell = telling_once(loop)
    for _ in range(1_000):
        tell(
            loop, {"message": "socket.accept() out of system resource", "exception": OSError(24, "Too many open files")}
        )
    tell(loop, {"message": "Something else"})
    loop.close()
    assert [record.message.partition(" (")[0] for record in caplog.records] == [
        "socket.accept() out of system resource", "Something else",
    ]  # fmt: skip
