"""Doubts, decisions, other takes and the sounds of the song in words."""

from __future__ import annotations

from orchesis.checks.kit_sounds import Sound
from orchesis.checks.other_takes import Tally
from orchesis.checks.review import Doubt
from orchesis.explanations.common import MOST_NAMED, bars_text, called, label
from orchesis.score import KIT, Score
from orchesis.score.counting import place_text
from orchesis.score.decision import Decision


def doubt(d: Doubt, score: Score) -> str:
    """What is asked, with its evidence."""
    return "; ".join(
        [_asked(d, score), *(f"{name} has it in {n} of {of}" for name, n, of in d.takes)]
    )


def _asked(d: Doubt, score: Score) -> str:
    if d.heard is not None:
        return _asked_of_sound(d.heard)
    name = called(d.part, d.ghost)
    name = name[0].upper() + name[1:]
    at = place_text(d.place, score.meters[d.bars[0] - 1])
    section = d.section or "the song"
    match d.kind:
        case "marked":
            why = f" ({d.reason})" if d.reason else ""
            return f"{name} on {at} in bar {d.bars[0]}, marked as doubtful{why}"
        case "unsure":
            where = f"on {at} in {bars_text(d.bars)} of {section}"
            sure = f"{name} {where}: {round(100 * d.sure)} % sure"
            return f"{sure}; {d.having} other bars have it surely" if d.having else sure
        case "perhaps":
            where = f"on {at} in {bars_text(d.bars)} of {section}"
            sure = f"Perhaps a {label(d.part)} {where}, not written: {round(100 * d.sure)} % sure"
            return f"{sure}; {d.having} other bars have it" if d.having else sure
        case "missing":
            bars = f"{'bar' if len(d.bars) == 1 else 'bars'} {', '.join(map(str, d.bars[:6]))}"
            have = f"{d.having} of {d.of} bars of {section} have it"
            return f"No {label(d.part)} on {at} in {bars}; {have}"
        case "hands":
            parts = ", ".join(label(p) for p in d.parts)
            return (
                f"{parts} together on {at} in {bars_text(d.bars)}: no two hands play that; "
                f"a layered recording, or one is not there (the {label(d.part)} is least sure)"
            )
    e = d.echo
    assert e is not None
    question = (
        f"An echo? {len(e.pairs)} of {e.could} loud {label(e.part)} strokes are followed "
        f"by a soft one after {1000 * e.delay:.0f} ms (spread {1000 * e.spread:.1f} ms), "
        f"{e.below:.0f} dB below; they come late and loud when their strokes do"
    )
    return question if d.alike is None else f"{question}; their spectra are alike ({d.alike:.2f})"


def _asked_of_sound(s: Sound) -> str:
    count = f"{s.written} strokes sound alike and are written as {label(s.part)}"
    if s.doubt and s.doubt != "no drum":
        return f"{count}; many were heard as {label(s.doubt)}. What are they?"
    if KIT[s.part].layer == "toms" and s.sure >= 0.5:
        return f"{count}. Is it that tom?"
    return f"{count}, {round(100 * s.sure)} % sure. What are they?"


_DECIDED = {"assumed": "assumed", "doubtful": "doubtful", "left_out": "heard, but left out"}


def decision(d: Decision, score: Score) -> str:
    """What was decided of some strokes, why, by whom and when."""
    named = ", ".join(map(str, d.bars[:MOST_NAMED]))
    where = f"Bar {named}" if len(d.bars) == 1 else f"Bars {named}"
    where += " ..." if len(d.bars) > MOST_NAMED else ""
    at = place_text(d.place, score.meters[d.bars[0] - 1])
    says = f"{where}, {called(d.part, d.ghost)} on {at}: {_DECIDED[d.doubt]}"
    says += f" ({d.reason})" if d.reason else ""
    return f"{says}. {d.who}, {d.when}" if d.who else says


def tally(t: Tally) -> str:
    """How many bars have a stroke here, and in the other takes."""
    others = "; ".join(f"{n} of {of} in {name}" for name, n, of in t.there)
    return f"{t.here} of {t.of} bars here, {others}"


def sound(s: Sound) -> str:
    """What a person should know of a sound before naming it; "" where nothing speaks against it."""
    if s.answer == "named":
        return "named by you"
    if s.answer == "no_drum":
        return "no drum: nothing of it is written"
    if s.doubt == "no drum":
        return "perhaps no drum"
    if s.doubt:
        return f"many were heard as {label(s.doubt)}"
    return f"{s.unsure} more are perhaps it" if s.unsure > 0.5 * s.written else ""
