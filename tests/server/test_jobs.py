"""The queue under fire: retries, leftovers, workers that end, two uploads at once."""

from __future__ import annotations

from datetime import timedelta

from django.utils import timezone
from jobs import queue, work
from jobs.models import Job
from library.models import Take
from transcription import hearing
from transcription.models import Arrangement

from tests.server.conftest import sound_file, stem_of

# -- jobs


def test_thirty_retries_of_one_refused_job_make_one(client, song):
    made = client.post(
        f"/api/songs/{song['id']}/takes", {"file": sound_file(b"words " * 99, "w.mp3")}
    )
    first = made.json()["job"]["id"]
    work.work(first)
    answers = [client.post(f"/api/jobs/{first}/retry").status_code for _ in range(30)]
    assert answers.count(200) == 1 and set(answers) == {200, 409}
    assert Job.objects.count() == 2
    work.work(Job.objects.last().pk)
    assert client.post(f"/api/jobs/{first}/retry").status_code == 200


def test_messages_do_not_pile_up_in_the_broker(client, song, rock_bytes, sent, monkeypatch):
    client.post(f"/api/songs/{song['id']}/takes", {"file": sound_file(rock_bytes)})
    Job.objects.update(created=timezone.now() - timedelta(minutes=5))
    sent.clear()
    waiting = []
    monkeypatch.setattr(queue, "messages", lambda: len(waiting))
    monkeypatch.setattr(queue, "send", waiting.append)
    for _ in range(200):
        queue.send_waiting()
    assert len(waiting) == 1
    waiting.clear()
    assert queue.send_waiting() == 1


def test_a_worker_that_ends_gives_its_job_back_and_leaves_no_folder(
    client, song, rock_bytes, settings
):
    made = client.post(f"/api/songs/{song['id']}/takes", {"file": sound_file(rock_bytes)})
    work.ending.set()
    try:
        work.work(made.json()["job"]["id"])
    finally:
        work.ending.clear()
    job = Job.objects.get()
    assert job.state == "queued" and not list(settings.WORK_ROOT.iterdir())
    work.work(job.pk)
    assert Job.objects.get().state == "done"


def test_what_a_killed_hearing_left_is_cleared_away(client, song, rock_bytes, settings):
    client.post(f"/api/songs/{song['id']}/takes", {"file": sound_file(rock_bytes)})
    job = Job.objects.get()
    Job.objects.update(state="running", attempt=2)
    for attempt in (1, 2):
        (settings.WORK_ROOT / f"job-{job.pk}-{attempt}").mkdir(parents=True)
    (settings.WORK_ROOT / "hearing-999-1").mkdir()
    assert queue.clear_leftovers() == 2
    assert [f.name for f in settings.WORK_ROOT.iterdir()] == [f"job-{job.pk}-2"]


def test_two_first_uploads_at_once_are_a_first_and_a_further_take(
    client, song, rock_bytes, monkeypatch
):
    import io

    import soundfile as sf

    from tests import songs

    out = io.BytesIO()
    sf.write(
        out, songs.drums(lead_in=0.9).astype("float32"), songs.RATE, format="FLAC", subtype="PCM_16"
    )
    ids = [
        client.post(f"/api/songs/{song['id']}/takes", {"file": sound_file(b, n)}).json()["job"][
            "id"
        ]
        for b, n in ((rock_bytes, "a.flac"), (out.getvalue(), "b.flac"))
    ]
    listen = hearing.listen_to

    def meanwhile(*args, **kwargs):
        """The other worker is done just before this one looks for the song's first take."""
        monkeypatch.setattr(hearing, "listen_to", listen)
        made = listen(*args, **kwargs)
        first_of = hearing._first_of

        def late(take):
            monkeypatch.setattr(hearing, "_first_of", first_of)
            found = first_of(take)
            work.work(ids[1])
            return found

        monkeypatch.setattr(hearing, "_first_of", late)
        return made

    monkeypatch.setattr(hearing, "listen_to", meanwhile)
    work.work(ids[0])
    takes = {t["name"]: t for t in client.get(f"/api/songs/{song['id']}").json()["takes"]}
    assert {t["job"]["state"] for t in takes.values()} == {"done"}
    assert takes["b.flac"]["kind"] == "first" and takes["a.flac"]["kind"] == "stem"
    assert takes["a.flac"]["anchors"] and Arrangement.objects.get().take.name == "b.flac"
    for take in takes.values():
        assert client.get(f"/api/takes/{take['id']}/sound/0").status_code == 200


def test_a_database_that_restarts_while_a_take_is_laid_beside_the_first_refuses_nothing(
    client, heard, rock_bytes, monkeypatch
):
    from django.db import OperationalError

    made = client.post(
        f"/api/songs/{heard['id']}/takes", {"file": sound_file(stem_of(rock_bytes), "stem.flac")}
    )
    first_of, tries = hearing._first_of, []

    def away(take):
        tries.append(1)
        if len(tries) < 3:
            raise OperationalError("gone")
        return first_of(take)

    monkeypatch.setattr(hearing, "_first_of", away)
    monkeypatch.setattr(queue, "close_old_connections", lambda: None)
    work.work(made.json()["job"]["id"])
    assert Take.objects.get(name="stem.flac").kind == "stem"


def test_a_message_that_finds_its_row_taken_looks_for_the_next(monkeypatch):
    from jobs import tasks

    asked: list[int] = []
    rows = iter((7, 8, 9))
    monkeypatch.setattr(queue, "next_in_turn", lambda _pk: next(rows))
    monkeypatch.setattr(work, "work", lambda pk: asked.append(pk) or pk == 8)
    monkeypatch.setattr(tasks, "close_old_connections", lambda: None)
    tasks.do(7)
    assert asked == [7, 8]
