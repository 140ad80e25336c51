"""`make bench`: prints the figures as tables and rewrites bench/RESULTS.md.

Every figure is measured in this run. Speed is told as seconds of work for each minute of
sound, as a share of the song's length, and as a ratio to decoding the same file, since
machines differ. `python -m bench --demo` hears the demo songs only and writes nothing.
"""

from __future__ import annotations

import itertools
import json
import os
import resource
import subprocess
import sys
import tempfile
import time
import warnings
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

# Compiled anew for each run: two processes that fill numba's shared cache at once spoil it, and
# a spoilt cache crashes every run after.
os.environ.setdefault("NUMBA_CACHE_DIR", tempfile.mkdtemp(prefix="orchesis-numba-"))

import librosa
import numpy as np
import soundfile as sf

from bench import (
    corrections,
    desk,
    load,
    meaning,
    on_kits,
    pages,
    planning,
    practice,
    practice_takes,
    summary,
)
from materials import measures, songs
from orchesis.hearing import Hearing, listen_to, take_in
from orchesis.score import Score
from orchesis.transcribing import transcribe

ROOT = Path(__file__).resolve().parent.parent
DEMO = ROOT / "demo" / "songs"
OUT = Path(__file__).parent / "RESULTS.md"
HEAD = (Path(__file__).parent / "HEAD.md").read_text()
STROKES = (
    "kick",
    "snare",
    "cymbals",
    "toms",
    "hat/ride/crash",
    "every part",
    "ghosts",
    "snare precision",
    "open/closed",
    "rho snare",
    "rho hat",
    "rho kick",
)
TIME = (
    "beats",
    "downbeats",
    "tempo",
    "tempo or rival",
    "meter",
    "changes",
    "swing error",
    "snare ms",
    "borders",
    "labels",
    "odd phrases",
)
PLAIN = ("onsets", "plain onsets", "beats", "plain beats", "tempo", "plain tempo")
DRUMS = ("SI-SDR", "plain SI-SDR", "above plain")
COST = ("s a minute", "% of length", "% with drums", "of decoding")
Figures = dict[str, dict[str, float]]


def row(cells: list[object]) -> str:
    shown = [
        ("–" if np.isnan(c) else f"{c:.2f}") if isinstance(c, float) else str(c) for c in cells
    ]
    return "| " + " | ".join(shown) + " |"


def table(title: str, names: list[str], figures: Figures, keys: tuple[str, ...]) -> list[str]:
    lines = [f"## {title}\n", row(["song", *keys]), "|" + "---|" * (len(keys) + 1)]
    lines += [row([name, *(figures[name][k] for k in keys)]) for name in names]
    other = {s.name for s in songs.SONGS if s.kit}
    for label, kept in (
        ("mean", names),
        ("mean, our kit", [n for n in names if n not in other]),
        ("mean, ForzeeStereo", [n for n in names if n in other]),
    ):
        if label == "mean" or (kept and len(kept) < len(names)):
            means = [measures.mean([figures[n][k] for n in kept]) for k in keys]
            lines.append(row([f"**{label}**", *means]))
    return [*lines, ""]


def plain(path: Path, truth: dict) -> dict[str, float]:
    """What ready-made signal processing hears: librosa's onsets and beats."""
    sound, rate = librosa.load(path, sr=44100, mono=True)
    onsets = librosa.onset.onset_detect(y=sound, sr=rate, units="time")
    bpm, beats = librosa.beat.beat_track(y=sound, sr=rate, units="time")
    struck = measures._single([h["time"] for h in truth["hits"]])
    return {
        "plain onsets": measures.f_measure(struck, list(onsets), 0.05),
        "plain beats": measures.f_measure([b["time"] for b in truth["beats"]], list(beats), 0.07),
        "plain tempo": float(abs(float(np.ravel(bpm)[0]) / truth["tempo"]["bpm"] - 1) < 0.02),
    }


def forward(path: Path, drums: Path) -> dict[str, float]:
    """How clean the drums come out, against plain harmonic/percussive splitting."""
    stem = path.parent / f"{path.stem}.drums.flac"
    if not stem.exists() or "drums-only" in path.stem:
        return dict.fromkeys(DRUMS, measures.NAN)
    true, _ = sf.read(stem, dtype="float32")
    ours = sf.read(drums, dtype="float32", always_2d=True)[0].mean(axis=1)
    mix, _ = librosa.load(path, sr=44100, mono=True)
    split = librosa.effects.percussive(mix)
    n = min(len(true), len(ours), len(split))
    a, b = (measures.si_sdr(true[:n], x[:n]) for x in (ours, split))
    return {"SI-SDR": a, "plain SI-SDR": b, "above plain": a - b}


