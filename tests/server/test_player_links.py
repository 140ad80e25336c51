"""Players' links: open without an account, dead once revoked, silent unless the owner allows it."""

from __future__ import annotations

import io
import zipfile

import pypdf
import pytest
from jobs import work
from rest_framework.test import APIClient

LESSON = {
    "title": "Learn the turn",
    "words": "Slowly first.",
    "passages": [{"first": 2, "last": 3, "order": "limbs", "words": "Mind the kick."}],
}


@pytest.fixture
def anybody():
    return APIClient()


@pytest.fixture
def make(client, heard):
    def made(body=LESSON, status=200):
        answer = client.post(f"/api/songs/{heard['id']}/player-links", body, format="json")
        assert answer.status_code == status, answer.content
        return answer.json()

    return made


def address(link):
    return "/api/player/" + link["address"].split("/")[-1]


def test_a_lesson_is_opened_by_whoever_has_its_address(make, anybody):
    link = make()
    told = anybody.get(address(link)).json()
    assert (told["title"], told["words"], told["sound"]) == (
        "Learn the turn",
        "Slowly first.",
        False,
    )
    [passage] = told["passages"]
    assert passage["words"] == "Mind the kick."
    assert passage["stages"][-1]["title"] == "All of it"
    assert {s["bar"] for s in passage["stages"][-1]["strokes"]} == {2, 3}
    assert told["strokes"] == []  # a lesson holds no more than its passages
    page = anybody.get(f"{address(link)}/pages/1")
    assert page.status_code == 200 and page["Content-Type"] == "image/svg+xml"
    assert anybody.get(f"{address(link)}/pages/99").status_code == 404


def test_a_whole_song_is_learned_section_by_section(make, anybody):
    told = anybody.get(address(make({"title": "All of it"}))).json()
    assert told["strokes"] and told["passages"] and told["pages"] >= 1


def test_the_recording_sounds_only_where_its_owner_lets_it(make, anybody, client, heard):
    [take] = heard["takes"]
    asked = {**LESSON, "with_recording": True}
    refused = client.post(f"/api/songs/{heard['id']}/player-links", asked, format="json")
    assert refused.status_code == 400 and "private study" in refused.json()["detail"]
    client.put(f"/api/takes/{take['id']}/rights", {"rights": "licensed"}, format="json")
    silent, loud = make(), make(asked)
    assert anybody.get(f"{address(silent)}/sound/0").status_code == 404
    piece = anybody.get(f"{address(loud)}/sound/0")
    assert piece.status_code == 200 and piece["Content-Type"] == "audio/flac"
    assert anybody.get(f"{address(loud)}/sound/0?drums=loud").status_code == 404
    client.put(f"/api/takes/{take['id']}/rights", {"rights": "private"}, format="json")
    assert anybody.get(f"{address(loud)}/sound/0").status_code == 404


def test_a_lesson_is_a_sheet_of_excerpts_too(make, client, anybody):
    link = make()
    answer = client.get(f"/api/player-links/{link['id']}/sheet")
    assert answer.status_code == 200 and answer.content.startswith(b"%PDF")
    page = anybody.get(f"{address(link)}/pages/1").content.decode()
    assert "Mind the kick." in page and "bars 2 to 3" in page
    assert anybody.get(f"/api/player-links/{link['id']}/sheet").status_code in (401, 403)


def test_a_revoked_link_is_dead(make, anybody, client):
    link = make()
    assert client.delete(f"/api/player-links/{link['id']}").status_code == 204
    for path in ("", "/pages/1", "/sound/0"):
        answer = anybody.get(address(link) + path)
        assert answer.status_code == 404 and "ask whoever gave it" in answer.json()["detail"]
    assert client.get(f"/api/songs/{1}/player-links").status_code in (200, 404)


def test_a_strangers_links_can_not_be_touched(make, client, django_user_model):
    link = make()
    stranger = APIClient()
    stranger.force_authenticate(django_user_model.objects.create_user("stranger", password="pw"))
    assert stranger.delete(f"/api/player-links/{link['id']}").status_code == 404
    assert stranger.put(f"/api/player-links/{link['id']}", LESSON, format="json").status_code == 404


def test_what_a_player_agrees_to_tell_is_seen_and_can_be_taken_back(make, anybody, client, heard):
    link = make()
    stage = {"title": "The right hand alone", "tempo": 90.0, "goal": 108.0, "is_learned": False}
    body = {"device": "a-random-word", "name": "Ilse", "minutes": 12.5, "stages": [stage]}
    for _ in range(2):  # again: the same player
        assert anybody.post(f"{address(link)}/progress", body, format="json").status_code == 204
    [told] = client.get(f"/api/songs/{heard['id']}/player-links").json()["links"]
    [progress] = told["progress"]
    assert (progress["name"], progress["minutes"]) == ("Ilse", 12.5)
    assert anybody.delete(f"{address(link)}/progress?device=a-random-word").status_code == 204
    [told] = client.get(f"/api/songs/{heard['id']}/player-links").json()["links"]
    assert told["progress"] == []


@pytest.mark.parametrize("bars", [(0, 2), (3, 2), (1, 999)])
def test_a_passage_that_is_none_is_told(make, bars):
    body = {**LESSON, "passages": [{"first": bars[0], "last": bars[1]}]}
    assert make(body, 400)["detail"]


