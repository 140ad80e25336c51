"""The counting voice: the words that are counted with, spoken by espeak-ng, cut so that each
begins to be
heard where it is laid. Run once; the sounds ship in orchesis/sounding/voice.

    python -m demo.voice
"""

from __future__ import annotations

import json
import subprocess
from io import BytesIO
from pathlib import Path

import numpy as np
import soundfile as sf
import soxr

OUT = Path(__file__).resolve().parent.parent / "orchesis" / "sounding" / "voice"
RATE = 22050
#: Word of the count row -> what espeak-ng is to say.
_NUMBERS = (
    "one",
    "two",
    "three",
    "four",
    "five",
    "six",
    "sev",
    "eight",
    "nine",
    "ten",
    "lev",
    "twelve",
)
WORDS = {
    **{str(n): word for n, word in enumerate(_NUMBERS, 1)},
    "e": "ee",
    "&": "and",
    "a": "ah",
    "trip": "trip",
    "let": "let",
    "ta": "tah",
    "te": "teh",
    "la": "lah",
    "li": "lee",
    "ka": "kah",
    "di": "dee",
    "mi": "mee",
    "ki": "kee",
    "da": "dah",
}
_LONGEST = 0.3


def spoken(text: str, pitch: int, speed: int) -> np.ndarray:
    """A word from where it begins to be heard, its tail faded, peak 0.9."""
    command = ["espeak-ng", "-v", "en-us", "-p", str(pitch), "-s", str(speed), "--stdout", text]
    raw, rate = sf.read(
        BytesIO(subprocess.run(command, check=True, capture_output=True).stdout), dtype="float32"
    )
    sound = soxr.resample(raw, rate, RATE)
    start = max(0, int(np.argmax(np.abs(sound) > 0.12 * np.abs(sound).max())) - 20)
    sound = sound[start : start + int(_LONGEST * RATE)]
    fade = int(0.06 * RATE)
    sound[-fade:] *= np.linspace(1, 0, fade)
    return sound / np.abs(sound).max() * 0.9


def main() -> None:
    OUT.mkdir(parents=True, exist_ok=True)
    table = {}
    for n, (word, said) in enumerate(WORDS.items()):
        name = f"word-{n:02d}.ogg"
        number = word.isdigit()
        sf.write(
            OUT / name,
            spoken(said, 55 if number else 42, 300 if number else 330),
            RATE,
            format="OGG",
            subtype="VORBIS",
        )
        table[word] = name
    (OUT / "voice.json").write_text(json.dumps(table, indent=1, ensure_ascii=False) + "\n")
    print(f"wrote {len(table)} words, {sum(p.stat().st_size for p in OUT.glob('*.ogg'))} bytes")


if __name__ == "__main__":
    main()
