"""Practising through the API: stages of some bars, what was played in."""

from __future__ import annotations

import pytest

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
    assert all(s["tempo"] < s["goal"] and s["says"] for s in made)
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
        "first": 2, "last": 3,
        "played": [{"time": p.time, "part": p.part, "loudness": p.loudness} for p in played],
    }  # fmt: skip
    told = call("post", "judge", body)
    assert told["limbs"]["RF"]["offset_ms"] == pytest.approx(40, abs=4)
    assert "right foot" in told["advice"]
    assert call("post", "judge", {**body, "played": []}, 422)["detail"] == "Nothing was played in."
