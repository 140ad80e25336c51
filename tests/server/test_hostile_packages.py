"""Packages with one odd value: refused in a sentence, or whole: what is stored can be read."""

from __future__ import annotations

import io
import json
import os
import random
import zipfile

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from keeping import reading
from library.models import Song

from orchesis.formats import package
from tests.odd_values import ODD, a_place, by_kind, put
from tests.server.test_keeping import taken, worked_on  # noqa: F401

MANY = 1500 if "ORCHESIS_TORTURE" in os.environ else 60
SEED = int(os.environ.get("ORCHESIS_SEED", "5"))
VIEWS = (
    "",
    "/transcription",
    "/transcription/review",
    "/transcription/text",
    "/grooves",
    "/elsewhere",
    "/fills",
    "/feel",
    "/sounds",
    "/evidence",
    "/decisions",
    "/hands",
    "/stickings?first=1&last=2",
    "/proposals",
    "/arrangements",
    "/chart",
    "/chart?view=limbs",
    "/chart?footnotes=1",
    "/chart.mid",
    "/chart.musicxml",
    "/comments",
    "/history",
    "/player-links",
    "/clips",
    "/loops",
    "/package",
    "/search?bar=1&scope=all",
    "/stages?first=1&last=2",
    "/stages/staff?first=1&last=2",
    "/stages/sheet?first=1&last=2",
    "/transcription/compare?of=0",
    "/question?first=1&last=2",
    "/rhythm-words?first=1&last=2",
    "/play-alongs",
)


def mutated(documents: dict[str, bytes], rng: random.Random) -> tuple[bytes, str]:
    """The package with one value replaced, and what was done."""
    names = [n for n in documents if n.endswith((".json", ".jsonl")) and documents[n].strip()]
    name, odd = rng.choice(names), rng.choice(ODD)
    made = dict(documents)
    if name.endswith(".json"):
        data = json.loads(documents[name])
        at = a_place(by_kind(data), rng)
        made[name] = json.dumps(put(data, at, odd)).encode()
    else:
        lines = documents[name].decode().splitlines()
        n = rng.randrange(len(lines))
        data = json.loads(lines[n])
        at = a_place(by_kind(data), rng)
        lines[n] = json.dumps(put(data, at, odd))
        made[name] = "\n".join(lines).encode()
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        for member, content in made.items():
            archive.writestr(member, content)
    return out.getvalue(), f"{name} {at} = {str(odd)[:40]!r}"


@pytest.fixture
def documents(client, worked_on):  # noqa: F811
    with zipfile.ZipFile(io.BytesIO(taken(client, worked_on))) as archive:
        return {name: archive.read(name) for name in archive.namelist()}


@pytest.fixture
def here(monkeypatch):
    """Read in this process: a process each would take most of the time, and the same code reads."""

    def check(path):
        with package.opened(path) as found:
            return found.must_open()

    monkeypatch.setattr(reading, "check", check)


def test_an_odd_value_is_refused_or_read_by_every_view(client, documents, here):
    client.raise_request_exception = False
    rng = random.Random(SEED)
    faults = []
    opened = 0
    for _ in range(MANY):
        content, what = mutated(documents, rng)
        told = client.post("/api/packages", {"file": SimpleUploadedFile("odd.orchesis", content)})
        if told.status_code != 201:
            said = told.json().get("detail", "") if told.status_code < 500 else ""
            if not said or "\n" in said or len(said) > 400:
                faults.append((what, "refused", told.status_code, said[:200]))
            continue
        opened += 1
        song = told.json()["song"]
        for view in VIEWS:
            answer = client.get(f"/api/songs/{song}{view}")
            if answer.status_code >= 500 and answer.status_code != 503:
                faults.append((what, view, answer.status_code))
        for step in ("undo", "redo"):
            answer = client.post(
                f"/api/songs/{song}/transcription/{step}", {"base": 99}, format="json"
            )
            if answer.status_code >= 500:
                faults.append((what, step, answer.status_code))
        if client.get("/api/songs").status_code >= 500:
            faults.append((what, "shelf", 500))
        Song.objects.filter(pk=song).delete()
    assert not faults, "\n".join(map(str, faults))
    assert opened > MANY / 20
