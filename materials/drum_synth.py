"""Drums that no kit has: every piece of a kit made from modes, noise and decays at random.

A sampled kit teaches a network that kit; hundreds of unlike made ones teach it what a kick, a
snare or a ride have in common. Modes of drum heads and the growth of high partials in a
cymbal follow Fletcher & Rossing, "The Physics of Musical Instruments", chapters 18-20.
"""

from __future__ import annotations

from functools import cache

import numpy as np

RATE = 44100
#: Layers from soft to loud: brightness and noise grow with the stroke.
FORCE = (0.3, 0.65, 1.0)
_HEAD = np.array([1.0, 1.59, 2.14, 2.30, 2.65, 2.92, 3.16, 3.50])  # modes of a circular membrane


def _modes(
    rng, freqs: np.ndarray, decays: np.ndarray, levels: np.ndarray, seconds: float
) -> np.ndarray:
    t = np.arange(int(seconds * RATE)) / RATE
    phase = rng.uniform(0, 2 * np.pi, len(freqs))
    out = np.zeros(len(t))
    for freq, start, decay, level in zip(freqs, phase, decays, levels, strict=True):
        heard = min(len(t), int(9 * decay * RATE) + 1)  # beyond that below -78 dB
        out[:heard] += (
            level * np.sin(2 * np.pi * freq * t[:heard] + start) * np.exp(-t[:heard] / decay)
        )
    return out


def _hiss(
    rng,
    low: float,
    high: float,
    decay_low: float,
    decay_high: float,
    seconds: float,
    *,
    tilt: float = 0.0,
    growth: float = 0.0,
) -> np.ndarray:
    """Noise between two frequencies whose bands die at their own pace; growth: attack in s."""
    n = int(seconds * RATE)
    spectrum = np.fft.rfft(rng.normal(0, 1, n))
    freqs = np.fft.rfftfreq(n, 1 / RATE) + 1
    t = np.arange(n) / RATE
    out = np.zeros(n)
    edges = np.geomspace(low, high, 7)
    for k in range(6):
        a, b = edges[k], edges[k + 1]
        shape = 1 / (1 + (a / freqs) ** 8) / (1 + (freqs / b) ** 8)
        share = k / 5
        decay = decay_low ** (1 - share) * decay_high**share
        band = np.fft.irfft(spectrum * shape, n)
        band /= np.sqrt((band**2).mean()) + 1e-9
        env = np.exp(-t / decay)
        if growth > 0:
            env = env * (1 - np.exp(-t / (growth * (0.3 + share) + 1e-4)))
        out += band * env * 10 ** (tilt * share / 20)
    return out


def _swept(rng, f0: float, f1: float, fall: float, decay: float, seconds: float) -> np.ndarray:
    t = np.arange(int(seconds * RATE)) / RATE
    freq = f0 + (f1 - f0) * np.exp(-t / fall)
    return np.sin(2 * np.pi * np.cumsum(freq) / RATE) * np.exp(-t / decay)


def _sum(*parts: np.ndarray) -> np.ndarray:
    out = np.zeros(max(len(p) for p in parts))
    for p in parts:
        out[: len(p)] += p
    return out


def _kick(rng, force, p):
    f0 = p["a"] * 40 + 36
    body = _swept(
        rng, f0, f0 * (2 + 4 * p["b"]), 0.004 + 0.03 * p["c"], 0.05 + 0.35 * p["d"] ** 2, 0.7
    )
    click = _hiss(
        rng, 800 + 2500 * p["e"], 4000 + 6000 * p["f"], 0.006, 0.003, 0.06, tilt=6 * force - 6
    )
    knock = _modes(
        rng,
        (90 + 250 * p["g"]) * _HEAD[:3],
        np.full(3, 0.03 + 0.04 * p["h"]),
        np.array([1, 0.5, 0.3]),
        0.3,
    )
    return _sum(body, 0.25 * p["i"] * force * click, 0.35 * p["j"] * knock)


