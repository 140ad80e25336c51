"""Loops cut from bench songs: 2, 4 and 8 bars, exact and with ragged ends."""

from __future__ import annotations

import json
import tempfile
from pathlib import Path

import soundfile as sf

from materials.measures import f_measure, mean
from orchesis.errors import BadSound
from orchesis.hearing import Hearing, listen

#: Songs of one meter to a steady pulse, with a band and without.
SONGS = (
    "rock-ghosts",
    "broken-funk",
    "swung-16ths",
    "three-three-two",
    "one-drop",
    "linear",
    "drums-only",
    "drums-only-forzee",
    "rock-ghosts-forzee",
    "ornaments",
    "fast-190",
    "five",
)
BARS = (2, 4, 8)
_FROM = 5  # the bar that a loop begins with
_RAGGED = (0.11, 0.19)  # seconds before and behind the bars


def hearing_of(path: Path, begin: float, end: float) -> Hearing:
    with tempfile.TemporaryDirectory() as folder:
        sound, rate = sf.read(path)
        cut = Path(folder) / "loop.flac"
        sf.write(cut, sound[max(0, round(begin * rate)) : round(end * rate)], rate)
        return listen(cut)


def measure(path: Path) -> dict[tuple[int, bool], dict[str, float]]:
    """(bars, ragged) -> whether the tempo is exact (0.5 %), F of the downbeats."""
    told = json.loads((path.parent / f"{path.stem}.truth.json").read_text())
    ones = [b["time"] for b in told["beats"] if b["beat"] == 1]
    made = {}
    for bars in BARS:
        for is_ragged in (False, True):
            before, behind = _RAGGED if is_ragged else (0.0, 0.0)
            begin, end = ones[_FROM - 1] - before, ones[_FROM - 1 + bars] + behind
            own = [t - begin for t in ones if begin <= t < end - 0.1]
            try:
                heard = hearing_of(path, begin, end)
            except BadSound:
                made[bars, is_ragged] = {"tempo": 0.0, "downbeats": 0.0}
                continue
            found = [b.time for b in heard.beats if b.beat == 1 and b.time < end - begin - 0.1]
            made[bars, is_ragged] = {
                "tempo": float(abs(heard.tempo.bpm / told["tempo"]["bpm"] - 1) < 0.005),
                "downbeats": f_measure(own, found, 0.07),
            }
    return made


def summary(figures: list[dict[tuple[int, bool], dict[str, float]]]) -> dict[str, float]:
    """Means over loops and songs."""
    rows = [row for song in figures for row in song.values()]
    return {key: mean([row[key] for row in rows]) for key in ("tempo", "downbeats")}
