"""What a stranger may try against a house that runs, and that nobody else notices it.

ORCHESIS_TORTURE set (make torture): more of everything. Loopback only; each attack ends by itself.
"""

from __future__ import annotations

import contextlib
import os
import socket
import threading
import time
from concurrent.futures import ThreadPoolExecutor

import requests

from tests.house.conftest import PASSWORD, Person
from tests.songs import ROCK

MANY = 180 if "ORCHESIS_TORTURE" in os.environ else 60  # of each kind
LINES = "Host: 127.0.0.1\r\nContent-Type: application/json\r\n"
#: What each of many connections sends first, and then on, a byte at a time.
SLOW = {
    "bodies": f"POST /api/session HTTP/1.1\r\n{LINES}Content-Length: 1000\r\n\r\n{{",
    "bodies in chunks": f"POST /api/session HTTP/1.1\r\n{LINES}Transfer-Encoding: chunked\r\n\r\n400\r\n",
    "bodies that never begin": f"POST /api/session HTTP/1.1\r\n{LINES}Content-Length: 1000\r\n\r\n",
    "heads": "GET /api/session HTTP/1.1\r\nHost: 127.0.0.1\r\nX-Slow: ",
    "connections that say nothing": "",
}


def connected(house, first: str) -> socket.socket:
    made = socket.create_connection(("127.0.0.1", house.port), timeout=20)
    made.sendall(first.encode())
    return made


def answers_in(house) -> float:
    begun = time.monotonic()
    told = requests.get(f"{house.address}/api/session", timeout=30)
    assert told.status_code == 200
    return time.monotonic() - begun


def is_over(connection: socket.socket) -> bool:
    """Whether the server ended a connection, with a word or without."""
    connection.settimeout(0.01)
    with contextlib.suppress(TimeoutError):
        try:
            while connection.recv(4096):
                pass
            return True
        except OSError as problem:
            if isinstance(problem, TimeoutError):
                raise
            return True
    return False


def test_who_sends_slowly_holds_nobody_up(house):
    """Were a thread held by each, nobody would be answered from the sixteenth on."""
    slow = {what: [connected(house, first) for _ in range(MANY)] for what, first in SLOW.items()}
    try:
        until = time.monotonic() + 60
        while left := [w for w, own in slow.items() if not all(is_over(c) for c in own)]:
            assert answers_in(house) < 3
            assert time.monotonic() < until, f"never sent away: {left}"
            for what in ("bodies", "bodies in chunks", "heads"):
                for connection in slow[what]:
                    with contextlib.suppress(OSError):
                        connection.send(b" ")
            time.sleep(0.5)
    finally:
        for connection in (c for own in slow.values() for c in own):
            connection.close()


def test_a_head_without_end_is_cut_off(house):
    connection = connected(house, "GET / HTTP/1.1\r\n")
    sent = 0
    with contextlib.suppress(OSError):
        while sent < 8 * 2**20:
            connection.sendall(b"X-More: " + b"x" * 4000 + b"\r\n")
            sent += 4010
    assert sent < 4 * 2**20, "what the sockets hold, and no more"
    assert is_over(connection)


def test_nobody_without_an_account_fills_the_disk(house):
    """A big body is refused before it is read; a small one that grows, as soon as it is too big."""
    head = f"POST /api/session HTTP/1.1\r\n{LINES}Content-Length: {10**9}\r\n\r\n"
    connection = connected(house, head)
    connection.settimeout(10)
    assert b" 413 " in connection.recv(200)
    head = f"POST /api/session HTTP/1.1\r\n{LINES}Transfer-Encoding: chunked\r\n\r\n"
    connection, sent, chunk = connected(house, head), 0, b"10000\r\n" + b" " * 65536 + b"\r\n"
    with contextlib.suppress(OSError):
        while sent < 64 * 2**20:
            connection.sendall(chunk)
            sent += 65536
    assert sent < 20 * 2**20


def test_who_fetches_slowly_holds_nobody_up(house):
    """Answers of some megabytes, more than what lies between two sockets."""
    me = Person(house.address)
    section = f"hat: {' | '.join(['16ths'] * 16)}\nkick: {' | '.join(['1 1& 3'] * 16)}\n"
    text = "tempo: 100\n" + "".join(f"== Part {k}\n{section}" for k in range(10))
    song = me.post("packages", {}, 201, files={"file": ("long.count", text)}).json()["song"]
    path = f"songs/{song}/transcription"
    whole = len(me.session.get(f"{house.address}/api/{path}", timeout=60).content)
    assert whole > 600_000
    cookies = "; ".join(f"{c.name}={c.value}" for c in me.session.cookies)
    ask = f"GET /api/{path} HTTP/1.1\r\nHost: 127.0.0.1\r\nCookie: {cookies}\r\n\r\n"
    slow = []
    for _ in range(60):
        connection = socket.socket()
        connection.setsockopt(socket.SOL_SOCKET, socket.SO_RCVBUF, 2048)
        connection.connect(("127.0.0.1", house.port))
        connection.sendall(ask.encode())
        slow.append(connection)
    waits = [answers_in(house) for _ in range(10)]
    assert max(waits) < 3, waits
    for connection in slow:
        connection.close()


def test_sign_ups_are_counted_in_all_processes_together(house):
    """Forty at once passed where each process counted for itself."""

    def sign_up(n: int) -> int:
        browser = requests.Session()
        browser.get(house.address, timeout=30)
        head = {"X-CSRFToken": browser.cookies.get("csrftoken", ""), "Connection": "close"}
        body = {"name": f"nobody{n}", "password": PASSWORD, "invitation": "no-such-thing"}
        return browser.post(
            f"{house.address}/api/accounts", json=body, headers=head, timeout=60
        ).status_code

    with ThreadPoolExecutor(8) as pool:
        told = list(pool.map(sign_up, range(40)))
    assert told.count(403) == 20 and told.count(429) == 20, told


def test_somebody_with_an_account_may_send_more(house):
    """It is read to its end, and what is said of it is about what it holds."""
    me = Person(house.address)
    content = b"x" * (9 * 2**20)  # more than anybody may send
    refused = me.post("packages", {}, 400, files={"file": ("long.count", content)})
    assert "8 MB is the most" in refused.json()["detail"]


def test_who_asks_much_at_once_takes_no_thread_from_others(house):
    """Six hundred requests of one address at once: some wait, some are told; none is lost."""
    me = Person(house.address)
    song = me.post("packages", {}, 201, files={"file": ("rock.count", ROCK.encode())}).json()[
        "song"
    ]
    told: list[int] = []

    def ask() -> None:
        for _ in range(10):
            answer = me.session.get(f"{house.address}/api/songs/{song}/transcription", timeout=60)
            told.append(answer.status_code)

    threads = [threading.Thread(target=ask) for _ in range(60)]
    for t in threads:
        t.start()
    for t in threads:
        t.join()
    assert len(told) == 600 and set(told) <= {200, 503} and told.count(200) > 300
