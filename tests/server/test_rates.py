"""How often somebody may do a thing, counted by who really does it and for the whole house."""

from __future__ import annotations

import pytest
from django.contrib.auth.models import User
from django.test import Client
from library.models import RequestForm, Song
from people.models import Invitation
from practice import link_views
from practice.models import PlayerLink
from rest_framework.test import APIClient
from shelf import request_views
from transcription.models import Arrangement

GOOD = "nine brass lanterns"


def from_(address: str, client=None) -> APIClient:
    client = client or APIClient()
    client.defaults["REMOTE_ADDR"] = address
    return client


def through_proxy(address: str, *before: str) -> Client:
    """Somebody whose request comes by our proxy, which writes where from behind what it was told."""
    return Client(
        REMOTE_ADDR="10.0.0.1", headers={"x-forwarded-for": ", ".join([*before, address])}
    )


def log_in(browser: Client, password: str) -> int:
    body = {"name": "rim", "password": password}
    return browser.post("/api/session", body, content_type="application/json").status_code


def test_behind_a_proxy_a_guesser_locks_only_themselves_out(user, settings):
    settings.PROXIES = 1
    tries = [log_in(through_proxy("203.0.113.9"), "guess") for _ in range(8)]
    assert tries[:7] == [403] * 7 and tries[7] == 429
    assert log_in(through_proxy("203.0.113.9"), "shot") == 429
    assert log_in(through_proxy("198.51.100.4"), "shot") == 200


def test_nobody_is_somebody_else_by_saying_so(user, settings):
    settings.PROXIES = 1
    for n in range(8):  # what a client says of itself stands before what our proxy says
        log_in(through_proxy("203.0.113.9", f"192.0.2.{n}"), "guess")
    assert log_in(through_proxy("203.0.113.9", "198.51.100.4"), "shot") == 429
    settings.PROXIES = 0  # without a proxy nothing that is said counts
    assert log_in(through_proxy("198.51.100.4"), "shot") == 200


def test_sign_ups_of_one_address_are_counted_together(user, settings):
    settings.SIGN_UP_IS_OPEN = True
    for n in range(20):
        body = {"name": f"player{n}", "password": GOOD}
        assert from_("203.0.113.9").post("/api/accounts", body, format="json").status_code == 201
    body = {"name": "player20", "password": GOOD}
    refused = from_("203.0.113.9").post("/api/accounts", body, format="json")
    assert refused.status_code == 429 and "too often; try again in" in refused.json()["detail"]
    assert from_("203.0.113.8").post("/api/accounts", body, format="json").status_code == 201


@pytest.mark.parametrize(
    ("method", "path", "body"),
    [
        ("put", "/api/account/password", {"old": "{}", "new": GOOD}),
        ("post", "/api/account/end", {"password": "{}"}),
    ],
)
def test_an_open_session_guesses_no_password(user, method, path, body):
    def tried(password: str, n: int) -> int:
        client = from_(f"203.0.113.{n}")
        client.force_authenticate(user)
        given = {key: value.format(password) for key, value in body.items()}
        return getattr(client, method)(path, given, format="json").status_code

    assert [tried(f"guess {n}", n) for n in range(8)] == [403] * 8
    assert tried("guess 8", 8) == 429
    assert tried("shot", 9) == 429, "the right one is told no more than a wrong one"
    assert User.objects.filter(username="rim").exists()


@pytest.fixture
def link(heard):
    return PlayerLink.objects.create(arrangement=Arrangement.objects.get(), title="Bar two")


def tell(link: PlayerLink, device: str, address: str = "203.0.113.9") -> int:
    body = {"device": device, "name": "Ilse", "minutes": 3, "stages": []}
    where = f"/api/player/{link.token}/progress"
    return from_(address).post(where, body, format="json").status_code


def test_one_machine_fills_no_link(link):
    told = [tell(link, f"made-up-word-{n}") for n in range(60)]
    assert told.count(204) == 40 and set(told[40:]) == {429}
    assert tell(link, "a-real-player", "198.51.100.4") == 204
    assert tell(link, "made-up-word-0") == 204, "who is known there may go on"


def test_on_a_full_link_who_told_nothing_for_longest_gives_way(link, monkeypatch):
    monkeypatch.setattr(link_views, "_MOST_PLAYERS", 5)
    for n in range(5):
        assert tell(link, f"player-number-{n}", f"203.0.113.{n}") == 204
    assert tell(link, "player-number-0", "203.0.113.0") == 204  # practised again
    assert tell(link, "player-number-5", "203.0.113.5") == 204
    left = set(link.progress.values_list("device", flat=True))
    assert left == {f"player-number-{n}" for n in (0, 2, 3, 4, 5)}


@pytest.fixture
def form(user):
    return RequestForm.objects.create(owner=user, title="What next?")


def vote(form: RequestForm, song: Song, n: int, address: str) -> int:
    where, body = f"/api/asked/{form.token}/votes", {"song": song.pk, "device": f"device-{n:04}"}
    return from_(address).post(where, body, format="json").status_code


def test_one_machine_is_no_crowd(form, user):
    song = Song.objects.create(owner=user, form=form, title="Northline")
    told = [vote(form, song, n, "203.0.113.9") for n in range(100)]
    assert told.count(201) + told.count(200) == 30
    song.refresh_from_db()
    assert song.votes == 30
    assert vote(form, song, 200, "198.51.100.4") in (200, 201)


def ask(form: RequestForm, title: str, address: str):
    body = {"title": title, "name": "Bo", "device": "device-of-bo"}
    return from_(address).post(f"/api/asked/{form.token}", body, format="json")


def test_a_full_form_takes_what_is_new_for_what_nobody_else_wants(form, monkeypatch):
    monkeypatch.setattr(request_views, "_MOST_ASKED", 3)
    for n, title in enumerate(("Northline", "Late Tram", "Lantern Steps")):
        assert ask(form, title, f"203.0.113.{n}").status_code == 201
    wanted = Song.objects.get(title="Northline")
    vote(form, wanted, 7, "198.51.100.4")
    assert ask(form, "Copper Weather", "203.0.113.8").status_code == 201
    assert {s["title"] for s in ask(form, "Northline", "203.0.113.7").json()["songs"]} == {
        "Northline",
        "Lantern Steps",
        "Copper Weather",
    }
    assert Song.objects.get(title="Late Tram").removed is not None, "it rests in the owner's bin"


def test_one_machine_asks_for_no_hundred_songs(form):
    told = [ask(form, f"Song {n}", "203.0.113.9").status_code for n in range(40)]
    assert told.count(201) == 30 and set(told[30:]) == {429}


def test_an_invitation_tells_strangers_no_names(user):
    made = Invitation.objects.create(made_by=user)
    body = {"name": "rim", "password": GOOD}
    for token in ("no-such-invitation", ""):
        told = from_("203.0.113.9").post(
            "/api/accounts", body | {"invitation": token}, format="json"
        )
        assert told.status_code == 403 and "taken" not in told.json()["detail"]
    assert made.used is None
