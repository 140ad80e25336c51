"""Files to play along with: the recording and our written part at any tempo, mixed, with the
pages, in one zip.

The recording is stretched without change of pitch by the program rubberband; our own part is
sounded at the new tempo, so that both stay in step by the pulse map. Nothing drifts: every
stroke, click and word is laid where the pulse map says, at the tempo of the file."""

from __future__ import annotations

import tempfile
import zipfile
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
import soundfile as sf

from orchesis import charting, engraving
from orchesis.errors import BadScore, BadSound
from orchesis.hearing import programs
from orchesis.score import PulseMap, Score
from orchesis.sounding import part
from orchesis.sounding.render import RATE, render
from orchesis.teaching import stages

#: mix -> what sounds: the recording, its drums alone as (gain of the drums, gain of the rest); our
#: part; the click.
MIXES: dict[str, tuple[tuple[float, float] | None, bool, bool]] = {
    "part": (None, True, False),
    "part and click": (None, True, True),
    "click": (None, False, True),
    "recording": ((1.0, 1.0), False, False),
    "drums away": ((0.12, 1.0), False, False),
    "drums away and click": ((0.12, 1.0), False, True),
    "drums forward": ((1.25, 0.3), False, False),
    "recording and part": ((0.12, 1.0), True, False),
}
FORMATS = {"ogg": ("OGG", "VORBIS"), "flac": ("FLAC", "PCM_16"), "wav": ("WAV", "PCM_16")}
MOST = 40  # files of one zip
_SLOWEST, _FASTEST = 0.4, 1.5
_BAR_IN = 1  # bars counted in
_LOUD = 0.89
_EARLY = 0.06  # seconds by which an ornament's first stroke may lie before its bar

Report = Callable[[str, float], None]


@dataclass(frozen=True)
class Wish:
    """What a zip is to hold. bars: first and last, of the whole song where None. shares: of the
    song's tempo. mixes: of MIXES. mute: limbs and layers that the player plays. stages: whether
    each stage of the bars has a file of its own at its tempo (of our part alone). order: of
    stages.SCHOOLS. click: of part.CLICKS. counted: a school to count aloud in, or "". form: of
    FORMATS. loops: how often bars go round."""

    bars: tuple[int, int] | None = None
    shares: tuple[float, ...] = (1.0,)
    mixes: tuple[str, ...] = ("drums away and click",)
    mute: tuple[str, ...] = ()
    stages: bool = False
    order: str = "computed"
    click: str = "quarters"
    counted: str = ""
    form: str = "ogg"
    loops: int = 4

    def __post_init__(self) -> None:
        wrong = [m for m in self.mixes if m not in MIXES]
        if wrong or self.form not in FORMATS or self.click not in part.CLICKS:
            raise BadScore(
                f"There is no such mix, format or click: {', '.join(wrong) or self.form}."
            )
        if not all(_SLOWEST <= s <= _FASTEST for s in self.shares):
            raise BadScore(
                f"A tempo is {_SLOWEST:.0%} to {_FASTEST:.0%} of the song's, not "
                f"{', '.join(f'{s:.0%}' for s in self.shares)}."
            )
        if not 1 <= self.loops <= 32:
            raise BadScore("Bars go round 1 to 32 times.")


@dataclass(frozen=True)
class _File:
    name: str
    sound: np.ndarray


