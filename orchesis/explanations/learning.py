"""What comes back, what tells the song, and how the kick goes with the bass, in words."""

from __future__ import annotations

from typing import Any

from orchesis.explanations.common import MOST_NAMED
from orchesis.grooves.kick_and_bass import KickAndBass
from orchesis.score import Meter
from orchesis.score.counting import place_text
from orchesis.teaching import passages
from orchesis.teaching.reuse import Passage, Return, Reuse


def returned(r: Return) -> str:
    """Where some beats come from."""
    a, b = r.where, r.source
    if a.bar == b.bar and a.beats == b.beats == 1 and r.how == "moved":
        return f"The figure of {b.beat} comes back on {a.beat}."
    source = f"{_beats(b)} of bar {b.bar}"
    if a.beat == 1 and a.beats == 1 and r.how == "moved":
        return f"Bar {a.bar} opens with {source}, nothing new."
    how = {"drums": " on other drums", "faster": " twice as fast"}.get(r.how, "")
    where = _beats(a)
    is_ = "is" if a.beats == 1 else "are"
    return f"{where[0].upper()}{where[1:]} of bar {a.bar} {is_} {source}{how}."


def _beats(p: Passage) -> str:
    """“beat 3”, “beats 3 and 4”, “beats 1 to 4”; beats behind the bar's end count on."""
    last = p.beat + p.beats - 1
    if p.beats == 1:
        return f"beat {p.beat}"
    return f"beats {p.beat} {'and' if p.beats == 2 else 'to'} {last}"


def to_learn(r: Reuse) -> str:
    """What must be learned of a part."""
    count = len(r.figures)
    if not count:
        return "Nothing to learn but the time."
    what = "one figure" if count == 1 else f"{count} figures"
    strokes = f"{r.strokes} stroke{'s' * (r.strokes != 1)}"
    rest = f"; everything else is {'it' if count == 1 else 'one of them'} again"
    sentence = f"{what} of {strokes}{rest if r.returns else ''}."
    return sentence[0].upper() + sentence[1:]


def told_passage(p: passages.Passage) -> dict[str, Any]:
    """A passage of the song's cover with its words."""
    runs = passages.spans(p.covers)
    named = ", ".join(str(a) if a == b else f"{a}–{b}" for a, b in runs[:MOST_NAMED])
    where = f"bar{'s' if len(p.covers) > 1 else ''} {named}{' …' * (len(runs) > MOST_NAMED)}"
    return {
        "bar": p.bar,
        "bars": p.bars,
        "covers": list(p.covers),
        "share": round(p.share, 4),
        "says": f"tells {where}" + (f" ({', '.join(p.sections)})" if p.sections else ""),
    }


def kick_and_bass(k: KickAndBass, meter: Meter) -> list[str]:
    """How far the kick follows the bass, and where it does not."""
    if not k.of_bass:
        return ["No bass is heard here."]
    sentences = [f"The kick is on {k.together} of {k.of_bass} notes of the bass that are heard"]
    sentences[0] += f"; {k.together} of its {k.of_kick} strokes are with it." if k.of_kick else "."
    for name, alone in (("The bass", k.bass_alone), ("The kick", k.kick_alone)):
        spots = ", ".join(f"{place_text(p, meter)} ({n}×)" for p, n in alone[:4])
        if spots:
            sentences.append(f"{name} alone: on {spots}.")
    return sentences


_VOLUNTEERED = 5  # returns that are told unasked


def told_reuse(r: Reuse) -> dict[str, Any]:
    """What has to be learned of some bars, and what comes back at another place or otherwise: each
    source once, for what a bar repeats of another at its own place needs no telling."""
    sentences: dict[tuple[Passage, str], str] = {}
    for back in r.returns:
        if back.how != "same":
            sentences.setdefault((back.source, back.how), returned(back))
    return {"learn": to_learn(r), "returns": list(sentences.values())[:_VOLUNTEERED]}
