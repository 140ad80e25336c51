"""Starts everything Orchesis needs, serves the page, and stops all of it on Ctrl-C."""

from __future__ import annotations

import os
import signal
import socket
import subprocess
import sys
import time
from pathlib import Path

from services import ROOT, Services

PORT = int(os.environ.get("PORT", "8000"))
BIN = Path(sys.executable).parent
DEMO = "demo / tin-meridian"


def manage(*args: str) -> None:
    subprocess.run([sys.executable, str(ROOT / "server" / "manage.py"), *args], check=True)


def is_taken(port: int) -> bool:
    with socket.socket() as s:
        s.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            s.bind(("127.0.0.1", port))
        except OSError:
            return True
    return False


def serve(services: Services) -> None:
    server = str(ROOT / "server")
    services.spawn(
        [str(BIN / "celery"), "-A", "config", "--workdir", server, "worker", "--concurrency", "1",
         "--loglevel", "info", "--without-gossip", "--without-mingle"],
        "worker.log",
    )  # fmt: skip
    services.spawn(
        [str(BIN / "gunicorn"), "--chdir", server, "--bind", f"127.0.0.1:{PORT}", "--workers", "2",
         "--threads", "8", "--timeout", "120", "config.wsgi"],
        "web.log",
    )  # fmt: skip
    until = time.monotonic() + 60
    while time.monotonic() < until:
        try:
            socket.create_connection(("127.0.0.1", PORT), timeout=1).close()
            return
        except OSError:
            time.sleep(0.1)
    raise SystemExit("The web server did not start; see var/log/web.log.")


def main() -> None:
    if is_taken(PORT):
        sys.exit(f"Port {PORT} is in use; stop what runs there, or start with PORT=8001.")
    var = Path(os.environ.get("ORCHESIS_VAR", ROOT / "var"))
    services = Services(var)
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
    try:
        services.start()
        manage("migrate", "--no-input", "-v0")
        manage("collectstatic", "--no-input", "-v0")
        manage("load_demo")
        serve(services)
        print(f"\nOrchesis is at http://127.0.0.1:{PORT}   log in with {DEMO}\nCtrl-C stops it.")
        while all(c.poll() is None for c in services.children):
            time.sleep(0.5)
        print("One of the servers ended; see var/log. Stopping the rest.", file=sys.stderr)
    except KeyboardInterrupt:
        print("\nStopping ...")
    finally:
        services.stop()


if __name__ == "__main__":
    main()
