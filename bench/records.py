"""Hearing on real records: `python -m bench.records` prints the figures and keeps them in RECORDS.md.

The records come from Debian packages (``record_list.PACKAGES``), fetched into var/records and never shipped;
what can't be fetched is skipped with a word. `--tune` measures the pieces to tune by instead.
"""

from __future__ import annotations

import json
import subprocess
import sys
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path
from typing import Any

import numpy as np

from bench import beds, loops
from materials import naming, record_measures, songs
from materials.measures import mean
from materials.record_list import BEDS, LONGEST, PACKAGES, RECORDS, Record, side
from orchesis.errors import BadSound
from orchesis.hearing import listen_to, spectrum, take_in
from orchesis.hearing.types import Hit
from orchesis.transcribing import transcribe

FOLDER = Path(__file__).resolve().parent.parent / "var" / "records"
OUT = Path(__file__).parent / "RECORDS.md"
_EFFECTS = "hydrogen-drumkits-effects"
_ENDINGS = (".ogg", ".opus", ".mp3")
#: Bands of the spectrum in which kick, snare and hats are folded.
_FOLDED = {"kick": (0, 6), "snare": (14, 45), "hat_closed": (60, 84)}
Row = dict[str, Any]


def package(name: str) -> Path | None:
    """The unpacked files of a Debian package, fetched if they are not there; None if they can't be."""
    target = FOLDER / name
    if target.exists():
        return target
    FOLDER.mkdir(parents=True, exist_ok=True)
    try:
        subprocess.run(["apt-get", "download", name], cwd=FOLDER, check=True, capture_output=True)
        file = next(FOLDER.glob(f"{name}_*.deb"))
        part = FOLDER / f"{name}.part"
        subprocess.run(["dpkg", "-x", str(file), str(part)], check=True, capture_output=True)
        part.rename(target)
        file.unlink()
    except (OSError, subprocess.CalledProcessError, StopIteration):
        print(f"{name} can't be fetched here and is skipped.", file=sys.stderr)
        return None
    return target


def fetch() -> dict[str, Path]:
    """The records that are there: stem -> file."""
    folders = [f for f in map(package, PACKAGES) if f is not None]
    files = [p for f in folders for p in sorted(f.rglob("*")) if p.suffix in _ENDINGS]
    known = {r.stem for r in RECORDS}
    return {p.stem: p for p in files if p.stem in known}


def effects() -> Path | None:
    return package(_EFFECTS)


def shortened(path: Path) -> Path:
    """The first five minutes of a record as FLAC."""
    target = FOLDER / "short" / f"{path.stem.replace(' ', '-')}.flac"
    if not target.exists():
        target.parent.mkdir(exist_ok=True)
        command = ["ffmpeg", "-v", "error", "-y", "-t", str(LONGEST), "-i", str(path), str(target)]
        subprocess.run(command, check=True)
    return target


def of_record(job: tuple[Record, Path]) -> Row:
    record, path = job
    try:
        intake = take_in(shortened(path), FOLDER / f"taken-{path.stem.replace(' ', '-')}.flac")
        hearing = listen_to(intake)
    except BadSound:  # where no drums are, it may say so
        return {"silence": (0, sum(b - a for a, b in record.silent))} if record.silent else {}
    row: Row = {"sections": record_measures.sections_a_minute(hearing)}
    if record.bpm:
        row |= record_measures.on_click(record, hearing)
    if record.silent:
        row["silence"] = record_measures.in_silence(record.silent, hearing)
    if record.borders:
        row["borders"] = record_measures.borders(record, hearing)
    if record.folds:
        row["folded"] = _folded(
            spectrum.measure(intake.path, intake.duration), record, hearing.hits
        )
    intake.path.unlink()
    return row


def _folded(heard: spectrum.Spectrum, record: Record, strokes: Any) -> list[tuple[int, int]]:
    level = np.log1p(heard.bands * 20 / heard.bands.mean())
    rise = np.zeros_like(level)
    rise[2:] = np.maximum(level[2:] - level[:-2], 0)
    return [
        record_measures.folded(rise[:, a:b].mean(axis=1), record, strokes, part)
        for part, (a, b) in _FOLDED.items()
    ]


def of_bed(path: Path) -> Row:
    truth = json.loads(path.with_suffix(".truth.json").read_text())
    intake = take_in(path, path.with_suffix(".taken.flac"))
    hearing = listen_to(intake)
    row: Row = record_measures.on_bed(truth, hearing)
    true = [Hit(h["time"], h["part"], 0.7, 1.0) for h in truth["hits"]]
    bed = Record(
        path.stem,
        truth["tempo"]["bpm"],
        truth["beats"][0]["time"],
        folds=(true[0].time, true[-1].time),
    )
    row["folded"] = _folded(spectrum.measure(intake.path, intake.duration), bed, true)
    intake.path.unlink()
    named = naming.named(truth, transcribe(hearing))
    row["named"], row["answers"], row["sounds"] = (
        named.after,
        float(named.answers),
        float(named.sounds),
    )
    row["last bars, ms"] = record_measures.last_bars(truth, hearing)
    row["reliability"] = record_measures.reliability(truth, [*hearing.hits, *hearing.perhaps])
    return row


def of_song(path: Path) -> float:
    truth = json.loads((path.parent / f"{path.stem}.truth.json").read_text())
    intake = take_in(path, FOLDER / f"song-{path.stem}.flac")
    hearing = listen_to(intake)
    intake.path.unlink()
    return record_measures.last_bars(truth, hearing)


def shown(value: float) -> str:
    return "–" if np.isnan(value) else f"{value:.2f}"


