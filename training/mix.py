"""Excerpts with their truth: drums and a band mixed by adding, then roughed up."""

from __future__ import annotations

import numpy as np
from scipy.signal import fftconvolve

from orchesis.hearing.spectrum import HOP, features_of
from training import kits
from training.grooves import compose
from training.kits import CLASSES, RATE

SECONDS = 12.0
FRAMES = int(SECONDS * 100)


def song(seed: int, names: tuple[str, ...], seconds: float) -> tuple[np.ndarray, list, list, list]:
    """(mono sound, strokes, beat times, their numbers in the bar) of a longer made-up song."""
    rng = np.random.default_rng(seed)
    events, beats, numbers = compose(rng, seconds)
    n = int(seconds * RATE)
    drums, sounded = _drums(rng, events, names, n)
    rest = _band(rng, events, beats, numbers, n)
    level = np.sqrt((drums**2).mean()) / (np.sqrt((rest**2).mean()) + 1e-6)
    mix = drums + rest * level * 10 ** (rng.uniform(-8, 4) / 20)
    return _rough(rng, mix), sounded, beats, numbers


def excerpt(seed: int, names: tuple[str, ...]) -> tuple[np.ndarray, ...]:
    """(features (2, FRAMES, bands), onsets (FRAMES, classes), loudness, beats (FRAMES, 2))."""
    rng = np.random.default_rng(seed)
    events, beats, numbers = compose(rng, SECONDS)
    kind = rng.choice(["mix", "drums", "band"], p=[0.82, 0.14, 0.04])
    n = int(SECONDS * RATE)
    drums, sounded = np.zeros(n, np.float32), []
    if kind != "band":
        drums, sounded = _drums(rng, events, names, n)
    mix = drums
    if kind != "drums":
        band = _band(rng, events, beats, numbers, n)
        level = np.sqrt((drums**2).mean()) + 1e-6
        gain = level / (np.sqrt((band**2).mean()) + 1e-6) * 10 ** (rng.uniform(-9, 7) / 20)
        mix = drums + band * (gain if kind == "mix" else 1.0)
    mix = _rough(rng, mix)
    onsets, loud, pulse = (
        np.zeros((FRAMES, k), np.float32) for k in (len(CLASSES), len(CLASSES), 2)
    )
    for time, part, loudness in sounded:
        c = CLASSES.index(_class(part))
        at = round(time * RATE / HOP)
        for k, w in ((-1, 0.35), (1, 0.35), (0, 1.0)):
            if 0 <= at + k < FRAMES:
                onsets[at + k, c] = max(onsets[at + k, c], w)
                loud[at + k, c] = max(loud[at + k, c], loudness)
    for time, number in zip(beats, numbers, strict=True):
        at = round(time * 100)
        for k in (-1, 0, 1):
            if 0 <= at + k < FRAMES:
                pulse[at + k, 0] = 1
                pulse[at + k, 1] = max(pulse[at + k, 1], float(number == 0))
    return (
        features_of(mix).astype(np.float16),
        onsets.astype(np.float16),
        loud.astype(np.float16),
        pulse.astype(np.float16),
    )


def _class(part: str) -> str:
    return "tom" if part.startswith("tom") else "crash" if part.startswith("crash") else part


def _drums(rng, events, names, n):
    main = kits.kit(str(rng.choice(names)))
    pieces: dict[str, list[np.ndarray]] = {}
    gains: dict[str, float] = {}
    power = rng.uniform(1.2, 2.4)
    out = np.zeros(n + 4 * RATE, np.float32)
    sounded = []
    hats: list[tuple[int, int]] = []  # ringing hat: where it begins and ends in `out`
    ring: np.ndarray | None = None
    for time, part, loudness in events:
        if part not in pieces:
            own = main.get(part) or (main.get("crash") if part == "crash2" else None)
            if own is None or rng.random() < 0.25:
                others = [k for k in names if part in kits.kit(k)]
                own = kits.kit(str(rng.choice(others)))[part] if others else own
            if own is None and part.startswith("tom"):
                own = next((main[t] for t in ("tom1", "tom2", "tom3") if t in main), None)
            speed = float(np.exp(rng.normal(0, 0.06)))
            pieces[part] = [_respeed(s, speed) for s in own] if own else []
            low = part.startswith(("hat", "ride", "crash"))
            gains[part] = 10 ** (rng.normal(-7 if low else 0, 3.5) / 20)
        layers = pieces[part]
        if not layers:
            continue
        rank = int(
            np.clip(round(loudness * (len(layers) - 1) + rng.normal(0, 0.4)), 0, len(layers) - 1)
        )
        shot = layers[rank]
        loudest = np.sqrt((layers[-1][:4000] ** 2).mean()) + 1e-9
        own_level = np.sqrt((shot[:4000] ** 2).mean()) + 1e-9
        gain = gains[part] * loudness**power * loudest / own_level
        at = int(time * RATE)
        if part.startswith("hat") and hats:
            start, end = hats.pop()
            if start < at < end and ring is not None:
                fade = ring[at - start :].copy()
                fade[: min(1300, len(fade))] *= np.linspace(
                    0, 1, min(1300, len(fade)), dtype=np.float32
                )
                out[at:end] -= fade[: end - at]
        end = min(at + len(shot), len(out))
        out[at:end] += gain * shot[: end - at]
        if part == "hat_open":
            hats, ring = [(at, end)], gain * shot
        sounded.append((time, part, loudness))
    return out[:n], sounded


