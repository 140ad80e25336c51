"""Excerpts with their truth: drums and a band mixed by adding, then roughed up as records are."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from scipy.fft import irfft, next_fast_len, rfft
from scipy.signal import butter, fftconvolve, sosfilt

from materials import backings, kits
from materials.kits import CLASSES, RATE
from materials.parts_by_style import Event, Song, compose
from orchesis.hearing.network import FLOOR, ORNAMENTS, SPAN
from orchesis.hearing.spectrum import HOP, WINDOW, band_edges, band_magnitudes, features_of

SECONDS = 12.0
FRAMES = int(SECONDS * 100)
#: A stroke is audible where it makes this share of the power of its six best bands; below,
#: it counts neither as there nor as not there.
AUDIBLE = 0.12
_CENTRES = band_edges()[1:-1]
#: How unlike its own kit a piece is tuned (spread of the log of its speed), and how often it
#: shares its spectrum with a piece of another kit.
_SPREAD = {
    "kick": 0.1,
    "snare": 0.11,
    "tom": 0.15,
    "hat": 0.13,
    "ride": 0.14,
    "crash": 0.16,
    "china": 0.14,
    "splash": 0.14,
}
_BLENDED = 0.4
#: Share of the excerpts with a band that lie on real music, have a driven guitar, are mastered: more
#: beds and guitars than these and no more mastering helped (HEARING.md, second study).
_BEDS, _GUITARS, MASTERED = 0.45, 0.35, 0.22


@dataclass
class Sounded:
    """One stroke as it sounds: its event, class, and level (dB) and share of power in the mix."""

    event: Event
    name: str
    spectrum: np.ndarray  # (BANDS,) power at its onset
    level: float = 0.0
    share: float = 1.0


@dataclass
class Excerpt:
    """drums, rest, mix: (samples,), the stems before saturation; strokes: what sounds."""

    drums: np.ndarray
    rest: np.ndarray
    mix: np.ndarray
    strokes: list[Sounded]
    graces: list[tuple[float, str]]
    song: Song
    unsure: np.ndarray | None = None  # (frames,) where a bed sounds struck: neither way


def class_of(part: str) -> str:
    return "tom" if part.startswith("tom") else "crash" if part.startswith("crash") else part


def render(
    rng: np.random.Generator,
    names: tuple[str, ...],
    seconds: float,
    *,
    kind: str | None = None,
    rough: float = 1.0,
) -> Excerpt:
    """So many seconds out of a made-up song. kind: mix, drums or band. rough: how far levels,
    pieces and colours stray from a usual record's (1: as in training)."""
    skip = rng.uniform(0, 40) if seconds < 30 else 0.0
    song = _cut(compose(rng, seconds + skip), skip, seconds)
    kind = kind or str(rng.choice(["mix", "drums", "band"], p=[0.83, 0.13, 0.04]))
    n = int(seconds * RATE)
    drums, strokes, graces = np.zeros(n, np.float32), [], []
    if kind != "band":
        drums, strokes, graces = _drums(rng, song.events, names, n, rough)
    rest, unsure = np.zeros(n, np.float32), None
    if kind != "drums":
        rest, unsure = _music(rng, song, n, rough)
        level = float(np.sqrt((drums**2).mean())) + 1e-6
        gain = (
            level
            / (float(np.sqrt((rest**2).mean())) + 1e-6)
            * 10 ** (rough * rng.uniform(-9, 8) / 20)
        )
        rest = rest * np.float32(gain if kind == "mix" else 0.3 / (rest.std() + 1e-6))
    made = _rough(rng, drums, rest, strokes, graces, song, rough)
    return replace(made, unsure=unsure)


def _music(rng, song: Song, n: int, rough: float) -> tuple[np.ndarray, np.ndarray | None]:
    """What is no drum: notes as before, real music, driven guitars; frames in which a bed sounds struck.

    Songs of usual balance (rough 0) and longer than a bed are played by the band, as they always were.
    """
    frames = n * 100 // RATE + 1
    real = rough > 0 and n <= backings.SECONDS * RATE and rng.random() < _BEDS
    guitar = rough > 0 and rng.random() < _GUITARS
    rest, unsure = np.zeros(n, np.float32), None
    if real:
        sound, struck = backings.bed(rng)
        rest, unsure = sound[:n].copy(), backings.struck_frames(struck, frames)
    if not real or rng.random() < 0.15:
        band = _band(rng, song, n)
        rest = (
            band if not real else rest + band * np.float32(0.6 * rest.std() / (band.std() + 1e-6))
        )
    if guitar:
        part = backings.Guitar(rng).played(rng, song.beats, song.numbers, song.ternary, n)
        level = 10 ** (rng.uniform(-6, 6) / 20) * (rest.std() + 1e-3) / (part.std() + 1e-6)
        rest = rest + np.float32(level) * part
    return rest, unsure


