"""What is known of a candidate, as numbers: by itself, and by the whole song."""

from __future__ import annotations

from functools import cache

import numpy as np

from orchesis.hearing.hits import FRAME, logit
from orchesis.hearing.network import CLASSES, Activity, heard_class
from orchesis.hearing.repetition import Bars
from orchesis.hearing.spectrum import Spectrum, band_edges
from orchesis.hearing.types import Beat, Hit


def kinds_of(candidates: list[Hit]) -> np.ndarray:
    return np.array([CLASSES.index(heard_class(h.part)) for h in candidates])


FAMILIES = {
    "kick": "kick",
    "snare": "snare",
    "cross_stick": "snare",
    "hat_closed": "hat",
    "hat_open": "hat",
    "hat_foot": "hat",
    "ride": "ride",
    "ride_bell": "ride",
    "crash": "crash",
    "splash": "crash",
    "china": "crash",
    "tom": "tom",
}
OTHER = "other"
#: The band (Hz) in which a part is looked at; cymbals above.
_BANDS = {
    "kick": (30, 150),
    "snare": (200, 6000),
    "cross_stick": (1000, 8000),
    "tom": (60, 600),
    "clap": (800, 8000),
}
_CYMBAL = (5000, 16000)
#: Parts that may be taken for one another.
_RIVALS = (
    (
        "hat_closed",
        "hat_open",
        "ride",
        "ride_bell",
        "crash",
        "shaker",
        "hat_foot",
        "splash",
        "china",
    ),
    ("snare", "cross_stick", "clap", "tom", "block"),
    ("kick", "tom"),
)
_LAGS = (-8, -4, -2, -1, 1, 2, 4, 8)  # bars
_SAME_PLACE_S = 0.04  # seconds within which a sound stands at the same place
_CLEAR, _SURE, _NEAR = 0.3, 0.75, 6.0


def family_of(kind: int) -> str:
    return FAMILIES.get(CLASSES[kind], OTHER)


def _one_of(kinds: np.ndarray) -> np.ndarray:
    return np.eye(len(CLASSES))[kinds]


def first_look(
    candidates: list[Hit],
    first: np.ndarray,
    spectrum: Spectrum,
    activity: Activity,
    beats: tuple[Beat, ...],
) -> np.ndarray:
    """(n, columns) what speaks for each candidate by itself and by what is heard round it."""
    kinds = kinds_of(candidates)
    times = np.array([h.time for h in candidates])
    sure = np.array([h.confidence for h in candidates])
    clear = logit(sure)
    features = [clear, logit(first), *_sound(kinds, times, spectrum, activity)]
    mean, share, rate, near = _elsewhere(kinds, times, sure, clear)
    clean, _, dense, here = _elsewhere(np.zeros_like(kinds), times, sure, clear)
    one, four, sides = _crowd(times, sure)
    company = _company(kinds, times, clear)
    features += [mean, share, rate, near, clean, dense, here, one, four, sides, company]
    one_here = _on_one(times, beats)
    drummed = _drummed(kinds, times, sure)
    features += [np.array([h.level for h in candidates]), *_off_grid(times, beats)]
    features += [one_here, drummed]
    return _with_products(
        features,
        kinds,
        (
            (clear, mean),
            (clear, near),
            (clear, four),
            (clear, features[2]),
            (mean, near),
            (four, features[3]),
            (clear, share),
            (clear, company),
            (clear, clear),
            (four, four),
            (mean, mean),
            (clear, clean),
            (clear, here),
            (mean, clean),
            (near, here),
            (here, here),
            (one_here, clear),
            (one_here, drummed),
            (one_here, four),
        ),
    )


def _with_products(
    features: list[np.ndarray], kinds: np.ndarray, pairs: tuple[tuple[np.ndarray, np.ndarray], ...]
) -> np.ndarray:
    columns = np.stack([*features, *(a * b for a, b in pairs)], axis=1)
    return np.hstack([columns, _one_of(kinds)])


