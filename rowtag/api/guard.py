"""Who may ask: the hosts this server answers for, pages of its own on writes, and whoever has the token."""

import re
import secrets

from starlette.datastructures import Headers, MutableHeaders
from starlette.requests import cookie_parser
from starlette.responses import PlainTextResponse
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from rowtag.api.problems import Problem, reply

SAFE = frozenset({"GET", "HEAD", "OPTIONS"})
ENTRANCE = "/enter/"
HEADERS = {
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "no-referrer",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
    "X-Frame-Options": "DENY",
}
"""What goes with every reply: nothing is taken for what it is not said to be, framed, or lent to other sites."""
POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self' 'nonce-{nonce}'; style-src-attr 'unsafe-inline'; "
    "img-src 'self' data:; font-src 'self' data:; connect-src 'self'; manifest-src 'self'; base-uri 'none'; "
    "form-action 'self'; frame-ancestors 'none'"
)
"""What a page may load and run: only what this server serves. Elements may carry styles of their own, pages not."""
_HOST = re.compile(r"(?P<name>\[[0-9a-fA-F:.]{2,45}\]|[0-9A-Za-z](?:[0-9A-Za-z.-]{0,252}[0-9A-Za-z])?)(?::\d{1,5})?")


def cookie_of(port: int | str) -> str:
    """The name of the cookie that keeps the token; servers on other ports of a machine have others."""
    return f"rowtag_token_{port}"


class Guard:
    """Refuses a foreign Host, writes from pages of other sites, and everything without the token if there is one."""

    def __init__(self, app: ASGIApp, hosts: frozenset[str], token: str | None) -> None:
        self._app = app
        self._hosts = hosts
        self._token = token

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Lets a request pass, or replies with a problem."""
        if scope["type"] != "http":
            return await self._app(scope, receive, send)
        secret = scope["path"].startswith("/api/")

        async def guarded(message: Message) -> None:
            if message["type"] == "http.response.start":
                headers = MutableHeaders(scope=message)
                for name, value in HEADERS.items():
                    headers[name] = value
                headers.setdefault("Content-Security-Policy", POLICY.format(nonce="none"))
                if secret:
                    headers["Cache-Control"] = "no-store"
            await send(message)

        headers = Headers(scope=scope)
        refusal = self._refusal(scope, headers)
        answer: ASGIApp = self._app
        if refusal is not None:
            seen = not secret and "text/html" in headers.get("accept", "")
            answer = PlainTextResponse(refusal.detail, refusal.status) if seen else reply(refusal)
        return await answer(scope, receive, guarded)

    def _refusal(self, scope: Scope, headers: Headers) -> Problem | None:
        host = headers.get("host", "")
        parsed = _HOST.fullmatch(host)
        if parsed is None:
            return _problem(400, "The request does not say properly which host it asks.")
        if self._hosts and parsed["name"].strip("[]").lower() not in self._hosts:
            return _problem(421, f"This server does not answer for “{host}”.")
        if scope["method"] not in SAFE and _foreign(scope, headers, host):
            return _problem(403, "Pages of other sites may not change anything here.")
        if self._token is not None and not secrets.compare_digest(_given(scope, headers), self._token.encode()):
            return _problem(401, "This server asks for its access token; open the address it printed at its start.")
        return None


def _foreign(scope: Scope, headers: Headers, host: str) -> bool:
    """Whether a page of another site asks."""
    origin = headers.get("origin")
    own = f"{scope.get('scheme', 'http')}://{host}".lower()
    return (origin is not None and origin.lower() != own) or headers.get("sec-fetch-site") == "cross-site"


def _given(scope: Scope, headers: Headers) -> bytes:
    """The token that came with a request: in the address that the server printed, a header, or the cookie."""
    path: str = scope["path"]
    authorization = headers.get("authorization", "")
    if path.startswith(ENTRANCE):
        found = path.removeprefix(ENTRANCE)
    elif authorization.lower().startswith("bearer "):
        found = authorization[7:]
    else:
        found = cookie_parser(headers.get("cookie", "")).get(cookie_of(port_of(scope)), "")
    return found.encode("utf-8", "replace")


def port_of(scope: Scope) -> int | str:
    """The port on which the server was asked."""
    server = scope.get("server")
    return server[1] if server and server[1] is not None else ""


def _problem(status: int, detail: str) -> Problem:
    return Problem(title="Refused", status=status, detail=detail)
