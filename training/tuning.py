"""Renders the songs on which the thresholds of the first engine were chosen.

    python -m training.tuning    needs Debian's fluidsynth and timgm6mb-soundfont

Another sound bank, other patterns and other tempi than the demo songs, which only test.
Written to var/tuning as FLAC and truth JSON: each song once mixed, once drums only.
"""

from __future__ import annotations

import json
from pathlib import Path

import mido
import numpy as np
import soundfile as sf

from demo import band, kit
from demo.make import Player, played, truth, wandering
from orchesis.formats import count
from orchesis.score import KIT, Score

SONGS = Path(__file__).parent / "songs"
OUT = Path(__file__).parent.parent / "var" / "tuning"
BANK = "/usr/share/sounds/sf2/TimGM6mb.sf2"


def drums(score: Score) -> mido.MidiFile:
    """The strokes at their measured times as MIDI, one tick a millisecond."""
    song = mido.MidiFile(ticks_per_beat=1000)
    track = mido.MidiTrack([mido.MetaMessage("set_tempo", tempo=1_000_000)])
    song.tracks.append(track)
    now = 0
    for s in sorted(score.strokes.values(), key=lambda s: s.time or 0):
        at = round((s.time or 0) * 1000)
        track.append(
            mido.Message("note_on", channel=9, note=KIT[s.part].midi, time=at - now,
                         velocity=max(1, round(s.loudness * 127)))
        )  # fmt: skip
        now = at
    return song


def main() -> None:
    OUT.mkdir(parents=True, exist_ok=True)
    kit.SOUND_BANK = BANK
    for n, source in enumerate(sorted(SONGS.glob("*.count"))):
        rng = np.random.default_rng(100 + n)
        player = Player(seed=n, lead_in=0.8, drift=0.01 * n, snare_late=4.0)
        score = count.read(source.read_text())
        band.HARMONY[score.title] = {
            s.name: [band._minor(45 + 5 * (i % 3)), band._major(48 + 2 * i)]
            for i, s in enumerate(score.sections)
        }
        score = Score(**{**score.__dict__, "pulse": wandering(score.pulse, player, rng)})
        score = score.with_strokes([played(s, score, player, rng) for s in score.strokes.values()])
        alone = kit.fluidsynth(drums(score))
        rest = kit.fluidsynth(band.midi(score, score.pulse.seconds, rng))
        n_all = min(len(alone), len(rest))
        for name, mix in (
            ("drums", alone[:n_all]),
            ("mixed", alone[:n_all] + rest[:n_all] * alone.std() / rest.std()),
        ):
            stem = f"{source.stem}-{name}"
            sf.write(OUT / f"{stem}.flac", mix / np.abs(mix).max() * 0.9, 44100)
            (OUT / f"{stem}.truth.json").write_text(json.dumps(truth(score, n_all / 44100)))


if __name__ == "__main__":
    main()
