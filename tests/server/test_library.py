"""The shelf and taking in, through the API."""

import errno
from io import BytesIO

import numpy as np
import pytest
import soundfile as sf
from arrangements import log
from django.core.files.storage import default_storage
from django.test import Client
from jobs.models import Job
from library import sound
from library.models import Analysis, Song, Take
from rest_framework.test import APIClient
from transcription.models import Arrangement

from orchesis.editing import edit_of
from tests.server.conftest import sound_file


def test_a_session_begins_and_ends(user):
    browser = Client()
    assert browser.get("/api/session").json() == {"name": None, "sign_up_is_open": False}
    wrong = browser.post(
        "/api/session", {"name": "rim", "password": "x"}, content_type="application/json"
    )
    assert wrong.status_code == 403 and "don't match" in wrong.json()["detail"]
    browser.post(
        "/api/session", {"name": "rim", "password": "shot"}, content_type="application/json"
    )
    assert browser.get("/api/session").json()["name"] == "rim"
    assert browser.get("/api/songs").status_code == 200
    browser.delete("/api/session")
    assert browser.get("/api/songs").status_code == 403


def test_a_request_stands_on_the_shelf_with_who_and_when(client):
    made = client.post(
        "/api/songs",
        {"title": "Northline", "asked_by": "Bo", "due": "2026-12-24", "depth": "outline"},
        format="json",
    ).json()
    assert made["stage"] == "asked" and made["due"] == "2026-12-24"
    changed = client.patch(f"/api/songs/{made['id']}", {"asked_by": "Ilka"}, format="json").json()
    assert changed["asked_by"] == "Ilka"
    assert [s["title"] for s in client.get("/api/songs").json()["results"]] == ["Northline"]


@pytest.mark.parametrize(
    ("fields", "says"),
    [
        ({"title": ""}, "title"),
        ({}, "title"),
        ({"title": "x", "due": "soon"}, "2026-12-24"),
        ({"title": "x", "depth": "deep"}, "deep"),
    ],
)
def test_a_request_that_lacks_something_is_told_in_one_sentence(client, fields, says):
    answer = client.post("/api/songs", fields, format="json")
    assert answer.status_code == 400 and says in answer.json()["detail"]


def test_a_song_taken_off_the_shelf_can_be_brought_back(client, song):
    client.delete(f"/api/songs/{song['id']}")
    assert client.get("/api/songs").json()["results"] == []
    client.post(f"/api/songs/{song['id']}/restore")
    assert len(client.get("/api/songs").json()["results"]) == 1


def test_nobody_sees_another_ones_songs(heard, db):
    from django.contrib.auth.models import User

    stranger = APIClient()
    stranger.force_authenticate(User.objects.create_user("stranger"))
    take = heard["takes"][0]["id"]
    for address in (
        f"songs/{heard['id']}",
        f"songs/{heard['id']}/transcription",
        f"songs/{heard['id']}/chart.pdf",
        f"takes/{take}/sound/0",
        f"takes/{take}/outline",
    ):
        assert stranger.get(f"/api/{address}").status_code == 404, address
    assert (
        stranger.post(
            f"/api/songs/{heard['id']}/transcription/undo", {"base": 0}, format="json"
        ).status_code
        == 404
    )
    assert stranger.post(f"/api/jobs/{heard['takes'][0]['job']['id']}/cancel").status_code == 404


def test_a_recording_is_kept_and_its_hearing_asked_for(
    client, song, rock_bytes, sent, django_capture_on_commit_callbacks
):
    with django_capture_on_commit_callbacks(execute=True):
        made = client.post(
            f"/api/songs/{song['id']}/takes", {"file": sound_file(rock_bytes)}
        ).json()
    assert made["job"]["state"] == "queued"
    assert sent == [made["job"]["id"]]
    assert client.get(f"/api/songs/{song['id']}").json()["stage"] == "hearing"
    assert default_storage.exists(Take.objects.get().original.name)


