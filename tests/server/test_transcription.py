"""Edits through the API: saved at once, undone without limit, told to every page."""

import re
from fractions import Fraction

import pytest
from transcription.models import Arrangement, Edit

from orchesis.score import Score


@pytest.fixture
def step(client, heard):
    def send(what):
        base = Arrangement.objects.get().version
        return client.post(
            f"/api/songs/{heard['id']}/transcription/{what}", {"base": base}, format="json"
        )

    return send


def document():
    return Arrangement.objects.get().document


def test_an_edit_is_saved_and_told_as_a_patch(edit, client, heard):
    answer = edit("add_stroke", id="w1", bar=2, place="7/4", part="cowbell", limb="LH").json()
    assert answer["version"] == 1 and answer["undoes"] == "stroke written, bar 2"
    assert answer["patches"][0]["strokes"]["w1"]["part"] == "cowbell"
    found = client.get(f"/api/songs/{heard['id']}/transcription").json()
    assert any(s["id"] == "w1" for s in found["score"]["strokes"])
    assert client.get(f"/api/songs/{heard['id']}").json()["stage"] == "corrected"


def test_undo_and_redo_walk_the_whole_history(edit, step):
    heard = document()
    edit("rename_section", id="sec1", name="Verse")
    edit("halve_tempo")
    edit("shift_one", beats=1)
    after = document()
    assert after != heard
    for _ in range(3):
        answer = step("undo")
    assert document() == heard and not answer.json()["undoes"]
    assert step("undo").status_code == 409
    for _ in range(3):
        step("redo")
    assert document() == after
    step("undo")
    edit("rename_section", id="sec1", name="Other")
    assert step("redo").status_code == 409, "a new edit ends what could be redone"


def test_the_log_is_append_only_and_rebuilds_every_version(edit, step):
    start = document()
    edit("rename_section", id="sec1", name="Verse")
    edit("double_tempo")
    step("undo")
    step("redo")
    from orchesis.score.patches import patched

    score = Score.from_json(start)
    for line in Edit.objects.order_by("version"):
        score = patched(score, line.patch)
    assert score.to_json() | {"title": "", "artist": ""} == document() | {"title": "", "artist": ""}
    assert list(Edit.objects.values_list("kind", flat=True)) == ["do", "do", "undo", "redo"]


def test_two_pages_on_one_song_hear_of_each_other(edit):
    edit("add_stroke", id="a", bar=1, place="1/4", part="cowbell", limb="LH")
    answer = edit(
        "add_stroke", base=0, id="b", bar=2, place="1/4", part="cowbell", limb="LH"
    ).json()
    assert answer["version"] == 2
    told = [k for p in answer["patches"] for k in p["strokes"]]
    assert told == ["a", "b"]


@pytest.mark.parametrize(
    ("operation", "args", "status"),
    [
        ("remove_stroke", {"id": "nobody"}, 422),
        ("add_stroke", {"id": "x", "bar": 999, "place": "0", "part": "kick", "limb": "RF"}, 422),
        ("add_stroke", {"id": "x", "bar": 1, "place": "zero", "part": "kick", "limb": "RF"}, 400),
        ("dance", {}, 400),
    ],
)
def test_an_edit_that_does_not_fit_changes_nothing(edit, operation, args, status):
    before = document()
    answer = edit(operation, **args)
    assert answer.status_code == status and answer.json()["detail"]
    assert document() == before and not Edit.objects.exists()


def test_tempo_and_fills_follow_the_edits(edit):
    answer = edit("halve_tempo").json()
    assert answer["tempo"]["bpm"] == pytest.approx(50, abs=1)
    assert any(abs(a - 100) < 1 for a in answer["tempo"]["alternatives"])


def test_the_chart_and_its_files(client, heard):
    chart = client.get(f"/api/songs/{heard['id']}/chart").json()
    assert chart["version"] == 0 and "Plain Rock" in chart["pages"][0]
    assert {"MusicXML", "MIDI", "text tab"} <= {f["name"] for f in chart["files"]}
    for asked, start, name in (
        ("pdf", b"%PDF", "Plain Rock - chart.pdf"),
        ("pdf?view=limbs", b"%PDF", "Plain Rock - limbs.pdf"),
        ("pdf?view=road-map", b"%PDF", "Plain Rock - road map.pdf"),
        ("musicxml", b"<?xml", "Plain Rock.musicxml"),
        ("mid", b"MThd", "Plain Rock.mid"),
        ("mid?feel=song", b"MThd", "Plain Rock - with its feel.mid"),
    ):
        answer = client.get(f"/api/songs/{heard['id']}/chart.{asked}")
        assert answer.content.startswith(start)
        assert answer["Content-Disposition"] == f'attachment; filename="{name}"'


