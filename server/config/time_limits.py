"""How long work in an answer may take: it is ended where it is, or left to a worker."""

from __future__ import annotations

import ctypes
import threading
from collections.abc import Callable
from typing import TypeVar

from orchesis.errors import BadScore

T = TypeVar("T")
#: In an answer to the page, which asks again; for a file, which the browser fetches once.
ANSWER_SECONDS, FILE_SECONDS = 2.0, 25.0
TOO_LONG = "This song is too long for that; take a part of it as a song of its own."


class TookTooLong(BaseException):
    """Not an Exception: no rule of ours takes it for a fault of a song."""


def in_time(seconds: float, make: Callable[[], T]) -> T:
    """What ``make`` returns. Raises BadScore where that takes longer."""
    try:
        return within(seconds, make)
    except TookTooLong:
        raise BadScore(TOO_LONG) from None


def if_soon(make: Callable[[], T]) -> T | None:
    """What ``make`` returns; None where that takes longer than an answer may."""
    try:
        return within(ANSWER_SECONDS, make)
    except TookTooLong:
        return None


def within(seconds: float, make: Callable[[], T]) -> T:
    """What ``make`` returns, if it does so in time; else it is ended where it is, and TookTooLong
    raised. For what reckons in Python: a call of a library is ended when it comes back."""
    lock, thread = threading.Lock(), ctypes.c_ulong(threading.get_ident())
    is_over = was_rung = False

    def ring() -> None:
        nonlocal was_rung
        with lock:
            if not is_over:
                was_rung = True
                ctypes.pythonapi.PyThreadState_SetAsyncExc(thread, ctypes.py_object(TookTooLong))

    timer = threading.Timer(seconds, ring)
    timer.daemon = True
    timer.start()
    try:
        return make()
    finally:
        with lock:
            is_over = True
            if was_rung:  # if it is still on its way, it is taken back
                ctypes.pythonapi.PyThreadState_SetAsyncExc(thread, None)
        timer.cancel()
