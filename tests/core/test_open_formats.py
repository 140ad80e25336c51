"""What open formats hold beyond the strokes: valid MusicXML, MIDI by feel and by own keys, tabs as
people send them round, headers of count text, MEI."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction
from io import BytesIO
from pathlib import Path
from xml.etree import ElementTree as ET

import mido
import pytest
import symusic
from hypothesis import given, settings
from lxml import etree

from orchesis import charting
from orchesis.cli import main
from orchesis.errors import BadScore
from orchesis.formats import (
    count,
    count_writer,
    midi,
    midi_reader,
    musicxml,
    musicxml_reader,
    registry,
    tab,
)
from orchesis.formats.midi_keys import keys_of
from orchesis.hands import with_limbs
from orchesis.score import Meter, Score
from tests.core.test_formats import scores
from tests.random_bars import random_score

DATA = Path(__file__).parent / "data"
RICH = with_limbs(
    count.read(
        "title: Rich & Strange\nswing: sixteenth 0.58\ntempo: 92\n== Verse\n"
        "snare: 1.f (2e.L) 2l.> 3.d 4.z | 1 1e.R 1& 1a\nhat: 8ths 4&.o | 1.o 2.h\n"
        'crash: 1.x | -\nhat_foot: - | 4\nkick: 1 3 | 1\ncue: "watch" 2& | -\n'
        "== Bridge\nmeter: 7/8\nfelt: half\nhat: 8ths\nsnare: 3 5\nkick: 1\n\n"
        "meter: 12/8\nride: 1 1t 1l 2 2t 2l\n"
    )
)


class _Local(etree.Resolver):
    """What the schema imports lies beside it: nothing is fetched."""

    def resolve(self, url, _public, context):
        return self.resolve_filename(str(DATA / url.rsplit("/", 1)[-1]), context)


@pytest.fixture(scope="module")
def schema():
    parser = etree.XMLParser(no_network=True)
    parser.resolvers.add(_Local())
    return etree.XMLSchema(etree.parse(str(DATA / "musicxml-4.0.xsd"), parser))


def test_a_rich_song_is_valid_musicxml(schema):
    schema.assertValid(etree.fromstring(musicxml.write(RICH)))


@settings(max_examples=40)
@given(scores())
def test_any_part_is_valid_musicxml(schema, score):
    schema.assertValid(etree.fromstring(musicxml.write(score)))


def test_the_schema_finds_what_is_wrong(schema):
    spoilt = musicxml.write(RICH).replace(b"<type>eighth", b"<type>8th", 1)
    assert not schema.validate(etree.fromstring(spoilt))


def test_swing_hands_chokes_words_and_counts_stand_in_musicxml():
    written = musicxml.write(RICH)
    again, lost = musicxml_reader.read(written)
    assert not lost and again.swing == ("sixteenth", 0.58)
    by = {(s.bar, s.place, s.part): s for s in again.strokes.values()}
    assert by[1, Fraction(0), "crash"].choked
    hands = {(s.bar, s.place): s.limb for s in again.strokes.values() if s.limb_by == "person"}
    assert hands == {(1, Fraction(5, 4)): "LH", (2, Fraction(1, 4)): "RH"}
    assert again.notes[3] == "half-time feel"
    counts = [e.text for e in ET.fromstring(written).iterfind(".//lyric/text")]
    assert counts[:4] == ["1", "&", "2", "e"]


def _heard(content: bytes) -> list[tuple[float, int]]:
    now, made = 0.0, []
    for message in mido.MidiFile(file=BytesIO(content)):
        now += message.time
        if message.type == "note_on" and message.velocity:
            made.append((now, message.note))
    return made


def test_midi_sounds_at_the_moments_it_is_asked_for():
    song = count.read("tempo: 120\nsnare: 2 4 | 2 4\nkick: 1 3 | 1 3")
    late = midi.write(song, lambda s: song.seconds(s.bar, s.place) + 0.02 * (s.part == "snare"))
    moved = [
        after - before
        for (before, key), (after, _) in zip(_heard(midi.write(song)), _heard(late), strict=True)
        if key == 38
    ]
    assert moved == pytest.approx([0.02] * 4, abs=0.002)
    assert [t for t, key in _heard(late) if key == 36] == pytest.approx([0, 1, 2, 3], abs=0.002)


def test_midi_goes_by_the_keys_of_a_kit():
    keys = keys_of("# my pads\nsnare: 40, 38\ncrash: 55\n\nsplash: 60")
    song = count.read("snare: 2 4\nkick: 1 3\ncrash: 1")
    content = midi.write(song, keys=keys)
    assert {k for _, k in _heard(content)} == {40, 36, 55}
    again, lost = midi_reader.read(content, keys=keys)
    assert not lost and {s.part for s in again.strokes.values()} == {"snare", "kick", "crash"}


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("snare 38", "Line 1 of the keys: “snare 38” is not like"),
        ("kick: 36\ngong: 50", "Line 2 of the keys: There is no kit part called “gong”"),
        ("snare: 200", "Line 1 of the keys: A MIDI key"),
        ("snare: 38\nkick: 38", "Line 2 of the keys: Key 38 is Snare already."),
        ("snare:", "Line 1 of the keys: A MIDI key"),
    ],
)
def test_keys_that_are_none_are_told_by_their_line(text, says):
    with pytest.raises(BadScore) as told:
        keys_of(text)
    assert says in str(told.value)


@settings(max_examples=20)
@given(scores())
def test_another_library_hears_the_same_midi(score):
    content = midi.write(score)
    other = symusic.Score.from_midi(content)
    notes = [(n.time, n.pitch) for track in other.tracks for n in track.notes]
    mine = []
    for track in mido.MidiFile(file=BytesIO(content)).tracks:
        now = 0
        for message in track:
            now += message.time
            if message.type == "note_on" and message.velocity:
                mine.append((now, message.note))
    assert sorted(notes) == sorted(mine)


MESSY = """Found in a drawer, played by ear
        1e&a2e&a3e&a4e&a
