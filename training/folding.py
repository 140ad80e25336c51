"""Real records that teach themselves: what the onset model hears, folded over the like bars of a song.

A record to a click plays its groove many times. What the onset model hears of a sound at the same place of like
bars, their own left out, is surer than what they hear once; that consensus is the truth for each of the
bars, from which the network learns on the same sound made rougher (self-training by agreement: Yarowsky,
"Unsupervised word sense disambiguation rivaling supervised methods", 1995; roughened: Xie et al.,
"Self-training with noisy student", 2020). Where the bars don't agree nothing is told.

Only from PACKAGES, which the shared rules allow for this; none of it is shipped. The onset model that folds is the
shipped one: what it is when a record is folded decides what it tells; another one folds anew.
"""

from __future__ import annotations

import multiprocessing as mp
import tempfile
from functools import cache
from hashlib import sha256
from pathlib import Path

import numpy as np
import soundfile as sf

from materials import backings, mix
from materials.backings import RATE
from orchesis.errors import BadSound
from orchesis.hearing import engine, network, spectrum
from orchesis.hearing.hits import FRAME, Listener
from orchesis.hearing.network import CLASSES, ORNAMENTS, heard_class
from orchesis.hearing.repetition import elsewhere, evidence
from orchesis.hearing.sound import take_in
from orchesis.hearing.spectrum import features_of
from orchesis.hearing.types import Beat, Hit

_ONSET_MODEL = Path(network.__file__).parent / "onset_model.onnx"
PACKAGES = ("nexuiz-music", "ufoai-music", "torcs-data")
LONGEST = 300  # seconds of a record
#: Log odds: from which mean of the like bars on a stroke is there, below which it is not, and what a
#: quarter of them must hear at least.
_THERE, _NOT, _QUARTER = 0.4, -2.5, -2.5
_SURE_ALONE = 0.5  # a stroke as sure as this is never denied, for it may be a fill's
_DOUBTFUL = 0.1
_FEWEST = 60  # strokes told a minute, below which a record has little to teach
_ONSET = ((-1, 0.35), (1, 0.35), (0, 1.0))


def told(candidates: list[Hit], beats: tuple[Beat, ...], strength: np.ndarray) -> np.ndarray:
    """(n,) of each candidate: 1 there, 0 not there, -1 neither is told."""
    seen = evidence(candidates, beats, strength)
    sure = np.array([h.confidence for h in candidates])
    mean, quarter = seen[:, 3], seen[:, 4]
    out = np.where(np.isnan(mean) & (sure < _DOUBTFUL), 0, -1)
    out[(mean <= _NOT) & (sure < _SURE_ALONE)] = 0
    out[(mean >= _THERE) & (quarter >= _QUARTER)] = 1
    return out


def missed(candidates: list[Hit], kinds: np.ndarray, beats: tuple[Beat, ...]) -> np.ndarray:
    """(n, 2) seconds and class of places where like bars have a stroke (``kinds``: its class, or -1 where
    none is told) and a bar has not even a candidate: perhaps it is there and can't be heard."""
    times = np.array([h.time for h in candidates])
    sure = np.array([h.confidence for h in candidates])
    every = np.array([CLASSES.index(heard_class(h.part)) for h in candidates])
    moments, weight = elsewhere(times, sure, every, beats)
    out = []
    for k in np.flatnonzero(kinds >= 0):
        own = np.sort(times[every == kinds[k]])
        for moment in moments[k][weight[k] > 0]:
            at = int(np.searchsorted(own, moment))
            if not (np.abs(own[max(at - 1, 0) : at + 1] - moment) < 4 * FRAME).any():
                out.append((float(moment), float(kinds[k])))
    return np.array(out).reshape(-1, 2)


def _fold(job: tuple[Path, Path]) -> str:
    """Keeps one record's sound and what its folding tells, if it has something to teach."""
    file, target = job
    with tempfile.TemporaryDirectory() as folder:
        try:
            intake = take_in(file, Path(folder) / "sound.flac")
            measured = spectrum.measure(intake.path, intake.duration)
            activity = network.hear(measured)
            hearing = engine.heard(measured, activity, intake.duration)
        except BadSound as why:
            return f"{file.stem}: {why}"
        if not hearing.tempo.steady or len(hearing.bars) < 12:
            return f"{file.stem}: no click"
        found = [h for h in Listener(measured, activity).candidates() if h.time < intake.duration]
        says = told(found, hearing.beats, activity.strength)
        kinds = np.array([CLASSES.index(heard_class(h.part)) for h in found])
        doubts = missed(found, np.where(says == 1, kinds, -1), hearing.beats)
        minutes = intake.duration / 60
        if (says == 1).sum() < _FEWEST * minutes:
            return f"{file.stem}: too little"
        sound, rate = sf.read(intake.path, dtype="float32", always_2d=True)
        assert rate == RATE, rate
        sf.write(target.with_suffix(".flac"), sound.mean(axis=1)[: LONGEST * RATE], RATE)
    at = np.clip(
        np.round(np.array([h.time for h in found]) / FRAME).astype(int), 0, len(activity.level) - 1
    )
    np.savez(
        target,
        time=np.array([h.time for h in found]),
        kind=kinds,
        says=says,
        level=activity.level[at, kinds],
        openness=activity.openness[at],
        ornaments=activity.ornaments[at],
        doubts=doubts,
        mask=np.round(255 * activity.mask.astype(np.float32)).astype(np.uint8),
    )
    return (
        f"{file.stem}: {(says == 1).sum() / minutes:.0f} strokes a minute told, "
        f"{(says == -1).sum() / minutes:.0f} not, {len(doubts) / minutes:.0f} missed"
    )


