"""Which kit parts sound when, and how loud: partially fixed NMF and peak picking.

The spectrum is explained by fixed drum templates plus a few free components that take up
the rest of the band (Wu and Lerch, "Drum transcription using partially fixed non-negative
matrix factorization", 2015); onsets are peaks of each group's activation.
"""

from __future__ import annotations

from functools import cache
from pathlib import Path

import numpy as np
from scipy.ndimage import gaussian_filter1d, maximum_filter1d, median_filter

from orchesis.hearing.spectrum import FINE, HOP, RATE, Spectrum, band_edges
from orchesis.hearing.types import Hit, Report, silent

FRAME = HOP / RATE  # seconds
GROUPS = ("kick", "snare", "cross_stick", "toms", "cymbals")
_MEMBERS = {
    "kick": ("kick",),
    "snare": ("snare",),
    "cross_stick": ("cross_stick",),
    "toms": ("tom_high", "tom_mid", "tom_low", "tom_floor"),
    "cymbals": ("hat_closed", "hat_open", "ride", "ride_bell", "crash"),
}
_FREE, _ROUNDS, _PIECE = 14, 40, 3000
_DISTANCE = 5  # frames between two strokes of a group
#: A peak counts from this share of the group's loud strokes (its 90th percentile) on.
_FLOOR = {"kick": 0.22, "snare": 0.16, "cross_stick": 0.4, "toms": 0.4, "cymbals": 0.13}


@cache
def _templates() -> tuple[np.ndarray, np.ndarray]:
    """Group index of each template (n,), and the templates (n, bands) with unit sum."""
    file = np.load(Path(__file__).parent / "templates.npz")
    group = {p: i for i, name in enumerate(GROUPS) for p in _MEMBERS[name]}
    return np.array([group[p] for p in file["parts"]]), file["shapes"]


def activations(spectrum: Spectrum, *, report: Report = silent) -> np.ndarray:
    """How strongly each group sounds, shape (frames, len(GROUPS)), in input magnitudes."""
    groups, fixed = _templates()
    out = np.zeros((spectrum.frames, len(GROUPS)), dtype=np.float32)
    scale = float(np.percentile(spectrum.bands, 95)) + 1e-9
    rng = np.random.default_rng(0)
    starts = range(0, spectrum.frames, _PIECE)
    for start in starts:
        piece = spectrum.bands[start : start + _PIECE] / scale + 1e-6
        active = _factorise(piece, fixed, rng)
        for g in range(len(GROUPS)):
            out[start : start + _PIECE, g] = active[:, groups == g].sum(axis=1)
        report("strokes", 0.9 * (start + _PIECE) / (starts[-1] + _PIECE))
    return out


