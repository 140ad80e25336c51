"""Work on a long sound piece by piece, on two threads, in order and with bounded memory."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from typing import TypeVar

_THREADS = 2
_AHEAD = 2  # pieces in hand at a time
A = TypeVar("A")
B = TypeVar("B")


def in_order(work: Callable[[A], B], pieces: Iterable[A]) -> Iterator[B]:
    """The results of a piece of work each, in the order of the pieces.

    Each piece is worked on by one thread, so that the result is the same on any number of
    cores. Pieces are taken a few at a time; whoever stops asking stops the work.
    """
    waiting: deque[Future[B]] = deque()
    pool = ThreadPoolExecutor(_THREADS)
    try:
        for piece in pieces:
            waiting.append(pool.submit(work, piece))
            if len(waiting) >= _AHEAD:
                yield waiting.popleft().result()
        while waiting:
            yield waiting.popleft().result()
    finally:
        pool.shutdown(wait=True, cancel_futures=True)
