"""What drums lie on in training besides notes: real music without a kit, and driven guitars.

Beds are stretches of freely licensed game music (PACKAGES) in which an independent measure, how often
most of the upper bands rise at once, finds hardly any stroke; choosing them by the onset model' own activity
would drop just the stretches that they mishear. What still sounds like a stroke there counts neither way.
Guitars are real strums of ``hydrogen-drumkits-effects``, driven as an amplifier does; the second half of
its chords belongs to the bench (bench/beds.py).
"""

from __future__ import annotations

import subprocess
import zipfile
from functools import cache
from pathlib import Path

import numpy as np
import soundfile as sf
import soxr
from scipy.signal import butter, sosfilt

from orchesis.hearing.spectrum import band_magnitudes

RATE = 44100
KEPT = Path(__file__).resolve().parent.parent / "var" / "training" / "beds"
#: Where the music of a package lies: files, or an archive of them.
PACKAGES = {
    "wesnoth-1.16-music": Path("/usr/share/games/wesnoth/1.16/data/core/music"),
    "ufoai-music": Path("/usr/share/games/ufoai/base/0music.pk3"),
    "nexuiz-music": Path("/usr/share/games/nexuiz/data/music.pk3"),
    "torcs-data": Path("/usr/share/games/torcs/data/music"),
}
STRUMS = Path("/usr/share/hydrogen/data/drumkits/belofilms_GuitarStrums")
SECONDS = 12
#: A stretch is a bed where fewer strokes a second seem to sound than this.
FEWEST = 0.6
_RISE = np.log(10 ** (7 / 20))  # of a band's magnitude within 30 ms
_UPPER = slice(38, 84)  # bands from about 1 kHz on


_EDGE = 5  # frames


def struck(sound: np.ndarray) -> np.ndarray:
    """Frames (10 ms) at which most upper bands rise at once: (n,), as a stroke makes them."""
    power = band_magnitudes(sound)
    bands = np.log(power[:, _UPPER] + 1e-3 * power.mean() + 1e-9)
    rise = np.zeros(len(bands))
    rise[3:] = (bands[3:] - bands[:-3] > _RISE).mean(axis=1)
    high = np.flatnonzero(rise[:-_EDGE] > 0.45)  # where a sound is cut off nothing was struck
    return high[np.insert(np.diff(high) > 6, 0, True)] if len(high) else high


@cache
def beds() -> list[Path]:
    """The kept beds, made where they are not there: 16-bit mono files of SECONDS."""
    done = KEPT / "done"
    if not done.exists():
        KEPT.mkdir(parents=True, exist_ok=True)
        for package, place in PACKAGES.items():
            for n, file in enumerate(files(package, place)):
                _keep(file, f"{package.split('-')[0]}-{n:02d}")
        done.touch()
    return sorted(KEPT.glob("*.flac"))


def files(package: str, place: Path) -> list[Path]:
    if place.is_dir():
        return sorted(place.glob("*.ogg"))
    folder = KEPT / "archives" / package
    if not folder.exists():
        with zipfile.ZipFile(place) as archive:
            archive.extractall(folder)
    return sorted(folder.rglob("*.ogg"))


