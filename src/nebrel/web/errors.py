"""The family of errors as responses, all of one shape."""

from __future__ import annotations

import logging
from functools import partial
from http import HTTPStatus
from typing import Any

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import BaseModel
from pydantic_core import PydanticSerializationError
from starlette.exceptions import HTTPException

from nebrel.core.errors import InvalidValue, NebrelError, NotFound, Refused
from nebrel.core.recipe.explain import explain

_STATUS = {
    "unreadable_file": 415,
    "too_large": 413,
    "invalid_value": 422,
    "invalid_recipe": 422,
    "not_solid": 422,
    "not_found": 404,
    "conflict": 409,
    "repeated": 409,
    "busy": 503,
    "timed_out": 408,
    "storage_failed": 507,
    "cancelled": 409,
    "superseded": 409,
    "refused": 403,
}


class ErrorDetail(BaseModel):
    """What was refused, why, and what to do."""

    kind: str
    what: str
    why: str
    remedy: str


class ErrorBody(BaseModel):
    """The body of every response that is not a success."""

    error: ErrorDetail


def refusals(*statuses: int) -> dict[int | str, dict[str, Any]]:
    """How a route describes what it answers where it refuses.

    By its name: of a model that stood here the framework would make another for every route
    and status, which took a third of the time to start.
    """
    body = {"schema": {"$ref": f"#/components/schemas/{ErrorBody.__name__}"}}
    return {
        status: {"description": HTTPStatus(status).phrase, "content": {"application/json": body}}
        for status in statuses
    }


def _described(app: FastAPI) -> dict[str, Any]:
    """The description of the API, with the body that its refusals name."""
    found = FastAPI.openapi(app)
    schemas = found.setdefault("components", {}).setdefault("schemas", {})
    for model in (ErrorBody, ErrorDetail):
        if model.__name__ not in schemas:
            made = model.model_json_schema(ref_template="#/components/schemas/{model}")
            made.pop("$defs", None)
            schemas[model.__name__] = made
    found["components"]["schemas"] = dict(sorted(schemas.items()))
    return found


def detail(error: NebrelError) -> ErrorDetail:
    """An error in the words of the response; half a letter that was typed is replaced."""
    words = error.as_dict().items()
    return ErrorDetail(**{name: text.encode("utf-8", "replace").decode() for name, text in words})


def respond(error: NebrelError, status: int | None = None) -> JSONResponse:
    """The response for an error."""
    body = ErrorBody(error=detail(error)).model_dump()
    return JSONResponse(body, status or _STATUS.get(error.kind, 500))


def install(app: FastAPI) -> None:
    """Turn every exception into the one error body, and say so in the description."""
    app.openapi = partial(_described, app)  # type: ignore[method-assign]

    @app.exception_handler(NebrelError)
    async def _own(_: Request, error: NebrelError) -> JSONResponse:
        return respond(error)

    @app.exception_handler(RequestValidationError)
    async def _invalid(_: Request, error: RequestValidationError) -> JSONResponse:
        return respond(explain(error.errors()))

    @app.exception_handler(HTTPException)
    async def _http(_: Request, error: HTTPException) -> JSONResponse:
        refusal = NotFound if error.status_code == 404 else Refused
        trouble = refusal("request", str(error.detail).lower(), "Go back to the shelf")
        return respond(trouble, error.status_code)

    @app.exception_handler(UnicodeEncodeError)
    @app.exception_handler(PydanticSerializationError)
    async def _unwritten(_: Request, error: Exception) -> JSONResponse:
        if "surrogates" not in str(error):
            return respond(_unforeseen_of(error))
        why = "half of a letter is in it, which cannot be kept"
        return respond(InvalidValue("text", why, "Take that letter out, or type it anew"))

    @app.exception_handler(Exception)
    async def _unforeseen(_: Request, error: Exception) -> JSONResponse:
        return respond(_unforeseen_of(error))


def _unforeseen_of(error: Exception) -> NebrelError:
    logging.getLogger("nebrel").exception("unforeseen", exc_info=error)
    return NebrelError(
        "request",
        f"something unforeseen went wrong ({type(error).__name__})",
        "Try again; what was saved is unchanged",
    )
