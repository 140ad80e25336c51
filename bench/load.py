"""What the house bears: a big shelf, many players, many edits, a second worker, an hour of all of it.

Runs a house of its own in a folder of its own; talks to loopback only and stops by itself.
python -m bench.load [--long]: an hour of mixed load instead of three minutes.
"""

from __future__ import annotations

import io
import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from pathlib import Path

import numpy as np
import requests
import soundfile as sf

from bench.desk import long_song
from orchesis.formats import count_writer
from tests.songs import RATE, ROCK, drums

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT / "run"))
from house import SERVER, House  # noqa: E402
from services import free_port  # noqa: E402

PASSWORD = "nine brass lanterns"
_SHELF = """
from django.contrib.auth.models import User
from library.models import Song
me = User.objects.create_user("ilka", password="nine brass lanterns")
Song.objects.bulk_create(
    [Song(owner=me, title=f"Song {n:05}", artist=f"Band {n % 97}", tags=["wedding"] if n % 9 == 0 else [])
     for n in range(5000)], batch_size=500)
"""


class Person:
    def __init__(self, address: str) -> None:
        self.address, self.session = address, requests.Session()
        self.session.get(address)
        self.post("session", {"name": "ilka", "password": PASSWORD})

    def get(self, path: str) -> requests.Response:
        return self.session.get(f"{self.address}/api/{path}", timeout=60)

    def post(self, path: str, body: dict | None = None, **more) -> requests.Response:
        head = {"X-CSRFToken": self.session.cookies.get("csrftoken", "")}
        answer = self.session.post(
            f"{self.address}/api/{path}", headers=head, timeout=120, json=body, **more
        )
        answer.raise_for_status()
        return answer


@contextmanager
def house() -> Iterator[House]:
    with tempfile.TemporaryDirectory() as folder:
        made = House(
            Path(folder) / "var",
            free_port(),
            OMP_NUM_THREADS="1",
            OPENBLAS_NUM_THREADS="1",
            ORCHESIS_ANONYMOUS_RATE="1000000/min",
        )
        try:
            made.start()
            made.prepare()
            made.manage("shell", "-v0", "-c", _SHELF)
            made.up(made.worker)
            made.up(made.web)
            yield made
        finally:
            made.stop()


def paced(
    act: Callable[[int], None], rate: float, seconds: float, threads: int
) -> tuple[list[float], int]:
    """(seconds that each call took, counted from when it was due; how many failed)."""
    took: list[float] = []
    failed = 0
    start = time.monotonic()

    def one(n: int) -> None:
        nonlocal failed
        due = start + n / rate
        time.sleep(max(0.0, due - time.monotonic()))
        try:
            act(n)
        except Exception:
            failed += 1
        took.append(time.monotonic() - due)

    with ThreadPoolExecutor(threads) as pool:
        list(pool.map(one, range(int(rate * seconds))))
    return took, failed


def p95(took: list[float]) -> float:
    return float(np.percentile(took, 95))


def recording(n: int, seconds: float = 20.0) -> bytes:
    made = np.resize(drums(), int(seconds * RATE)) * (0.95 - 0.005 * n)
    out = io.BytesIO()
    sf.write(out, made, RATE, format="FLAC", subtype="PCM_16")
    return out.getvalue()


def give(me: Person, first: int, count: int) -> None:
    for n in range(first, first + count):
        song = me.post("songs", {"title": f"Given {n}"}).json()["id"]
        me.post(f"songs/{song}/takes", files={"file": (f"{n}.flac", recording(n))})


def open_jobs(me: Person) -> int:
    told = me.session.get(f"{me.address}/metrics").text
    return sum(
        int(float(x.rsplit(" ", 1)[1])) for x in told.splitlines() if x.startswith("orchesis_jobs{")
    )


def until_heard(me: Person) -> None:
    while open_jobs(me):
        time.sleep(0.1)


def memory(made: House) -> float:
    """Megabytes that the web server's and the worker's processes hold."""
    total = 0.0
    for child in (made.web.child, made.worker.child):
        assert child is not None
        pids = subprocess.run(
            ["pgrep", "-g", str(os.getpgid(child.pid))], capture_output=True, text=True
        ).stdout.split()
        for pid in pids:
            try:
                rows = Path(f"/proc/{pid}/smaps_rollup").read_text().splitlines()
            except OSError:
                continue
            total += next(int(r.split()[1]) for r in rows if r.startswith("Pss:")) / 1024
    return total


def second_worker(made: House, me: Person) -> float:
    """How much sooner eight recordings are heard by two workers of one thread than by one."""

    def lasts(first: int) -> float:
        give(me, first, 8)
        start = time.monotonic()
        until_heard(me)
        return time.monotonic() - start

    give(me, 0, 1)
    until_heard(me)  # everything is loaded once
    alone = lasts(10)
    other = subprocess.Popen(
        [
            sys.executable,
            "-m",
            "celery",
            "-A",
            "config",
            "worker",
            "--concurrency",
            "1",
            "--hostname",
            "second@%h",
            "--without-gossip",
            "--without-mingle",
        ],
        cwd=SERVER,
        env=made.environment,
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
    )
    try:
        time.sleep(10)  # it is up; enough recordings that both have heard one and are loaded
        give(me, 50, 6)
        until_heard(me)
        both = lasts(30)
    finally:
        other.terminate()
        other.wait(30)
    return alone / both