def test_the_same_recording_twice_is_told_and_changes_nothing(client, heard, rock_bytes):
    other = client.post("/api/songs", {"title": "Again"}, format="json").json()
    answer = client.post(
        f"/api/songs/{other['id']}/takes", {"file": sound_file(rock_bytes, "copy.flac")}
    )
    assert answer.status_code == 409 and "as “Plain Rock”" in answer.json()["detail"]
    assert Take.objects.count() == 1


def test_an_empty_file_and_no_file_are_told(client, song):
    assert (
        "is empty"
        in client.post(f"/api/songs/{song['id']}/takes", {"file": sound_file(b"")}).json()["detail"]
    )
    assert "recording" in client.post(f"/api/songs/{song['id']}/takes", {}).json()["detail"].lower()
    assert Take.objects.count() == 0


def test_a_file_that_is_too_big_is_told(client, song, rock_bytes, monkeypatch):
    monkeypatch.setattr("shelf.views.BIGGEST", 1000)
    answer = client.post(f"/api/songs/{song['id']}/takes", {"file": sound_file(rock_bytes)})
    assert answer.status_code == 422 and "200 MB" in answer.json()["detail"]


def test_a_full_disk_is_told_and_loses_nothing(client, song, rock_bytes, monkeypatch):
    def full(*_args, **_kwargs):
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(default_storage.__class__, "_save", full)
    answer = client.post(f"/api/songs/{song['id']}/takes", {"file": sound_file(rock_bytes)})
    assert answer.status_code == 507 and "disk" in answer.json()["detail"]
    assert Take.objects.count() == 0 and Song.objects.count() == 1


