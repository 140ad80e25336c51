"""Answers that follow from one version of an arrangement alone: made once, kept compressed for
everybody who looks at that version, and the same in all processes of the house."""

from __future__ import annotations

import gzip
import hashlib
import time
from collections.abc import Callable
from contextlib import suppress
from typing import Any

from config.answers import Answer
from django.core.cache import cache
from django.http import HttpResponse
from redis.exceptions import RedisError
from rest_framework.request import Request
from transcription.models import Arrangement

_KEPT_SECONDS = 3600  # seconds
_PATIENCE, _LOOK_AGAIN = 3, 0.02  # seconds that one waits for another's making; between two looks
_LEVEL = 3  # of compression: more costs more time than it saves on the way


def kept_answer(
    request: Request,
    arrangement: Arrangement,
    model: type[Answer],
    make: Callable[[], dict[str, Any]],
    *more: Any,
) -> HttpResponse:
    """The answer that ``model`` describes. more: all else that it depends on, beside the version
    (``repr`` tells one from the other)."""
    song = arrangement.song  # its names stand on the pages, and no version tells of their change
    named = (
        arrangement.pk,
        arrangement.created.isoformat(),
        arrangement.version,
        song.title,
        song.artist,
    )
    name = repr((model.__name__, *named, more))
    digest = hashlib.sha256(name.encode()).hexdigest()
    key = f"answer:{digest}"
    end = time.monotonic() + _PATIENCE
    while (packed := _known(key)) is None:
        # Whoever asks for the same meanwhile waits for it: making it twice takes twice as long.
        if _begins(key) or time.monotonic() > end:
            packed = _made(key, arrangement, model, make)
            break
        time.sleep(_LOOK_AGAIN)
    return _sent(request, packed)


def _begins(key: str) -> bool:
    """Whether nobody else is making it."""
    try:
        return bool(cache.add(f"{key}:begun", True, _PATIENCE))
    except RedisError:
        return True


def _made(
    key: str, arrangement: Arrangement, model: type[Answer], make: Callable[[], dict[str, Any]]
) -> bytes:
    try:
        data = model.model_validate({"version": arrangement.version, **make()})
        text = data.model_dump_json(exclude_unset=True).encode()
        packed = gzip.compress(text, _LEVEL, mtime=0)
        with suppress(RedisError):  # then it is made again
            cache.set(key, packed, _KEPT_SECONDS)
        return packed
    finally:
        with suppress(RedisError):
            cache.delete(f"{key}:begun")


def _known(key: str) -> bytes | None:
    try:
        return cache.get(key)
    except RedisError:
        return None


def _sent(request: Request, packed: bytes) -> HttpResponse:
    takes_it = "gzip" in request.headers.get("Accept-Encoding", "")
    answer = HttpResponse(
        packed if takes_it else gzip.decompress(packed), content_type="application/json"
    )
    answer["Vary"] = "Accept-Encoding"
    if takes_it:
        answer["Content-Encoding"] = "gzip"
    return answer