def _respeed(sound: np.ndarray, speed: float) -> np.ndarray:
    at = np.arange(0, len(sound) - 1, speed)
    return np.interp(at, np.arange(len(sound)), sound).astype(np.float32)


def _band(rng, events, beats, numbers, n):
    out = np.zeros(n + 3 * RATE, np.float32)
    if len(beats) < 2:
        return out[:n]
    period = float(np.median(np.diff(beats)))
    bass, chord, lead = (
        kits.notes(int(rng.choice(kits.PROGRAMS[k]))) for k in ("bass", "chord", "lead")
    )
    root = int(rng.integers(0, 12))

    def play(bank, key, time, length, gain):
        if not bank or time < 0:
            return
        near = min(bank, key=lambda k: abs(k - key))
        sound = bank[near] if near == key else _respeed(bank[near], 2 ** ((key - near) / 12))
        size = min(int(length * RATE), len(sound))
        own = sound[:size].copy()
        fade = min(800, size)
        own[-fade:] *= np.linspace(1, 0, fade, dtype=np.float32)
        at = int((time + rng.normal(0, 0.006)) * RATE)
        if 0 <= at < n:
            out[at : at + size] += gain * own

    kick_times = [t for t, part, _ in events if part == "kick"]
    follows = rng.random() < 0.6
    scale = (0, 2, 4, 5, 7, 9, 11) if rng.random() < 0.5 else (0, 2, 3, 5, 7, 8, 10)
    offset, strum = 0, str(rng.choice(["bar", "eighths", "quarters", "offs", "none"]))
    has_lead = rng.random() < 0.5
    bass_gain = rng.uniform(0.4, 1.2)
    for time, number in zip(beats, numbers, strict=True):
        if number == 0:
            offset = int(rng.choice(scale))
            if strum == "bar":
                for third in (0, 4, 7):
                    play(chord, 60 + root + offset + third - 12, time, period * 3.6, 0.3)
        if not follows and rng.random() < 0.9:
            for half in (0, 0.5) if rng.random() < 0.5 else (0,):
                play(bass, 33 + (root + offset) % 12, time + half * period, period * 0.6, bass_gain)
        if strum in ("eighths", "quarters", "offs"):
            for half in {"eighths": (0, 0.5), "quarters": (0,), "offs": (0.5,)}[strum]:
                for third in (0, 4, 7):
                    play(
                        chord,
                        60 + root + offset + third - 12,
                        time + half * period,
                        period * 0.4,
                        0.25,
                    )
        if has_lead:
            for quarter in (0, 0.25, 0.5, 0.75):
                if rng.random() < 0.3:
                    play(
                        lead,
                        60 + root + int(rng.choice(scale)),
                        time + quarter * period,
                        period * rng.uniform(0.2, 1.5),
                        0.4,
                    )
    if follows:
        for time in kick_times:
            play(bass, 33 + (root + offset) % 12, time, period * rng.uniform(0.4, 1), bass_gain)
    return out[:n]


def _rough(rng, mix: np.ndarray) -> np.ndarray:
    n = len(mix)
    if rng.random() < 0.45:
        length = int(rng.uniform(0.15, 1.2) * RATE)
        tail = rng.normal(0, 1, length).astype(np.float32) * np.exp(
            -np.arange(length) / (length / 5)
        ).astype(np.float32)
        tail /= np.sqrt((tail**2).sum())
        mix = mix + rng.uniform(0.03, 0.3) * fftconvolve(mix, tail)[:n].astype(np.float32)
    spectrum = np.fft.rfft(mix)
    freqs = np.fft.rfftfreq(n, 1 / RATE) + 1
    octaves = np.log2(freqs / 1000)
    curve = rng.normal(0, 1.2) * octaves + sum(
        rng.normal(0, 3) * np.exp(-((octaves - rng.uniform(-4, 4)) ** 2)) for _ in range(3)
    )
    if rng.random() < 0.15:
        curve = curve - 40 * np.clip(octaves - np.log2(rng.uniform(6, 14)), 0, 1)
    mix = np.fft.irfft(spectrum * 10 ** (curve / 20), n).astype(np.float32)
    mix /= np.abs(mix).max() + 1e-6
    if rng.random() < 0.35:
        drive = rng.uniform(1, 5)
        mix = np.tanh(drive * mix) / np.tanh(drive)
    return mix + rng.normal(0, 10 ** (rng.uniform(-90, -50) / 20), n).astype(np.float32)
