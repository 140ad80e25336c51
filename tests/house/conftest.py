"""A whole house that runs, and a person in it."""

from __future__ import annotations

import time

import pytest
import requests
from house import House
from services import free_port

PASSWORD = "nine brass lanterns"


@pytest.fixture(scope="session")
def house(tmp_path_factory):
    house = House(tmp_path_factory.mktemp("faults") / "var", free_port(), ORCHESIS_JOB_LEASE="3")
    try:
        house.start()
        house.prepare()
        create = f"from django.contrib.auth.models import User; User.objects.create_user('ilka', password={PASSWORD!r})"
        house.manage("shell", "-c", create)
        house.up(house.worker)
        house.up(house.web)
        yield house
    finally:
        house.stop()


class Person:
    """Somebody who tries again until it is said that it is done, as the page does."""

    def __init__(self, address: str) -> None:
        self.address, self.session = address, requests.Session()
        self.persist(lambda: self.session.get(f"{address}/"))
        self.post("session", {"name": "ilka", "password": PASSWORD}, 200)

    def persist(self, act, *wanted: int, patience: float = 120) -> requests.Response:
        until = time.monotonic() + patience
        while True:
            try:
                answer = act()
                if not wanted or answer.status_code in wanted:
                    return answer
                assert answer.status_code in (500, 502, 503), answer.text[:300]
            except requests.ConnectionError:
                pass
            assert time.monotonic() < until, "it never recovered"
            time.sleep(0.2)

    def post(self, path: str, body: dict, *wanted: int, **more) -> requests.Response:
        def act():
            head = {"X-CSRFToken": self.session.cookies.get("csrftoken", "")}
            told = {"json": body} if body else more
            return self.session.post(f"{self.address}/api/{path}", headers=head, timeout=60, **told)

        return self.persist(act, *wanted)