def _factorise(piece: np.ndarray, fixed: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    """Activations (frames, templates) of the fixed rows, by KL multiplicative updates."""
    free = rng.random((_FREE, piece.shape[1])).astype(np.float32) + 0.1
    free /= free.sum(axis=1, keepdims=True)
    basis = np.concatenate([fixed, free])
    n = len(fixed)
    active = np.full((len(piece), len(basis)), piece.mean(), dtype=np.float32)
    for _ in range(_ROUNDS):
        ratio = piece / (active @ basis + 1e-9)
        active *= (ratio @ basis.T) / basis.sum(axis=1)
        ratio = piece / (active @ basis + 1e-9)
        basis[n:] *= (active[:, n:].T @ ratio) / (active[:, n:].sum(axis=0)[:, None] + 1e-9)
        basis[n:] /= basis[n:].sum(axis=1, keepdims=True) + 1e-9
    return active[:, :n]


def rises(active: np.ndarray) -> np.ndarray:
    """Onset strength of each group, (frames, groups): the rise over what sounded 30 ms ago."""
    before = np.roll(maximum_filter1d(active, 3, axis=0), 3, axis=0)
    before[:4] = 0
    return np.maximum(0, active - before)


def _peaks(strength: np.ndarray, floor: float) -> tuple[np.ndarray, np.ndarray]:
    """Frames of the strokes in one strength curve, and their strength against the loud ones."""
    smooth = gaussian_filter1d(strength, 0.7)
    tops = np.flatnonzero(
        (smooth == maximum_filter1d(smooth, 2 * _DISTANCE + 1)) & (smooth > 0)
    )
    if len(tops) == 0:
        return tops, np.zeros(0)
    height = smooth[tops]
    strong = height[height > 0.1 * height.max()]
    level = np.percentile(strong, 80)
    local = median_filter(smooth, 101)[tops]
    relative = height / level
    keep = (relative > floor) & (height > 2.5 * local)
    return tops[keep], relative[keep]


class Listener:
    """Finds the hits of one song from its spectrum and the groups' activations."""

    def __init__(self, spectrum: Spectrum, active: np.ndarray) -> None:
        self.spectrum = spectrum
        self.active = active
        self.strength = rises(active)
        centres = band_edges()[1:-1]
        self.high = spectrum.bands[:, centres > 6000].mean(axis=1)
        self.middle = spectrum.bands[:, (centres > 1500) & (centres < 4500)].mean(axis=1)
        self.low = spectrum.bands[:, centres < 120].mean(axis=1)

    def hits(self) -> list[Hit]:
        found: list[Hit] = []
        frames: dict[str, tuple[np.ndarray, np.ndarray]] = {}
        for g, name in enumerate(GROUPS):
            frames[name] = _peaks(self.strength[:, g], _FLOOR[name])
        frames["cross_stick"] = self._only_when_leading("cross_stick", "snare", frames)
        frames["toms"] = self._only_when_leading("toms", "snare", frames)
        for name, (at, relative) in frames.items():
            parts = self._parts(name, at, relative)
            for frame, share, part in zip(at, relative, parts, strict=True):
                found.append(
                    Hit(
                        time=self.exact(int(frame)),
                        part=part,
                        loudness=0.0,
                        confidence=float(np.clip(share / (share + 0.5 * _FLOOR[name]), 0.05, 0.99)),
                    )
                )
        return _with_loudness(sorted(found, key=lambda h: (h.time, h.part)), self)

    def exact(self, frame: int) -> float:
        """Seconds of the onset near a frame: where the fine envelope rises most."""
        fine = self.spectrum.fine
        per = HOP // FINE
        lo, hi = max(frame * per - 18, 1), min(frame * per + 14, len(fine) - 4)
        if hi - lo < 4:
            return frame * FRAME
        level = np.log(fine[lo - 1 : hi + 3] + 1e-9)
        rise = level[3:] - level[:-3]
        best = int(np.argmax(rise))
        return (lo + best + 1) * FINE / RATE if rise[best] > 1.0 else frame * FRAME

    def _only_when_leading(
        self, name: str, rival: str, frames: dict[str, tuple[np.ndarray, np.ndarray]]
    ) -> tuple[np.ndarray, np.ndarray]:
        """Strokes of a rare group that are stronger than the rival's at the same moment."""
        at, relative = frames[name]
        g, r = GROUPS.index(name), GROUPS.index(rival)
        near = maximum_filter1d(self.strength, 5, axis=0)[at]
        keep = near[:, g] > 1.2 * near[:, r]
        if keep.any():
            taken = at[keep]
            others, weights = frames[rival]
            free = np.array([np.min(np.abs(taken - o)) > 3 for o in others], dtype=bool)
            frames[rival] = (others[free], weights[free]) if len(others) else (others, weights)
        return at[keep], relative[keep]

    def _after(self, curve: np.ndarray, at: np.ndarray, first: int, last: int) -> np.ndarray:
        """Mean of a curve from ``first`` to ``last`` frames behind each onset."""
        index = np.clip(at[:, None] + np.arange(first, last)[None, :], 0, len(curve) - 1)
        return curve[index].mean(axis=1)

    def _parts(self, name: str, at: np.ndarray, relative: np.ndarray) -> list[str]:
        if name in ("kick", "snare", "cross_stick") or len(at) == 0:
            return [name] * len(at)
        return self._toms(at) if name == "toms" else self._cymbals(at, relative)

    def _toms(self, at: np.ndarray) -> list[str]:
        """Toms told apart by their pitch within the song."""
        centres = band_edges()[1:-1]
        body = (centres > 60) & (centres < 320)
        rise = np.stack([
            np.maximum(0, self._after(self.spectrum.bands[:, b], at, 1, 8)
                       - self._after(self.spectrum.bands[:, b], at, -4, -1))
            for b in np.flatnonzero(body)
        ], axis=1)  # fmt: skip
        pitch = (rise * centres[body]).sum(axis=1) / (rise.sum(axis=1) + 1e-9)
        return [
            "tom_high" if p > 165 else "tom_mid" if p > 135 else "tom_floor" for p in pitch
        ]

    def _cymbals(self, at: np.ndarray, relative: np.ndarray) -> list[str]:
        """Closed hat, open hat, ride or crash: by how long and how brightly it rings."""
        before = self._after(self.high, at, -4, -1)
        attack = np.maximum(self._after(self.high, at, 0, 3) - 0.8 * before, 1e-9)
        ring = np.maximum(self._after(self.high, at, 9, 14) - 0.5 * before, 0) / attack
        long_ring = np.maximum(self._after(self.high, at, 30, 45) - 0.5 * before, 0) / attack
        middle = self._after(self.middle, at, 4, 9) / (self._after(self.high, at, 4, 9) + 1e-9)
        loud = attack / np.median(attack)
        surface = median_filter(middle * (1 + ring), 15)
        typical = np.median(middle * (1 + ring))
        parts = []
        for k in range(len(at)):
            if loud[k] > 1.8 and long_ring[k] > 0.22:
                parts.append("crash")
            elif ring[k] > 0.5 and loud[k] > 0.7 and surface[k] < 1.5 * typical:
                parts.append("hat_open")
            elif surface[k] > 1.5 * typical:
                parts.append("ride")
            else:
                parts.append("hat_closed")
        return parts


def _with_loudness(hits: list[Hit], listener: Listener) -> list[Hit]:
    """Loudness of each hit against the loud strokes of its group.

    The square root of the amplitude ratio, which is how key velocities are heard.
    """
    group_of = {p: g for g, name in enumerate(GROUPS) for p in _MEMBERS[name]}
    frames = np.array([min(round(h.time / FRAME), listener.spectrum.frames - 1) for h in hits])
    near = maximum_filter1d(listener.strength, 7, axis=0)
    level = {
        g: np.percentile([near[f, g] for h, f in zip(hits, frames, strict=True)
                          if group_of[h.part] == g] or [1.0], 92)
        for g in range(len(GROUPS))
    }  # fmt: skip
    made = []
    for hit, frame in zip(hits, frames, strict=True):
        g = group_of[hit.part]
        ratio = float(np.clip(near[frame, g] / (level[g] + 1e-9), 0.01, 1.0))
        made.append(Hit(hit.time, hit.part, round(ratio**0.5 * 0.95, 3), round(hit.confidence, 3)))
    return made
