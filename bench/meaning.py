"""How right the judgement is: grooves, options, fills, cells, swing, placement, echoes, search.

Two kinds of truth. Made-up scores, composed here by a random but seeded hand (units, cores,
options, fills; played with jitter), test the rules given true strokes. The bench's songs, whose
lanes are known, test the whole chain from sound. No threshold was chosen on the first; the
fills' were looked at on the second.
"""

from __future__ import annotations

import json
import time
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from fractions import Fraction
from itertools import product
from pathlib import Path

import numpy as np

from bench import (
    across,
    arrangings,
    basses,
    echoes,
    levels,
    limb_rules,
    pairs,
    reuses,
    reviewing,
    rudiment_rows,
    stickings,
)
from bench import figures as written_figures
from bench import fills as written_fills
from bench import sections as written_sections
from bench.songs import OUT, SONGS, Song, text_of
from orchesis import feel, fills, grooves, search
from orchesis.formats import count
from orchesis.score import Measured, Meter, PulseMap, Score, Section, Stroke
from orchesis.score.stroke import CLASS_LOUDNESS
from orchesis.score.swing import swung

_KEY = tuple[int, Fraction, str, bool]


@dataclass
class Made:
    """A made-up score and its truth: per section the core (unit bar, place, part, soft), the
    options' shares, and the bars of fills."""

    score: Score
    length: dict[str, int]
    core: dict[str, set[_KEY]]
    shares: dict[str, dict[_KEY, float]]
    fills: set[int]
    swing: tuple[str, float]
    late: float


def _surface(rng: np.random.Generator, beats: int, swing: bool) -> tuple[str, list[Fraction]]:
    part = str(rng.choice(["hat_closed", "ride", "hat_closed"]))
    if swing:
        return part, [Fraction(k, 4) for k in range(4 * beats)]
    step = rng.choice([2, 2, 4, 1])
    return part, [Fraction(k, int(step)) for k in range(int(step) * beats)]


def _music(
    rng: np.random.Generator, beats: int, swings: bool
) -> tuple[int, set[_KEY], dict[_KEY, float]]:
    """(bars of the unit, core, options with their shares) of one music."""
    length = int(rng.choice([1, 2, 2, 4]))
    part, places = _surface(rng, beats, swings)
    back = [Fraction(1), Fraction(3)] if beats >= 4 else [Fraction(2)]
    sixteenths = [Fraction(k, 4) for k in range(4 * beats)]
    own: set[_KEY] = set()
    for k in range(length):
        own |= {(k + 1, p, part, False) for p in places}
        own |= {(k + 1, p, "snare", False) for p in back}
        own.add((k + 1, Fraction(0), "kick", False))
        free = [p for p in sixteenths if p not in back and p > 0]
        more = rng.choice(len(free), size=int(rng.integers(1, 4)), replace=False)
        own |= {(k + 1, free[i], "kick", False) for i in more}
        if rng.random() < 0.5:
            spare = [p for p in free if (k + 1, p, "kick", False) not in own]
            own |= {(k + 1, spare[i], "snare", True) for i in rng.choice(len(spare), 2, False)}
    options: dict[_KEY, float] = {}
    if rng.random() < 0.7:
        spare = [p for p in sixteenths if all(p != q for _, q, *_ in own if _ != part)]
        for i in rng.choice(len(spare), size=min(2, len(spare)), replace=False):
            if (1, spare[i], "kick", False) not in own and spare[i] not in back:
                options[0, spare[i], "kick", False] = float(rng.choice([0.25, 0.5]))
    return length, own, options


