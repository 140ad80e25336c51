"""How clearly each part begins at every moment, as the network hears it: kept for later."""

from __future__ import annotations

import numpy as np

from orchesis.hearing.hits import peaks, top
from orchesis.hearing.network import CLASSES, Activity
from orchesis.score.evidence import EVIDENT, STEPS, Evidence

_MIN_STRENGTH = 0.02  # strength of an onset that is kept
_CLASSES = {
    "kick": ("kick",),
    "snare": ("snare", "cross_stick"),
    "tom": ("tom",),
    "hat": ("hat_closed", "hat_open", "hat_foot"),
    "ride": ("ride", "ride_bell"),
    "crash": ("crash", "splash", "china"),
}


def of_song(activity: Activity) -> Evidence:
    """Onsets of every part; a step of clearness is a ninth of the way from no doubt against it to
    none for it, in log odds."""
    onsets = {}
    for part in EVIDENT:
        columns = [CLASSES.index(name) for name in _CLASSES[part]]
        curve = activity.strength[:, columns].max(axis=1)
        at = peaks(curve, _MIN_STRENGTH)
        strength = np.clip(top(curve, at), _MIN_STRENGTH, 1 - _MIN_STRENGTH)
        odds = np.log(strength / (1 - strength)) / np.log(
            (1 - _MIN_STRENGTH) / _MIN_STRENGTH
        )  # -1 to 1
        clear = np.clip(np.round(1 + (STEPS - 1) * (odds + 1) / 2), 1, STEPS).astype(int)
        onsets[part] = (at.astype(np.int64), clear)
    return Evidence(onsets)
