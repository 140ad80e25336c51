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
KICK, SNARE, CROSS, TOMS, CYMBALS = range(5)
_MEMBERS = {
    "kick": ("kick",),
    "snare": ("snare",),
    "cross_stick": ("cross_stick",),
    "toms": ("tom_high", "tom_mid", "tom_low", "tom_floor"),
    "cymbals": ("hat_closed", "hat_open", "ride", "ride_bell", "crash"),
}
_FREE, _ROUNDS, _PIECE = 14, 40, 3000
_DISTANCE = 5  # frames between two strokes of a group
#: A peak counts from this share of the group's loud strokes (its 80th percentile) on.
_FLOOR = {"kick": 0.22, "drums": 0.26, "cymbals": 0.13}
#: How much of a kick the tom templates take for themselves.
_KICK_SPILL = 1.9


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
    tops = np.flatnonzero((smooth == maximum_filter1d(smooth, 2 * _DISTANCE + 1)) & (smooth > 0))
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
        rise = rises(active)
        drums = rise[:, SNARE] + rise[:, CROSS] + rise[:, TOMS] - _KICK_SPILL * rise[:, KICK]
        self.rise = rise
        #: Onset strengths, (frames,): the kick, the drums played by hand, the cymbals.
        self.strength = {
            "kick": rise[:, KICK],
            "drums": np.maximum(0, drums),
            "cymbals": rise[:, CYMBALS],
        }
        centres = band_edges()[1:-1]
        self.high = spectrum.bands[:, centres > 6500].mean(axis=1)
        self.middle = spectrum.bands[:, (centres > 1500) & (centres < 4500)].mean(axis=1)

    def hits(self) -> list[Hit]:
        found: list[Hit] = []
        for name, curve in self.strength.items():
            at, relative = _peaks(curve, _FLOOR[name])
            loudness = _loudness(curve, at)
            parts = self._parts(name, at)
            for k, frame in enumerate(at):
                sure = relative[k] / (relative[k] + 0.5 * _FLOOR[name])
                found.append(
                    Hit(
                        time=self.exact(int(frame)),
                        part=parts[k],
                        loudness=round(float(loudness[k]), 3),
                        confidence=round(float(np.clip(sure, 0.05, 0.99)), 3),
                    )
                )
        return sorted(found, key=lambda h: (h.time, h.part))

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

    def _after(self, curve: np.ndarray, at: np.ndarray, first: int, last: int) -> np.ndarray:
        """Mean of a curve from ``first`` to ``last`` frames behind each onset."""
        index = np.clip(at[:, None] + np.arange(first, last)[None, :], 0, len(curve) - 1)
        return curve[index].mean(axis=1)

    def _parts(self, name: str, at: np.ndarray) -> list[str]:
        if name == "kick" or len(at) == 0:
            return ["kick"] * len(at)
        return self._hand_drums(at) if name == "drums" else self._cymbals(at)

    def _rise_of(self, curve: np.ndarray, at: np.ndarray) -> np.ndarray:
        return np.maximum(self._after(curve, at, 0, 4) - self._after(curve, at, -4, -1), 1e-9)

    def _hand_drums(self, at: np.ndarray) -> list[str]:
        """Snare, cross-stick or a tom: a tom lacks the rattle on top, a cross-stick the body."""
        near = maximum_filter1d(self.rise, 5, axis=0)[at]
        click = near[:, CROSS] / (near[:, SNARE] + near[:, CROSS] + near[:, TOMS] + 1e-9)
        rattle = self._rise_of(self.high, at)
        strong = near[:, SNARE] + near[:, TOMS] >= np.median(near[:, SNARE] + near[:, TOMS])
        usual = np.percentile(rattle[strong], 70)
        weight = (near[:, SNARE] + near[:, TOMS]) / np.percentile(
            near[:, SNARE] + near[:, TOMS], 80
        )
        pitch = self._pitch(at)
        parts = []
        for k in range(len(at)):
            if click[k] > 0.3:
                parts.append("cross_stick")
            elif rattle[k] < 0.3 * usual and weight[k] > 0.25:
                p = pitch[k]
                parts.append("tom_high" if p > 165 else "tom_mid" if p > 130 else "tom_floor")
            else:
                parts.append("snare")
        return parts

    def _pitch(self, at: np.ndarray) -> np.ndarray:
        """Centre (Hz) of what rises between 60 and 320 Hz at each onset."""
        centres = band_edges()[1:-1]
        body = np.flatnonzero((centres > 60) & (centres < 320))
        rise = np.stack([self._rise_of(self.spectrum.bands[:, b], at) for b in body], axis=1)
        return (rise * centres[body]).sum(axis=1) / rise.sum(axis=1)

    def _cymbals(self, at: np.ndarray) -> list[str]:
        """Closed hat, open hat, ride or crash: by how long and how brightly it rings."""
        before = self._after(self.high, at, -4, -1)
        attack = np.maximum(self._after(self.high, at, 0, 3) - 0.8 * before, 1e-9)
        ring = np.maximum(self._after(self.high, at, 9, 14) - 0.5 * before, 0) / attack
        long_ring = np.maximum(self._after(self.high, at, 30, 45) - 0.5 * before, 0) / attack
        middle = self._after(self.middle, at, 4, 9) / (self._after(self.high, at, 4, 9) + 1e-9)
        strength = self.strength["cymbals"][at]
        loud = strength / np.median(strength)
        surface = median_filter(middle * (1 + ring), 15)
        typical = np.percentile(middle * (1 + ring), 35)
        parts = []
        for k in range(len(at)):
            if loud[k] > 1.7 and long_ring[k] > 0.3 and ring[k] > 0.6:
                parts.append("crash")
            elif ring[k] > 0.5 and surface[k] < 1.6 * typical:
                parts.append("hat_open")
            elif surface[k] > 1.6 * typical:
                parts.append("ride")
            else:
                parts.append("hat_closed")
        return parts


def _loudness(curve: np.ndarray, at: np.ndarray) -> np.ndarray:
    """Loudness 0..1 of each stroke against the loud strokes of its group.

    The square root of the amplitude ratio, which is how key velocities are heard.
    """
    if len(at) == 0:
        return np.zeros(0)
    near = maximum_filter1d(curve, 5)[at]
    return np.clip(near / (np.percentile(near, 92) + 1e-9), 0.01, 1.0) ** 0.5 * 0.95
