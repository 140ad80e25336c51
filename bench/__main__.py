"""`make bench`: prints the figures as tables and rewrites bench/RESULTS.md.

Every figure is measured in this run. Speed is told as seconds of work for each minute of
sound, and as a ratio to decoding the same file, since machines differ.
"""

from __future__ import annotations

import json
import resource
import sys
import time
from pathlib import Path

import numpy as np

from bench import measures
from orchesis.hearing import listen
from orchesis.reading import read

ROOT = Path(__file__).resolve().parent.parent
DEMO = ROOT / "demo" / "songs"
OUT = Path(__file__).parent / "RESULTS.md"
HEAD = (Path(__file__).parent / "HEAD.md").read_text()


def row(cells: list[object]) -> str:
    shown = [
        ("–" if np.isnan(c) else f"{c:.2f}") if isinstance(c, float) else str(c) for c in cells
    ]
    return "| " + " | ".join(shown) + " |"


def table(names: list[str], figures: dict[str, dict[str, float]], keys: list[str]) -> list[str]:
    lines = [row(["song", *keys]), "|" + "---|" * (len(keys) + 1)]
    lines += [row([name, *(figures[name][k] for k in keys)]) for name in names]
    means = [measures._mean([figures[n][k] for n in names]) for k in keys]
    return [*lines, row(["**mean**", *means]), ""]


def measure(path: Path) -> dict[str, float]:
    truth = json.loads((path.parent / f"{path.stem}.truth.json").read_text())
    marks: dict[str, float] = {}
    start = time.perf_counter()
    hearing = listen(
        path, report=lambda step, _: marks.setdefault(step, time.perf_counter()) and None
    )
    took = time.perf_counter() - start
    decoding = max(marks["spectrum"] - start, 1e-3)
    score = read(hearing)
    return {
        **measures.strokes(truth, hearing),
        **measures.time(truth, hearing, score),
        **measures.form(truth, hearing),
        "s a minute": took / (hearing.duration / 60),
        "of decoding": took / decoding,
    }


def main() -> None:
    paths = sorted(DEMO.glob("*.ogg"))
    demo = [p.stem for p in paths]
    if "--demo" not in sys.argv:
        from bench import songs

        paths += songs.made()
    figures = {}
    for path in paths:
        figures[path.stem] = measure(path)
        print(path.stem, f"every part {figures[path.stem]['every part']:.2f}", flush=True)
    keys = list(next(iter(figures.values())))
    stroke_keys, rest = keys[:12], keys[12:]
    lines = [HEAD]
    groups = {"Demo songs": demo, "Bench songs": [n for n in figures if n not in demo]}
    for title, names in groups.items():
        if names:
            lines += [f"## {title}: strokes\n", *table(names, figures, stroke_keys)]
            lines += [
                f"## {title}: time and form, and what it cost\n",
                *table(names, figures, rest),
            ]
    worst = sorted(figures, key=lambda n: figures[n]["every part"])[:5]
    lines.append("Worst five by every part: " + ", ".join(worst) + ".\n")
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    lines.append(f"Peak memory of the process over all songs: {peak:.0f} MB.")
    OUT.write_text("\n".join(lines) + "\n")
    print(OUT.read_text())


if __name__ == "__main__":
    main()
