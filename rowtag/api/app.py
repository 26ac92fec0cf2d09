"""The application, built from lists in one place."""

import time
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path

from fastapi import FastAPI
from fastapi.responses import FileResponse, RedirectResponse
from starlette.requests import Request
from starlette.responses import Response

from rowtag import __version__
from rowtag.api import problems
from rowtag.api.context import Context, user_name
from rowtag.api.guard import COOKIE, ENTRANCE, Guard
from rowtag.api.models import share_of
from rowtag.api.problems import Problem, reply
from rowtag.api.routes import ROUTERS
from rowtag.core.engine import engine
from rowtag.service.announcer import Announcer, Event
from rowtag.service.beside import Beside
from rowtag.service.files import Files
from rowtag.service.jobs import Jobs
from rowtag.service.looking import Totals
from rowtag.store.workspace import Workspace

SITE = Path(__file__).parent / "site"
"""The built front end."""


def create_app(
    workspace: Workspace | None, *, hosts: frozenset[str] = frozenset(), token: str | None = None, site: Path = SITE
) -> FastAPI:
    """The application over a workspace (None only to describe the interface)."""

    @asynccontextmanager
    async def life(app: FastAPI) -> AsyncIterator[None]:
        yield
        if workspace is not None:
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
    problems.install(app)
    for router in ROUTERS:
        app.include_router(router)
    _serve_site(app, site, token)
    app.add_middleware(Guard, hosts=hosts, token=token)
    return app


def _serve_site(app: FastAPI, site: Path, token: str | None) -> None:
    """The front end: its files as they are, and its one page for every other address."""
    root = site.resolve()

    @app.get(ENTRANCE + "{given}", include_in_schema=False)
    def enter(given: str) -> Response:
        """Keeps the access token as a cookie; the guard lets only the right one get here."""
        onward = RedirectResponse("/", 303)
        if token is not None:
            onward.set_cookie(COOKIE, given, httponly=True, samesite="strict")
        return onward

    @app.get("/{path:path}", include_in_schema=False)
    def page(path: str, request: Request) -> Response:
        if path.startswith("api/"):
            return reply(Problem(title="Not here", status=404, detail=f"There is nothing at /{path}."))
        wanted = (root / path).resolve()
        if path and wanted.is_relative_to(root) and wanted.is_file():
            lasting = "public, max-age=31536000, immutable" if path.startswith("assets/") else "no-cache"
            return FileResponse(wanted, headers={"Cache-Control": lasting})
        if not (root / "index.html").is_file():
            return reply(Problem(title="Not built", status=503, detail="The front end is not built; run make setup."))
        return FileResponse(root / "index.html", headers={"Cache-Control": "no-cache"})
