"""Practising through the API: stages of some bars, what was played in."""

from __future__ import annotations

from datetime import timedelta
from pathlib import Path

import pytest
import soundfile as sf
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.utils import timezone
from rest_framework.test import APIClient

from orchesis.sounding.render import RATE, render
from orchesis.teaching import stages
from orchesis.teaching.simulated import Habits, perform


@pytest.fixture
def call(client, heard):
    def ask(method, path, body=None, status=200):
        address = f"/api/songs/{heard['id']}/{path}"
        answer = getattr(client, method)(address, body, format="json")
        assert answer.status_code == status, answer.content
        return answer.json()

    return ask


def test_stages_stand_on_the_songs_own_bars(call):
    told = call("get", "stages?first=2&last=3")
    made = told["stages"]
    assert made[-1]["title"] == "All of it" and len(made) >= 3
    assert {s["bar"] for s in made[-1]["strokes"]} == {2, 3}
    assert all(s["rungs"] == sorted(s["rungs"]) and s["says"] for s in made)
    assert told["hardest"][0] in (2, 3)
    other = call("get", "stages?first=2&last=3&order=skeleton")
    assert other["stages"][0]["title"] == "Kick and backbeat"


def test_what_is_no_stretch_is_told_in_one_sentence(call):
    for query in ("first=3&last=2", "first=1&last=99"):
        assert call("get", f"stages?{query}", status=400)["detail"]
    assert "mountain" in call("get", "stages?first=2&last=3&order=mountain", status=422)["detail"]


def test_what_was_played_in_is_judged(call, heard):
    from transcription.models import Arrangement

    score = Arrangement.objects.get().score
    part = stages.plan(score, [2, 3])[-1].score
    played = perform(part, Habits(late={"RF": 40.0}), loops=4)
    body = {
        "first": 2,
        "last": 3,
        "played": [{"time": p.time, "part": p.part, "loudness": p.loudness} for p in played],
    }
    told = call("post", "judge", body)
    assert told["limbs"]["RF"]["offset_ms"] == pytest.approx(40, abs=4)
    assert "right foot" in told["advice"]
    assert call("post", "judge", {**body, "played": []}, 422)["detail"] == "Nothing was played in."


def _loop(call, how="relaxed", stage=0, **more):
    body = {"first": 2, "last": 3, "stage": stage, "judgement": how, "seconds": 30.0, "tempo": 70.0}
    return call("post", "loops", {**body, **more})


def test_loops_climb_the_ladder_and_stand_in_the_log(call, client):
    rungs = call("get", "stages?first=2&last=3")["stages"][0]["rungs"]
    for n in range(3):
        assert _loop(call)["rung"]["clean"] == (n + 1) % 3
    stage = call("get", "stages?first=2&last=3")["stages"][0]
    assert stage["rung"] == {"tempo": rungs[1], "clean": 0, "is_learned": False}
    assert _loop(call, "not yet")["rung"]["tempo"] == rungs[0]
    told = client.get("/api/practice").json()
    assert told["today"]["loops"] == 4 and told["today"]["minutes"] == pytest.approx(2.0)
    [passage] = told["passages"]
    assert (passage["first"], passage["learned"]) == (2, 0)
    blocks = client.get("/api/practice/plan?minutes=25").json()["blocks"]
    assert sum(b["minutes"] for b in blocks) <= 25.1
    assert any(b["song"] == passage["song"] for b in blocks)


def test_a_ladder_falls_back_where_a_stage_was_left(call):
    from practice.models import Loop

    for _ in range(6):
        _loop(call)
    before = call("get", "stages?first=2&last=3")["stages"][0]["rung"]["tempo"]
    Loop.objects.update(at=timezone.now() - timedelta(days=5))
    assert call("get", "stages?first=2&last=3")["stages"][0]["rung"]["tempo"] < before


