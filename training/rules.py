"""Measures the rules behind the networks: strokes, pulse and form from what the networks heard once.

    python -m training.rules keep   lets the networks hear all material (half an hour) into var/training/heard
    python -m training.rules        figures of the rules as they stand, a row for each kind of material

Tuning: made-up songs on the TUNE kits (seeds of their own), beds and records of the TUNE side. Figures:
bench songs, beds and records of the BENCH side, on which no rule is chosen.
"""

from __future__ import annotations

import json
import multiprocessing as mp
import pickle
import sys
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

import numpy as np

from bench import beds, records
from materials import kits, mix, record_measures, songs
from materials.measures import CRASHES, CYMBALS, NAN, SNARES, f_measure, form, mean, pairs, strokes
from materials.record_list import BEDS, RECORDS, Record, side
from orchesis.errors import BadSound
from orchesis.hearing import Hearing, engine, network, spectrum, take_in
from training.tune import heard

FOLDER = Path(__file__).resolve().parent.parent / "var" / "training" / "heard"
#: Made-up songs: seed, kits, how rough.
MADE_UP = (
    *((3_100_000 + n, kits.TUNE_SAMPLED, 0.4) for n in range(28)),
    *((3_100_100 + n, kits.TUNE, 0.6) for n in range(16)),
)
_SECONDS = 75.0
SETS = ("made", "bed-tune", "record-tune", "song", "bed-bench", "record-bench")
TUNING = SETS[:3]


@dataclass
class Heard:
    """What the networks heard of one piece, and what is known of it.

    truth: hits, beats (and more, as demo/make.py writes it), None of a record. hidden: class -> seconds
    of strokes that can't be made out, which count neither way.
    """

    name: str
    measured: spectrum.Spectrum
    activity: network.Activity
    duration: float
    truth: dict[str, Any] | None = None
    hidden: dict[str, list[float]] = field(default_factory=dict)
    record: Record | None = None


def _made(job: tuple[int, tuple[str, ...], float]) -> Heard:
    seed, names, rough = job
    made, seen, activity = heard(seed, _SECONDS, names, rough=rough)
    song = made.song
    audible = [s for s in made.strokes if s.share >= mix.AUDIBLE]
    hidden: dict[str, list[float]] = {}
    for s in made.strokes:
        if s.share < mix.AUDIBLE:
            hidden.setdefault(s.name, []).append(s.event.time)
    for time, name in made.graces:
        hidden.setdefault(name, []).append(time)
    hits = [
        {
            "time": s.event.time,
            "part": "tom_mid" if s.name == "tom" else s.name,
            "loudness": s.event.loudness,
            "ghost": s.name == "snare" and s.event.loudness < 0.4,
        }
        for s in audible
    ]
    beats = [
        {"time": float(t), "beat": int(n) + 1}
        for t, n in zip(song.beats, song.numbers, strict=True)
        if t < _SECONDS
    ]
    letters = {"bars": [float(song.beats[k]) for k in song.bars], "letters": song.letters}
    truth = {"hits": hits, "beats": beats, "style": song.style} | letters
    return Heard(f"made-{seed}", seen, activity, _SECONDS, truth, hidden)


def _taken(name: str, path: Path) -> Heard:
    FOLDER.mkdir(parents=True, exist_ok=True)
    intake = take_in(path, FOLDER / f"{name}.flac")
    seen = spectrum.measure(intake.path, intake.duration)
    activity = network.hear(seen)
    intake.path.unlink()
    return Heard(name, seen, activity, intake.duration)


def _of_file(job: tuple[str, Path]) -> Heard:
    name, path = job
    truth = json.loads((path.parent / f"{path.stem}.truth.json").read_text())
    return replace(_taken(name, path), truth=truth)


def _of_record(job: tuple[str, Record, Path]) -> Heard:
    name, record, path = job
    return replace(_taken(name, records.shortened(path)), record=record)


def _keep(job: tuple[str, Callable[[Any], Heard], Any]) -> None:
    kind, hear, what = job
    name = f"{kind}-{what[0]}"
    path = FOLDER / f"{name.replace(' ', '_')}.pickle"
    if not path.exists():
        piece = replace(hear(what), name=name)
        part = path.with_suffix(".part")
        part.write_bytes(pickle.dumps(piece, protocol=5))
        part.rename(path)
        print(name, flush=True)


def keep() -> None:
    known, effects = records.fetch(), records.effects()
    jobs: list[tuple[str, Callable[[Any], Heard], Any]] = [("made", _made, j) for j in MADE_UP]
    for which in ("tune", "bench"):
        chosen = tuple(b for b in BEDS if side(b.stem) == which)
        files = beds.made(chosen, beds.KITS[which], known, effects, records.FOLDER / "beds")
        jobs += [(f"bed-{which}", _of_file, (p.stem, p)) for p in files]
        jobs += [
            (f"record-{which}", _of_record, (r.stem, r, known[r.stem]))
            for r in RECORDS
            if side(r.stem) == which and r.stem in known
        ]
    jobs += [("song", _of_file, (p.stem, p)) for p in songs.made()]
    FOLDER.mkdir(parents=True, exist_ok=True)
    with mp.Pool(2) as pool:
        pool.map(_keep, jobs, chunksize=1)


def pieces(kind: str) -> list[Path]:
    return sorted(FOLDER.glob(f"{kind}-*.pickle"))


def load(path: Path) -> Heard:
    piece: Heard = pickle.loads(path.read_bytes())
    return piece


