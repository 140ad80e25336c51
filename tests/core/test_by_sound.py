"""Practice judged from a recording of it: what a simulated player did is measured back."""

from __future__ import annotations

import numpy as np
import pytest
import soundfile as sf

from orchesis.errors import BadScore
from orchesis.formats import count
from orchesis.hands import with_limbs
from orchesis.hearing import listen
from orchesis.sounding.render import RATE, render
from orchesis.teaching.by_sound import laid
from orchesis.teaching.judging import Played, judge
from orchesis.teaching.simulated import Habits, perform

PART = with_limbs(
    count.read("tempo: 96\n== A\nhat: 8ths | =\nsnare: 2 4 | =\nkick: 1 3 | 1 2& 3\n")
)


def test_habits_are_measured_back_by_sound(tmp_path):
    habits = Habits(late={"RF": 22.0}, spread={"RH": 4.0, "LH": 4.0, "RF": 4.0})
    played = perform(PART, habits, loops=8, seed=4)
    events = [(p.time + 1.37, p.part, p.loudness) for p in played]
    sound = render(events, events[-1][0] + 2)
    sf.write(tmp_path / "mine.wav", sound / np.abs(sound).max() * 0.8, RATE)
    hits = [Played(h.time, h.part, h.loudness) for h in listen(tmp_path / "mine.wav").hits]
    found = laid(hits, PART)
    told = judge(PART, found.played)
    apart = told.limbs["RF"].offset_ms - told.limbs["RH"].offset_ms
    assert apart == pytest.approx(22, abs=5)
    assert found.factor == pytest.approx(1, abs=0.004)
    assert max(x.missed for x in told.limbs.values()) < 0.1


def test_another_tempo_and_a_late_start_are_found():
    played = perform(PART, Habits(), loops=6, seed=1)
    slow = [Played(p.time / 0.93 + 3.1, p.part, p.loudness) for p in played[5:]]
    found = laid(slow, PART)
    assert found.factor == pytest.approx(0.93, abs=0.003)
    assert max(abs(x.offset_ms) for x in judge(PART, found.played).limbs.values()) < 12


def test_something_else_is_told():
    with pytest.raises(BadScore, match="Too little"):
        laid([Played(0.1, "kick", 0.5)], PART)
    rng = np.random.default_rng(2)
    noise = [Played(float(t), "hat_closed", 0.5) for t in np.sort(rng.uniform(0, 30, 60))]
    with pytest.raises(BadScore, match="does not go"):
        laid(noise, PART)