@pytest.fixture
def change(client, heard):
    """One edit of the song; its answer."""

    def made(**edit):
        address = f"/api/songs/{heard['id']}/transcription"
        found = client.get(address).json()
        body = {"edit": edit, "base": found["version"], "key": f"k{found['version']}"}
        answer = client.post(f"{address}/edits", body, format="json")
        assert answer.status_code == 200, answer.content
        return client.get(address).json()["score"]

    return made


def test_a_link_outlives_bars_that_were_emptied(make, anybody, client, heard, change):
    link = make()
    found = client.get(f"/api/songs/{heard['id']}/transcription").json()
    ids = [s["id"] for s in found["score"]["strokes"] if s["bar"] in (2, 3)]
    change(operation="many", edits=[{"operation": "remove_stroke", "id": i} for i in ids])
    assert anybody.get(address(link)).status_code == 200
    client.post(f"/api/player-links/{link['id']}/update")
    assert anybody.get(address(link)).json()["passages"][0]["stages"] == []


def strokes_of(told, bar):
    [passage] = told["passages"]
    return {s["id"] for s in passage["stages"][-1]["strokes"] if s["bar"] == bar}


def test_a_lesson_that_was_given_holds_its_version(make, anybody, client, heard, change):
    link = make()
    before = anybody.get(address(link)).json()
    page = anybody.get(f"{address(link)}/pages/1").content
    gone = sorted(strokes_of(before, 2))[0]
    change(operation="remove_stroke", id=gone)
    assert anybody.get(address(link)).json() == before
    assert anybody.get(f"{address(link)}/pages/1").content == page
    [told] = client.get(f"/api/songs/{heard['id']}/player-links").json()["links"]
    assert told["is_old"] and len(told["changes"]) == 1 and told["changes"][0].startswith("Bar 2: ")
    updated = client.post(f"/api/player-links/{link['id']}/update").json()
    assert not updated["is_old"] and updated["changes"] == []
    after = anybody.get(address(link)).json()
    assert strokes_of(after, 2) == strokes_of(before, 2) - {gone}


def test_passages_follow_their_bars(make, anybody, client, heard, change):
    """Counted in bars half as long, bars 2 and 3 are 3 to 6; students see it when it is updated."""
    link = make()
    before = anybody.get(address(link)).json()
    change(operation="double_tempo")
    [told] = client.get(f"/api/songs/{heard['id']}/player-links").json()["links"]
    assert told["is_old"] and "Bars 2-3 are bars 3-6 now." in told["changes"]
    assert [(p["first"], p["last"]) for p in told["passages"]] == [(3, 6)]
    assert anybody.get(address(link)).json() == before
    assert client.post(f"/api/player-links/{link['id']}/update").status_code == 200
    after = anybody.get(address(link)).json()

    def held(told):
        return {s["id"] for s in told["passages"][0]["stages"][-1]["strokes"]}

    assert len(held(before) & held(after)) >= 0.9 * len(held(before))


def test_a_lesson_is_edited_whole_and_three_passages_are_kept_in_order(make, anybody, client):
    link = make()
    three = [
        {"first": f, "last": f + 1, "order": o, "words": f"Bars {f}"}
        for f, o in ((5, "limbs"), (2, "skeleton"), (7, "computed"))
    ]
    body = {"title": "Three", "words": "In this order.", "passages": three}
    answer = client.put(f"/api/player-links/{link['id']}", body, format="json")
    assert answer.status_code == 200, answer.content
    told = anybody.get(address(link)).json()
    assert [(p["first"], p["order"], p["words"]) for p in told["passages"]] == [
        (p["first"], p["order"], p["words"]) for p in three
    ]


def test_the_printed_lesson_has_its_title_and_the_teachers_words(make, client):
    link = make()
    answer = client.get(f"/api/player-links/{link['id']}/sheet")
    text = "".join(p.extract_text() for p in pypdf.PdfReader(io.BytesIO(answer.content)).pages)
    for said in ("Learn the turn", "Slowly first.", "Mind the kick.", "Plain Rock"):
        assert said in text
    assert 'filename="Plain Rock - Learn the turn.pdf"' in answer["Content-Disposition"]


def test_a_zip_to_play_along_with_is_made_by_a_worker(
    client, heard, django_capture_on_commit_callbacks
):
    wish = {
        "first": 2,
        "last": 3,
        "shares": [0.8],
        "mixes": ["part and click", "drums away"],
        "loops": 2,
    }
    address = f"/api/songs/{heard['id']}/play-alongs"
    asked = client.post(address, wish, format="json").json()
    assert not asked["is_ready"] and asked["job"]["state"] == "queued"
    work.work(asked["job"]["id"])
    [made] = client.get(address).json()["made"]
    assert made["is_ready"] and not made["is_old"] and made["job"]["state"] == "done"
    assert len(made["names"]) == 4
    answer = client.get(f"/api/play-alongs/{made['id']}/file")
    with zipfile.ZipFile(io.BytesIO(b"".join(answer.streaming_content))) as archive:
        assert archive.namelist() == made["names"]
        assert archive.read("Plain Rock - chart.pdf").startswith(b"%PDF")
    assert 'filename="Plain Rock - play along.zip"' in answer["Content-Disposition"]
    assert APIClient().get(f"/api/play-alongs/{made['id']}/file").status_code in (401, 403)


def test_a_zip_that_can_not_be_made_is_told_at_once(client, heard):
    address = f"/api/songs/{heard['id']}/play-alongs"
    bad = client.post(address, {"shares": [0.1]}, format="json")
    assert bad.status_code == 422 and "40%" in bad.json()["detail"]
    assert client.get(address).json()["made"] == []