def _sound(
    kinds: np.ndarray, times: np.ndarray, spectrum: Spectrum, activity: Activity
) -> list[np.ndarray]:
    """The drums' share of the sound round each stroke (logs: within a second, within four, of the
    song),
    in its own band at its onset; how much its band rises there, and how far it has fallen 0.1 and
    0.25 s on."""
    at = np.clip(np.round(times / FRAME).astype(int), 0, spectrum.frames - 1)
    centres = band_edges()[1:-1]
    power = spectrum.bands**2
    drums = power * activity.mask
    whole_sum, drum_sum = (
        np.concatenate([[0], np.cumsum(x.sum(axis=1, dtype=float))]) for x in (power, drums)
    )

    def share(reach: int) -> np.ndarray:
        lo, hi = np.clip(at - reach, 0, spectrum.frames), np.clip(at + reach, 0, spectrum.frames)
        return np.log(drum_sum[hi] - drum_sum[lo] + 1e-9) - np.log(
            whole_sum[hi] - whole_sum[lo] + 1e-9
        )

    clearness, rise, soon, later = np.zeros((4, len(times)))
    for kind in np.unique(kinds):
        low, high = _BANDS.get(CLASSES[kind], _CYMBAL)
        inside = (centres >= low) & (centres < high)
        part, drum = power[:, inside].sum(axis=1), drums[:, inside].sum(axis=1)
        i = np.flatnonzero(kinds == kind)

        def mean(curve: np.ndarray, a: int, b: int, i: np.ndarray = i) -> np.ndarray:
            k = np.clip(at[i][:, None] + np.arange(a, b), 0, len(curve) - 1)
            return np.log(curve[k].mean(axis=1) + 1e-9)

        clearness[i] = mean(drum, 0, 4) - mean(part, 0, 4)
        onset = mean(part, 0, 3)
        rise[i] = onset - mean(part, -6, -2)
        soon[i], later[i] = mean(part, 8, 14) - onset, mean(part, 20, 35) - onset
    of_song = np.full(len(times), np.log(drum_sum[-1] / (whole_sum[-1] + 1e-9) + 1e-6))
    return [share(100), share(400), of_song, clearness, rise, soon, later]


def _elsewhere(
    kinds: np.ndarray, times: np.ndarray, sure: np.ndarray, clear: np.ndarray
) -> tuple[np.ndarray, ...]:
    """Of the part in the whole song: mean clarity, share of sure strokes, rate; and its mean
    clarity near.
    With kinds that are all one, the same of all that is heard."""
    mean, share, rate, near = np.zeros((4, len(times)))
    minutes = max(8.0, float(np.ptp(times))) / 60
    for kind in np.unique(kinds):
        of_kind = np.flatnonzero(kinds == kind)
        good = of_kind[sure[of_kind] >= _CLEAR]
        mean[of_kind] = clear[good].mean() if len(good) else -2
        share[of_kind] = (sure[of_kind] >= 0.8).sum() / max(1, len(good))
        rate[of_kind] = np.log(1 + len(good) / minutes)
        order = good[np.argsort(times[good], kind="stable")]
        total = np.concatenate([[0], np.cumsum(clear[order])])
        lo = np.searchsorted(times[order], times[of_kind] - _NEAR, side="right")
        hi = np.searchsorted(times[order], times[of_kind] + _NEAR, side="left")
        itself = sure[of_kind] >= _CLEAR
        count = hi - lo - itself
        others = total[hi] - total[lo] - np.where(itself, clear[of_kind], 0)
        near[of_kind] = np.where(count >= 2, others / np.maximum(count, 1), -1.5)
    return mean, share, rate, near


def _crowd(times: np.ndarray, sure: np.ndarray) -> tuple[np.ndarray, ...]:
    """Sure strokes of any part within a second, within four, and on the thinner side of those
    (logs)."""
    strong = np.sort(times[sure > _SURE])

    def between(a: np.ndarray, b: np.ndarray) -> np.ndarray:
        return np.searchsorted(strong, b) - np.searchsorted(strong, a)

    itself = sure > _SURE
    one, four = (
        np.log1p(np.maximum(0, between(times - w, times + w) - itself)) for w in (1.0, 4.0)
    )
    sides = np.minimum(between(times - 4, times - 0.02), between(times + 0.02, times + 4))
    return one, four, np.log1p(sides)


def _company(kinds: np.ndarray, times: np.ndarray, clear: np.ndarray) -> np.ndarray:
    """The clearest stroke of another part at the same moment (30 ms)."""
    out = np.full(len(times), -4.0)
    order = np.argsort(times, kind="stable")
    rising = times[order]
    lo, hi = (np.searchsorted(rising, times + d) for d in (-0.03, 0.03))
    for reach in range(int((hi - lo).max(initial=0))):
        there = np.minimum(lo + reach, len(times) - 1)
        other = order[there]
        counts = (lo + reach < hi) & (kinds[other] != kinds)
        out = np.where(counts, np.maximum(out, clear[other]), out)
    return out


def _off_grid(times: np.ndarray, beats: tuple[Beat, ...]) -> list[np.ndarray]:
    """How far off the nearest 16th, triplet 8th (both in their own lengths) and beat each stroke
    lies."""
    at = np.array([b.time for b in beats])
    k = np.clip(np.searchsorted(at, times, side="right") - 1, 0, len(at) - 2)
    part = (times - at[k]) / (at[k + 1] - at[k])
    return [np.abs(part * n - np.round(part * n)) for n in (4, 3, 1)]


def _on_one(times: np.ndarray, beats: tuple[Beat, ...]) -> np.ndarray:
    """How near the 1 of a bar each stroke lies, 1 on it to 0 from about a tenth of a second on."""
    ones = np.array([b.time for b in beats if b.beat == 1])
    k = np.clip(np.searchsorted(ones, times), 1, len(ones) - 1)
    off = np.minimum(np.abs(times - ones[k - 1]), np.abs(times - ones[k]))
    return np.exp(-((off / 0.05) ** 2))