def excerpt(seed: int, names: tuple[str, ...]) -> tuple[np.ndarray, ...]:
    """Features and truth of one excerpt, frames of 10 ms.

    (features (2, FRAMES, BANDS), onsets (FRAMES, classes): 1 here, about 0.35 beside, -1 neither;
    levels (FRAMES, classes); extras (FRAMES, 1 + ORNAMENTS): openness of a hat or -1, ornament;
    mask (FRAMES, BANDS) as bytes: the drums' share of the power.)
    """
    made = render(np.random.default_rng(seed), names, SECONDS)
    k = len(CLASSES)
    onsets, levels = np.zeros((FRAMES, k), np.float32), np.zeros((FRAMES, k), np.float32)
    extras = np.zeros((FRAMES, 1 + len(ORNAMENTS)), np.float32)
    extras[:, 0] = -1
    if made.unsure is not None:
        onsets[made.unsure[:FRAMES]] = -1
    for time, name in made.graces:
        at = round(time * RATE / HOP)
        onsets[max(at - 1, 0) : at + 2, CLASSES.index(name)] = -1
    for stroke in made.strokes:
        c, at = CLASSES.index(stroke.name), round(stroke.event.time * RATE / HOP)
        if not 0 <= at < FRAMES:
            continue
        if stroke.share < AUDIBLE:
            onsets[max(at - 2, 0) : at + 3, c] = np.minimum(onsets[max(at - 2, 0) : at + 3, c], -1)
            continue
        for j, w in ((-1, 0.35), (1, 0.35), (0, 1.0)):
            if 0 <= at + j < FRAMES:
                onsets[at + j, c] = max(onsets[at + j, c], w)
                levels[at + j, c] = np.clip((stroke.level - FLOOR) / SPAN, 0, 1)
                if stroke.name in ("hat_closed", "hat_open"):
                    extras[at + j, 0] = stroke.event.openness
                if stroke.event.ornament:
                    extras[at + j, 1 + ORNAMENTS.index(stroke.event.ornament)] = 1
    drums, rest = band_magnitudes(made.drums), band_magnitudes(made.rest)
    mask = drums**2 / (drums**2 + rest**2 + 1e-12)
    return (
        features_of(made.mix).astype(np.float16),
        onsets.astype(np.float16),
        levels.astype(np.float16),
        extras.astype(np.float16),
        np.round(255 * mask).astype(np.uint8),
    )


def _cut(song: Song, skip: float, seconds: float) -> Song:
    inside = [i for i, t in enumerate(song.beats) if skip <= t < skip + seconds]
    first, last = (inside[0], inside[-1] + 1) if inside else (0, 0)
    events = [
        Event(e.time - skip, e.part, e.loudness, e.ornament, e.openness)
        for e in song.events
        if skip + 0.03 < e.time < skip + seconds - 0.05
    ]
    bars = [(b - first, i) for i, b in enumerate(song.bars) if first <= b < last]
    return Song(
        song.style,
        song.beats[first:last] - skip,
        song.numbers[first:last],
        events,
        [b for b, _ in bars],
        [song.letters[i] for _, i in bars],
        song.ternary,
        [song.chords[i] for _, i in bars] or [0],
    )


_PITCHED: dict[tuple[int, int], np.ndarray] = {}  # notes by bank (kept for good) and key


def _onset_power(shot: np.ndarray) -> np.ndarray:
    """(BANDS,) power of a shot as the frame 10 ms behind its onset hears it."""
    padded = np.zeros(3 * WINDOW, np.float32)
    size = min(len(shot), WINDOW)
    padded[WINDOW : WINDOW + size] = shot[:size]
    start = WINDOW - WINDOW // 2 + HOP
    return band_magnitudes(padded[start : start + WINDOW], centred=False)[0] ** 2


