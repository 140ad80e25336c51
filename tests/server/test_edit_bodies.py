"""Whatever is sent as an edit: an answer in one sentence, and never half an edit."""

from __future__ import annotations

import json
import random
from typing import Any

import pytest
from transcription.models import Arrangement, Edit

from orchesis.editing import EDITS, apply, edit_of
from orchesis.errors import MalformedEdit, OrchesisError
from orchesis.score import Score
from tests.walks import Walker

#: What may stand where something else belongs.
JUNK: list[Any] = [
    None,
    True,
    False,
    0,
    -1,
    3,
    2**40,
    0.5,
    -1e300,
    "",
    "x",
    "²",
    "1/0",
    "3/4",
    "RH",
    "hat_closed",
    "٣",
    "e" * 5000,
    [],
    [1],
    [None],
    {},
    {"id": "x"},
    [[[[]]]],
    "\u0007",
    "\u2028",
    "a|b",
    "1:5/48",
    "sec1",
]
BODIES = 500
_DONE = 12  # accepted ones that are done; the others are only read


def spoiled(rng: random.Random, data: dict[str, Any]) -> dict[str, Any]:
    """An edit with one to three things wrong with it, or nothing."""
    data = json.loads(json.dumps(data))
    for _ in range(rng.randint(0, 3)):
        act, keys = rng.random(), list(data)
        if act < 0.6 and keys:
            data[rng.choice(keys)] = rng.choice(JUNK)
        elif act < 0.75 and keys:
            data.pop(rng.choice(keys))
        elif act < 0.85:
            data[rng.choice(["id", "bar", "place", "operation", "junk", "edits"])] = rng.choice(
                JUNK
            )
        else:
            lists = [k for k in keys if isinstance(data[k], list) and data[k]]
            if lists:
                inner = data[rng.choice(lists)]
                inner[rng.randrange(len(inner))] = rng.choice(JUNK)
    return data


@pytest.fixture
def score(heard) -> Score:
    return Arrangement.objects.get().score


@pytest.mark.parametrize("name", sorted(EDITS))
def test_500_bodies_of_an_edit_are_done_or_refused_whole(score, name):
    rng, walker, done = random.Random(name), Walker(7), 0
    for _ in range(BODIES):
        body = spoiled(rng, {"operation": name, **walker.edit(score, name)[1]})
        try:
            edit = edit_of(body)
            if done >= _DONE:
                continue
            new = apply(score, edit)[0]
        except OrchesisError as refused:
            assert str(refused) and len(str(refused)) < 400
            continue
        done += 1
        assert Score.from_json(new.to_json()) == new  # what was accepted loads again


def test_a_body_that_is_no_edit_is_refused_by_the_api(client, heard):
    url = f"/api/songs/{heard['id']}/transcription/edits"
    before = Arrangement.objects.get().document
    rng = random.Random(1)
    bodies: list[Any] = [
        None,
        [],
        "x",
        7,
        {},
        {"base": 0},
        {"base": "0", "edit": {"operation": "halve_tempo"}},
        {"base": -1, "edit": {"operation": "halve_tempo"}},
        {"base": 0, "edit": None},
        {"base": 0, "edit": []},
        {"base": 0, "edit": {"operation": "dance"}},
        {"base": 0, "edit": {"operation": ["many"]}},
        {"base": 0, "edit": {"operation": "halve_tempo"}, "over": "yes"},
        {"base": 0, "edit": {"operation": "halve_tempo"}, "key": "k" * 41},
        {"base": 0, "operation": "halve_tempo", "args": {}},
    ]
    bodies += [
        {"base": 0, "edit": {"operation": rng.choice(sorted(EDITS)), "junk": rng.choice(JUNK)}}
        for _ in range(60)
    ]
    for body in bodies:
        answer = client.post(url, body, format="json")
        assert answer.status_code == 400 and answer.json()["detail"], body
    assert Arrangement.objects.get().document == before and not Edit.objects.exists()


def test_what_is_wrong_is_named():
    for data, says in (
        ({}, "no edit called"),
        ({"operation": "set_limb", "id": "h1"}, "needs “limb”"),
        ({"operation": "set_limb", "id": "h1", "limb": "tail"}, "“tail” can't be the “limb”"),
        ({"operation": "note_bar", "bar": True, "note": ""}, "can't be the “bar”"),
        ({"operation": "set_part", "id": "h1", "part": "gong"}, "no kit part called “gong”"),
        ({"operation": "set_meter", "meter": "²/4"}, "is not a meter"),
    ):
        with pytest.raises(MalformedEdit, match=says):
            edit_of(data)