def heard(path: Path, folder: Path) -> tuple[Hearing, Hearing, dict[str, float]]:
    """The hearing, the same without the second pass, and what it cost."""
    moments: dict[str, float] = {}
    start = time.perf_counter()
    intake = take_in(path, folder / "sound.flac")
    decoded = time.perf_counter()

    def mark(step: str, _share: float) -> None:
        moments.setdefault(step, time.perf_counter())

    hearing = listen_to(intake, drums=folder / "drums.flac", report=mark)
    end = time.perf_counter()
    alone = listen_to(intake, repetition=False)
    took = moments["drums"] - start
    return (
        hearing,
        alone,
        {
            "s a minute": took / (hearing.duration / 60),
            "% of length": 100 * took / hearing.duration,
            "% with drums": 100 * (end - start) / hearing.duration,
            "of decoding": took / max(decoded - start, 1e-3),
        },
    )


def measure(path: Path) -> tuple[dict[str, float], Score, dict[str, float], list, dict]:
    """Figures of a song; its score; strokes without the second pass; confidences; ornaments."""
    truth = json.loads((path.parent / f"{path.stem}.truth.json").read_text())
    with tempfile.TemporaryDirectory() as folder:
        hearing, alone, cost = heard(path, Path(folder))
        separated = forward(path, Path(folder) / "drums.flac")
    figures = {
        **measures.strokes(truth, hearing),
        **measures.time(truth, hearing, transcribe(hearing)),
        **measures.form(truth, hearing),
        **plain(path, truth),
        **separated,
        **cost,
    }
    return (
        figures,
        transcribe(hearing, title=path.stem),
        measures.strokes(truth, alone),
        measures.reliability(truth, hearing),
        measures.ornaments(truth, hearing),
    )


def alone_on_the_machine(paths: list[Path]) -> dict[str, float]:
    """What hearing costs on both cores, one song at a time: per cent of the length (median)."""
    shares: dict[str, list[float]] = {"hearing": [], "hearing with drums": []}
    for path in paths:
        with tempfile.TemporaryDirectory() as folder:
            start = time.perf_counter()
            intake = take_in(path, Path(folder) / "sound.flac")
            moments: dict[str, float] = {}

            def mark(step: str, _share: float, seen: dict[str, float] = moments) -> None:
                seen.setdefault(step, time.perf_counter())

            hearing = listen_to(intake, drums=Path(folder) / "drums.flac", report=mark)
            end = time.perf_counter()
        shares["hearing"].append(100 * (moments["drums"] - start) / hearing.duration)
        shares["hearing with drums"].append(100 * (end - start) / hearing.duration)
    return {k: float(np.median(v)) for k, v in shares.items()}


def reliability(pairs: list[tuple[float, bool]]) -> list[str]:
    lines = [
        "## Is a stroke as sure as it says?\n",
        "| confidence | strokes | right |",
        "|---|---|---|",
    ]
    edges = [0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 0.95, 1.001]
    for a, b in itertools.pairwise(edges):
        inside = [right for sure, right in pairs if a <= sure < b]
        if inside:
            shown = f"{a:.2f} to {min(b, 1):.2f}"
            lines.append(row([shown, len(inside), float(np.mean(inside))]))
    return [*lines, ""]


def second_pass(names: list[str], figures: Figures, alone: Figures) -> list[str]:
    lines = [
        "## What the second pass changes (means over the bench songs)\n",
        row(["", *STROKES]),
        "|" + "---|" * (len(STROKES) + 1),
    ]
    for label, table_ in (("without", alone), ("with", figures)):
        lines.append(row([label, *(measures.mean([table_[n][k] for n in names]) for k in STROKES)]))
    return [*lines, ""]


def ornaments(counts: list[dict]) -> list[str]:
    lines = ["## Ornaments\n", "| ornament | played | told | told rightly |", "|---|---|---|---|"]
    for name in ("flam", "drag", "buzz"):
        lines.append(row([name, *(sum(c[name][k] for c in counts) for k in range(3))]))
    return [*lines, ""]


