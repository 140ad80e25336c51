"""The whole application as one thing that starts, is kept up, and stops: services, worker, web."""

from __future__ import annotations

import os
import subprocess
import sys
import time
import urllib.error
import urllib.request
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path

from services import ROOT, Services, stop

BIN = Path(sys.executable).parent
SERVER = ROOT / "server"


#: A server that ends so many times in so many seconds can't be kept up.
MOST_DEATHS, WITHIN = 6, 120.0
_FIRST_PAUSE, _LONGEST_PAUSE = 1.0, 20.0  # seconds before a server is started again


class CannotBeKeptUp(Exception):
    """A server that ends again and again."""


@dataclass
class Tended:
    """A server that is started again when it ends."""

    name: str
    start: Callable[[], None]
    child: Callable[[], subprocess.Popen | None]
    deaths: list[float] = field(default_factory=list)
    not_before: float = 0.0


class House(Services):
    """Everything of one running Orchesis, with its data under ``var``."""

    def __init__(self, var: Path, port: int, **environment: str) -> None:
        super().__init__(var)
        self.port = port
        self.environment = {**os.environ, "ORCHESIS_VAR": str(self.var), **environment}
        self.worker: subprocess.Popen | None = None
        self.web: subprocess.Popen | None = None
        self.tended = [
            Tended("database", self.start_database, lambda: self.database),
            Tended("message broker", self.start_redis, lambda: self.broker),
            Tended("worker", self.start_worker, lambda: self.worker),
            Tended("web server", self.start_web, lambda: self.web),
        ]

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
        until = time.monotonic() + 90
        # It listens before it can answer: the address is told once it does.
        asked = f"http://127.0.0.1:{self.port}/api/session"
        while time.monotonic() < until and self.web.poll() is None:
            try:
                with urllib.request.urlopen(asked, timeout=60):
                    return
            except urllib.error.HTTPError:
                return  # an answer, too: what it says is for whoever asks
            except OSError:
                time.sleep(0.1)
        raise SystemExit(f"The web server did not start; see {self.var / 'log' / 'web.log'}.")

    def tend(self, say: Callable[[str], None] = lambda _words: None) -> None:
        """Starts again what ended, after a pause that doubles; to be called a few times a second.

        Raises CannotBeKeptUp where one server ends again and again.
        """
        now = time.monotonic()
        for one in self.tended:
            child = one.child()
            if child is None or child.poll() is None:
                continue
            if child in self.children:  # its end is news
                self.children.remove(child)
                one.deaths = [d for d in one.deaths if now - d < WITHIN] + [now]
                if len(one.deaths) >= MOST_DEATHS:
                    raise CannotBeKeptUp(
                        f"The {one.name} ended {MOST_DEATHS} times in {WITHIN:.0f} s; see "
                        f"{self.var / 'log'}."
                    )
                pause = min(_FIRST_PAUSE * 2 ** (len(one.deaths) - 1), _LONGEST_PAUSE)
                one.not_before = now + pause
                say(f"The {one.name} ended (code {child.returncode}); starting it again.")
            elif now >= one.not_before:
                try:
                    one.start()
                except SystemExit as problem:
                    say(str(problem))  # it ended again: counted at the next look
                else:
                    say(f"The {one.name} is up again.")

    def end(self, child: subprocess.Popen | None) -> None:
        """Stops one child for good (a test kills the worker; the demo may restart it)."""
        if child is not None:
            stop(child)
            self.children.remove(child)