def test_the_sound_comes_in_pieces_and_ends(client, heard):
    import io

    import numpy as np
    import soundfile as sf

    take = Take.objects.get()
    whole = sf.read(take.sound.path, dtype="int16", always_2d=True)[0]
    pieces, number = [], 0
    while (answer := client.get(f"/api/takes/{take.pk}/sound/{number}")).status_code == 200:
        pieces.append(sf.read(io.BytesIO(answer.content), dtype="int16", always_2d=True)[0])
        number += 1
    assert answer.status_code == 404
    assert all(len(p) == 441000 for p in pieces[:-1])
    assert np.array_equal(np.concatenate(pieces), whole)
    outline = client.get(f"/api/takes/{take.pk}/outline").content
    assert len(outline) == -(-len(whole) // 441)


def test_the_drums_can_be_brought_forward_and_back(heard):
    """In the very piece of the recording, as long as it and sample by sample in step."""
    take = Take.objects.get(pk=heard["takes"][0]["id"])
    assert take.drums
    whole, forward, back = (
        _samples(sound.piece(take, 0, b)) for b in ("recorded", "forward", "back")
    )
    assert whole.shape == forward.shape == back.shape
    with take.drums.open("rb") as file, sf.SoundFile(file) as drums:
        alone = drums.read(len(whole), dtype="int16", always_2d=True).astype(float)
    for made, share in ((forward, 0.95), (back, -0.88)):
        expected = (0.3 if share > 0 else 1.0) * whole + share * alone
        assert np.abs(np.clip(expected, -32768, 32767) - made).max() <= 1


def test_a_take_without_its_drums_alone_sounds_as_recorded(heard):
    take = Take.objects.get(pk=heard["takes"][0]["id"])
    take.drums = ""
    assert sound.piece(take, 0, "forward") == sound.piece(take, 0)


def test_an_unknown_balance_is_told(client, heard):
    take = heard["takes"][0]["id"]
    answer = client.get(f"/api/takes/{take}/sound/0?drums=louder")
    assert answer.status_code == 400 and "louder" in answer.json()["detail"]
    assert client.get(f"/api/takes/{take}/sound/0?drums=forward").status_code == 200


def _samples(flac):
    return sf.read(BytesIO(flac), dtype="int16", always_2d=True)[0].astype(float)


def test_a_shelf_is_a_few_questions_however_many_songs_stand_on_it(
    client, heard, user, django_assert_max_num_queries
):
    first = Arrangement.objects.get()
    for n in range(30):
        song = Song.objects.create(owner=user, title=f"S{n}")
        take = Take.objects.create(song=song, name="t", digest=str(n), original="t")
        Job.objects.create(song=song, kind="hearing", subject=take.pk, state="refused")
        if n % 2:
            Arrangement.start(take, first.score)
    with django_assert_max_num_queries(8):
        answer = client.get("/api/songs?size=300").json()
    rows = answer["results"]
    assert answer["count"] == len(rows) == 31
    assert {r["stage"] for r in rows} == {"heard", "refused"}


def test_the_shelf_is_searched_ordered_and_turned_page_by_page(client, user):
    from datetime import date

    for n, title in enumerate(("Salt Road", "Tin Roof", "Late Tin", "Glass")):
        due = date(2031, 1, 9 - n) if n else None
        Song.objects.create(owner=user, title=title, asked_by="Bo" if n == 3 else "", due=due)

    def titles(query):
        return [r["title"] for r in client.get(f"/api/songs?{query}").json()["results"]]

    assert titles("") == ["Glass", "Late Tin", "Tin Roof", "Salt Road"]
    assert titles("search=tin") == ["Late Tin", "Tin Roof"]
    assert titles("search=tin+roof") == ["Tin Roof"] and titles("search=bo") == ["Glass"]
    assert titles("order=-title")[0] == "Tin Roof"
    assert titles("group=desk") == [] and len(titles("group=asked")) == 4
    assert titles("size=3&page=2") == ["Salt Road"]
    assert client.get("/api/songs?size=3&page=3").status_code == 404
    assert client.get("/api/songs?order=owner").status_code == 400


def test_what_numpy_reckoned_is_kept_like_any_number(heard):
    found = Analysis.objects.get()
    found.document = {"levels": [[np.float64(-3.5), np.float32(0.5)], [np.int64(4), None]]}
    found.save()
    assert Analysis.objects.get().document == {"levels": [[-3.5, 0.5], [4, None]]}


def test_what_the_shelf_shows_follows_the_edits(client, heard):
    def edit(**change):
        answer = client.post(
            f"/api/songs/{heard['id']}/transcription/edits",
            {"base": Arrangement.objects.get().version, "edit": change},
            format="json",
        )
        assert answer.status_code == 200

    edit(operation="double_tempo")
    row = client.get("/api/songs").json()["results"][0]
    assert row["tempo"] == pytest.approx(200, abs=1) and row["stage"] == "corrected"
    bars = row["bars"]
    edit(operation="confirm_bars", bar=1, last=bars, confirmed=True)
    assert client.get("/api/songs").json()["results"][0]["stage"] == "confirmed"


def test_a_song_and_an_account_are_deleted_whole_and_free_their_files(
    client, heard, user, django_capture_on_commit_callbacks
):
    client.post(
        f"/api/songs/{heard['id']}/transcription/edits",
        {"base": 0, "edit": {"operation": "note_bar", "bar": 1, "note": "soft"}},
        format="json",
    )
    take = Take.objects.get()
    names = [getattr(take, f).name for f in Take.FILES if getattr(take, f)]
    assert len(names) == 3 and all(default_storage.exists(n) for n in names)
    with django_capture_on_commit_callbacks(execute=True):
        user.delete()
    assert (
        not Song.objects.exists() and not Arrangement.objects.exists() and not Take.objects.exists()
    )
    assert not any(default_storage.exists(n) for n in names)


def test_an_edit_outlives_the_account_of_whoever_made_it(client, heard, django_user_model):
    bo = django_user_model.objects.create_user("bo")
    log.edit(
        Arrangement.objects.get(),
        bo,
        edit_of({"operation": "note_bar", "bar": 1, "note": "soft"}),
    )
    bo.delete()
    line = Arrangement.objects.get().edits.get()
    assert line.author is None
    assert client.get(f"/api/songs/{heard['id']}/decisions").status_code == 200