def _own_kit(rng: np.random.Generator, names: tuple[str, ...]) -> str:
    real = [n for n in names if not n.startswith("made-")]
    made = [n for n in names if n.startswith("made-")]
    return str(rng.choice(made if made and rng.random() < 0.45 else real))


def _layers(rng, names, main, part, rough) -> list[np.ndarray]:
    """The sounds of one piece of this excerpt's kit, a little unlike any kit's own."""
    shown = "hat_open" if part == "hat_half" else part
    wanted = [shown, "crash" if shown == "crash2" else shown]
    if shown.startswith("tom"):
        wanted += ["tom1", "tom2", "tom3"]
    own = next((kits.kit(main)[p] for p in wanted if p in kits.kit(main)), None)
    if own is None or rng.random() < 0.3 * rough:
        for _ in range(12):
            other = kits.kit(_own_kit(rng, names))
            if shown in other:
                own = other[shown]
                break
        else:
            others = [k for k in names if shown in kits.kit(k)]
            own = kits.kit(str(rng.choice(others)))[shown] if others else own
    if own is None:
        return []
    spread = next((v for k, v in _SPREAD.items() if shown.startswith(k)), 0.1)
    speed = float(np.exp(rng.normal(0, spread * rough)))
    dying = rng.uniform(0.06, 0.6) if rng.random() < 0.25 * rough else None
    second = _another(rng, names, shown) if rng.random() < _BLENDED * rough else None
    second_speed = float(np.exp(rng.normal(0, spread * rough)))
    curve = _Curve.random(rng)
    picked = own if len(own) <= 4 else [own[i] for i in np.linspace(0, len(own) - 1, 4).astype(int)]
    made = []
    for k, sound in enumerate(picked):
        sound = respeed(sound, speed)
        beside = None
        if second:
            rank = round(k / max(1, len(picked) - 1) * (len(second) - 1))
            beside = respeed(second[rank], second_speed)
        sound = curve.applied(sound, beside)
        if dying:
            sound = sound * np.exp(-np.arange(len(sound)) / (dying * RATE)).astype(np.float32)
        made.append(sound)
    return made


def _another(rng, names, shown: str) -> list[np.ndarray] | None:
    """The layers of a part of some other kit, if one is soon found."""
    for _ in range(6):
        other = kits.kit(_own_kit(rng, names))
        if shown in other:
            return other[shown]
    return None


@dataclass(frozen=True)
class _Curve:
    """How a piece of this excerpt's kit sounds unlike the sampled one: equalised, and its
    spectrum shared with a piece of another kit above a frequency, or everywhere."""

    tilt: float
    bumps: tuple[tuple[float, float, float], ...]  # (octaves from 1 kHz, dB, width in octaves)
    cross: float  # octaves from 1 kHz
    share: float
    other: float

    @classmethod
    def random(cls, rng) -> _Curve:
        count = int(rng.integers(0, 4))
        bumps = tuple(
            (rng.uniform(-4, 3.7), rng.normal(0, 5), rng.uniform(0.3, 1.2)) for _ in range(count)
        )
        low, high = rng.permutation([rng.uniform(0, 0.35), rng.uniform(0.65, 1)])
        return cls(rng.normal(0, 1.2), bumps, rng.uniform(-2, 2.5), float(low), float(high))

    def applied(self, sound: np.ndarray, beside: np.ndarray | None) -> np.ndarray:
        n = max(len(sound), len(beside) if beside is not None else 0)
        size = next_fast_len(n + 64, real=True)
        octaves = np.log2(np.fft.rfftfreq(size, 1 / RATE) / 1000 + 0.01)
        db = self.tilt * np.clip(octaves, -4, 4)
        for at, gain, width in self.bumps:
            db = db + gain * np.exp(-(((octaves - at) / width) ** 2))
        spectrum = rfft(sound, size)
        if beside is not None:
            mixed = self.share + (self.other - self.share) / (
                1 + np.exp(-4 * (octaves - self.cross))
            )
            spectrum = (1 - mixed) * spectrum + mixed * rfft(beside, size)
        out = irfft(spectrum * 10 ** (db / 20), size)[:n].astype(np.float32)
        return out / (np.abs(out).max() + 1e-9) * np.abs(sound).max()


