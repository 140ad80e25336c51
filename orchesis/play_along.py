"""Files to play along with: the recording and our written part at any tempo, mixed, with the
pages, in one zip.

The recording is stretched without change of pitch by the program rubberband; our own part is
sounded at the new tempo, so that both stay in step by the pulse map. Nothing drifts: every
stroke, click and word is laid where the pulse map says, at the tempo of the file.

All files of a song are equally loud, whatever zip they come in: one gain for our part and one for
the recording, set on the full part and the whole recording at the song's tempo."""

from __future__ import annotations

import tempfile
import zipfile
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
import soundfile as sf

from orchesis import charting, engraving
from orchesis.charting import bars_text
from orchesis.errors import BadScore, BadSound
from orchesis.formats.file_names import file_name
from orchesis.hearing import programs
from orchesis.score import PulseMap, Score
from orchesis.sounding import level, part
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
MAX_FILES = 40  # files of one zip
_SLOWEST, _FASTEST = 0.4, 1.5
_BAR_IN = 1  # bars counted in
#: Where recording and part sound together each is so much softer.
_HALF_OF_BOTH = level.factor(-3.0)
#: The most that a true peak may be before it is coded; coding adds up to 1 dB.
_CEILING = level.factor(level.PEAK_DB - 1.0)

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
    """says: what it holds, for its name."""

    says: tuple[str, ...]
    sound: np.ndarray
    is_step: bool = False


@dataclass(frozen=True)
class _Gains:
    """Of our part, of the recording, and of clicks and words."""

    part: float
    recording: float
    click: float


def written(
    out: Path, score: Score, wish: Wish, recording: Path | None, drums: Path | None, report: Report
) -> list[str]:
    """Writes the zip; returns the names in it. recording, drums: FLAC in step with the score.
    report: hears ("rendering", share); may raise what stops the work. Raises BadScore, BadSound."""
    score = score.played()
    needs = any(MIXES[m][0] for m in wish.mixes)
    if needs and recording is None:
        raise BadScore("There is no recording to play along with; choose mixes of our part.")
    total = len(wish.shares) * len(wish.mixes) + (_count_stages(score, wish) if wish.stages else 0)
    if not 1 <= total <= MAX_FILES:
        raise BadScore(
            f"A zip holds 1 to {MAX_FILES} files, not {total}: fewer tempi, mixes or stages."
        )
    span = bars_text(*wish.bars) if wish.bars else ""
    title = score.title or "Untitled"
    names: list[str] = []

    def named(*says: str, ending: str) -> str:
        """A name that no other file of the zip has."""
        name, n = file_name(title, *says, ending=ending), 2
        while name in names:
            name, n = file_name(title, *says, f"({n})", ending=ending), n + 1
        names.append(name)
        return name

    with (
        zipfile.ZipFile(out, "w", zipfile.ZIP_STORED) as archive,
        tempfile.TemporaryDirectory() as temp,
    ):
        gains = _gains(score, recording)
        kind, subtype = FORMATS[wish.form]
        for n, file in enumerate(_files(score, wish, recording, drums, Path(temp), gains)):
            report("rendering", n / total)
            path = Path(temp) / f"out.{wish.form}"
            peak = level.true_peak(file.sound)
            sound = file.sound * np.float32(min(1.0, _CEILING / max(peak, 1e-9)))
            _write(path, sound, kind, subtype)
            whole = [] if file.is_step else [span]
            archive.write(path, named(*whole, *file.says, ending=f".{wish.form}"))
        pages = charting.pages(score, charting.Wish(counts="hard", sticking="fills"))
        archive.writestr(named("chart", ending=".pdf"), engraving.pdf_of(pages, "A4"))
        if wish.bars:
            limbs = charting.Wish(view="limbs", bars=wish.bars, counts="all")
            sheet = engraving.pdf_of(charting.pages(score, limbs), "A4")
            archive.writestr(named(charting.name_of(limbs), ending=".pdf"), sheet)
    report("rendering", 1.0)
    return names


def _write(path: Path, sound: np.ndarray, kind: str, subtype: str) -> None:
    """In blocks: the coder of OGG lays what it is given at once on its stack, and two minutes end
    the process."""
    channels = 1 if sound.ndim == 1 else sound.shape[1]
    with sf.SoundFile(path, "w", RATE, channels, subtype, format=kind) as file:
        for k in range(0, len(sound), _BLOCK):
            file.write(sound[k : k + _BLOCK])


_BLOCK = 5 * RATE


def _gains(score: Score, recording: Path | None) -> _Gains:
    """What brings the whole part and the whole recording to the same loudness; less where either,
    with a click, or both together would peak too high."""
    gain = part.song_gain(score)
    whole = np.float32(gain) * render(part.events(score), score.pulse.times[-1] + 1.0)
    click = np.zeros_like(whole)
    for time, is_strong in part.clicks(score, "quarters"):
        part.lay(click, part.tick(is_strong), time)
    peaks = [level.true_peak(whole + click)]
    theirs = 1.0
    if recording is not None:
        sound, _ = sf.read(recording, dtype="float32", always_2d=True)
        theirs = level.gain_to(level.TARGET_LUFS, sound)
        sound *= np.float32(theirs)
        size = min(len(sound), len(whole))
        peaks.append(level.true_peak(sound[:size] + click[:size, None]))
        sound[:size] += whole[:size, None]
        peaks.append(_HALF_OF_BOTH * level.true_peak(sound))
    lower = min(1.0, _CEILING / max(*peaks, 1e-9))
    return _Gains(lower * gain, lower * theirs, lower)


