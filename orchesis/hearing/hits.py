"""Which kit parts sound when, and how loud: peaks of what the network hears."""

from __future__ import annotations

import json
from dataclasses import replace
from functools import cache
from pathlib import Path

import numpy as np
from scipy.ndimage import gaussian_filter1d, maximum_filter1d

from orchesis.hearing.network import CLASSES, FLOOR, ORNAMENTS, SPAN, Activity, heard_class
from orchesis.hearing.spectrum import FINE, HOP, RATE, Spectrum, band_edges
from orchesis.hearing.types import Hit
from orchesis.score import KIT

FRAME = HOP / RATE  # seconds
_DISTANCE = 4  # frames between two strokes of a part
#: Of these, one hand plays one at a time: the strongest within 20 ms is taken.
_RIVALS = (
    ("hat_closed", "hat_open", "ride", "ride_bell"),
    ("snare", "cross_stick"),
    ("hat_closed", "hat_open", "hat_foot"),
    ("crash", "splash", "china"),
)
#: Peaks below this strength are no candidates.
MIN_ACTIVATION = 0.03
_LEVEL_STEPS = np.array([0.15, 0.3, 0.45, 0.6, 0.75])
_ORNAMENT = 0.5
_HALF_OPEN = (0.2, 0.5)
#: Loudness of a part's full stroke, and amplitude as loudness to this power.
_FULL, _POWER = 0.85, 2.0
#: The band (Hz) in which a part's loudness is measured: where it speaks and the others are
#: quiet; and how much that weighs against the level that the network feels, which is less
#: exact and less easily fooled by what else sounds in the band (both chosen on the tuning
#: songs). Of the other parts the network's level is taken.
_MEASURE_BANDS = {
    "kick": (30, 120, 0.7),
    "snare": (400, 2000, 0.7),
    "cross_stick": (2000, 6000, 0.7),
    "clap": (2000, 6000, 0.7),
    "tom": (120, 400, 0.5),
    "hat_closed": (6000, 16000, 0.85),
    "hat_open": (6000, 16000, 0.85),
    "ride": (6000, 16000, 0.6),
}
_FARTHEST_OFF = (-20.0, 12.0)  # dB that a measured level may lie off the part's usual one
#: Parts whose body tells when they were struck, though a cymbal sounds with them.
_BODIES = ("snare", "cross_stick", "tom_high", "tom_mid", "tom_low", "tom_floor")
_ONE_ONSET_S, _ONE_ONSET_APART_S = (
    0.012,
    0.024,
)  # seconds: as one onset, and how far two may lie apart in it
_RISE = 1.0  # of the logarithm of the body's power, to be an onset
_ALONE, _LAG = 5, 0.0015  # strokes that a lag is learned from, and the lag where there are fewer
_CANDIDATE = 0.03  # least confidence of a stroke that the song's repetition may raise


@cache
def tuned() -> dict[str, dict]:
    """Weights of the confidence and the floor of each class (training/tune.py)."""
    return json.loads((Path(__file__).parent / "onset_model.json").read_text())


def logit(share: np.ndarray | float, least: float = 0.003) -> np.ndarray:
    """The log odds of shares 0..1, of which no more than so little is left to doubt."""
    kept = np.clip(share, least, 1 - least)
    return np.log(kept / (1 - kept))


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


def evidence(strength: np.ndarray, level: np.ndarray, company: np.ndarray) -> np.ndarray:
    """What speaks for a stroke, (n, 10): its clarity, level in soft steps, and company."""
    clear = logit(strength, 1e-4)
    steps = np.exp(-0.5 * ((level[:, None] - _LEVEL_STEPS) / 0.1) ** 2)
    hidden = company * np.exp(-level / 0.25)
    plain = np.stack([np.ones_like(clear), clear, clear * level, company, hidden], axis=1)
    return np.concatenate([plain, steps], axis=1)


def loudness_of(levels: np.ndarray) -> np.ndarray:
    """Loudness 0..1 of the strokes of one part from their levels in dB: its usual full
    stroke is 0.85, and twice the amplitude is 1.41 times as loud."""
    if len(levels) == 0:
        return levels
    full = np.percentile(levels, 80)
    return np.clip(_FULL * 10 ** ((levels - full) / (20 * _POWER)), 0.05, 1.0)


