"""Errors as problem+json (RFC 9457). The only place that knows HTTP status codes."""

from __future__ import annotations

import errno
import logging
import sqlite3
from http import HTTPStatus

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse, Response
from sqlalchemy.exc import DBAPIError
from starlette.exceptions import HTTPException
from starlette.requests import ClientDisconnect

from cata.disk import is_of_full
from cata.errors import BadAudio, CataError, Conflict, Invalid, NotFound, Refused, TooSlow, Unfinished

log = logging.getLogger(__name__)

STATUS: tuple[tuple[type[CataError], int], ...] = (
    (NotFound, 404),
    (Conflict, 409),
    (TooSlow, 503),
    (Unfinished, 500),
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
    return problem(status, error.message, code=error.code, numbers=error.numbers)


def _invalid(_request: Request, error: Exception) -> JSONResponse:
    assert isinstance(error, RequestValidationError)
    parts = [f"{'.'.join(str(p) for p in one['loc'][1:]) or 'body'}: {one['msg']}" for one in error.errors()]
    return problem(422, "; ".join(parts[:5]))


def _http(_request: Request, error: Exception) -> JSONResponse:
    assert isinstance(error, HTTPException)
    response = problem(error.status_code, str(error.detail))
    response.headers.update(error.headers or {})
    return response


def _full() -> JSONResponse:
    words = "The disk is full. Nothing that was taken before is lost; make room and try again."
    return problem(507, words, code="disk_full")


def _disk(_request: Request, error: Exception) -> JSONResponse:
    assert isinstance(error, OSError)
    if is_of_full(error):
        return _full()
    if error.errno in (errno.EROFS, errno.EACCES, errno.EPERM):
        return problem(507, "The data folder cannot be written to. Nothing was changed.", code="read_only")
    return _unexpected(_request, error)


def _database(request: Request, error: Exception) -> JSONResponse:
    assert isinstance(error, DBAPIError)
    if is_of_full(error):
        return _full()
    code = getattr(error.orig, "sqlite_errorcode", 0) & 0xFF  # the primary code, without its extension
    if code in (sqlite3.SQLITE_READONLY, sqlite3.SQLITE_CANTOPEN, sqlite3.SQLITE_IOERR, sqlite3.SQLITE_PERM):
        return problem(507, "The data folder cannot be written to. Nothing was changed.", code="read_only")
    if code in (sqlite3.SQLITE_BUSY, sqlite3.SQLITE_LOCKED):
        return problem(503, "Another program holds Cata's data. Nothing was changed; try again.", code="busy")
    return _unexpected(request, error)


def _left(_request: Request, _error: Exception) -> Response:
    return Response(status_code=400)  # nobody is there any more to read it


def _unexpected(_request: Request, error: Exception) -> JSONResponse:
    log.exception("unexpected", exc_info=error)
    return problem(500, "Something went wrong inside Cata; what was taken before is safe.")


def install(app: FastAPI) -> None:
    """Answer every error with a problem document."""
    app.add_exception_handler(CataError, _known)
    app.add_exception_handler(RequestValidationError, _invalid)
    app.add_exception_handler(HTTPException, _http)
    app.add_exception_handler(OSError, _disk)
    app.add_exception_handler(DBAPIError, _database)
    app.add_exception_handler(ClientDisconnect, _left)
    app.add_exception_handler(Exception, _unexpected)