def test_the_form_is_told_and_follows_the_edits(edit, client, heard):
    found = client.get(f"/api/songs/{heard['id']}/transcription").json()
    form = found["form"]
    assert [f["id"] for f in form["sections"]] == [s["id"] for s in found["score"]["sections"]]
    assert form["sections"][0]["surface"] == "hat" and form["sections"][0]["level"] is not None
    assert len(form["confidence"]) == len(found["score"]["meters"])
    after = edit("split_section", id="sec1", bar=5, new="half").json()
    assert len(after["form"]["sections"]) == len(form["sections"]) + 1
    linked = edit("link_section", id="half", like="sec1").json()
    assert linked["form"]["sections"][1]["twin"] == "sec1"


def test_notes_and_locks_are_kept_and_undone(edit, step):
    edit("note_bar", bar=3, note="watch the singer")
    edit("note_sound", key="implement", note="brushes")
    edit("note_section", id="sec1", note="soft")
    edit("lock", bar=1, last=4)
    kept = document()
    assert kept["notes"] == {"3": "watch the singer"} and kept["sound"] == {"implement": "brushes"}
    assert kept["sections"][0]["note"] == "soft" and len(kept["locked"]) == 1
    refused = edit("halve_tempo")
    assert refused.status_code == 422 and "locked" in refused.json()["detail"]
    for _ in range(4):
        step("undo")
    assert document()["notes"] == {} and document()["locked"] == []


def test_another_way_of_writing_changes_the_chart_and_not_the_strokes(edit, client, heard):
    before = document()["strokes"]
    plain = client.get(f"/api/songs/{heard['id']}/chart").json()
    assert plain["notation"] == "counted" and "short" in plain["notations"]
    assert edit("set_notation", notation="short").status_code == 200
    short = client.get(f"/api/songs/{heard['id']}/chart").json()
    assert short["notation"] == "short" and short["pages"] != plain["pages"]
    assert short["bars"] == pytest.approx(plain["bars"])
    assert document()["strokes"] == before
    assert edit("set_notation", notation="compound").status_code == 422


def test_what_is_left_out_of_the_chart_is_told_and_comes_back(edit, step, client, heard):
    def chart(query=""):
        return client.get(f"/api/songs/{heard['id']}/chart{query}").json()

    plain = chart()
    first, *rest = plain["items"]
    assert first["shown"] and first["words"] == "" and plain["stretches"] == []
    said = {"item": first["item"], "shown": False, "text": "as you like"}
    assert edit("set_on_paper", **said).status_code == 200
    told = chart()
    assert told["items"] == [{**first, "shown": False, "words": "as you like"}, *rest]
    assert "not written out" in told["pages"][0] and "as you like" in told["pages"][0]
    assert client.get(f"/api/songs/{heard['id']}/chart.mei").content.count(b"<measure") == (
        len(told["bars"]) - 1
    )
    assert edit("set_on_paper", **{**said, "item": "page 1"}).status_code == 400
    step("undo")
    assert chart()["pages"] == plain["pages"]


def test_a_limb_chart_is_given_of_the_bars_that_are_asked_for(client, heard):
    def bars(query):
        address = f"/api/songs/{heard['id']}/chart?view=limbs{query}"
        found = client.get(address).json()
        return found, {
            int(n) for page in found["pages"] for n in re.findall(r'id="bar-(\d+)"', page)
        }

    whole, every = bars("")
    assert whole["stretches"][0]["first"] == 1 and len(every) == len(whole["bars"]) - 1
    stretch = whole["stretches"][-1]
    _, some = bars(f"&bars={stretch['first']}-{stretch['last']}")
    assert some == set(range(stretch["first"], stretch["last"] + 1))
    for odd in ("5", "0-2", "7-3", "1-9999", "a-b", "1-"):
        assert bars(f"&bars={odd}")[1] == every, f"{odd} is no stretch of the song"
    assert 'class="count"' in whole["pages"][0]
    assert 'class="count"' not in bars("&count_row=0")[0]["pages"][0]


def test_strokes_without_a_place_are_listed_and_come_back(edit):
    edit("add_stroke", id="mine", bar=7, place="1/4", part="cowbell", limb="RH")
    moment = Score.from_json(document()).seconds(7, Fraction(1, 4))
    edit("confirm_bars", bar=6, last=6, confirmed=True)
    edit("shift_one", beats=1)  # the confirmed bar lies over the place now, with its own strokes
    [aside] = [a for a in Score.from_json(document()).aside if a.stroke.id == "mine"]
    assert aside.moment == pytest.approx(moment, abs=1e-3)
    assert "mine" not in Score.from_json(document()).strokes
    edit("put_back", id="mine", bar=2, place="1/4")
    back = Score.from_json(document())
    assert back.strokes["mine"].bar == 2 and "mine" not in {a.stroke.id for a in back.aside}


def test_a_song_that_was_not_heard_has_no_transcription(client, song):
    assert client.get(f"/api/songs/{song['id']}/transcription").status_code == 404


def test_the_demo_is_loaded_once(db, tmp_path):
    from django.core.management import call_command
    from library.models import Song

    call_command("load_demo")
    call_command("load_demo")
    assert Song.objects.count() == 8


