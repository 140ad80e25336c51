"""Comments, history, named versions."""

from __future__ import annotations

import pytest
from django.contrib.auth.models import User
from people.models import Group
from rest_framework.test import APIClient
from transcription.models import Arrangement


@pytest.fixture
def ilka(client, heard):
    """Somebody with whom the song is shared, to play it."""
    group = Group.objects.create(name="The trio")
    who = User.objects.create_user("ilka")
    group.members.create(user=User.objects.get(username="rim"), role="owner")
    group.members.create(user=who, role="player")
    client.patch(f"/api/songs/{heard['id']}", {"groups": [group.pk]}, format="json")
    other = APIClient()
    other.force_authenticate(who)
    return other


def say(client, song, **body):
    return client.post(f"/api/songs/{song['id']}/comments", body, format="json")


def test_a_bar_is_talked_about_and_settled(client, heard, ilka):
    made = say(ilka, heard, words="Is this a ghost, @rim?", bar=3).json()
    assert (made["bar"], made["author"], made["mentions"]) == (3, "ilka", ["rim"])
    told = client.get("/api/mentions").json()["mentions"]
    assert [(m["song"], m["bar"], m["author"]) for m in told] == [(heard["id"], 3, "ilka")]
    assert ilka.get("/api/mentions").json()["mentions"] == []
    reply = say(client, heard, words="It is.", answers=made["id"]).json()
    assert (reply["bar"], reply["answers"]) == (3, made["id"])
    at = f"/api/comments/{made['id']}"
    assert client.patch(at, {"words": "No."}, format="json").status_code == 403
    done = client.patch(at, {"resolved": True}, format="json").json()
    assert done["resolved"] and done["resolved_by"] == "rim"
    assert client.get("/api/mentions").json()["mentions"] == []
    assert ilka.patch(at, {"resolved": False}, format="json").json()["resolved"] is None
    all_of_it = client.get(f"/api/songs/{heard['id']}/comments").json()
    assert len(all_of_it["comments"]) == 2 and all_of_it["people"] == ["ilka", "rim"]
    assert ilka.delete(f"/api/comments/{reply['id']}").status_code == 403
    assert client.delete(at).status_code == 204  # the owner may, and what answers it goes along
    assert client.get(f"/api/songs/{heard['id']}/comments").json()["comments"] == []


def test_a_comment_on_what_is_not_there_is_refused(client, heard):
    assert "no bar 99" in say(client, heard, words="?", bar=99).json()["detail"]
    assert "no such section" in say(client, heard, words="?", section="sec77").json()["detail"]
    assert say(client, heard, words="").status_code == 400
    assert say(client, heard, words="?", answers=12345).status_code == 404


def test_a_stranger_neither_reads_nor_writes(client, heard):
    made = say(client, heard, words="ours", bar=1).json()
    other = APIClient()
    other.force_authenticate(User.objects.create_user("stranger"))
    assert other.get(f"/api/songs/{heard['id']}/comments").status_code == 404
    assert say(other, heard, words="mine").status_code == 404
    assert (
        other.patch(f"/api/comments/{made['id']}", {"resolved": True}, format="json").status_code
        == 404
    )


def test_history_says_who_did_what(client, heard, edit, step):
    edit("rename_section", id="sec1", name="Dawn")
    edit("halve_tempo")
    step("undo")
    told = client.get(f"/api/songs/{heard['id']}/history").json()
    assert [(n["kind"], n["by"]) for n in told["lines"]] == [
        ("undo", "rim"),
        ("do", "rim"),
        ("do", "rim"),
    ]
    assert all(n["says"] for n in told["lines"]) and told["is_all"]
    older = client.get(f"/api/songs/{heard['id']}/history?before=2").json()
    assert [n["version"] for n in older["lines"]] == [1]


def test_a_named_version_is_compared_and_brought_back(client, heard, edit, step):
    at = f"/api/songs/{heard['id']}/history"
    before = Arrangement.objects.get().score.to_json()
    made = client.post(at, {"name": "As I first had it"}, format="json").json()
    stroke = next(s for s in Arrangement.objects.get().document["strokes"] if s["bar"] == 3)
    edit("set_dynamic", id=stroke["id"], dynamic="ghost")
    edit("rename_section", id="sec1", name="Dawn")
    assert client.post(at, {"name": "As I first had it"}, format="json").status_code == 409
    assert client.post(at, {"name": "x", "version": 77}, format="json").status_code == 400
    at = f"/api/named-versions/{made['id']}"
    told = client.get(at).json()
    assert [b["bar"] for b in told["bars"]] == [3] and told["bars"][0]["says"] and told["form"]
    done = client.post(at).json()
    assert done == {"version": 3, "says": "“As I first had it” brought back"}
    assert Arrangement.objects.get().score.to_json() == before
    assert "Nothing was changed" in client.post(at).json()["detail"]
    step("undo")  # bringing back is a change like any other
    names = [s.name for s in Arrangement.objects.get().score.sections]
    assert "Dawn" in names
    assert client.delete(at).status_code == 204


def test_a_version_from_before_many_edits_is_made_again(client, heard, edit):
    for n in range(55):  # past the log's snapshots
        edit("rename_section", id="sec1", name=f"Name {n}")
    found = Arrangement.objects.get()
    for version in (0, 1, 30, 50, 55):
        name = found.score_at(version).sections[0].name
        assert name == (f"Name {version - 1}" if version else found.score_at(0).sections[0].name)
