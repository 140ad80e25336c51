"""Hearing as a job: once, whole, cancelled when asked, resumed when a worker dies."""

import errno
import io
from datetime import timedelta

import numpy as np
import pytest
import soundfile as sf
from django.db import OperationalError, connection
from django.utils import timezone
from jobs import queue, work
from jobs.models import Job
from library.models import Take
from transcription import hearing
from transcription.models import Arrangement

from orchesis.errors import BadSound
from tests import songs
from tests.server.conftest import sound_file, stem_of


@pytest.fixture
def job(client, song, rock_bytes):
    made = client.post(f"/api/songs/{song['id']}/takes", {"file": sound_file(rock_bytes)}).json()
    return Job.objects.get(pk=made["job"]["id"])


def test_a_heard_song_has_tempo_bars_and_strokes(client, heard):
    assert heard["stage"] == "heard" and heard["bars"] == 16
    assert heard["tempo"] == pytest.approx(100, abs=1)
    assert heard["takes"][0]["job"] | {"share": 1.0, "state": "done"} == heard["takes"][0]["job"]
    found = client.get(f"/api/songs/{heard['id']}/transcription").json()
    assert found["version"] == 0 and not found["undoes"]
    kicks = [s for s in found["score"]["strokes"] if s["part"] == "kick"]
    assert {s["limb"] for s in kicks} == {"RF"}
    assert found["tempo"]["steady"] and found["tempo"]["alternatives"][0] == pytest.approx(
        50, abs=1
    )


def test_a_job_is_done_once_however_often_it_is_sent(job):
    work.work(job.pk)
    first = Arrangement.objects.get()
    work.work(job.pk)
    job.refresh_from_db()
    assert (job.state, job.attempt) == ("done", 1)
    assert Arrangement.objects.get() == first


def test_a_dead_workers_job_is_sent_again_and_taken_over(job, sent):
    Job.objects.update(
        state="running", attempt=1, lease_until=timezone.now() - timedelta(seconds=1)
    )
    sent.clear()
    assert queue.send_waiting() == 1 and sent == [job.pk]
    work.work(job.pk)
    job.refresh_from_db()
    assert (job.state, job.attempt) == ("done", 2)


def test_a_job_in_good_hands_is_left_alone(job, sent):
    Job.objects.update(
        state="running", attempt=1, lease_until=timezone.now() + timedelta(seconds=9)
    )
    sent.clear()
    assert queue.send_waiting() == 0 and queue.claim(job.pk) is None


def test_a_superseded_attempt_keeps_nothing(job, monkeypatch):
    listen = hearing.listen_to

    def slow(*args, **kwargs):
        Job.objects.update(attempt=2)  # another worker took over meanwhile
        return listen(*args, **kwargs)

    monkeypatch.setattr(hearing, "listen_to", slow)
    work.work(job.pk)
    assert not Arrangement.objects.exists()


def _refuse(*_args, **_kwargs):
    raise BadSound("Nothing sounds here.")


@pytest.mark.django_db(transaction=True)
def test_cancelling_stops_the_work_in_the_middle_of_whatever_it_does(client, job, monkeypatch):
    def never_ends(*_args, **_kwargs):
        client.post(f"/api/jobs/{job.pk}/cancel")
        queue.time.sleep(600)

    monkeypatch.setattr(hearing, "take_in", never_ends)
    monkeypatch.setattr(work, "BEAT", 0.05)
    work.work(job.pk)
    job.refresh_from_db()
    assert job.state == "cancelled" and not Arrangement.objects.exists()
    again = client.post(f"/api/jobs/{job.pk}/retry").json()
    assert again["state"] == "queued" and again["id"] != job.pk


@pytest.mark.django_db(transaction=True)
def test_a_silent_step_loses_no_lease(client, job, monkeypatch, settings):
    settings.JOB_LEASE = 0.5

    def silent(*_args, **_kwargs):
        claimed = Job.objects.get().lease_until
        while Job.objects.get().lease_until < claimed + timedelta(seconds=1):
            assert queue.claim(job.pk) is None
            queue.time.sleep(0.05)
        _refuse()

    monkeypatch.setattr(hearing, "take_in", silent)
    monkeypatch.setattr(work, "BEAT", 0.05)
    work.work(job.pk)
    job.refresh_from_db()
    assert (job.state, job.attempt, job.message) == ("refused", 1, "Nothing sounds here.")


@pytest.mark.django_db(transaction=True)
def test_what_is_being_kept_is_not_stopped_half_way(client, job, monkeypatch):
    """A cancellation that comes while the result is written comes too late."""
    start = Arrangement.start.__func__

    def late(cls, take, score):
        client.post(f"/api/jobs/{job.pk}/cancel")
        made = start(cls, take, score)
        queue.time.sleep(0.3)
        return made

    monkeypatch.setattr(Arrangement, "start", classmethod(late))
    monkeypatch.setattr(work, "BEAT", 0.05)
    work.work(job.pk)
    job.refresh_from_db()
    assert job.state == "done" and Arrangement.objects.get().bars == 16


