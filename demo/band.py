"""The made-up band behind the demo drums: bass, keys and guitar as MIDI."""

from __future__ import annotations

import mido
import numpy as np

from orchesis.score import Score

#: Chords of each song by section stem, one a bar, repeated: (bass root, chord tones).
_A, _C, _D, _E, _F, _G = 45, 48, 50, 52, 53, 55


def _minor(root: int) -> tuple[int, list[int]]:
    return root, [root + 12, root + 15, root + 19]


def _major(root: int) -> tuple[int, list[int]]:
    return root, [root + 12, root + 16, root + 19]


HARMONY = {
    "Copper Weather": {
        "Intro": [_minor(_A), _minor(_A), _major(_F), _major(_G)],
        "Verse": [_minor(_A), _major(_F), _major(_C), _major(_G)],
        "Chorus": [_major(_F), _major(_G), _minor(_A), _major(_C)],
        "Bridge": [_minor(_D), _minor(_D), _major(_F), _minor(_E)],
        "Outro": [_minor(_A), _major(_F), _minor(_A)],
    },
    "Late Tram, Lower Deck": {
        "Intro": [_minor(_E)],
        "Verse": [_minor(_E), _minor(_E), _minor(_A), _minor(_E)],
        "Chorus": [_major(_C), _major(_D), _minor(_E), _minor(_E)],
        "Bridge": [_minor(_A), _major(_C)],
        "Outro": [_minor(_E)],
    },
    "Glass Orchard": {
        "Intro": [_minor(_D), _minor(_D)],
        "Head": [_minor(_D), _major(_G), _major(_C), _minor(_A)],
        "Out": [_minor(_D), _major(_G), _major(_C)],
    },
    "Northline": {
        "Intro": [_major(_D)],
        "Verse": [_major(_D), _major(_D), _major(_G), _major(_D)],
        "Riff": [_minor(_E), _major(_G), _major(_D), _major(_A), _major(_A)],
        "Chorus": [_major(_G), _major(_A), _major(_D), _minor(47)],
        "Bridge": [_minor(_E), _minor(_E), _major(_G), _major(_A)],
        "Outro": [_major(_D)],
    },
}
BASS, KEYS, GUITAR = (0, 33), (1, 4), (2, 27)


def midi(score: Score, seconds_at, rng: np.random.Generator) -> mido.MidiFile:
    """The band of one song; ``seconds_at(beat)`` gives the moment of a song beat.

    One tick is a millisecond, so that any wandering pulse can be written.
    """
    events: list[tuple[int, mido.Message]] = []

    def note(channel: int, key: int, start: float, end: float, velocity: int) -> None:
        shift = rng.normal(0, 0.005)
        on = max(0, round((seconds_at(start) + shift) * 1000))
        off = max(on + 40, round(seconds_at(end) * 1000) - 15)
        events.append((on, mido.Message("note_on", channel=channel, note=key, velocity=velocity)))
        events.append((off, mido.Message("note_off", channel=channel, note=key)))

    bars, by_bar = score.bar_beats(), score.by_bar()
    for section in score.sections:
        stem = section.name.split(" ")[0]
        chords = HARMONY[score.title][stem]
        for i in range(section.bars):
            bar = section.first_bar + i
            beat, beats = bars[bar - 1], score.meters[bar - 1].beats
            root, tones = chords[i % len(chords)]
            if stem == "Intro" and i < 2:
                tones = []
            kicks = [float(s.place) for s in by_bar[bar] if s.part == "kick"] or [0.0]
            for k, place in enumerate(kicks):
                end = kicks[k + 1] if k + 1 < len(kicks) else beats
                note(0, root - 12, beat + place, beat + min(end, place + 1.5), 92)
            for tone in tones:
                note(1, tone, beat, beat + beats - 0.1, 58 if stem == "Verse" else 72)
            if stem in ("Chorus", "Riff", "Outro"):
                for eighth in range(2 * beats):
                    for tone in tones[::2]:
                        note(2, tone, beat + eighth / 2, beat + eighth / 2 + 0.4, 66)
    return song_of(events, (BASS, KEYS, GUITAR))


def song_of(
    events: list[tuple[int, mido.Message]], programs: tuple[tuple[int, int], ...]
) -> mido.MidiFile:
    """Messages at their milliseconds as a song of one track; programs: (channel, program)."""
    song = mido.MidiFile(ticks_per_beat=1000)
    track = mido.MidiTrack()
    song.tracks.append(track)
    track.append(mido.MetaMessage("set_tempo", tempo=1_000_000))
    for channel, program in programs:
        track.append(mido.Message("program_change", channel=channel, program=program))
    now = 0
    for at, message in sorted(events, key=lambda e: (e[0], e[1].type == "note_on")):
        track.append(message.copy(time=at - now))
        now = at
    return song
