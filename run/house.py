"""The whole application as one thing that starts, is kept up, and stops: services, worker, web."""

from __future__ import annotations

import os
import subprocess
import sys
import time
import urllib.error
import urllib.request
from collections.abc import Callable
from pathlib import Path

from services import ROOT, Server, Services, end_group

BIN = Path(sys.executable).parent
SERVER = ROOT / "server"


#: A server that ends so many times in so many seconds can't be kept up.
MOST_DEATHS, WITHIN = 6, 120.0
_FIRST_PAUSE, _LONGEST_PAUSE = 1.0, 20.0  # seconds before a server is started again


class CannotBeKeptUp(Exception):
    """A server that ends again and again."""


class House(Services):
    """Everything of one running Orchesis, with its data under ``var``."""

    def __init__(self, var: Path, port: int, **environment: str) -> None:
        super().__init__(var)
        self.port = port
        self.environment = {**os.environ, "ORCHESIS_VAR": str(self.var), **environment}
        self.worker = Server("worker", self._begin_worker, lambda: True)
        self.web = Server("web server", self._begin_web, self._web_answers, patience=90)
        self.servers += [self.worker, self.web]

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
            self.up(self.worker)
            self.up(self.web)
        except BaseException:
            self.stop()
            raise
        return self

    def __exit__(self, *_exc: object) -> None:
        self.stop()

    def _begin_worker(self) -> subprocess.Popen:
        return self.spawn(
            [
                str(BIN / "celery"),
                "-A",
                "config",
                "--workdir",
                str(SERVER),
                "worker",
                "--concurrency",
                "1",
                "--loglevel",
                "info",
                "--without-gossip",
                "--without-mingle",
            ],
            "worker.log",
            env=self.environment,
        )

    def _begin_web(self) -> subprocess.Popen:
        return self.spawn(
            [
                str(BIN / "gunicorn"),
                "--chdir",
                str(SERVER),
                "--bind",
                f"127.0.0.1:{self.port}",
                "--workers",
                "2",
                "--worker-class",
                "config.connections.PatientWorker",
                "--timeout",
                "120",
                "--preload",
                "--no-control-socket",
                "config.asgi",
            ],
            "web.log",
            env=self.environment,
        )

    def _web_answers(self) -> bool:
        """It listens before it can answer: the address is told once it does."""
        try:
            with urllib.request.urlopen(f"{self.address}/api/session", timeout=3):
                return True
        except urllib.error.HTTPError:
            return True  # an answer, too: what it says is for whoever asks

    def tend(self, say: Callable[[str], None] = lambda _words: None) -> None:
        """Starts again what ended, after a pause that doubles; to be called a few times a second.

        It waits for none of them: while one comes up, the others are looked after. Raises
        CannotBeKeptUp where one server ends again and again.
        """
        now = time.monotonic()
        for server in self.servers:
            child = server.child
            if child is not None and child.poll() is not None:
                end_group(child)  # what it started holds its port, or its work
                server.child, server.due = None, None
                self._count_death(server, child.returncode, now, say)
            elif child is None and server.deaths and now >= server.not_before:
                self.begin(server)
                server.due = now + server.patience
            elif child is not None and server.due is not None:
                if server.is_well():
                    server.due = None
                    say(f"The {server.name} is up again.")
                elif now > server.due:
                    end_group(child)  # counted at the next look

    def _count_death(
        self, server: Server, code: int, now: float, say: Callable[[str], None]
    ) -> None:
        server.deaths = [d for d in server.deaths if now - d < WITHIN] + [now]
        if len(server.deaths) >= MOST_DEATHS:
            raise CannotBeKeptUp(
                f"The {server.name} ended {MOST_DEATHS} times in {WITHIN:.0f} s; see "
                f"{self.var / 'log'}."
            )
        pause = min(_FIRST_PAUSE * 2 ** (len(server.deaths) - 1), _LONGEST_PAUSE)
        server.not_before = now + pause
        say(f"The {server.name} ended (code {code}); starting it again.")
