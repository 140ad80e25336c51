"""Words said aloud by Debian's espeak-ng, a program of its own."""

from __future__ import annotations

import re
import subprocess
from functools import lru_cache
from io import BytesIO

import numpy as np
import soundfile as sf

from orchesis.errors import BadScore
from orchesis.score.untrusted import shown

_WORD = re.compile(r"[^\W\d_][^\W\d_'’-]{0,39}", re.UNICODE)
_WORDS_A_MINUTE = 210
_SECONDS = 10  # that it may take
_QUIET = 0.03  # of the loudest, below which nothing is said yet


@lru_cache(maxsize=256)
def say(word: str) -> bytes:
    """A word as WAV (mono, 16 bit), from the moment at which it sounds. Raises BadScore for what is
    no word, and where no voice is installed."""
    if not _WORD.fullmatch(word):
        raise BadScore(f"“{shown(word)}” can't be said: it is no single word.")
    command = ["espeak-ng", "-v", "en", "-s", str(_WORDS_A_MINUTE), "--stdin", "--stdout"]
    try:
        ended = subprocess.run(
            command, input=word.encode(), capture_output=True, timeout=_SECONDS, check=True
        ).stdout
        sound, rate = sf.read(BytesIO(ended), dtype="float32")
    except FileNotFoundError:
        raise BadScore("There is no voice here: install Debian's espeak-ng.") from None
    except (subprocess.SubprocessError, sf.LibsndfileError):
        raise BadScore(f"“{shown(word)}” could not be said; try another word.") from None
    loud = np.flatnonzero(np.abs(sound) > _QUIET * max(1e-6, float(np.abs(sound).max())))
    if not len(loud):
        raise BadScore(f"“{shown(word)}” has no sound; try another word.")
    out = BytesIO()
    sf.write(out, sound[loud[0] : loud[-1] + 1], rate, format="WAV", subtype="PCM_16")
    return out.getvalue()
