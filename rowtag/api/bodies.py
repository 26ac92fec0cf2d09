"""What may come with a request: so many bytes, counted while they arrive, and JSON as the standard has it."""

from collections.abc import Callable, Coroutine
from typing import Annotated, Any

import orjson
from fastapi.exceptions import RequestValidationError
from fastapi.routing import APIRoute
from pydantic import Field
from starlette.exceptions import HTTPException
from starlette.requests import Request
from starlette.responses import Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from rowtag.core.words import megabytes
from rowtag.store.workspace import MOST_BYTES

Number = Annotated[int, Field(ge=0, le=2**53)]
"""A whole number in a request, as far as every program tells them apart."""
StepId = Annotated[str, Field(min_length=8, max_length=64, pattern=r"^[A-Za-z0-9_-]+$")]
"""The id that a client gives a step."""
MOST_JSON = 64 << 20
"""Bytes of a request that carries no file: codebook text and pasted blocks among them."""
_FRAME = 1 << 20
"""Bytes that a form may add to its file."""
_FILES = ("/api/intake", "/api/sheets/text", "/api/sheets/pages", "/api/studies/carried")


class Bounded:
    """Refuses a request as soon as it is known to be too large, by what it says or by what has come of it."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Passes a request on, its body counted."""
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        most = MOST_BYTES + _FRAME if scope["path"].rstrip("/") in _FILES else MOST_JSON
        said = dict(scope["headers"]).get(b"content-length", b"0")
        come = 0

        async def counted() -> Message:
            nonlocal come
            message = await receive()
            come += len(message.get("body", b""))
            if come > most or (said.isdigit() and int(said) > most):
                raise HTTPException(413, f"This is larger than the {megabytes(most)} that a request may have.")
            return message

        await self._app(scope, counted, send)


class _Asked(Request):
    """A request whose JSON is read strictly: no halves of characters, no NaN."""

    async def json(self) -> Any:
        """The body as JSON."""
        if not hasattr(self, "_json"):
            self._json = orjson.loads(await self.body())
        return self._json


class Route(APIRoute):
    """A route of the interface; what is no JSON is told like any other mistake."""

    def get_route_handler(self) -> Callable[[Request], Coroutine[Any, Any, Response]]:
        """What answers a request."""
        answer = super().get_route_handler()

        async def strict(request: Request) -> Response:
            try:
                return await answer(_Asked(request.scope, request.receive))
            except UnicodeEncodeError:
                fault = {"type": "text", "loc": ("body",), "msg": "holds half a character", "input": None}
                raise RequestValidationError([fault]) from None

        return strict
