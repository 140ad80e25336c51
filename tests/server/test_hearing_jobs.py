"""Hearing as a job: once, whole, cancelled when asked, resumed when a worker dies."""

import errno
import io
from datetime import timedelta

import numpy as np
import pytest
import soundfile as sf
from django.db import OperationalError, connection
from django.utils import timezone
from transcription import jobs
from transcription.models import HearingJob, Transcription

from orchesis.errors import BadSound
from tests import songs
from tests.server.conftest import sound_file


@pytest.fixture
def job(client, song, rock_bytes):
    made = client.post(f"/api/songs/{song['id']}/takes", {"file": sound_file(rock_bytes)}).json()
    return HearingJob.objects.get(pk=made["job"]["id"])


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
    jobs.work(job.pk)
    first = Transcription.objects.get()
    jobs.work(job.pk)
    job.refresh_from_db()
    assert (job.state, job.attempt) == ("done", 1)
    assert Transcription.objects.get() == first


def test_a_dead_workers_job_is_sent_again_and_taken_over(job, sent):
    HearingJob.objects.update(
        state="running", attempt=1, lease_until=timezone.now() - timedelta(seconds=1)
    )
    sent.clear()
    assert jobs.send_waiting() == 1 and sent == [job.pk]
    jobs.work(job.pk)
    job.refresh_from_db()
    assert (job.state, job.attempt) == ("done", 2)


def test_a_job_in_good_hands_is_left_alone(job, sent):
    HearingJob.objects.update(
        state="running", attempt=1, lease_until=timezone.now() + timedelta(seconds=9)
    )
    sent.clear()
    assert jobs.send_waiting() == 0 and jobs.claim(job.pk) is None


def test_a_superseded_attempt_keeps_nothing(job, monkeypatch):
    listen = jobs.listen_to

    def slow(*args, **kwargs):
        HearingJob.objects.update(attempt=2)  # another worker took over meanwhile
        return listen(*args, **kwargs)

    monkeypatch.setattr(jobs, "listen_to", slow)
    monkeypatch.setattr(jobs, "_TELL_EVERY", 0)
    jobs.work(job.pk)
    assert not Transcription.objects.exists()


def test_cancelling_while_it_runs_stops_the_work(client, job, monkeypatch):
    monkeypatch.setattr(jobs, "_TELL_EVERY", 0)
    HearingJob.objects.update(cancel_asked=True)
    jobs.work(job.pk)
    job.refresh_from_db()
    assert job.state == "cancelled" and not Transcription.objects.exists()
    again = client.post(f"/api/jobs/{job.pk}/retry").json()
    assert again["state"] == "queued" and again["id"] != job.pk


def test_cancelling_before_it_runs(client, job):
    assert client.post(f"/api/jobs/{job.pk}/cancel").json()["state"] == "cancelled"
    jobs.work(job.pk)
    assert not Transcription.objects.exists()


def test_a_refused_recording_says_why_and_is_kept(client, song):
    made = client.post(
        f"/api/songs/{song['id']}/takes", {"file": sound_file(b"words " * 99, "w.mp3")}
    ).json()
    jobs.work(made["job"]["id"])
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

    monkeypatch.setattr(jobs, "take_in", fail)
    jobs.work(job.pk)
    job.refresh_from_db()
    assert job.state == "refused" and says in job.message


def test_the_worker_waits_for_a_database_that_restarts(monkeypatch):
    monkeypatch.setattr(jobs.time, "sleep", lambda _s: None)
    monkeypatch.setattr(jobs, "close_old_connections", lambda: None)
    tries = []

    def act():
        tries.append(1)
        if len(tries) < 3:
            raise OperationalError("gone")
        return "back"

    assert jobs.retry_while_away(act) == "back" and len(tries) == 3


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
    jobs.work(made["job"]["id"])
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
    sound, rate = sf.read(io.BytesIO(rock_bytes))
    out = io.BytesIO()
    sf.write(out, 0.7 * sound[rate // 2 :], rate, format="FLAC", subtype="PCM_16")
    with django_capture_on_commit_callbacks(execute=True):
        made = client.post(
            f"/api/songs/{heard['id']}/takes", {"file": sound_file(out.getvalue(), "drums.flac")}
        ).json()
    jobs.work(made["job"]["id"])
    stem = client.get(f"/api/songs/{heard['id']}").json()["takes"][1]
    assert stem["kind"] == "stem" and stem["anchors"] == [[0.5, 0.0]]