def _snare(rng, force, p):
    f = 140 + 150 * p["a"]
    decays = (0.03 + 0.12 * p["b"]) / np.sqrt(_HEAD[:6])
    body = _modes(rng, f * _HEAD[:6], decays, rng.uniform(0.3, 1, 6) * p["levels"][:6], 0.5)
    decay = 0.025 + 0.14 * p["c"] ** 1.5
    wires = _hiss(
        rng,
        900 + 1500 * p["d"],
        6000 + 8000 * p["e"],
        decay,
        decay * 0.7,
        0.6,
        tilt=-8 + 10 * p["f"] + 5 * (force - 1),
    )
    stick = _hiss(rng, 2000, 9000, 0.004, 0.002, 0.03)
    ring = _modes(
        rng,
        np.array([f * (2.5 + 2 * p["g"])]),
        np.array([0.05 + 0.2 * p["h"]]),
        np.array([0.4 * p["i"] * force]),
        0.5,
    )
    return _sum(
        # Of sampled snares over half the energy lies below 500 Hz.
        body * (0.9 + 2.4 * p["j"]),
        wires * (0.04 + 0.24 * p["k"]),
        0.2 * force * stick,
        ring,
    )


def _cross_stick(rng, force, p):
    freqs = (250 + 700 * p["a"]) * np.sort(1 + 3.5 * p["levels"][:5])
    wood = _modes(rng, freqs, 0.008 + 0.04 * p["b"] * p["more"][:5], 0.3 + p["levels"][5:10], 0.3)
    return _sum(
        wood,
        0.3 * p["c"] * _hiss(rng, 1500, 7000, 0.008, 0.004, 0.06),
        0.6 * p["d"] * _swept(rng, 180, 240, 0.02, 0.04, 0.2),
    )


def _cymbal(
    rng, p, *, low, high, long, ping=0.0, wash=1.0, growth=0.0, tilt=0.0, count=40, seconds=2.2
):
    freqs = low * (high / low) ** p["more"][:count]
    decays = long * (low / freqs) ** (0.3 * p["a"]) * (0.4 + p["extra"][:count])
    partials = _modes(rng, freqs, np.maximum(decays, 0.01), p["spread"][:count] ** 2, seconds)
    noise = _hiss(
        rng, low, high, long, long * (0.4 + 0.5 * p["b"]), seconds, tilt=tilt, growth=growth
    )
    ring = partials / (np.abs(partials).max() + 1e-9)
    return _sum((0.3 + ping) * ring, wash * 0.25 * noise)


def _hat(rng, force, p, opening: float):
    low, high = 2000 + 3000 * p["a"], 9000 + 9000 * p["b"]
    # A closed hat falls by 20 dB in 50 to 130 ms: 2.3 times this.
    long = (0.024 + 0.04 * p["c"]) * (1 - opening) + opening * (0.12 + 0.4 * p["d"])
    sound = _cymbal(
        rng,
        p,
        low=low,
        high=high,
        long=long,
        ping=0.4 * p["e"],
        tilt=4 * force - 4 + 14 * p["f"],
        seconds=0.35 + 1.4 * opening,
    )
    knock = _modes(
        rng,
        (350 + 500 * p["h"]) * (1 + 2 * p["levels"][:4]),
        0.006 + 0.02 * p["extra"][:4],
        p["spread"][:4],
        0.12,
    )
    return _sum(
        sound,
        0.3 * p["g"] * _hiss(rng, 500, 2500, 0.01, 0.008, 0.08),
        0.25 * p["i"] ** 2 * force * knock,
        0.25 * p["j"] * force * _hiss(rng, 3000, 12000, 0.004, 0.003, 0.04),
    )


def _hat_closed(rng, force, p):
    return _hat(rng, force, p, 0.0)


def _hat_open(rng, force, p):
    return _hat(rng, force, p, 1.0)


