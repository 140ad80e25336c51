"""Songs as packages, whole accounts as backups: everything comes back, nothing bad comes in."""

from __future__ import annotations

import io
import json
import resource
import zipfile

import pytest
from django.contrib.auth.models import User
from django.core.files.storage import default_storage
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import call_command
from django.core.management.base import CommandError
from jobs import work
from library.models import Analysis, Song, StoredFile, Take
from people.models import Group
from practice.models import Loop, PlayerLink
from rest_framework.test import APIClient
from transcription.models import Arrangement, Edit, KeptFill

from orchesis.formats import count_writer


def taken(client, song, query="") -> bytes:
    answer = client.get(f"/api/songs/{song['id']}/package{query}")
    assert answer.status_code == 200, answer
    return b"".join(answer.streaming_content)


def given(client, content: bytes, name="song.orchesis"):
    return client.post("/api/packages", {"file": SimpleUploadedFile(name, content)})


@pytest.fixture
def worked_on(client, heard, edit, step):
    """A song with edits, an undone one, another arrangement, comments, a version, a lesson, loops."""
    at = f"/api/songs/{heard['id']}"
    edit("rename_section", id="sec1", name="Dawn")
    edit("halve_tempo")
    step("undo")
    client.post(f"{at}/arrangements", {"name": "Level 2", "level": 2}, format="json")
    above = client.post(f"{at}/comments", {"words": "A ghost?", "bar": 3}, format="json").json()
    client.post(f"{at}/comments", {"words": "Yes.", "answers": above["id"]}, format="json")
    client.post(f"{at}/history", {"name": "Before the gig"}, format="json")
    client.post(
        f"{at}/player-links",
        {"title": "The verse", "passages": [{"first": 1, "last": 2}]},
        format="json",
    )
    client.post(
        f"{at}/loops",
        {
            "first": 1,
            "last": 2,
            "order": "computed",
            "stage": 0,
            "judgement": "relaxed",
            "tempo": 60.0,
            "seconds": 8.0,
        },
        format="json",
    )
    client.post(
        f"{at}/clips",
        {
            "first": 1,
            "last": 2,
            "order": "computed",
            "stage": "All of it",
            "file": SimpleUploadedFile("so.ogg", b"OggS like so"),
        },
    )
    client.patch(at, {"tags": ["wedding"], "due": "2027-01-02"}, format="json")
    return heard


def everything_of(content: bytes) -> dict:
    """A package as plain data: its documents, and what its files hold."""
    made = {}
    with zipfile.ZipFile(io.BytesIO(content)) as archive:
        for name in archive.namelist():
            data = archive.read(name)
            inner = name.endswith((".orchesis",))
            made[name] = (
                everything_of(data)
                if inner
                else json.loads(data)
                if name.endswith(".json")
                else data
            )
    return made


def test_a_song_comes_back_from_its_package_with_all_it_had(client, worked_on):
    content = taken(client, worked_on, "?sound=1")
    before = everything_of(content)
    [found] = Song.objects.all()
    transcription = client.get(f"/api/songs/{worked_on['id']}/transcription").json()
    client.delete(f"/api/songs/{worked_on['id']}")
    answer = given(client, content)
    assert answer.status_code == 201 and answer.json()["has_part"], answer.content
    assert answer.json()["lost"] == ["the addresses of players' links: give them out anew"]
    again = {"id": answer.json()["song"]}
    after = everything_of(taken(client, again, "?sound=1"))
    for manifest in (before["song.json"], after["song.json"]):
        for part in manifest["arrangements"]:
            part["lessons"] = []  # their addresses are secrets
    assert after == before
    now = client.get(f"/api/songs/{again['id']}/transcription").json()
    assert now["score"] == transcription["score"] and now["hits"] == transcription["hits"]
    assert now["undoes"] == transcription["undoes"] and now["redoes"] == transcription["redoes"]
    undone = client.post(f"/api/songs/{again['id']}/transcription/redo", {"base": 0}, format="json")
    assert undone.status_code == 200  # the log goes on where it was
    take = Take.objects.get(song=again["id"])
    assert client.get(f"/api/takes/{take.pk}/sound/0").status_code == 200
    assert found.title == Song.objects.get(pk=again["id"]).title


def test_the_same_sound_is_kept_once_and_goes_with_its_last_take(
    client, worked_on, django_capture_on_commit_callbacks
):
    content = taken(client, worked_on, "?sound=1")
    names = {f.name for f in StoredFile.objects.all()}
    other = APIClient()
    other.force_authenticate(User.objects.create_user("bo"))
    copy = given(other, content).json()
    assert {f.name for f in StoredFile.objects.all()} == names
    with django_capture_on_commit_callbacks(execute=True):
        client.delete(f"/api/songs/{worked_on['id']}")
        client.post(f"/api/songs/{worked_on['id']}/erase")
    assert all(default_storage.exists(n) for n in names)
    with django_capture_on_commit_callbacks(execute=True):
        other.delete(f"/api/songs/{copy['song']}")
        other.post(f"/api/songs/{copy['song']}/erase")
    assert not any(default_storage.exists(n) for n in names) and not StoredFile.objects.exists()


