"""What is measured of real records, on hearings made up for it; loops as the pulse finds them."""

from dataclasses import replace

import numpy as np
import pytest

from materials import naming
from materials import record_measures as measures
from materials.record_list import RECORDS, Record, side
from orchesis.formats import count
from orchesis.hearing import loops
from orchesis.hearing.pulsegrid import ROWS, stroke_rows
from orchesis.hearing.types import Beat, HeardMeter, HeardSection, Hearing, Hit, Tempo
from orchesis.score import KitSound
from tests.edits import timed
from tests.songs import ROCK

RECORD = Record("made-up", 120.0, 0.25, silent=((0.0, 10.0),), borders=(10.0, 30.0), folds=(10, 60))


def hearing(beats, *, bpm=120.0, hits=(), size=4, sections=((1, 30, "A"),), duration=60.0):
    made = tuple(Beat(float(t), i // size + 1, i % size + 1) for i, t in enumerate(beats))
    return Hearing(
        duration=duration,
        sample_rate=44100,
        tempo=Tempo(bpm, bpm, bpm, True, 0.9),
        meters=(HeardMeter(1, size, 4),),
        beats=made,
        hits=tuple(hits),
        sections=tuple(HeardSection(*s) for s in sections),
        sounding=(0.0, duration),
    )


CLICK = 0.25 + 0.5 * np.arange(120)


def test_beats_on_the_click_count_at_its_half_and_double_too():
    for bpm, beats in ((120, CLICK), (60, CLICK[1::2]), (240, 0.25 * np.arange(1, 240))):
        found = measures.on_click(RECORD, hearing(beats, bpm=bpm))
        assert found["beats"] > 0.98 and found["jumps"] == 0 and found["tempo"] == 1


def test_drifting_beats_and_jumps_of_the_one_are_seen():
    late = CLICK + np.where(CLICK < 20, 0.2, 0)
    found = measures.on_click(RECORD, hearing(late))
    assert found["beats"] == pytest.approx(2 / 3, abs=0.03) and found["in silence"] == 0
    jumped = hearing(np.concatenate([CLICK[:41], CLICK[42:]]))
    assert measures.on_click(RECORD, jumped)["jumps"] == 1


def test_strokes_in_silence_and_borders_are_counted():
    hits = [Hit(t, "crash", 0.7, 0.6) for t in (2.0, 9.95, 12.0)]
    heard = hearing(CLICK, hits=hits, sections=((1, 5, "A"), (6, 25, "B")))
    assert measures.in_silence(RECORD.silent, heard) == (1, 10.0)
    assert measures.borders(RECORD, heard) == (1, 2)
    assert measures.sections_a_minute(heard) == 2


def test_a_stroke_where_the_folded_record_has_none_is_counted():
    band = np.zeros(6000)
    for t in np.arange(0.25, 60, 1.0):
        band[round(t * 100)] = 1.0
    hits = [Hit(0.25 + k, "kick", 0.7, 0.9) for k in range(12, 40)]
    hits += [Hit(0.625 + k, "kick", 0.7, 0.9) for k in range(12, 16)]
    assert measures.folded(band, RECORD, hits, "kick") == (4, 32)


def test_a_bed_tells_what_is_right_and_the_last_bars():
    truth = {
        "hits": [{"time": 12 + k, "part": "kick"} for k in range(20)],
        "beats": [
            {"time": float(t), "bar": i // 4 + 1, "beat": i % 4 + 1} for i, t in enumerate(CLICK)
        ],
        "tempo": {"bpm": 120.0},
        "silent": [[0.0, 10.0]],
    }
    hits = [Hit(12 + k, "kick", 0.7, 0.9) for k in range(16)] + [Hit(5.0, "crash", 0.7, 0.5)]
    heard = hearing(CLICK + 0.005, hits=hits)
    found = measures.on_bed(truth, heard)
    assert found["right"] == pytest.approx(16 / 17) and found["recall"] == pytest.approx(0.8)
    assert found["downbeats"] > 0.98 and found["a minute in silence"] == 6
    assert measures.last_bars(truth, heard) == pytest.approx(5, abs=0.1)
    assert sum(right for _, right in measures.reliability(truth, hits)) == 16


def test_versions_of_a_piece_stand_on_one_side_and_both_sides_are_filled():
    assert side("track3_enhanced") == side("track3")
    sides = [side(r.stem) for r in RECORDS]
    assert min(sides.count("tune"), sides.count("bench")) > 15


def strokes(bars, beat):
    made = []
    for k in range(8 * bars):
        made.append(Hit(0.5 * k * beat, "hat_closed", 0.7, 0.9))
        if k % 2 == 0:
            made.append(Hit(0.5 * k * beat, ("kick", "snare")[k // 2 % 2], 0.9, 0.95))
    return made


@pytest.mark.parametrize("bars", [2, 4])
def test_a_loop_is_a_whole_number_of_bars(bars):
    beat = 60 / 104
    duration = 4 * bars * beat
    hits = strokes(bars, beat)
    grid = np.zeros((ROWS, int(duration / 0.02) + 1), np.float32)
    grid[:] = stroke_rows(((h.time, h.part, h.loudness, h.confidence) for h in hits), grid.shape[1])
    loop = loops.found(grid, hits, duration, (0.0, duration - 0.01))
    assert loop is not None and loop.size == 4
    assert loop.times == pytest.approx(beat * np.arange(4 * bars + 1))


def test_what_starts_late_or_is_long_is_no_loop():
    grid = np.zeros((ROWS, 300), np.float32)
    hits = strokes(2, 0.6)
    assert loops.found(grid, hits, 30.0, (0.0, 30.0)) is None
    assert loops.found(grid, hits[3:], 4.8, (0.4, 4.8)) is None
    assert loops.found(grid, hits, 4.8, (0.0, 3.9)) is None


def test_a_user_who_plays_five_of_each_sound_names_the_wrong_ones():
    score = timed(count.read(ROCK))
    truth = {"hits": [{"time": s.time, "part": s.part} for s in score.strokes.values()]}
    own = {}
    for k, s in score.strokes.items():
        number = 1 if s.part.startswith("hat") else 2
        heard = "ride" if number == 1 else s.part
        own[k] = s.changed(part=heard, measured=replace(s.measured, sound=number))
    wrong = replace(score, strokes=own, sounds=(KitSound(1, "ride"), KitSound(2, "snare")))
    told = naming.named(truth, wrong)
    assert told.before < 0.65 and told.after > 0.95
    assert told.answers == 1 and told.sounds == 2 and told.right >= 0.95 * told.of
