"""The sounds of one song: strokes that sound alike, grouped, each group with one name.

A record uses one kit: the same drum sounds alike in every bar. Strokes, written and perhaps, are
described by where the drums' power rises at their onset, how it falls, and what the network hears
of each class. The strokes of a family of parts fall into groups of normal distribution, their
number by the Bayesian information criterion (Schwarz, "Estimating the dimension of a model",
1978).
"""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass, replace
from typing import NamedTuple

import numpy as np
from scipy.ndimage import maximum_filter1d
from sklearn.decomposition import PCA
from sklearn.mixture import GaussianMixture

from orchesis.hearing.hits import FRAME, logit
from orchesis.hearing.network import CLASSES, Activity, heard_class
from orchesis.hearing.spectrum import BANDS, Spectrum
from orchesis.hearing.types import HeardSound, Hit

_POOL = 4  # bands taken together


class _Family(NamedTuple):
    """Classes among which a stroke's own sound is sought, and the pooled bands they speak in."""

    classes: tuple[str, ...]
    bands: slice
    rings: bool = False


_FAMILIES = (
    _Family(("kick",), slice(0, 14)),
    _Family(("snare", "cross_stick", "clap"), slice(2, None)),
    _Family(("tom",), slice(0, 12)),
    _Family(("hat_closed", "hat_open", "hat_foot"), slice(10, None), rings=True),
    _Family(("ride", "ride_bell", "crash", "splash", "china"), slice(10, None), rings=True),
    _Family(("shaker", "tambourine", "cowbell", "block"), slice(2, None)),
)
_METAL = {*(n for f in _FAMILIES if f.rings for n in f.classes), "shaker"}
#: Columns of the network's classes that tell strokes of a ringing family apart, and of the others.
_HEARD = {
    rings: [k for k, n in enumerate(CLASSES) if (n in _METAL) == rings] for rings in (True, False)
}
#: Weights of decay, classes and openness beside the spectrum at the onset; the dimensions that
#: are kept, and the least variance of a group in each (chosen on the tuning beds, where any near
#: them do as well).
_DECAY, _CLASS, _OPEN = 0.5, 0.35, 2.0
_DIMENSIONS, _VARIANCE = 6, 0.05
_MAX_SOUNDS, _MIN_STROKES_OF_A_SOUND, _MIN_STROKES_OF_A_FAMILY = (
    8,
    8,
    12,
)  # sounds of a family; strokes a sound needs, and a family
_LEARNED = 1500  # strokes of a family that its sounds are learned from
_VOTES = 0.7  # share of a group's votes that names all of it
_MAX_LEAD = 1.0  # log odds by which a stroke's own name may lead and still be given up
_MIN_CONFIDENCE = 0.7  # mean confidence from which on groups of one name are one sound
_ONCE = 0.03  # seconds within which a part is struck once
#: A picture: bands from low to high, and 20 ms a column from just before the onset on.
ROWS, COLUMNS = 12, 12
_FRAMES_A_COLUMN, _SHOWN, _DEEP = (
    2,
    60,
    40.0,
)  # frames a column; strokes that make a picture; dB it shows


