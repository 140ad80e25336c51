"""The whole application as one thing that starts and stops: services, worker, web server."""

from __future__ import annotations

import os
import socket
import subprocess
import sys
import time
from pathlib import Path

from services import ROOT, Services, stop

BIN = Path(sys.executable).parent
SERVER = ROOT / "server"


class House(Services):
    """Everything of one running Orchesis, with its data under ``var``."""

    def __init__(self, var: Path, port: int, **environment: str) -> None:
        super().__init__(var)
        self.port = port
        self.environment = {**os.environ, "ORCHESIS_VAR": str(self.var), **environment}
        self.worker: subprocess.Popen | None = None
        self.web: subprocess.Popen | None = None

    @property
    def address(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    def manage(self, *args: str) -> None:
        command = [sys.executable, str(SERVER / "manage.py"), *args]
        subprocess.run(command, check=True, env=self.environment)

    def prepare(self) -> None:
        self.manage("migrate", "--no-input", "-v0")
        self.manage("collectstatic", "--no-input", "-v0")

    def __enter__(self) -> House:
        """Everything up, with the demo loaded once."""
        try:
            self.start()
            self.prepare()
            self.manage("load_demo")
            self.start_worker()
            self.start_web()
        except BaseException:
            self.stop()
            raise
        return self

    def __exit__(self, *_exc: object) -> None:
        self.stop()

    def start_worker(self) -> None:
        self.worker = self.spawn(
            [str(BIN / "celery"), "-A", "config", "--workdir", str(SERVER), "worker",
             "--concurrency", "1", "--loglevel", "info", "--without-gossip", "--without-mingle"],
            "worker.log", env=self.environment,
        )  # fmt: skip

    def start_web(self) -> None:
        self.web = self.spawn(
            [str(BIN / "gunicorn"), "--chdir", str(SERVER), "--bind", f"127.0.0.1:{self.port}",
             "--workers", "2", "--threads", "8", "--timeout", "120", "config.wsgi"],
            "web.log", env=self.environment,
        )  # fmt: skip
        until = time.monotonic() + 60
        while time.monotonic() < until and self.web.poll() is None:
            try:
                socket.create_connection(("127.0.0.1", self.port), timeout=1).close()
                return
            except OSError:
                time.sleep(0.1)
        raise SystemExit(f"The web server did not start; see {self.var / 'log' / 'web.log'}.")

    def end(self, child: subprocess.Popen | None) -> None:
        """Stops one child for good (a test kills the worker; the demo may restart it)."""
        if child is not None:
            stop(child)
            self.children.remove(child)