def test_ears_are_counted_by_the_rule_that_was_chosen(call, client):
    care = {"level": 110.0, "protection": 0.0, "rule": "85/3", "minutes": 40}
    assert client.put("/api/practice", care, format="json").json()["care"] == care
    _loop(call, seconds=600.0)
    today = client.get("/api/practice").json()["today"]
    assert today["ears_minutes_left"] == 0 and "ears" in today["says"][0]
    bad = client.put("/api/practice", {**care, "rule": "loud"}, format="json")
    assert bad.status_code == 400


def test_nobody_sees_anothers_log(call, client, django_user_model):
    _loop(call)
    other = django_user_model.objects.create_user("other", password="pw")
    stranger = APIClient()
    stranger.force_authenticate(other)
    assert stranger.get("/api/practice").json()["passages"] == []
    assert APIClient().get("/api/practice").status_code in (401, 403)


def test_a_simulated_player_is_judged_by_the_same_way_in(call):
    body = {"first": 2, "last": 3, "stage": 99, "loops": 8, "limbs": {"RF": {"late": 30}}}
    played = call("post", "simulate", body)["played"]
    told = call("post", "judge", {"first": 2, "last": 3, "played": played})
    assert told["limbs"]["RF"]["offset_ms"] == pytest.approx(30, abs=3)
    assert told["judgement"] in ("tense", "not yet")
    assert {s["bar"] for s in told["strokes"]} == {2, 3}


def test_a_question_has_its_answer_in_the_song(call):
    told = call("get", "question?seed=3&level=1")
    assert 0 <= told["answer"] < len(told["options"]) and told["end"] > told["start"]
    assert call("get", "question?seed=3&kind=riddle", status=400)["detail"]


def test_a_teacher_changes_the_plan_and_says_a_word(call, client, heard):
    before = call("get", "stages?first=2&last=3")["stages"]
    titles = [s["title"] for s in before]
    body = {
        "first": 2,
        "last": 3,
        "dropped": [titles[1]],
        "stages": [{"title": t} for t in reversed(titles[2:])]
        + [{"title": titles[0], "words": "Low sticks."}],
    }
    answer = client.put(f"/api/songs/{heard['id']}/stages", body, format="json")
    assert answer.status_code == 204
    told = call("get", "stages?first=2&last=3")
    assert [s["title"] for s in told["stages"]] == [*reversed(titles[2:]), titles[0]]
    assert told["stages"][-1]["words"] == "Low sticks." and told["dropped"] == [titles[1]]
    assert call(
        "post",
        "loops",
        {"first": 2, "last": 3, "stage": 0, "judgement": "tense", "seconds": 5.0, "tempo": 80.0},
    )["rung"]["tempo"]


def test_a_recording_of_ones_practice_is_heard_and_judged(call, client, heard, tmp_path):
    from jobs import work
    from transcription.models import Arrangement

    part = stages.plan(Arrangement.objects.get().score.played(), [2, 3])[-1].score
    played = perform(part, Habits(late={"RF": 25.0}), loops=6)
    sound = render([(p.time + 0.8, p.part, p.loudness) for p in played], played[-1].time + 2)
    sf.write(tmp_path / "mine.flac", sound / abs(sound).max() * 0.8, RATE)
    asked = {"first": 2, "last": 3, "order": "computed", "stage": 99, "share": 1.0}
    with (tmp_path / "mine.flac").open("rb") as file:
        answer = client.post(
            f"/api/songs/{heard['id']}/practised-sounds",
            {**asked, "file": file},
            format="multipart",
        )
    assert answer.status_code == 200, answer.content
    work.work(answer.json()["job"]["id"])
    told = client.get(f"/api/practised-sounds/{answer.json()['id']}").json()
    limbs = told["judged"]["limbs"]
    assert limbs["RF"]["offset_ms"] - limbs["RH"]["offset_ms"] == pytest.approx(25, abs=6)
    assert told["factor"] == pytest.approx(1, abs=0.01)


def test_a_stage_is_shown_as_notes_and_the_plan_goes_on_paper(call, client, heard):
    svg = call("get", "stages/staff?first=2&last=3&stage=1")["svg"]
    assert svg.startswith("<svg") and 'id="bar-' in svg
    answer = client.get(f"/api/songs/{heard['id']}/stages/sheet?first=2&last=3&order=skeleton")
    assert answer.status_code == 200 and answer.content.startswith(b"%PDF")
    assert "bars 2-3 - practice sheet.pdf" in answer["Content-Disposition"]
    chart = call("get", "chart?view=stages")
    assert any("1.1" in page for page in chart["pages"])