def _drums(rng, events, names, n, rough):
    main = _own_kit(rng, names)
    pieces: dict[str, list[np.ndarray]] = {}
    powers: dict[tuple[str, int], np.ndarray] = {}
    gains: dict[str, float] = {}
    power = rng.uniform(1.2, 2.4)
    out = np.zeros(n + 5 * RATE, np.float32)
    sounded: list[Sounded] = []
    graces: list[tuple[float, str]] = []
    ringing: tuple[int, int, np.ndarray] | None = None

    def strike(part: str, time: float, loudness: float, openness: float):
        nonlocal ringing
        layers = pieces[part]
        rank = int(
            np.clip(round(loudness * (len(layers) - 1) + rng.normal(0, 0.4)), 0, len(layers) - 1)
        )
        shot = layers[rank]
        loudest = np.sqrt((layers[-1][:4000] ** 2).mean()) + 1e-9
        own_level = np.sqrt((shot[:4000] ** 2).mean()) + 1e-9
        gain = np.float32(gains[part] * loudness**power * loudest / own_level)
        if (part, rank) not in powers:
            powers[part, rank] = _onset_power(shot)
        at = int(time * RATE)
        if at < 0 or at >= n:
            return None
        if part == "hat_open" and openness < 0.9:
            shot = shot * np.exp(-np.arange(len(shot)) / ((0.05 + 0.45 * openness) * RATE)).astype(
                np.float32
            )
        if part.startswith("hat") and ringing is not None:
            start, end, ring = ringing
            if start < at < end:
                fade = ring[at - start :].copy()
                ramp = min(1300, len(fade))
                fade[:ramp] *= np.linspace(0, 1, ramp, dtype=np.float32)
                out[at:end] -= fade[: end - at]
            ringing = None
        end = min(at + len(shot), len(out))
        out[at:end] += gain * shot[: end - at]
        if part == "hat_open":
            ringing = (at, end, gain * shot)
        return powers[part, rank] * float(gain) ** 2

    for event in events:
        part = event.part
        if part not in pieces:
            pieces[part] = _layers(rng, names, main, part, rough)
            soft = part.startswith(("hat", "ride", "crash", "splash", "china", "shaker", "tamb"))
            gains[part] = 10 ** (
                rng.normal(-6.5 if soft else 0, rough * (4.2 if soft else 3.5)) / 20
            )
        if not pieces[part]:
            continue
        name = class_of(part)
        if event.ornament in ("flam", "drag"):
            gap = rng.uniform(0.018, 0.042)
            before = [gap] if event.ornament == "flam" else [2 * gap, gap]
            for lead in before:
                strike(part, event.time - lead, event.loudness * rng.uniform(0.3, 0.65), 0)
                graces.append((event.time - lead, name))
        spectrum = strike(part, event.time, event.loudness, event.openness)
        if event.ornament == "buzz":
            gap, loud = rng.uniform(0.018, 0.035), event.loudness
            for k in range(int(rng.integers(4, 11))):
                loud *= rng.uniform(0.8, 0.92)
                strike(part, event.time + (k + 1) * gap, loud, 0)
                graces.append((event.time + (k + 1) * gap, name))
        if spectrum is not None:
            sounded.append(Sounded(event, name, spectrum))
    return out[:n], sounded, graces


def respeed(sound: np.ndarray, speed: float) -> np.ndarray:
    at = np.arange(0, len(sound) - 1, speed)
    return np.interp(at, np.arange(len(sound)), sound).astype(np.float32)


