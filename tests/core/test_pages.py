"""Engraving and formats: what is written is what a drummer expects on the stand."""

import re
from concurrent.futures import ThreadPoolExecutor
from fractions import Fraction
from io import BytesIO
from xml.etree import ElementTree as ET

import mido
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from orchesis.charting import pages as svg_pages
from orchesis.charting import pdf
from orchesis.engraving.mei import mei
from orchesis.formats import count, midi, musicxml
from orchesis.page import page_of
from orchesis.page.rhythm import spell
from orchesis.score import Meter, PulseMap, Score, Section, Stroke
from tests.songs import ROCK

SCORE = count.read(ROCK)


METERS = st.builds(Meter, st.integers(1, 32), st.sampled_from([2, 4, 8, 16]))
#: Beat, place in it: from every grid that an edit accepts (orchesis/score/untrusted.py).
PLACES = st.tuples(st.integers(0, 31), st.integers(1, 48), st.integers(0, 47))


@settings(max_examples=200)
@given(METERS, st.sets(PLACES, max_size=40))
def test_every_voice_fills_its_bar_and_keeps_every_place(meter, picks):
    places = {Fraction(beat % meter.beats) + Fraction(k % parts, parts) for beat, parts, k in picks}
    groups = spell(places, meter)
    at, found = Fraction(0), set()
    for g in groups:
        assert g.start * meter.beat_quarters == at
        for e in g.events:
            if e.place is not None:
                assert e.place * meter.beat_quarters == at
                found.add(e.place)
            at += e.quarters * g.ratio
    assert at == meter.quarters and found == places
    # Bounded work: so many signs a place and a beat at the most.
    assert sum(len(g.events) for g in groups) <= 10 * (len(places) + meter.count)


@pytest.mark.parametrize(
    ("text", "places"),
    [
        ("1/8", ["0"]),
        ("1/8", []),
        ("4/4", ["1/8", "1/6"]),
        ("4/4", ["1/3", "3/8"]),
        ("4/4", ["1/5", "1/4"]),
        ("4/4", ["15/16"]),
        ("7/8", ["1/3", "2/3"]),
        ("1/16", ["47/48", "46/47"]),
    ],
)
def test_what_has_no_usual_spelling_is_engraved_and_written_all_the_same(text, places):
    meter = Meter.parse(text)
    strokes = {str(n): Stroke(str(n), 1, Fraction(p), "snare") for n, p in enumerate(places)}
    pulse = PulseMap.even(100, meter.beats)
    score = Score((meter,), pulse, strokes, (Section("a", "A", "A", 1, 1),))
    assert sum(page.count('class="note"') for page in svg_pages(score)) == len(places)
    measure = ET.fromstring(musicxml.write(score).split(b'dtd">', 1)[1]).find("part/measure")
    lengths = [int(d.text) for d in measure.iterfind("note/duration")]
    assert sum(lengths) == meter.quarters * musicxml.DIVISIONS


def test_the_staff_says_what_is_played():
    score = count.read("""
hat:   8ths 4&.o
snare: 2.> (2a) 4.>
kick:  1 3
""")
    page = page_of(score)
    text = mei(page.systems[0], page.staves)
    root = ET.fromstring(text.split("?>", 1)[1])
    ns = {"m": "http://www.music-encoding.org/ns/mei"}
    layers = root.findall(".//m:layer", ns)
    assert len(layers) == 2
    hands, feet = layers
    assert len(hands.findall(".//m:note[@head.shape='x']", ns)) == 8
    assert len(hands.findall(".//m:note[@head.mod='paren']", ns)) == 1
    assert len(hands.findall(".//m:artic[@artic='acc']", ns)) == 2
    assert len(hands.findall(".//m:artic[@artic='open']", ns)) == 1
    assert len(hands.findall("m:beam", ns)) == 4
    assert len(feet.findall(".//m:note[@loc='1']", ns)) == 2
    assert not feet.findall(".//m:rest", ns), "no clutter of rests in the second voice"