def table(title: str, names: list[str], rows: list[Row], keys: tuple[str, ...]) -> list[str]:
    lines = [f"## {title}\n", "| | " + " | ".join(keys) + " |", "|" + "---|" * (len(keys) + 1)]
    for name, row in zip(names, rows, strict=True):
        if any(k in row for k in keys):
            lines.append(
                f"| {name} | " + " | ".join(shown(row.get(k, float("nan"))) for k in keys) + " |"
            )
    means = [mean([row.get(k, float("nan")) for row in rows]) for k in keys]
    return [*lines, "| **mean** | " + " | ".join(map(shown, means)) + " |", ""]


def main() -> None:
    which = "tune" if "--tune" in sys.argv else "bench"
    known = fetch()
    records = [r for r in RECORDS if side(r.stem) == which and r.stem in known]
    chosen = tuple(b for b in BEDS if side(b.stem) == which)
    paths = beds.made(chosen, beds.KITS[which], known, effects(), FOLDER / "beds")
    steady = [
        p
        for p in songs.made()
        if not any(s in p.stem for s in ("drifting", "rubato", "accelerando"))
    ]
    with ProcessPoolExecutor(2) as pool:
        of_records = list(pool.map(of_record, [(r, known[r.stem]) for r in records]))
        of_beds = list(pool.map(of_bed, paths))
        of_loops = list(pool.map(loops.measure, [p for p in steady if p.stem in loops.SONGS]))
        last = list(pool.map(of_song, steady))
    print("\n".join(lines := _told(which, records, of_records, paths, of_beds, of_loops, last)))
    if which == "bench":
        OUT.write_text("\n".join([_HEAD, *lines]) + "\n")


def _told(
    which: str,
    records: list[Record],
    rows: list[Row],
    paths: list[Path],
    of_beds: list[Row],
    of_loops: list[dict],
    last: list[float],
) -> list[str]:
    def of(rows: list[Row], key: str) -> float:
        return mean([r.get(key, float("nan")) for r in rows])

    def sums(key: str) -> tuple[float, float]:
        pairs = [r[key] for r in rows if key in r]
        return sum(a for a, _ in pairs), sum(b for _, b in pairs)

    quiet, seconds = sums("silence")
    found, plain = sums("borders")
    folds, floor = ([pair for r in own for pair in r.get("folded", ())] for own in (rows, of_beds))
    looped = loops.summary(of_loops)
    overall = [
        ("beats over whole click pieces", of(rows, "beats"), ".99"),
        ("beats in their drumless stretches", of(rows, "in silence"), ".97"),
        ("downbeats on real beds", of(of_beds, "downbeats"), ".95"),
        ("jumps of the 1, a click piece", of(rows, "jumps"), "0"),
        ("spurious meter changes, a piece", of(rows, "meters"), "< .1"),
        ("pieces to a click told as steady", of(rows, "steady"), ".95"),
        ("last four bars, largest error of a beat, ms (bench songs)", mean(last), "12"),
        ("loops: tempo exact", looped["tempo"], ".97"),
        ("loops: downbeats", looped["downbeats"], ".93"),
        (
            "strokes a minute written in drumless stretches of records",
            60 * quiet / max(seconds, 1),
            "< 2",
        ),
        ("and of beds", of(of_beds, "a minute in silence"), "< 2"),
        ("share of written strokes that are right, beds", of(of_beds, "right"), ".93"),
        ("at a recall of", of(of_beds, "recall"), ".85"),
        ("every part, beds", of(of_beds, "every part"), ""),
        (
            "every part, beds, after the three largest wrong sounds were named",
            of(of_beds, "named"),
            "+ .05",
        ),
        (
            "written strokes at folded places where the record has none",
            sum(a for a, _ in folds) / max(1, sum(b for _, b in folds)),
            "< .04",
        ),
        (
            "the same of the true strokes of the beds: what the measure itself gives",
            sum(a for a, _ in floor) / max(1, sum(b for _, b in floor)),
            "",
        ),
        ("sections a minute", of(rows, "sections"), "2.5"),
        (f"plain borders found within 3 s (of {plain:.0f})", found / max(plain, 1), ".9"),
    ]
    lines = ["## Asked for and reached\n", "| | asked for | reached |", "|---|---|---|"]
    lines += [f"| {name} | {asked} | {value:.3f} |" for name, value, asked in overall] + [""]
    lines += table(
        "Records to a click",
        [r.stem for r in records],
        rows,
        ("beats", "in silence", "jumps", "meters", "steady", "tempo", "sections"),
    )
    lines += table(
        "Real beds with known drums",
        [p.stem.removeprefix(f"bed-{which}-") for p in paths],
        of_beds,
        (
            "beats",
            "downbeats",
            "tempo",
            "right",
            "recall",
            "every part",
            "named",
            "answers",
            "sounds",
            "a minute in silence",
            "last bars, ms",
        ),
    )
    pairs = [pair for r in of_beds for pair in r["reliability"]]
    lines += [
        "## Is a stroke as sure as it says, on real beds?\n",
        "| confidence | strokes | right |",
        "|---|---|---|",
    ]
    for k in range(10):
        inside = [right for sure, right in pairs if k / 10 <= sure < (k + 1) / 10 + (k == 9)]
        if inside:
            lines.append(
                f"| {k / 10:.1f} to {(k + 1) / 10:.1f} | {len(inside)} | {np.mean(inside):.2f} |"
            )
    return [*lines, ""]


_HEAD = (Path(__file__).parent / "RECORDS_HEAD.md").read_text()

if __name__ == "__main__":
    main()
