"""Open formats out, and count text there and back, for any part that can be written."""

import xml.etree.ElementTree as ET
from fractions import Fraction
from io import BytesIO

import mido
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from orchesis.formats import count, count_writer, midi, musicxml
from orchesis.score import KIT, Meter, PulseMap, Score, Section, Stroke
from orchesis.score.swing import swung

METERS = ("4/4", "3/4", "5/4", "7/8", "6/8", "12/8", "2/4")
#: The parts of a beat that each kind of meter is written in.
SIMPLE = (
    Fraction(0),
    Fraction(1, 4),
    Fraction(1, 2),
    Fraction(3, 4),
    Fraction(1, 3),
    Fraction(5, 6),
)
EIGHTHS = (Fraction(0), Fraction(1, 2))
COMPOUND = (Fraction(0), Fraction(1, 3), Fraction(2, 3), Fraction(1, 6))


@st.composite
def scores(draw):
    """One to four bars, each of its own meter, with a wandering pulse and any strokes."""
    meters = tuple(
        Meter.parse(draw(st.sampled_from(METERS))) for _ in range(draw(st.integers(1, 4)))
    )
    beats = sum(m.beats for m in meters)
    steps = draw(st.lists(st.floats(0.25, 1.2), min_size=beats, max_size=beats))
    times = [0.4]
    for step in steps:
        times.append(times[-1] + step)
    strokes, taken = [], set()
    for n in range(draw(st.integers(0, 20))):
        bar = draw(st.integers(1, len(meters)))
        meter = meters[bar - 1]
        inside = COMPOUND if meter.is_compound else EIGHTHS if meter.unit == 8 else SIMPLE
        place = draw(st.integers(0, meter.beats - 1)) + draw(st.sampled_from(inside))
        part = draw(st.sampled_from(sorted(KIT)))
        if (bar, place, part) in taken:
            continue
        taken.add((bar, place, part))
        dynamic = draw(st.sampled_from(["ghost", "normal", "accent"]))
        loudness = {"ghost": 0.3, "normal": 0.7, "accent": 0.95}[dynamic]
        strokes.append(Stroke(f"s{n}", bar, place, part, KIT[part].limb, dynamic, loudness))
    whole = Section("a", "Song", "A", 1, len(meters))
    return Score(meters, PulseMap.of(times), sections=(whole,)).with_strokes(strokes)


def told(score):
    return sorted(
        (s.bar, s.place, s.part, s.limb, s.dynamic, s.ornament) for s in score.strokes.values()
    )


def as_text(score):
    """A whole text: each bar under its own meter."""
    return "\n".join(
        f"meter: {m}\n{count_writer.write(score, bar, bar) or 'kick: -'}"
        for bar, m in enumerate(score.meters, 1)
    )


@settings(max_examples=80)
@given(scores())
def test_any_part_comes_back_from_its_count_text(score):
    again = count.read(as_text(score))
    assert again.meters == score.meters
    assert told(again) == told(score)


@settings(max_examples=60)
@given(scores())
def test_midi_follows_the_pulse_at_every_stroke(score):
    song = mido.MidiFile(file=BytesIO(midi.write(score)))
    now, found = score.pulse.times[0], []
    for message in song:  # with its seconds
        now += message.time
        if message.type == "note_on" and message.velocity:
            found.append((now, message.note, message.velocity))
    true = [
        (score.seconds(s.bar, s.place), KIT[s.part].midi, round(127 * s.loudness))
        for s in score.ordered()
    ]
    assert len(found) == len(true)
    assert sorted(t for t, *_ in found) == pytest.approx(sorted(t for t, *_ in true), abs=0.003)
    assert sorted(f[1:] for f in found) == sorted(t[1:] for t in true)


@settings(max_examples=40)
@given(scores())
def test_musicxml_has_every_bar_full_and_every_stroke_once(score):
    root = ET.fromstring(musicxml.write(score).split(b">", 2)[2])
    divisions = int(root.findtext(".//divisions"))
    measures = list(root.iter("measure"))
    assert len(measures) == score.bar_count
    notes = 0
    for measure, meter in zip(measures, score.meters, strict=True):
        at, furthest = 0, 0
        for child in measure:
            length = int(child.findtext("duration") or 0)
            if child.tag == "backup":
                at -= length
            elif child.tag == "forward" or (child.tag == "note" and child.find("chord") is None):
                at += length
            furthest = max(furthest, at)
            notes += child.tag == "note" and child.find("unpitched") is not None
        assert furthest == meter.quarters * divisions
    assert notes == len(score.strokes)


@settings(max_examples=40)
@given(scores())
def test_a_score_is_its_json(score):
    again = Score.from_json(score.to_json())
    assert again.to_json() == score.to_json()
    assert again.strokes == score.strokes and again.meters == score.meters


@given(
    st.sampled_from(["none", "eighth", "sixteenth"]),
    st.floats(0.5, 0.75),
    st.lists(st.fractions(0, 8, max_denominator=12), min_size=2, max_size=30),
)
def test_swing_moves_strokes_but_never_past_one_another_nor_off_the_beat(level, ratio, places):
    fine = {p for p in places if (p % 1).denominator in (1, 2, 4)}
    moved = [swung(p, (level, ratio)) for p in sorted(fine)]
    assert moved == sorted(moved)
    for p in fine:
        if p.denominator == 1:
            assert swung(p, (level, ratio)) == p
        if level == "none":
            assert swung(p, (level, ratio)) == float(p)
    for p in places:
        if (p % 1).denominator == 3:
            assert swung(p, (level, ratio)) == pytest.approx(float(p))
