"""Standard MIDI File -> Score: the percussion track on its bars, with its tempo map.

Notes of a drum channel (10, or the only one that has notes) go to the nearest place of the finest
grid that explains them; quick soft notes just before a louder one of the same part are its
ornament.
"""

from __future__ import annotations

from bisect import bisect_right
from collections import Counter, defaultdict
from dataclasses import dataclass
from fractions import Fraction
from io import BytesIO

import mido

from orchesis.errors import BadScore
from orchesis.formats.midi_keys import GENERAL, Keys
from orchesis.score import KIT, Meter, PulseMap, Score, Section, Stroke
from orchesis.score.stroke import class_of
from orchesis.score.untrusted import printable

_CHANNEL = 9
#: What mido raises of bytes that are no MIDI file, or an odd one.
UNREADABLE = (
    OSError,
    EOFError,
    ValueError,
    IndexError,
    KeyError,
    TypeError,
    mido.KeySignatureError,
)
_ON_GRID_BEATS = Fraction(1, 40)  # beats within which a note lies on a grid
_GRIDS = (1, 2, 3, 4, 6, 8, 12, 16, 24, 5, 7, 48)
_GRACE = 0.06  # seconds before a stroke within which softer ones are its graces
_SOFTER = 0.75  # share of its loudness below which they are
_MOST_BARS = 3000
_NAMES = {1: "flam", 2: "drag", 3: "ruff"}


@dataclass(frozen=True)
class _Note:
    tick: int
    seconds: float
    part: str
    loudness: float


def read(data: bytes, title: str = "", keys: Keys = GENERAL) -> tuple[Score, list[str]]:
    """(the score, what could not be kept). keys: of the kit that it was made for. Raises BadScore
    where it is no MIDI file, or holds no percussion."""
    try:
        song = mido.MidiFile(file=BytesIO(data))
        tempos, meters, markers, played, name, unknown = _events(song, keys)
    except UNREADABLE as problem:
        raise BadScore(f"This is not a MIDI file we can read ({problem}).") from None
    if not played:
        raise BadScore("There is no percussion in this MIDI file (no notes on channel 10).")
    lost = [f"{n} notes on key {key}, which is no drum of ours" for key, n in unknown.items()]
    resolution = song.ticks_per_beat
    clock = _clock(tempos, resolution)
    last = max(tick for tick, _, _ in played)
    bars = _bars(meters, last, resolution)
    notes = [_Note(t, clock(t), keys.read[key], v / 127) for t, key, v in played]
    strokes = _strokes(_without_graces(notes), bars, resolution)
    times = [
        clock(round(start + k * meter.beat_quarters * resolution))
        for start, meter in bars
        for k in range(meter.beats)
    ]
    end = bars[-1][0] + round(bars[-1][1].quarters * resolution)
    pulse = PulseMap.of([*times, clock(end)])
    sections = _sections(markers, bars)
    score = Score(
        tuple(m for _, m in bars), pulse, {s.id: s for s in strokes}, sections, title=title or name
    )
    return score, lost


def _events(song: mido.MidiFile, keys: Keys):  # type: ignore[no-untyped-def]
    """(tempos, meters, markers, percussion, name of the song, keys that no part has)."""
    tempos, meters, markers = [(0, 500_000)], [(0, Meter())], []
    by_channel: dict[int, list[tuple[int, int, int]]] = defaultdict(list)
    name = ""
    for n, track in enumerate(song.tracks):
        now = 0
        for m in track:
            now += m.time
            if m.type == "set_tempo":
                tempos.append((now, m.tempo))
            elif m.type == "time_signature":
                meters.append((now, Meter(m.numerator, m.denominator)))
            elif m.type == "marker":
                markers.append((now, printable(m.text)))
            elif m.type == "track_name" and n == 0:
                name = printable(m.name)
            elif m.type == "note_on" and m.velocity > 0:
                by_channel[m.channel].append((now, m.note, m.velocity))
    drums = by_channel.get(_CHANNEL)
    if drums is None and len(by_channel) == 1:
        [drums] = by_channel.values()
    drums = sorted(drums or [])
    unknown = Counter(key for _, key, _ in drums if key not in keys.read)
    return (
        sorted(tempos, key=lambda t: t[0]),
        sorted(meters, key=lambda m: m[0]),
        markers,
        [d for d in drums if d[1] in keys.read],
        name,
        unknown,
    )


