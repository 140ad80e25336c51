"""Practice: how exactly play-in measures a player, whether advice names the fault, how files to play along
with keep step and how long they take."""

from __future__ import annotations

import tempfile
import time
from pathlib import Path
from statistics import fmean

import numpy as np
import soundfile as sf

from materials.cases import stages as lessons
from orchesis.formats import count
from orchesis.hands import with_limbs
from orchesis.play_along import RATE, Wish, written
from orchesis.score import Score
from orchesis.sounding import part
from orchesis.teaching.judging import judge
from orchesis.teaching.simulated import Habits, perform

_GROOVE = "tempo: 92\n== A\nhat: 8ths | =\nsnare: 2 (2a) 4 | 2 4 (4a)\nkick: 1 2& 3 | 1 3 3&\n"
_LIMBS = ("RH", "LH", "RF")
_LONG = 60  # bars of the song that is stretched: two minutes


def score_of(text: str) -> Score:
    return with_limbs(count.read(text))


def measured() -> tuple[float, float, float]:
    """(largest error of a limb's offset in ms, of its spread, of the ghosts' level in dB) over forty
    players with habits drawn at random, 32 loops each."""
    rng = np.random.default_rng(5)
    groove = score_of(_GROOVE)
    offsets, spreads, levels = [], [], []
    for seed in range(40):
        late = {limb: float(rng.uniform(-25, 25)) for limb in _LIMBS}
        spread = {limb: float(rng.uniform(2, 8)) for limb in _LIMBS}
        ghosts = float(rng.uniform(-3, 8))
        told = judge(
            groove, perform(groove, Habits(late=late, spread=spread, ghosts=ghosts), 32, seed)
        )
        offsets += [abs(told.limbs[limb].offset_ms - late[limb]) for limb in _LIMBS]
        spreads += [abs(told.limbs[limb].spread_ms - spread[limb]) for limb in _LIMBS]
        levels.append(abs((told.ghosts_db or 0.0) - ghosts))
    return max(offsets), max(spreads), max(levels)


def advised() -> float:
    """Share of players with one fault each whose advice names the limb, or the fault."""
    groove = score_of(_GROOVE)
    names = {"RH": "right hand", "LH": "left hand", "RF": "right foot"}
    cases = [(Habits(late={k: ms}), names[k]) for k in _LIMBS for ms in (-30.0, 30.0)]
    cases += [(Habits(missed={k: 0.25}), names[k]) for k in _LIMBS]
    cases += [(Habits(extra={k: 0.25}), names[k]) for k in _LIMBS]
    cases += [(Habits(spread={k: 30.0}), names[k]) for k in _LIMBS]
    cases += [(Habits(rush=r), "rush" if r > 0 else "drag") for r in (-2.5, -1.5, 1.5, 2.5)]
    cases += [(Habits(ghosts=g), "ghosts") for g in (6.0, 8.0, 10.0)]
    right = [
        word in judge(groove, perform(groove, habits, 8, seed)).advice
        for n, (habits, word) in enumerate(cases)
        for seed in (n, n + 100)
    ]
    return fmean(right)


def in_step() -> tuple[float, float]:
    """(largest distance in ms between our part and the stretched recording of it, seconds that four minutes
    take at a new tempo), at half, three quarters and a tenth above the tempo."""
    song = score_of(
        f"tempo: 120\n== A\nhat: {' | '.join(['8ths'] * _LONG)}\nsnare: {' | '.join(['2 4'] * _LONG)}\n"
        f"kick: {' | '.join(['1 3'] * _LONG)}\n"
    )
    worst, took = 0.0, 0.0
    with tempfile.TemporaryDirectory() as folder:
        sound = part.sound(song)
        recording = Path(folder) / "song.flac"
        sf.write(recording, np.stack([sound, sound], axis=1), RATE)
        for share in (0.5, 0.75, 1.1):
            wish = Wish(shares=(share,), mixes=("part", "recording"), form="wav")
            start = time.perf_counter()
            written(Path(folder) / "a.zip", song, wish, recording, None, lambda _s, _p: None)
            took = max(took, (time.perf_counter() - start) * 240 / (2 * _LONG))
            worst = max(worst, _lag(Path(folder) / "a.zip"))
    return worst, took


def in_step_for_ten_minutes() -> float:
    """The same distance while eight bars go round for ten minutes and more at four fifths."""
    bars = 10
    song = score_of(
        f"tempo: 120\n== A\nhat: {' | '.join(['8ths'] * bars)}\nsnare: {' | '.join(['2 4'] * bars)}\n"
        f"kick: {' | '.join(['1 3'] * bars)}\n"
    )
    with tempfile.TemporaryDirectory() as folder:
        sound = part.sound(song)
        recording, made = Path(folder) / "song.flac", Path(folder) / "a.zip"
        sf.write(recording, np.stack([sound, sound], axis=1), RATE)
        wish = Wish(bars=(2, 9), shares=(0.8,), mixes=("part", "recording"), form="wav", loops=32)
        written(made, song, wish, recording, None, lambda _s, _p: None)
        return _lag(made)


def _lag(path: Path) -> float:
    """The largest distance in ms between the onsets of the two sounds of a zip, in stretches of eight
    seconds."""
    import io
    import zipfile

    with zipfile.ZipFile(path) as archive:
        names = [n for n in archive.namelist() if n.endswith(".wav")]
        a, b = (sf.read(io.BytesIO(archive.read(n)), always_2d=True)[0].mean(axis=1) for n in names)
    size = min(len(a), len(b))
    rises = []
    for sound in (a[:size], b[:size]):
        smooth = np.convolve(np.abs(sound), np.ones(220) / 220, "same")[::44]
        rises.append(np.diff(smooth).clip(0))
    worst = 0.0
    for at in range(4000, len(rises[0]) - 9000, 8000):
        x, y = (r[at : at + 8000] for r in rises)
        lag = int(np.argmax(np.correlate(y, x, "full"))) - len(x) + 1
        worst = max(worst, abs(lag) * 44 / 44.1)
    return worst


def table() -> list[str]:
    """Lines for bench/RESULTS.md."""
    offset, spread, level = measured()
    lag, took = in_step()
    rows = [
        ("40 written lessons as a teacher tells them", 0.9, lessons.share_right(), True),
        ("advice on players with one fault", 0.9, advised(), True),
        ("a limb's offset measured back, ms at the worst of 40 players", 2, offset, False),
        ("its spread, ms", 2, spread, False),
        ("its ghosts, dB", 2, level, False),
        ("our part and the recording at half to 1.1 of the tempo, ms apart", 5, lag, False),
        (
            "the same while eight bars go round for ten minutes, ms",
            5,
            in_step_for_ten_minutes(),
            False,
        ),
        ("four minutes at a new tempo, two mixes and the pages, s", 30, took, False),
    ]
    lines = ["## Practice", "", "| | asked for | reached | |", "|---|---|---|---|"]
    for says, asked, reached, is_more in rows:
        met = reached >= asked if is_more else reached <= asked
        lines.append(f"| {says} | {asked:g} | {reached:.2f} | {'' if met else 'short'} |")
    return [*lines, ""]


if __name__ == "__main__":
    print("\n".join(table()))
