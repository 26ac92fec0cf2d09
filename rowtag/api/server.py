"""Runs the application with uvicorn and says where it listens."""

import gc
import ipaddress
import logging
import os
import re
import secrets
import signal
import socket
import sys
import tempfile
from pathlib import Path

import uvicorn
from fastapi import FastAPI

from rowtag.api.app import create_app
from rowtag.api.connections import SILENCE, Connection, Server, allow_open_files
from rowtag.core.errors import BadInput
from rowtag.service.apart import apart
from rowtag.store.workspace import Workspace

WORKING = 700
"""Objects after which it is looked for those that nobody needs, while the server works."""


def run(workspace: Workspace, host: str, port: int, path: str = "/", *, guarded: bool = True) -> None:
    """Serves until stopped. An access token is asked for, unless it is left out; beyond this machine always."""
    try:
        listener = socket.create_server((host, port), family=socket.AF_INET6 if ":" in host else socket.AF_INET)
    except OSError as error:
        workspace.close()
        raise BadInput(
            f"Nothing can listen on {host}:{port} ({error.strerror}).",
            remedy="Choose another --port, or 0 for a free one.",
        ) from None
    listener.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)  # else small replies wait 40 ms for more
    listener.setsockopt(socket.SOL_SOCKET, socket.SO_KEEPALIVE, 1)  # who is gone without a word is noticed
    chosen = listener.getsockname()[1]
    local = _is_local(host)
    token = _token(workspace) if guarded or not local else None
    hosts = frozenset({"127.0.0.1", "localhost", "::1", host.lower()}) if local else frozenset()
    shown = f"[{host}]" if ":" in host else host
    where = path if token is None else f"/enter/{token}"
    print(f"Row Tag is at http://{shown}:{chosen}{where}", flush=True)
    print(f"Studies are kept in {workspace.folder}. Stop with Ctrl+C.", flush=True)
    make_room(workspace.scratch)
    signal.signal(signal.SIGTERM, lambda *_: sys.exit())  # what waits for the end of a process happens then, too
    allow_open_files()
    apart.warm()
    app = create_app(workspace, hosts=hosts, token=token, begin=path)
    gc.collect()
    gc.freeze()  # what is there from the beginning stays; looking through it takes 0.1 s, now and then
    gc.set_threshold(WORKING)
    Server(configured(app)).run(sockets=[listener])


def make_room(scratch: Path) -> None:
    """Where no temporary folder of the machine can be written to, what waits does so in the workspace."""
    try:
        tempfile.gettempdir()
    except OSError:
        tempfile.tempdir = str(scratch)


def configured(app: FastAPI) -> uvicorn.Config:
    """How an application is served."""
    logging.getLogger("python_multipart").setLevel(logging.ERROR)  # each broken form would be a line
    return uvicorn.Config(
        app, http=Connection, log_level="warning", timeout_graceful_shutdown=1, timeout_keep_alive=int(SILENCE)
    )


def _token(workspace: Workspace) -> str:
    """The token of a workspace, which only its owner can read. It stays the same, so that pages that are open go on."""
    path = workspace.folder / "token"
    try:
        found = path.read_text().strip()
    except OSError:
        found = ""
    if not re.fullmatch(r"[\w-]{32}", found):
        found = secrets.token_urlsafe(24)
        path.unlink(missing_ok=True)
        with open(path, "w", opener=lambda name, flags: os.open(name, flags | os.O_EXCL, 0o600)) as file:
            file.write(found)
    return found


def _is_local(host: str) -> bool:
    if host == "localhost":
        return True
    try:
        return ipaddress.ip_address(host).is_loopback
    except ValueError:
        return False
