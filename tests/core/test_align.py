"""Other takes: bars find their partners at any tempo; a stem finds its sample."""

import numpy as np
import pytest
import soundfile as sf

from orchesis.errors import BadSound
from orchesis.hearing import align
from orchesis.hearing.sound import RATE
from orchesis.hearing.stems import find
from orchesis.hearing.types import Beat, HeardBar, HeardMeter, Hearing, Hit, Tempo

#: What is played in a bar of each kind: (beat, part).
KINDS = {
    "A": [
        (0, "kick"),
        (1, "snare"),
        (2, "kick"),
        (3, "snare"),
        *((k / 2, "hat_closed") for k in range(8)),
    ],
    "B": [
        (0, "kick"),
        (0.5, "kick"),
        (1, "snare"),
        (2.5, "kick"),
        (3, "snare"),
        *((k, "ride") for k in range(4)),
    ],
    "C": [(0, "kick"), (2, "snare"), *((k / 2, "tom_floor") for k in range(8))],
    "F": [(k / 4, "snare") for k in range(8)] + [(2 + k / 4, "tom_high") for k in range(8)],
}
CHORD = {"A": 0, "B": 5, "C": 9, "F": 7}


def take(form, bpm, *, seed=0, missing=0.0):
    rng = np.random.default_rng(seed)
    period = 60 / bpm
    beats, hits, bars = [], [], []
    for n, kind in enumerate(form):
        beats += [Beat(1 + period * (4 * n + k), n + 1, k + 1) for k in range(4)]
        hits += [
            Hit(1 + period * (4 * n + b) + rng.normal(0, 0.005), part, rng.uniform(0.3, 1), 0.9)
            for b, part in KINDS[kind]
            if rng.random() >= missing
        ]
        chroma = np.full(12, 0.03)
        chroma[CHORD[kind]] += 0.6
        bars.append(HeardBar(0, 0, True, True, tuple(chroma)))
    beats.append(Beat(1 + period * 4 * len(form), len(form) + 1, 1))
    tempo = Tempo(bpm, bpm, bpm, True, 1.0)
    return Hearing(
        beats[-1].time,
        44100,
        tempo,
        (HeardMeter(1, 4, 4),),
        tuple(beats),
        tuple(sorted(hits, key=lambda h: h.time)),
        (),
        bars=tuple(bars),
    )


SONG = "AAAFBBBFAAAFCCCCBBBB"


@pytest.mark.parametrize("bpm", [76, 100, 131])
def test_a_take_at_another_tempo_is_laid_bar_to_bar(bpm):
    found = align.takes(take(SONG, 100), take(SONG, bpm, seed=5, missing=0.1))
    assert found.pairs == tuple((k, k) for k in range(1, len(SONG) + 1))
    assert found.mean_likeness > 0.8


def test_a_cut_verse_stays_without_partners():
    there = SONG[:8] + SONG[12:]
    found = align.takes(take(SONG, 100), take(there, 92, seed=2)).pairs
    assert [b for _, b in found] == list(range(1, len(there) + 1))
    assert all(SONG[a - 1] == there[b - 1] for a, b in found)


def test_another_song_is_hardly_alike():
    assert align.takes(take("CCCC" * 4, 100), take("BBBB" * 4, 100)).mean_likeness < 0.6


@pytest.fixture(scope="module")
def stems():
    rng = np.random.default_rng(8)
    n = 20 * 44100
    stem = np.zeros(n, np.float32)
    for _ in range(60):
        at = int(rng.integers(0, n - 9000))
        stem[at : at + 8000] += rng.normal(0, 1, 8000) * np.exp(-np.arange(8000) / 1500)
    return stem * 0.1, rng.normal(0, 0.05, n + 5 * 44100).astype(np.float32)


@pytest.mark.parametrize("offset", [0, 1, 12_345, 150_001])
def test_a_stem_finds_its_place_to_the_sample(stems, tmp_path, offset):
    stem, mix = stems
    mix = mix.copy()
    mix[offset : offset + len(stem)] += 0.6 * stem[: len(mix) - offset]
    sf.write(tmp_path / "mix.flac", mix * 0.5, 44100)
    sf.write(tmp_path / "stem.flac", stem, 44100)
    assert find(tmp_path / "mix.flac", tmp_path / "stem.flac") == offset


def test_a_stem_may_begin_before_the_mix(stems, tmp_path):
    stem, mix = stems
    mix = mix.copy()
    mix[: len(stem) - 7001] += stem[7001:]
    sf.write(tmp_path / "mix.flac", mix * 0.5, 44100)
    sf.write(tmp_path / "stem.flac", stem, 44100)
    assert find(tmp_path / "mix.flac", tmp_path / "stem.flac") == -7001


def test_a_stem_of_another_song_is_refused(stems, tmp_path):
    stem, mix = stems
    sf.write(tmp_path / "mix.flac", mix, 44100)
    sf.write(tmp_path / "stem.flac", stem, 44100)
    with pytest.raises(BadSound, match="not found"):
        find(tmp_path / "mix.flac", tmp_path / "stem.flac")


def test_a_take_is_laid_over_the_song_at_its_tempo(tmp_path):
    """Clicks of a faster take fall on the beats of the first one."""
    rate, seconds = RATE, 12
    here, there = np.arange(0.5, 11, 0.5), 1.1 + np.arange(0, 21) * 0.4
    sound = np.zeros(int(rate * seconds), np.float32)
    for t in there:
        at = int(t * rate)
        sound[at : at + 200] = 0.8 * np.hanning(200)
    sf.write(tmp_path / "live.flac", sound, rate)
    places = list(zip(here[::4], there[::4], strict=True))
    align.laid_over(tmp_path / "live.flac", places, seconds, tmp_path / "out.flac")
    fitted, _ = sf.read(tmp_path / "out.flac")
    assert len(fitted) == rate * seconds
    for beat in here[:20]:
        at = int(beat * rate)
        near = np.abs(fitted[max(at - 3000, 0) : at + 3000])
        assert abs(int(np.argmax(near)) - min(at, 3000)) < 0.02 * rate


def test_a_stem_is_moved_by_samples_without_a_change(tmp_path):
    rate = RATE
    sound = np.random.default_rng(1).normal(0, 0.1, 3 * rate).astype(np.float32)
    sf.write(tmp_path / "stem.flac", sound, rate, subtype="PCM_16")
    align.laid_over(tmp_path / "stem.flac", [(0.5, 0.0)], 3.0, tmp_path / "out.flac")
    moved, _ = sf.read(tmp_path / "out.flac", dtype="float32")
    stem, _ = sf.read(tmp_path / "stem.flac", dtype="float32")
    assert np.array_equal(moved[rate // 2 :], stem[: len(moved) - rate // 2])
    with pytest.raises(BadSound, match="could not be laid over"):
        align.laid_over(tmp_path / "stem.flac", [(1, 2), (0, 1)], 3.0, tmp_path / "x.flac")