class Listener:
    """Finds the hits of one song from its spectrum and the network's activity."""

    def __init__(self, spectrum: Spectrum, activity: Activity) -> None:
        self.spectrum = spectrum
        self.activity = activity
        self._speaking: dict[tuple[int, int], np.ndarray] = {}

    def hits(self) -> list[Hit]:
        """The strokes that are heard surely enough to be written."""
        return written(self.candidates())

    def candidates(self) -> list[Hit]:
        """All that may be a stroke, also what is too unsure to be written by itself."""
        strength = self.activity.strength
        near = maximum_filter1d(strength, 5, axis=0)
        hits: list[Hit] = []
        for c, name in enumerate(CLASSES):
            at = peaks(strength[:, c], MIN_ACTIVATION)
            at = at[~self._is_beaten(name, at, near)]
            level = top(self.activity.level[:, c], at)
            beside = company(strength, name, at)
            sure = evidence(top(strength[:, c], at), level, beside) @ tuned()[name]["weights"]
            sure = 1 / (1 + np.exp(-sure))
            keep = sure >= _CANDIDATE
            at, sure = at[keep], sure[keep]
            level = self.levels(name, at, FLOOR + SPAN * level[keep])
            written = sure >= tuned()[name]["floor"]
            full = level[written] if written.any() else level
            loud = loudness_of(np.concatenate([full, level]))[len(full) :]
            parts = self._toms(at) if name == "tom" else [name] * len(at)
            opened = top(self.activity.openness, at)
            for k, frame in enumerate(at):
                part = parts[k]
                openness = float(opened[k]) if name in ("hat_closed", "hat_open") else 0.0
                if name == "hat_open" and _HALF_OPEN[0] <= openness < _HALF_OPEN[1]:
                    part = "hat_half"
                hits.append(
                    Hit(
                        time=self.exact(int(frame)),
                        part=part,
                        loudness=round(float(loud[k]), 3),
                        confidence=round(float(sure[k]), 3),
                        level=round(float(level[k]), 1),
                        openness=round(openness, 2),
                        ornament=self._ornament(name, int(frame)),
                    )
                )
        return sorted(self.apart(hits), key=lambda h: (h.time, h.part))

    def apart(self, hits: list[Hit]) -> list[Hit]:
        """Drums that sound together with a cymbal, moved to where their own body begins.

        The sharpest edge of two strokes together is the earlier one's, mostly the cymbal's. How
        far a drum's body lags behind its own edge is learned from its strokes that sound alone.
        """
        cymbals = np.array(sorted(h.time for h in hits if KIT[h.part].family != "drum"))

        def is_masked(h: Hit) -> bool:
            k = int(np.searchsorted(cymbals, h.time))
            near = cymbals[max(k - 1, 0) : k + 1]
            return len(near) > 0 and float(np.abs(near - h.time).min()) < _ONE_ONSET_S

        bodies = {h: self._body(h.time) for h in hits if h.part in _BODIES}
        lag: dict[str, float] = {}
        for part in _BODIES:
            alone = [
                at - h.time
                for h, at in bodies.items()
                if at is not None and h.part == part and h.confidence > 0.5 and not is_masked(h)
            ]
            lag[part] = float(np.median(alone)) if len(alone) >= _ALONE else _LAG
        hits_apart = []
        for h in hits:
            at = bodies.get(h)
            if at is not None and is_masked(h):
                moved = at - lag[h.part]
                if -0.004 < moved - h.time < _ONE_ONSET_APART_S:
                    h = replace(h, time=moved)
            hits_apart.append(h)
        return hits_apart

    def _body(self, time: float) -> float | None:
        """Seconds at which the body rises most near an onset; None where it hardly does."""
        body = self.spectrum.body
        centre = round(time * RATE / FINE)
        lo, hi = max(centre - 6, 1), min(centre + 20, len(body) - 4)
        if hi - lo < 4:
            return None
        level = np.log(body[lo - 1 : hi + 3] + 1e-9)
        rise = level[3:] - level[:-3]
        best = int(np.argmax(rise))
        return (lo + best + 1) * FINE / RATE if rise[best] > _RISE else None

    def levels(self, name: str, at: np.ndarray, felt: np.ndarray) -> np.ndarray:
        """Level in dB of the strokes of a part at some frames: between what is measured in its own
        band and what the network feels.

        felt: the network's levels, which alone give the middle: how loud a part is against the
        others is better felt.
        """
        if name not in _MEASURE_BANDS or len(at) == 0:
            return felt
        low, high, share = _MEASURE_BANDS[name]
        power = self._power(low, high)
        last = len(power) - 1
        after = power[np.clip(at[:, None] + np.arange(0, 4), 0, last)].max(axis=1)
        before = power[np.clip(at[:, None] - np.arange(2, 5), 0, last)].mean(axis=1)
        usual = float(power.mean()) + 1e-12
        rise = 10 * np.log10(np.maximum(after - before, 1e-3 * usual) / usual)
        measured = np.clip(rise - np.median(rise), *_FARTHEST_OFF) + np.median(felt)
        return share * measured + (1 - share) * felt

    def _power(self, low: int, high: int) -> np.ndarray:
        """(frames,) power of the drums between two frequencies in Hz."""
        if (low, high) not in self._speaking:
            centres = band_edges()[1:-1]
            bins = np.flatnonzero((centres >= low) & (centres < high))
            bands = self.spectrum.bands[:, bins]
            power = bands**2 * self.activity.mask[:, bins].astype(np.float32)
            self._speaking[low, high] = power.sum(axis=1)
        return self._speaking[low, high]

    def _ornament(self, name: str, frame: int) -> str | None:
        if name not in ("snare", "tom"):
            return None
        near = self.activity.ornaments[max(frame - 1, 0) : frame + 2].max(axis=0)
        best = int(np.argmax(near))
        return ORNAMENTS[best] if near[best] > _ORNAMENT else None

    def _is_beaten(self, name: str, at: np.ndarray, near: np.ndarray) -> np.ndarray:
        activation = near[at, CLASSES.index(name)]
        beaten = np.zeros(len(at), dtype=bool)
        for group in _RIVALS:
            if name in group:
                for other in group:
                    if other != name:
                        beaten |= near[at, CLASSES.index(other)] > activation
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
        """Toms told apart by the pitch that rises between 55 and 320 Hz."""
        if len(at) == 0:
            return []
        centres = band_edges()[1:-1]
        body = np.flatnonzero((centres > 55) & (centres < 320))
        index = np.clip(at[:, None] + np.arange(0, 5)[None], 0, self.spectrum.frames - 1)
        before = np.clip(at[:, None] + np.arange(-4, -1)[None], 0, self.spectrum.frames - 1)
        sound = self.spectrum.bands[:, body] * self.activity.mask[:, body].astype(np.float32)
        rise = np.maximum(sound[index].mean(axis=1) - sound[before].mean(axis=1), 1e-9) ** 2
        return tom_names((rise * centres[body]).sum(axis=1) / rise.sum(axis=1))