def school(made: House, me: Person, seconds: float = 120) -> list[str]:
    """30 readers who look at a song every three seconds, and 5 editors who change a long one."""
    told = count_writer.whole(long_song()).encode()
    songs = [
        me.post("packages", files={"file": (f"long{n}.count", told)}).json()["song"]
        for n in range(5)
    ]
    looks = ("chart", "feel", "transcription")
    took: dict[str, list[float]] = {what: [] for what in (*looks, "edit")}

    def timed(what: str, act: Callable[[], object], due: float) -> None:
        time.sleep(max(0.0, due - time.monotonic()))
        act()
        took[what].append(time.monotonic() - due)

    def look(at: str) -> None:
        """As the page does, which asks again while a worker is at it."""
        while (answer := me.get(at)).status_code == 503:
            time.sleep(1)
        answer.raise_for_status()

    def reader(n: int) -> None:
        due = time.monotonic() + n / 10
        end, k = due + seconds, n
        while due < end:
            what = looks[k % 3]
            timed(
                what,
                lambda what=what: look(f"songs/{songs[n % 5]}/{what}"),
                due,
            )
            due, k = due + 3, k + 1

    def editor(n: int) -> None:
        due = time.monotonic() + n / 5
        end, k = due + seconds, 0
        while due < end:
            body = {
                "base": 0,
                "over": True,
                "edit": {"operation": "rename_section", "id": "sec1", "name": f"Take {k}"},
            }
            at = f"songs/{songs[n]}/transcription/edits"
            timed("edit", lambda body=body, at=at: me.post(at, body), due)
            due, k = due + 10, k + 1

    for what in looks:  # each was looked at once
        for song in songs:
            look(f"songs/{song}/{what}")
    with ThreadPoolExecutor(35) as pool:
        done = [
            *(pool.submit(reader, n) for n in range(30)),
            *(pool.submit(editor, n) for n in range(5)),
        ]
        failed = sum(d.exception() is not None for d in done)
    return [
        f"| 30 readers and 5 editors on songs of 160 bars for {seconds:.0f} s, p95 of {what} | "
        f"{'300' if what == 'edit' else '500'} ms | {1000 * p95(took[what]):.0f} ms, {failed} failed |"
        for what in took
    ]


def table(long: bool = False) -> list[str]:
    rows = [
        "## The house under load",
        "",
        "On this machine of two cores, load and house together; one web server of two processes.",
        "",
        "| | asked | measured |",
        "|---|---|---|",
    ]
    with house() as made:
        me = Person(made.address)
        me.get("songs")
        took, failed = paced(
            lambda n: me.get(f"songs?page={1 + n % 90}").raise_for_status(), 20, 30, 16
        )
        rows.append(
            f"| shelf of 5,000 songs, 20 requests/s, p95 | 200 ms | {1000 * p95(took):.0f} ms, {failed} failed |"
        )
        songs = [
            me.post("packages", files={"file": (f"{n}.count", ROCK.encode())}).json()["song"]
            for n in range(20)
        ]
        rate, seconds = 10, 60

        def edit(n: int) -> None:
            body = {
                "base": 0,
                "over": True,
                "edit": {"operation": "rename_section", "id": "sec1", "name": f"Name {n}"},
            }
            me.post(f"songs/{songs[n % 20]}/transcription/edits", body)

        took, failed = paced(edit, rate, seconds, 12)
        rows.append(
            f"| edits, 10/s for 60 s on 20 songs | no error | {failed} errors, p95 {1000 * p95(took):.0f} ms |"
        )
        links = [
            me.post(f"songs/{s}/player-links", {"title": "L"}).json()["address"] for s in songs[:5]
        ]
        give(me, 100, 1)
        anybody = requests.Session()

        def play(n: int) -> None:
            """A player opens a lesson, then pages; fifty of them, one look every five seconds each."""
            at = f"{made.address}/api/player/{links[n % 5].rsplit('/', 1)[1]}"
            anybody.get(at if n % 3 else f"{at}/pages/1", timeout=60).raise_for_status()

        took, failed = paced(play, 10, 20, 20)
        heard = open_jobs(me)
        rows.append(
            f"| 50 people on players' pages while a song is heard | it goes on | p95 {1000 * p95(took):.0f} ms, "
            f"{failed} failed{', hearing went on' if heard else ', the song was heard meanwhile'} |"
        )
        until_heard(me)
        rows += school(made, me)
        rows.append(f"| a second worker of one thread | 1.6 x | {second_worker(made, me):.2f} x |")
        before = memory(made)
        minutes = 60 if long else 3
        end, most, n = time.monotonic() + 60 * minutes, before, 1000
        while time.monotonic() < end:
            paced(
                lambda k: (
                    edit(k),
                    play(k),
                    me.get("songs"),
                    me.get(f"songs/{songs[k % 20]}/chart"),
                ),
                4,
                10,
                8,
            )
            give(me, n, 1)
            n += 1
            most = max(most, memory(made))
        rows.append(
            f"| memory of server and worker, {minutes} minutes of all of it | bounded | {before:.0f} MB before, "
            f"{memory(made):.0f} MB after, {most:.0f} MB at most |"
        )
    return [*rows, ""]


if __name__ == "__main__":
    print("\n".join(table("--long" in sys.argv)))