def hearing_of(piece: Heard) -> Hearing | None:
    """What the rules make of it; None where they find no drums or no pulse."""
    try:
        return engine.heard(piece.measured, piece.activity, piece.duration)
    except BadSound:
        return None


def visible(piece: Heard, hearing: Hearing) -> Hearing:
    """Without strokes where one is that can't be made out: they count neither way."""
    kept = []
    truth = piece.truth or {"hits": []}
    for h in hearing.hits:
        name = network.heard_class(h.part)
        hidden = np.array(piece.hidden.get(name, []))
        true = np.array(
            [t["time"] for t in truth["hits"] if network.heard_class(t["part"]) == name]
        )
        is_hidden = len(hidden) and np.abs(hidden - h.time).min() < 0.03
        if is_hidden and not (len(true) and np.abs(true - h.time).min() < 0.05):
            continue
        kept.append(h)
    return replace(hearing, hits=tuple(kept))


def precision_recall(
    truth: dict[str, Any], hearing: Hearing, parts: tuple[str, ...]
) -> tuple[float, float]:
    true = [h for h in truth["hits"] if h["part"] in parts]
    found = [h for h in hearing.hits if h.part in parts]
    right = len(pairs(true, found))
    return (right / len(found) if found else NAN, right / len(true) if true else NAN)


def figures(path: Path) -> dict[str, float]:
    """All that can be measured of one piece."""
    piece = load(path)
    hearing = hearing_of(piece)
    out: dict[str, float] = {}
    if hearing is None:
        return {"refused": 1.0}
    if piece.truth is not None:
        seen, truth = visible(piece, hearing), piece.truth
        if piece.name.startswith("made"):  # whose toms have no pitch of their own
            seen = replace(
                seen,
                hits=tuple(
                    replace(h, part="tom_mid") if h.part.startswith("tom") else h for h in seen.hits
                ),
            )
        out |= strokes(truth, seen)
        out["snare P"], out["snare R"] = precision_recall(truth, seen, SNARES)
        out["cym P"], out["cym R"] = precision_recall(truth, seen, (*CYMBALS, "hat_foot"))
        out["crash P"], out["crash R"] = precision_recall(truth, seen, CRASHES)
        out["open P"], out["open R"] = precision_recall(truth, seen, ("hat_open", "hat_half"))
        beats = [b["time"] for b in truth["beats"]]
        ones = [b["time"] for b in truth["beats"] if b["beat"] == 1]
        last = ones[-1] + 0.5
        heard_beats = [b.time for b in hearing.beats if b.time < last + 2]
        out["beats"] = f_measure(beats, heard_beats, 0.07)
        out["downbeats"] = f_measure(
            ones, [b.time for b in hearing.beats if b.beat == 1 and b.time < last], 0.07
        )
        period = float(np.median(np.diff(beats)))
        out["octave"] = float(abs(hearing.tempo.bpm * period / 60 - 1) < 0.04)
        if "silent" in truth:
            alone, seconds = record_measures.in_silence(truth["silent"], hearing)
            out["a minute in silence"] = alone / (seconds / 60)
    if piece.record is not None:
        record = piece.record
        out["sections"] = record_measures.sections_a_minute(hearing)
        if record.bpm:
            got = record_measures.on_click(record, hearing)
            out |= {k: got[k] for k in ("beats", "jumps", "meters")}
            ratio = hearing.tempo.bpm / record.bpm
            out["octave*"] = round(float(ratio), 3)
        if record.silent:
            alone, seconds = record_measures.in_silence(record.silent, hearing)
            out["a minute in silence"] = alone / (seconds / 60)
        if record.borders:
            met, all_ = record_measures.borders(record, hearing)
            out["borders"] = met / all_
    elif piece.truth is not None and "sections" in piece.truth:
        got = form(piece.truth, hearing)
        out["borders"], out["labels"] = got["borders"], got["labels"]
    return out


KEYS = (
    "every part",
    "kick",
    "snare",
    "snare P",
    "cym P",
    "cym R",
    "crash P",
    "crash R",
    "open P",
    "open R",
    "toms",
    "ghosts",
    "open/closed",
    "rho snare",
    "rho hat",
    "rho kick",
    "beats",
    "downbeats",
    "octave",
    "jumps",
    "a minute in silence",
    "borders",
    "sections",
    "refused",
)


def table(kinds: tuple[str, ...] = SETS, *, each: bool = False) -> dict[str, list[dict]]:
    """Prints the means of each kind of material; with each, a row for every piece."""
    results: dict[str, list[dict]] = {}
    with mp.Pool(2) as pool:
        for kind in kinds:
            paths = pieces(kind)
            results[kind] = rows = pool.map(figures, paths, chunksize=1)
            means = {k: mean([r.get(k, NAN) for r in rows]) for k in KEYS}
            print(
                f"{kind:13s}",
                " ".join(f"{k} {v:.3f}" for k, v in means.items() if not np.isnan(v)),
                flush=True,
            )
            if each:
                for path, row in zip(paths, rows, strict=True):
                    told = " ".join(f"{k} {v:.2f}" for k, v in row.items() if not np.isnan(v))
                    print("   ", path.stem, told)
    return results


def main() -> None:
    if sys.argv[-1] == "keep":
        keep()
    else:
        chosen = tuple(a for a in sys.argv[1:] if a in SETS) or SETS
        table(chosen, each="each" in sys.argv)


if __name__ == "__main__":
    from training import rules  # what is kept is a class of this module, not of "__main__"

    rules.main()
