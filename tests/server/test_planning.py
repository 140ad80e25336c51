"""Set lists, lessons, requests by a form, forecasts."""

from __future__ import annotations

from datetime import timedelta
from io import BytesIO

import pytest
from django.contrib.auth.models import User
from django.test import Client
from django.utils import timezone
from jobs import work
from jobs.models import Job
from library.models import Song
from people.models import Group
from pypdf import PdfReader
from rest_framework.test import APIClient
from transcription.models import Arrangement


def as_(user: User) -> APIClient:
    client = APIClient()
    client.force_authenticate(user)
    return client


@pytest.fixture
def evening(client, heard):
    other = client.post("/api/songs", {"title": "Not heard yet"}, format="json").json()
    body = {
        "title": "Harbour, Friday",
        "due": "2027-03-05",
        "words": "Two sets",
        "items": [{"song": heard["id"], "note": "short intro"}, {"song": other["id"]}],
    }
    return client.post("/api/set-lists", body, format="json").json(), body


def test_a_set_list_is_a_run_of_songs_with_its_time(client, heard, evening):
    made, body = evening
    assert [(i["title"], i["is_ready"]) for i in made["items"]] == [
        ("Plain Rock", True),
        ("Not heard yet", False),
    ]
    assert made["seconds"] == pytest.approx(heard["takes"][0]["duration"])
    assert made["due"] == "2027-03-05" and made["may"] == "own" and made["address"] == ""
    turned = {**body, "items": body["items"][::-1], "kind": "class plan"}
    told = client.put(f"/api/set-lists/{made['id']}", turned, format="json").json()
    assert [i["title"] for i in told["items"]] == ["Not heard yet", "Plain Rock"]
    assert client.delete(f"/api/set-lists/{made['id']}").status_code == 204
    assert client.get("/api/set-lists").json()["lists"] == []


def test_a_list_holds_ones_own_songs_and_lessons_only(client, evening):
    made, body = evening
    other = Song.objects.create(owner=User.objects.create_user("other"), title="Theirs")
    for items in ([{"song": other.pk}], [{"song": body["items"][0]["song"], "lesson": 77}]):
        answer = client.put(f"/api/set-lists/{made['id']}", {**body, "items": items}, format="json")
        assert answer.status_code == 400 and answer.json()["detail"].endswith(".")
    group = Group.objects.create(name="Others")
    assert (
        client.put(
            f"/api/set-lists/{made['id']}", {**body, "group": group.pk}, format="json"
        ).status_code
        == 400
    )


def test_a_shared_list_shows_nobody_songs_they_do_not_see(client, user, heard, evening):
    made, body = evening
    group = Group.objects.create(name="The trio")
    bo = User.objects.create_user("bo")
    group.members.create(user=user, role="owner")
    group.members.create(user=bo, role="player")
    client.put(f"/api/set-lists/{made['id']}", {**body, "group": group.pk}, format="json")
    seen = as_(bo).get("/api/set-lists").json()["lists"][0]
    assert seen["may"] == "see" and seen["items"] == []
    client.patch(f"/api/songs/{heard['id']}", {"groups": [group.pk]}, format="json")
    seen = as_(bo).get(f"/api/set-lists/{made['id']}").json()
    assert [i["title"] for i in seen["items"]] == ["Plain Rock"]
    assert as_(bo).put(f"/api/set-lists/{made['id']}", body, format="json").status_code == 403
    assert as_(bo).delete(f"/api/set-lists/{made['id']}").status_code == 403
    assert as_(User.objects.create_user("x")).get(f"/api/set-lists/{made['id']}").status_code == 404


