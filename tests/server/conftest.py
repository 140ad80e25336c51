from __future__ import annotations

import io
import os
import secrets
import shutil

import numpy as np
import pytest
import soundfile as sf
from django.contrib.auth.models import User
from django.core.files.uploadedfile import SimpleUploadedFile
from jobs import queue, work
from rest_framework.test import APIClient
from transcription import hearing
from transcription.models import Arrangement

from orchesis.hearing import listen_to, take_in
from tests import songs


@pytest.fixture(autouse=True)
def apart(settings, tmp_path, monkeypatch):
    """Files of each test in a folder of its own; hearing only when the test says so."""
    settings.MEDIA_ROOT = tmp_path / "media"
    settings.PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
    settings.WORK_ROOT = tmp_path / "work"
    # A heart that beats in a thread of its own would not see what a test has not committed.
    monkeypatch.setattr(work, "BEAT", 3600)
    # Rates that another test used up are none of this one; and where one empties the cache, what
    # the other worker keeps stays.
    own = {**settings.CACHES["default"], "KEY_PREFIX": secrets.token_hex(8)}
    worker = int(os.environ.get("PYTEST_XDIST_WORKER", "gw0").removeprefix("gw"))
    own["LOCATION"] = f"{own['LOCATION'].partition('?')[0]}?db={worker + 1}"
    settings.CACHES = {"default": own}


@pytest.fixture(autouse=True)
def sent(monkeypatch):
    """Jobs that were handed to the broker, instead of a broker."""
    told: list[int] = []
    monkeypatch.setattr(queue, "send", told.append)
    return told


@pytest.fixture
def user(db):
    return User.objects.create_user("rim", password="shot")


@pytest.fixture
def client(user):
    client = APIClient()
    client.force_authenticate(user)
    return client


@pytest.fixture(scope="session")
def rock_bytes():
    out = io.BytesIO()
    sf.write(out, songs.drums().astype(np.float32), songs.RATE, format="FLAC", subtype="PCM_16")
    return out.getvalue()


def stem_of(content: bytes) -> bytes:
    """A recording's sound from half a second on, softer, as a stem of it would be."""
    sound, rate = sf.read(io.BytesIO(content))
    out = io.BytesIO()
    sf.write(out, 0.7 * sound[rate // 2 :], rate, format="FLAC", subtype="PCM_16")
    return out.getvalue()


def sound_file(content: bytes, name: str = "rock.flac") -> SimpleUploadedFile:
    return SimpleUploadedFile(name, content, content_type="audio/flac")


@pytest.fixture
def song(client):
    return client.post("/api/songs", {"title": "Plain Rock"}, format="json").json()


@pytest.fixture(scope="session")
def intake_and_hearing(rock_bytes, tmp_path_factory):
    """The plain rock beat, heard once for all tests: its intake, hearing, and files."""
    folder = tmp_path_factory.mktemp("rock")
    (folder / "rock.flac").write_bytes(rock_bytes)
    intake = take_in(folder / "rock.flac", folder / "sound.flac")
    return intake, listen_to(intake, drums=folder / "drums.flac"), folder


@pytest.fixture
def heard(
    client, song, rock_bytes, intake_and_hearing, monkeypatch, django_capture_on_commit_callbacks
):
    """A song whose recording has been heard: a job like any other, but for the listening."""
    intake, found, folder = intake_and_hearing

    def taken(_source, target, **_more):
        shutil.copy(intake.path, target)
        return intake

    def listened(_intake, *, drums, **_more):
        shutil.copy(folder / "drums.flac", drums)
        return found

    with monkeypatch.context() as patch:
        patch.setattr(hearing, "take_in", taken)
        patch.setattr(hearing, "listen_to", listened)
        with django_capture_on_commit_callbacks(execute=True):
            done = client.post(f"/api/songs/{song['id']}/takes", {"file": sound_file(rock_bytes)})
        assert done.status_code == 201, done.content
        work.work(done.json()["job"]["id"])
    return client.get(f"/api/songs/{song['id']}").json()


@pytest.fixture
def edit(client, heard):
    def send(operation, *, base=None, by=client, **args):
        base = Arrangement.objects.get().version if base is None else base
        return by.post(
            f"/api/songs/{heard['id']}/transcription/edits",
            {"base": base, "edit": {"operation": operation, **args}},
            format="json",
        )

    return send


@pytest.fixture
def step(client, heard):
    def send(what, by=client):
        return by.post(f"/api/songs/{heard['id']}/transcription/{what}", {"base": 0}, format="json")

    return send