def _count_stages(score: Score, wish: Wish) -> int:
    return len(stages.plan(score, _bars(score, wish), wish.order))


def _bars(score: Score, wish: Wish) -> range:
    first, last = wish.bars or (1, score.bar_count)
    if not 1 <= first <= last <= score.bar_count:
        raise BadScore(f"Bars {first} to {last} are not all in the song (1 to {score.bar_count}).")
    return range(first, last + 1)


def _files(
    score: Score,
    wish: Wish,
    recording: Path | None,
    drums: Path | None,
    folder: Path,
    gains: _Gains,
) -> Iterator[_File]:
    bars = _bars(score, wish)
    tempo = score.pulse.tempo()[0]
    for share in wish.shares:
        stretched = {
            balance: _stretched(recording, drums, balance, score, bars, share, folder)
            for balance in {MIXES[m][0] for m in wish.mixes}
            if balance is not None and recording
        }
        for mix in wish.mixes:
            balance, has_part, has_click = MIXES[mix]
            together = _HALF_OF_BOTH if balance is not None and has_part else 1.0
            headroom = together * gains.part if has_part else 0.0
            sound = _mixed(score, bars, share, wish, headroom, has_click, gains.click)
            if balance is not None:
                piece = stretched[balance] * np.float32(together * gains.recording)
                loops = wish.loops if wish.bars else 1
                lead, length = _lead(score, bars, share), _length(score, bars, share)
                sound = _with(sound, piece, lead, loops, length)
            yield _File((mix, f"{tempo * share:.0f} bpm"), sound)
    if wish.stages:
        for n, stage in enumerate(stages.plan(score, bars, wish.order), 1):
            share = stage.ladder.start / stage.score.pulse.tempo()[0]
            whole = range(1, stage.score.bar_count + 1)
            looped = replace(wish, bars=(1, len(whole)))
            sound = _mixed(stage.score, whole, share, looped, gains.part, True, gains.click)
            yield _File((f"step {n}", stage.title), sound, is_step=True)


def _length(score: Score, bars: Sequence[int], share: float) -> float:
    return (score.seconds(bars[-1] + 1) - score.seconds(bars[0])) / share


def _lead(score: Score, bars: Sequence[int], share: float) -> float:
    """Seconds of the count-in at the tempo of the first bar."""
    return _BAR_IN * (score.seconds(bars[0] + 1) - score.seconds(bars[0])) / share


def _mixed(
    score: Score,
    bars: Sequence[int],
    share: float,
    wish: Wish,
    gain: float,
    has_click: bool,
    click_gain: float,
) -> np.ndarray:
    """Our own sound of some bars: a bar of clicks before, then as often round as is wished. gain:
    of the part; 0: it is silent. click_gain: of clicks and words."""
    start, length, lead = (
        score.seconds(bars[0]),
        _length(score, bars, share),
        _lead(score, bars, share),
    )
    loops = wish.loops if wish.bars else 1
    sounds = np.zeros(round((lead + loops * length + 2.0) * RATE), np.float32)
    clicks = np.zeros_like(sounds)
    end = score.seconds(bars[-1] + 1)
    slow = replace(score, pulse=PulseMap.of([t / share for t in score.pulse.times]))
    if gain:
        events = [e for e in part.events(slow, mute=wish.mute) if e.bar in bars]
        round_ = [
            (lead + k * length + e.time - start / share, e.part, e.loudness, e.choked)
            for k in range(loops)
            for e in events
        ]
        rendered = render([e for e in round_ if e[0] >= 0], len(sounds) / RATE)
        sounds[: len(rendered)] += np.float32(gain) * rendered
    for k in range(loops):
        base = lead + k * length - start / share
        if has_click:
            for time, is_strong in part.clicks(slow, wish.click):
                if start / share - 1e-6 <= time < end / share - 1e-6:
                    part.lay(clicks, part.tick(is_strong), base + time)
        if wish.counted:
            for time, word in part.spoken(slow, wish.counted):
                if start / share - 1e-6 <= time < end / share - 1e-6:
                    part.lay(clicks, part.voice(word), base + time)
    beats = score.meters[bars[0] - 1].beats
    for k in range(beats * _BAR_IN):
        part.lay(clicks, part.tick(k % beats == 0), k * lead / (beats * _BAR_IN))
    return sounds + np.float32(click_gain) * clicks


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
            samples = file.read(end - start, dtype="float32", always_2d=True)
        if samples.shape == sound.shape:
            sound = rest * sound + (forward - rest) * samples
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
    stretched, _ = sf.read(target, dtype="float32", always_2d=True)
    return stretched


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