def test_edits_of_one_bar_from_two_windows_are_told_and_merge_elsewhere(edit, client, heard):
    edit("add_stroke", id="mine", bar=2, place="1/4", part="cowbell", limb="LH")
    elsewhere = edit("add_stroke", base=0, id="b", bar=5, place="1/4", part="cowbell", limb="LH")
    assert len(elsewhere.json()["patches"]) == 2
    clash = edit("add_stroke", base=0, id="c", bar=2, place="3/4", part="cowbell", limb="LH")
    assert clash.status_code == 409 and clash.json()["bars"] == [2]
    assert "Bar 2 changed in another window" in clash.json()["detail"]
    version = Arrangement.objects.get().version
    over = client.post(
        f"/api/songs/{heard['id']}/transcription/edits",
        {
            "base": 0,
            "over": True,
            "edit": {
                "operation": "add_stroke",
                "id": "c",
                "bar": 2,
                "place": "3/4",
                "part": "cowbell",
                "limb": "LH",
            },
        },
        format="json",
    )
    assert over.json()["version"] == version + 1


def test_an_edit_is_offered_to_the_bars_alike_and_spread_by_one_more(edit, client, heard):
    strokes = client.get(f"/api/songs/{heard['id']}/transcription").json()["score"]["strokes"]
    snare = next(s for s in strokes if s["part"] == "snare" and s["bar"] == 3)
    offer = edit("set_part", id=snare["id"], part="cross_stick").json()["alike"]
    assert offer["bar"] == 3 and len(offer["bars"]) >= 4
    edit("spread", bars=offer["bars"], changes=offer["changes"])
    now = Score.from_json(document()).by_bar()
    for bar in offer["bars"]:
        assert any(s.part == "cross_stick" for s in now[bar])


@pytest.fixture
def get(client, heard):
    return lambda path: client.get(f"/api/songs/{heard['id']}/transcription/{path}")


def test_bars_are_compared_with_each_other_and_with_what_was_heard(edit, get):
    same = get("compare?bar=3&with=3").json()
    assert {d["kind"] for d in same["differences"]} == {"same"}
    edit("add_stroke", id="w", bar=3, place="1/4", part="cowbell", limb="LH")
    told = get("compare?bar=3&with=heard").json()
    assert [d["says"] for d in told["differences"] if d["says"]] == ["cowbell on 1e is new"]
    other = get("compare?bar=3&with=8").json()
    assert any(d["kind"] != "same" for d in other["differences"])
    for wrong in ("bar=0&with=2", "bar=3&with=99", "bar=heard&with=2", "bar=3"):
        assert "Name bars of the song" in get(f"compare?{wrong}").json()["detail"]


def test_bars_are_told_and_written_as_count_text(edit, get):
    text = get("text?first=3&last=4").json()["text"]
    assert "hat:" in text and "|" in text
    assert edit("write_bars", bar=3, bars=2, text=text, new="t").status_code == 200
    assert get("text?first=3&last=4").json()["text"] == text
    wrong = edit("write_bars", bar=3, text="hat: 1 nine", new="u")
    assert wrong.status_code == 422 and wrong.json()["detail"].startswith("Line 1, column 8")
    assert "before the last" in get("text?first=9&last=2").json()["detail"]


def test_the_review_queue_shrinks_with_each_answer(edit, get):
    strokes = Score.from_json(document()).by_bar()[5]
    edit("set_doubt", id=strokes[0].id, doubt="doubtful", reason="might be a clap")
    queue = get("review").json()
    [marked] = [d for d in queue["doubts"] if d["kind"] == "marked"]
    assert "might be a clap" in marked["says"] and queue["minutes"] > 0
    edit("set_doubt", id=strokes[0].id, doubt="")
    after = get("review").json()["doubts"]
    assert len(after) < len(queue["doubts"]) and marked["key"] not in [d["key"] for d in after]


def test_states_of_bars_and_all_that_was_heard_are_told(edit, client, heard):
    found = client.get(f"/api/songs/{heard['id']}/transcription").json()
    assert set(found["form"]["states"]) == {"heard"} and len(found["hits"]) > 100
    edit("confirm_bars", bar=1, last=2, confirmed=True)
    answer = edit("set_limb", id=found["score"]["strokes"][-1]["id"], limb="LH").json()
    assert answer["form"]["states"][:2] == ["confirmed", "confirmed"]
    assert "review" in answer["form"]["states"]
    edit("confirm_bars", bar=1, last=16, confirmed=True)
    assert client.get(f"/api/songs/{heard['id']}").json()["stage"] == "confirmed"


def test_the_spectrum_of_a_stretch_is_a_picture_of_bands(client, heard):
    take = client.get(f"/api/songs/{heard['id']}/transcription").json()["take"]
    picture = client.get(f"/api/takes/{take}/picture?start=1&end=3")
    assert len(picture.content) % 84 == 0 and abs(len(picture.content) / 84 - 200) <= 2
    assert max(picture.content) == 255
    for wrong in ("start=3&end=1", "start=0&end=99", "start=a&end=2", ""):
        refused = client.get(f"/api/takes/{take}/picture?{wrong}")
        assert refused.status_code == 400 and refused.json()["detail"]
