"""Running another program (ffmpeg, rubberband) so that it can harm nobody.

It gets bounds on memory, processor and wall clock, a process group of its own that is killed
as a whole, and it dies with us: no decoder outlives the work that it was started for.
"""

from __future__ import annotations

import ctypes
import os
import resource
import signal
import subprocess
import threading
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import IO

from orchesis.errors import OrchesisError

_MEMORY = 1_500_000_000  # bytes of address space
_TICK = 0.2  # seconds between two looks at the child
_MOST_SAID = 1 << 20  # bytes of output that are kept
_NEW_NETWORK, _NEW_USER = 0x40000000, 0x10000000  # CLONE_NEWNET, CLONE_NEWUSER of unshare(2)
_DIES_WITH_PARENT = 1  # PR_SET_PDEATHSIG of prctl(2)
_libc = ctypes.CDLL(None, use_errno=True)


class ProgramMissing(OrchesisError):
    """A program that is not installed."""


class TookTooLong(OrchesisError):
    """A program that did not end by its time."""


@dataclass(frozen=True)
class Ended:
    """How a program ended, and the first megabyte of what it said."""

    code: int
    out: bytes
    err: bytes


def run(
    command: Sequence[str], *, seconds: float, tick: Callable[[bytes], None] | None = None
) -> Ended:
    """Runs a program to its end.

    seconds: the wall clock it has. tick: called five times a second with what it wrote to
    its standard output since; whatever it raises (``Cancelled``, say) ends the program. Raises
    ProgramMissing, or TookTooLong where its time is over.
    """
    try:
        child = subprocess.Popen(
            command,
            stdout=subprocess.PIPE,
            stderr=subprocess.PIPE,
            stdin=subprocess.DEVNULL,
            start_new_session=True,
            preexec_fn=lambda: _bound(seconds),
        )
    except FileNotFoundError:
        raise ProgramMissing(f"{command[0]} is not installed; install it and try again.") from None
    out, err = _Kept(child.stdout), _Kept(child.stderr)
    until = time.monotonic() + seconds
    try:
        while True:
            try:
                code = child.wait(_TICK)
                break
            except subprocess.TimeoutExpired:
                if time.monotonic() > until:
                    raise TookTooLong(f"{command[0]} did not end in {seconds:.0f} s.") from None
                if tick is not None:
                    tick(out.news())
    except BaseException:
        os.killpg(child.pid, signal.SIGKILL)
        child.wait()
        raise
    return Ended(code, out.all(), err.all())


def _bound(seconds: float) -> None:
    """In the child, before the program begins."""
    _libc.prctl(_DIES_WITH_PARENT, signal.SIGKILL)
    # Without a network, where the system lets us: as root, or in a user's own name space.
    if _libc.unshare(_NEW_NETWORK) != 0:
        _libc.unshare(_NEW_USER | _NEW_NETWORK)
    resource.setrlimit(resource.RLIMIT_AS, (_MEMORY, _MEMORY))
    resource.setrlimit(resource.RLIMIT_CPU, (int(seconds), int(seconds) + 1))


class _Kept:
    """What comes out of a pipe, read by a thread so that the pipe never fills."""

    def __init__(self, pipe: IO[bytes] | None) -> None:
        assert pipe is not None
        self._pipe, self._said, self._told = pipe, bytearray(), 0
        self._reader = threading.Thread(target=self._read, daemon=True)
        self._reader.start()

    def _read(self) -> None:
        with self._pipe as pipe:
            for line in pipe:
                if len(self._said) < _MOST_SAID:
                    self._said += line

    def news(self) -> bytes:
        """What was said since it was last asked."""
        text = bytes(self._said[self._told :])
        self._told += len(text)
        return text

    def all(self) -> bytes:
        """Everything, once the program has ended."""
        self._reader.join()
        return bytes(self._said)
