"""Whether the house is well, and the bin that empties itself."""

from __future__ import annotations

from datetime import timedelta

from django.core.files.storage import default_storage
from django.test import Client
from django.utils import timezone
from jobs import health
from library import trash
from library.models import Song, StoredFile


def test_a_process_that_answers_is_well():
    assert Client().get("/health").json() == {"well": True}


def test_ready_names_what_is_away(db, monkeypatch):
    assert Client().get("/ready").json()["missing"].keys() <= {"broker"}

    def away() -> str:
        raise ConnectionError

    monkeypatch.setitem(health._PARTS, "broker", away)
    answer = Client().get("/ready")
    assert answer.status_code == 503 and answer.json() == {
        "ready": False,
        "missing": {"broker": "away (ConnectionError)"},
    }
    monkeypatch.setattr(health, "_LEAST_FREE", 2**60)
    monkeypatch.setitem(health._PARTS, "broker", lambda: "")
    assert "MB of disk" in Client().get("/ready").json()["missing"]["store"]


def test_metrics_are_for_this_machine(client, song, settings):
    told = Client().get("/metrics").content.decode()
    assert "django_http_requests" in told and "orchesis_oldest_wait_seconds" in told
    assert Client(REMOTE_ADDR="10.1.2.3").get("/metrics").status_code == 404
    through = Client(headers={"x-forwarded-for": "10.1.2.3"})  # a proxy on this machine
    assert through.get("/metrics").status_code == 404
    settings.METRICS_ARE_OPEN = True
    assert Client(REMOTE_ADDR="10.1.2.3").get("/metrics").status_code == 200


def test_the_bin_keeps_for_thirty_days(client, heard, django_capture_on_commit_callbacks):
    names = [f.name for f in StoredFile.objects.all()]
    client.delete(f"/api/songs/{heard['id']}")
    for days, left in ((29, 1), (31, 0)):
        Song.objects.update(removed=timezone.now() - timedelta(days=days))
        with django_capture_on_commit_callbacks(execute=True):
            trash.empty()
        assert Song.objects.count() == left
    assert names and not any(default_storage.exists(n) for n in names)


def test_behind_https_cookies_are_for_https_alone():
    import os
    import subprocess
    import sys

    code = (
        "import django; django.setup(); from django.conf import settings as s; "
        "print(s.SESSION_COOKIE_SECURE, s.CSRF_COOKIE_SECURE, s.SECURE_HSTS_SECONDS > 0)"
    )
    env = {
        **os.environ,
        "ORCHESIS_HTTPS": "1",
        "DJANGO_SETTINGS_MODULE": "config.settings",
        "PYTHONPATH": "server:.",
    }
    ended = subprocess.run(
        [sys.executable, "-c", code], env=env, capture_output=True, text=True, check=True
    )
    assert ended.stdout.split() == ["True", "True", "True"]
