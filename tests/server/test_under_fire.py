"""What a careless or ill-willed client sends, and what it is told."""

from __future__ import annotations

import json
import time
from datetime import timedelta

import pytest
from config.newest import NewestKept
from django.core.management import CommandError, call_command
from django.test import Client
from django.utils import timezone
from jobs import queue, work
from jobs.models import Job
from library.models import Take
from transcription import findings, hearing, models
from transcription.models import Arrangement, Edit

from orchesis.errors import BadScore
from tests.server.conftest import sound_file


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


def raw(client, path: str, body: bytes):
    return client.post(path, body, content_type="application/json")


# -- numbers, words and depth at the door

LONG = "9" * 400
QUERIES = [
    "search?bar=3&scope=kick&first=1e12000000",
    f"search?bar=3&scope=kick&first={LONG}",
    f"search?bar={LONG}&scope=kick",
    "search?bar=²&scope=kick",
    "search?bar=3&scope=kick&length=1e-12000000",
    f"grooves?threshold={LONG}",
    "grooves?threshold=nan",
    "transcription/compare?bar=²&with=1",
    "transcription/compare?bar=1&with=take²",
    f"transcription/compare?bar=1&with=take{LONG}",
    f"transcription/text?first=1&last={LONG}",
    "transcription/text?first=٣&last=٣",
    f"transcription/band?bar={LONG}",
    "transcription/band?bar=1.5",
]


@pytest.mark.parametrize("query", QUERIES)
def test_a_number_that_costs_or_is_none_is_told_at_once(client, heard, query):
    began = time.process_time()
    answer = client.get(f"/api/songs/{heard['id']}/{query}")
    assert answer.status_code in (400, 422) and answer.json()["detail"]
    assert time.process_time() - began < 2


def test_moments_of_a_picture_are_bounded(client, heard):
    take = heard["takes"][0]["id"]
    for query in (
        f"start={LONG}&end=1",
        "start=nan&end=1",
        "start=-1e300&end=-1e299",
        "start=1&end=inf",
    ):
        answer = client.get(f"/api/takes/{take}/picture?{query}")
        assert answer.status_code == 400 and answer.json()["detail"]


@pytest.mark.parametrize(
    ("body", "says"),
    [
        (b'{"title": ' + b"[" * 100_000 + b"]" * 100_000 + b"}", "nested too deeply"),
        (b'{"title": ' + b"[" * 60 + b"]" * 60 + b"}", "nested too deeply"),
        (b'{"title": "\\ud800"}', "can't be printed (U+D800)"),
        (b'{"title": "Bell \\u0007"}', "can't be printed (U+0007)"),
        (b'{"title": "\\u0000"}', "can't be printed (U+0000)"),
        (b'{"title": ' + b"9" * 400 + b"}", "too many digits"),
        (b'{"title": 1e400}', "not a number"),
        (b'{"title": NaN}', "not a number"),
        (b'{"title": "\xff"}', "not text in UTF-8"),
        (b'{"title": ', "not JSON"),
        (b'{"title": "' + b"x" * 9_000_000 + b'"}', "8 MB at the most"),
    ],
)
def test_a_body_that_costs_or_breaks_too_much_is_refused_in_one_sentence(client, body, says):
    began = time.process_time()
    answer = raw(client, "/api/songs", body)
    assert answer.status_code == 400 and says in answer.json()["detail"]
    assert time.process_time() - began < 2


def test_an_edit_with_signs_nobody_can_print_is_refused(client, heard):
    body = json.dumps(
        {"base": 0, "edit": {"operation": "rename_section", "id": "sec1", "name": "\ud800"}}
    )
    answer = raw(client, f"/api/songs/{heard['id']}/transcription/edits", body.encode())
    assert answer.status_code == 400 and not Edit.objects.exists()


def test_a_title_from_before_with_control_signs_still_prints(client, heard):
    song = Arrangement.objects.get().song
    song.title = "Plain \x0bRock\x07"
    song.save()
    for ending in ("pdf", "musicxml", "mid"):
        assert client.get(f"/api/songs/{heard['id']}/chart.{ending}").status_code == 200
    assert "Plain Rock" in client.get(f"/api/songs/{heard['id']}/chart").json()["pages"][0]


