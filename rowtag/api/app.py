"""The application, built from lists in one place."""

import asyncio
import gzip
import secrets
import time
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from functools import lru_cache
from mimetypes import guess_type
from pathlib import Path

from fastapi import FastAPI
from fastapi.responses import FileResponse, HTMLResponse, RedirectResponse
from starlette.requests import Request
from starlette.responses import Response

from rowtag import __version__
from rowtag.api import problems
from rowtag.api.bodies import Bounded
from rowtag.api.context import Context, user_name
from rowtag.api.guard import ENTRANCE, POLICY, Guard, cookie_of, port_of
from rowtag.api.models import share_of
from rowtag.api.problems import Problem, reply
from rowtag.api.routes import ROUTERS
from rowtag.core.engine import engine
from rowtag.service.announcer import Announcer, Event
from rowtag.service.beside import Beside
from rowtag.service.files import Files
from rowtag.service.jobs import Jobs
from rowtag.service.looking import Totals
from rowtag.service.machine import MEMORY
from rowtag.store.workspace import Workspace

SITE = Path(__file__).parent / "site"
"""The built front end."""
TIDIED = 600.0
"""Seconds after which it is looked again for files that nobody brings in."""
PACKED = {".js", ".css", ".svg", ".json"}
"""Endings of its files that travel packed."""
NONCE = "NONCE-OF-THIS-PAGE"
"""What stands in the page for the word by which it may carry styles."""


def create_app(
    workspace: Workspace | None,
    *,
    hosts: frozenset[str] = frozenset(),
    token: str | None = None,
    begin: str = "/",
    site: Path = SITE,
) -> FastAPI:
    """The application over a workspace (None only to describe the interface).

    It answers for `hosts`, if any are given, and whoever has the `token`, if there is one; who shows it is led to the
    address `begin`.
    """

    @asynccontextmanager
    async def life(app: FastAPI) -> AsyncIterator[None]:
        if workspace is None:
            yield
            return
        tidying = asyncio.create_task(_tidied(app.state.context.files))
        yield
        tidying.cancel()
        app.state.context.beside.close()
        app.state.context.jobs.close()
        app.state.context.files.close()
        workspace.close()

    app = FastAPI(
        title="Row Tag",
        version=__version__,
        lifespan=life,
        separate_input_output_schemas=False,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
        generate_unique_id_function=lambda route: route.name,
        responses={"default": {"model": Problem, "description": "What went wrong, where, and what to do"}},
    )
    if workspace is not None:
        announcer = Announcer()
        beside = Beside(lambda id, revision: announcer.announce(id, Event("checked", {"revision": revision})))
        app.state.context = Context(
            workspace, Files(workspace), Jobs(), announcer, beside, Totals(share_of), user_name()
        )
        engine.clock = time.perf_counter
        engine.limit = min(engine.limit, MEMORY // 4)
    problems.install(app)
    for router in ROUTERS:
        app.include_router(router)
    _serve_site(app, site, token, begin)
    app.add_middleware(Bounded)
    app.add_middleware(Guard, hosts=hosts, token=token)
    return app


async def _tidied(files: Files) -> None:
    """Lets files go that nobody brings in, once in a while."""
    while True:
        await asyncio.sleep(TIDIED)
        await asyncio.to_thread(files.discard_forgotten)


@lru_cache(maxsize=200)
def _packed(file: Path, _changed: int) -> bytes:
    """A file of the front end, packed once for all who ask."""
    return gzip.compress(file.read_bytes(), mtime=0)


def _serve_site(app: FastAPI, site: Path, token: str | None, begin: str) -> None:
    """The front end: its files as they are, and its one page for every other address."""
    root = site.resolve()

    def _within(root: Path, path: str) -> Path | None:
        """The file of the site that an address names, if it does."""
        try:
            wanted = (root / path).resolve()
            return wanted if path and wanted.is_relative_to(root) and wanted.is_file() else None
        except (OSError, ValueError):  # too long a name, or no name at all
            return None

    @app.get(ENTRANCE + "{given}", include_in_schema=False)
    def enter(given: str, request: Request) -> Response:
        """Keeps the access token as a cookie; the guard lets only the right one get here."""
        onward = RedirectResponse(begin, 303)
        if token is not None:
            secure = request.url.scheme == "https"
            onward.set_cookie(cookie_of(port_of(request.scope)), given, httponly=True, samesite="strict", secure=secure)
        return onward

    @app.get("/{path:path}", include_in_schema=False)
    def page(path: str, request: Request) -> Response:
        if path.startswith("api/"):
            return reply(Problem(title="Not here", status=404, detail=f"There is nothing at /{path}."))
        wanted = _within(root, path)
        if wanted is not None:
            lasting = "public, max-age=31536000, immutable" if path.startswith("assets/") else "no-cache"
            headers = {"Cache-Control": lasting, "Vary": "Accept-Encoding"}
            if wanted.suffix in PACKED and "gzip" in request.headers.get("accept-encoding", ""):
                headers["Content-Encoding"] = "gzip"
                return Response(
                    _packed(wanted, wanted.stat().st_mtime_ns), media_type=guess_type(wanted.name)[0], headers=headers
                )
            return FileResponse(wanted, headers=headers)
        if not (root / "index.html").is_file():
            return reply(Problem(title="Not built", status=503, detail="The front end is not built; run make setup."))
        nonce = secrets.token_urlsafe(16)
        shown = (root / "index.html").read_text(encoding="utf-8").replace(NONCE, nonce)
        return HTMLResponse(
            shown, headers={"Cache-Control": "no-cache", "Content-Security-Policy": POLICY.format(nonce=nonce)}
        )
