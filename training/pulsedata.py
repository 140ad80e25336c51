"""Songs for the pulse network, as an imperfect onset model would put them on its grid, with the truth."""

from __future__ import annotations

import numpy as np

from materials.mix import class_of
from materials.parts_by_style import Song, compose
from orchesis.hearing.pulsegrid import BAND, CHORD, STEP, stroke_rows
from orchesis.hearing.tempo_bins import bin_of

SECONDS = 60.0
FRAMES = int(SECONDS / STEP)
_MISTAKEN = {
    "hat_closed": ("ride", "hat_open", "hat_foot"),
    "ride": ("hat_closed", "crash"),
    "hat_open": ("hat_closed", "crash"),
    "hat_foot": ("hat_closed",),
    "cross_stick": ("snare",),
    "snare": ("tom", "clap"),
    "tom": ("snare", "kick"),
    "crash": ("hat_open", "ride"),
    "clap": ("snare",),
    "ride_bell": ("ride",),
}


def heard(rng: np.random.Generator, song: Song) -> np.ndarray:
    """(ROWS, FRAMES): the song as an imperfect onset model puts it on the grid."""
    miss, sure = rng.uniform(0, 0.08), rng.uniform(0.75, 1)
    deaf = {
        p for p in ("kick", "hat_closed", "ride", "hat_foot", "cross_stick") if rng.random() < 0.03
    }
    mistaken = {a: str(rng.choice(b)) for a, b in _MISTAKEN.items() if rng.random() < 0.06}
    ghosts = rng.uniform(0.2, 0.9)
    strokes = []
    for e in song.events:
        name = class_of(e.part)
        if name in deaf or rng.random() < miss or (e.loudness < 0.35 and rng.random() > ghosts):
            continue
        if name in mistaken and rng.random() < 0.5:
            name = mistaken[name]
        loud = float(np.clip(e.loudness + rng.normal(0, 0.1), 0.05, 1))
        confidence = float(np.clip(rng.normal(sure, 0.12), 0.3, 1))
        strokes.append((e.time + rng.normal(0, 0.004), name, loud, confidence))
    for _ in range(rng.poisson(rng.uniform(0, 0.4) * SECONDS)):
        name = str(rng.choice(["kick", "snare", "hat_closed", "hat_open", "ride", "tom", "crash"]))
        strokes.append(
            (rng.uniform(0, SECONDS), name, rng.uniform(0.1, 0.8), rng.uniform(0.3, 0.7))
        )
    grid = stroke_rows(strokes, FRAMES)
    grid[BAND : CHORD + 1] = _band(rng, song, grid)
    return grid


def _band(rng: np.random.Generator, song: Song, grid: np.ndarray) -> np.ndarray:
    out = np.abs(rng.normal(0, 0.06, (3, FRAMES))).astype(np.float32)
    if rng.random() < 0.25 or len(song.beats) < 8:
        return out * (rng.random() < 0.3)  # drums alone: as a rule nothing is left of a band
    strum = str(rng.choice(["bar", "half", "quarters", "eighths", "offs", "random"]))
    step = 1 / 3 if song.ternary else 0.5
    harmony = int(rng.choice([1, 1, 1, 2, 4]))
    bar = -1
    for i, (t, n) in enumerate(zip(song.beats[:-1], song.numbers[:-1], strict=True)):
        period = song.beats[i + 1] - t
        bar += n == 0
        places = {
            "bar": (0,) if n == 0 else (),
            "half": (0,) if n % 2 == 0 else (),
            "quarters": (0,),
            "eighths": (0, step),
            "offs": (1 - step,),
            "random": (),
        }[strum]
        for p in (*places, *(q for q in (0, 0.25, 0.5, 0.75, step) if rng.random() < 0.12)):
            _put(out[0], t + p * period + rng.normal(0, 0.008), rng.uniform(0.4, 1.2))
        if n == 0 and bar % harmony == 0 and rng.random() < 0.85:
            out[2] += _bump(t + rng.normal(0, 0.03), rng.uniform(0.4, 1.2))
        elif rng.random() < 0.06:
            out[2] += _bump(t, rng.uniform(0.2, 1))
        if rng.random() < 0.6:
            _put(out[1], t + rng.normal(0, 0.008), rng.uniform(0.3, 1))
    if rng.random() < 0.6:
        out[1] += rng.uniform(0.3, 1) * grid[0]
    out[0] += rng.uniform(0, 0.5) * grid[[0, 1, 9]].max(axis=0)
    return np.minimum(out, 1.5)


def _put(row: np.ndarray, time: float, value: float) -> None:
    k = int(time / STEP)
    if 1 <= k < FRAMES - 1:
        row[k] = max(row[k], value)
        row[k - 1], row[k + 1] = max(row[k - 1], 0.5 * value), max(row[k + 1], 0.5 * value)


def _bump(time: float, value: float) -> np.ndarray:
    return value * np.exp(-0.5 * ((np.arange(FRAMES) * STEP - time) / 0.08) ** 2)


def truth(song: Song) -> np.ndarray:
    """(4, FRAMES): beat, one, ternary, bin of the local tempo."""
    out = np.zeros((4, FRAMES), np.float32)
    for t, n in zip(song.beats, song.numbers, strict=True):
        k = round(t / STEP)
        for j, w in ((-1, 0.4), (1, 0.4), (0, 1.0)):
            if 0 <= k + j < FRAMES:
                out[0, k + j] = max(out[0, k + j], w)
                if n == 0:
                    out[1, k + j] = max(out[1, k + j], w)
    out[2] = song.ternary
    middle = (song.beats[1:] + song.beats[:-1]) / 2
    bpm = np.interp(np.arange(FRAMES) * STEP, middle, 60 / np.diff(song.beats))
    out[3] = bin_of(bpm)
    return out


def made(seed: int) -> tuple[np.ndarray, np.ndarray]:
    rng = np.random.default_rng([seed, 9])
    song = compose(rng, SECONDS, plain=0.0)
    return heard(rng, song).astype(np.float16), truth(song).astype(np.float16)


def made_heard(seed: int) -> tuple[np.ndarray, np.ndarray]:
    """The same, but of a song that was sounded and heard by the onset model as it is."""
    from materials import kits
    from orchesis.hearing import hits
    from orchesis.hearing.readings import grid_of
    from training.tune import heard as through_ears

    kind = "mix" if seed % 4 else "drums"
    song, seen, activity = through_ears(seed, SECONDS, kits.TRAIN, kind)
    strokes = hits.Listener(seen, activity).hits()
    grid = grid_of(seen, activity, strokes)
    grid = np.pad(grid, ((0, 0), (0, max(0, FRAMES - grid.shape[1]))))[:, :FRAMES]
    return grid.astype(np.float16), truth(song.song).astype(np.float16)
