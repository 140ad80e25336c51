"""A feel in words."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction

import numpy as np

from orchesis.score.feel import Feel, Placement, Swing

_LATE, _EARLY = 6.0, -5.0  # ms from which on a drummer calls it behind or ahead
_CALM = 1.5  # per cent of tempo in a fill that nobody calls a rush


def feel(f: Feel) -> list[str]:
    """A feel in plain sentences: “Backbeat 9 ms behind the pulse: laid back.”"""
    sentences = [_swing_says(f.swing)]
    sentences += [
        _place_says(p) for p in f.placement if p.voice in ("backbeat", "kick", "time hand")
    ]
    for t in f.together:
        if (t.a, t.b) == ("backbeat", "time hand") and abs(t.ms) > max(t.off_by, 3.0):
            side = "after" if t.ms > 0 else "before"
            sentences.append(f"The backbeat sounds {abs(t.ms):.0f} ms {side} the time hand.")
    if f.gaps.get("ghost") is not None:
        sentences.append(f"Ghosts lie {abs(f.gaps['ghost'] or 0):.0f} dB below the backbeat.")
    on = [p.db for p in f.hand if Fraction(p.place).denominator == 1]
    off = [p.db for p in f.hand if Fraction(p.place).denominator == 2]
    if on and off and abs(np.mean(on) - np.mean(off)) >= 2:
        louder = "beats" if np.mean(on) > np.mean(off) else "“ands”"
        sentences.append(
            f"The time hand's {louder} are {abs(np.mean(on) - np.mean(off)):.0f} dB louder."
        )
    kick = next((x for x in f.levels if x.layer == "kick"), None)
    if kick is not None and kick.db <= -12:
        sentences.append("The kick is feathered: far below the backbeat, but there.")
    hasty = [r for r in f.rush if r.percent > _CALM]
    if hasty and len(hasty) * 2 > len(f.rush):
        sentences.append(
            f"Fills rush, by {np.mean([r.percent for r in hasty]):.0f} % of the tempo."
        )
    if abs(f.drift) >= 2:
        sentences.append(
            f"The tempo {'rises' if f.drift > 0 else 'falls'} by {abs(f.drift):.0f} %."
        )
    return [t for t in sentences if t]


def _swing_says(swings: Sequence[Swing]) -> str:
    every = [s for s in swings if s.who == "all"]
    names = {"eighth": "8ths", "sixteenth": "16ths"}
    claimed = [s for s in every if s.claimed]
    if claimed:
        s = claimed[0]
        near = " (triplets are 0.67)" if s.level == "eighth" and abs(s.ratio - 2 / 3) < 0.03 else ""
        other = [x for x in every if x.level != s.level]
        rest = f", {names[other[0].level]} straight" if other and not other[0].claimed else ""
        return f"{names[s.level]} swing, {s.ratio:.2f}{near}{rest}."
    if every:
        return f"{' and '.join(names[s.level] for s in every)} are straight."
    return ""


def _place_says(p: Placement) -> str:
    name = {"backbeat": "Backbeat", "kick": "Kick", "time hand": "Time hand"}[p.voice]
    if p.ms >= _LATE and p.is_sure:
        return f"{name} {p.ms:.0f} ms behind the pulse: laid back."
    if p.ms <= _EARLY and p.is_sure:
        return f"{name} {-p.ms:.0f} ms ahead of the pulse: it pushes."
    ms = round(p.ms)
    return f"{name} on top of the pulse ({'+' if ms > 0 else ''}{ms} ms)."
