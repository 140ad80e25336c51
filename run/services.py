"""The project's own MariaDB and Redis: reached by sockets in a folder that only we can read.

Standard library only. Nothing here touches a server that this project did not start, and
neither of the two listens on the network.
"""

from __future__ import annotations

import contextlib
import ctypes
import json
import os
import secrets
import shutil
import signal
import socket
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
_INSTALLED_AT_MOST = 3  # tries to lay out an empty database
_CHILDREN = "children.json"
_DEATH_OF_PARENT = 1  # PR_SET_PDEATHSIG of prctl(2)
_libc = ctypes.CDLL(None)
_LONGEST_SOCKET = 100  # letters of a socket's path that the kernel takes, with some room


def free_port() -> int:
    with socket.socket() as s:
        s.bind(("127.0.0.1", 0))
        return s.getsockname()[1]


@dataclass
class Server:
    """One of the programs that are kept up. begin: starts it and does not wait; answers: whether it
    does its work by now; patience: seconds that it may take until then."""

    name: str
    begin: Callable[[], subprocess.Popen]
    answers: Callable[[], bool]
    patience: float = 60
    child: subprocess.Popen | None = None
    #: When it ended of late; not before when it is started again; until when it is to answer.
    deaths: list[float] = field(default_factory=list)
    not_before: float = 0.0
    due: float | None = None

    def is_well(self) -> bool:
        try:
            return self.answers()
        except OSError:
            return False