def of_song(
    hits: list[Hit], spectrum: Spectrum, activity: Activity
) -> tuple[list[Hit], tuple[HeardSound, ...]]:
    """The strokes under the names of their sounds, with each one's number and half; the sounds.

    hits: written and perhaps. Sounds are numbered from 1, the largest first. Where a group's
    votes, weighed by confidence, are clear, its lone strokes take its name; of two that are then
    one part at one moment the surer stays.
    """
    if not hits:
        return [], ()
    seen = _Seen.of(hits, spectrum, activity)
    kinds = np.array([heard_class(h.part) for h in hits])
    groups: list[tuple[np.ndarray, np.ndarray]] = []
    for family in _FAMILIES:
        members = np.flatnonzero(np.isin(kinds, family.classes))
        points = seen.points(members, family)
        heard_in = [hits[i] for i in members]
        for inside in _joined(_alike(points), heard_in):
            groups.append((members[inside], _halved(points[inside])))
    groups.sort(key=lambda g: (-len(g[0]), int(g[0].min())))
    named_hits, sounds = list(hits), []
    for number, (group, half) in enumerate(groups, 1):
        name, share = _vote([hits[i] for i in group])
        for i, h in zip(group, half, strict=True):
            goes = share >= _VOTES and _voice(hits[i].part) != _voice(name)
            goes &= seen.leads(i, heard_class(hits[i].part), heard_class(name)) <= _MAX_LEAD
            part = name if goes else hits[i].part
            named_hits[i] = replace(hits[i], part=part, sound=number, half=int(h))
        pictures = [seen.picture(x) for x in (group, group[half == 0], group[half == 1])]
        sounds.append(HeardSound(number, name, *pictures))
    return _once(named_hits), tuple(sounds)