@pytest.mark.parametrize(
    "address", ["nothing", f"songs/{LONG}", f"jobs/{LONG}/retry", "takes/²/sound/0", "songs/²"]
)
def test_an_address_that_leads_nowhere_answers_json(client, address):
    for answer in (client.get(f"/api/{address}"), client.post(f"/api/{address}")):
        assert answer.status_code in (404, 405) and answer.json()["detail"]


def test_a_failure_of_ours_answers_json(client, heard, monkeypatch):
    monkeypatch.setattr(findings, "fill_list", lambda _found: 1 / 0)
    client.raise_request_exception = False
    answer = client.get(f"/api/songs/{heard['id']}/fills")
    assert answer.status_code == 500 and "a reason of ours" in answer.json()["detail"]


# -- edits


def test_no_ornament_is_an_ornament_that_can_be_set(edit):
    stroke = next(iter(Arrangement.objects.get().score.strokes))
    assert edit("set_ornament", id=stroke, ornament="flam").status_code == 200
    assert edit("set_ornament", id=stroke, ornament=None).status_code == 200
    assert Arrangement.objects.get().score.strokes[stroke].ornament is None


def _break_pulse(line, pulse):
    """Makes an edit of the log leave a pulse that stands still, as rounding once did."""
    line.patch["pulse"], line.inverse["pulse"] = [*pulse[:5], pulse[4], *pulse[6:]], pulse
    line.save()
    models._scores._kept.clear()


def test_a_broken_song_does_not_fail_the_shelf_and_is_repaired(client, heard, edit, step, capsys):
    as_heard = Arrangement.objects.get().document
    edit("rename_section", id="sec1", name="Verse")
    edit("note_bar", bar=2, note="soft")
    found = Arrangement.objects.get()
    _break_pulse(found.edits.last(), as_heard["pulse"])
    assert client.get(f"/api/songs/{heard['id']}/transcription").status_code == 422
    [row] = client.get("/api/songs").json()["results"]
    assert "Undo the last change" in row["trouble"] and row["tempo"] is None
    with pytest.raises(CommandError, match="1 songs can't be read"):
        call_command("check_songs")
    call_command("check_songs", "--repair")
    assert "1 edits were taken back" in capsys.readouterr().out
    found = Arrangement.objects.get()
    assert found.score.sections[0].name == "Verse" and not found.score.notes
    assert step("undo").status_code == 200
    assert (
        Arrangement.objects.get().score.sections == type(found.score).from_json(as_heard).sections
    )
    assert client.get("/api/songs").json()["results"][0]["trouble"] == ""


def test_undo_opens_a_broken_song_again(client, heard, edit, step):
    edit("note_bar", bar=2, note="soft")
    found = Arrangement.objects.get()
    _break_pulse(found.edits.last(), found.document["pulse"])
    with pytest.raises(BadScore):
        Arrangement.objects.get().score  # noqa: B018
    assert step("undo").status_code == 200
    assert Arrangement.objects.get().score.notes == {}


def test_a_song_that_can_not_be_repaired_is_told(heard):
    [heard] = Arrangement.objects.get().snapshots.all()
    heard.document["pulse"] = []
    heard.save()
    with pytest.raises(CommandError, match="hear its recording again"):
        call_command("check_songs", "--repair")


# -- two windows


@pytest.mark.parametrize(
    ("first", "second", "named"),
    [
        (("note_bar", {"bar": 3, "note": "a"}), ("note_bar", {"bar": 3, "note": "b"}), "Bar 3"),
        (("set_cue", {"bar": 3, "text": "1"}), ("set_cue", {"bar": 3, "text": "2"}), "Bar 3"),
        (
            ("rename_section", {"id": "sec1", "name": "A"}),
            ("rename_section", {"id": "sec1", "name": "B"}),
            "“A”",
        ),
        (
            ("note_section", {"id": "sec1", "note": "a"}),
            ("note_section", {"id": "sec1", "note": "b"}),
            "“",
        ),
        (
            ("note_sound", {"key": "room", "note": "a"}),
            ("note_sound", {"key": "room", "note": "b"}),
            "sound room",
        ),
        (("shift_one", {"beats": 1}), ("shift_one", {"beats": 1}), "Bars"),
    ],
)
def test_what_two_windows_write_of_one_thing_clashes(edit, first, second, named):
    assert edit(first[0], base=0, **first[1]).status_code == 200
    kept = Arrangement.objects.get().document
    clash = edit(second[0], base=0, **second[1])
    assert clash.status_code == 409 and clash.json()["clash"] is True
    assert named in clash.json()["detail"] and "in another window" in clash.json()["detail"]
    assert Arrangement.objects.get().document == kept


