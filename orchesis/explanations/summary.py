"""What a song comes to at a glance: its tempo and that tempo's rivals, its fills, its form."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import asdict
from typing import Any

from orchesis import explanations, form
from orchesis.checks import review
from orchesis.fills import fill_bars
from orchesis.form import form_events, pulse_agreement
from orchesis.score import Score

#: Two tempi that differ by less than this share are one (bench: the tempo is heard to 0.1 %).
_SAME_TEMPO = 0.04
#: Share of all tones that one pitch class of twelve must pass, in even shares, to stand out.
_STANDS_OUT = 2.0


def summary(score: Score, heard: Mapping[str, Any]) -> dict[str, Any]:
    """{tempo, fills, form} of a score. heard: the analysis file of its recording; empty where it
    came as a score and nothing was heard."""
    filled = fill_bars(score.played())
    beats = score.bar_beats()
    return {
        "tempo": tempo(score, heard.get("tempo")),
        "fills": [
            {
                "bar": bar,
                "start": score.pulse.seconds(beats[bar - 1] + beat),
                "end": score.seconds(bar + 1),
            }
            for bar, beat in filled
        ],
        "form": form_of(score, {bar for bar, _ in filled}, heard.get("levels", [])),
    }


def form_of(
    score: Score, fills: Collection[int], levels: Sequence[Sequence[float]] = ()
) -> dict[str, Any]:
    """{sections, events, disagree, states, confidence} of a score.

    fills: the bars of fills. levels: of the whole and of the drums each second, in dB.
    """
    played = score.played()
    events = form_events.events(played, fills, levels)
    return {
        "sections": [asdict(f) for f in form.section_facts(played, fills, levels)],
        "events": [
            {"bar": e.bar, "kind": e.kind, "says": explanations.form_event(e)} for e in events
        ],
        "disagree": pulse_agreement.disagreeing(played),
        "states": review.states(score),
        "confidence": pulse_agreement.pulse_confidence(played),
    }


def tempo(score: Score, heard: Mapping[str, Any] | None) -> dict[str, Any]:
    """The tempo (bpm, low, high) as the score now has it, and the readings that rival it: half,
    double, and what else was heard. heard: the tempo of the analysis file; without one it is as
    sure as what is written."""
    bpm, low, high = (round(x, 2) for x in score.pulse.tempo())
    if heard is None:
        heard = {"bpm": bpm, "alternatives": (), "steady": low == high, "confidence": 1.0}
    rivals = [round(bpm / 2, 1), round(bpm * 2, 1)]
    for other in (heard["bpm"], *heard["alternatives"]):
        if all(abs(other / rival - 1) > _SAME_TEMPO for rival in (bpm, *rivals)):
            rivals.append(other)
    return {
        "bpm": bpm,
        "low": low,
        "high": high,
        "steady": heard["steady"],
        "confidence": heard["confidence"],
        "alternatives": sorted(rivals),
    }


def bass_tones(heard: Mapping[str, Any], bar_count: int) -> list[int | None]:
    """The pitch class (0 = C) that each bar of the band has most of; None where none stands out.

    Empty where the song has other bars by now than were heard.
    """
    bars = heard.get("bars", [])
    if len(bars) != bar_count:
        return []
    return [_standing_out(b["chroma"]) for b in bars]


def _standing_out(chroma: list[float]) -> int | None:
    top = max(range(12), key=lambda k: chroma[k])
    return top if chroma[top] > _STANDS_OUT * sum(chroma) / 12 else None