def test_a_file_that_kills_its_worker_is_given_up_and_fails_alone(client, job, song, rock_bytes):
    for died in range(1, queue.MOST_BROKEN):
        assert queue.claim(job.pk).attempt == died
        Job.objects.update(lease_until=timezone.now() - timedelta(seconds=1))
    assert queue.claim(job.pk).attempt == queue.MOST_BROKEN
    Job.objects.update(lease_until=timezone.now() - timedelta(seconds=1))
    assert queue.claim(job.pk) is None
    job.refresh_from_db()
    assert job.state == "refused" and "three times" in job.message and not queue.send_waiting()
    again = client.post(f"/api/jobs/{job.pk}/retry").json()
    assert queue.claim(again["id"]).attempt == 1


def test_a_recording_that_is_gone_ends_its_job(job):
    Take.objects.all().delete()
    work.work(job.pk)
    job.refresh_from_db()
    assert job.state == "cancelled"


def test_cancelling_before_it_runs(client, job):
    assert client.post(f"/api/jobs/{job.pk}/cancel").json()["state"] == "cancelled"
    work.work(job.pk)
    assert not Arrangement.objects.exists()


def test_a_refused_recording_says_why_and_is_kept(client, song):
    made = client.post(
        f"/api/songs/{song['id']}/takes", {"file": sound_file(b"words " * 99, "w.mp3")}
    ).json()
    work.work(made["job"]["id"])
    found = client.get(f"/api/songs/{song['id']}").json()
    assert found["stage"] == "refused"
    assert "“w.mp3” is not a sound file" in found["takes"][0]["job"]["message"]


@pytest.mark.parametrize(
    ("problem", "says"),
    [
        (OSError(errno.ENOSPC, "full"), "disk of the server is full"),
        (OSError(errno.EIO, "bad"), "can't be read"),
        (BadSound("Nothing sounds here."), "Nothing sounds here."),
        (ZeroDivisionError(), "a reason of ours"),
    ],
)
def test_every_failure_ends_the_job_with_a_sentence(job, monkeypatch, problem, says):
    def fail(*_args, **_kwargs):
        raise problem

    monkeypatch.setattr(hearing, "take_in", fail)
    work.work(job.pk)
    job.refresh_from_db()
    assert job.state == "refused" and says in job.message


def test_the_worker_waits_for_a_database_that_restarts(monkeypatch):
    monkeypatch.setattr(queue.time, "sleep", lambda _s: None)
    monkeypatch.setattr(queue, "close_old_connections", lambda: None)
    tries = []

    def act():
        tries.append(1)
        if len(tries) < 3:
            raise OperationalError("gone")
        return "back"

    assert queue.retry_while_away(act) == "back" and len(tries) == 3


def test_the_page_is_told_that_the_database_is_away(client, monkeypatch):
    def gone(*_args, **_kwargs):
        raise OperationalError("gone")

    monkeypatch.setattr(connection, "cursor", gone)
    answer = client.get("/api/songs")
    assert answer.status_code == 503 and "nothing is lost" in answer.json()["detail"]


def test_a_further_take_is_laid_over_the_first_one(
    client, heard, django_capture_on_commit_callbacks
):
    """The same part faster: its bars find their partners, its sound runs in step."""
    faster = songs.drums(songs.ROCK.replace("tempo: 100", "tempo: 112"), lead_in=1.3)
    out = io.BytesIO()
    sf.write(out, faster.astype(np.float32), songs.RATE, format="FLAC", subtype="PCM_16")
    with django_capture_on_commit_callbacks(execute=True):
        made = client.post(
            f"/api/songs/{heard['id']}/takes", {"file": sound_file(out.getvalue(), "live.flac")}
        ).json()
    work.work(made["job"]["id"])
    song = client.get(f"/api/songs/{heard['id']}").json()
    first, live = song["takes"]
    assert (first["kind"], live["kind"]) == ("first", "other")
    assert len(live["anchors"]) >= 14 and live["likeness"] > 0.8
    shares = np.diff(live["anchors"], axis=0)
    assert np.allclose(shares[:, 0] / shares[:, 1], 1.12, atol=0.03)
    transcription = client.get(f"/api/songs/{heard['id']}/transcription").json()
    assert transcription["take"] == first["id"]
    for take in (first, live):
        piece = client.get(f"/api/takes/{take['id']}/sound/0")
        assert piece.status_code == 200
    assert client.get(f"/api/takes/{live['id']}/original").status_code == 200


def test_a_stem_is_found_in_its_mix_by_the_sample(
    client, heard, rock_bytes, django_capture_on_commit_callbacks
):
    with django_capture_on_commit_callbacks(execute=True):
        made = client.post(
            f"/api/songs/{heard['id']}/takes",
            {"file": sound_file(stem_of(rock_bytes), "drums.flac")},
        ).json()
    work.work(made["job"]["id"])
    stem = client.get(f"/api/songs/{heard['id']}").json()["takes"][1]
    assert stem["kind"] == "stem" and stem["anchors"] == [[0.5, 0.0]]
