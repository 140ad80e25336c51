"""How wrong the forecast of a song's minutes is, on 20 simulated persons' histories."""

from __future__ import annotations

import numpy as np

from orchesis.planning import Work, forecast

#: Seeds of histories that the rule's constants were looked at on, and of those kept apart.
LOOKED_AT, APART = range(10), range(10, 20)


def history(seed: int, songs: int = 15) -> list[Work]:
    """A person with a pace of their own, who gets faster, tires of doubts, and is uneven."""
    rng = np.random.default_rng(1000 + seed)
    pace = np.exp(rng.normal(0.2, 0.5))  # minutes for one of the usual pace
    bar, doubt = 0.35 * np.exp(rng.normal(0, 0.3, 2)) * pace
    start = 8 * np.exp(rng.normal(0, 0.4)) * pace
    gain, noise = rng.uniform(0, 0.05), rng.uniform(0.15, 0.35)
    made = []
    for k in range(songs):
        bars, doubts = int(rng.integers(40, 200)), int(rng.gamma(2, 12))
        hard = np.exp(rng.normal(0, 0.15))  # songs differ by more than their bars
        minutes = (start + bar * bars * hard + doubt * doubts) * (1 - gain) ** k
        made.append(Work(bars, doubts, float(minutes * np.exp(rng.normal(0, noise)))))
    return made


def errors(seeds: range) -> dict[str, float]:
    """Median relative error of the forecast, of the mean of one's past minutes (the plain way), how
    often the truth lies between low and high, and the error with half of the song done."""
    ours, plain, inside, halfway = [], [], [], []
    for seed in seeds:
        songs = history(seed)
        for k in range(3, len(songs)):
            song, past = songs[k], songs[:k]
            told = forecast(past, Work(song.bars, song.doubts))
            ours.append(abs(told.likely - song.minutes) / song.minutes)
            inside.append(told.low <= song.minutes <= told.high)
            mean = np.mean([w.minutes for w in past])
            plain.append(abs(mean - song.minutes) / song.minutes)
            share = (8 + 0.5 * (song.size - 8)) / song.size
            spent = song.minutes * share
            half = forecast(past, Work(song.bars, song.doubts, spent, 0.5))
            halfway.append(abs(spent + half.likely - song.minutes) / song.minutes)
    return {
        "error": float(np.median(ours)),
        "plain": float(np.median(plain)),
        "inside": float(np.mean(inside)),
        "halfway": float(np.median(halfway)),
    }


def table() -> list[str]:
    rows = [
        "## Planning",
        "",
        "Median error of a song's forecast minutes, on simulated histories of 15 songs "
        "each (from the fourth song on).",
        "",
        "| histories | forecast | mean of one's past songs | with half of it done | truth between low and high (80 % wanted) |",
        "|---|---|---|---|---|",
    ]
    for name, seeds in (("first ten (looked at)", LOOKED_AT), ("ten kept apart", APART)):
        e = errors(seeds)
        rows.append(
            f"| {name} | {e['error']:.0%} | {e['plain']:.0%} | {e['halfway']:.0%} | {e['inside']:.0%} |"
        )
    return [*rows, ""]


if __name__ == "__main__":
    print("\n".join(table()))
