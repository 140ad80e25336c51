"""Broken songs, two windows, two persons: nothing is lost, nothing is taken from anybody."""

from __future__ import annotations

import pytest
from django.core.management import CommandError, call_command
from transcription import models
from transcription.models import Arrangement

from orchesis.errors import BadScore

# -- edits


def test_no_ornament_is_an_ornament_that_can_be_set(edit):
    stroke = next(iter(Arrangement.objects.get().score.strokes))
    assert edit("set_ornament", id=stroke, ornament="flam").status_code == 200
    assert edit("set_ornament", id=stroke, ornament=None).status_code == 200
    assert Arrangement.objects.get().score.strokes[stroke].ornament is None


def _break_pulse(line, pulse):
    """Makes an edit of the log leave a pulse that stands still, as rounding once did."""
    line.patch["pulse"], line.inverse["pulse"] = [*pulse[:5], pulse[4], *pulse[6:]], pulse
    line.save()
    models._scores._kept.clear()


def test_a_broken_song_does_not_fail_the_shelf_and_is_repaired(client, heard, edit, step, capsys):
    as_heard = Arrangement.objects.get().document
    edit("rename_section", id="sec1", name="Verse")
    edit("note_bar", bar=2, note="soft")
    found = Arrangement.objects.get()
    _break_pulse(found.edits.last(), as_heard["pulse"])
    assert client.get(f"/api/songs/{heard['id']}/transcription").status_code == 422
    [row] = client.get("/api/songs").json()["results"]
    assert "Undo the last change" in row["trouble"] and row["tempo"] is None
    with pytest.raises(CommandError, match="1 songs can't be read"):
        call_command("check_songs")
    call_command("check_songs", "--repair")
    assert "1 edits were taken back" in capsys.readouterr().out
    found = Arrangement.objects.get()
    assert found.score.sections[0].name == "Verse" and not found.score.notes
    assert step("undo").status_code == 200
    assert (
        Arrangement.objects.get().score.sections == type(found.score).from_json(as_heard).sections
    )
    assert client.get("/api/songs").json()["results"][0]["trouble"] == ""


def test_undo_opens_a_broken_song_again(client, heard, edit, step):
    edit("note_bar", bar=2, note="soft")
    found = Arrangement.objects.get()
    _break_pulse(found.edits.last(), found.document["pulse"])
    with pytest.raises(BadScore):
        Arrangement.objects.get().score  # noqa: B018
    assert step("undo").status_code == 200
    assert Arrangement.objects.get().score.notes == {}


def test_a_song_that_can_not_be_repaired_is_told(heard):
    [heard] = Arrangement.objects.get().snapshots.all()
    heard.document["pulse"] = []
    heard.save()
    with pytest.raises(CommandError, match="hear its recording again"):
        call_command("check_songs", "--repair")


# -- two windows


@pytest.mark.parametrize(
    ("first", "second", "named"),
    [
        (("note_bar", {"bar": 3, "note": "a"}), ("note_bar", {"bar": 3, "note": "b"}), "Bar 3"),
        (("set_cue", {"bar": 3, "text": "1"}), ("set_cue", {"bar": 3, "text": "2"}), "Bar 3"),
        (
            ("rename_section", {"id": "sec1", "name": "A"}),
            ("rename_section", {"id": "sec1", "name": "B"}),
            "“A”",
        ),
        (
            ("note_section", {"id": "sec1", "note": "a"}),
            ("note_section", {"id": "sec1", "note": "b"}),
            "“",
        ),
        (
            ("note_sound", {"key": "room", "note": "a"}),
            ("note_sound", {"key": "room", "note": "b"}),
            "sound room",
        ),
        (("shift_one", {"beats": 1}), ("shift_one", {"beats": 1}), "Bars"),
    ],
)
def test_what_two_windows_write_of_one_thing_clashes(edit, first, second, named):
    assert edit(first[0], base=0, **first[1]).status_code == 200
    kept = Arrangement.objects.get().document
    clash = edit(second[0], base=0, **second[1])
    assert clash.status_code == 409 and clash.json()["clash"] is True
    assert named in clash.json()["detail"] and "in another window" in clash.json()["detail"]
    assert Arrangement.objects.get().document == kept


