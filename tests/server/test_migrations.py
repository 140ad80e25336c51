"""Data of earlier versions is carried along: a dump with the demo songs and edits of every kind."""

from __future__ import annotations

import gzip
import json
from pathlib import Path

import pytest
from django.db import connection
from django.db.migrations.executor import MigrationExecutor

BEFORE = [("library", "0004_heard_takes"), ("transcription", "0002_kept_fills")]
DUMP = Path(__file__).parent / "data" / "before_typed_edits.json.gz"


@pytest.fixture(scope="module")
def dump():
    return json.loads(gzip.decompress(DUMP.read_bytes()))


@pytest.fixture
def migrated(transactional_db, dump):
    """The database as it was before, with the dump's rows, brought to the present."""
    executor = MigrationExecutor(connection)
    executor.migrate(BEFORE)
    apps = executor.loader.project_state(BEFORE).apps
    for row in dump["rows"]:
        model = apps.get_model(row["model"])
        fields = {}
        for name, value in row["fields"].items():
            field = model._meta.get_field(name)
            if not field.many_to_many:
                fields[field.attname] = field.to_python(value) if field.attname == name else value
        model.objects.create(pk=row["pk"], **fields)
    executor = MigrationExecutor(connection)
    executor.migrate(executor.loader.graph.leaf_nodes())


def test_songs_edits_and_fills_of_before_are_all_there(migrated, dump, settings):
    from django.contrib.auth.models import User
    from rest_framework.test import APIClient
    from transcription.models import Arrangement, KeptFill

    client = APIClient()
    client.force_authenticate(User.objects.get(username="demo"))
    shelf = {str(row["id"]): row for row in client.get("/api/songs").json()["results"]}
    assert len(shelf) == 6
    for song, told in dump["told"].items():
        found = Arrangement.objects.get(song=int(song))
        score = found.score
        assert (score.bar_count, len(score.strokes), found.version) == (
            told["bars"],
            told["strokes"],
            told["version"],
        )
        row = shelf[song]
        assert (row["bars"], row["stage"], row["trouble"]) == (told["bars"], "corrected", "")
        assert row["tempo"] == pytest.approx(score.pulse.tempo()[0], abs=0.06)
        strokes = score.strokes
        limb, plain = strokes[told["limb"]], strokes[told["plain"]]
        assert (limb.limb, limb.limb_by, limb.placed_by) == ("LH", "person", "heard")
        assert limb.measured.level is not None and limb.measured.openness is not None
        assert strokes[told["many_limb"]].limb_by == "person"
        assert strokes[told["many_limb"]].placed_by == "heard"
        assert strokes[told["dynamic"]].placed_by == strokes[told["choked"]].placed_by == "person"
        assert (plain.placed_by, plain.limb_by) == ("heard", "program") and plain.measured
        mine = strokes["mine1"]
        assert (mine.measured, mine.placed_by, mine.limb_by) == (None, "person", "person")
        assert strokes[told["doubt"]].reason == "the bass hides it"
        assert score.notes and score.cues and score.sections[0].name == "Opening"
        url = f"/api/songs/{song}/transcription"
        for path in ("", "/review"):
            assert client.get(url + path).status_code == 200
        for path in ("grooves", "fills", "feel", "chart", "decisions"):
            assert client.get(f"/api/songs/{song}/{path}").status_code == 200, path
        while client.get(url).json()["undoes"]:
            assert client.post(url + "/undo", {"base": 0}, format="json").status_code == 200
        score = Arrangement.objects.get(song=int(song)).score
        assert {s.placed_by for s in score.strokes.values()} == {"heard"}
        assert not score.notes and all(s.measured for s in score.strokes.values())
    [told] = client.get("/api/kept-fills").json()["fills"]
    assert told["document"]["strokes"] and told["song"]
    [kept] = KeptFill.objects.all()
    assert kept.document["strokes"][0]["placed_by"] in ("heard", "person")
