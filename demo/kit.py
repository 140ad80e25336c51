"""Renders the one-shots of our own kit from a General MIDI sound bank (once, by hand).

    python -m demo.kit      needs Debian's fluidsynth and fluid-soundfont-gm (MIT)

Every one-shot is cut to its physical onset: sampled drums have silent lead-ins of up to
42 ms, which would make each written stroke sound late.
"""

from __future__ import annotations

import json
import subprocess
import tempfile
from pathlib import Path

import mido
import numpy as np
import soundfile as sf

from orchesis.score.kit import KIT

SOUND_BANK = "/usr/share/sounds/sf2/FluidR3_GM.sf2"
OUT = Path(__file__).parent.parent / "orchesis" / "sounding" / "kit"
RATE = 44100
VELOCITIES = (40, 80, 112, 127)
LAYERED = {
    "kick",
    "snare",
    "hat_closed",
    "hat_open",
    "ride",
    "tom_high",
    "tom_mid",
    "tom_low",
    "tom_floor",
    "cross_stick",
}
LONGEST = {"crash": 3.0, "crash_2": 3.0, "china": 2.0, "ride": 2.0, "ride_bell": 1.8}


def fluidsynth(midi: mido.MidiFile, gain: float = 0.6) -> np.ndarray:
    """A MIDI file as stereo sound, shape (samples, 2), dry."""
    with tempfile.TemporaryDirectory() as folder:
        song, wav = Path(folder, "a.mid"), Path(folder, "a.wav")
        midi.save(song)
        subprocess.run(
            [
                "fluidsynth",
                "-ni",
                "-g",
                str(gain),
                "-r",
                str(RATE),
                "-R",
                "0",
                "-C",
                "0",
                "-F",
                str(wav),
                SOUND_BANK,
                str(song),
            ],
            check=True,
            capture_output=True,
        )
        return sf.read(wav, always_2d=True)[0]


def one_shot(key: int, velocity: int, seconds: float) -> np.ndarray:
    midi = mido.MidiFile(ticks_per_beat=480)
    track = mido.MidiTrack()
    midi.tracks.append(track)
    track.append(mido.Message("note_on", channel=9, note=key, velocity=velocity, time=480))
    track.append(mido.Message("note_off", channel=9, note=key, time=int(960 * seconds)))
    sound = fluidsynth(midi).mean(axis=1)
    loud = np.abs(sound)
    start = int(np.argmax(loud > 0.02 * loud.max()))
    sound = sound[max(start - 16, 0) : start + int(seconds * RATE)]
    tail = np.flatnonzero(np.abs(sound) > 0.001 * np.abs(sound).max())[-1] + 1
    sound = sound[:tail].copy()
    fade = min(800, len(sound))
    sound[-fade:] *= np.linspace(1, 0, fade)
    return sound


def main() -> None:
    OUT.mkdir(exist_ok=True)
    table: dict[str, list[dict[str, object]]] = {}
    for name in sorted({p.sample for p in KIT.values()}):
        velocities = VELOCITIES if name in LAYERED else (100,)
        shots = {v: one_shot(KIT[name].midi, v, LONGEST.get(name, 1.2)) for v in velocities}
        peak = max(np.abs(s).max() for s in shots.values())
        table[name] = []
        for velocity, sound in shots.items():
            file = f"{name}-{velocity}.flac"
            sf.write(OUT / file, sound / peak * 0.95, RATE, subtype="PCM_16")
            table[name].append({"velocity": round(velocity / 127, 3), "file": file})
    (OUT / "kit.json").write_text(json.dumps(table, indent=1) + "\n")


if __name__ == "__main__":
    main()