def test_what_two_windows_write_of_different_things_merges(edit):
    edits = [
        ("note_bar", {"bar": 3, "note": "a"}),
        ("note_bar", {"bar": 4, "note": "b"}),
        ("set_cue", {"bar": 5, "text": "1"}),
        ("rename_section", {"id": "sec1", "name": "Verse"}),
        ("note_sound", {"key": "room", "note": "dry"}),
        ("note_sound", {"key": "wires", "note": "off"}),
        ("confirm_bars", {"bar": 1, "last": 4, "confirmed": True}),
        ("confirm_bars", {"bar": 3, "last": 6, "confirmed": True}),
    ]
    for name, args in edits:
        assert edit(name, base=0, **args).status_code == 200, name
    document = Arrangement.objects.get().document
    assert document["notes"] == {"3": "a", "4": "b"}
    assert document["sound"] == {"room": "dry", "wires": "off"}
    assert document["confirmed"] == [1, 2, 3, 4, 5, 6]


@pytest.fixture
def mate(client, heard, user, django_user_model, monkeypatch):
    """Another person at the same song, as sharing will allow."""
    from library.models import SongQuerySet
    from rest_framework.test import APIClient

    monkeypatch.setattr(SongQuerySet, "visible_to", lambda self, *_a, **_k: self)
    other = APIClient()
    other.force_authenticate(django_user_model.objects.create_user("bo"))
    return other


def test_everybody_takes_back_their_own_and_is_told_what(edit, step, mate):
    edit("note_bar", bar=3, note="mine")
    theirs = edit("note_bar", by=mate, bar=5, note="theirs").json()
    assert theirs["undoes"] == "note, bar 5"
    answer = step("undo").json()
    assert answer["undoes"] == "" and answer["redoes"] == "note, bar 3"
    assert Arrangement.objects.get().document["notes"] == {"5": "theirs"}
    assert step("undo").status_code == 409
    assert step("redo").status_code == 200
    assert Arrangement.objects.get().document["notes"] == {"3": "mine", "5": "theirs"}
    assert step("undo", by=mate).status_code == 200
    assert Arrangement.objects.get().document["notes"] == {"3": "mine"}


def test_what_somebody_built_on_is_not_taken_away_under_it(edit, step, mate):
    stroke = next(s for s in Arrangement.objects.get().score.strokes_of(3))
    edit("set_dynamic", id=stroke.id, dynamic="accent")
    edit("set_part", by=mate, id=stroke.id, part="cowbell")
    refused = step("undo")
    assert refused.status_code == 409 and "changed again since" in refused.json()["detail"]
    assert Arrangement.objects.get().score.strokes[stroke.id].part == "cowbell"


def test_an_undo_beside_another_ones_section_edit_keeps_both(edit, step, mate):
    edit("rename_section", id="sec1", name="Verse")
    edit("note_section", by=mate, id="sec1", note="soft")
    edit("confirm_bars", bar=1, last=2, confirmed=True)
    edit("confirm_bars", by=mate, bar=2, last=3, confirmed=True)
    assert step("undo").status_code == 200
    assert Arrangement.objects.get().document["confirmed"] == [3]
    assert step("undo").status_code == 200
    section = Arrangement.objects.get().score.sections[0]
    assert section.note == "soft" and section.name != "Verse"


def test_an_edit_whose_answer_was_lost_is_done_once(client, heard, edit):
    def send(what, **more):
        body = {"base": 0, "key": "k1", **more}
        return client.post(f"/api/songs/{heard['id']}/transcription/{what}", body, format="json")

    beats = len(Arrangement.objects.get().score.pulse.times)
    first = send("edits", edit={"operation": "halve_tempo"})
    again = send("edits", edit={"operation": "halve_tempo"})
    assert first.status_code == again.status_code == 200
    assert again.json()["version"] == 1 and again.json()["patches"] == first.json()["patches"]
    assert abs(len(Arrangement.objects.get().score.pulse.times) - beats / 2) <= 2
    for _ in range(2):
        assert send("undo", key="k2").json()["version"] == 2
    assert len(Arrangement.objects.get().score.pulse.times) == beats