def test_what_is_played_beside_a_stage_is_kept_and_moves_nobody(call):
    first = _loop(call)["rung"]
    assert _loop(call, beside="count")["rung"] == first
    _loop(call, "tense", beside="speak")
    assert call("get", "stages?first=2&last=3")["stages"][0]["checks"] == ["count"]
    body = {"first": 2, "last": 3, "stage": 0, "judgement": "relaxed", "seconds": 2, "tempo": 80}
    assert "dance" in call("post", "loops", {**body, "beside": "dance"}, 400)["detail"]


def test_the_way_up_tells_how_many_days_are_left(call):
    from practice.models import Loop

    for ago, tempo in ((6, 60), (4, 64), (2, 68), (0, 72)):
        _loop(call, tempo=tempo)
        loop = Loop.objects.order_by("-id").first()
        Loop.objects.filter(pk=loop.pk).update(at=timezone.now() - timedelta(days=ago))
    told = call("get", "stages?first=2&last=3")["stages"][0]
    assert [tempo for _, tempo in told["climb"]] == [60, 64, 68, 72]
    assert told["days_left"] == pytest.approx((told["rungs"][-1] - 72) / 2, abs=0.5)


def test_what_is_needed_soon_comes_first_in_the_plan(call, client, heard):
    _loop(call)
    soon = (timezone.localdate() + timedelta(days=3)).isoformat()
    body = {"title": "Term", "kind": "class plan", "due": soon, "items": [{"song": heard["id"]}]}
    assert client.get("/api/practice").json()["passages"][0]["due_in"] is None
    assert client.post("/api/set-lists", body, format="json").status_code == 201
    assert client.get("/api/practice").json()["passages"][0]["due_in"] == 3
    client.patch(
        f"/api/songs/{heard['id']}", {"due": timezone.localdate().isoformat()}, format="json"
    )
    assert client.get("/api/practice").json()["passages"][0]["due_in"] == 0


def test_rhythm_words_are_proposed_said_and_collected(call, client, heard, edit):
    [bar] = call("get", "rhythm-words?first=2&last=2")["bars"]
    assert bar["text"] == "" and bar["proposed"]
    edit(operation="set_spoken", bar=2, text=bar["proposed"])
    [bar] = call("get", "rhythm-words?first=2&last=2")["bars"]
    assert bar["text"] == bar["proposed"] and bar["says"][0]["place"] == "0"
    word = bar["says"][0]["word"]
    sound = client.get(f"/api/spoken-words/{word}")
    assert sound["Content-Type"] == "audio/wav" and sound.content[:4] == b"RIFF"
    assert client.get("/api/spoken-words/42").status_code == 404
    own = {"words": ["LIGHT-house", "LIGHT-house"]}
    assert client.put("/api/my-words", own, format="json").json() == {"words": ["LIGHT-house"]}
    assert call("get", "rhythm-words?first=2&last=2")["mine"] == ["LIGHT-house"]
    assert "42" in client.put("/api/my-words", {"words": ["42"]}, format="json").json()["detail"]
    assert 'class="spoken"' in call("get", "chart?view=full")["pages"][0]


def test_a_player_hears_the_words_of_the_teachers_own_counting_and_no_others(call, client):
    own = {"player": {}, "counting": "own ti & ta la li", "reads": "staff", "note_names": "letters"}
    assert client.put("/api/kit-of-mine", own, format="json").status_code == 200
    where = [{"first": 2, "last": 3, "order": "computed"}]
    lesson = {"title": "L", "passages": where, "with_recording": False}
    link = call("post", "player-links", lesson)
    player = f"/api/player/{link['address'].rsplit('/', 1)[-1]}"
    nobody = APIClient()
    assert nobody.get(player).json()["counting"] == own["counting"]
    said = nobody.get(f"{player}/words/ti")
    assert said["Content-Type"] == "audio/wav" and said.content[:4] == b"RIFF"
    assert nobody.get(f"{player}/words/anything").status_code == 404
    assert nobody.get("/api/spoken-words/ti").status_code in (401, 403)
    assert client.delete(f"/api/player-links/{link['id']}").status_code == 204
    assert nobody.get(f"{player}/words/ti").status_code == 404