def written(
    out: Path, score: Score, wish: Wish, recording: Path | None, drums: Path | None, report: Report
) -> list[str]:
    """Writes the zip; returns the names in it. recording, drums: FLAC in step with the score.
    report: hears
    ("rendering", share); may raise what stops the work. Raises BadScore, BadSound."""
    score = score.played()
    needs = any(MIXES[m][0] for m in wish.mixes)
    if needs and recording is None:
        raise BadScore("There is no recording to play along with; choose mixes of our part.")
    total = len(wish.shares) * len(wish.mixes) + (_count_stages(score, wish) if wish.stages else 0)
    if not 1 <= total <= MOST:
        raise BadScore(f"A zip holds 1 to {MOST} files, not {total}: fewer tempi, mixes or stages.")
    form, subtype = FORMATS[wish.form]
    names = []
    with (
        zipfile.ZipFile(out, "w", zipfile.ZIP_STORED) as archive,
        tempfile.TemporaryDirectory() as temp,
    ):
        for n, file in enumerate(_files(score, wish, recording, drums, Path(temp))):
            report("rendering", n / total)
            path = Path(temp) / f"out.{wish.form}"
            sf.write(path, file.sound, RATE, format=form, subtype=subtype)
            names.append(f"{n + 1:02d} {file.name}.{wish.form}")
            archive.write(path, names[-1])
        pages = charting.pages(score, charting.Wish(counts="hard", sticking="fills"))
        archive.writestr("chart.pdf", engraving.pdf_of(pages, "A4"))
        names.append("chart.pdf")
        if wish.bars:
            limbs = charting.pages(score, charting.Wish(view="limbs", bars=wish.bars, counts="all"))
            archive.writestr("bars.pdf", engraving.pdf_of(limbs, "A4"))
            names.append("bars.pdf")
    report("rendering", 1.0)
    return names


def _count_stages(score: Score, wish: Wish) -> int:
    return len(stages.plan(score, _bars(score, wish), wish.order))


def _bars(score: Score, wish: Wish) -> range:
    first, last = wish.bars or (1, score.bar_count)
    if not 1 <= first <= last <= score.bar_count:
        raise BadScore(f"Bars {first} to {last} are not all in the song (1 to {score.bar_count}).")
    return range(first, last + 1)


def _files(
    score: Score, wish: Wish, recording: Path | None, drums: Path | None, folder: Path
) -> Iterator[_File]:
    bars = _bars(score, wish)
    tempo = score.pulse.tempo()[0]
    for share in wish.shares:
        stretched = {
            gains: _stretched(recording, drums, gains, score, bars, share, folder)
            for gains in {MIXES[m][0] for m in wish.mixes} if gains is not None and recording
        }  # fmt: skip
        for mix in wish.mixes:
            gains, has_part, has_click = MIXES[mix]
            sound = _mixed(score, bars, share, wish, has_part, has_click)
            if gains is not None:
                own = stretched[gains]
                sound = _with(sound, own, _lead(score, bars, share), wish.loops if wish.bars else 1,
                              _length(score, bars, share))  # fmt: skip
            yield _File(f"{mix}, {tempo * share:.0f} bpm", _levelled(sound))
    if wish.stages:
        for n, stage in enumerate(stages.plan(score, bars, wish.order), 1):
            share = stage.ladder.start / stage.score.pulse.tempo()[0]
            whole = range(1, stage.score.bar_count + 1)
            sound = _mixed(
                stage.score, whole, share, replace(wish, bars=(1, len(whole))), True, True
            )
            yield _File(f"stage {n}, {stage.title}, {stage.ladder.start:.0f} bpm", _levelled(sound))


def _length(score: Score, bars: Sequence[int], share: float) -> float:
    return (score.seconds(bars[-1] + 1) - score.seconds(bars[0])) / share


def _lead(score: Score, bars: Sequence[int], share: float) -> float:
    """Seconds of the count-in at the tempo of the first bar."""
    return _BAR_IN * (score.seconds(bars[0] + 1) - score.seconds(bars[0])) / share


