"""Random drum parts: groove families, fills, ghosts, openings, swing, human spread."""

from __future__ import annotations

import numpy as np

#: (seconds, part with tom number, loudness 0..1)
Event = tuple[float, str, float]


def compose(rng: np.random.Generator, seconds: float) -> tuple[list[Event], list[float], list[int]]:
    """Strokes, beat times, and the beat's number in its bar (from 0)."""
    bpm = float(np.exp(rng.uniform(np.log(58), np.log(205))))
    period = 60 / bpm
    drift = rng.choice([0, 0, 0.01, 0.03])
    meter = int(rng.choice([4, 4, 4, 4, 4, 3, 6, 5, 7]))
    cells = int(rng.choice([4, 4, 4, 3])) if bpm < 150 else int(rng.choice([2, 2, 4, 3]))
    swing = rng.uniform(0.5, 0.67) if cells == 4 and rng.random() < 0.3 else 0.5
    bars = int(seconds / (period * meter)) + 2
    beats = [0.0 - rng.uniform(0, period)]
    while len(beats) < bars * meter + 1:
        beats.append(beats[-1] + period * (1 + drift * rng.normal()))
    groove = _groove(rng, meter, cells)
    other = _groove(rng, meter, cells)
    spread = rng.uniform(0.001, 0.009)
    late = {"snare": rng.normal(0, 0.006), "kick": rng.normal(0, 0.004)}
    fill_every = int(rng.choice([2, 4, 4, 8]))
    events: list[Event] = []
    crash_next = rng.random() < 0.4
    for bar in range(bars):
        pattern = groove if bar < bars * 0.6 or rng.random() < 0.2 else other
        strokes = _varied(rng, pattern, meter, cells)
        if (bar + 1) % fill_every == 0 and rng.random() < 0.8:
            strokes = _filled(rng, strokes, meter)
        if crash_next:
            strokes = [s for s in strokes if not (s[0] == 0 and s[1].startswith(("hat", "ride")))]
            strokes.append((0.0, "crash" if rng.random() < 0.7 else "crash2", rng.uniform(0.7, 1)))
        crash_next = ((bar + 1) % fill_every == 0 and rng.random() < 0.7) or rng.random() < 0.04
        for place, part, loud in strokes:
            inside = place % 1
            if abs(inside - 0.25) < 1e-6 or abs(inside - 0.75) < 1e-6:
                place += (swing - 0.5) / 2
            k = min(int(place), meter - 1)
            a, b = beats[bar * meter + k], beats[bar * meter + k + 1]
            time = a + (place - k) * (b - a) + rng.normal(0, spread) + late.get(part, 0)
            if 0.02 < time < seconds - 0.05:
                events.append((time, part, float(np.clip(loud + rng.normal(0, 0.05), 0.06, 1))))
    inside = [(t, i % meter) for i, t in enumerate(beats) if 0 <= t < seconds]
    return sorted(events), [t for t, _ in inside], [n for _, n in inside]


def _groove(rng: np.random.Generator, meter: int, cells: int) -> list[tuple[float, str, float]]:
    step = 1 / cells
    grid = [round(k * step, 6) for k in range(meter * cells)]
    strokes: list[tuple[float, str, float]] = []
    surface = str(rng.choice(["hat_closed", "ride", "hat_open", "tom1", "crash", "ride_bell", "-"],
                             p=[0.54, 0.22, 0.06, 0.05, 0.03, 0.03, 0.07]))  # fmt: skip
    density = rng.choice(
        ["all", "eighth", "quarter", "off", "broken"], p=[0.25, 0.4, 0.15, 0.1, 0.1]
    )
    beat_loud, and_loud = rng.uniform(0.5, 0.95), rng.uniform(0.3, 0.85)
    for p in grid if surface != "-" else []:
        on_beat, on_and = p % 1 == 0, abs(p % 1 - 0.5) < 1e-6
        keep = (density == "all" or (density == "eighth" and (on_beat or on_and or cells == 3))
                or (density == "quarter" and on_beat) or (density == "off" and on_and)
                or (density == "broken" and rng.random() < 0.55))  # fmt: skip
        if keep:
            part = surface
            if surface == "hat_closed" and rng.random() < 0.06:
                part = "hat_open"
            if surface == "ride" and rng.random() < 0.05:
                part = "ride_bell"
            strokes.append((p, part, beat_loud if on_beat else and_loud))
    back = str(rng.choice(["snare", "cross_stick", "clap"], p=[0.82, 0.13, 0.05]))
    kind = rng.choice(["back", "half", "random", "four", "none"], p=[0.62, 0.12, 0.14, 0.06, 0.06])
    if kind == "back":
        strokes += [(float(b), back, rng.uniform(0.75, 1)) for b in range(1, meter, 2)]
    elif kind == "half":
        strokes.append((float(meter // 2), back, rng.uniform(0.75, 1)))
    elif kind == "four":
        strokes += [(float(b), back, rng.uniform(0.6, 0.95)) for b in range(meter)]
    elif kind == "random":
        strokes += [(p, back, rng.uniform(0.5, 1)) for p in grid if rng.random() < 0.14]
    if rng.random() < 0.45:
        chance = rng.uniform(0.06, 0.3)
        taken = {p for p, part, _ in strokes if part == "snare"}
        ghost = rng.uniform(0.1, 0.34)
        strokes += [(p, "snare", ghost) for p in grid if p not in taken and rng.random() < chance]
    if rng.random() < 0.93:
        chance = rng.uniform(0.04, 0.28)
        feather = rng.uniform(0.3, 1)
        if rng.random() < 0.15:
            strokes += [(float(b), "kick", feather) for b in range(meter)]
        else:
            strokes += [(p, "kick", feather) for p in grid
                        if p == 0 or rng.random() < chance * (1.6 if p % 0.5 == 0 else 0.8)]  # fmt: skip
    if surface in ("ride", "-", "ride_bell", "tom1") and rng.random() < 0.45:
        first = int(rng.random() < 0.7)
        strokes += [
            (float(b), "hat_foot", rng.uniform(0.3, 0.8)) for b in range(first, meter, 1 + first)
        ]
    return strokes


Strokes = list[tuple[float, str, float]]


def _varied(rng: np.random.Generator, pattern: Strokes, meter: int, cells: int) -> Strokes:
    out = [s for s in pattern if rng.random() > 0.03]
    if rng.random() < 0.2:
        out.append((float(rng.integers(0, meter * cells)) / cells, "kick", 0.7))
    if rng.random() < 0.05:
        out.append(
            (
                float(rng.integers(0, meter * cells)) / cells,
                str(rng.choice(["crash", "tom2", "clap"])),
                0.7,
            )
        )
    return out


def _filled(rng: np.random.Generator, strokes: Strokes, meter: int) -> Strokes:
    start = float(rng.integers(max(0, meter - 3), meter))
    if rng.random() < 0.3:
        start += 0.5
    step = float(rng.choice([0.5, 0.25, 0.25, 0.25, 1 / 3, 1 / 6, 0.125]))
    out = [s for s in strokes if s[0] < start or (s[1] == "kick" and rng.random() < 0.3)]
    drums = ["snare", "tom3", "tom2", "tom1"]
    which = 0 if rng.random() < 0.6 else int(rng.integers(0, 4))
    p = start
    while p < meter - 1e-6:
        if rng.random() < 0.85:
            out.append((p, drums[which], float(rng.uniform(0.4, 1))))
        if rng.random() < 0.3:
            which = min(3, which + 1) if rng.random() < 0.8 else int(rng.integers(0, 4))
        p += step
    return out