def _keep(file: Path, stem: str) -> None:
    command = [
        "ffmpeg",
        "-v",
        "error",
        "-i",
        str(file),
        "-ac",
        "1",
        "-ar",
        str(RATE),
        "-f",
        "f32le",
        "-",
    ]
    sound = np.frombuffer(subprocess.run(command, check=True, capture_output=True).stdout, "<f4")
    size = SECONDS * RATE
    for k, start in enumerate(range(0, len(sound) - size, size * 2 // 3)):
        piece = sound[start : start + size]
        if piece.std() < 0.005 or len(struck(piece)) / SECONDS > FEWEST:
            continue
        sf.write(KEPT / f"{stem}-{k:02d}.flac", piece / (np.abs(piece).max() + 1e-9), RATE)


def bed(rng: np.random.Generator) -> tuple[np.ndarray, np.ndarray]:
    """(samples of SECONDS, frames that sound struck): a bed at a random speed, turned round at random."""
    sound = sf.read(beds()[int(rng.integers(len(beds())))], dtype="float32")[0]
    speed = float(np.exp(rng.normal(0, 0.08)))
    at = np.arange(len(sound)) * speed
    sound = np.interp(at % (len(sound) - 1), np.arange(len(sound)), sound).astype(np.float32)
    sound = np.roll(sound, int(rng.integers(len(sound))))
    return sound, struck(sound)


@cache
def strums() -> list[np.ndarray]:
    """Every second strum of the first half of the chords, from its onset, at most 2.5 s."""
    files = sorted(STRUMS.glob("*.flac"))
    made = []
    for file in files[: len(files) // 2 : 2]:
        sound, rate = sf.read(file, dtype="float32", always_2d=True)
        shot = soxr.resample(sound.mean(axis=1), rate, RATE)[: int(2.5 * RATE)]
        start = max(int(np.argmax(np.abs(shot) > 0.05 * np.abs(shot).max())) - 20, 0)
        made.append(shot[start:] / (np.abs(shot).max() + 1e-9))
    return made


class Guitar:
    """One amplifier and hand of an excerpt: drive, cabinet, which strums, how long they ring."""

    def __init__(self, rng: np.random.Generator) -> None:
        drive = 10 ** (rng.uniform(10, 50) / 20)
        cabinet = butter(4, rng.uniform(3800, 6500), fs=RATE, output="sos")
        body = butter(2, rng.uniform(60, 140), "high", fs=RATE, output="sos")
        picked = rng.integers(0, len(strums()), 4)
        self.long, self.short = [], []
        for k in picked:
            shot = sosfilt(body, sosfilt(cabinet, np.tanh(drive * strums()[k])))
            shot = shot / (np.abs(shot).max() + 1e-9)
            n = np.arange(len(shot))
            self.long.append((shot * np.linspace(1, 0, len(n))).astype(np.float32))
            muted = sosfilt(
                butter(2, rng.uniform(900, 2500), fs=RATE, output="sos"),
                np.tanh(drive * strums()[k]),
            )
            muted = muted * np.exp(-n / (rng.uniform(0.03, 0.09) * RATE))
            self.short.append((muted / (np.abs(muted).max() + 1e-9)).astype(np.float32))

    def played(
        self,
        rng: np.random.Generator,
        beats: np.ndarray,
        numbers: np.ndarray,
        third: bool,
        size: int,
    ) -> np.ndarray:
        """Its part on a grid of beats (seconds): chords held, 8ths, gallops, palm mutes; doubled or not."""
        out = np.zeros(size + 3 * RATE, np.float32)
        if len(beats) < 2:
            return out[:size]
        period = float(np.median(np.diff(beats)))
        step = 1 / 3 if third else 0.5
        way = str(rng.choice(["bar", "half", "eighths", "muted", "gallop", "offs"]))
        places = {
            "bar": (0.0,),
            "half": (0.0,),
            "eighths": (0.0, step),
            "muted": (0.0, step),
            "gallop": (0.0, step, 1.5 * step),
            "offs": (step,),
        }[way]
        doubled = rng.random() < 0.5
        for time, number in zip(beats, numbers, strict=True):
            if (way == "bar" and number != 0) or (way == "half" and number % 2):
                continue
            for place in places:
                if rng.random() < 0.06:
                    continue
                short = way in ("muted", "gallop") and rng.random() < 0.8
                bank = self.short if short else self.long
                chord = int(number * 7 + int(time)) % len(bank)
                for late in (0.0, rng.uniform(0.004, 0.02)) if doubled else (0.0,):
                    at = round((time + place * period + late + rng.normal(0, 0.006)) * RATE)
                    length = RATE * {"bar": 4, "half": 2}.get(way, 1) * period
                    if 0 <= at < size:
                        shot = bank[chord][: int(length)] * np.float32(rng.uniform(0.7, 1))
                        shot[-400:] *= np.linspace(1, 0, min(400, len(shot)), dtype=np.float32)
                        out[at : at + len(shot)] += shot[: len(out) - at]
        return out[:size]


def struck_frames(at: np.ndarray, frames: int) -> np.ndarray:
    """(frames,) whether a frame lies at, just before or just behind something that sounds struck."""
    near = np.zeros(frames, bool)
    for k in at:
        near[max(int(k) - 3, 0) : int(k) + 2] = True
    return near
