"""Starts everything Orchesis needs, serves the page, keeps it up, and stops all of it on Ctrl-C."""

from __future__ import annotations

import contextlib
import fcntl
import json
import os
import signal
import socket
import sys
import time
from collections.abc import Iterator
from pathlib import Path

from house import CannotBeKeptUp, House
from services import ROOT

DEMO = "demo / tin-meridian"


def is_taken(port: int) -> bool:
    with socket.socket() as s:
        s.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            s.bind(("127.0.0.1", port))
        except OSError:
            return True
    return False


@contextlib.contextmanager
def only_one(var: Path, port: int) -> Iterator[None]:
    """Holds the folder of data for this process; ends with a sentence where another one does."""
    var.mkdir(parents=True, exist_ok=True)
    running = var / "running.json"
    with (var / "running.lock").open("a") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            sys.exit(_runs_already(running))
        running.write_text(json.dumps({"process": os.getpid(), "port": port}))
        try:
            yield
        finally:
            running.unlink(missing_ok=True)


def _runs_already(running: Path) -> str:
    try:
        other = json.loads(running.read_text())
        where = f"http://127.0.0.1:{other['port']} (process {other['process']})"
    except (OSError, ValueError, KeyError):
        where = "another window"
    return (
        f"Orchesis runs here already, or is just starting, at {where}; stop it there with Ctrl-C "
        "first, or give this one a folder of its own with ORCHESIS_VAR=."
    )


def main() -> None:
    port = int(os.environ.get("PORT", "8000"))
    var = Path(os.environ.get("ORCHESIS_VAR", ROOT / "var"))
    # Also where a shell started us in the background and so made us deaf to Ctrl-C, and where
    # the terminal is closed.
    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, signal.default_int_handler)
    try:
        with only_one(var, port):
            if is_taken(port):
                sys.exit(
                    f"Port {port} is in use by another program; stop that one, or start with "
                    f"PORT={port + 1}."
                )
            with House(var, port) as house:
                say(f"\nOrchesis is at {house.address}   log in with {DEMO}\nCtrl-C stops it.")
                while True:
                    time.sleep(0.5)
                    house.tend(say)
    except CannotBeKeptUp as problem:
        sys.exit(f"{problem} Everything was stopped.")
    except KeyboardInterrupt:
        say("\nStopped.")


def say(words: str) -> None:
    """A word to the terminal, if it is still there."""
    with contextlib.suppress(OSError):
        print(words, flush=True)


if __name__ == "__main__":
    main()
