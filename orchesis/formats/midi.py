"""Score -> Standard MIDI File: the percussion on its places or at its moments, the song's own tempo
map."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable
from io import BytesIO

import mido

from orchesis.formats.midi_keys import GENERAL, Keys
from orchesis.score import Score, Stroke
from orchesis.score.stroke import GRACES

#: A stroke -> the second at which it sounds.
Moment = Callable[[Stroke], float]
TICKS = 480
_LENGTH = TICKS // 8
_CHANNEL = 9


def write(score: Score, moment: Moment | None = None, keys: Keys = GENERAL) -> bytes:
    """The strokes as MIDI (format 1); played back, they follow the pulse map. moment: the second
    at which each sounds; None: on its written place."""
    song = mido.MidiFile(type=1, ticks_per_beat=TICKS)
    song.tracks.append(_conductor(score))
    song.tracks.append(_drums(score, moment, keys))
    out = BytesIO()
    song.save(file=out)
    return out.getvalue()


def _bar_ticks(score: Score) -> list[int]:
    ticks = [0]
    for meter in score.meters:
        ticks.append(ticks[-1] + int(meter.quarters * TICKS))
    return ticks


def _conductor(score: Score) -> mido.MidiTrack:
    """Time signatures, a tempo for every beat, and a marker for every section."""
    starts, events = _bar_ticks(score), []
    beat = 0
    previous = None
    for bar, meter in enumerate(score.meters):
        if meter != previous:
            events.append(
                (
                    starts[bar],
                    mido.MetaMessage(
                        "time_signature", numerator=meter.count, denominator=meter.unit
                    ),
                )
            )
            previous = meter
        for k in range(meter.beats):
            seconds = score.pulse.times[beat + 1] - score.pulse.times[beat]
            tempo = round(seconds * 1e6 / float(meter.beat_quarters))
            at = starts[bar] + int(k * meter.beat_quarters * TICKS)
            events.append((at, mido.MetaMessage("set_tempo", tempo=min(tempo, 0xFFFFFF))))
            beat += 1
    for section in score.sections:
        name = section.name.encode("latin-1", "replace").decode("latin-1")
        events.append((starts[section.first_bar - 1], mido.MetaMessage("marker", text=name)))
    title = score.title.encode("latin-1", "replace").decode("latin-1")
    return _track(events, [mido.MetaMessage("track_name", name=title)])


def _drums(score: Score, moment: Moment | None, keys: Keys) -> mido.MidiTrack:
    starts, events = _bar_ticks(score), []
    for s in score.ordered():
        meter = score.meters[s.bar - 1]
        at = starts[s.bar - 1] + round(s.place * meter.beat_quarters * TICKS)
        if moment is not None:
            at = _tick(score, starts, moment(s))
        key, velocity = keys.written[s.part], max(1, round(s.loudness * 127))
        events += _note(at, key, velocity)
        # What sounds with an ornament, as hands play it: seconds by the tempo of its beat.
        beat = float(score.beat_of(s.bar, s.place))
        quarter = (score.pulse.seconds(beat + 0.5) - score.pulse.seconds(beat - 0.5)) / float(
            meter.beat_quarters
        )
        for grace in GRACES.get(s.ornament or "", ()):
            off = grace.beats * float(meter.beat_quarters) + grace.seconds / max(quarter, 0.05)
            soft = max(1, round(velocity * grace.share))
            events += _note(max(0, at + round(off * TICKS)), key, soft)
    return _track(events, [mido.MetaMessage("track_name", name="Drums")])


def _tick(score: Score, starts: list[int], seconds: float) -> int:
    """The tick of a moment, by the pulse."""
    beat = max(0.0, score.pulse.beat(seconds))
    bars = score.bar_beats()
    bar = min(bisect_right(bars, beat), score.bar_count) - 1
    inside = (beat - bars[bar]) * float(score.meters[bar].beat_quarters)
    return starts[bar] + round(inside * TICKS)


def _note(at: int, key: int, velocity: int) -> list[tuple[int, mido.Message]]:
    sent = {"channel": _CHANNEL, "note": key}
    return [
        (at, mido.Message("note_on", velocity=velocity, **sent)),
        (at + _LENGTH, mido.Message("note_off", velocity=0, **sent)),
    ]


def _track(events: list[tuple[int, mido.Message]], head: list[mido.MetaMessage]) -> mido.MidiTrack:
    track = mido.MidiTrack(head)
    now = 0
    for at, message in sorted(events, key=lambda e: (e[0], e[1].type == "note_on")):
        track.append(message.copy(time=at - now))
        now = at
    return track
