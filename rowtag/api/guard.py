"""Who may ask: the hosts this server answers for, pages of its own on writes, and a token beyond this machine."""

import secrets
from urllib.parse import urlsplit

from starlette.datastructures import Headers
from starlette.requests import cookie_parser
from starlette.types import ASGIApp, Receive, Scope, Send

from rowtag.api.problems import Problem, reply

SAFE = frozenset({"GET", "HEAD", "OPTIONS"})
COOKIE = "rowtag_token"
ENTRANCE = "/enter/"


class Guard:
    """Refuses a foreign Host, writes with a foreign Origin, and everything without the token if there is one."""

    def __init__(self, app: ASGIApp, hosts: frozenset[str], token: str | None) -> None:
        self._app = app
        self._hosts = hosts
        self._token = token

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Lets a request pass, or replies with a problem."""
        if scope["type"] != "http":
            return await self._app(scope, receive, send)
        headers = Headers(scope=scope)
        refusal = self._refusal(scope["method"], scope["path"], headers)
        if refusal is not None:
            return await reply(refusal)(scope, receive, send)
        return await self._app(scope, receive, send)

    def _refusal(self, method: str, path: str, headers: Headers) -> Problem | None:
        host = headers.get("host", "")
        if self._hosts and _bare(host) not in self._hosts:
            return _problem(421, f"This server does not answer for “{host}”.")
        origin = headers.get("origin")
        if method not in SAFE and origin is not None and urlsplit(origin).netloc != host:
            return _problem(403, "Pages of other sites may not change anything here.")
        if self._token is not None and not secrets.compare_digest(_given(path, headers), self._token):
            return _problem(401, "This server asks for its access token; open the address it printed at its start.")
        return None


def _given(path: str, headers: Headers) -> str:
    """The token that came with a request: in the address that the server printed, a header, or the cookie."""
    if path.startswith(ENTRANCE):
        return path.removeprefix(ENTRANCE)
    authorization = headers.get("authorization", "")
    if authorization.lower().startswith("bearer "):
        return authorization[7:]
    return cookie_parser(headers.get("cookie", "")).get(COOKIE, "")


def _bare(host: str) -> str:
    return (urlsplit(f"//{host}").hostname or "").lower()


def _problem(status: int, detail: str) -> Problem:
    return Problem(title="Refused", status=status, detail=detail)
