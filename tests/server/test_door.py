"""What comes in from outside: numbers, words, bodies, addresses, log-ins, uploads."""

from __future__ import annotations

import json
import time

import pytest
from django.test import Client
from findings import readings
from library.models import Take
from transcription.models import Arrangement, Edit

from tests.server.conftest import sound_file


def raw(client, path: str, body: bytes):
    return client.post(path, body, content_type="application/json")


# -- numbers, words and depth at the door

LONG = "9" * 400
QUERIES = [
    "search?bar=3&scope=kick&first=1e12000000",
    f"search?bar=3&scope=kick&first={LONG}",
    f"search?bar={LONG}&scope=kick",
    "search?bar=²&scope=kick",
    "search?bar=3&scope=kick&length=1e-12000000",
    f"grooves?threshold={LONG}",
    "grooves?threshold=nan",
    "transcription/compare?bar=²&with=1",
    "transcription/compare?bar=1&with=take²",
    f"transcription/compare?bar=1&with=take{LONG}",
    f"transcription/text?first=1&last={LONG}",
    "transcription/text?first=٣&last=٣",
    f"transcription/band?bar={LONG}",
    "transcription/band?bar=1.5",
]


@pytest.mark.parametrize("query", QUERIES)
def test_a_number_that_costs_or_is_none_is_told_at_once(client, heard, query):
    began = time.process_time()
    answer = client.get(f"/api/songs/{heard['id']}/{query}")
    assert answer.status_code in (400, 422) and answer.json()["detail"]
    assert time.process_time() - began < 2


def test_moments_of_a_picture_are_bounded(client, heard):
    take = heard["takes"][0]["id"]
    for query in (
        f"start={LONG}&end=1",
        "start=nan&end=1",
        "start=-1e300&end=-1e299",
        "start=1&end=inf",
    ):
        answer = client.get(f"/api/takes/{take}/picture?{query}")
        assert answer.status_code == 400 and answer.json()["detail"]


@pytest.mark.parametrize(
    ("body", "says"),
    [
        (b'{"title": ' + b"[" * 100_000 + b"]" * 100_000 + b"}", "nested too deeply"),
        (b'{"title": ' + b"[" * 60 + b"]" * 60 + b"}", "nested too deeply"),
        (b'{"title": "\\ud800"}', "can't be printed (U+D800)"),
        (b'{"title": "Bell \\u0007"}', "can't be printed (U+0007)"),
        (b'{"title": "\\u0000"}', "can't be printed (U+0000)"),
        (b'{"title": ' + b"9" * 400 + b"}", "too many digits"),
        (b'{"title": 1e400}', "not a number"),
        (b'{"title": NaN}', "not a number"),
        (b'{"title": "\xff"}', "not text in UTF-8"),
        (b'{"title": ', "not JSON"),
        (b'{"title": "' + b"x" * 9_000_000 + b'"}', "8 MB at the most"),
    ],
)
def test_a_body_that_costs_or_breaks_too_much_is_refused_in_one_sentence(client, body, says):
    began = time.process_time()
    answer = raw(client, "/api/songs", body)
    assert answer.status_code == 400 and says in answer.json()["detail"]
    assert time.process_time() - began < 2


def test_an_edit_with_signs_nobody_can_print_is_refused(client, heard):
    body = json.dumps(
        {"base": 0, "edit": {"operation": "rename_section", "id": "sec1", "name": "\ud800"}}
    )
    answer = raw(client, f"/api/songs/{heard['id']}/transcription/edits", body.encode())
    assert answer.status_code == 400 and not Edit.objects.exists()


def test_a_title_from_before_with_control_signs_still_prints(client, heard):
    song = Arrangement.objects.get().song
    song.title = "Plain \x0bRock\x07"
    song.save()
    for ending in ("pdf", "musicxml", "mid", "tab", "csv", "count", "beats.tsv"):
        assert client.get(f"/api/songs/{heard['id']}/chart.{ending}").status_code == 200
    assert "Plain Rock" in client.get(f"/api/songs/{heard['id']}/chart").json()["pages"][0]


@pytest.mark.parametrize(
    "address", ["nothing", f"songs/{LONG}", f"jobs/{LONG}/retry", "takes/²/sound/0", "songs/²"]
)
def test_an_address_that_leads_nowhere_answers_json(client, address):
    for answer in (client.get(f"/api/{address}"), client.post(f"/api/{address}")):
        assert answer.status_code in (404, 405) and answer.json()["detail"]


def test_a_failure_of_ours_answers_json(client, heard, monkeypatch):
    monkeypatch.setattr(readings, "fill_list", lambda _found: 1 / 0)
    client.raise_request_exception = False
    answer = client.get(f"/api/songs/{heard['id']}/fills")
    assert answer.status_code == 500 and "a reason of ours" in answer.json()["detail"]


# -- logging in, and what a browser is told


def test_a_forged_log_in_is_refused(user):
    browser = Client(enforce_csrf_checks=True)
    body = {"name": "rim", "password": "shot"}
    forged = browser.post("/api/session", body, content_type="application/json")
    assert forged.status_code == 403 and "reload it" in forged.json()["detail"]
    browser.get("/")
    token = browser.cookies["csrftoken"].value
    ours = browser.post(
        "/api/session", body, content_type="application/json", headers={"X-CSRFToken": token}
    )
    assert ours.status_code == 200


def test_guessing_a_password_is_slowed_down(user, settings):
    browser = Client()

    def tries(password):
        return browser.post(
            "/api/session", {"name": "rim", "password": password}, content_type="application/json"
        )

    for _ in range(settings.AXES_FAILURE_LIMIT - 1):
        assert tries("x").status_code == 403
    tries("x")
    locked = tries("shot")
    assert locked.status_code == 429 and "try again in 5 minutes" in locked.json()["detail"]
    other = Client(REMOTE_ADDR="127.0.0.9")
    ours = other.post(
        "/api/session", {"name": "rim", "password": "shot"}, content_type="application/json"
    )
    assert ours.status_code == 200, "somebody else's guesses don't lock the owner out elsewhere"


def test_the_page_may_load_nothing_but_itself(client):
    for address in ("/", "/api/session", "/songs/1/bench"):
        policy = client.get(address)["Content-Security-Policy"]
        assert "default-src 'self'" in policy and "frame-ancestors 'none'" in policy
        assert "script-src 'self' blob: 'wasm-unsafe-eval'" in policy


def test_an_upload_is_never_served_as_a_page(client, song):
    take = Take.objects.create(
        song_id=song["id"],
        name="beat.html",
        digest="x",
        sound="x",
        original=sound_file(b"<script>", "beat.html"),
    )
    answer = client.get(f"/api/takes/{take.pk}/original")
    assert answer["Content-Type"] == "application/octet-stream"
    assert answer["Content-Disposition"].startswith("attachment")
    assert answer["X-Content-Type-Options"] == "nosniff"
    answer.close()


@pytest.mark.parametrize("title", ["Ночной трамвай", "夜汽车", 'Ça va "déjà"'])
def test_a_title_in_any_script_names_its_file(client, heard, title):
    from urllib.parse import quote

    client.patch(f"/api/songs/{heard['id']}", {"title": title}, format="json")
    told = client.get(f"/api/songs/{heard['id']}/chart.pdf")["Content-Disposition"]
    plain = title.replace('"', "_")
    assert told == f"attachment; filename*=utf-8''{quote(plain + ' - chart.pdf')}"
