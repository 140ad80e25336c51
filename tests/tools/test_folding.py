"""Real records that teach themselves: what like bars agree on is told, the rest is left open."""

import numpy as np
import pytest
import soundfile as sf

from materials import backings, mix
from orchesis.hearing.network import CLASSES, heard_class
from orchesis.hearing.types import Beat, Hit
from training import folding

BARS, PERIOD = 12, 0.5
BEATS = tuple(Beat(PERIOD * k, k // 4 + 1, k % 4 + 1) for k in range(4 * BARS + 1))
SNARE, HAT = CLASSES.index("snare"), CLASSES.index("hat_closed")


def at(bar, beat, part="snare", sure=0.95):
    return Hit(round(2.0 * bar + PERIOD * beat, 3), part, 0.8, sure)


def groove():
    made = []
    for b in range(BARS):
        made += [at(b, 0, "kick"), at(b, 2, "kick"), at(b, 1), at(b, 3)]
        made += [at(b, k / 2, "hat_closed") for k in range(8)]
    return made


def heard(hits):
    strength = np.full((int(100 * PERIOD * 4 * BARS) + 100, len(CLASSES)), 0.01)
    for h in hits:
        strength[round(100 * h.time), CLASSES.index(heard_class(h.part))] = h.confidence
    return strength


def says(hits, like):
    return int(folding.told(hits, BEATS, heard(hits))[hits.index(like)])


def test_a_stroke_of_the_groove_is_told_and_also_where_it_is_faint():
    faint = at(5, 3, sure=0.1)
    hits = [faint if (h.time, h.part) == (faint.time, "snare") else h for h in groove()]
    assert says(hits, at(4, 3)) == 1
    assert says(hits, faint) == 1


def test_what_one_bar_has_alone_is_denied_where_it_is_faint_and_left_open_where_it_is_sure():
    faint, fill = at(5, 2.25, sure=0.2), at(7, 3.75, sure=0.9)
    hits = [*groove(), faint, fill]
    assert says(hits, faint) == 0
    assert says(hits, fill) == -1


def test_where_the_bars_disagree_nothing_is_told():
    some = [at(b, 2.5, sure=0.8 if b % 2 else 0.05) for b in range(BARS)]
    assert says([*groove(), *some], some[4]) == -1


def test_a_song_without_like_bars_tells_nothing():
    rng = np.random.default_rng(3)
    hits = [
        at(b, float(rng.uniform(0, 3.9)), str(rng.choice(["snare", "kick", "tom_high"])))
        for b in range(BARS)
        for _ in range(2)
    ]
    assert set(folding.told(hits, BEATS, heard(hits))) == {-1}


def test_a_stroke_that_one_bar_alone_lacks_is_in_doubt_there():
    hits = [h for h in groove() if (h.time, h.part) != (at(6, 1).time, "snare")]
    kinds = np.array([CLASSES.index(heard_class(h.part)) for h in hits])
    doubts = folding.missed(hits, kinds, BEATS)
    assert {(round(t, 2), int(c)) for t, c in doubts} == {(at(6, 1).time, SNARE)}


@pytest.fixture
def kept(tmp_path, monkeypatch):
    """One folded record: a click every half second, told as a snare, and a hat of which nothing is."""
    monkeypatch.setattr(folding, "kept", lambda: tmp_path)
    monkeypatch.setattr(
        backings, "bed", lambda _rng: (np.zeros(12 * backings.RATE, np.float32), np.array([]))
    )
    sound = np.zeros(20 * backings.RATE, np.float32)
    strokes = np.arange(0.5, 19.5, 0.5)
    for t in strokes:
        k = round(t * backings.RATE)
        sound[k : k + 400] += np.hanning(400) * np.sin(np.arange(400))
    sf.write(tmp_path / "a.flac", sound, backings.RATE)
    n = len(strokes)
    np.savez(
        tmp_path / "a.npz",
        time=np.concatenate([strokes, [3.25]]),
        kind=np.array([SNARE] * n + [HAT]),
        says=np.array([1] * n + [-1]),
        level=np.full(n + 1, 0.6),
        openness=np.zeros(n + 1),
        ornaments=np.zeros((n + 1, 3)),
        doubts=np.zeros((0, 2)),
        mask=np.full((2000, 84), 128, np.uint8),
    )
    (tmp_path / "done").touch()
    folding._record.cache_clear()
    return strokes


@pytest.mark.parametrize("seed", range(3))
def test_an_excerpt_keeps_its_truth_at_another_speed_and_under_roughness(kept, seed):
    features, onsets, levels, extras, mask = folding.excerpt(seed)
    assert features.shape == (2, mix.FRAMES, 84) and mask.shape == (mix.FRAMES, 84)
    frames = np.flatnonzero(onsets[:, SNARE] == 1)
    gaps = np.diff(frames)
    assert len(frames) >= 18 and gaps.std() < 1 and 40 < gaps.mean() < 62
    assert np.allclose(levels[frames, SNARE], 0.6, atol=1e-3)
    assert set(extras[:, 0]) == {-1}
    assert np.isin(onsets[:, HAT], (0, -1)).all()
    # The sound rises where the truth says so: loud frames are near strokes.
    loud = features[0].astype(np.float32).sum(axis=1)
    near = np.array([loud[f - 1 : f + 3].max() for f in frames[1:-1]])
    between = np.array([loud[f + 20 : f + 30].mean() for f in frames[1:-1]])
    assert np.median(near) > np.median(between)