def _band(rng, song: Song, n: int) -> np.ndarray:
    out = np.zeros(n + 4 * RATE, np.float32)
    if len(song.beats) < 2:
        return out[:n]
    period = float(np.median(np.diff(song.beats)))
    bass, chord, lead = (
        kits.notes(int(rng.choice(kits.PROGRAMS[k])), str(rng.choice(kits.BAND)))
        for k in ("bass", "chord", "lead")
    )
    root = int(rng.integers(0, 12))

    def play(bank, key, time, length, gain):
        if not bank or time < 0:
            return
        if (id(bank), key) not in _PITCHED:
            near = min(bank, key=lambda k: abs(k - key))
            _PITCHED[id(bank), key] = respeed(bank[near], 2 ** ((key - near) / 12))
        sound = _PITCHED[id(bank), key]
        size = min(int(length * RATE), len(sound))
        own = sound[:size].copy()
        fade = min(800, size)
        own[-fade:] *= np.linspace(1, 0, fade, dtype=np.float32)
        at = int((time + rng.normal(0, 0.005)) * RATE)
        if 0 <= at < n:
            out[at : at + size] += np.float32(gain) * own

    kicks = [e.time for e in song.events if e.part == "kick"]
    follows = rng.random() < 0.55
    scale = (0, 2, 4, 5, 7, 9, 11) if rng.random() < 0.5 else (0, 2, 3, 5, 7, 8, 10)
    strum = str(rng.choice(["bar", "half", "eighths", "quarters", "offs", "sixteenths", "none"]))
    step = 1 / 3 if song.ternary else 0.5
    has_lead = rng.random() < 0.5
    bass_gain, chord_gain = rng.uniform(0.4, 1.2), rng.uniform(0.12, 0.35)
    bar = -1
    for time, number in zip(song.beats, song.numbers, strict=True):
        if number == 0:
            bar = min(bar + 1, len(song.chords) - 1)
        offset = song.chords[max(bar, 0)]
        triad = (0, 4, 7) if offset in (0, 5, 7) else (0, 3, 7)
        places = {
            "bar": (0,) if number == 0 else (),
            "half": (0,) if number % 2 == 0 else (),
            "quarters": (0,),
            "eighths": (0, step),
            "offs": (1 - step,),
            "sixteenths": (0, 0.25, 0.5, 0.75) if not song.ternary else (0, step, 2 * step),
            "none": (),
        }[strum]
        length = {"bar": 3.6, "half": 1.9, "quarters": 0.8}.get(strum, 0.3)
        for place in places:
            for third in triad:
                play(
                    chord,
                    48 + root + offset + third,
                    time + place * period,
                    period * length,
                    chord_gain,
                )
        if not follows and rng.random() < 0.9:
            for half in (0, step) if rng.random() < 0.5 else (0,):
                play(bass, 33 + (root + offset) % 12, time + half * period, period * 0.6, bass_gain)
        if has_lead:
            for place in (0, step / 2, step, 1 - step):
                if rng.random() < 0.3:
                    key = 60 + root + int(rng.choice(scale))
                    play(lead, key, time + place * period, period * rng.uniform(0.2, 1.5), 0.4)
    if follows:
        for time in kicks:
            bar = int(np.searchsorted(song.beats, time)) // max(1, int(song.numbers.max()) + 1)
            offset = song.chords[min(bar, len(song.chords) - 1)]
            play(bass, 33 + (root + offset) % 12, time, period * rng.uniform(0.4, 1), bass_gain)
    if rng.random() < 0.3:
        voice = kits.voices()[int(rng.integers(30))]
        voice = respeed(voice, rng.uniform(0.7, 1.4))
        gain = np.float32(rng.uniform(0.1, 0.8) * (out.std() + 0.02) * 4)
        at = int(rng.uniform(0, max(1, n - len(voice))))
        out[at : at + len(voice)] += gain * voice[: len(out) - at]
    return out[:n]


def _tail(rng) -> np.ndarray:
    length = int(rng.uniform(0.15, 1.2) * RATE)
    tail = rng.normal(0, 1, length) * np.exp(-np.arange(length) / (length / 5))
    return (tail / np.sqrt((tail**2).sum())).astype(np.float32)


def equaliser(rng: np.random.Generator, rough: float) -> Callable[[np.ndarray], np.ndarray]:
    """A tilt, three bells and now and then an end of the highs: from frequencies (Hz) to dB."""
    warp = [rng.normal(0, 3 * rough) for _ in range(3)], [rng.uniform(-4, 4) for _ in range(3)]
    tilt = rng.normal(0, 1.2 * rough)
    low_pass = rng.uniform(6, 16) if rng.random() < 0.2 * rough else None

    def curve(freqs: np.ndarray) -> np.ndarray:
        octaves = np.log2(freqs / 1000)
        db = tilt * octaves + sum(
            g * np.exp(-((octaves - c) ** 2)) for g, c in zip(*warp, strict=True)
        )
        return db - 40 * np.clip(octaves - np.log2(low_pass), 0, 1) if low_pass else db

    return curve