def _mixed(
    score: Score, bars: Sequence[int], share: float, wish: Wish, has_part: bool, has_click: bool
) -> np.ndarray:
    """Our own sound of some bars: a bar of clicks before, then as often round as is wished."""
    start, length, lead = (
        score.seconds(bars[0]),
        _length(score, bars, share),
        _lead(score, bars, share),
    )
    loops = wish.loops if wish.bars else 1
    sounds = np.zeros(round((lead + loops * length + 2.0) * RATE), np.float32)
    end = score.seconds(bars[-1] + 1)
    slow = replace(score, pulse=PulseMap.of([t / share for t in score.pulse.times]))
    if has_part:
        events = [
            e
            for e in part.events(slow, mute=wish.mute)
            if start / share - 0.06 <= e.time < end / share - 0.06
        ]
        round_ = [
            (lead + k * length + e.time - start / share, e.part, e.loudness, e.choked)
            for k in range(loops) for e in events
        ]  # fmt: skip
        made = render([e for e in round_ if e[0] >= 0], len(sounds) / RATE)
        sounds[: len(made)] += made
    for k in range(loops):
        base = lead + k * length - start / share
        if has_click:
            for time, is_strong in part.clicks(slow, wish.click):
                if start / share - 1e-6 <= time < end / share - 1e-6:
                    part.lay(sounds, part.tick(is_strong), base + time)
        if wish.counted:
            for time, word in part.spoken(slow, wish.counted):
                if start / share - 1e-6 <= time < end / share - 1e-6:
                    part.lay(sounds, part.voice(word), base + time)
    beats = score.meters[bars[0] - 1].beats
    for k in range(beats * _BAR_IN):
        part.lay(sounds, part.tick(k % beats == 0), k * lead / (beats * _BAR_IN))
    return sounds


def _stretched(
    recording: Path,
    drums: Path | None,
    gains: tuple[float, float],
    score: Score,
    bars: Sequence[int],
    share: float,
    folder: Path,
) -> np.ndarray:
    """The recording of some bars, (samples, channels), its drums as loud as wished, at a share of
    its tempo."""
    with sf.SoundFile(recording) as file:
        rate = file.samplerate
        start, end = (round(score.seconds(b) * rate) for b in (bars[0], bars[-1] + 1))
        start, end = max(0, start), min(end, file.frames)
        file.seek(start)
        sound = file.read(end - start, dtype="float32", always_2d=True)
    forward, rest = gains
    if drums is not None and forward != rest:
        with sf.SoundFile(drums) as file:
            file.seek(min(start, file.frames))
            own = file.read(end - start, dtype="float32", always_2d=True)
        if own.shape == sound.shape:
            sound = rest * sound + (forward - rest) * own
    if abs(share - 1) < 1e-6:
        return sound
    source, target = folder / "in.wav", folder / "out.wav"
    sf.write(source, np.clip(sound, -1, 1), rate, subtype="PCM_16")
    # Of its ways this one moves no onset by more than 4 ms, and takes 18 s for four minutes; others
    # move them by up to 22 ms at half the tempo, or take a minute.
    command = ["rubberband", "-q", "-3", "-c", "6", "-T", f"{share:.6f}", str(source), str(target)]
    try:
        ended = programs.run(command, seconds=600)
    except programs.ProgramMissing as problem:
        raise BadSound(str(problem)) from None
    except programs.TookTooLong:
        ended = None
    if ended is None or ended.code != 0:
        raise BadSound("The recording could not be brought to this tempo.")
    made, _ = sf.read(target, dtype="float32", always_2d=True)
    return made


def _with(
    sounds: np.ndarray, recording: np.ndarray, lead: float, loops: int, length: float
) -> np.ndarray:
    """Our sound over the recording, which goes round with it."""
    out = np.repeat(sounds[:, None], recording.shape[1], axis=1)
    size = round(length * RATE)
    fade = min(200, size // 4)
    for k in range(loops):
        at = round((lead + k * length) * RATE)
        piece = recording[: size if k < loops - 1 else len(recording)].copy()
        piece[:fade] *= np.linspace(0, 1, fade, dtype=np.float32)[:, None]
        piece[-fade:] *= np.linspace(1, 0, fade, dtype=np.float32)[:, None]
        end = min(at + len(piece), len(out))
        out[at:end] += piece[: end - at]
    return out


def _levelled(sound: np.ndarray) -> np.ndarray:
    return sound * np.float32(min(1.0, _LOUD / max(1e-6, float(np.abs(sound).max()))))