@cache
def kept() -> Path:
    """Where the records lie as the shipped onset model folds them."""
    return backings.KEPT.parent / "folded" / sha256(_ONSET_MODEL.read_bytes()).hexdigest()[:12]


def records(workers: int = 2) -> list[Path]:
    """The folded records, made where they are not there."""
    done = kept() / "done"
    if not done.exists():
        kept().mkdir(parents=True, exist_ok=True)
        jobs = [
            (file, kept() / f"{package.split('-')[0]}-{n:02d}.npz")
            for package in PACKAGES
            for n, file in enumerate(backings.files(package, backings.PACKAGES[package]))
        ]
        with mp.get_context("spawn").Pool(workers) as pool:
            for line in pool.imap_unordered(_fold, jobs):
                print(line, flush=True)
        done.touch()
    return sorted(kept().glob("*.npz"))


@cache
def _record(path: Path) -> tuple[np.ndarray, dict[str, np.ndarray]]:
    loaded = np.load(path)
    return sf.read(path.with_suffix(".flac"), dtype="float32")[0], {k: loaded[k] for k in loaded}


def excerpt(seed: int) -> tuple[np.ndarray, ...]:
    """As mix.excerpt, of a folded record: at another speed, roughened."""
    rng = np.random.default_rng(seed)
    paths = records()
    sound, tells = _record(paths[int(rng.integers(len(paths)))])
    speed = float(np.exp(rng.normal(0, 0.05)))
    n = int(mix.SECONDS * RATE)
    start = int(rng.uniform(0, max(1, len(sound) - n * speed - RATE)))
    piece = mix.respeed(sound[start : start + int(n * speed) + 10], speed)[:n]
    piece = np.pad(piece, (0, n - len(piece)))
    made, unsure = _roughened(rng, piece / (np.abs(piece).max() + 1e-6))

    def frames(seconds: np.ndarray) -> np.ndarray:
        return np.round((seconds - start / RATE) / speed / FRAME).astype(int)

    onsets, levels = np.zeros((2, mix.FRAMES, len(CLASSES)), np.float32)
    extras = np.zeros((mix.FRAMES, 1 + len(ORNAMENTS)), np.float32)
    extras[:, 0] = -1
    onsets[unsure[: mix.FRAMES]] = -1
    at = frames(tells["time"])
    doubts = zip(frames(tells["doubts"][:, 0]), tells["doubts"][:, 1].astype(int), strict=True)
    unknown = [
        *doubts,
        *zip(at[tells["says"] == -1], tells["kind"][tells["says"] == -1], strict=True),
    ]
    for f, c in unknown:
        if 0 <= f < mix.FRAMES:
            onsets[max(f - 2, 0) : f + 3, c] = -1
    for k in np.flatnonzero((tells["says"] == 1) & (at >= 1) & (at < mix.FRAMES - 1)):
        c = tells["kind"][k]
        for j, w in _ONSET:
            onsets[at[k] + j, c] = max(onsets[at[k] + j, c], w)
            levels[at[k] + j, c] = tells["level"][k]
            extras[at[k] + j, 1:] = tells["ornaments"][k]
            if CLASSES[c] in ("hat_closed", "hat_open"):
                extras[at[k] + j, 0] = tells["openness"][k]
    rows = np.round((start / RATE + np.arange(mix.FRAMES) * FRAME * speed) / FRAME).astype(int)
    mask = tells["mask"][np.clip(rows, 0, len(tells["mask"]) - 1)]
    return (
        features_of(made).astype(np.float16),
        onsets.astype(np.float16),
        levels.astype(np.float16),
        extras.astype(np.float16),
        mask,
    )


def _roughened(rng: np.random.Generator, sound: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """(the sound under other music, equalised, compressed, driven, noised; frames in which that music
    sounds struck)."""
    n, frames = len(sound), len(sound) * 100 // RATE + 1
    unsure = np.zeros(frames, bool)
    if rng.random() < 0.4:
        other, struck = backings.bed(rng)
        unsure = backings.struck_frames(struck, frames)
        level = 10 ** (rng.uniform(-14, -2) / 20) * sound.std() / (other.std() + 1e-6)
        sound = sound + np.float32(level) * other[:n]
    shape = 10 ** (mix.equaliser(rng, 1.0)(np.fft.rfftfreq(n, 1 / RATE) + 1) / 20)
    sound = np.fft.irfft(np.fft.rfft(sound) * shape, n).astype(np.float32)
    sound = sound / (np.abs(sound).max() + 1e-6)
    if rng.random() < mix.MASTERED:
        sound = mix.mastered(rng, sound, np.zeros_like(sound))[2]
    elif rng.random() < 0.3:
        sound = sound * mix.compressor(rng, sound)
    if rng.random() < 0.35:
        drive = rng.uniform(1, 5)
        sound = np.tanh(drive * sound) / np.tanh(drive)
    return sound + rng.normal(0, 10 ** (rng.uniform(-80, -45) / 20), n).astype(np.float32), unsure


if __name__ == "__main__":
    print(len(records()), "records folded")