def _drummed(kinds: np.ndarray, times: np.ndarray, sure: np.ndarray) -> np.ndarray:
    """Sure strokes of snare and toms in the second before each (log): a fill leads to a crash."""
    drums = np.isin(kinds, [CLASSES.index("snare"), CLASSES.index("tom")]) & (sure > 0.5)
    struck = np.sort(times[drums])
    return np.log1p(np.searchsorted(struck, times - 0.05) - np.searchsorted(struck, times - 1.1))


def second_look(candidates: list[Hit], sure: np.ndarray, beats: tuple[Beat, ...]) -> np.ndarray:
    """(n, columns) what the first judgements, asked of the bars and parts around, say of each
    candidate."""
    kinds = kinds_of(candidates)
    times = np.array([h.time for h in candidates])
    clear = logit(sure)
    mean, share, rate, near = _elsewhere(kinds, times, sure, clear)
    clean, _, _, here = _elsewhere(np.zeros_like(kinds), times, sure, clear)
    one, four, sides = _crowd(times, sure)
    one_here = _on_one(times, beats)
    places = _same_places(kinds, times, sure, beats)
    rivals = _rivals(kinds, times, sure)
    company = _company(kinds, times, clear)
    features = [
        clear,
        mean,
        share,
        rate,
        near,
        clean,
        here,
        one,
        four,
        sides,
        company,
        one_here,
        *places,
        *rivals,
    ]
    return _with_products(
        features,
        kinds,
        (
            (clear, mean),
            (clear, near),
            (clear, four),
            (clear, places[0]),
            (places[0], near),
            (clear, rivals[0]),
            (clear, share),
            (clear, clear),
            (four, four),
            (mean, mean),
            (places[0], places[0]),
            (clear, clean),
            (clear, here),
            (here, here),
            (one_here, clear),
            (one_here, four),
        ),
    )


def _same_places(
    kinds: np.ndarray, times: np.ndarray, sure: np.ndarray, beats: tuple[Beat, ...]
) -> list[np.ndarray]:
    """At the same place of the bars around: mean and best of the part's confidence in all, in the
    two
    nearest on either side, and the mean of the surest rival's."""
    if sum(b.beat == 1 for b in beats) < 3:
        return [np.full(len(times), 0.3), np.full(len(times), 0.3), np.zeros(len(times))]
    bars = Bars(beats)
    bar, beat, part = bars.places(times)
    others = bar[:, None] + np.array(_LAGS)
    inside = (others >= 0) & (others < len(bars.first))
    moments = bars.moments(np.clip(others, 0, len(bars.first) - 1), beat[:, None], part[:, None])
    same, rival = np.zeros(others.shape), np.zeros(others.shape)
    for kind in np.unique(kinds):
        of_kind = kinds == kind
        same[of_kind] = _surest(times[of_kind], sure[of_kind], moments[of_kind])
        against = np.isin(kinds, _rivals_of(kind))
        rival[of_kind] = _surest(times[against], sure[against], moments[of_kind])
    same, rival = np.where(inside, same, np.nan), np.where(inside, rival, np.nan)
    nearest = np.abs(np.array(_LAGS)) <= 2

    def mean(rows: np.ndarray) -> np.ndarray:
        is_number = ~np.isnan(rows)
        return np.where(is_number, rows, 0).sum(axis=1) / np.maximum(1, is_number.sum(axis=1))

    best = np.nan_to_num(same[:, nearest], nan=0.0).max(axis=1)
    return [mean(same), best, mean(rival)]


@cache
def _rivals_of(kind: int) -> tuple[int, ...]:
    name = CLASSES[kind]
    rivals = {n for group in _RIVALS if name in group for n in group if n != name}
    return tuple(CLASSES.index(n) for n in sorted(rivals))


def _surest(times: np.ndarray, sure: np.ndarray, moments: np.ndarray) -> np.ndarray:
    """The greatest confidence within 40 ms of each moment (any shape), 0 where nothing is."""
    out = np.zeros(moments.shape)
    if len(times) == 0:
        return out
    order = np.argsort(times, kind="stable")
    rising, value = times[order], sure[order]
    lo, hi = (np.searchsorted(rising, moments + d) for d in (-_SAME_PLACE_S, _SAME_PLACE_S))
    for reach in range(int((hi - lo).max(initial=0))):
        there = np.minimum(lo + reach, len(rising) - 1)
        out = np.where(lo + reach < hi, np.maximum(out, value[there]), out)
    return out


def _rivals(kinds: np.ndarray, times: np.ndarray, sure: np.ndarray) -> list[np.ndarray]:
    """The surest rival part at the same moment, and how sure it is on the whole of the song."""
    here, whole = np.zeros(len(times)), np.zeros(len(times))
    for kind in np.unique(kinds):
        of_kind, against = kinds == kind, np.isin(kinds, _rivals_of(kind))
        here[of_kind] = _surest(times[against], sure[against], times[of_kind])
        strong = sure[against]
        whole[of_kind] = np.log1p(strong[strong > _CLEAR].sum() / max(1.0, sure[of_kind].sum()))
    return [here, whole]