HH    |x-x-x-x-x-x-x-x-|x-x-x-x-x-x-x-xxx| x2
SD    |----o-------o---|----o--?----o---|
Gong  |x---------------|----------------|
BD    |o-------o-------|o-------o-------|
"""


def test_a_messy_tab_is_read_leniently_with_every_fault_told():
    with pytest.raises(BadScore) as first:
        tab.read_strictly(MESSY.encode())
    assert "“Gong” is no drum" in str(first.value)
    score, lost = tab.read(MESSY.encode())
    assert score.bar_count == 4
    assert [s.place for s in score.strokes_of(3) if s.part == "snare"] == [1, 3]
    assert len(lost) == 4 and any("Gong" in what for what in lost)
    assert any("Line 4, column 32: “?” is no sign" in what for what in lost)


def test_nothing_of_a_tab_is_left_says_the_first_fault():
    with pytest.raises(BadScore, match="is no drum"):
        tab.read(b"Gong |x---|\n")


def test_a_pickup_is_a_short_bar_counted_as_the_end_of_a_whole_one():
    score = count.read("pickup: 1\nsnare: 4 4&\n\nkick: 1 3\nsnare: 2 4")
    assert [str(m) for m in score.meters] == ["1/4", "4/4"]
    assert [s.place for s in score.strokes_of(1)] == [0, Fraction(1, 2)]
    assert count.read(count_writer.whole(score)).meters == score.meters


def test_what_stands_before_a_pickup_is_told():
    with pytest.raises(BadScore, match="Line 2, column 1: the pick-up begins on beat 4"):
        count.read("pickup: 1\nsnare: 2 4")


def test_a_pickup_in_dotted_beats_keeps_its_tempo():
    score = count.read("meter: 12/8\ntempo: 60\npickup: 1\nsnare: 4 4t 4l\n\nkick: 1 3")
    assert score.meters == (Meter(3, 8), Meter(12, 8))
    assert [s.place for s in score.strokes_of(1)] == [0, 1, 2]
    assert score.seconds(2) == pytest.approx(1.0)


@pytest.mark.parametrize("value", ["4", "x", "12"])
def test_a_pickup_of_a_whole_bar_is_refused(value):
    with pytest.raises(BadScore, match="Line 1, column 8"):
        count.read(f"pickup: {value}\nkick: 1")


def test_felt_and_swing_hold_from_where_they_stand():
    text = (
        "kick: 1 3 | 1 3\n\nfelt: half\nkick: 1 | 1\n\nfelt: straight\nswing: eighth 0.6\nkick: 1"
    )
    score = count.read(text)
    assert score.notes == {3: "half-time feel", 5: "straight feel, 8ths swung 60 : 40"}
    assert score.swing == ("none", 0.5)
    again = count.read(count_writer.whole(count.read(text.rsplit("\n\n", 1)[0])))
    assert again.notes == {3: "half-time feel"}


def test_a_chart_is_one_mei_document_with_its_words():
    root = ET.fromstring(charting.mei(RICH, charting.Wish(counts="all", sticking="all")))
    mei = "{http://www.music-encoding.org/ns/mei}"
    assert root.findtext(f".//{mei}title") == "Rich & Strange"
    assert [
        m.get("{http://www.w3.org/XML/1998/namespace}id") for m in root.iter(f"{mei}measure")
    ] == [f"bar-{n}" for n in range(1, RICH.bar_count + 1)]
    names = ["".join(r.itertext()) for r in root.iter(f"{mei}reh")]
    assert names == ["Verse", "Bridge"]
    kinds = {d.get("type") for d in root.iter(f"{mei}dir")}
    assert kinds == {"count", "stick", "cue", "note"}


def test_the_shell_converts_with_feel_keys_and_strictness(tmp_path, capsys):
    song, keys = tmp_path / "a.count", tmp_path / "keys.txt"
    song.write_text("swing: eighth 0.66\ntempo: 60\nhat: 8ths\nkick: 1 3", encoding="utf-8")
    keys.write_text("hat_closed: 22", encoding="utf-8")
    out = tmp_path / "a.mid"
    assert main(["convert", str(song), str(out), "--feel", "song", "--keys", str(keys)]) == 0
    hats = [t for t, key in _heard(out.read_bytes()) if key == 22]
    assert hats[1] == pytest.approx(0.66, abs=0.01)
    messy = tmp_path / "m.tab"
    messy.write_text(MESSY, encoding="utf-8")
    assert main(["convert", str(messy), str(tmp_path / "m.count")]) == 0
    assert "Gong" in capsys.readouterr().err
    assert main(["convert", str(messy), str(tmp_path / "m.count"), "--strict"]) == 2


def _bars_of(*bars: str) -> bytes:
    """A MusicXML file whose bars hold so many snares each; what stands behind the number is put
    into the bar."""
    measures = []
    for n, text in enumerate(bars, 1):
        count_of, _, more = text.partition(" ")
        notes = "".join(
            "<note><unpitched><display-step>C</display-step><display-octave>5</display-octave>"
            "</unpitched><duration>1</duration><voice>1</voice><type>quarter</type></note>"
            for _ in range(int(count_of))
        )
        measures.append(f'<measure number="{n}">{more}{notes}</measure>')
    head = "<attributes><divisions>1</divisions></attributes>"
    measures[0] = measures[0].replace(">", f">{head}", 1)
    return (
        '<score-partwise version="4.0"><part-list><score-part id="P1"><part-name>D</part-name>'
        f'</score-part></part-list><part id="P1">{"".join(measures)}</part></score-partwise>'
    ).encode()


FORWARD = '<barline location="left"><repeat direction="forward"/></barline>'
BACK = '<barline location="right"><repeat direction="backward"/></barline>'


def _ending(number: str, kind: str, more: str = "") -> str:
    return f'<barline><ending number="{number}" type="{kind}"/>{more}</barline>'


AGAIN = '<repeat direction="backward"/>'
THRICE = '<barline><repeat direction="backward" times="3"/></barline>'
FIRST = _ending("1", "start") + _ending("1", "stop", AGAIN)
SECOND = _ending("2", "start") + _ending("2", "stop")
TWICE = _ending("1, 2", "start") + _ending("1, 2", "stop", AGAIN)
THIRD = _ending("3", "start") + _ending("3", "discontinue")
SIGN = "<attributes><measure-style><measure-repeat type='{}'>1</measure-repeat></measure-style>{}"


@pytest.mark.parametrize(
    ("bars", "played"),
    [
        (("1", f"2 {FORWARD}", f"3 {BACK}", "4"), "1 2 3 2 3 4"),
        (("1", f"2 {BACK}", "3"), "1 2 1 2 3"),
        ((f"1 {FORWARD}", f"2 {THRICE}"), "1 2 1 2 1 2"),
        ((f"1 {FORWARD}", f"2 {FIRST}", f"3 {SECOND}", "4"), "1 2 1 3 4"),
        ((f"1 {FORWARD}", f"2 {TWICE}", f"3 {THIRD}"), "1 2 1 2 1 3"),
        ((f"1 {BACK}", f"2 {BACK}"), "1 1 2 2"),
        (
            (
                "2",
                "0 " + SIGN.format("start", "</attributes>"),
                "3 " + SIGN.format("stop", "</attributes>"),
            ),
            "2 2 3",
        ),
    ],
)
def test_repeats_of_other_peoples_pages_are_written_out(bars, played):
    score, lost = musicxml_reader.read(_bars_of(*bars))
    found = [sum(1 for _ in score.strokes_of(b)) for b in range(1, score.bar_count + 1)]
    assert " ".join(map(str, found)) == played and not lost


def test_a_jump_is_told():
    _, lost = musicxml_reader.read(_bars_of("1", '2 <sound dacapo="yes"/>'))
    assert any("da capo" in what for what in lost)


def test_rhythm_words_and_how_to_are_told_where_they_are_lost():
    told = replace(RICH, spoken=((0.0, "TEA"),), how_to={"ghost": "low"})
    lost = registry.lost(registry.format_of("a.musicxml"), told)
    assert {"rhythm words", "how signs are played"} <= set(lost)
    assert not registry.lost(registry.format_of("a.orchesis"), told)


def test_a_tab_of_too_many_bars_is_refused():
    row = "HH|" + "x---|" * 40 + " x99\n"
    with pytest.raises(BadScore, match="more than 3000 bars"):
        tab.read(row.encode())


@pytest.mark.parametrize("seed", range(8))
def test_signs_stay_with_their_stroke_through_musicxml(seed):
    """Of two strokes at once each keeps its own accent, ghost, flam or roll."""
    score = random_score(seed, 40)
    back, _ = registry.read("x.musicxml", registry.write("x.musicxml", score)[0])

    def signs(of: Score) -> dict[tuple[int, Fraction, str], tuple[str, str | None, bool]]:
        return {
            (s.bar, s.place, s.part): (s.dynamic, s.ornament, s.choked) for s in of.strokes.values()
        }

    assert signs(back) == signs(score)