def _rough(rng, drums, rest, strokes, graces, song, rough) -> Excerpt:
    """Room, equaliser, then level, compression, saturation and noise on the sum."""
    n = len(drums)
    if rng.random() < 0.45:
        drums = drums + np.float32(rng.uniform(0.03, 0.3)) * fftconvolve(drums, _tail(rng))[
            :n
        ].astype(np.float32)
    if rng.random() < 0.4:
        rest = rest + np.float32(rng.uniform(0.03, 0.4)) * fftconvolve(rest, _tail(rng))[:n].astype(
            np.float32
        )
    curve = equaliser(rng, rough)
    shape = 10 ** (curve(np.fft.rfftfreq(n, 1 / RATE) + 1) / 20)
    drums, rest = (
        np.fft.irfft(np.fft.rfft(x) * shape, n).astype(np.float32) for x in (drums, rest)
    )
    mix = drums + rest
    top = np.float32(np.abs(mix).max() + 1e-6)
    drums, rest, mix = drums / top, rest / top, mix / top
    _weigh(strokes, drums, rest, top, 10 ** (curve(_CENTRES) / 10))
    if rough > 0 and rng.random() < MASTERED:
        drums, rest, mix = mastered(rng, drums, rest)
    elif rng.random() < 0.3:
        gain = compressor(rng, mix)
        drums, rest, mix = drums * gain, rest * gain, mix * gain
    if rng.random() < 0.35:
        drive = rng.uniform(1, 5)
        mix = np.tanh(drive * mix) / np.tanh(drive)
    mix = mix + rng.normal(0, 10 ** (rng.uniform(-90, -50) / 20), n).astype(np.float32)
    return Excerpt(drums, rest, mix.astype(np.float32), strokes, graces, song)


def mastered(rng, drums, rest) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Three bands compressed each for itself, clipped a little, limited: as loud records are made."""
    low, high = rng.uniform(120, 250), rng.uniform(2000, 5000)
    splits = [
        butter(2, low, fs=RATE, output="sos"),
        butter(2, (low, high), "band", fs=RATE, output="sos"),
        butter(2, high, "high", fs=RATE, output="sos"),
    ]
    out_drums, out_rest = np.zeros_like(drums), np.zeros_like(rest)
    for split in splits:
        a, b = (sosfilt(split, x).astype(np.float32) for x in (drums, rest))
        gain = compressor(rng, a + b) * np.float32(10 ** (rng.normal(0, 2) / 20))
        out_drums, out_rest = out_drums + a * gain, out_rest + b * gain
    mix = out_drums + out_rest
    drive = np.float32(rng.uniform(0.8, 2.2) / (4 * mix.std() + 1e-6))
    mix = np.tanh(drive * mix)
    block = RATE // 500
    size = len(mix) // block * block
    peaks = np.abs(mix[:size]).reshape(-1, block).max(axis=1) * rng.uniform(1.1, 1.7)
    gain = np.minimum(1, 0.9 / np.maximum(peaks, 1e-6))
    for k in range(1, len(gain)):
        gain[k] = min(gain[k], gain[k - 1] + 1 / 40)
    full = np.interp(np.arange(len(mix)), np.arange(len(gain)) * block, gain).astype(np.float32)
    return drive * out_drums * full, drive * out_rest * full, mix * full


def _weigh(strokes: list[Sounded], drums, rest, top: float, shape: np.ndarray) -> None:
    """Level of each stroke in the mix, and its share of what sounds in its own bands."""
    if not strokes:
        return
    power = band_magnitudes(drums) ** 2 + band_magnitudes(rest) ** 2
    usual = float(power.sum(axis=1).mean()) + 1e-12
    for stroke in strokes:
        own = stroke.spectrum * shape / top**2
        at = min(round(stroke.event.time * RATE / HOP) + 1, len(power) - 1)
        stroke.level = 10 * np.log10(own.sum() / usual + 1e-9)
        shares = own / (np.maximum(power[at] - own, 0) + own + 1e-12)
        weighed = np.where(own > 0.003 * own.max(), shares, 0)
        stroke.share = float(np.sort(weighed)[-6:].mean())


def compressor(rng, mix: np.ndarray) -> np.ndarray:
    block = 220
    level = np.sqrt(np.add.reduceat(mix**2, np.arange(0, len(mix), block)) / block) + 1e-5
    release = np.exp(-1 / rng.uniform(8, 60))
    held = np.empty_like(level)
    now = 0.0
    for i, value in enumerate(level):
        now = max(value, now * release)
        held[i] = now
    limit = np.percentile(held, rng.uniform(20, 70))
    gain = np.minimum(1, (limit / held) ** (1 - 1 / rng.uniform(2, 6)))
    return np.interp(np.arange(len(mix)), np.arange(len(gain)) * block, gain).astype(np.float32)
