"""Errors as problem+json (RFC 9457). The only place that knows HTTP status codes."""

from __future__ import annotations

import errno
import logging
from http import HTTPStatus

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from starlette.exceptions import HTTPException

from cata.errors import BadAudio, CataError, Conflict, Invalid, NotFound, Refused

log = logging.getLogger(__name__)

STATUS: tuple[tuple[type[CataError], int], ...] = (
    (NotFound, 404),
    (Conflict, 409),
    (BadAudio, 422),
    (Refused, 422),
    (Invalid, 422),
    (CataError, 400),
)


def problem(status: int, detail: str, **more: object) -> JSONResponse:
    """A problem document."""
    body = {"type": "about:blank", "title": HTTPStatus(status).phrase, "status": status, "detail": detail} | more
    return JSONResponse(body, status_code=status, media_type="application/problem+json")


def _known(_request: Request, error: Exception) -> JSONResponse:
    assert isinstance(error, CataError)
    status = next(code for kind, code in STATUS if isinstance(error, kind))
    more = {"code": error.code} if isinstance(error, BadAudio) else {}
    return problem(status, error.message, **more)


def _invalid(_request: Request, error: Exception) -> JSONResponse:
    assert isinstance(error, RequestValidationError)
    parts = [f"{'.'.join(str(p) for p in one['loc'][1:]) or 'body'}: {one['msg']}" for one in error.errors()]
    return problem(422, "; ".join(parts[:5]))


def _http(_request: Request, error: Exception) -> JSONResponse:
    assert isinstance(error, HTTPException)
    response = problem(error.status_code, str(error.detail))
    response.headers.update(error.headers or {})
    return response


def _disk(_request: Request, error: Exception) -> JSONResponse:
    assert isinstance(error, OSError)
    if error.errno in (errno.ENOSPC, errno.EDQUOT):
        return problem(507, "The disk is full. Nothing that was taken before is lost; make room and try again.")
    log.exception("unexpected", exc_info=error)
    return problem(500, "Something went wrong inside Cata; what was taken before is safe.")


def _unexpected(_request: Request, error: Exception) -> JSONResponse:
    log.exception("unexpected", exc_info=error)
    return problem(500, "Something went wrong inside Cata; what was taken before is safe.")


def install(app: FastAPI) -> None:
    """Answer every error with a problem document."""
    app.add_exception_handler(CataError, _known)
    app.add_exception_handler(RequestValidationError, _invalid)
    app.add_exception_handler(HTTPException, _http)
    app.add_exception_handler(OSError, _disk)
    app.add_exception_handler(Exception, _unexpected)