def test_four_bars_a_line_and_sections_begin_lines():
    score = count.read(
        "== A\nkick:"
        + " 1 |" * 7
        + " 1\n== B\nkick:"
        + " 1 |" * 4
        + " 1\n== C\nkick:"
        + " 1 |" * 6
        + " 1"
    )
    firsts = [s.bars[0].number for s in page_of(score).systems]
    assert firsts == [1, 5, 9, 14, 18]


def test_pages_carry_the_ids_of_strokes_and_bars():
    pages = svg_pages(SCORE)
    text = "".join(pages)
    for stroke in SCORE.strokes.values():
        assert f'id="n-{stroke.id}"' in text
    assert all(f'id="bar-{b}"' in text for b in range(1, 17))
    assert "Plain Rock" in text and "Times" not in text


def test_pages_are_engraved_in_any_thread():
    """A web server engraves in threads that did not import the engraver."""
    with ThreadPoolExecutor(3) as pool:
        texts = [ROCK.replace("Plain Rock", f"Rock {n}") for n in range(6)]
        pages = list(pool.map(lambda t: svg_pages(count.read(t)), texts))
    assert all(f"Rock {n}" in p[0] for n, p in enumerate(pages))


def test_the_pdf_has_its_pages_and_fonts():
    data = pdf(SCORE)
    assert data.startswith(b"%PDF")
    assert b"AtkinsonHyperlegible" in data
    assert len(re.findall(rb"/Type\s*/Page\b", data)) == len(svg_pages(SCORE))


@pytest.mark.parametrize(
    "text",
    [
        "meter: 6/8\nhat: 1 1t 1l 2 2t 2l\nkick: 1",
        "meter: 7/8\nhat: 8ths\nsnare: 3 5 7\nkick: 1",
        "snare: 1:0/5 1:1/5 1:2/5 1:3/5 1:4/5 2.f 3.d 4.z",
        "kick: -",
        "kick: 1 | - | 1",
    ],
)
def test_odd_bars_are_engraved(text):
    score = count.read(text)
    pages = "".join(svg_pages(score))
    assert all(f'id="n-{key}"' in pages for key in score.strokes)
    assert all(f'id="bar-{bar}"' in pages for bar in range(1, score.bar_count + 1))


def test_midi_holds_the_strokes_the_tempo_and_the_sections():
    song = mido.MidiFile(file=BytesIO(midi.write(SCORE)))
    notes = [m for m in song.tracks[1] if m.type == "note_on"]
    assert len(notes) == len(SCORE.strokes)
    assert {m.channel for m in notes} == {9}
    assert song.length == pytest.approx(SCORE.seconds(16, Fraction(7, 2)), abs=0.3)
    assert [m.text for m in song.tracks[0] if m.type == "marker"] == ["Verse", "Chorus"]
    first = next(m for m in song.tracks[0] if m.type == "set_tempo")
    assert mido.tempo2bpm(first.tempo) == pytest.approx(100)


def test_musicxml_bars_are_full_and_notes_complete():
    root = ET.fromstring(musicxml.write(SCORE).split(b">", 2)[2])
    assert root.get("version") == "4.0"
    divisions = int(root.findtext(".//divisions"))
    notes = 0
    for measure in root.iter("measure"):
        at = 0
        for child in measure:
            length = int(child.findtext("duration") or 0)
            if child.tag == "backup":
                assert at == 4 * divisions
                at -= length
            elif child.tag == "forward" or (child.tag == "note" and child.find("chord") is None):
                at += length
            notes += child.tag == "note" and child.find("unpitched") is not None
        assert at == 4 * divisions, measure.get("number")
    assert notes == len(SCORE.strokes)
    assert len(root.findall(".//rehearsal")) == 2
    assert [n.text for n in root.findall(".//notehead")].count("x") > 60


def test_a_ghost_in_musicxml_is_in_parentheses():
    root = ET.fromstring(musicxml.write(count.read("snare: (2) 4.>\nhat: 8ths")).split(b">", 2)[2])
    assert len(root.findall(".//notehead[@parentheses='yes']")) == 1
    assert len(root.findall(".//accent")) == 1