def _hat_foot(rng, force, p):
    low = 1200 + 3200 * p["a"]
    long = 0.015 + 0.05 * p["d"]
    return _cymbal(
        rng,
        p,
        low=low,
        high=6000 + 5000 * p["b"],
        long=long,
        tilt=-4 + 12 * p["f"],
        growth=0.004 * p["h"],
        seconds=0.3,
    )


def _ride(rng, force, p):
    wash = _cymbal(
        rng,
        p,
        low=900 + 1500 * p["a"],
        high=10000 + 8000 * p["b"],
        long=0.2 + 0.9 * p["c"],
        ping=0.6,
        wash=0.25 + 0.6 * p["d"] * force,
        growth=0.02 * p["e"],
        tilt=2 + 16 * p["h"],
    )
    stick = _modes(
        rng,
        (2500 + 3000 * p["f"]) * (1 + 0.8 * p["levels"][:8]),
        0.02 + 0.08 * p["extra"][:8],
        p["spread"][:8],
        0.5,
    )
    return _sum(0.5 * wash, (0.5 + 0.8 * p["g"]) * 0.3 * stick)


def _ride_bell(rng, force, p):
    freqs = (500 + 1000 * p["a"]) * np.sort(1 + 5 * p["levels"][:9])
    bell = _modes(
        rng,
        freqs,
        0.12 + 0.6 * p["extra"][:9],
        p["spread"][:9] ** 1.5 / np.arange(1, 10) ** 0.3,
        1.8,
    )
    return _sum(0.5 * bell, (0.15 + 0.5 * p["c"]) * _ride(rng, force, p))


def _crash(rng, force, p):
    return _cymbal(
        rng,
        p,
        low=250 + 600 * p["a"],
        high=10000 + 8000 * p["b"],
        long=0.25 + 0.9 * p["c"],
        wash=1 + p["d"],
        growth=0.004 + 0.03 * p["e"] * p["f"],
        tilt=3 * force - 5 + 9 * p["g"],
    )


def _splash(rng, force, p):
    return _cymbal(
        rng,
        p,
        low=900 + 1200 * p["a"],
        high=11000 + 5000 * p["b"],
        long=0.1 + 0.3 * p["c"],
        wash=0.9 + p["d"],
        growth=0.004 * p["e"],
        seconds=1.2,
    )


def _china(rng, force, p):
    sound = _cymbal(
        rng,
        p,
        low=350 + 500 * p["a"],
        high=6000 + 6000 * p["b"],
        long=0.25 + 0.7 * p["c"],
        wash=1 + p["d"],
        growth=0.006 * p["e"],
        tilt=-3 - 6 * p["g"],
    )
    t = np.arange(len(sound)) / RATE
    return np.tanh(2.5 * sound * (1 + 0.5 * p["h"] * np.sin(2 * np.pi * (40 + 120 * p["i"]) * t)))


def _tom(rng, force, p, f):
    body = _swept(
        rng, f, f * (1.1 + 0.6 * p["b"] * force), 0.01 + 0.05 * p["c"], 0.05 + 0.22 * p["d"], 0.9
    )
    over = _modes(
        rng,
        f * _HEAD[1:6] * (0.9 + 0.2 * p["e"]),
        0.04 + 0.15 * p["f"] * p["more"][:5],
        p["levels"][:5],
        0.6,
    )
    click = _hiss(rng, 1200, 5000 + 4000 * p["g"], 0.01, 0.005, 0.08)
    return _sum(body, 0.3 * p["h"] * over, (0.05 + 0.2 * p["i"]) * force * click)


def _clap(rng, force, p):
    out = np.zeros(int(0.5 * RATE))
    gap = 0.007 + 0.007 * p["a"]
    for k in range(3 + int(2 * p["b"])):
        burst = _hiss(rng, 600 + 600 * p["c"], 2500 + 5000 * p["d"], 0.006, 0.005, 0.05)
        at = int(k * gap * RATE)
        out[at : at + len(burst)] += burst
    return out + _hiss(rng, 700, 4000, 0.03 + 0.12 * p["e"], 0.03 + 0.1 * p["e"], 0.5) * 0.5


