"""Runs the application with uvicorn and says where it listens."""

import ipaddress
import secrets
import socket

import uvicorn

from rowtag.api.app import create_app
from rowtag.core.errors import BadInput
from rowtag.store.workspace import Workspace


def run(workspace: Workspace, host: str, port: int, path: str = "/") -> None:
    """Serves until stopped. Beyond this machine a fresh access token is asked for."""
    try:
        listener = socket.create_server((host, port), family=socket.AF_INET6 if ":" in host else socket.AF_INET)
    except OSError as error:
        workspace.close()
        raise BadInput(
            f"Nothing can listen on {host}:{port} ({error.strerror}).",
            remedy="Choose another --port, or 0 for a free one.",
        ) from None
    listener.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)  # else small replies wait 40 ms for more
    chosen = listener.getsockname()[1]
    local = _is_local(host)
    token = None if local else secrets.token_urlsafe(24)
    hosts = frozenset({"127.0.0.1", "localhost", "::1"}) if local else frozenset()
    shown = f"[{host}]" if ":" in host else host
    where = path if token is None else f"/enter/{token}"
    print(f"Row Tag is at http://{shown}:{chosen}{where}", flush=True)
    print(f"Studies are kept in {workspace.folder}. Stop with Ctrl+C.", flush=True)
    app = create_app(workspace, hosts=hosts, token=token)
    config = uvicorn.Config(app, log_level="warning", timeout_graceful_shutdown=1)
    uvicorn.Server(config).run(sockets=[listener])


def _is_local(host: str) -> bool:
    if host == "localhost":
        return True
    try:
        return ipaddress.ip_address(host).is_loopback
    except ValueError:
        return False
