"""Every stored file counts for what an account may keep, and is reserved before it is written."""

from __future__ import annotations

import io
import threading

import pytest
import soundfile as sf
from django.contrib.auth.models import User
from django.core.files.base import ContentFile
from django.db import connection
from django.utils import timezone
from jobs import work
from jobs.models import Job
from keeping import backing_up
from keeping.models import Backup
from library import quota, trash
from library.models import Reserved, Song
from planning.models import SetList
from practice.models import PlayAlong, PractisedSound
from rest_framework.test import APIClient
from transcription.models import Arrangement

from tests.server.conftest import sound_file
from tests.songs import RATE, drums

PASSAGE = {"first": 1, "last": 2, "order": "computed", "stage": 0, "share": 1.0}


def stored(root) -> int:
    return sum(p.stat().st_size for p in root.rglob("*") if p.is_file())


@pytest.fixture
def all_kinds(client, heard, user):
    """A song with a file of each kind that is kept beside its recording."""
    at = f"/api/songs/{heard['id']}"
    own = client.post(f"{at}/practised-sounds", {**PASSAGE, "file": sound_file(b"own " * 900)})
    assert own.status_code == 200, own.content
    asked = {"first": 1, "last": 2, "loops": 1}
    client.post(f"{at}/play-alongs", asked, format="json")
    listed = client.post(
        "/api/set-lists", {"title": "Friday", "items": [{"song": heard["id"]}]}, format="json"
    ).json()
    client.post(f"/api/set-lists/{listed['id']}/paper")
    client.post("/api/account/backup")
    for job in Job.objects.filter(state=Job.QUEUED).exclude(kind="by_sound").order_by("pk"):
        work.work(job.pk)
    assert PlayAlong.objects.get().file and SetList.objects.get().pdf and Backup.objects.get().file
    return heard


def test_each_kind_of_file_is_counted(all_kinds, user, settings):
    backup = Backup.objects.get()
    assert backup.size == backup.file.size
    assert quota.used_by(user) == stored(settings.MEDIA_ROOT) - backup.size
    assert not Reserved.objects.exists(), "what is written is not reserved any more"


def test_what_finds_no_room_is_refused_in_a_sentence(all_kinds, client, settings, user):
    settings.QUOTA_MB = quota.used_by(user) / 2**20
    at = f"/api/songs/{all_kinds['id']}"
    own = client.post(f"{at}/practised-sounds", {**PASSAGE, "file": sound_file(b"x" * 900)})
    assert own.status_code == 413 and "Empty the bin" in own.json()["detail"]
    assert PractisedSound.objects.count() == 1
    PlayAlong.objects.update(file="", size=0)
    client.post(f"{at}/play-alongs", PlayAlong.objects.get().wish, format="json")
    settings.QUOTA_MB = quota.used_by(user) / 2**20
    job = Job.objects.filter(kind="play_along", state=Job.QUEUED).latest("pk")
    before = stored(settings.MEDIA_ROOT)
    work.work(job.pk)
    job.refresh_from_db()
    assert job.state == Job.REFUSED and "Empty the bin" in job.message
    assert stored(settings.MEDIA_ROOT) == before
    settings.QUOTA_MB = 100
    client.post("/api/account/backup")
    settings.QUOTA_MB = 0.001
    job = Job.objects.filter(kind="backup").latest("pk")
    work.work(job.pk)
    job.refresh_from_db()
    assert job.state == Job.REFUSED and "This backup takes" in job.message


def test_what_was_made_of_a_recording_needs_room_too(client, song, rock_bytes, settings, sent):
    out = io.BytesIO()
    sf.write(out, drums()[: 12 * RATE], RATE, format="OGG")
    given = client.post(
        f"/api/songs/{song['id']}/takes", {"file": sound_file(out.getvalue(), "r.ogg")}
    )
    assert given.status_code == 201
    settings.QUOTA_MB = (len(out.getvalue()) + 1000) / 2**20
    job = Job.objects.get(pk=given.json()["job"]["id"])
    work.work(job.pk)
    job.refresh_from_db()
    assert job.state == Job.REFUSED and "Empty the bin" in job.message


@pytest.mark.django_db(transaction=True)
def test_uploads_at_once_see_one_another(settings):
    owner = User.objects.create_user("rim", password="shot")
    songs = [Song.objects.create(owner=owner, title=f"Song {n}") for n in range(6)]
    settings.QUOTA_MB = 1
    told: list[int] = []

    def upload(song: Song) -> None:
        client = APIClient()
        client.force_authenticate(owner)
        content = bytes([song.pk % 250]) * 400_000
        answer = client.post(f"/api/songs/{song.pk}/takes", {"file": sound_file(content, "a.wav")})
        told.append(answer.status_code)
        connection.close()

    threads = [threading.Thread(target=upload, args=(s,)) for s in songs]
    for t in threads:
        t.start()
    for t in threads:
        t.join()
    assert sorted(told) == [201, 201, 413, 413, 413, 413]
    assert quota.used_by(owner) <= 2**20 and not Reserved.objects.exists()


def test_a_reservation_of_a_dead_process_is_forgotten(user, settings):
    settings.QUOTA_MB = 1
    Reserved.objects.create(owner=user, size=900_000)
    with pytest.raises(quota.OutOfRoom), quota.room_for(user, 500_000):
        pass
    Reserved.objects.update(made=timezone.now() - quota._FORGOTTEN * 2)
    with quota.room_for(user, 500_000):
        pass


def test_a_backup_waits_two_weeks_to_be_fetched(user, settings):
    assert backing_up.forget_old in trash.ALSO_EMPTIED
    for days in (13, 15):
        made = Backup.objects.create(
            user=user, created=timezone.now() - timezone.timedelta(days=days)
        )
        made.file.save("x", ContentFile(b"x"))
    trash.empty()
    assert (timezone.now() - Backup.objects.get().created).days == 13


def test_a_backup_is_fetched_under_the_name_of_its_account(client, user):
    made = Backup.objects.create(user=user)
    made.file.save("x", ContentFile(b"x"))
    told = client.get("/api/account/backup").headers["Content-Disposition"]
    assert told == f'attachment; filename="rim {made.created:%Y-%m-%d}.orchesis-account"'


def test_the_newest_part_of_another_song_is_no_room_of_ours(heard, db):
    other = User.objects.create_user("bo")
    assert quota.used_by(other) == 0 and Arrangement.objects.exists()
