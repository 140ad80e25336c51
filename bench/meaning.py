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
from fractions import Fraction
from pathlib import Path

import numpy as np

from bench import basses, reviewing
from materials import made_up_songs
from materials.cases import (
    across,
    arrangings,
    echoes,
    levels,
    limb_rules,
    pairs,
    reuses,
    rudiment_rows,
    stickings,
)
from materials.cases import figures as written_figures
from materials.cases import fills as written_fills
from materials.cases import sections as written_sections
from materials.songs import OUT, SONGS, Song, text_of
from orchesis import feel, fills, grooves, search
from orchesis.formats import count
from orchesis.score import Score, Stroke


def true_strokes(seeds: Sequence[int] = tuple(range(400, 440))) -> dict[str, float]:
    """Shares right of what is read from true strokes of the made-up scores."""
    exact: list[bool] = []
    off: list[float] = []
    hit = told = true = 0
    ratio: list[float] = []
    wrongly = straight = 0
    late: list[float] = []
    for seed in seeds:
        made = made_up_songs.made_up(seed)
        read = grooves.grooves(made.score)
        for section in made.score.sections:
            own = [g for g in read if g.section == section.id]
            size = 4
            wanted = made_up_songs.unit_of_length(
                made.core[section.id], made.length[section.id], size
            )
            g = max(own, key=lambda g: g.bars)
            exact.append(
                len(own) == 1
                and made_up_songs.unit_of_length(made_up_songs.core_of(g), g.length, size) == wanted
            )
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
    songs = [made_up_songs.made_up(s).score for s in range(60, 72)]
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
    from materials.songs import made

    print("\n".join(table(heard_scores(made()))))
