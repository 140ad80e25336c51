"""Servers die at random points while songs are edited and recordings are given: nothing that was
acknowledged is lost, nothing is half there, and everything recovers without a person.

ORCHESIS_TORTURE set (make torture): two hundred edits, twenty recordings, the database away for 30 s.
"""

from __future__ import annotations

import io
import json
import os
import random
import signal
import threading
import time

import soundfile as sf

from tests.house.conftest import Person
from tests.songs import RATE, ROCK, drums

IS_TORTURE = "ORCHESIS_TORTURE" in os.environ
EDITS, SOUNDS, KILLS, AWAY = (200, 20, 16, 30.0) if IS_TORTURE else (40, 4, 4, 4.0)
_LOOKS = """
import hashlib, json
from jobs.models import Job
from library.models import StoredFile, Take
from transcription.models import Edit
from django.core.files.storage import default_storage as store
def whole(name):
    if not name or not store.exists(name): return False
    with store.open(name) as f: return hashlib.sha256(f.read()).hexdigest() in name
print("TOLD" + json.dumps({
    "keys": list(Edit.objects.exclude(key=None).values_list("key", flat=True)),
    "versions": list(Edit.objects.order_by("version").values_list("version", flat=True)),
    "takes": {t.name: whole(t.original.name) and whole(t.sound.name) and hasattr(t, "analysis") for t in Take.objects.exclude(original="")},
    "files": all(whole(f.name) for f in StoredFile.objects.all()),
    "jobs": list(Job.objects.values_list("state", flat=True)),
    "said": list(Job.objects.values_list("message", flat=True)),
}))
"""


def sound(seed: int) -> bytes:
    """A few bars of drums, each a little softer: to the store they are all different."""
    made = drums()[: 6 * RATE] * (0.9 - 0.01 * seed)
    out = io.BytesIO()
    sf.write(out, made, RATE, format="WAV", subtype="PCM_16")
    return out.getvalue()


def test_nothing_acknowledged_is_lost_and_nothing_is_half_there(house):
    rng = random.Random(7)
    me = Person(house.address)
    song = me.post("packages", {}, 201, files={"file": ("rock.count", ROCK.encode())}).json()[
        "song"
    ]
    done: list[str] = []
    given: list[str] = []
    failed: list[BaseException] = []

    def edits() -> None:
        for n in range(EDITS):
            body = {
                "base": 0,
                "over": True,
                "key": f"key-{n}",
                "edit": {"operation": "rename_section", "id": "sec1", "name": f"Name {n}"},
            }
            me.post(f"songs/{song}/transcription/edits", body, 200)
            done.append(f"key-{n}")

    def recordings() -> None:
        for n in range(SOUNDS):
            mine = Person(house.address)
            pk = mine.post("songs", {"title": f"Song {n}"}, 201).json()["id"]
            # A second answer of 409: it was taken in, and the first answer was lost.
            mine.post(f"songs/{pk}/takes", {}, 201, 409, files={"file": (f"{n}.wav", sound(n))})
            given.append(f"{n}.wav")

    def guarded(act):
        def run() -> None:
            try:
                act()
            except BaseException as problem:
                failed.append(problem)

        return run

    threads = [threading.Thread(target=guarded(act)) for act in (edits, recordings)]
    for thread in threads:
        thread.start()
    victims = [house.web, house.worker, house.broker, house.database]
    for n in range(KILLS):
        time.sleep(rng.uniform(0.3, 2.5))
        who = victims[n % 4]
        os.kill(who.child.pid, signal.SIGKILL)
        who.child.wait()
        if who is house.database:
            time.sleep(AWAY)  # nobody looks after it meanwhile
        until = time.monotonic() + 60
        house.tend()
        while who.child is None or who.due is not None:
            assert time.monotonic() < until
            house.tend()
            time.sleep(0.1)
        who.deaths.clear()  # this death is ours
    while any(t.is_alive() for t in threads):
        house.tend()
        time.sleep(0.2)
    assert not failed, failed
    until = time.monotonic() + 240
    while True:
        told = look(house)
        if not {"queued", "running"} & set(told["jobs"]):
            break
        assert time.monotonic() < until, told["jobs"]
        house.tend()
        time.sleep(0.5)
    assert len(done) == EDITS and len(given) == SOUNDS
    assert sorted(told["keys"]) == sorted(done)  # each once
    assert told["versions"] == list(range(1, EDITS + 1))
    assert set(told["jobs"]) == {"done"}, told["said"]
    assert told["takes"] == dict.fromkeys(given, True)
    assert told["files"]
    score = me.persist(
        lambda: me.session.get(f"{house.address}/api/songs/{song}/transcription"), 200
    ).json()["score"]
    assert score["sections"][0]["name"] == f"Name {EDITS - 1}"
    assert not list((house.var / "work").glob("*"))  # no folder of a dead attempt is left


def look(house) -> dict:
    import subprocess
    import sys

    from house import SERVER

    ended = subprocess.run(
        [sys.executable, str(SERVER / "manage.py"), "shell", "-c", _LOOKS],
        env=house.environment,
        capture_output=True,
        text=True,
    )
    assert ended.returncode == 0, ended.stderr[-2000:]
    return json.loads(ended.stdout.partition("TOLD")[2])
