"""Every failure reaches the page in one JSON shape: {"detail": one sentence}."""

from __future__ import annotations

import errno
import logging
import math
from collections.abc import Callable

from django.conf import settings
from django.core.exceptions import RequestDataTooBig
from django.db import InterfaceError, OperationalError
from django.http import HttpRequest, HttpResponse, JsonResponse
from rest_framework import status
from rest_framework.exceptions import APIException, ErrorDetail, Throttled, ValidationError
from rest_framework.response import Response
from rest_framework.views import exception_handler

from config.parsers import TOO_BIG
from orchesis.errors import MalformedEdit, OrchesisError

DATABASE_AWAY = "The database does not answer just now; nothing is lost, try again in a moment."
DISK_FULL = "The disk of the server is full; free some space there and try again."


class Conflict(APIException):
    status_code = status.HTTP_409_CONFLICT


class OutOfRoom(APIException, OrchesisError):
    """More than an account may keep on this machine; told also where a worker finds it."""

    status_code = status.HTTP_413_REQUEST_ENTITY_TOO_LARGE


class StillAtIt(APIException):
    """What was asked for takes longer than an answer may: a worker is at it; ask again."""

    status_code = status.HTTP_503_SERVICE_UNAVAILABLE


class Clash(Conflict):
    """Somebody else changed the same thing since the version of an edit: these bars, sections."""

    default_code = "clash"

    def __init__(self, detail: str, bars: list[int], sections: list[str]) -> None:
        super().__init__(detail)
        self.bars, self.sections = bars, sections


class DatabaseAway:
    """A database that restarts is told as such, not as an error page."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        try:
            return self.get_response(request)
        except (OperationalError, InterfaceError):
            return self._away()

    def process_exception(self, _request: HttpRequest, exception: Exception) -> HttpResponse | None:
        if isinstance(exception, OperationalError | InterfaceError):
            return self._away()
        return None

    @staticmethod
    def _away() -> JsonResponse:
        logging.getLogger(__name__).warning("The database is away.")
        return JsonResponse({"detail": DATABASE_AWAY}, status=503)


def _said(request: HttpRequest, sentence: str, status: int) -> HttpResponse:
    """JSON to the page, words to a person who typed an address."""
    if request.path.startswith("/api/"):
        return JsonResponse({"detail": sentence}, status=status)
    return HttpResponse(sentence, content_type="text/plain; charset=utf-8", status=status)


def not_from_our_page(request: HttpRequest, reason: str = "") -> HttpResponse:
    """What a request that another site forged, or a very old page, is told."""
    return _said(request, "This page is out of date; reload it and try again.", 403)


def too_many_tries(request: HttpRequest, *_more: object) -> HttpResponse:
    minutes = settings.AXES_COOLOFF_TIME.seconds // 60
    return _said(request, f"Too many wrong passwords; try again in {minutes} minutes.", 429)


def bad_request(request: HttpRequest, exception: Exception) -> HttpResponse:
    is_big = isinstance(exception, RequestDataTooBig)
    return _said(request, TOO_BIG if is_big else "The request could not be read.", 400)


def not_found(request: HttpRequest, exception: Exception) -> HttpResponse:
    return _said(request, "There is nothing at this address.", 404)


def failed(request: HttpRequest) -> HttpResponse:
    return _said(request, "That failed for a reason of ours; nothing was changed. Try again.", 500)


def one_sentence(exception: Exception, context: dict) -> Response | None:
    if isinstance(exception, MalformedEdit):
        return Response({"detail": str(exception)}, status=400)
    if isinstance(exception, OrchesisError) and not isinstance(exception, APIException):
        return Response({"detail": str(exception)}, status=422)
    if isinstance(exception, OperationalError | InterfaceError):
        return Response({"detail": DATABASE_AWAY}, status=503)
    if isinstance(exception, OSError) and exception.errno == errno.ENOSPC:
        return Response({"detail": DISK_FULL}, status=507)
    response = exception_handler(exception, context)
    if response is not None and isinstance(exception, Throttled):
        left = _soon(getattr(exception, "wait", None))
        response.data = {"detail": f"That was too often; try again in {left}."}
    elif response is not None and isinstance(exception, ValidationError):
        response.data = {"detail": _first(exception.detail)}
    elif response is not None and isinstance(exception, Clash):  # the page shows both readings
        response.data |= {"clash": True, "bars": exception.bars, "sections": exception.sections}
    return response


def _soon(seconds: float | None) -> str:
    minutes = math.ceil((seconds or 0) / 60)
    return "a minute" if minutes <= 1 else f"{minutes} minutes"


def _first(detail: object, field: str = "") -> str:
    if isinstance(detail, dict):
        name, inner = next(iter(detail.items()))
        return _first(inner, "" if name == "non_field_errors" else str(name))
    if isinstance(detail, list):
        return _first(detail[0], field)
    text = str(detail)
    named = field and isinstance(detail, ErrorDetail) and detail.code in ("required", "blank")
    return f"{field}: {text}" if named else text