def _shaker(rng, force, p):
    return _hiss(
        rng,
        3000 + 3000 * p["a"],
        9000 + 6000 * p["b"],
        0.02 + 0.05 * p["c"],
        0.02 + 0.04 * p["c"],
        0.3,
        growth=0.004 + 0.02 * p["d"],
    )


def _tambourine(rng, force, p):
    freqs = 3500 + 8000 * p["more"][:14]
    out = np.zeros(int(0.6 * RATE))
    for k in range(1 + int(3 * p["a"])):
        jingle = _modes(
            rng,
            freqs * rng.uniform(0.98, 1.02),
            0.03 + 0.15 * p["b"] * p["extra"][:14],
            p["spread"][:14],
            0.4,
        )
        at = int(k * 0.012 * RATE)
        out[at : at + len(jingle)] += jingle * 0.7**k
    return _sum(
        out * 0.3,
        0.3 * p["c"] * _hiss(rng, 4000, 12000, 0.05, 0.04, 0.3),
        0.2 * p["d"] * _hiss(rng, 400, 1500, 0.015, 0.01, 0.1),
    )


def _cowbell(rng, force, p):
    f = 420 + 450 * p["a"]
    freqs = f * np.array([1, 1.42 + 0.2 * p["b"], 2.1 + p["c"], 3.2 + p["d"]])
    return _modes(
        rng,
        freqs,
        0.03 + 0.2 * p["e"] * np.array([1, 0.8, 0.4, 0.3]),
        np.array([1, 0.8, 0.4 * p["f"], 0.3 * p["g"]]),
        0.6,
    )


def _block(rng, force, p):
    f = 450 + 2000 * p["a"]
    return _modes(
        rng,
        f * np.array([1, 1.5 + p["b"], 2.7 + p["c"]]),
        np.array([0.008 + 0.04 * p["d"], 0.012, 0.008]),
        np.array([1, 0.4, 0.2]),
        0.2,
    )


_MAKE = {
    "kick": _kick,
    "snare": _snare,
    "cross_stick": _cross_stick,
    "hat_closed": _hat_closed,
    "hat_open": _hat_open,
    "hat_foot": _hat_foot,
    "ride": _ride,
    "ride_bell": _ride_bell,
    "crash": _crash,
    "crash2": _crash,
    "splash": _splash,
    "china": _china,
    "clap": _clap,
    "shaker": _shaker,
    "tambourine": _tambourine,
    "cowbell": _cowbell,
    "block": _block,
}


def _character(rng: np.random.Generator) -> dict:
    p: dict = {c: float(rng.random()) for c in "abcdefghijk"}
    p |= {
        "levels": rng.random(16),
        "more": rng.random(64),
        "extra": rng.random(64),
        "spread": rng.random(64),
    }
    return p


@cache
def kit(seed: int) -> dict[str, list[np.ndarray]]:
    """One made kit: part -> layers (soft to loud), the loudest with peak 1."""
    rng = np.random.default_rng([seed, 77])
    made = {}
    hat = _character(rng)
    lowest = 55 + 40 * rng.random()
    steps = np.cumprod([1.0, *rng.uniform(1.2, 1.5, 3)])
    for part in (*_MAKE, "tom1", "tom2", "tom3", "tom4"):
        own = hat if part in ("hat_closed", "hat_open") else _character(rng)
        layers = []
        noise = int(rng.integers(1 << 30))
        for force in FORCE:
            strike = np.random.default_rng(noise)
            if part.startswith("tom"):
                sound = _tom(strike, force, own, lowest * steps[int(part[3]) - 1])
            else:
                sound = _MAKE[part](strike, force, own)
            fade = min(1500, len(sound))
            sound[-fade:] *= np.linspace(1, 0, fade)
            layers.append((sound / (np.abs(sound).max() + 1e-9)).astype(np.float32))
        made[part] = layers
    return made