def made_up(seed: int) -> Made:
    """One song: verse, chorus, verse, chorus of eight bars, units of one, two or four bars.

    What a verse plays, the other one plays too, with other options and another fill.
    """
    rng = np.random.default_rng(seed)
    beats = int(rng.choice([4, 4, 4, 3, 5]))
    swing = ("sixteenth", float(rng.uniform(0.57, 0.66))) if rng.random() < 0.3 else ("none", 0.5)
    late = float(rng.uniform(-6, 14))
    bpm, total = float(rng.uniform(74, 150)), 4 * 8
    walk = np.cumsum(rng.normal(0, 0.002, total * beats))
    steps = 60 / bpm * (1 + np.clip(walk, -0.04, 0.04))
    pulse = PulseMap.of(np.concatenate([[0.4], 0.4 + np.cumsum(steps)]).tolist())
    sections = tuple(
        Section(f"{n}{i}", n, n, 1 + 8 * i, 8) for i, n in enumerate(("A", "B", "A", "B"))
    )
    music: dict[str, tuple[int, set[_KEY], dict[_KEY, float]]] = {}
    score = Score((Meter(beats, 4),) * total, pulse, sections=sections)
    found = Made(score, {}, {}, {}, set(), swing, late)
    strokes: list[Stroke] = []

    def put(bar: int, place: Fraction, part: str, dynamic: str = "normal") -> None:
        beat = score.bar_beats()[bar - 1] + swung(place, swing)
        off = rng.normal(late if part == "snare" and dynamic != "ghost" else 0, 5) / 1000
        loud = float(np.clip(rng.normal(CLASS_LOUDNESS[dynamic], 0.04), 0.1, 1))
        limb = {"kick": "RF", "snare": "LH"}.get(part, "RH")
        strokes.append(
            Stroke(
                f"m{len(strokes)}",
                bar,
                place,
                part,
                limb=limb,
                dynamic=dynamic,
                loudness=loud,
                measured=Measured(score.pulse.seconds(beat) + off),
            )
        )

    for s in sections:
        if s.label not in music:
            music[s.label] = _music(rng, beats, swing[0] != "none")
        length, own, options = music[s.label]
        last = s.last_bar if rng.random() < 0.75 else 0
        chosen = {
            key: set(rng.choice(range(s.first_bar, s.last_bar), round(7 * share), False))
            for key, share in options.items()
        }
        found.length[s.id], found.core[s.id] = length, own
        found.shares[s.id] = {k: len(v) / 7 if last else len(v) / 8 for k, v in chosen.items()}
        start = Fraction(int(rng.choice([beats - 2, beats - 1, 1, 0])))
        for bar in range(s.first_bar, s.last_bar + 1):
            until = start if bar == last else Fraction(beats)
            for unit, place, name, soft in sorted(own):
                if (bar - s.first_bar) % length == unit - 1 and place < until:
                    put(
                        bar,
                        place,
                        name,
                        "ghost" if soft else "accent" if name == "snare" else "normal",
                    )
            for (_, place, name, _), where in chosen.items():
                if bar in where and place < until:
                    taken = ((bar - s.first_bar) % length + 1, place, name, False) in own
                    if not taken:
                        put(bar, place, name)
        if last:
            found.fills.add(last)
            drums = rng.choice(["snare", "tom_high", "tom_floor"], 3)
            grid = int(rng.choice([4, 3, 6])) if swing[0] == "none" else 4
            for b, k in product(range(int(start), beats), range(grid)):
                put(last, b + Fraction(k, grid), str(drums[(b + k // 2) % 3]))
        if rng.random() < 0.6:
            put(s.first_bar, Fraction(0), "crash", "accent")
    unique = {(s.bar, s.place, s.part): s for s in strokes}
    found.score = Score(
        score.meters, score.pulse, {s.id: s for s in unique.values()}, sections, swing=swing
    )
    return found


def _unit(core: Iterable[_KEY], length: int, to: int) -> set[_KEY]:
    return {(b + k * length, p, n, soft) for k in range(to // length) for b, p, n, soft in core}


def _core_of(g: grooves.Groove) -> set[_KEY]:
    return {(s.bar, s.place, s.part, s.dynamic == "ghost" and s.part == "snare") for s in g.core}


def true_strokes(seeds: Sequence[int] = tuple(range(400, 440))) -> dict[str, float]:
    """Shares right of what is read from true strokes of the made-up scores."""
    exact: list[bool] = []
    off: list[float] = []
    hit = told = true = 0
    ratio: list[float] = []
    wrongly = straight = 0
    late: list[float] = []
    for seed in seeds:
        made = made_up(seed)
        read = grooves.grooves(made.score)
        for section in made.score.sections:
            own = [g for g in read if g.section == section.id]
            size = 4
            wanted = _unit(made.core[section.id], made.length[section.id], size)
            g = max(own, key=lambda g: g.bars)
            exact.append(len(own) == 1 and _unit(_core_of(g), g.length, size) == wanted)
            shares = {(o.place, o.part): o.share for o in g.options}
            for (_, place, part, _), share in made.shares[section.id].items():
                if all((k, place, part, False) not in made.core[section.id] for k in range(1, 5)):
                    off.append(abs(shares.get((place, part), 0.0) - share))
        bars = {b for b, _ in fills.fill_bars(made.score)}
        hit, told, true = hit + len(bars & made.fills), told + len(bars), true + len(made.fills)
        whole = feel.read(made.score)[0]
        claimed = [s for s in whole.swing if s.claimed and s.who == "all"]
        if made.swing[0] == "none":
            straight += 1
            wrongly += bool(claimed)
        else:
            own_ratio = [s.ratio for s in claimed if s.level == made.swing[0]]
            ratio.append(abs(own_ratio[0] - made.swing[1]) if own_ratio else 0.5)
        placed = [p.ms for p in whole.placement if p.voice == "backbeat"]
        if placed:
            late.append(abs(placed[0] - made.late))
    return {
        "cores exact": float(np.mean(exact)),
        "options within 10 points": float(np.mean(np.array(off) <= 0.1)),
        "fill bars F": 2 * hit / (told + true),
        "swing error": float(np.mean(ratio)),
        "straight called swung": wrongly / max(1, straight),
        "snare placement, ms": float(np.mean(late)),
    }


# -- from sound


def fill_truth(song: Song) -> set[int]:
    """Bars (from 1) that the song's lanes call a fill."""
    found, bar = set(), 0
    for _, bars, _, last in song.parts:
        if any(lane.startswith(("snare", "tom")) for lane in last):
            found.add(bar + bars)
        bar += bars
    return found


def from_sound(heard: dict[str, Score]) -> tuple[dict[str, float], list[str]]:
    """(figures of what is read from the bench songs as heard, lines song by song)."""
    exact: list[bool] = []
    frame: list[bool] = []
    close: list[float] = []
    fill_f: list[float] = []
    ratio: list[float] = []
    late: list[float] = []
    wrongly = straight = 0
    lines = [
        "| song | cores exact | kick and backbeat exact | core F | fills F | swing | snare ms |",
        "|---|---|---|---|---|---|---|",
    ]
    for song in SONGS:
        if song.name not in heard:
            continue
        score = heard[song.name]
        truth = json.loads((OUT / f"{song.name}.truth.json").read_text())
        starts = [b["time"] for b in truth["beats"] if b["beat"] == 1]
        own = _sections(song, score, starts)
        exact += [a for a, _, _ in own]
        frame += [b for _, b, _ in own]
        close += [c for _, _, c in own]
        mine = {
            1 + max(i for i, t in enumerate(starts) if t <= middle)
            for b, _ in fills.fill_bars(score)
            if (middle := (score.seconds(b) + score.seconds(b + 1)) / 2) >= starts[0]
        }
        wanted = fill_truth(song)
        f = 2 * len(mine & wanted) / max(1, len(mine) + len(wanted)) if mine or wanted else 1.0
        fill_f.append(f)
        whole = feel.read(score)[0]
        claimed = next((s for s in whole.swing if s.claimed and s.who == "all"), None)
        swing = truth["feel"]["swing"]
        shuffle = song.name == "half-time-shuffle"  # written in triplets: 0.667
        if song.name == "one-drop":  # half of it is played in triplets, half straight
            pass
        elif swing["level"] == "none" and not shuffle:
            straight += 1
            wrongly += claimed is not None
        else:
            asked = swing["ratio"] if swing["level"] != "none" else 2 / 3
            ratio.append(abs((claimed.ratio if claimed else 0.5) - asked))
        placed = next((p.ms for p in whole.placement if p.voice == "backbeat"), None)
        if placed is not None:
            late.append(abs(placed - song.late_ms))
        shown = f"{claimed.ratio:.2f}" if claimed else "straight"
        lines.append(
            f"| {song.name} | {sum(a for a, _, _ in own)} of {len(own)} | "
            f"{sum(b for _, b, _ in own)} of {len(own)} | {np.mean([c for *_, c in own]):.2f} | "
            f"{f:.2f} | {shown} | {'–' if placed is None else f'{placed - song.late_ms:+.1f}'} |"
        )
    return {
        "cores exact": float(np.mean(exact)),
        "kick and backbeat exact": float(np.mean(frame)),
        "core strokes F": float(np.mean(close)),
        "fill bars F": float(np.mean(fill_f)),
        "swing error": float(np.mean(ratio)) if ratio else 0.0,
        "straight called swung": wrongly / max(1, straight),
        "snare placement, ms": float(np.mean(late)),
    }, lines


def _sections(song: Song, score: Score, starts: Sequence[float]) -> list[tuple[bool, bool, float]]:
    """For each section of four bars or more: core exact, kick and backbeat exact, and F."""
    read = grooves.grooves(score)
    truth = count.read(text_of(song)).by_bar()
    mine = np.array([score.seconds(b) for b in range(1, score.bar_count + 1)])
    made, bar = [], 0
    for _, bars, _, last in song.parts:
        if bars >= 4:
            all_same, frame_same, shared, size = True, True, 0, 0
            for b in range(bar, bar + bars - bool(last)):
                k = int(np.abs(mine - starts[b]).argmin())
                g = next((g for g in read if g.first_bar <= k + 1 <= g.last_bar), None)
                hidden = {s.place for s in truth.get(b + 1, []) if s.part == "crash"}
                wanted = _keys(truth.get(b + 1, []), hidden)
                fits = g is not None and abs(mine[k] - starts[b]) < 0.15
                found = _keys(grooves.at(g, k + 1), hidden) if fits and g is not None else set()
                all_same &= wanted == found
                frame_same &= _frame(wanted) == _frame(found)
                shared += 2 * len(wanted & found)
                size += len(wanted) + len(found)
            made.append((all_same, frame_same, shared / max(1, size)))
        bar += bars
    return made


def _keys(strokes: Iterable[Stroke], hidden: set[Fraction]) -> set[tuple[Fraction, str, bool]]:
    """Core strokes of a bar; crashes that mark a bar, and the time hand they replace, are not."""
    return {
        (s.place, s.part, s.part == "snare" and s.dynamic == "ghost")
        for s in strokes
        if s.part != "crash" and not (s.place in hidden and s.part in ("hat_closed", "ride"))
    }


def _frame(keys: set[tuple[Fraction, str, bool]]) -> set[tuple[Fraction, str, bool]]:
    return {k for k in keys if k[1] in ("kick", "snare", "cross_stick") and not k[2]}


def searching(bars: int = 100_000) -> str:
    """How long a search over so many bars takes, in ms, for a kick and for whole hands."""
    songs = [made_up(s).score for s in range(60, 72)]
    rows = [search.rows(s) for s in songs]
    each = sum(len(r.bars) for r in rows)
    turns = -(-bars // each)
    index = search.Index(((k, n), r) for k in range(turns) for n, r in enumerate(rows))
    took = {}
    for scope in ("kick", "hands", "all"):
        wanted = search.figure(songs[0], 2, scope)
        start = time.perf_counter()
        index.search(wanted)
        took[scope] = 1000 * (time.perf_counter() - start)
    shown = ", ".join(f"{k} {v:.0f} ms" for k, v in took.items())
    return f"Pattern search over {len(index)} bars of {len(rows)} made-up songs: {shown}."


def table(heard: dict[str, Score]) -> list[str]:
    """The lines of the part on what the strokes mean."""
    given = true_strokes()
    sound, songs = from_sound(heard)
    alarms, found = echoes.run(20)
    mended, by_song = reviewing.run(heard)
    bass_notes, bass_pitches = basses.run()
    many_alarms, many = echoes.run(150, seed=907)
    asked = (
        ("groove cores exact, true strokes", given["cores exact"], 0.90, False),
        ("groove cores exact, from sound", sound["cores exact"], 0.75, False),
        (
            "kick and backbeat of the core exact, from sound",
            sound["kick and backbeat exact"],
            None,
            False,
        ),
        ("strokes of the core, F, from sound", sound["core strokes F"], None, False),
        (
            "option shares within 10 points, true strokes",
            given["options within 10 points"],
            0.90,
            False,
        ),
        ("fill bars F, true strokes", given["fill bars F"], 0.90, False),
        ("fill bars F, from sound", sound["fill bars F"], 0.75, False),
        ("cells right, 40 written fills", written_fills.share_right(), 0.90, False),
        (
            "the same, 20 with feet under the hands",
            written_fills.share_right(written_fills.WITH_FEET),
            0.92,
            False,
        ),
        ("figures across the bars, 20 written passages", across.share_right(), 0.92, False),
        ("figures and returns of 40 written passages, F", reuses.f_measure(), 0.90, False),
        ("differences told rightly, 40 pairs of bars", pairs.share_right(), 0.92, False),
        ("kind of 60 written sections", written_sections.share_right(), 0.92, False),
        ("figures named, 60 written", written_figures.named_right(), 0.92, False),
        ("nothing named, 60 written without a figure", written_figures.none_claimed(), 0.92, False),
        ("errors that the first 15 answers of the review mend", mended, 0.50, False),
        ("stickings as expected, 60 written cases", stickings.share_right(), 0.95, False),
        ("first rule between the limbs, 30 written grooves", limb_rules.share_right(), 0.90, False),
        ("rudiments named, 60 written rows", rudiment_rows.share_right(), 0.95, False),
        (
            "order of 40 graded patterns, rank correlation",
            levels.spearman(levels.CALIBRATION),
            0.90,
            False,
        ),
        ("the same, 20 kept apart", levels.spearman(levels.APART), 0.80, False),
        ("30 bars arranged as expected, all playable", arrangings.share_right(), 0.90, False),
        ("bass notes of four mixes, F", bass_notes, None, False),
        ("pitch classes of those found", bass_pitches, None, False),
        ("swing ratio, error, true times", given["swing error"], 0.02, True),
        ("swing ratio, error, from sound", sound["swing error"], 0.03, True),
        ("straight songs called swung, true times", given["straight called swung"], 0.0, True),
        ("straight songs called swung, from sound", sound["straight called swung"], 0.0, True),
        ("placement of the snare, ms, true times", given["snare placement, ms"], 3.0, True),
        ("placement of the snare, ms, from sound", sound["snare placement, ms"], 5.0, True),
        ("echo check: false alarms on 20 grooves with ghosts", float(alarms), 0.0, True),
        ("echo check: delays found of 20", found / 20, 0.90, False),
    )
    lines = ["## What the strokes mean\n", "| | asked for | reached | |", "|---|---|---|---|"]
    for what, value, goal, is_less in asked:
        if goal is None:
            lines.append(f"| {what} | – | {value:.2f} | |")
            continue
        met = value <= goal + 1e-9 if is_less else round(value, 2) >= goal
        lines.append(f"| {what} | {goal:g} | {value:.2f} | {'' if met else 'short'} |")
    lines += [
        "",
        f"Echo check on 150 of each, another seed: {many_alarms} false alarms, {many} found.",
        searching(),
        "Limbs: a busy song of 160 bars in {:.2f} s, one bar of it in {:.1f} ms.".format(
            *(lambda whole, bar: (whole, 1000 * bar))(*stickings.seconds())
        ),
        "",
        "### What the strokes mean, from sound, song by song\n",
        *songs,
        "",
        "### The review, answered by a simulated user\n",
        *by_song,
        "",
    ]
    return lines


def heard_scores(paths: Iterable[Path]) -> dict[str, Score]:
    """The bench songs heard and read anew, by name; for `python -m bench.meaning`."""
    from orchesis.hearing import listen
    from orchesis.transcribing import transcribe

    return {p.stem: transcribe(listen(p), title=p.stem) for p in paths}


if __name__ == "__main__":
    from bench.songs import made

    print("\n".join(table(heard_scores(made()))))