def test_a_package_without_sound_opens_and_says_what_is_missing(client, worked_on):
    content = taken(client, worked_on)
    assert not any(n.endswith(".flac") for n in everything_of(content))
    client.delete(f"/api/songs/{worked_on['id']}")
    answer = given(client, content).json()
    assert any("without" in what for what in answer["lost"])
    for view in ("transcription", "transcription/review", "chart", "grooves", "fills", "hands"):
        assert client.get(f"/api/songs/{answer['song']}/{view}").status_code == 200, view
    song = client.get(f"/api/songs/{answer['song']}").json()
    assert [t["sounds"] for t in song["takes"]] == [False]


def test_others_only_take_along_what_they_may(client, worked_on):
    group = Group.objects.create(name="The trio")
    people = {name: User.objects.create_user(name) for name in ("editor", "player")}
    group.members.create(user=User.objects.get(username="rim"), role="owner")
    for name, who in people.items():
        group.members.create(user=who, role=name)
    client.patch(f"/api/songs/{worked_on['id']}", {"groups": [group.pk]}, format="json")
    for name, plain, loud in (("editor", 200, 403), ("player", 403, 403)):
        other = APIClient()
        other.force_authenticate(people[name])
        for query, status in (("", plain), ("?sound=1", loud)):
            answer = other.get(f"/api/songs/{worked_on['id']}/package{query}")
            assert answer.status_code == status, (name, query)


@pytest.mark.parametrize("name", ["rock.count", "rock.mid", "rock.musicxml", "rock.tab"])
def test_a_score_of_any_format_is_a_song_on_the_shelf(client, worked_on, name):
    ending = name.split(".")[1]
    content = client.get(f"/api/songs/{worked_on['id']}/chart.{ending}").content
    answer = given(client, content, name)
    assert answer.status_code == 201, answer.content
    at = f"/api/songs/{answer.json()['song']}"
    told = client.get(f"{at}/transcription").json()
    assert len(told["score"]["strokes"]) > 20 and told["duration"] > 5
    assert client.get(f"{at}/chart").status_code == 200
    assert client.get(at).json()["stage"] == "heard"


def changed(content: bytes, **parts) -> bytes:
    out = io.BytesIO()
    with (
        zipfile.ZipFile(io.BytesIO(content)) as old,
        zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as new,
    ):
        for info in old.infolist():
            change = parts.get(info.filename, lambda data: data)
            if change is not None:
                new.writestr(info.filename, change(old.read(info)))
        for name, make in parts.items():
            if name not in old.namelist() and make is not None:
                new.writestr(name, make(b""))
    return out.getvalue()


def manifest(**fields):
    return lambda data: json.dumps({**json.loads(data), **fields}).encode()


def of_first(**fields):
    """Fields of the first arrangement."""

    def change(data):
        whole = json.loads(data)
        whole["arrangements"][0] |= fields
        return json.dumps(whole).encode()

    return change


def lists(_: bytes) -> bytes:
    return b"[" + b"[]," * 7_000_000 + b"[]]"