class Services:
    """Starts and stops the two servers; ``settings`` is what Django needs to find them."""

    def __init__(self, var: Path) -> None:
        self.var = var.resolve()
        self.database = Server("database", self._begin_database, self._root_is_ours)
        self.broker = Server("message broker", self._begin_redis, self._redis_answers)
        self.servers = [self.database, self.broker]
        self._elsewhere: Path | None = None
        self.settings: dict[str, object] = {}

    def start(self) -> None:
        self.var.mkdir(parents=True, exist_ok=True)
        self.var.chmod(0o700)  # recordings, passwords, sockets: nobody else's business
        (self.var / "log").mkdir(exist_ok=True)
        self._end_leftovers()
        sockets = self._socket_folder()
        self.settings = {
            **self._secrets(),
            "db_socket": str(sockets / "db.sock"),
            "redis_socket": str(sockets / "redis.sock"),
        }
        self.up(self.database)
        self.up(self.broker)
        self._create_database()
        path = self.var / "services.json"
        path.touch(mode=0o600)
        path.write_text(json.dumps(self.settings))

    def _socket_folder(self) -> Path:
        """``var``, or a folder of its own where that path is too long for a socket."""
        if len(str(self.var / "redis.sock")) <= _LONGEST_SOCKET:
            return self.var
        if self._elsewhere is None:
            self._elsewhere = Path(tempfile.mkdtemp(prefix="orchesis-sockets-"))
        return self._elsewhere

    def _secrets(self) -> dict[str, str]:
        path = self.var / "secrets.json"
        kept = json.loads(path.read_text()) if path.exists() else {}
        secrets_of_house = {
            "db_root_password": secrets.token_hex(16),
            "db_password": secrets.token_hex(16),
            "django_key": secrets.token_hex(32),
        }
        if not secrets_of_house.keys() <= kept.keys():
            path.touch(mode=0o600)
            path.write_text(json.dumps(secrets_of_house | kept))
        return secrets_of_house | kept

    def spawn(self, command: list[str], log: str, **options: object) -> subprocess.Popen:
        """A child in a session of its own, so that Ctrl-C reaches only us; it ends when we do."""
        us = os.getpid()

        def ends_with_us() -> None:
            _libc.prctl(_DEATH_OF_PARENT, signal.SIGTERM)
            if os.getppid() != us:
                os._exit(1)

        with (self.var / "log" / log).open("ab") as out:
            return subprocess.Popen(
                command,
                stdout=out,
                stderr=subprocess.STDOUT,
                stdin=subprocess.DEVNULL,
                start_new_session=True,
                preexec_fn=ends_with_us,
                **options,
            )

    def begin(self, server: Server) -> None:
        """Starts a server without waiting for it."""
        server.child = server.begin()
        self._note_children()

    def up(self, server: Server) -> None:
        """Starts a server and waits until it answers. Raises SystemExit where it does not."""
        self.begin(server)
        until = time.monotonic() + server.patience
        while not server.is_well():
            assert server.child is not None
            if server.child.poll() is not None:
                raise SystemExit(f"The {server.name} did not start; see {self.var / 'log'}.")
            if time.monotonic() > until:
                raise SystemExit(
                    f"The {server.name} did not answer within {server.patience:.0f} s; see "
                    f"{self.var / 'log'}."
                )
            time.sleep(0.1)

    def end(self, server: Server) -> None:
        """Stops a server for good, with the processes that it started."""
        if server.child is not None:
            stop(server.child)
            server.child = None
            server.deaths.clear()
            self._note_children()

    def _note_children(self) -> None:
        """What we started, for whoever starts after we were killed."""
        alive = [s.child.pid for s in self.servers if s.child and s.child.poll() is None]
        path = self.var / _CHILDREN
        path.write_text(json.dumps([[pid, _begun(pid)] for pid in alive]))

    def _end_leftovers(self) -> None:
        """A start that was killed may have left servers, which are still ending: they go first."""
        try:
            left = json.loads((self.var / _CHILDREN).read_text())
        except (OSError, ValueError):
            return
        for sign, patience in ((signal.SIGTERM, 20.0), (signal.SIGKILL, 10.0)):
            left = [(pid, begun) for pid, begun in left if begun and _begun(pid) == begun]
            for pid, _ in left:
                with contextlib.suppress(ProcessLookupError):
                    os.kill(pid, sign) if sign == signal.SIGTERM else os.killpg(pid, sign)
            until = time.monotonic() + patience
            while time.monotonic() < until and any(_begun(pid) == begun for pid, begun in left):
                time.sleep(0.1)
        (self.var / _CHILDREN).unlink(missing_ok=True)

    def _begin_database(self) -> subprocess.Popen:
        data = self.var / "mariadb"
        run_as = ["--user=root"] if os.geteuid() == 0 else []
        if not (data / "mysql").is_dir():
            self._install_database(data, run_as)
        return self.spawn(
            [
                _server("mariadbd"),
                "--no-defaults",
                *run_as,
                f"--datadir={data}",
                f"--socket={self.settings['db_socket']}",
                "--skip-networking",
                f"--pid-file={data / 'mariadbd.pid'}",
                "--character-set-server=utf8mb4",
                "--collation-server=utf8mb4_unicode_ci",
                "--innodb-buffer-pool-size=128M",
                "--max-allowed-packet=64M",
                "--skip-log-bin",
            ],
            "mariadb.log",
        )

    def _install_database(self, data: Path, run_as: list[str]) -> None:
        """Lays out an empty database; on a busy machine that fails now and then, so once more."""
        message = ""
        for _ in range(_INSTALLED_AT_MOST):
            shutil.rmtree(data, ignore_errors=True)
            done = subprocess.run(
                [
                    "mariadb-install-db",
                    "--no-defaults",
                    *run_as,
                    f"--datadir={data}",
                    "--auth-root-authentication-method=normal",
                    "--skip-test-db",
                ],
                capture_output=True,
                text=True,
            )
            if done.returncode == 0:
                return
            message = "\n".join((done.stdout + done.stderr).strip().splitlines()[-12:])
            print(f"mariadb-install-db ended with {done.returncode}:\n{message}", file=sys.stderr)
            time.sleep(1)
        raise SystemExit(f"The database could not be laid out in {data}. It said:\n{message}")

    def _begin_redis(self) -> subprocess.Popen:
        data = self.var / "redis"
        data.mkdir(exist_ok=True)
        return self.spawn(
            [
                "redis-server",
                "--port",
                "0",
                "--unixsocket",
                str(self.settings["redis_socket"]),
                "--unixsocketperm",
                "700",
                "--dir",
                str(data),
                "--appendonly",
                "yes",
                "--save",
                "",
                "--daemonize",
                "no",
            ],
            "redis.log",
        )

    def _redis_answers(self) -> bool:
        with socket.socket(socket.AF_UNIX) as s:
            s.settimeout(1)
            s.connect(str(self.settings["redis_socket"]))
            s.sendall(b"PING\r\n")
            return s.recv(16).startswith(b"+PONG")

    def _root_is_ours(self) -> bool:
        """Whether the database answers to root's password; a new one, or one from before we
        gave it a password, gets it now."""
        password = str(self.settings["db_root_password"])
        return self._sql("SELECT 1") or self._sql(
            f"ALTER USER 'root'@'localhost' IDENTIFIED BY '{password}'", password=""
        )

    def _sql(self, statement: str, password: str | None = None) -> bool:
        if password is None:
            password = str(self.settings["db_root_password"])
        done = subprocess.run(
            [
                "mariadb",
                "--no-defaults",
                "-uroot",
                f"--socket={self.settings['db_socket']}",
                "-e",
                statement,
            ],
            capture_output=True,
            env={**os.environ, "MYSQL_PWD": password},
        )
        return done.returncode == 0

    def _create_database(self) -> None:
        password = self.settings["db_password"]
        user = "'orchesis'@'localhost'"
        if not self._sql(
            "CREATE DATABASE IF NOT EXISTS orchesis CHARACTER SET utf8mb4;"
            f"CREATE USER IF NOT EXISTS {user} IDENTIFIED BY '{password}';"
            f"ALTER USER {user} IDENTIFIED BY '{password}';"
            f"GRANT ALL ON orchesis.* TO {user}; GRANT ALL ON `test\\_orchesis%`.* TO {user};"
            "DROP USER IF EXISTS 'orchesis'@'127.0.0.1';"
        ):
            raise SystemExit("The database could not be prepared; see var/log/mariadb.log.")

    def stop(self) -> None:
        """Ends what was started here, the last first, by its process id."""
        for server in reversed(self.servers):
            self.end(server)
        if self._elsewhere is not None:
            shutil.rmtree(self._elsewhere, ignore_errors=True)
            self._elsewhere = None


def _begun(pid: int) -> str:
    """When a process began, in ticks since the machine did; "" where there is none: a process id is
    given out again, both together are not."""
    try:
        fields = Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()
    except OSError:
        return ""
    return "" if fields[0] == "Z" else fields[19]


def end_group(child: subprocess.Popen) -> None:
    """Ends what a child that is gone left behind in its session."""
    with contextlib.suppress(ProcessLookupError):
        os.killpg(child.pid, signal.SIGKILL)


def stop(child: subprocess.Popen, patience: float = 15) -> None:
    """Ends a child, and with it whatever it started."""
    if child.poll() is None:
        child.send_signal(signal.SIGTERM)
        with contextlib.suppress(subprocess.TimeoutExpired):
            child.wait(patience)
    end_group(child)
    child.wait()


def _server(name: str) -> str:
    """Servers lie in /usr/sbin, which is not on every user's path."""
    program = shutil.which(name) or shutil.which(name, path="/usr/sbin:/usr/local/sbin")
    if not program:
        sys.exit(f"{name} is not installed; run “make start” to install what is missing.")
    return program
