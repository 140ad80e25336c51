"""How requests reach Django: a body is awaited without holding a thread, views run in a bounded
pool, files are sent at the pace of who fetches them.

Django's own handler for ASGI gives each request a thread and takes a file whole into memory before
it is sent; this one keeps the middleware as it is (all of it runs in one thread of the pool).
"""

from __future__ import annotations

import asyncio
import time
from collections import defaultdict
from collections.abc import Awaitable, Callable, Mapping
from concurrent.futures import ThreadPoolExecutor
from http.cookies import CookieError, SimpleCookie
from tempfile import SpooledTemporaryFile
from typing import Any

from django.conf import settings
from django.contrib.auth import SESSION_KEY
from django.core import signals
from django.core.handlers.asgi import ASGIHandler, get_script_prefix
from django.core.handlers.base import BaseHandler
from django.db import InterfaceError, OperationalError
from django.http import HttpRequest, JsonResponse
from django.http.response import HttpResponseBase
from django.urls import set_script_prefix
from django.utils.module_loading import import_string

from config import addresses
from config.errors import DATABASE_AWAY
from config.places import Places

Receive = Callable[[], Awaitable[Mapping[str, Any]]]
Send = Callable[[Mapping[str, Any]], Awaitable[None]]

VIEWS, FILES = 8, 4  # threads of a process: for views, for reading what is sent
_OF_ONE = 6  # views of one address at once: the other threads are for the others
_WAITING = 200  # requests of one address that wait for a thread
#: A body comes at so many bytes a second at the least, but for the first seconds.
_SLOWEST, _FIRST_SECONDS = 4096, 15.0
_BIGGEST, _BIGGEST_OF_ANYBODY = 1100 * 2**20, 8 * 2**20  # bytes; the second without an account
_BODIES_EACH, _BODIES = 64, 1000  # bodies under way: of one address, of all
_CHUNK = 256 * 1024  # bytes of an answer at once
_CHUNK_SECONDS = 60.0  # and how long whoever fetches it may take for them


class _Refused(Exception):
    """A request that is not served: (status, sentence)."""

    def __init__(self, status: int, sentence: str) -> None:
        super().__init__(sentence)
        self.status = status


class _Gone(Exception):
    """Whoever asked went away."""


