"""What hearing hands on. Times are seconds from the file's start."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

from orchesis.score.evidence import NO_EVIDENCE, Evidence


@dataclass(frozen=True, slots=True)
class Tempo:
    """Felt tempo in beats a minute: median, honest range, whether it kept to a click."""

    bpm: float
    low: float
    high: float
    steady: bool
    confidence: float
    alternatives: tuple[float, ...] = ()


@dataclass(frozen=True, slots=True)
class HeardMeter:
    """From a bar on: the beats of the signature and its unit (12 and 8 for 12/8)."""

    bar: int
    beats: int
    unit: int


@dataclass(frozen=True, slots=True)
class Beat:
    time: float
    bar: int
    beat: int


@dataclass(frozen=True, slots=True)
class Hit:
    """One sound of one kit part. loudness 0..1 relative to its part, confidence 0..1.

    level: dB against the whole recording. openness: of a hat, 0 shut to 1 wide open.
    ornament: flam, drag or buzz where one was heard. recalled: the song's own repetition
    made this stroke surer or less sure (orchesis/hearing/repetition.py). sound, half: the number
    of its sound in the song (HeardSound), 0 of none, and in which half of it it would be.
    """

    time: float
    part: str
    loudness: float
    confidence: float
    level: float = 0.0
    openness: float = 0.0
    ornament: str | None = None
    recalled: bool = False
    sound: int = 0
    half: int = 0


@dataclass(frozen=True, slots=True)
class HeardSound:
    """Strokes that sound alike through the song (orchesis/hearing/sounds.py), under one name.

    picture: how they sound (ROWS by COLUMNS digits), and its halves', "" where there are none.
    """

    sound: int
    part: str
    picture: str
    first_half: str = ""
    second_half: str = ""


@dataclass(frozen=True, slots=True)
class HeardSection:
    """Bars first_bar .. first_bar + bars - 1; equal labels mean the same music."""

    first_bar: int
    bars: int
    label: str


@dataclass(frozen=True, slots=True)
class HeardBar:
    """Form material of one bar: level of the whole and of the drums in dB against the loudest
    bar, whether anything plays, whether drums play, and the band's pitch classes (sum 1)."""

    level: float
    drums: float
    plays: bool
    drums_play: bool
    chroma: tuple[float, ...]


@dataclass(frozen=True)
class Hearing:
    """Everything that was heard in one recording.

    beats: the felt beats of whole bars, bar 1 first, then one closing beat of the bar
    behind the last. meters: the meter of bar 1, then one for each change. levels: of the
    whole and of the drums, in dB against the loudest second, a pair each second. bars: what
    the form is read from, one for each bar. ones: moments at which a 1 may fall and how
    likely, whatever beats were chosen. sounding: seconds between which there is music. hits: the
    strokes sure enough to be written; perhaps: those that are less sure, for a person to judge;
    sounds: what of them sounds alike; evidence: how clearly each part began when.
    """

    duration: float
    sample_rate: int
    tempo: Tempo
    meters: tuple[HeardMeter, ...]
    beats: tuple[Beat, ...]
    hits: tuple[Hit, ...]
    sections: tuple[HeardSection, ...]
    notes: tuple[str, ...] = field(default=())
    levels: tuple[tuple[float, float], ...] = field(default=())
    bars: tuple[HeardBar, ...] = field(default=())
    ones: tuple[tuple[float, float], ...] = field(default=())
    sounding: tuple[float, float] | None = None
    perhaps: tuple[Hit, ...] = field(default=())
    sounds: tuple[HeardSound, ...] = field(default=())
    evidence: Evidence = NO_EVIDENCE

    @property
    def meter(self) -> HeardMeter:
        """The meter most bars have."""
        ends = [m.bar for m in self.meters[1:]] + [self.beats[-1].bar]
        total: dict[tuple[int, int], int] = {}
        for m, end in zip(self.meters, ends, strict=True):
            total[m.beats, m.unit] = total.get((m.beats, m.unit), 0) + end - m.bar
        beats, unit = max(total, key=lambda k: total[k])
        return HeardMeter(1, beats, unit)


#: Called with the step's name and its share done (0..1); raises Cancelled to stop.
Report = Callable[[str, float], None]


def silent(_step: str, _share: float) -> None:
    """A report that nobody reads."""
