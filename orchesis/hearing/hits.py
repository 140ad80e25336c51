"""Which kit parts sound when, and how loud: peaks of what the network hears."""

from __future__ import annotations

import json
from functools import cache
from pathlib import Path

import numpy as np
from scipy.ndimage import gaussian_filter1d, maximum_filter1d

from orchesis.hearing.network import CLASSES, Activity
from orchesis.hearing.spectrum import FINE, HOP, RATE, Spectrum, band_edges
from orchesis.hearing.types import Hit

FRAME = HOP / RATE  # seconds
_DISTANCE = 4  # frames between two strokes of a part
#: Of these, one hand plays one at a time: the strongest within 20 ms is taken.
_RIVALS = (
    ("hat_closed", "hat_open", "ride", "ride_bell"),
    ("snare", "cross_stick"),
    ("hat_closed", "hat_foot"),
)
_CYMBALS = ("hat_closed", "hat_open", "ride", "crash")
#: Peaks below this strength are no candidates.
LEAST = 0.12
#: An invented ghost costs the drummer more than a missing one: a soft stroke is written only
#: where it is more likely right than wrong.
_SOFT, _LIKELY = 0.35, 0.5
_LOUDNESS_STEPS = np.array([0.08, 0.25, 0.42, 0.6, 0.85])


@cache
def _tuned() -> dict[str, dict]:
    """Weights of the confidence and the floor of each class (training/tune.py)."""
    return json.loads((Path(__file__).parent / "ears.json").read_text())


def peaks(strength: np.ndarray, floor: float) -> np.ndarray:
    """Frames of the strokes in one strength curve (frames,)."""
    smooth = gaussian_filter1d(strength, 0.6)
    crest = (smooth == maximum_filter1d(smooth, 2 * _DISTANCE - 1)) & (smooth > 0)
    return np.flatnonzero(crest & (maximum_filter1d(strength, 3) > floor))


def top(curve: np.ndarray, at: np.ndarray) -> np.ndarray:
    """The greatest value of a curve within a frame of each peak."""
    return maximum_filter1d(curve, 3)[at] if len(at) else np.zeros(0)


def company(strength: np.ndarray, name: str, at: np.ndarray) -> np.ndarray:
    """How strongly another drum sounds at each peak: it can hide a soft stroke, or feign one.

    strength: (frames, classes).
    """
    others = [CLASSES.index(n) for n in ("kick", "snare", "tom", "clap") if n != name]
    if len(at) == 0:
        return np.zeros(0)
    return maximum_filter1d(strength[:, others].max(axis=1), 5)[at]


def evidence(strength: np.ndarray, loudness: np.ndarray, company: np.ndarray) -> np.ndarray:
    """What speaks for a stroke, (n, 10): its clarity, loudness in soft steps, and company.

    Loudness is not "the more the surer": very soft strokes tend to be real ghosts, middling
    ones often something else, loud ones real.
    """
    clear = np.log(np.clip(strength, 1e-4, 1 - 1e-4) / (1 - np.clip(strength, 1e-4, 1 - 1e-4)))
    steps = np.exp(-0.5 * ((loudness[:, None] - _LOUDNESS_STEPS) / 0.1) ** 2)
    hidden = company * np.exp(-loudness / 0.25)
    plain = np.stack([np.ones_like(clear), clear, clear * loudness, company, hidden], axis=1)
    return np.concatenate([plain, steps], axis=1)


class Listener:
    """Finds the hits of one song from its spectrum and the network's activity."""

    def __init__(self, spectrum: Spectrum, activity: Activity) -> None:
        self.spectrum = spectrum
        self.activity = activity
        # Weighed by loudness: a backbeat says more about the pulse than a ghost.
        weighed = activity.strength * activity.loudness**2
        of = {name: weighed[:, i] for i, name in enumerate(CLASSES)}
        #: Onset strengths, (frames,): the kick, the drums played by hand, the cymbals.
        self.strength = {
            "kick": of["kick"],
            "drums": np.maximum.reduce([of[n] for n in ("snare", "cross_stick", "tom", "clap")]),
            "cymbals": np.maximum.reduce(
                [of[n] for n in ("hat_closed", "hat_open", "ride", "crash")]
            ),
        }

    def hits(self) -> list[Hit]:
        near = maximum_filter1d(self.activity.strength, 5, axis=0)
        found: list[Hit] = []
        for c, name in enumerate(CLASSES):
            at = peaks(self.activity.strength[:, c], LEAST)
            at = at[~self._is_beaten(name, at, near)]
            loud = top(self.activity.loudness[:, c], at)
            tuned = _tuned()[name]
            strength = top(self.activity.strength[:, c], at)
            beside = company(self.activity.strength, name, at)
            sure = evidence(strength, loud, beside) @ tuned["weights"]
            sure = 1 / (1 + np.exp(-sure))
            keep = sure >= np.where(loud < _SOFT, max(tuned["floor"], _LIKELY), tuned["floor"])
            at, loud, sure = at[keep], loud[keep], sure[keep]
            parts = self._toms(at) if name == "tom" else [name] * len(at)
            for k, frame in enumerate(at):
                found.append(
                    Hit(
                        time=self.exact(int(frame)),
                        part=parts[k],
                        loudness=round(float(np.clip(loud[k], 0.05, 1.0)), 3),
                        confidence=round(float(sure[k]), 3),
                    )
                )
        return sorted(found, key=lambda h: (h.time, h.part))

    def _is_beaten(self, name: str, at: np.ndarray, near: np.ndarray) -> np.ndarray:
        own = near[at, CLASSES.index(name)]
        beaten = np.zeros(len(at), dtype=bool)
        for group in _RIVALS:
            if name in group:
                for other in group:
                    if other != name:
                        beaten |= near[at, CLASSES.index(other)] > own
        return beaten

    def exact(self, frame: int) -> float:
        """Seconds of the onset near a frame: where the fine envelope rises most."""
        fine = self.spectrum.fine
        per = HOP // FINE
        lo, hi = max(frame * per - 12, 1), min(frame * per + 10, len(fine) - 4)
        if hi - lo < 4:
            return frame * FRAME
        level = np.log(fine[lo - 1 : hi + 3] + 1e-9)
        rise = level[3:] - level[:-3]
        best = int(np.argmax(rise))
        return (lo + best + 1) * FINE / RATE if rise[best] > 1.0 else frame * FRAME

    def _toms(self, at: np.ndarray) -> list[str]:
        """Toms told apart by the pitch that rises between 60 and 320 Hz."""
        if len(at) == 0:
            return []
        centres = band_edges()[1:-1]
        body = np.flatnonzero((centres > 60) & (centres < 320))
        index = np.clip(at[:, None] + np.arange(0, 5)[None], 0, self.spectrum.frames - 1)
        before = np.clip(at[:, None] + np.arange(-4, -1)[None], 0, self.spectrum.frames - 1)
        sound = self.spectrum.bands[:, body]
        rise = np.maximum(sound[index].mean(axis=1) - sound[before].mean(axis=1), 1e-9)
        pitch = (rise * centres[body]).sum(axis=1) / rise.sum(axis=1)
        return ["tom_high" if p > 165 else "tom_mid" if p > 130 else "tom_floor" for p in pitch]
