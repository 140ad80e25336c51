"""How sure a stroke is, judged by its whole song: calibrated on rough mixes and real beds.

The network hears single onsets; a guitar chord may look like a crash to it, and a voice like a
snare. What tells them apart is the company they keep. Two looks, each a logistic judgement per
family of parts: the first asks how clear the stroke is, whether its part is clear elsewhere in
the song and near it, how much of the sound the drums have there, and what the sound does behind
the onset (a cymbal rings, a chord is stopped); the second asks the judgements of the first at the
same place of the bars around and of rival parts at the same moment. Weights: training/judge.py,
from material kept apart from the networks'.
"""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import replace
from functools import cache
from pathlib import Path

import numpy as np

from orchesis.hearing.hits import logit
from orchesis.hearing.network import Activity
from orchesis.hearing.spectrum import Spectrum
from orchesis.hearing.stroke_features import family_of, first_look, kinds_of, second_look
from orchesis.hearing.types import Beat, Hit

#: Confidence from which on a stroke is written, and from which on it is kept: shown as perhaps one
#: (score/perhaps.py), or only grouped with what sounds like it, for a person who names the sound.
WRITTEN, KEPT = 0.4, 0.03
#: Weight of the song's judgement against what is heard of the stroke by itself, in log odds. The
#: looks were learned from what the first of the two networks hears; learned anew from both they are
#: worse on songs that they have not met (training/CARD.md).
_TRUST = 0.5
#: Log odds by which these are rather written: so their F is best on the songs by which that weight
#: was chosen (toms, crashes); a lost ghost costs more than one too many (snare).
#: Half of the snare's is in the weights of the second look already (training/judge.py).
_RATHER = {"snare": 0.15, "crash": 0.3, "tom": 0.5}
#: What is heard of a stroke by itself with less confidence than this its song alone can't make one:
#: it stays what is perhaps there. On the songs by which that weight was chosen this costs nothing.
_LEAST_HEARD, _PERHAPS = 0.1, 0.35


@cache
def weights() -> dict[str, dict[str, list[float]]]:
    """Of each look and family: a weight for each column and the constant (training/judge.py)."""
    return json.loads((Path(__file__).parent / "judge.json").read_text())


def judged(
    candidates: list[Hit],
    first: list[float],
    spectrum: Spectrum,
    activity: Activity,
    beats: tuple[Beat, ...],
) -> list[Hit]:
    """The candidates with the confidence that their song leaves them.

    first: their confidence before the song's repetition was asked.
    """
    if not candidates:
        return []
    kinds = kinds_of(candidates)
    sure = predict_proba(
        weights()["first"],
        kinds,
        first_look(candidates, np.array(first), spectrum, activity, beats),
    )
    sure = predict_proba(weights()["second"], kinds, second_look(candidates, sure, beats))
    sure = weighed(sure, np.array([h.confidence for h in candidates]), kinds)
    return [
        replace(h, confidence=round(float(p), 3)) for h, p in zip(candidates, sure, strict=True)
    ]


def weighed(
    judged_so: np.ndarray, heard_so: np.ndarray, kinds: np.ndarray, trust: float = _TRUST
) -> np.ndarray:
    """(n,) how sure each candidate is in the end: between what its song says of it and what is
    heard of it by itself, in log odds. trust: the weight of the song's word (training/judge.py
    tries others)."""
    odds = trust * logit(judged_so) + (1 - trust) * logit(heard_so)
    odds += [_RATHER.get(family_of(k), 0.0) for k in kinds]
    sure = 1 / (1 + np.exp(-odds))
    return np.where(heard_so < _LEAST_HEARD, np.minimum(sure, _PERHAPS), sure)


def predict_proba(
    features: Mapping[str, Sequence[float]], kinds: np.ndarray, rows: np.ndarray
) -> np.ndarray:
    """(n,) how sure a look is of each candidate. known: its weights by family."""
    out = np.zeros(len(rows))
    families = np.array([family_of(k) for k in kinds])
    for name in set(families):
        is_of_family = families == name
        out[is_of_family] = rows[is_of_family] @ np.array(features[name])
    return 1 / (1 + np.exp(-np.clip(out, -30, 30)))