def written(hits: list[Hit], *, again: bool = False) -> list[Hit]:
    """Those of the candidates that are sure enough to be written; again: by the floors of the
    second pass (orchesis/hearing/repetition.py)."""

    def floor(part: str) -> float:
        thresholds = tuned()[heard_class(part)]
        return thresholds.get("floor_again", thresholds["floor"]) if again else thresholds["floor"]

    return [h for h in hits if h.confidence >= floor(h.part)]


def tom_names(pitches: np.ndarray) -> list[str]:
    """The toms of one song by their pitches in Hz: heaps of strokes of like pitch are a tom.

    The lowest of three is the low tom, the lowest of four the floor tom, as drummers set
    them up; one or two are named by their pitch.
    """
    grid = np.linspace(np.log(50), np.log(340), 200)
    heap = np.exp(-0.5 * ((grid[:, None] - np.log(pitches)[None]) / 0.07) ** 2).sum(axis=1)
    crests = np.flatnonzero((heap == maximum_filter1d(heap, 25)) & (heap > 0.06 * len(pitches)))
    crests = np.sort(sorted(crests, key=lambda k: -heap[k])[:4])
    centres = np.exp(grid[crests])
    if len(centres) == 4:
        names = ["tom_floor", "tom_low", "tom_mid", "tom_high"]
    elif len(centres) == 3:
        names = ["tom_low", "tom_mid", "tom_high"]
    else:
        names = ["tom_high" if p > 165 else "tom_mid" if p > 125 else "tom_floor" for p in centres]
    nearest = np.abs(np.log(pitches)[:, None] - np.log(centres)[None]).argmin(axis=1)
    return [names[k] for k in nearest]
