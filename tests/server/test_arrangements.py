"""Hands and arrangements through the API: stickings, proposals, arrangements side by side, a kit."""

from __future__ import annotations

import pytest
from django.contrib.auth.models import User
from rest_framework.test import APIClient
from transcription.models import Arrangement, Preferences

PLAYER = {"hand": "left", "school": "lead", "pedals": 2, "lacks": ["ride"], "plan": []}


@pytest.fixture
def call(client, heard):
    def ask(method, path, body=None, status=200):
        address = f"/api/songs/{heard['id']}/{path}"
        answer = getattr(client, method)(address, body, format="json")
        assert answer.status_code == status, answer.content
        return answer.json() if answer.content else None

    return ask


@pytest.fixture
def edit(call):
    def send(operation, query="", status=200, **args):
        version = call("get", f"transcription{query}")["version"]
        body = {"base": version, "edit": {"operation": operation, **args}}
        return call("post", f"transcription/edits{query}", body, status)

    return send


def test_how_hard_it_is_by_bar_section_and_cause(call):
    told = call("get", "hands")
    assert 1 < told["song"]["total"] <= 10
    assert set(told["song"]["causes"]) == {
        "speed",
        "independence",
        "moves",
        "dynamics",
        "changes",
    }
    assert len(told["bars"]) >= 4 and told["sections"]
    assert told["unplayable"] == []


def test_another_sticking_is_offered_and_chosen(call, edit):
    told = call("get", "stickings?bar=2")
    now, other = told["alternatives"][:2]
    assert now["is_now"] and not other["is_now"] and other["says"]
    assert "single paradiddle" in told["askable"]
    edit("stick_bar", bar=2, limbs=other["limbs"])
    assert call("get", "stickings?bar=2")["alternatives"][0]["hands"] == other["hands"]
    call("get", "stickings?bar=999", status=400)


def test_a_proposal_is_refused_and_stays_away(call, edit):
    edit("set_player", lacks=["ride", "crash"])
    edit("add_stroke", id="r1", bar=2, place="1/2", part="ride", limb="RH")
    [first, *_] = call("get", "proposals")["proposals"]
    assert first["way"] == "cymbals" and first["must"]
    lacked = {"ride", "crash"}
    assert lacked & {s["part"] for s in first["example"]["before"]}
    assert not lacked & {s["part"] for s in first["example"]["after"]}
    edit("settle", key="way-cymbals")
    assert "cymbals" not in {p["way"] for p in call("get", "proposals")["proposals"]}


def test_arrangements_live_side_by_side(call, edit):
    made = call("post", "arrangements", {"name": "Level 1", "level": 1}, 201)
    here = f"?arrangement={made['id']}"
    shown = call("get", f"transcription{here}")
    assert shown["arrangement"] == "Level 1"
    whole = call("get", "transcription")
    assert len(shown["score"]["strokes"]) < len(whole["score"]["strokes"])
    assert made["differs"]
    edit("add_stroke", here, id="x1", bar=3, place="1/4", part="cowbell", limb="LH")
    again = call("get", f"transcription{here}")
    assert "cowbell" in {s["part"] for s in again["score"]["strokes"]}
    assert "cowbell" not in {s["part"] for s in call("get", "transcription")["score"]["strokes"]}
    [recorded, level] = call("get", "arrangements")["arrangements"]
    assert recorded["is_recorded"] and not level["is_recorded"]
    told = call("get", f"arrangements/{made['id']}/differences")["bars"]
    assert "cowbell" in " ".join(next(d["says"] for d in told if d["bar"] == 3))
    call("post", "arrangements", {"name": "Level 1"}, 409)
    call("patch", f"arrangements/{made['id']}", {"name": "First lesson"})
    call("patch", f"arrangements/{recorded['id']}", {"name": "Mine"}, 400)
    call("delete", f"arrangements/{made['id']}", status=204)
    call("get", f"transcription{here}", status=404)
    call("get", "transcription?arrangement=none", status=400)


def test_what_changes_in_the_recorded_part_is_offered_to_the_others(call, edit):
    made = call("post", "arrangements", {"name": "My own"}, 201)
    assert made["behind"] == made["differs"] == []
    edit("add_stroke", id="n1", bar=2, place="1/4", part="cowbell", limb="LH")
    edit("add_stroke", id="n2", bar=3, place="1/4", part="cowbell", limb="LH")
    told = call("get", "arrangements")["arrangements"][1]
    assert told["behind"] == [2, 3]
    after = call("post", f"arrangements/{made['id']}/update", {"take": [2]})
    assert after["differs"] == [3] and after["behind"] == []
    shown = call("get", f"transcription?arrangement={made['id']}")["score"]["strokes"]
    assert [s["bar"] for s in shown if s["part"] == "cowbell"] == [2]


def test_a_way_makes_an_arrangement_at_once(call):
    made = call("post", "arrangements", {"name": "Closed", "way": "thin_time", "bars": [2]}, 201)
    assert made["differs"] == [2]
    call("post", "arrangements", {"name": "Wide", "way": "thin_time", "bars": [999]}, 400)


def test_a_stranger_sees_no_arrangement(call, heard, db):
    made = call("post", "arrangements", {"name": "My own"}, 201)
    other = APIClient()
    other.force_login(User.objects.create_user("stranger", password="x"))
    for path in ("arrangements", "hands", f"arrangements/{made['id']}/differences"):
        assert other.get(f"/api/songs/{heard['id']}/{path}").status_code == 404


def test_a_kit_of_ones_own_is_what_new_songs_start_with(client, call, heard, user):
    told = client.get("/api/kit-of-mine").json()
    assert told["player"]["hand"] == "right" and told["counting"] == "letters"
    kept = client.put(
        "/api/kit-of-mine", {"player": PLAYER, "counting": "ta_ka"}, format="json"
    ).json()
    assert kept["player"].items() >= PLAYER.items()
    assert Preferences.objects.get(user=user).counting == "ta_ka"
    found = Arrangement.objects.get()
    take, score = found.take, found.score
    found.delete()
    made = Arrangement.start(take, score)
    assert made.score.player.hand == "left"
    hats = [s for s in made.score.strokes.values() if s.part == "hat_closed"]
    assert {s.limb for s in hats} <= {"LH", "RH"} and hats[0].limb == "LH"
    bad = client.put("/api/kit-of-mine", {"player": PLAYER, "counting": "fast"}, format="json")
    assert bad.status_code == 400
    own = {"player": PLAYER, "counting": "own ti & ta la li"}
    assert client.put("/api/kit-of-mine", own, format="json").json()["counting"] == own["counting"]
    told = client.get("/api/counting/own ti & ta la li").json()
    assert told["simple"]["4"] == ["", "ti", "&", "ta"]
    assert client.get("/api/counting/fast").status_code == 400
