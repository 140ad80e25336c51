"""Starts everything Orchesis needs, serves the page, and stops all of it on Ctrl-C."""

from __future__ import annotations

import os
import signal
import socket
import sys
import time
from pathlib import Path

from house import House
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


def main() -> None:
    port = int(os.environ.get("PORT", "8000"))
    if is_taken(port):
        sys.exit(f"Port {port} is in use; stop what runs there, or start with PORT={port + 1}.")
    # Also where a shell started us in the background and so made us deaf to Ctrl-C.
    for told in (signal.SIGINT, signal.SIGTERM):
        signal.signal(told, signal.default_int_handler)
    try:
        with House(Path(os.environ.get("ORCHESIS_VAR", ROOT / "var")), port) as house:
            print(f"\nOrchesis is at {house.address}   log in with {DEMO}", flush=True)
            print("Ctrl-C stops it.", flush=True)
            while all(c.poll() is None for c in house.children):
                time.sleep(0.5)
            print(f"A server ended; see {house.var / 'log'}. Stopping the rest.", file=sys.stderr)
    except KeyboardInterrupt:
        print("\nStopped.")


if __name__ == "__main__":
    main()