def bad_packages(content: bytes):
    yield "empty", b"", "empty"
    yield "words", b"words", "no song package"
    yield "cut", content[: len(content) // 2], "no song package"
    yield "way out", changed(content, **{"../../etc/passwd": lambda _: b"x"}), "no name of a part"
    yield "root", changed(content, **{"/etc/passwd": lambda _: b"x"}), "no name of a part"
    yield "no manifest", changed(content, **{"song.json": None}), "missing"
    yield "no json", changed(content, **{"song.json": lambda _: b"{"}), "not JSON"
    yield "deep", changed(content, **{"song.json": lambda _: b"[" * 200_000}), "not JSON"
    yield "other", changed(content, **{"song.json": lambda _: b"[]"}), "no song package"
    yield "newer", changed(content, **{"song.json": manifest(version=2)}), "newer Orchesis"
    yield "no title", changed(content, **{"song.json": manifest(song={"title": ""})}), "title"
    yield "extra", changed(content, **{"song.json": manifest(more=1)}), "no song package"
    yield "no score", changed(content, **{"arrangements/1/score.json": None}), "missing"
    yield "bad score", changed(content, **{"arrangements/1/score.json": lambda _: b"{}"}), "score"
    yield (
        "list score",
        changed(content, **{"arrangements/1/score.json": lambda _: b"[1]"}),
        "no score",
    )
    yield (
        "bomb",
        changed(content, **{"arrangements/1/score.json": lambda _: b" " * (70 * 2**20)}),
        "bigger",
    )
    yield "stranger", changed(content, **{"notes/1.json": lambda _: b"{}"}), "no place"
    yield (
        "one score, two places",
        changed(content, **{"song.json": of_first(start="arrangements/1/score.json")}),
        "two places",
    )
    # Half a megabyte in the zip; as values it took two gigabytes.
    yield "lists", changed(content, **{"takes/1/analysis.json": lists}), "more than a song does"
    yield "lists in song.json", changed(content, **{"song.json": lists}), "more than a song does"
    yield "lists in the log", changed(content, **{"arrangements/1/edits.jsonl": lists}), "more than"
    yield "many", changed(content, **{f"x/{n}": lambda _: b"" for n in range(2100)}), "2000 parts"


def test_what_is_no_package_is_refused_in_one_sentence_and_leaves_nothing(client, worked_on):
    content = taken(client, worked_on)
    rows = [m.objects.count() for m in (Song, Take, Arrangement, Edit, Analysis, StoredFile)]
    bad_ones = list(bad_packages(content))
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    for name, bad, says in bad_ones:
        answer = given(client, bad)
        assert answer.status_code in (400, 422), (name, answer.content)
        assert says in answer.json()["detail"], (name, answer.json())
        grown = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before
        assert grown < 200_000, (name, f"{grown / 1000:.0f} MB more, which all others' work needs")
        assert [
            m.objects.count() for m in (Song, Take, Arrangement, Edit, Analysis, StoredFile)
        ] == rows, name


def damaged_logs(content: bytes):
    log = "arrangements/1/edits.jsonl"
    yield "gap", changed(content, **{log: lambda d: d.split(b"\n", 1)[1]})
    # A number that would be a list of two thousand million made the machine run out of memory.
    yield "huge version", changed(content, **{"song.json": of_first(version=2**31 - 1)})
    yield "no lines", changed(content, **{log: lambda _: b"[]\n"})
    yield "no JSON", changed(content, **{log: lambda d: d[:-20]})
    yield "leads elsewhere", changed(content, **{log: lambda d: d.replace(b'"snare"', b'"kick"')})


def test_a_song_with_a_damaged_history_is_kept_without_it(client, worked_on):
    content = taken(client, worked_on)
    part = client.get(f"/api/songs/{worked_on['id']}/transcription").json()["score"]
    for name, damaged in damaged_logs(content):
        answer = given(client, damaged)
        assert answer.status_code == 201, (name, answer.content)
        lost = " ".join(answer.json()["lost"])
        assert "the history of “As recorded”: it is damaged" in lost, (name, lost)
        at = f"/api/songs/{answer.json()['song']}/transcription"
        again = client.get(at).json()
        assert again["score"]["strokes"] == part["strokes"], name
        assert again["version"] == 0 and again["undoes"] == "", name
        undone = client.post(f"{at}/undo", {"base": 0}, format="json")
        assert undone.status_code == 409, (name, undone.content)


def test_a_damaged_recording_is_refused_and_leaves_no_file(
    client, worked_on, settings, django_capture_on_commit_callbacks
):
    content = taken(client, worked_on, "?sound=1")
    with django_capture_on_commit_callbacks(execute=True):
        client.delete(f"/api/songs/{worked_on['id']}")
        client.post(f"/api/songs/{worked_on['id']}/erase")
    # The last of its recordings is damaged; those before it are kept, and have to go again.
    last = [n for n in everything_of(content) if n.endswith(".flac")][-1]
    answer = given(client, changed(content, **{last: lambda d: d[:-1] + b"x"}))
    assert answer.status_code == 422 and "damaged" in answer.json()["detail"]
    assert not Take.objects.exists() and not StoredFile.objects.exists()
    assert [p for p in settings.MEDIA_ROOT.rglob("*") if p.is_file()] == []
    assert given(client, content).status_code == 201


def test_a_recording_needs_room(client, worked_on, settings):
    content = taken(client, worked_on, "?sound=1")
    settings.QUOTA_MB = 1
    answer = given(client, content)
    assert answer.status_code == 413 and "Empty the bin" in answer.json()["detail"]
    told = client.get("/api/account").json()
    assert told["most"] == 1 and told["used"] > 0 and told["songs"] == 1


# -- a whole account


def test_an_account_comes_back_into_an_empty_system(
    client, user, worked_on, tmp_path, django_user_model
):
    client.put("/api/request-form", {"title": "What next?"}, format="json")
    client.put(
        "/api/practice",
        {"level": 95.0, "protection": 20.0, "rule": "85/3", "minutes": 30},
        format="json",
    )
    gone = client.post("/api/songs", {"title": "In the bin"}, format="json").json()
    client.delete(f"/api/songs/{gone['id']}")
    link = PlayerLink.objects.get()
    client.post(
        "/api/set-lists",
        {
            "title": "Friday",
            "items": [{"song": worked_on["id"]}, {"song": worked_on["id"], "lesson": link.pk}],
        },
        format="json",
    )
    KeptFill.objects.create(owner=user, title="A fill", bar=4, tempo=92.0, document={"strokes": []})
    first, second = tmp_path / "one", tmp_path / "two"
    call_command("backup", "rim", str(first))
    with pytest.raises(CommandError, match="holds songs already"):
        call_command("restore", str(first))
    assert client.post("/api/account/end", {"password": "x"}, format="json").status_code == 403
    assert client.post("/api/account/end", {"password": "shot"}, format="json").status_code == 204
    for model in (django_user_model, Song, Take, Arrangement, Edit, Loop, PlayerLink, KeptFill):
        assert not model.objects.exists(), model
    call_command("restore", str(first))
    call_command("backup", "rim", str(second))
    before, after = everything_of(first.read_bytes()), everything_of(second.read_bytes())
    assert after == before
    assert len(before["account.json"]["songs"]) == 2 and before["account.json"]["songs"][0]["loops"]
    assert PlayerLink.objects.get().token == link.token
    assert APIClient().get(f"/api/player/{link.token}").status_code == 200


def test_a_backup_is_made_by_a_worker_and_fetched(client, worked_on):
    assert client.get("/api/account/backup").status_code == 404
    told = client.post("/api/account/backup").json()
    assert (
        told["job"]["state"] == "queued" and client.post("/api/account/backup").status_code == 409
    )
    work.work(told["job"]["id"])
    told = client.get("/api/account").json()
    assert told["backup_ready"] and told["job"]["state"] == "done"
    content = b"".join(client.get("/api/account/backup").streaming_content)
    assert "account.json" in everything_of(content)


def test_what_is_no_backup_is_refused(db, tmp_path):
    for content in (b"", b"words"):
        (tmp_path / "x").write_bytes(content)
        with pytest.raises(CommandError, match="no backup"):
            call_command("restore", str(tmp_path / "x"))
    with zipfile.ZipFile(tmp_path / "y", "w") as archive:
        archive.writestr("account.json", "[]")
    with pytest.raises(CommandError, match="no backup"):
        call_command("restore", str(tmp_path / "y"))


def test_a_package_is_a_score_in_the_shell_too(client, worked_on, tmp_path):
    from orchesis.cli import main

    (tmp_path / "song.orchesis").write_bytes(taken(client, worked_on))
    assert main(["convert", str(tmp_path / "song.orchesis"), str(tmp_path / "song.count")]) == 0
    score = Arrangement.objects.get(name=Arrangement.RECORDED).score
    assert (tmp_path / "song.count").read_text() == count_writer.whole(score.played())


def test_a_full_disk_keeps_nothing_half(client, song, rock_bytes, monkeypatch):
    import errno

    from tests.server.conftest import sound_file

    def full(*_args, **_more):
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(default_storage, "save", full)
    answer = client.post(f"/api/songs/{song['id']}/takes", {"file": sound_file(rock_bytes)})
    assert answer.status_code == 507 and "free some space" in answer.json()["detail"]
    assert not Take.objects.exists() and not StoredFile.objects.exists()
    monkeypatch.undo()
    again = client.post(f"/api/songs/{song['id']}/takes", {"file": sound_file(rock_bytes)})
    assert again.status_code == 201


@pytest.fixture
def far_store(settings):
    """A store without a folder on this machine, as an object store is."""
    settings.STORAGES = {
        **settings.STORAGES,
        "default": {"BACKEND": "django.core.files.storage.InMemoryStorage"},
    }


def test_nothing_needs_the_store_to_be_a_folder(far_store, client, worked_on, settings):
    [take] = Take.objects.all()
    assert client.get(f"/api/takes/{take.pk}/sound/0").status_code == 200
    assert client.get(f"/api/songs/{worked_on['id']}/transcription/band?bar=2").status_code == 200
    content = taken(client, worked_on, "?sound=1")
    client.delete(f"/api/songs/{worked_on['id']}")
    client.post(f"/api/songs/{worked_on['id']}/erase")
    assert given(client, content).status_code == 201
    told = client.post("/api/account/backup").json()
    work.work(told["job"]["id"])
    assert client.get("/api/account").json()["backup_ready"]
    assert not list(settings.MEDIA_ROOT.rglob("*"))  # nothing went to a folder after all
