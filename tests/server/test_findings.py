"""Groove book, fills, feel, search, other takes, decisions, kept fills through the API."""

from __future__ import annotations

import io

import pytest
import soundfile as sf
from jobs import work
from library.models import Song, Take
from transcription.models import Arrangement, KeptFill

from tests import songs
from tests.server.conftest import sound_file


@pytest.fixture
def get(client, heard):
    def ask(path, status=200):
        answer = client.get(f"/api/songs/{heard['id']}/{path}")
        assert answer.status_code == status, answer.content
        return answer.json()

    return ask


@pytest.fixture
def edit(client, heard):
    def send(operation, **args):
        answer = client.post(
            f"/api/songs/{heard['id']}/transcription/edits",
            {"base": Arrangement.objects.get().version, "edit": {"operation": operation, **args}},
            format="json",
        )
        assert answer.status_code == 200, answer.content
        return answer.json()

    return send


def test_the_groove_book_tells_cores_and_follows_the_edits(get, edit):
    book = get("grooves")
    assert book["threshold"] == 0.75
    first = book["grooves"][0]
    assert {"hat_closed", "snare", "kick"} <= {s["part"] for s in first["core"]}
    for bar in range(1, 8):
        edit("add_stroke", id=f"c{bar}", bar=bar, place="1/2", part="cowbell", limb="LH")
    again = get("grooves")
    assert again["version"] > book["version"]
    assert "cowbell" in {s["part"] for s in again["grooves"][0]["core"]}


def test_the_passages_that_tell_the_song_and_other_songs_with_its_groove(get, client, heard):
    book = get("grooves")
    best = book["passages"][0]
    assert best["share"] >= 0.5 and len(best["covers"]) > best["bars"]
    assert best["says"].startswith("tells bars")
    told = get("elsewhere")
    assert told["version"] == book["version"] and told["elsewhere"] == []  # no other song
    copy = Arrangement.objects.get()
    other = Song.objects.create(owner=copy.song.owner, title="The Same Again")
    score = copy.score
    again = Take.objects.create(song=other, name="again.wav")
    Arrangement.start(again, score)
    told = get("elsewhere")["elsewhere"]
    assert {(e["title"], e["song"]) for e in told} == {("The Same Again", other.pk)}
    assert told[0]["groove"] == 0 and told[0]["bars"] >= 2


def test_the_bass_is_told_of_some_bars_and_becomes_their_cue(get, edit, monkeypatch):
    monkeypatch.setattr(
        "library.sound.bass_notes",
        lambda take, start, end: [(start + 0.32, 33), (start + 1.32, 36)],
    )
    told = get("bass?first=2&last=3")
    assert [n["bar"] for n in told["notes"]] == [2, 2] and told["of_bass"] == 2
    assert told["says"][0].startswith("The kick is on") and told["cues"][0]["bar"] == 2
    assert get("bass?first=3&last=2", 400)["detail"].startswith("The bass is told of 1 to 16")
    edit("set_cues", cues=told["cues"])
    assert set(Arrangement.objects.get().score.cues) == {2}


def test_who_plays_is_set_and_what_cannot_be_played_is_told(get, edit):
    before = get("hands")
    assert (before["version"], before["unplayable"], before["chosen"]) == (0, [], 0)
    edit("set_player", hand="left")
    score = Arrangement.objects.get().score
    assert score.player.hand == "left"
    assert {s.limb for s in score.strokes.values() if s.part == "hat_closed"} == {"LH"}
    assert {s.limb for s in score.strokes.values() if s.part == "kick"} == {"LF"}
    for part in ("tom_floor", "cowbell"):
        edit("add_stroke", id=part, bar=2, place="1", part=part, limb="RH")
    told = get("hands")
    assert told["chosen"] == 2 and told["unplayable"]
    assert {u["reason"] for u in told["unplayable"]} == {"third hand"}
    assert "in bar 2" in told["unplayable"][0]["says"]


def test_what_is_said_of_a_fill_and_a_groove_is_kept_and_taken_back(get, edit, client, heard):
    meter = {"last_bar": 2, "end": "4"}
    edit("mark_fill", bar=2, place="2", **meter)
    told = get("fills")
    marked = [f for f in told["fills"] if f["marked"]]
    assert [(f["bar"], f["place"]) for f in marked] == [(2, "2")] and told["denied"] == []
    edit("deny_fill", bar=2, place="2", **meter)
    told = get("fills")
    assert [(d["bar"], d["end_place"]) for d in told["denied"]] == [(2, "4")]
    assert not any(f["bar"] == 2 for f in told["fills"])
    section = get("grooves")["grooves"][0]["section"]
    result = edit("judge_groove", id=section, name="Home", kind="vocabulary")
    assert result["undoes"].startswith("groove judged")
    first = get("grooves")["grooves"][0]
    assert (first["name"], first["kind"], first["said"]) == ("Home", "vocabulary", ["name", "kind"])
    version = Arrangement.objects.get().version
    client.post(f"/api/songs/{heard['id']}/transcription/undo", {"base": version}, format="json")
    assert get("grooves")["grooves"][0]["name"] == ""