def test_a_lesson_is_put_into_a_list_only_by_who_may_give_it_out(client, user, heard):
    """A player read every share link of a song by numbering lessons in a list of their own."""
    group = Group.objects.create(name="The trio")
    bo = User.objects.create_user("bo")
    group.members.create(user=user, role="owner")
    group.members.create(user=bo, role="player")
    client.patch(f"/api/songs/{heard['id']}", {"groups": [group.pk]}, format="json")
    lesson = {"title": "The turn", "passages": [{"first": 2, "last": 3}]}
    at = f"/api/songs/{heard['id']}/player-links"
    link = client.post(at, lesson, format="json").json()
    body = {
        "title": "Mine",
        "is_given": True,
        "items": [{"song": heard["id"], "lesson": link["id"]}],
    }
    refused = as_(bo).post("/api/set-lists", body, format="json")
    assert refused.status_code == 400 and "lesson" in refused.json()["detail"]

    group.members.filter(user=bo).update(role="editor")
    made = as_(bo).post("/api/set-lists", body, format="json").json()
    page = f"/api/given-lists/{made['address'].split('/')[-1]}"
    assert APIClient().get(page).json()["items"][0]["address"] == link["address"]
    group.members.filter(user=bo).update(role="player")  # they may no longer give it out
    assert APIClient().get(page).json()["items"][0]["address"] == ""
    group.members.filter(user=bo).delete()
    assert APIClient().get(page).json()["items"][0]["address"] == ""


def test_a_song_of_a_given_list_is_shown_as_it_is_when_the_list_is_given(client, heard):
    found = client.get(f"/api/songs/{heard['id']}/transcription").json()
    stroke = found["score"]["strokes"][0]["id"]
    edit = {"edit": {"operation": "remove_stroke", "id": stroke}, "base": 0, "key": "k"}
    client.post(f"/api/songs/{heard['id']}/transcription/edits", edit, format="json")
    body = {"title": "Friday", "is_given": True, "items": [{"song": heard["id"]}]}
    made = client.post("/api/set-lists", body, format="json").json()
    [item] = client.get(f"/api/set-lists/{made['id']}").json()["items"]
    told = APIClient().get("/api/player/" + item["address"].split("/")[-1]).json()
    assert told["strokes"] and stroke not in {s["id"] for s in told["strokes"]}


def test_all_road_maps_are_one_paper(client, evening, django_capture_on_commit_callbacks):
    made, body = evening
    at = f"/api/set-lists/{made['id']}/paper"
    assert client.get(at).status_code == 404
    asked = client.post(at).json()
    assert (
        asked["job"]["state"] == "queued"
        and client.post(at).json()["job"]["id"] == asked["job"]["id"]
    )
    work.work(asked["job"]["id"])
    told = client.get(f"/api/set-lists/{made['id']}").json()
    assert told["paper"] == "ready" and told["job"]["state"] == "done"
    pdf = PdfReader(BytesIO(b"".join(client.get(at).streaming_content)))
    assert len(pdf.pages) >= 1 and pdf.outline[0].title == "Plain Rock"
    client.put(f"/api/set-lists/{made['id']}", {**body, "title": "Other"}, format="json")
    assert client.get(f"/api/set-lists/{made['id']}").json()["paper"] == "old"
    assert Job.objects.get(pk=asked["job"]["id"]).owner.username == "rim"


def test_players_open_a_list_by_its_address_until_it_is_taken_back(client, evening):
    made, body = evening
    told = client.put(
        f"/api/set-lists/{made['id']}", {**body, "is_given": True}, format="json"
    ).json()
    token = told["address"].split("/")[-1]
    seen = Client().get(f"/api/given-lists/{token}").json()
    assert [i["title"] for i in seen["items"]] == ["Plain Rock", "Not heard yet"]
    link = seen["items"][0]["address"]
    assert link.startswith("/p/") and seen["items"][1]["address"] == ""
    assert Client().get(f"/api/player/{link.split('/')[-1]}").json()["song"] == "Plain Rock"
    again = client.put(
        f"/api/set-lists/{made['id']}", {**body, "is_given": True}, format="json"
    ).json()
    assert again["address"] == told["address"] and again["items"][0]["address"] == link
    client.put(f"/api/set-lists/{made['id']}", body, format="json")
    assert Client().get(f"/api/given-lists/{token}").status_code == 404
    assert Client().get("/api/given-lists/").status_code == 404


