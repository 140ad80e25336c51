"""Score -> page model, by rules; what is chosen by hand is the look."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from fractions import Fraction

from orchesis.page.look import PLAIN, Look
from orchesis.page.model import (
    Bar,
    Beam,
    Event,
    Group,
    Head,
    Heading,
    Page,
    Staff,
    System,
    Voice,
    Word,
)
from orchesis.page.systems import lines_of, share_of
from orchesis.page.text_rows import counts_of, spoken_row, sticking_of
from orchesis.page.voices import ABOVE, BEATS, FEET, Drawn, contour, limb_voice, signs_of, voice_of
from orchesis.score import Meter, Score, Stroke
from orchesis.score.bar import of_bar
from orchesis.score.counting import place_text
from orchesis.score.signs import SIGNS
from orchesis.score.untrusted import printable

LIMBS = ("RH", "LH", "RF", "LF")


def page_of(score: Score, look: Look = PLAIN, footnotes: Sequence[str] = ()) -> Page:
    """The page of a score as it is written (or of some of its bars)."""
    first, last = look.bars or (1, score.bar_count)
    spoken_words = score.spoken_by_bar()
    bars = {b: _bar(score, b, look, first, spoken_words) for b in range(first, last + 1)}
    headings = {
        s.first_bar: Heading(
            printable(s.name),
            score.seconds(s.first_bar),
            s.bars,
            _said_of(s.first_bar, look),
            first_bar=s.first_bar,
        )
        for s in score.sections
        if first <= s.first_bar <= last
    }
    systems = [
        System(
            tuple(bars[b] for b in line if b not in look.hidden),
            headings.get(line[0]),
            share_of([bars[b] for b in line], look),
            look.breaks.get(line[0]) == "page",
        )
        for line in lines_of(score, bars, look, first, last)
        if line[0] not in look.hidden or line[0] in headings
    ]
    signs = {sign for b in bars.values() if b.number not in look.hidden for sign in signs_of(b)}
    beat, tempo = _tempo(score, look.feel)
    staves = (("", 5),) if look.view == "full" else tuple((limb, 1) for limb in LIMBS)
    return Page(
        printable(score.title or "Untitled"),
        printable(score.artist),
        beat,
        tempo,
        staves,
        tuple(systems),
        tuple(s for s in SIGNS if s in signs),
        tuple(footnotes),
        tuple((s, printable(text)) for s, text in score.how_to.items()),
    )


def _said_of(first_bar: int, look: Look) -> str:
    left_out = "not written out" if first_bar in look.hidden else ""
    return ", ".join(filter(None, [left_out, look.headings.get(first_bar, "")]))


def _tempo(score: Score, feel: str = "") -> tuple[str, str]:
    """(the beat's value, the tempo with its mark of feel in words)."""
    median, low, high = score.pulse.tempo()
    meter = score.meters[0]
    beat = (
        "dotted"
        if meter.is_compound
        else {8: "eighth", 2: "half", 16: "16th"}.get(meter.unit, "quarter")
    )
    says = [f"{median:.0f}" if high - low < 2.5 else f"about {median:.0f}"]
    level, ratio = score.swing
    if level != "none":
        which = "8ths" if level == "eighth" else "16ths"
        says.append(f"{which} swung, {_ratio(ratio)}")
    elif any(s.place.denominator in (2, 4) for s in score.strokes.values()):
        says.append("straight")
    if feel:
        says.append(feel)
    return beat, ", ".join(says)


def _ratio(ratio: float) -> str:
    """The swing in words: how a drummer would call it, and its share."""
    word = (
        "a triplet"
        if abs(ratio - 2 / 3) < 0.025
        else ("lightly" if ratio < 0.57 else "half-way" if ratio < 0.64 else "hard")
    )
    return f"{word} ({100 * ratio:.0f} : {100 - 100 * ratio:.0f})"


def _bar(score: Score, number: int, look: Look, first: int, spoken: Mapping[int, str]) -> Bar:
    meter = score.meters[number - 1]
    strokes = score.strokes_of(number)
    words = [*look.words.get(number, ())]
    if number in score.cues:
        words.append(Word(Fraction(0), _cue(score, number), "cue"))
    if score.notes.get(number):
        words.append(Word(Fraction(0), printable(score.notes[number]), "note"))
    brackets = tuple(look.brackets.get(number, ()))
    is_repeat = (
        look.repeats
        and number > first
        and bool(strokes)
        and not words
        and not brackets
        and score.section_at(number) == score.section_at(number - 1)
        and meter == score.meters[number - 2]
        and _same(strokes, score.strokes_of(number - 1))
    )
    if not is_repeat:
        words += counts_of(strokes, meter, look)
        words += sticking_of(strokes, brackets, look)
        words += spoken_row(spoken.get(number, ""), strokes, meter)
    begins = number == first or number - 1 in look.hidden
    return Bar(
        number,
        meter,
        score.seconds(number),
        _staves(strokes, meter, look.view, look.layout, look.ghosts),
        begins or meter != score.meters[number - 2],
        is_repeat,
        tuple(words),
        brackets,
        "end" if number == score.bar_count else "",
    )


def _same(a: Sequence[Stroke], b: Sequence[Stroke]) -> bool:
    def shape(strokes_of_bar: Sequence[Stroke]) -> list[tuple[object, ...]]:
        return [(s.place, s.part, s.dynamic, s.ornament, s.choked, s.limb) for s in strokes_of_bar]

    return shape(a) == shape(b)


def _cue(score: Score, bar: int) -> str:
    """What the band does: its words, and its rhythm by the count."""
    cue, meter = score.cues[bar], score.meters[bar - 1]
    words = [f"“{cue.words}”"] if cue.words else []
    if cue.places:
        words.append("band: " + " ".join(place_text(p, meter) for p in cue.places))
    return ", ".join(words)


@of_bar
def _staves(
    strokes: Sequence[Stroke], meter: Meter, view: str, layout: str, ghosts: str
) -> tuple[Staff, ...]:
    if view == "limbs":
        line = Drawn("", ghosts)
        return tuple(
            Staff(limb_voice([s for s in strokes if s.limb == limb], meter, line)) for limb in LIMBS
        )
    drawn = Drawn(layout, ghosts)
    hands = [s for s in strokes if s.limb not in FEET]
    feet = [s for s in strokes if s.limb in FEET]
    if not strokes:
        return (Staff(()),)
    voices = [voice_of(hands, meter, "up", "rest", drawn)]
    if feet:
        voices.append(_told_once(voice_of(feet, meter, "down", "space", drawn), voices[0]))
    return (Staff(tuple(voices)),)


def _told_once(voice: Voice, other: Voice) -> Voice:
    """A voice whose tuplets bear no number where the other voice has the same ones."""
    tuplets = {(g.events[0].place, g.tuplet) for b in other.beams for g in b.groups if g.tuplet}

    def once(g: Group) -> Group:
        key = (g.events[0].place, g.tuplet) in tuplets
        return Group(g.events, g.tuplet, False) if key else g

    return Voice(
        voice.stem, tuple(Beam(tuple(map(once, b.groups)), b.is_joined) for b in voice.beams)
    )


def rhythm_page(
    places: Sequence[Fraction], meter: Meter, goes_on: bool, pitches: Sequence[int] = ()
) -> Page:
    """One bar on one line: a rhythm; goes_on: above the beats of the time that goes on. pitches:
    its heads lie higher and lower with them, as one sings it."""
    hits = [Stroke(f"r{n}", 1, p, "snare", "LH", "normal", 0.7) for n, p in enumerate(places)]
    line = Drawn("", "brackets", ABOVE if goes_on else 0, contour(pitches))
    voices = [voice_of(hits, meter, "up", "space" if goes_on else "rest", line)]
    if goes_on:
        beats = [
            Event(
                Fraction(b),
                BEATS.get(meter.unit, 4),
                int(meter.is_compound),
                (Head(f"b{b}", "snare", 0, "beat"),),
            )
            for b in range(meter.beats)
        ]
        voices.append(Voice("none", tuple(Beam((Group((e,)),), False) for e in beats)))
    bar = Bar(0, meter, 0.0, (Staff(tuple(voices)),), False, False, (), (), "")
    return Page("", "", "quarter", "", (("", 1),), (System((bar,)),), ())