def memory(paths: list[Path]) -> str:
    """Peak memory of a process of its own that hears twenty minutes."""
    with tempfile.TemporaryDirectory() as folder:
        long = Path(folder) / "long.flac"
        with sf.SoundFile(long, "w", 44100, 2) as out:
            written = 0
            while written < 1195 * 44100:
                for path in paths:
                    sound, _ = sf.read(path, dtype="float32", always_2d=True)
                    sound = np.broadcast_to(sound, (len(sound), 2))[: 1195 * 44100 - written]
                    out.write(sound)
                    written += len(sound)
        code = (
            "import re, time; from orchesis.hearing import listen; t = time.time();"
            f"listen({str(long)!r}, drums={str(Path(folder) / 'd.flac')!r}); took = time.time() - t;"
            # Not getrusage: its peak goes on from the process that started this one.
            "peak = re.search(r'VmHWM:\\s+(\\d+)', open('/proc/self/status').read())[1];"
            "print(int(peak) / 1024, took)"
        )
        out = subprocess.run(
            [sys.executable, "-c", code], check=True, capture_output=True, text=True
        )
        peak, took = map(float, out.stdout.split())
    return f"A file of 19:55, drums brought forward: {peak:.0f} MB at the peak, {took:.0f} s."


def warm_up() -> None:
    """Lets librosa compile once, before two songs at a time do."""
    noise = np.random.default_rng(0).normal(0, 0.1, 4 * 22050).astype(np.float32)
    librosa.onset.onset_detect(y=noise, sr=22050)
    librosa.beat.beat_track(y=noise, sr=22050)


def main() -> None:
    warnings.simplefilter("ignore")
    warm_up()
    paths = sorted(DEMO.glob("*.ogg"))
    demo = [p.stem for p in paths]
    if "--demo" not in sys.argv:
        paths += songs.made()
    only = [a for a in sys.argv[1:] if not a.startswith("-")]
    paths = [p for p in paths if not only or p.stem in only]
    figures: Figures = {}
    alone: Figures = {}
    scores: dict[str, Score] = {}
    sure: list[tuple[float, bool]] = []
    graced: list[dict] = []
    with ProcessPoolExecutor(2) as pool:  # two songs at a time
        for path, (found, score, plain_pass, pairs, graces) in zip(
            paths, pool.map(measure, paths), strict=True
        ):
            name = path.stem
            figures[name], alone[name], scores[name] = found, plain_pass, score
            if name not in demo:
                sure += pairs
                graced.append(graces)
            shown = (
                "kick",
                "snare",
                "cymbals",
                "every part",
                "ghosts",
                "beats",
                "downbeats",
                "tempo",
            )
            print(f"{name:22s}", " ".join(f"{k} {found[k]:.2f}" for k in shown), flush=True)
    bench = [n for n in figures if n not in demo]
    lines = [HEAD]
    if bench:
        cost = alone_on_the_machine([p for p in paths if p.stem in bench][:8])
        kits = {s.name: s.kit or "our own kit" for s in songs.SONGS}
        lines += summary.table({n: figures[n] for n in bench}, kits, cost)
    for title, names in (("Demo songs", [n for n in figures if n in demo]), ("Bench songs", bench)):
        if names:
            lines += table(f"{title}: strokes", names, figures, STROKES)
            lines += table(f"{title}: time and form", names, figures, TIME)
    lines += table(
        "Against ready-made signal processing (librosa)", bench or list(figures), figures, PLAIN
    )
    lines += table(
        "Drums forward, dB",
        [n for n in bench if not np.isnan(figures[n]["SI-SDR"])] or bench,
        figures,
        DRUMS,
    )
    lines += table("What it cost", bench or list(figures), figures, COST)
    lines += reliability(sure) + ornaments(graced) + second_pass(bench, figures, alone)
    if not only and bench:
        lines += on_kits.table(row)
        steady = (
            "rock-ghosts",
            "broken-funk",
            "three-three-two",
            "waltz",
            "five",
            "drifting",
            "slow-62",
            "drums-only",
            "bossa",
            "seven-bar-bridge",
        )
        lines += corrections.run([p for p in paths if p.stem in steady])
        lines += summary.rereading(corrections.score_of(paths[-1]))
        lines += meaning.table(scores)
        lines += desk.table()
        lines += pages.table()
        lines += practice.table()
        lines += practice_takes.table()
        lines += planning.table()
        lines += load.table()
    worst = sorted(figures, key=lambda n: figures[n]["every part"])[:5]
    lines.append("Worst five by every part: " + ", ".join(worst) + ".\n")
    if not only:
        lines.append(memory(paths[:8]))
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    lines.append(f"Peak memory of the bench over all songs: {peak:.0f} MB.")
    print("\n".join(lines[1:]))
    if not only and "--demo" not in sys.argv:
        OUT.write_text("\n".join(lines) + "\n")


if __name__ == "__main__":
    main()