@dataclass(frozen=True)
class _Seen:
    """What describes each stroke, (n, ...): where the drums' power rises at its onset (share by
    pooled bands), how it has fallen 60 and 140 ms behind it, both as log 10; the log odds of every
    class; a hat's openness. power: (frames, BANDS) of the drums; at: the strokes' frames."""

    rise: np.ndarray
    soon: np.ndarray
    later: np.ndarray
    odds: np.ndarray
    openness: np.ndarray
    power: np.ndarray
    at: np.ndarray
    sure: np.ndarray

    @classmethod
    def of(cls, hits: list[Hit], spectrum: Spectrum, activity: Activity) -> _Seen:
        last = spectrum.frames - 1
        at = np.clip(np.round(np.array([h.time for h in hits]) / FRAME).astype(int), 0, last)
        power = activity.mask.astype(np.float32)
        power *= spectrum.bands
        power *= spectrum.bands

        def pooled(first: int, behind: int) -> np.ndarray:
            around = np.clip(at[:, None] + np.arange(first, behind), 0, last)
            return power[around].mean(axis=1).reshape(len(at), -1, _POOL).mean(axis=2)

        onset = pooled(0, 4)
        rise = np.maximum(onset - pooled(-5, -2), 0)
        rise /= rise.sum(axis=1, keepdims=True) + 1e-12
        soon, later = (
            np.log10((pooled(*span) + 1e-9) / (onset + 1e-9) + 1e-3) for span in ((6, 11), (14, 20))
        )
        return cls(
            np.log10(rise + 1e-3),
            soon,
            later,
            logit(maximum_filter1d(activity.strength, 3, axis=0)[at], 1e-3),
            maximum_filter1d(activity.openness, 3)[at],
            power,
            at,
            np.array([h.confidence for h in hits]),
        )

    def points(self, members: np.ndarray, family: _Family) -> np.ndarray:
        """(n, few) what tells the strokes of a family apart, in the directions that vary most."""
        if len(members) < _MIN_STROKES_OF_A_FAMILY:
            return np.zeros((len(members), 1))
        features = [
            self.rise[members, family.bands],
            _DECAY * self.soon[members, family.bands],
            _CLASS * self.odds[members][:, _HEARD[family.rings]],
        ]
        if family.rings:
            features.append(_DECAY * self.later[members, family.bands])
            features.append(_OPEN * self.openness[members][:, None])
        columns = np.concatenate(features, axis=1)
        return PCA(min(_DIMENSIONS, len(members) - 1), random_state=0).fit_transform(columns)

    def leads(self, i: int, kind: str, other: str) -> float:
        """By how much (log odds) a stroke's sound is rather of one class than of another."""
        return float(self.odds[i, CLASSES.index(kind)] - self.odds[i, CLASSES.index(other)])

    def picture(self, members: np.ndarray) -> str:
        """How strokes sound: ROWS of COLUMNS digits, low to high, 9 the loudest; "" of none."""
        if len(members) == 0:
            return ""
        shown = members[np.argsort(-self.sure[members], kind="stable")[:_SHOWN]]
        around = self.at[shown][:, None] + np.arange(
            -_FRAMES_A_COLUMN, (COLUMNS - 1) * _FRAMES_A_COLUMN
        )
        usual = np.median(self.power[np.clip(around, 0, len(self.power) - 1)], axis=0)
        cells = usual.reshape(COLUMNS, _FRAMES_A_COLUMN, ROWS, BANDS // ROWS).mean(axis=(1, 3)).T
        db = 10 * np.log10(cells / (cells.max() + 1e-12) + 1e-9)
        return "".join(str(int(x)) for x in np.clip(np.round(9 + 9 * db / _DEEP), 0, 9).ravel())


def _alike(points: np.ndarray) -> list[np.ndarray]:
    """Indices of the points of each group."""
    if len(points) < _MIN_STROKES_OF_A_FAMILY:
        return [np.arange(len(points))] if len(points) else []
    learned = points[:: -(-len(points) // _LEARNED)]
    tried = [
        _mixture(k).fit(learned)
        for k in range(1, min(_MAX_SOUNDS, len(learned) // _MIN_STROKES_OF_A_SOUND) + 1)
    ]
    groups = min(tried, key=lambda m: float(m.bic(learned))).predict(points)
    return [np.flatnonzero(groups == k) for k in np.unique(groups)]


def _joined(groups: list[np.ndarray], hits: list[Hit]) -> list[np.ndarray]:
    """The groups, those together that are surely one part: a hat sounds otherwise with a kick under
    it, and nobody wants to be asked twice."""
    sure: dict[str, list[np.ndarray]] = defaultdict(list)
    joined: list[np.ndarray] = []
    for members in groups:
        name, share = _vote([hits[i] for i in members])
        mean = float(np.mean([hits[i].confidence for i in members]))
        (sure[name] if share >= _VOTES and mean >= _MIN_CONFIDENCE else joined).append(members)
    return [*(np.sort(np.concatenate(same)) for same in sure.values()), *joined]


def _halved(points: np.ndarray) -> np.ndarray:
    """0 or 1 for each point: what it would be if its group were two; the larger half is 0."""
    if len(points) < 2 * _MIN_STROKES_OF_A_SOUND:
        return np.zeros(len(points), int)
    half = _mixture(2).fit_predict(points)
    return half if 2 * half.sum() <= len(half) else 1 - half


def _mixture(groups: int) -> GaussianMixture:
    return GaussianMixture(groups, reg_covar=_VARIANCE, n_init=2, random_state=0)


def _voice(part: str) -> str:
    """What is one name when a sound is named: half-open hats are open, toms differ."""
    return part if part.startswith("tom") else heard_class(part)


def _vote(members: list[Hit]) -> tuple[str, float]:
    """The name of a group, and its share of the votes."""
    votes: dict[str, float] = defaultdict(float)
    for h in members:
        votes[_voice(h.part)] += h.confidence**2
    name, first = min(votes.items(), key=lambda v: (-v[1], v[0]))
    return name, first / (sum(votes.values()) + 1e-9)


def _once(hits: list[Hit]) -> list[Hit]:
    """Without strokes of a part at a moment at which a surer one of it stands."""
    kept: dict[str, list[Hit]] = defaultdict(list)
    times: dict[str, np.ndarray] = {}
    for h in sorted(hits, key=lambda h: -h.confidence):
        earlier = times.setdefault(h.part, np.zeros(0))
        if len(earlier) and np.abs(earlier - h.time).min() < _ONCE:
            continue
        times[h.part] = np.append(earlier, h.time)
        kept[h.part].append(h)
    return sorted(
        (h for hits_kept in kept.values() for h in hits_kept), key=lambda h: (h.time, h.part)
    )
