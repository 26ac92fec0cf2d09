"""Errors as problem details (RFC 9457): a sentence for a person, where, and what to do."""

import errno
from typing import Any

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import BaseModel, ValidationError
from starlette.exceptions import HTTPException

from rowtag.core import errors
from rowtag.core.problems import sentences

STATUS: dict[type[errors.RowTagError], int] = {
    errors.RowTagError: 500,
    errors.BadInput: 422,
    errors.TooLarge: 413,
    errors.NotThere: 404,
    errors.Changed: 409,
    errors.Damaged: 503,
    errors.NotKept: 507,
    errors.InUse: 409,
    errors.Cancelled: 409,
}
"""What each kind of error replies; a kind that is not here replies like its nearest ancestor."""


_DISK = {errno.ENOSPC, errno.EDQUOT, errno.EFBIG, errno.EROFS, errno.EIO}
"""What the system says of a disk that is full, or may not be written to."""


_BARE = {
    "Not Found": "There is nothing at this address.",
    "Method Not Allowed": "This cannot be done at this address.",
    "There was an error parsing the body": "The form that came with this is no form, or was cut short.",
}
"""Sentences for what the framework says in other words."""


class Problem(BaseModel):
    """The body of every error reply."""

    type: str = "about:blank"
    title: str
    status: int
    detail: str
    remedy: str = ""
    where: dict[str, Any] = {}
    suggestion: str | None = None
    details: list[str] = []


def status_of(error: errors.RowTagError) -> int:
    """The status for an error, by its class or its nearest ancestor's."""
    return next(STATUS[kind] for kind in type(error).__mro__ if kind in STATUS)


def problem_of(error: errors.RowTagError) -> Problem:
    """An error as a problem."""
    return Problem(
        title=error.what,
        status=status_of(error),
        detail=str(error),
        remedy=error.remedy,
        where=error.where.as_dict() if error.where else {},
        suggestion=error.suggestion,
        details=error.details,
    )


def _not_taken(error: OSError) -> Problem:
    """What is said where the system would not take what came."""
    detail = f"The disk would not take this ({error.strerror}). Make room on it, then do it again."
    return Problem(title="Not kept", status=STATUS[errors.NotKept], detail=detail)


def reply(problem: Problem) -> JSONResponse:
    """A problem as a reply."""
    return JSONResponse(problem.model_dump(), problem.status, media_type="application/problem+json")


def install(app: FastAPI) -> None:
    """Makes every error of this application a problem."""

    @app.exception_handler(errors.RowTagError)
    def known(_request: Request, error: errors.RowTagError) -> JSONResponse:
        return reply(problem_of(error))

    @app.exception_handler(RequestValidationError)
    @app.exception_handler(ValidationError)
    def malformed(_request: Request, error: RequestValidationError | ValidationError) -> JSONResponse:
        said = sentences(error.errors(), begin=1)
        more = f"; and {len(said) - 5:,} more" if len(said) > 5 else ""
        detail = f"This cannot be done as it was asked for: {'; '.join(said[:5])}{more}."
        details = said if len(said) > 1 else []  # one alone stands in the sentence
        return reply(Problem(title="Not well formed", status=422, detail=detail, details=details))

    @app.exception_handler(OverflowError)
    def beyond(_request: Request, _error: OverflowError) -> JSONResponse:
        return reply(Problem(title="Too large", status=422, detail="A number in it is larger than any that is kept."))

    @app.exception_handler(OSError)
    def off_disk(_request: Request, error: OSError) -> JSONResponse:
        if error.errno not in _DISK:
            raise error
        return reply(_not_taken(error))

    @app.exception_handler(HTTPException)
    def plain(_request: Request, error: HTTPException) -> JSONResponse:
        if isinstance(error.__cause__, OSError):  # a file waits in the temporary folder while it comes
            return reply(_not_taken(error.__cause__))
        detail = _BARE.get(str(error.detail), str(error.detail))
        return reply(Problem(title=detail.rstrip("."), status=error.status_code, detail=detail))

    @app.exception_handler(Exception)
    def unexpected(_request: Request, _error: Exception) -> JSONResponse:
        detail = (
            "Something went wrong inside Row Tag. Your work is kept up to the last accepted step; the log says more."
        )
        return reply(Problem(title="Inside Row Tag", status=500, detail=detail))