def test_lessons_are_things_of_their_own(client, heard, evening):
    made, body = evening
    asked = {"title": "The kick of the verse", "passages": [{"first": 1, "last": 2}]}
    link = client.post(f"/api/songs/{heard['id']}/player-links", asked, format="json").json()
    told = client.get("/api/lessons").json()["lessons"]
    assert [(x["title"], x["song_title"], x["passages"]) for x in told] == [
        ("The kick of the verse", "Plain Rock", 1)
    ]
    items = [{"song": heard["id"], "lesson": link["id"], "due": "2027-01-08"}]
    plan = client.put(
        f"/api/set-lists/{made['id']}",
        {**body, "kind": "class plan", "items": items, "is_given": True},
        format="json",
    ).json()
    assert (
        plan["items"][0]["lesson_title"] == "The kick of the verse"
        and plan["items"][0]["address"] == link["address"]
    )
    seen = Client().get(f"/api/given-lists/{plan['address'].split('/')[-1]}").json()
    assert seen["items"][0]["title"] == "The kick of the verse"


# -- requests by a form


@pytest.fixture
def form(client):
    told = client.put("/api/request-form", {"title": "What shall we play?"}, format="json").json()
    return told["address"].split("/")[-1]


WISH = {
    "title": "Copper Weather",
    "artist": "Tin Meridian",
    "name": "Maarten",
    "due": "2027-02-01",
    "device": "abcdefgh",
}


def post(address, body):
    return Client().post(address, body, content_type="application/json")


def test_songs_are_asked_for_without_an_account(client, form):
    told = post(f"/api/asked/{form}", WISH)
    assert told.status_code == 201 and told.json()["songs"][0]["votes"] == 1
    same = post(f"/api/asked/{form}", {**WISH, "title": "copper weather", "device": "ijklmnop"})
    assert [s["votes"] for s in same.json()["songs"]] == [2]
    song = client.get("/api/songs").json()["results"][0]
    assert (song["asked_by"], song["due"], song["votes"], song["depth"]) == (
        "Maarten",
        "2027-02-01",
        2,
        "outline",
    )
    back = post(f"/api/asked/{form}/votes", {"song": song["id"], "device": "ijklmnop"}).json()
    assert back["songs"][0]["votes"] == 1
    for wrong in ({"due": "soon"}, {"title": ""}, {"device": "x"}, {"depth": "deep"}, {"name": ""}):
        assert post(f"/api/asked/{form}", WISH | wrong).status_code == 400
    client.put("/api/request-form", {"title": "Closed", "is_open": False}, format="json")
    assert post(f"/api/asked/{form}", WISH).status_code == 404


def test_a_form_shows_only_what_was_asked_there(client, form):
    client.post("/api/songs", {"title": "Secret"}, format="json")
    assert Client().get(f"/api/asked/{form}").json()["songs"] == []


# -- what is left


def test_the_log_knows_what_was_spent_and_the_forecast_what_is_left(client, heard, edit):
    edit("rename_section", id="sec1", name="Dawn")
    for name in ("Noon", "Dusk"):
        Arrangement.objects.update(updated=timezone.now() - timedelta(minutes=2))
        edit("rename_section", id="sec1", name=name)
    found = Arrangement.objects.get()
    assert found.minutes == pytest.approx(1 + 4, abs=0.1)
    told = client.get("/api/forecast").json()
    [left] = told["songs"]
    assert left["song"] == heard["id"] and left["low"] < left["likely"] < left["high"]
    assert "1 song on the desk" in told["says"] and "at the usual pace" in told["says"]
    client.post(f"/api/songs/{heard['id']}/minutes", {"minutes": 30}, format="json")
    assert Arrangement.objects.get().minutes == pytest.approx(35, abs=0.1)


def test_an_outline_is_done_when_its_passages_are(client, heard, edit):
    client.patch(f"/api/songs/{heard['id']}", {"depth": "outline"}, format="json")
    edit("confirm_bars", bar=1, last=1, confirmed=True)
    found = Arrangement.objects.get()
    assert found.wanted and found.wanted < found.bars
    edit("confirm_bars", bar=1, last=found.bars - 1, confirmed=True)
    found.refresh_from_db()
    assert found.wanted_confirmed == found.wanted
    assert client.get(f"/api/songs/{heard['id']}").json()["stage"] == "confirmed"
