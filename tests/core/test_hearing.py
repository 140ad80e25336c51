"""Hearing on real sound: a plain rock beat alone, and through a band."""

import numpy as np
import pytest

from orchesis.errors import BadSound, Cancelled
from orchesis.formats import count
from orchesis.hearing import STEPS, listen
from tests import songs

SCORE = count.read(songs.ROCK)
TRUTH = songs.played(SCORE)


def f_measure(truth, found, window=0.05):
    truth, found = sorted(truth), sorted(found)
    hits, taken = 0, set()
    for t in truth:
        near = [i for i, f in enumerate(found) if abs(f - t) <= window and i not in taken]
        if near:
            taken.add(min(near, key=lambda i: abs(found[i] - t)))
            hits += 1
    return 2 * hits / max(1, len(truth) + len(found))


def times(events, *parts):
    return [t for t, part, *_ in events if part in parts]


def heard_times(hearing, *parts):
    return [h.time for h in hearing.hits if h.part in parts]


def test_a_plain_rock_beat_is_heard_without_help(heard_rock):
    assert heard_rock.tempo.bpm == pytest.approx(100, rel=0.01)
    assert heard_rock.tempo.steady
    assert (heard_rock.meter.beats, heard_rock.meter.unit) == (4, 4)
    bars = [b.time for b in heard_rock.beats if b.beat == 1]
    truth = [0.5 + SCORE.seconds(b) for b in range(1, 18)]
    assert f_measure(truth, bars, 0.03) > 0.98
    for parts in (("kick",), ("snare",), ("hat_closed", "hat_open", "ride", "crash")):
        assert f_measure(times(TRUTH, *parts), heard_times(heard_rock, *parts)) > 0.9, parts


def test_through_a_band_tempo_beats_and_backbeat_are_heard(tmp_path):
    drums = songs.drums()
    mix = 0.7 * drums + songs.band(len(drums) / songs.RATE + 1)[: len(drums)]
    hearing = listen(songs.write(tmp_path / "mix.wav", mix))
    assert hearing.tempo.bpm == pytest.approx(100, rel=0.01)
    beats = [0.5 + SCORE.pulse.seconds(b) for b in range(65)]
    assert f_measure(beats, [b.time for b in hearing.beats], 0.07) > 0.97
    backbeat = [0.5 + SCORE.seconds(b, p) for b in range(1, 17) for p in (1, 3)]
    found = np.array(heard_times(hearing, "snare"))
    assert np.mean([np.abs(found - t).min() < 0.05 for t in backbeat]) > 0.9


def test_the_two_halves_are_told_apart(heard_rock):
    assert [(s.first_bar, s.bars) for s in heard_rock.sections] == [(1, 8), (9, 8)]
    assert heard_rock.sections[0].label != heard_rock.sections[1].label


def test_the_same_file_gives_the_same_result(rock_file, heard_rock):
    assert listen(rock_file) == heard_rock


def test_every_step_is_reported_in_order(rock_file):
    told = []
    listen(rock_file, report=lambda step, share: told.append((step, share)))
    order = list(dict.fromkeys(step for step, _ in told))
    assert order == [key for key, _, _ in STEPS if key in order]
    assert {"spectrum", "strokes", "pulse", "form"} <= set(order)
    assert all(0 <= share <= 1.01 for _, share in told)


def test_hearing_stops_when_asked(rock_file):
    def stop(step, _share):
        if step == "strokes":
            raise Cancelled("stop")

    with pytest.raises(Cancelled):
        listen(rock_file, report=stop)


def test_a_pad_without_drums_is_told_as_such(tmp_path):
    t = np.arange(20 * songs.RATE) / songs.RATE
    swell = 0.3 * np.sin(2 * np.pi * 220 * t) * (1 + 0.3 * np.sin(2 * np.pi * 0.11 * t))
    with pytest.raises(BadSound, match="No drums"):
        listen(songs.write(tmp_path / "pad.wav", swell))
