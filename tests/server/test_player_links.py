"""Players' links: open without an account, dead once revoked, silent unless the owner allows it."""

from __future__ import annotations

import io
import zipfile

import pytest
from jobs import work
from rest_framework.test import APIClient

LESSON = {
    "title": "Learn the turn", "words": "Slowly first.",
    "passages": [{"first": 2, "last": 3, "order": "limbs", "words": "Mind the kick."}],
}  # fmt: skip


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


def test_a_link_outlives_bars_that_were_emptied(make, anybody, client, heard):
    link = make()
    found = client.get(f"/api/songs/{heard['id']}/transcription").json()
    ids = [s["id"] for s in found["score"]["strokes"] if s["bar"] in (2, 3)]
    edit = {
        "edit": {"operation": "remove_strokes", "ids": ids},
        "version": found["version"],
        "key": "k1",
    }
    client.post(f"/api/songs/{heard['id']}/transcription/edits", edit, format="json")
    assert anybody.get(address(link)).status_code == 200


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
