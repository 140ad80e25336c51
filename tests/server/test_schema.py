"""The API's description is true: every answer holds what it says, and nothing else."""

from __future__ import annotations

import pytest
from drf_spectacular.generators import SchemaGenerator
from jsonschema import Draft202012Validator
from transcription.models import Arrangement

from orchesis.score import Stroke as CoreStroke


@pytest.fixture(scope="module")
def schema():
    return SchemaGenerator().get_schema(request=None, public=True)


def strict(node):
    """A description as JSON Schema: what may be null is told, and no key is left unsaid."""
    if isinstance(node, list):
        return [strict(x) for x in node]
    if not isinstance(node, dict):
        return node
    made = {k: strict(v) for k, v in node.items() if k != "nullable"}
    if node.get("type") == "object" and "properties" in node:
        made.setdefault("additionalProperties", False)
    if not node.get("nullable"):
        return made
    return {"anyOf": [made, {"type": "null"}]}


@pytest.fixture
def holds(schema):
    """Tells whether an answer is what the description of its path says."""
    components = strict(schema["components"])

    def check(method, path, answer):
        described = schema["paths"][path][method]["responses"][str(answer.status_code)]
        told = strict(described["content"]["application/json"]["schema"])
        validator = Draft202012Validator({**told, "components": components})
        faults = [
            f"{path} {list(e.absolute_path)}: {e.message[:200]}"
            for e in validator.iter_errors(answer.json())
        ]
        assert not faults, faults[:3]

    return check


GETS = (
    "/api/songs",
    "/api/songs/{id}",
    "/api/songs/{id}/transcription",
    "/api/songs/{id}/transcription/review",
    "/api/songs/{id}/transcription/compare?bar=2&with=3",
    "/api/songs/{id}/transcription/compare?bar=2&with=heard",
    "/api/songs/{id}/transcription/text?first=1&last=2",
    "/api/songs/{id}/transcription/band?bar=2",
    "/api/songs/{id}/grooves",
    "/api/songs/{id}/fills",
    "/api/songs/{id}/feel",
    "/api/songs/{id}/evidence",
    "/api/songs/{id}/decisions",
    "/api/songs/{id}/chart",
    "/api/songs/{id}/search?bar=2&scope=kick",
    "/api/kept-fills",
    "/api/session",
)


@pytest.mark.parametrize("path", GETS)
def test_what_is_asked_for_is_answered_as_described(client, heard, holds, path):
    strokes = [s for s in Arrangement.objects.get().document["strokes"] if s["bar"] == 3]
    for version, change in enumerate(
        (
            {
                "operation": "set_doubt",
                "id": strokes[0]["id"],
                "doubt": "left_out",
                "reason": "bass",
            },
            {"operation": "set_cue", "bar": 2, "text": '1 2& "horns"'},
            {"operation": "note_section", "id": "sec1", "note": "quiet"},
        )
    ):
        answer = client.post(
            f"/api/songs/{heard['id']}/transcription/edits",
            {"base": version, "edit": change},
            format="json",
        )
        assert answer.status_code == 200, answer.content
    answer = client.get(path.format(id=heard["id"]))
    assert answer.status_code == 200
    holds("get", path.partition("?")[0], answer)


def test_what_is_done_is_answered_as_described(client, heard, holds):
    stroke = next(s for s in Arrangement.objects.get().document["strokes"] if s["bar"] == 3)
    at = f"/api/songs/{heard['id']}/transcription"
    for n, change in enumerate(
        (
            {"operation": "set_dynamic", "id": stroke["id"], "dynamic": "ghost"},
            {"operation": "halve_tempo"},
            {"operation": "rename_section", "id": "sec1", "name": "Dawn"},
        )
    ):
        answer = client.post(f"{at}/edits", {"base": n, "edit": change}, format="json")
        holds("post", "/api/songs/{id}/transcription/edits", answer)
    answer = client.post(f"{at}/undo", {"base": 0}, format="json")
    holds("post", "/api/songs/{id}/transcription/undo", answer)
    made = client.post("/api/songs", {"title": "Salt Road"}, format="json")
    holds("post", "/api/songs", made)


def test_what_an_earlier_version_left_out_is_told_as_the_core_reads_it():
    """Strokes of old logs and collections may lack what came later."""
    from orchesis.score.document import Stroke

    told = Stroke.model_validate(
        {"id": "a", "bar": 1, "place": "3/4", "part": "kick", "loudness": 0.7, "confidence": 1.0}
    ).model_dump(mode="json", exclude_unset=True)
    assert told == CoreStroke.from_json(told).to_json()
    assert (told["limb"], told["choked"], told["doubt"]) == ("RH", False, "")