def test_what_two_windows_write_of_different_things_merges(edit):
    edits = [
        ("note_bar", {"bar": 3, "note": "a"}), ("note_bar", {"bar": 4, "note": "b"}),
        ("set_cue", {"bar": 5, "text": "1"}), ("rename_section", {"id": "sec1", "name": "Verse"}),
        ("note_sound", {"key": "room", "note": "dry"}), ("note_sound", {"key": "wires", "note": "off"}),
        ("confirm_bars", {"bar": 1, "last": 4, "confirmed": True}),
        ("confirm_bars", {"bar": 3, "last": 6, "confirmed": True}),
    ]  # fmt: skip
    for name, args in edits:
        assert edit(name, base=0, **args).status_code == 200, name
    document = Arrangement.objects.get().document
    assert document["notes"] == {"3": "a", "4": "b"}
    assert document["sound"] == {"room": "dry", "wires": "off"}
    assert document["confirmed"] == [1, 2, 3, 4, 5, 6]


@pytest.fixture
def mate(client, heard, user, django_user_model, monkeypatch):
    """Another person at the same song, as sharing will allow."""
    from library.models import SongQuerySet
    from rest_framework.test import APIClient

    monkeypatch.setattr(SongQuerySet, "visible_to", lambda self, *_a, **_k: self)
    other = APIClient()
    other.force_authenticate(django_user_model.objects.create_user("bo"))
    return other


def test_everybody_takes_back_their_own_and_is_told_what(edit, step, mate):
    edit("note_bar", bar=3, note="mine")
    theirs = edit("note_bar", by=mate, bar=5, note="theirs").json()
    assert theirs["undoes"] == "note, bar 5"
    answer = step("undo").json()
    assert answer["undoes"] == "" and answer["redoes"] == "note, bar 3"
    assert Arrangement.objects.get().document["notes"] == {"5": "theirs"}
    assert step("undo").status_code == 409
    assert step("redo").status_code == 200
    assert Arrangement.objects.get().document["notes"] == {"3": "mine", "5": "theirs"}
    assert step("undo", by=mate).status_code == 200
    assert Arrangement.objects.get().document["notes"] == {"3": "mine"}


def test_what_somebody_built_on_is_not_taken_away_under_it(edit, step, mate):
    stroke = next(s for s in Arrangement.objects.get().score.strokes_of(3))
    edit("set_dynamic", id=stroke.id, dynamic="accent")
    edit("set_part", by=mate, id=stroke.id, part="cowbell")
    refused = step("undo")
    assert refused.status_code == 409 and "changed again since" in refused.json()["detail"]
    assert Arrangement.objects.get().score.strokes[stroke.id].part == "cowbell"


def test_an_undo_beside_another_ones_section_edit_keeps_both(edit, step, mate):
    edit("rename_section", id="sec1", name="Verse")
    edit("note_section", by=mate, id="sec1", note="soft")
    edit("confirm_bars", bar=1, last=2, confirmed=True)
    edit("confirm_bars", by=mate, bar=2, last=3, confirmed=True)
    assert step("undo").status_code == 200
    assert Arrangement.objects.get().document["confirmed"] == [3]
    assert step("undo").status_code == 200
    section = Arrangement.objects.get().score.sections[0]
    assert section.note == "soft" and section.name != "Verse"


