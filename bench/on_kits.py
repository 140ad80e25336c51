"""The same songs on every kit that is not trained on: which kits the onset model hears worse than others.

Test kits: our own, ForzeeStereo and three more drum sets of fluid-soundfont-gm, which share their cymbals,
hats and cross-stick with our own and differ in kick, snare and toms; no third lineage is among the sources.
The two sampled TUNE kits chose thresholds: what stands in their rows is no figure on unseen kits.
"""

from __future__ import annotations

import json
import tempfile
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from multiprocessing import get_context
from pathlib import Path

from materials import measures, songs
from orchesis.hearing import listen_to, take_in

TESTED = ("", "ForzeeStereo", "fluid-power", "fluid-jazz", "fluid-brush")
TUNED = ("Millo_MultiLayered3", "Millo-Drums_v.1")
_SONGS = ("rock-ghosts", "dense-fills", "floor-tom-time", "bossa")
_KEYS = (
    "kick",
    "snare",
    "cymbals",
    "toms",
    "hat/ride/crash",
    "every part",
    "ghosts",
    "snare precision",
)
_SEED = 700


def _heard(path: Path) -> dict[str, float]:
    told = json.loads((path.parent / f"{path.stem}.truth.json").read_text())
    with tempfile.TemporaryDirectory() as folder:
        return measures.strokes(told, listen_to(take_in(path, Path(folder) / "sound.flac")))


def table(row: Callable[[list[object]], str]) -> list[str]:
    """Lines of the table. row: makes a line of it from its cells."""
    chosen = {s.name: s for s in songs.SONGS}
    lines = [
        f"## On each kit (means of {', '.join(_SONGS)})\n",
        row(["kit", *_KEYS]),
        "|" + "---|" * (len(_KEYS) + 1),
    ]
    # Begun anew: a process that is forked after its parent has heard something waits for ever.
    with ProcessPoolExecutor(2, mp_context=get_context("spawn")) as pool:
        for kit in (*TESTED, *TUNED):
            wanted = [
                (replace(chosen[n], name=f"{n}-on-{kit or 'our-own'}", kit=kit), _SEED + i)
                for i, n in enumerate(_SONGS)
            ]
            found = list(pool.map(_heard, songs.files(wanted)))
            name = (kit or "our own") + (" (tuned on)" if kit in TUNED else "")
            lines.append(row([name, *(measures.mean([f[k] for f in found]) for k in _KEYS)]))
    return [*lines, ""]
