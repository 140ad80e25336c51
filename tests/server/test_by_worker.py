"""What grows with a song runs under a time limit; what takes longer is a worker's, and told so."""

from __future__ import annotations

import contextlib
import time

import pytest
from charts import views
from config import time_limits
from config.newest import NewestKept
from django.core.files.uploadedfile import SimpleUploadedFile
from findings import by_worker, readings
from jobs import work
from jobs.models import Job
from redis.exceptions import RedisError

from orchesis import charting, grooves
from orchesis.formats import registry


@pytest.fixture
def slow(monkeypatch, heard, sent):
    """Grooves that take half a second, where a tenth is all there is."""
    sent.clear()
    asked: list[float] = []
    real = grooves.grooves

    def slowly(*args):
        asked.append(args[1])
        until = time.monotonic() + 0.5
        while time.monotonic() < until:
            sum(range(200))
        return real(*args)

    monkeypatch.setattr(readings, "_found", NewestKept(1_000_000))
    monkeypatch.setattr(time_limits, "ANSWER_SECONDS", 0.1)
    monkeypatch.setattr(grooves, "grooves", slowly)
    return asked


def test_a_long_song_is_read_by_a_worker_and_told_so_meanwhile(client, heard, slow):
    at = f"/api/songs/{heard['id']}"
    first = client.get(f"{at}/grooves")
    assert first.status_code == 503 and "takes a while: 0 % done" in first.json()["detail"]
    again = client.get(f"{at}/grooves")
    assert again.status_code == 503 and len(slow) == 1, "it is not begun anew at each asking"
    assert client.get(f"{at}/fills").status_code == 200, "what is quick or known is told meanwhile"
    assert client.get(f"{at}/grooves?threshold=0.9").status_code == 503
    [job] = Job.objects.filter(kind=by_worker.RECKONING)
    work.work(job.pk)
    job.refresh_from_db()
    assert job.state == Job.DONE and slow[2:] == [0.75, 0.9]
    readings._found = NewestKept(1_000_000)  # another process
    done = client.get(f"{at}/grooves")
    assert done.status_code == 200 and done.json()["grooves"]
    assert client.get(f"{at}/grooves?threshold=0.9").status_code == 200
    assert len(slow) == 4, "no process had to find it once more"


def test_what_is_too_long_for_a_worker_too_is_refused_in_a_sentence(
    client, heard, slow, monkeypatch
):
    monkeypatch.setattr(by_worker, "_WORKER_SECONDS", 0.2)
    at = f"/api/songs/{heard['id']}/grooves"
    assert client.get(at).status_code == 503
    job = Job.objects.get(kind=by_worker.RECKONING)
    work.work(job.pk)
    job.refresh_from_db()
    assert job.state == Job.REFUSED and "too long" in job.message
    told = client.get(at)
    assert told.status_code == 422 and "a part of it" in told.json()["detail"]
    assert len(slow) == 2


def test_without_redis_it_is_found_here_or_refused(client, heard, slow, monkeypatch):
    class Away:
        def get(self, *_more):
            raise RedisError("away")

    monkeypatch.setattr(by_worker, "cache", Away())
    at = f"/api/songs/{heard['id']}/grooves"
    assert client.get(at).status_code == 200
    monkeypatch.setattr(time_limits, "FILE_SECONDS", 0.1)
    told = client.get(f"{at}?threshold=0.9")
    assert told.status_code == 422 and "too long" in told.json()["detail"]


def test_an_edit_asks_anew(client, heard, slow, edit):
    at = f"/api/songs/{heard['id']}/grooves"
    assert client.get(at).status_code == 503
    work.work(Job.objects.get(kind=by_worker.RECKONING).pk)
    assert client.get(at).status_code == 200
    assert edit("note_bar", bar=2, note="louder").status_code == 200
    assert client.get(at).status_code == 503
    assert Job.objects.filter(kind=by_worker.RECKONING, state=Job.QUEUED).count() == 1


def test_what_is_out_of_time_ends_where_it_is():
    ended = []

    def forever() -> None:
        try:
            while True:
                sum(range(100))
        finally:
            ended.append(time.monotonic())

    begun = time.monotonic()
    with pytest.raises(time_limits.TookTooLong):
        time_limits.within(0.1, forever)
    assert ended and time.monotonic() - begun < 5
    assert time_limits.within(5, lambda: 7) == 7
    for _ in range(200):  # an end that comes in the very moment hits nothing else
        with contextlib.suppress(time_limits.TookTooLong):
            time_limits.within(0.0005, lambda: sum(range(2000)))
    assert sum(range(10)) == 45


def test_the_limbs_of_a_long_score_are_chosen_by_a_worker(client, sent, monkeypatch):
    """The song is there at once; what somebody changes meanwhile stays."""
    monkeypatch.setattr(time_limits, "ANSWER_SECONDS", 0.0002)
    sent.clear()
    text = "tempo: 100\n== Verse\nsnare: 16ths | 16ths\nkick: 1 3 | 1 3\n"
    file = SimpleUploadedFile("long.count", text.encode())
    told = client.post("/api/packages", {"file": file}, format="multipart")
    assert told.status_code == 201, told.content
    at = f"/api/songs/{told.json()['song']}/transcription"

    def snares() -> dict[str, str]:
        strokes = client.get(at).json()["score"]["strokes"]
        return {s["id"]: s["limb"] for s in strokes if s["part"] == "snare"}

    before = snares()
    assert len(before) == 32 and set(before.values()) == {"LH"}
    mine = next(iter(before))
    edit = {"operation": "set_limb", "id": mine, "limb": "LH"}
    assert client.post(f"{at}/edits", {"base": 0, "edit": edit}, format="json").status_code == 200
    monkeypatch.setattr(time_limits, "ANSWER_SECONDS", 20.0)
    [job] = Job.objects.filter(kind=by_worker.RECKONING)
    work.work(job.pk)
    job.refresh_from_db()
    assert job.state == Job.DONE, job.message
    after = snares()
    assert set(after.values()) == {"LH", "RH"} and after[mine] == "LH"
    assert client.get(at).json()["version"] == 2
    undone = client.post(f"{at}/undo", {"base": 2}, format="json")
    assert undone.status_code == 200
    assert "RH" in snares().values(), "one undoes one's own bar alone"


@pytest.mark.parametrize("ending", ["mei", "mid", "musicxml", "count"])
def test_no_file_takes_longer_than_a_file_may(client, heard, monkeypatch, ending):
    at = f"/api/songs/{heard['id']}/chart.{ending}"
    assert client.get(at).status_code == 200
    monkeypatch.setattr(time_limits, "FILE_SECONDS", 0.0)
    monkeypatch.setattr(views, "_midi", lambda *_: forever())
    monkeypatch.setattr(registry, "write", lambda *_: forever())
    monkeypatch.setattr(charting, "mei", lambda *_: forever())
    told = client.get(at)
    assert told.status_code == 422 and "a part of it" in told.json()["detail"]


def forever() -> None:
    end = time.monotonic() + 20
    while time.monotonic() < end:
        sum(range(100))