def test_an_edit_whose_answer_was_lost_is_done_once(client, heard, edit):
    def send(what, **more):
        body = {"base": 0, "key": "k1", **more}
        return client.post(f"/api/songs/{heard['id']}/transcription/{what}", body, format="json")

    beats = len(Arrangement.objects.get().score.pulse.times)
    first = send("edits", edit={"operation": "halve_tempo"})
    again = send("edits", edit={"operation": "halve_tempo"})
    assert first.status_code == again.status_code == 200
    assert again.json()["version"] == 1 and again.json()["patches"] == first.json()["patches"]
    assert abs(len(Arrangement.objects.get().score.pulse.times) - beats / 2) <= 2
    for _ in range(2):
        assert send("undo", key="k2").json()["version"] == 2
    assert len(Arrangement.objects.get().score.pulse.times) == beats


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
    import io

    import soundfile as sf
    from django.db import OperationalError

    sound, rate = sf.read(io.BytesIO(rock_bytes))
    out = io.BytesIO()
    sf.write(out, 0.7 * sound[rate // 2 :], rate, format="FLAC", subtype="PCM_16")
    made = client.post(
        f"/api/songs/{heard['id']}/takes", {"file": sound_file(out.getvalue(), "stem.flac")}
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


# -- logging in, and what a browser is told


def test_a_forged_log_in_is_refused(user):
    browser = Client(enforce_csrf_checks=True)
    body = {"name": "rim", "password": "shot"}
    forged = browser.post("/api/session", body, content_type="application/json")
    assert forged.status_code == 403 and "reload it" in forged.json()["detail"]
    browser.get("/")
    token = browser.cookies["csrftoken"].value
    ours = browser.post(
        "/api/session", body, content_type="application/json", headers={"X-CSRFToken": token}
    )
    assert ours.status_code == 200


def test_guessing_a_password_is_slowed_down(user, settings):
    browser = Client()

    def tries(password):
        return browser.post(
            "/api/session", {"name": "rim", "password": password}, content_type="application/json"
        )

    for _ in range(settings.AXES_FAILURE_LIMIT - 1):
        assert tries("x").status_code == 403
    tries("x")
    locked = tries("shot")
    assert locked.status_code == 429 and "try again in 5 minutes" in locked.json()["detail"]
    other = Client(REMOTE_ADDR="127.0.0.9")
    ours = other.post(
        "/api/session", {"name": "rim", "password": "shot"}, content_type="application/json"
    )
    assert ours.status_code == 200, "somebody else's guesses don't lock the owner out elsewhere"


def test_the_page_may_load_nothing_but_itself(client):
    for address in ("/", "/api/session", "/songs/1/bench"):
        policy = client.get(address)["Content-Security-Policy"]
        assert "default-src 'self'" in policy and "frame-ancestors 'none'" in policy
        assert "script-src 'self' blob: 'wasm-unsafe-eval'" in policy


def test_an_upload_is_never_served_as_a_page(client, song):
    take = Take.objects.create(
        song_id=song["id"],
        name="beat.html",
        digest="x",
        sound="x",
        original=sound_file(b"<script>", "beat.html"),
    )
    answer = client.get(f"/api/takes/{take.pk}/original")
    assert answer["Content-Type"] == "application/octet-stream"
    assert answer["Content-Disposition"].startswith("attachment")
    assert answer["X-Content-Type-Options"] == "nosniff"
    answer.close()


@pytest.mark.parametrize("title", ["Ночной трамвай", "夜汽车", 'Ça va "déjà"'])
def test_a_title_in_any_script_names_its_file(client, heard, title):
    from urllib.parse import quote

    client.patch(f"/api/songs/{heard['id']}", {"title": title}, format="json")
    told = client.get(f"/api/songs/{heard['id']}/chart.pdf")["Content-Disposition"]
    plain = title.replace('"', "_")
    assert told == f"attachment; filename*=utf-8''{quote(plain + '.pdf')}"


def test_findings_and_scores_are_kept_by_their_size(heard, monkeypatch):
    found = Arrangement.objects.get()
    kept = NewestKept(100_000)
    monkeypatch.setattr(findings, "_found", kept)
    for n in range(50):
        findings._kept(found, "big", lambda: "x" * 10_000, n)
    assert 90_000 <= kept.size <= 100_000
    assert findings._kept(found, "huge", lambda: "x" * 200_000) == "x" * 200_000
    assert kept.get(("huge", found.pk), found.version) is None
    assert kept.get(("big", found.pk, found.created, 49), found.version) == "x" * 10_000


def test_only_the_newest_version_of_a_song_is_kept():
    kept = NewestKept(10)
    for version in range(20):
        kept.put("song", version, f"v{version}", 4)
    kept.put("other", 1, "o", 4)
    assert kept.size == 8 and kept.get("song", 19) == "v19" and kept.get("song", 18) is None
