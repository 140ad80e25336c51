"""The project's own MariaDB and Redis: reached by sockets in a folder that only we can read.

Standard library only. Nothing here touches a server that this project did not start, and
neither of the two listens on the network.
"""

from __future__ import annotations

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
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
_INSTALLED_AT_MOST = 3  # tries to lay out an empty database
_LONGEST_SOCKET = 100  # letters of a socket's path that the kernel takes, with some room


def free_port() -> int:
    with socket.socket() as s:
        s.bind(("127.0.0.1", 0))
        return s.getsockname()[1]


class Services:
    """Starts and stops the two servers; ``settings`` is what Django needs to find them."""

    def __init__(self, var: Path) -> None:
        self.var = var.resolve()
        self.children: list[subprocess.Popen] = []
        self.database: subprocess.Popen | None = None
        self.broker: subprocess.Popen | None = None
        self._elsewhere: Path | None = None
        self.settings: dict[str, object] = {}

    def start(self) -> None:
        self.var.mkdir(parents=True, exist_ok=True)
        self.var.chmod(0o700)  # recordings, passwords, sockets: nobody else's business
        (self.var / "log").mkdir(exist_ok=True)
        sockets = self._socket_folder()
        self.settings = {
            **self._secrets(),
            "db_socket": str(sockets / "db.sock"),
            "redis_socket": str(sockets / "redis.sock"),
        }
        self.start_database()
        self.start_redis()
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
        known = json.loads(path.read_text()) if path.exists() else {}
        made = {
            "db_root_password": secrets.token_hex(16),
            "db_password": secrets.token_hex(16),
            "django_key": secrets.token_hex(32),
        }
        if not made.keys() <= known.keys():
            path.touch(mode=0o600)
            path.write_text(json.dumps(made | known))
        return made | known

    def spawn(self, command: list[str], log: str, **options: object) -> subprocess.Popen:
        """A child in a session of its own, so that Ctrl-C reaches only us."""
        with (self.var / "log" / log).open("ab") as out:
            child = subprocess.Popen(
                command, stdout=out, stderr=subprocess.STDOUT, stdin=subprocess.DEVNULL,
                start_new_session=True, **options,
            )  # fmt: skip
        self.children.append(child)
        return child

    def start_database(self) -> None:
        data = self.var / "mariadb"
        run_as = ["--user=root"] if os.geteuid() == 0 else []
        if not (data / "mysql").is_dir():
            self._install_database(data, run_as)
        self.database = self.spawn(
            [_server("mariadbd"), "--no-defaults", *run_as, f"--datadir={data}",
             f"--socket={self.settings['db_socket']}", "--skip-networking",
             f"--pid-file={data / 'mariadbd.pid'}",
             "--character-set-server=utf8mb4", "--collation-server=utf8mb4_unicode_ci",
             "--innodb-buffer-pool-size=128M", "--max-allowed-packet=64M", "--skip-log-bin"],
            "mariadb.log",
        )  # fmt: skip
        self._wait("MariaDB", self._root_is_ours, self.database)

    def _install_database(self, data: Path, run_as: list[str]) -> None:
        """Lays out an empty database; on a busy machine that fails now and then, so once more."""
        said = ""
        for _ in range(_INSTALLED_AT_MOST):
            shutil.rmtree(data, ignore_errors=True)
            done = subprocess.run(
                ["mariadb-install-db", "--no-defaults", *run_as, f"--datadir={data}",
                 "--auth-root-authentication-method=normal", "--skip-test-db"],
                capture_output=True, text=True,
            )  # fmt: skip
            if done.returncode == 0:
                return
            said = "\n".join((done.stdout + done.stderr).strip().splitlines()[-12:])
            print(f"mariadb-install-db ended with {done.returncode}:\n{said}", file=sys.stderr)
            time.sleep(1)
        raise SystemExit(f"The database could not be laid out in {data}. It said:\n{said}")

    def start_redis(self) -> None:
        data = self.var / "redis"
        data.mkdir(exist_ok=True)
        path = str(self.settings["redis_socket"])
        self.broker = self.spawn(
            ["redis-server", "--port", "0", "--unixsocket", path, "--unixsocketperm", "700",
             "--dir", str(data), "--appendonly", "yes", "--save", "", "--daemonize", "no"],
            "redis.log",
        )  # fmt: skip

        def answers() -> bool:
            with socket.socket(socket.AF_UNIX) as s:
                s.settimeout(1)
                s.connect(path)
                s.sendall(b"PING\r\n")
                return s.recv(16).startswith(b"+PONG")

        self._wait("Redis", answers, self.broker)

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
            ["mariadb", "--no-defaults", "-uroot", f"--socket={self.settings['db_socket']}",
             "-e", statement],
            capture_output=True, env={**os.environ, "MYSQL_PWD": password},
        )  # fmt: skip
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

    def _wait(self, name: str, ready, child: subprocess.Popen, seconds: float = 60) -> None:
        until = time.monotonic() + seconds
        while time.monotonic() < until:
            try:
                if ready():
                    return
            except OSError:
                pass
            if child.poll() is not None:
                raise SystemExit(f"{name} did not start; see {self.var / 'log'}.")
            time.sleep(0.1)
        raise SystemExit(f"{name} did not answer within {seconds:.0f} s.")

    def stop(self) -> None:
        """Ends what was started here, the last first, by its process id."""
        for child in reversed(self.children):
            stop(child)
        self.children.clear()
        if self._elsewhere is not None:
            shutil.rmtree(self._elsewhere, ignore_errors=True)
            self._elsewhere = None


def stop(child: subprocess.Popen, patience: float = 15) -> None:
    if child.poll() is not None:
        return
    child.send_signal(signal.SIGTERM)
    try:
        child.wait(patience)
    except subprocess.TimeoutExpired:
        os.killpg(child.pid, signal.SIGKILL)
        child.wait()


def _server(name: str) -> str:
    """Servers lie in /usr/sbin, which is not on every user's path."""
    found = shutil.which(name) or shutil.which(name, path="/usr/sbin:/usr/local/sbin")
    if not found:
        sys.exit(f"{name} is not installed; run “make start” to install what is missing.")
    return found