def _clip(name="how.webm", content=b"\x1a\x45\xdf\xa3 webm V_VP8 and more"):
    return SimpleUploadedFile(name, content)


def test_a_teacher_attaches_a_clip_that_the_lesson_gives_on(call, client, heard, settings):
    where = {"first": 2, "last": 3, "order": "computed"}
    title = call("get", "stages?first=2&last=3")["stages"][0]["title"]
    address = f"/api/songs/{heard['id']}/clips"
    made = client.post(address, {**where, "stage": title, "file": _clip()}).json()
    assert made["kind"] == "video/webm" and made["name"] == "how.webm"
    assert call("get", "stages?first=2&last=3")["stages"][0]["clips"] == [made]
    lesson = {"title": "L", "passages": [where], "with_recording": False}
    token = call("post", "player-links", lesson)["address"].rsplit("/", 1)[-1]
    other = call("post", "player-links", {"title": "M", "passages": [{**where, "last": 2}]})
    with_it, nobody = f"/api/player/{token}", APIClient()
    given = nobody.get(with_it).json()["passages"][0]["stages"][0]["clips"]
    assert [c["id"] for c in given] == [made["id"]]
    seen = nobody.get(f"{with_it}/clips/{made['id']}")
    assert seen["Content-Type"] == "video/webm" and b"".join(seen.streaming_content)
    elsewhere = f"/api/player/{other['address'].rsplit('/', 1)[-1]}/clips/{made['id']}"
    assert nobody.get(elsewhere).status_code == 404
    kept = list(Path(settings.MEDIA_ROOT).rglob("clips/*/*"))
    assert len(kept) == 1
    with TestCase.captureOnCommitCallbacks(execute=True):
        assert client.delete(f"/api/clips/{made['id']}").status_code == 204
    assert not kept[0].exists()


@pytest.mark.parametrize(
    ("content", "kind"),
    [
        (b"OggS and sound", "audio/ogg"),
        (b"\x00\x00\x00\x18ftypisom vide", "video/mp4"),
        (b"\x00\x00\x00\x18ftypM4A soun", "audio/mp4"),
        (b"\x1a\x45\xdf\xa3 A_OPUS", "audio/webm"),
    ],
)
def test_a_clip_is_what_it_holds(call, client, heard, content, kind):
    body = {
        "first": 2,
        "last": 3,
        "order": "computed",
        "stage": "x",
        "file": _clip("a.exe", content),
    }
    made = client.post(f"/api/songs/{heard['id']}/clips", body).json()
    assert made["kind"] == kind
    bad = {**body, "file": _clip("a.webm", b"<script>alert(1)</script>")}
    refused = client.post(f"/api/songs/{heard['id']}/clips", bad)
    assert refused.status_code == 422 and "WebM" in refused.json()["detail"]


def test_clips_count_for_what_an_account_may_keep(client, heard, settings):
    settings.QUOTA_MB = 0
    body = {"first": 2, "last": 3, "order": "computed", "stage": "x", "file": _clip()}
    refused = client.post(f"/api/songs/{heard['id']}/clips", body)
    assert refused.status_code >= 400 and "MB" in refused.json()["detail"]


def test_stages_are_counted_as_their_reader_counts(call, client):
    own = {"player": {}, "counting": "numbers", "reads": "staff", "note_names": "letters"}
    lettered = call("get", "stages/staff?first=2&last=3")["svg"]
    client.put("/api/kit-of-mine", own, format="json")
    numbered = call("get", "stages/staff?first=2&last=3")["svg"]
    assert ">&amp;</text>" in lettered and ">&amp;</text>" not in numbered