class Handler(ASGIHandler):
    """Django's, with bounds."""

    def __init__(self) -> None:
        BaseHandler.__init__(self)
        self.load_middleware(is_async=False)
        self._views = ThreadPoolExecutor(VIEWS, "view")
        self._files = ThreadPoolExecutor(FILES, "file")
        self._bodies = Places(_BODIES_EACH, _BODIES)
        self._waiting: dict[str, int] = defaultdict(int)
        self._turns: dict[str, asyncio.Semaphore] = {}

    async def __call__(self, scope: dict, receive: Receive, send: Send) -> None:
        assert scope["type"] == "http"
        try:
            body = await self._read(scope, receive)
        except _Gone:
            return
        except _Refused as refused:
            await self.send_response(_said(refused), send)
            return
        with body:
            await self._serve(scope, body, send)

    async def _serve(self, scope: dict, body: Any, send: Send) -> None:
        request, error = self.create_request(scope, body)
        loop = asyncio.get_running_loop()
        if request is None:
            assert error is not None
            response: HttpResponseBase = error
        else:
            try:
                response = await self._in_turn(
                    addresses.of(request), lambda: self._answer(scope, request)
                )
            except _Refused as refused:
                response = _said(refused)
        try:
            await self.send_response(response, send)
        finally:
            await loop.run_in_executor(self._views, response.close)

    async def _in_turn(self, address: str, work: Callable[[], Any]) -> Any:
        """Does work in the pool, of which no address takes all."""
        if self._waiting[address] >= _WAITING:
            raise _Refused(503, "Too much was asked from your address at once; try again.")
        self._waiting[address] += 1
        turn = self._turns.setdefault(address, asyncio.Semaphore(_OF_ONE))
        try:
            async with turn:
                return await asyncio.get_running_loop().run_in_executor(self._views, work)
        finally:
            self._waiting[address] -= 1
            if not self._waiting[address]:
                del self._waiting[address]
                self._turns.pop(address, None)

    def _answer(self, scope: dict, request: HttpRequest) -> HttpResponseBase:
        """In a thread of the pool, which keeps its connection to the database."""
        set_script_prefix(get_script_prefix(scope))
        signals.request_started.send(sender=self.__class__, scope=scope)
        response = self.get_response(request)
        if response.streaming:
            response.block_size = _CHUNK  # type: ignore[attr-defined]
        return response

    # -- bodies

    async def _read(self, scope: dict, receive: Receive) -> Any:
        """The body of a request, from its start. Raises _Refused, _Gone."""
        headers = dict(scope["headers"])
        body = SpooledTemporaryFile(  # noqa: SIM115 (who serves it closes it)
            settings.FILE_UPLOAD_MAX_MEMORY_SIZE, "w+b"
        )
        try:
            if b"transfer-encoding" in headers or headers.get(b"content-length", b"0") != b"0":
                await self._read_in_place(scope, headers, receive, body)
        except BaseException:
            body.close()
            raise
        body.seek(0)
        return body

    async def _read_in_place(
        self, scope: dict, headers: dict[bytes, bytes], receive: Receive, body: Any
    ) -> None:
        """Where a newer one needs the place, this one is refused."""
        task = asyncio.current_task()
        assert task is not None
        pushed_out: list[bool] = []

        def end() -> None:
            pushed_out.append(True)
            task.cancel()

        try:
            with self._bodies.held(_address(scope, headers), end):
                await self._read_to_end(headers, receive, body)
        except asyncio.CancelledError:
            if not pushed_out:
                raise
            task.uncancel()
            raise _Refused(
                408, "Too many uploads came from your address at once; try again."
            ) from None

    async def _read_to_end(self, headers: dict[bytes, bytes], receive: Receive, body: Any) -> None:
        loop = asyncio.get_running_loop()
        size, most, began, more = 0, _BIGGEST_OF_ANYBODY, time.monotonic(), True
        announced = _number(headers.get(b"content-length", b""))
        while more:
            is_too_big = max(size, announced) > most
            if is_too_big and await loop.run_in_executor(self._views, _has_account, headers):
                most = _BIGGEST
            if max(size, announced) > most:
                raise _Refused(413, f"A request has {most // 2**20} MB at the most.")
            left = _FIRST_SECONDS + size / _SLOWEST - (time.monotonic() - began)
            part = await self._part(receive, left)
            chunk, more = part.get("body", b""), part.get("more_body", False)
            size += len(chunk)
            if size > settings.FILE_UPLOAD_MAX_MEMORY_SIZE:  # it goes to the disk
                await loop.run_in_executor(self._files, body.write, chunk)
            else:
                body.write(chunk)

    @staticmethod
    async def _part(receive: Receive, seconds: float) -> Mapping[str, Any]:
        try:
            part = await asyncio.wait_for(receive(), max(seconds, 0.01))
        except TimeoutError:
            raise _Refused(408, "Your request came too slowly; try again.") from None
        if part["type"] == "http.disconnect":
            raise _Gone
        return part

    # -- answers

    async def send_response(self, response: HttpResponseBase, send: Send) -> None:
        """As Django's, but a file is read piece by piece, each once the one before is away."""

        async def sent(message: Mapping[str, Any]) -> None:
            await asyncio.wait_for(send(message), _CHUNK_SECONDS)

        try:
            if not response.streaming:
                await super().send_response(response, sent)
                return
            headers = [(k.encode("ascii"), v.encode("latin1")) for k, v in response.items()]
            headers += [
                (b"Set-Cookie", c.output(header="").strip().encode("ascii"))
                for c in response.cookies.values()
            ]
            await sent(
                {
                    "type": "http.response.start",
                    "status": response.status_code,
                    "headers": headers,
                }
            )
            loop = asyncio.get_running_loop()
            pieces = iter(response)
            while piece := await loop.run_in_executor(self._files, next, pieces, b""):
                await sent({"type": "http.response.body", "body": piece, "more_body": True})
            await sent({"type": "http.response.body"})
        except TimeoutError:
            return  # whoever fetches it takes nothing any more: the connection ends


def _address(scope: dict, headers: dict[bytes, bytes]) -> str:
    peer = scope["client"][0] if scope.get("client") else ""
    return addresses.seen(peer, headers.get(b"x-forwarded-for", b"").decode("latin1"))


def _number(text: bytes) -> int:
    return int(text) if text.isdigit() and len(text) < 16 else 0


def _has_account(headers: dict[bytes, bytes]) -> bool:
    """Whether a request comes with a session of somebody who is logged in."""
    try:
        cookies = SimpleCookie(headers.get(b"cookie", b"").decode("latin1"))
    except CookieError:
        return False
    cookie = cookies.get(settings.SESSION_COOKIE_NAME)
    if cookie is None:
        return False
    store = import_string(f"{settings.SESSION_ENGINE}.SessionStore")
    try:
        return SESSION_KEY in store(cookie.value)
    except (OperationalError, InterfaceError):
        raise _Refused(503, DATABASE_AWAY) from None


def _said(refused: _Refused) -> HttpResponseBase:
    headers = {"Connection": "close"}
    return JsonResponse({"detail": str(refused)}, status=refused.status, headers=headers)
