"""Taking a recording in: any file ffmpeg reads -> one plain FLAC, the sound that is heard.

Hearing, the page and every export use that one file, so that all share one timeline;
encoder delays of MP3 and AAC are taken off here, once, by ffmpeg.
"""

from __future__ import annotations

import errno
import json
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
import soundfile as sf

from orchesis.errors import BadSound
from orchesis.hearing import programs
from orchesis.hearing.types import Report, silent
from orchesis.score.moments import clock_text

RATE = 44100
MAX_SECONDS = 20 * 60.0
MIN_SECONDS = 2.0
BIGGEST = 200 * 1024 * 1024
_QUIET = 10 ** (-55 / 20)
_LONGEST_PROBE, _LONGEST_DECODING = 30.0, 240.0  # seconds of wall clock
#: What a recording comes in. Playlists and other lists of files are not among them: they could
#: name files of the host, or never end; and nothing but the file itself is opened.
_CONTAINERS = (
    "wav",
    "w64",
    "aiff",
    "caf",
    "au",
    "flac",
    "ogg",
    "mp3",
    "aac",
    "ac3",
    "eac3",
    "amr",
    "wv",
    "ape",
    "tta",
    "mov",
    "matroska",
    "avi",
    "asf",
    "flv",
    "mpeg",
    "mpegts",
    "dts",
)
_ONLY_RECORDINGS = ("-protocol_whitelist", "file", "-format_whitelist", ",".join(_CONTAINERS))


@dataclass(frozen=True, slots=True)
class Intake:
    """A recording as it was taken in. notes: sentences the user should read."""

    path: Path
    duration: float
    channels: int
    notes: tuple[str, ...] = ()


def _probed(path: Path, *wanted: str) -> dict[str, Any]:
    """What ffprobe says of a file; nothing of one that it can't read."""
    command = ["ffprobe", "-v", "error", *_ONLY_RECORDINGS, "-of", "json", *wanted]
    try:
        ended = programs.run([*command, f"file:{path}"], seconds=_LONGEST_PROBE)
    except programs.TookTooLong:
        return {}
    return dict(json.loads(ended.out or b"{}")) if ended.code == 0 else {}


def _probe(path: Path, name: str) -> tuple[float | None, int]:
    """Duration the header states (seconds or None) and channels; BadSound if no sound."""
    facts = _probed(path, "-show_entries", "format=duration:stream=codec_type,channels")
    streams = facts.get("streams", [])
    if not {s.get("codec_type") for s in streams} & {"audio", "video"}:
        raise BadSound(
            f"“{name}” is not a sound file we can read; use WAV, FLAC, OGG, MP3, M4A or a video."
        )
    sounding = [s for s in streams if s.get("codec_type") == "audio"]
    if not sounding:
        raise BadSound(f"“{name}” has a picture but no sound; choose a file with a sound track.")
    stated = facts.get("format", {}).get("duration")
    return (float(stated) if stated else None), int(sounding[0].get("channels", 2))


def has_picture(path: str | Path) -> bool:
    """Whether a file is a video: it has moving pictures, not only a cover."""
    streams = _probed(
        Path(path), "-select_streams", "v", "-show_entries", "stream_disposition=attached_pic"
    ).get("streams", [])
    return any(not s.get("disposition", {}).get("attached_pic") for s in streams)


def take_in(
    source: str | Path, target: str | Path, *, name: str | None = None, report: Report = silent
) -> Intake:
    """Decode ``source`` into the FLAC ``target`` (44.1 kHz, 16 bit, mono or stereo).

    Raises BadSound with one sentence for anything that can't be heard: not audio, empty,
    silent, shorter than 2 seconds, longer than 20 minutes. Of a truncated file what is
    there is used, and said in ``notes``.
    """
    path, out = Path(source), Path(target)
    shown = name or path.name
    if not path.exists():
        raise BadSound(f"There is no file “{shown}”.")
    size = path.stat().st_size
    if size == 0:
        raise BadSound(f"“{shown}” is empty; choose the recording again.")
    if size > BIGGEST:
        raise BadSound(f"“{shown}” has {size / 2**20:.0f} MB; the most we take is 200 MB.")
    stated, channels = _probe(path, shown)
    report("decode", 0.0)
    if stated and stated > MAX_SECONDS + 1:
        raise BadSound(f"“{shown}” is {clock_text(stated)} long; the most we take is 20:00.")
    try:
        _decode(path, out, 1 if channels == 1 else 2, stated, report)
    except programs.TookTooLong:
        raise BadSound(
            f"“{shown}” took longer than {_LONGEST_DECODING / 60:.0f} minutes to decode; save it "
            "as WAV and try again."
        ) from None
    except programs.ProgramMissing as problem:
        raise BadSound(str(problem)) from None
    try:
        duration, sounds = _measure(out)
    except sf.LibsndfileError:
        raise BadSound(f"“{shown}” could not be decoded; save it as WAV and try again.") from None
    if duration < MIN_SECONDS:
        raise BadSound(
            f"“{shown}” is only {duration:.1f} seconds long; a pulse needs at least 2 seconds."
        )
    if duration > MAX_SECONDS + 1:
        raise BadSound(f"“{shown}” is {clock_text(duration)} long; the most we take is 20:00.")
    if not sounds:
        raise BadSound(f"“{shown}” is silent; check that the right track was exported.")
    notes = []
    if stated and stated - duration > 1.0:
        notes.append(
            f"The file breaks off: its header promises {clock_text(stated)}, "
            f"{clock_text(duration)} are there and were used."
        )
    return Intake(out, duration, 1 if channels == 1 else 2, tuple(notes))


def _decode(path: Path, out: Path, channels: int, stated: float | None, report: Report) -> None:
    last = 0.0

    def tick(line: bytes) -> None:
        nonlocal last
        times = [w[12:].strip() for w in line.split() if w.startswith(b"out_time_us=")]
        if times and times[-1].isdigit():
            last = int(times[-1]) / 1e6
        report("decode", min(last / stated, 1.0) if stated else 0.5)

    ended = programs.run(
        [
            "ffmpeg",
            "-v",
            "error",
            "-y",
            *_ONLY_RECORDINGS,
            "-i",
            f"file:{path}",
            "-map",
            "0:a:0",
            "-vn",
            "-ac",
            str(channels),
            "-ar",
            str(RATE),
            "-t",
            str(MAX_SECONDS + 2),
            "-sample_fmt",
            "s16",
            "-compression_level",
            "2",
            "-progress",
            "pipe:1",
            "-f",
            "flac",
            str(out),
        ],
        seconds=_LONGEST_DECODING,
        tick=tick,
    )
    if b"No space left" in ended.err:
        raise OSError(errno.ENOSPC, "No space left on device")


def _measure(path: Path) -> tuple[float, bool]:
    """Duration (seconds) of the taken-in sound, and whether anything sounds in it."""
    with sf.SoundFile(path) as file:
        blocks = file.blocks(blocksize=RATE * 10, dtype="float32", always_2d=True)
        sounds = any(float(np.abs(b).max(initial=0.0)) >= _QUIET for b in blocks)
        return file.frames / RATE, sounds


def mono_blocks(path: str | Path, samples: int) -> Iterator[np.ndarray]:
    """The taken-in sound as mono blocks of so many samples (float32; the last is shorter)."""
    with sf.SoundFile(path) as file:
        for block in file.blocks(blocksize=samples, dtype="float32", always_2d=True):
            yield block.mean(axis=1)
