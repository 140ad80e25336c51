"""A connection of the web server that waits for nobody for ever, and gunicorn's worker with it."""

from __future__ import annotations

import asyncio
import contextlib
import resource
from typing import Any, ClassVar

from uvicorn.protocols.http.httptools_impl import HttpToolsProtocol
from uvicorn_worker import UvicornWorker

from config.places import Places

#: Seconds for the head of a request, and bytes that it may have.
HEAD_SECONDS, BIGGEST_HEAD = 15.0, 64 * 1024
_KEEP_ALIVE = 15  # seconds that a connection without a request stays open
_EACH, _ALL = 300, 3000  # connections without a request under way: of one address, of all


class Connection(HttpToolsProtocol):
    """uvicorn's own, with bounds on the time and size of a request's head and on how many idle."""

    _idle: ClassVar[Places] = Places(_EACH, _ALL)
    _late: asyncio.TimerHandle | None = None
    _head = 0

    def connection_made(self, transport: asyncio.BaseTransport) -> None:
        super().connection_made(transport)  # type: ignore[arg-type]
        self._wait_for_head()

    def data_received(self, data: bytes) -> None:
        if self._is_between_requests:
            if self._late is None:
                self._wait_for_head()
            self._head += len(data)
        super().data_received(data)
        if self._is_between_requests and self._head > BIGGEST_HEAD:
            self.send_400_response("The head of this request is too long.")

    def on_headers_complete(self) -> None:
        self._no_wait()
        super().on_headers_complete()

    def connection_lost(self, exc: Exception | None) -> None:
        self._no_wait()
        super().connection_lost(exc)

    @property
    def _is_between_requests(self) -> bool:
        return self.cycle is None or self.cycle.response_complete

    def _wait_for_head(self) -> None:
        self._late = self.loop.call_later(HEAD_SECONDS, self._hang_up)
        self._idle.take(self, self.client[0] if self.client else "", self._hang_up)

    def _no_wait(self) -> None:
        self._head = 0
        self._idle.leave(self)
        if self._late is not None:
            self._late.cancel()
            self._late = None

    def _hang_up(self) -> None:
        self._no_wait()
        if not self.transport.is_closing():
            self.transport.abort()


class PatientWorker(UvicornWorker):
    """Who comes is told by our own rule (config.addresses), not by uvicorn's."""

    CONFIG_KWARGS: ClassVar[dict[str, Any]] = {
        "loop": "asyncio",
        "http": Connection,
        "ws": "none",
        "lifespan": "off",
        "proxy_headers": False,
        "server_header": False,
        "date_header": True,
        "timeout_keep_alive": _KEEP_ALIVE,
    }

    def init_process(self) -> None:
        _, most = resource.getrlimit(resource.RLIMIT_NOFILE)
        with contextlib.suppress(ValueError, OSError):  # as many connections as the system lets us
            resource.setrlimit(resource.RLIMIT_NOFILE, (min(most, 16384), most))
        super().init_process()