def _clock(tempos: list[tuple[int, int]], resolution: int):  # type: ignore[no-untyped-def]
    """Ticks -> seconds."""
    starts, seconds = [0], [0.0]
    rates = [tempos[0][1]]
    for tick, tempo in tempos:
        elapsed = (tick - starts[-1]) * rates[-1] / resolution / 1e6
        starts.append(tick)
        seconds.append(seconds[-1] + elapsed)
        rates.append(tempo)

    def at(tick: int) -> float:
        k = bisect_right(starts, tick) - 1
        return seconds[k] + (tick - starts[k]) * rates[k] / resolution / 1e6

    return at


def _bars(meters: list[tuple[int, Meter]], last: int, resolution: int) -> list[tuple[int, Meter]]:
    """(first tick, meter) of every bar up to the last note's."""
    bars: list[tuple[int, Meter]] = []
    at, k = 0, 0
    while at <= last:
        while k + 1 < len(meters) and meters[k + 1][0] <= at:
            k += 1
        bars.append((at, meters[k][1]))
        at += round(meters[k][1].quarters * resolution)
        if len(bars) > _MOST_BARS:
            raise BadScore(f"This MIDI file has more than {_MOST_BARS} bars.")
    return bars


def _without_graces(notes: list[_Note]) -> list[tuple[_Note, str | None]]:
    """Notes with their ornaments; what sounds with an ornament is taken from the row."""
    main_notes: list[tuple[_Note, str | None]] = []
    rows: dict[str, list[_Note]] = defaultdict(list)
    for n in sorted(notes, key=lambda n: (n.seconds, n.tick)):
        rows[n.part].append(n)
    for row in rows.values():
        waiting: list[_Note] = []
        for n in row:
            near = [
                g
                for g in waiting
                if n.seconds - g.seconds <= 0.03 * (len(waiting) + 1)
                and n.seconds - g.seconds < _GRACE * 1.6
                and g.loudness < _SOFTER * n.loudness
            ]
            if waiting and len(near) == len(waiting) and len(near) in _NAMES:
                main_notes.append((n, _NAMES[len(near)]))
                waiting = []
                continue
            if waiting and n.seconds - waiting[-1].seconds < 0.035 and len(waiting) < 3:
                waiting.append(n)
                continue
            main_notes += [(g, None) for g in waiting]
            waiting = [n]
        main_notes += [(g, None) for g in waiting]
    return main_notes


def _strokes(
    notes: list[tuple[_Note, str | None]], bars: list[tuple[int, Meter]], resolution: int
) -> list[Stroke]:
    starts = [start for start, _ in bars]
    taken: dict[tuple[int, Fraction, str], Stroke] = {}
    for note, ornament in sorted(notes, key=lambda n: n[0].tick):
        bar = bisect_right(starts, note.tick)
        start, meter = bars[bar - 1]
        beats = Fraction(note.tick - start, resolution) / meter.beat_quarters
        place = _place(beats)
        if place >= meter.beats:
            bar, place = bar + 1, Fraction(0)
            if bar > len(bars):
                continue
        key = (bar, place, note.part)
        if key in taken:
            continue
        loudness = round(note.loudness, 3)
        taken[key] = Stroke(
            f"s{len(taken) + 1}",
            bar,
            place,
            note.part,
            KIT[note.part].limb,
            class_of(loudness),
            loudness,
            ornament,
        )
    return list(taken.values())


def _place(beats: Fraction) -> Fraction:
    """The nearest place of the coarsest grid that explains a position."""
    for grid in _GRIDS:
        near = Fraction(round(beats * grid), grid)
        if abs(near - beats) <= min(_ON_GRID_BEATS, Fraction(1, 3 * grid)):
            return near
    return Fraction(round(beats * 48), 48)


def _sections(markers: list[tuple[int, str]], bars: list[tuple[int, Meter]]) -> tuple[Section, ...]:
    starts = [start for start, _ in bars]
    named = {min(bisect_right(starts, tick), len(bars)): text for tick, text in markers}
    named.setdefault(1, "Song")
    firsts = sorted(named)
    labels: dict[str, str] = {}
    sections = []
    for n, first in enumerate(firsts):
        end = firsts[n + 1] if n + 1 < len(firsts) else len(bars) + 1
        stem = named[first].rstrip(" 0123456789")
        label = labels.setdefault(stem, chr(65 + len(labels) % 26))
        sections.append(Section(f"sec{n + 1}", named[first] or "Song", label, first, end - first))
    return tuple(sections)
