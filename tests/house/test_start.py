"""The start command: one at a time, kept up, private, and gone without a trace."""

from __future__ import annotations

import json
import os
import signal
import stat
import subprocess
import sys
import time
import urllib.request
from pathlib import Path

import pytest
from house import CannotBeKeptUp, House
from services import ROOT, Server, Services, free_port

START = [sys.executable, str(ROOT / "run" / "start.py")]


def processes(var: Path) -> dict[int, str]:
    """Every process that works in a folder of data, by its command."""
    found = {}
    for entry in Path("/proc").glob("[0-9]*"):
        try:
            command = (entry / "cmdline").read_bytes().replace(b"\0", b" ").decode(errors="replace")
            environment = (entry / "environ").read_bytes()
            state = (entry / "stat").read_text().rpartition(")")[2].split()[0]
        except OSError:
            continue
        if state != "Z" and (str(var) in command or f"ORCHESIS_VAR={var}".encode() in environment):
            found[int(entry.name)] = command
    return found


def until(true, seconds: float, what: str) -> None:
    end = time.monotonic() + seconds
    while not true():
        assert time.monotonic() < end, what
        time.sleep(0.1)


def answers(port: int) -> bool:
    try:
        with urllib.request.urlopen(f"http://127.0.0.1:{port}/api/session", timeout=5) as reply:
            return reply.status == 200
    except OSError:
        return False


class Started:
    def __init__(self, var: Path, port: int) -> None:
        self.var, self.port = var, port
        self.log = var.parent / f"start-{port}.log"
        environment = {**os.environ, "ORCHESIS_VAR": str(var), "PORT": str(port)}
        with self.log.open("wb") as out:
            self.process = subprocess.Popen(
                START, env=environment, stdout=out, stderr=out, start_new_session=True
            )

    @property
    def said(self) -> str:
        return self.log.read_text()


@pytest.fixture(scope="module")
def two(tmp_path_factory):
    """Two first starts at once in one folder: (the one that runs, the other)."""
    var = tmp_path_factory.mktemp("house") / "var"
    both = [Started(var, free_port()), Started(var, free_port())]
    try:
        until(lambda: any(s.process.poll() is not None for s in both), 60, "both go on")
        loser = next(s for s in both if s.process.poll() is not None)
        winner = next(s for s in both if s is not loser)
        until(
            lambda: "Orchesis is at" in winner.said or winner.process.poll() is not None,
            120,
            "no start",
        )
        both = [winner, loser]
        yield both
    finally:
        for s in both:
            if s.process.poll() is None:
                s.process.terminate()
                s.process.wait(60)


def test_of_two_first_starts_one_runs_and_the_other_says_so(two):
    winner, loser = two
    assert answers(winner.port)
    assert loser.process.returncode == 1 and "Orchesis runs here already" in loser.said
    assert "Traceback" not in winner.said + loser.said


def test_a_later_start_names_our_own_instance(two, tmp_path):
    winner, _ = two
    again = Started(winner.var, winner.port)
    assert again.process.wait(30) == 1
    assert f"127.0.0.1:{winner.port} (process {winner.process.pid})" in again.said
    elsewhere = Started(tmp_path / "var", winner.port)
    assert elsewhere.process.wait(30) == 1
    assert f"Port {winner.port} is in use by another program" in elsewhere.said


def listening(pid: int) -> set[str]:
    """Ports of the network that a process listens on."""
    lines = [
        *Path("/proc/net/tcp").read_text().splitlines(),
        *Path("/proc/net/tcp6").read_text().splitlines(),
    ]
    open_ = {p[9]: p[1] for p in map(str.split, lines) if len(p) > 9 and p[3] == "0A"}
    fds = (os.readlink(fd) for fd in Path(f"/proc/{pid}/fd").iterdir())
    return {open_[fd[8:-1]] for fd in fds if fd.startswith("socket:") and fd[8:-1] in open_}


def test_data_and_servers_are_nobody_elses(two):
    var = two[0].var
    assert stat.S_IMODE(var.stat().st_mode) == 0o700
    assert stat.S_IMODE((var / "secrets.json").stat().st_mode) == 0o600
    servers = [
        p
        for p, command in processes(var).items()
        if "mariadbd" in command or "redis-server" in command
    ]
    assert len(servers) == 2 and not any(listening(p) for p in servers)
    told = json.loads((var / "services.json").read_text())
    ask = ["mariadb", "--no-defaults", "-uroot", f"--socket={told['db_socket']}", "-e", "SELECT 1"]
    assert subprocess.run(ask, capture_output=True).returncode != 0
    ours = {**os.environ, "MYSQL_PWD": told["db_root_password"]}
    assert subprocess.run(ask, capture_output=True, env=ours).returncode == 0


@pytest.mark.parametrize("server", ["gunicorn", "celery", "redis-server", "mariadbd"])
def test_a_server_that_dies_is_started_again(two, server):
    winner, _ = two
    before = {p for p, c in processes(winner.var).items() if server in c}
    os.kill(min(before), signal.SIGKILL)
    name = {
        "gunicorn": "web server",
        "celery": "worker",
        "redis-server": "message broker",
        "mariadbd": "database",
    }[server]
    until(lambda: f"The {name} is up again" in winner.said, 40, winner.said)
    until(lambda: answers(winner.port), 20, "the page does not answer")
    assert winner.process.poll() is None


def test_a_killed_start_leaves_nothing_that_the_next_one_meets(two):
    winner, _ = two
    before = set(processes(winner.var))
    winner.process.kill()
    winner.process.wait()
    two[0] = Started(winner.var, winner.port)  # at once, while the servers are still ending
    until(lambda: "Orchesis is at" in two[0].said or two[0].process.poll() is not None, 120, "none")
    assert two[0].process.poll() is None, two[0].said
    assert answers(winner.port)
    until(lambda: not before & set(processes(winner.var)), 20, "servers of the killed start")


def test_a_closed_terminal_leaves_nothing_behind(two):
    winner, _ = two
    assert processes(winner.var)
    winner.process.send_signal(signal.SIGHUP)
    winner.process.wait(60)
    until(lambda: not processes(winner.var), 20, "orphans")
    assert not (winner.var / "running.json").exists()


def test_a_server_that_can_not_be_kept_up_is_told(tmp_path, monkeypatch):
    house = House(tmp_path, 1)
    (tmp_path / "log").mkdir()

    def begin() -> subprocess.Popen:
        child = house.spawn(["false"], "false.log")
        child.wait()
        return child

    clock = [0.0]
    monkeypatch.setattr("house.time.monotonic", lambda: clock[0])
    house.servers = [Server("worker", begin, lambda: False)]
    house.begin(house.servers[0])
    words: list[str] = []
    with pytest.raises(CannotBeKeptUp, match="The worker ended 6 times"):
        for _ in range(200):
            clock[0] += 1
            house.tend(words.append)
    assert sum("ended (code 1)" in w for w in words) == 5
    assert clock[0] > 1 + 2 + 4 + 8, "it waits longer each time"


def test_a_database_from_before_it_had_a_password_gets_one(tmp_path):
    services = Services(tmp_path / ("long" * 20) / "var")
    services.start()
    try:
        assert len(str(services.settings["db_socket"])) < 100
        assert services._sql("ALTER USER 'root'@'localhost' IDENTIFIED BY ''")
        assert not services._sql("SELECT 1")
        assert services._root_is_ours() and services._sql("SELECT 1")
    finally:
        services.stop()