def test_the_sounds_are_told_named_and_taken_back(get, edit, client, heard):
    before = get("sounds")["sounds"]
    assert [s["written"] for s in before] == sorted((s["written"] for s in before), reverse=True)
    hats = next(s for s in before if s["part"] == "hat_closed")
    assert len(hats["picture"]) == 144 and len(hats["examples"]) == 5 and hats["sure"] > 0.7
    result = edit("name_sound", sound=hats["number"], part="ride")
    changed = [s for p in result["patches"] for s in (p.get("strokes") or {}).values()]
    assert changed and {s["part"] for s in changed} == {"ride"}
    assert result["undoes"].startswith("sound named")
    named = next(s for s in get("sounds")["sounds"] if s["number"] == hats["number"])
    assert (named["part"], named["answer"], named["says"]) == ("ride", "named", "named by you")
    undone = client.post(
        f"/api/songs/{heard['id']}/transcription/undo", {"base": result["version"]}, format="json"
    )
    assert undone.status_code == 200
    assert get("sounds")["sounds"] == before


def test_the_threshold_is_asked_for_and_bounded(get):
    assert get("grooves?threshold=1")["threshold"] == 1.0
    for wrong in ("2", "0.1", "much"):
        assert "from 0.3 to 1" in get(f"grooves?threshold={wrong}", 400)["detail"]


def test_fills_are_told_with_their_times(get):
    [fill] = get("fills")["fills"]
    assert fill["bar"] == 8 and fill["start"] < fill["end"]
    assert fill["subdivisions"] == ["16th"] and "resolves" in fill


def test_the_feel_is_told_with_the_moves_of_every_stroke(get):
    told = get("feel")
    assert next(f["section"] for f in told["feels"]) == ""
    assert any("straight" in s for s in told["feels"][0]["says"])
    strokes = Arrangement.objects.get().document["strokes"]
    assert set(told["shifts"]) == {s["id"] for s in strokes}


def test_a_figure_is_searched_on_the_whole_shelf(client, get):
    found = get("search?bar=3&scope=kick")["matches"]
    assert found and all(m["title"] == "Plain Rock" for m in found)
    assert found[0]["how"] == "same" and found[0]["bar"] != 3
    assert get("search?bar=3&scope=kick%20and%20snare&first=0&length=2&over=song")["matches"]


@pytest.mark.parametrize(
    ("query", "status", "words"),
    [
        ("bar=x&scope=kick", 400, "Name a bar"),
        ("bar=99&scope=kick", 422, "no bar 99"),
        ("bar=3&scope=nose", 422, "can't be searched"),
        ("bar=3&scope=kick&first=-1", 400, "Name a bar"),
        ("bar=3&scope=kick&length=0", 400, "has a length"),
        ("bar=3&scope=kick&length=1/0", 400, "Name a bar"),
    ],
)
def test_a_search_that_cannot_be_made_is_told(get, query, status, words):
    assert words in get(f"search?{query}", status)["detail"]


def test_a_fill_is_kept_once_and_outlives_its_song(client, heard, get):
    made = client.post("/api/kept-fills", {"song": heard["id"], "fill": 0}, format="json")
    assert made.status_code == 201
    kept = made.json()
    assert kept["bar"] == 8 and kept["document"]["strokes"][0]["bar"] == 1
    twice = client.post("/api/kept-fills", {"song": heard["id"], "fill": 0}, format="json")
    assert (twice.status_code, twice.json()["id"]) == (200, kept["id"])
    noted = client.patch(f"/api/kept-fills/{kept['id']}", {"note": "into a chorus"}, format="json")
    assert noted.json()["note"] == "into a chorus"
    client.delete(f"/api/songs/{heard['id']}")
    left = client.get("/api/kept-fills").json()["fills"]
    assert [(k["id"], k["song"]) for k in left] == [(kept["id"], None)]
    assert client.delete(f"/api/kept-fills/{kept['id']}").status_code == 204
    assert not KeptFill.objects.exists()


def test_a_fill_that_is_not_there_cannot_be_kept(client, heard):
    answer = client.post("/api/kept-fills", {"song": heard["id"], "fill": 7}, format="json")
    assert answer.status_code == 404 and "no such fill" in answer.json()["detail"]


def test_another_users_kept_fills_are_not_seen(client, heard, django_user_model):
    from rest_framework.test import APIClient

    kept = client.post("/api/kept-fills", {"song": heard["id"], "fill": 0}, format="json").json()
    other = APIClient()
    other.force_authenticate(django_user_model.objects.create_user("else"))
    assert other.get("/api/kept-fills").json()["fills"] == []
    assert other.delete(f"/api/kept-fills/{kept['id']}").status_code == 404


def test_decisions_carry_reason_who_and_when_and_print_as_footnotes(client, heard, get, edit):
    stroke = next(s for s in Arrangement.objects.get().document["strokes"] if s["bar"] == 3)
    edit("set_doubt", id=stroke["id"], doubt="assumed", reason="the bass hides it")
    [told] = get("decisions")["decisions"]
    assert (told["who"], told["reason"], told["bars"]) == ("rim", "the bass hides it", [3])
    assert told["when"][:2] == "20"
    plain, noted = get("chart"), get("chart?footnotes=1")
    assert plain["decisions"] == noted["decisions"] == [told["says"]]
    assert "the bass hides it" not in "".join(plain["pages"])
    assert "the bass hides it" in "".join(noted["pages"])
    page = client.get(f"/api/songs/{heard['id']}/chart.pdf?footnotes=1")
    assert page.content[:4] == b"%PDF"


def test_another_take_is_evidence(client, heard, get, django_capture_on_commit_callbacks):
    out = io.BytesIO()
    live = songs.drums(songs.ROCK.replace("2.> 4.>", "2.>").replace("100", "104"), lead_in=1.0)
    sf.write(out, live.astype("float32"), songs.RATE, format="FLAC", subtype="PCM_16")
    with django_capture_on_commit_callbacks(execute=True):
        done = client.post(
            f"/api/songs/{heard['id']}/takes", {"file": sound_file(out.getvalue(), "live.flac")}
        )
    work.work(done.json()["job"]["id"])
    told = get("evidence")
    assert told["takes"] == ["live.flac"]
    backbeat = next(t for t in told["tallies"] if t["part"] == "snare" and t["place"] == "3")
    assert backbeat["there"][0]["count"] <= 2 < backbeat["here"]
    assert "in live.flac" in backbeat["says"]
    take = done.json()["id"]
    compared = get(f"transcription/compare?bar=3&with=take{take}")
    assert any("snare on 4" in s for s in compared["says"])
    assert get("transcription/compare?bar=3&with=take9999", 404)


def test_findings_of_a_song_that_was_not_heard_are_not_there(client, song):
    for path in ("grooves", "fills", "feel", "evidence", "decisions", "search?bar=1&scope=kick"):
        assert client.get(f"/api/songs/{song['id']}/{path}").status_code == 404


def test_the_spectra_of_equal_strokes_are_alike(client, heard):
    from library import sound
    from library.models import Take

    take = Take.objects.get()
    strokes = Arrangement.objects.get().document["strokes"]
    times = {
        part: [s["measured"]["time"] for s in strokes if s["part"] == part and s["bar"] in (3, 5)]
        for part in ("kick", "snare")
    }
    same = sound.alikeness(take, list(zip(times["snare"], times["snare"][1:], strict=False)))
    other = sound.alikeness(take, list(zip(times["snare"], times["kick"], strict=False)))
    assert same > 0.8 > other
    assert sound.alikeness(take, []) is None


def test_the_shelf_counts_the_doubts_that_the_review_asks(client, heard, get, edit):
    def told():
        return client.get(f"/api/songs/{heard['id']}").json()["doubts"]

    first = get("transcription/review")["doubts"]
    assert told() == len(first) > 0
    stroke = get("transcription")["score"]["strokes"][0]["id"]
    edit("set_doubt", id=stroke, doubt="doubtful")
    marked = get("transcription/review")["doubts"]
    assert told() == len(marked) == len(first) + 1
    assert [d["strokes"] for d in marked if d["kind"] == "marked"] == [[stroke]]
    edit("set_doubt", id=stroke, doubt="assumed")
    assert told() == len(get("transcription/review")["doubts"]) == len(first)


@pytest.mark.parametrize(
    ("body", "says"),
    [
        ({"song": "x", "fill": 0}, "“x” can't be the “song” of the fill to be kept"),
        ({"song": 1}, "The fill to be kept needs “fill”."),
        ({"song": 1, "fill": 0, "note": "\u0007"}, "can't be printed"),
        ({"song": 1, "fill": -1}, "can't be the “fill”"),
    ],
)
def test_a_fill_that_is_asked_for_badly_is_told_in_one_sentence(client, body, says):
    answer = client.post("/api/kept-fills", body, format="json")
    assert answer.status_code == 400 and says in answer.json()["detail"]
