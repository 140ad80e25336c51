"""Score -> page model, by rules; what is chosen by hand is the look."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction

from orchesis.errors import BadScore
from orchesis.page.look import PLAIN, Look
from orchesis.page.model import (
    Bar,
    Beam,
    Bracket,
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
from orchesis.page.rhythm import spell
from orchesis.page.systems import lines_of, share_of
from orchesis.score import KIT, Meter, Score, Stroke
from orchesis.score.bar import of_bar
from orchesis.score.counting import place_text, words
from orchesis.score.kit import loc_in
from orchesis.score.rhythm_text import spoken as spoken_on
from orchesis.score.signs import SIGNS
from orchesis.score.untrusted import printable

FEET = ("RF", "LF")
LIMBS = ("RH", "LH", "RF", "LF")
GRACES = {"flam": 1, "drag": 2, "ruff": 3}
STROKED = ("buzz", "diddle")
_HARD = 4  # parts of a beat from which on a bar is hard to count


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
    signs = {sign for b in bars.values() if b.number not in look.hidden for sign in _signs_of(b)}
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
        words += _counts(strokes, meter, look)
        words += _sticking(strokes, brackets, look)
        words += _spoken(spoken.get(number, ""), strokes, meter)
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


# -- notes


@of_bar
def _staves(
    strokes: Sequence[Stroke], meter: Meter, view: str, layout: str, ghosts: str
) -> tuple[Staff, ...]:
    if view == "limbs":
        line = _Drawn("", ghosts)
        return tuple(
            Staff(_limb_voice([s for s in strokes if s.limb == limb], meter, line))
            for limb in LIMBS
        )
    drawn = _Drawn(layout, ghosts)
    hands = [s for s in strokes if s.limb not in FEET]
    feet = [s for s in strokes if s.limb in FEET]
    if not strokes:
        return (Staff(()),)
    voices = [_voice(hands, meter, "up", "rest", drawn)]
    if feet:
        voices.append(_told_once(_voice(feet, meter, "down", "space", drawn), voices[0]))
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


@dataclass(frozen=True, slots=True)
class _Drawn:
    """How heads are drawn. layout: "": all on one line, at ``line``; higher:
    by id, half spaces above it."""

    layout: str
    ghosts: str
    line: int = 0
    higher: tuple[tuple[str, int], ...] = ()

    def loc(self, s: Stroke) -> int:
        if self.layout:
            return loc_in(self.layout, s.part)
        return self.line + dict(self.higher).get(s.id, 0)


def rhythm_page(
    places: Sequence[Fraction], meter: Meter, goes_on: bool, pitches: Sequence[int] = ()
) -> Page:
    """One bar on one line: a rhythm; goes_on: above the beats of the time that goes on. pitches:
    its heads lie higher and lower with them, as one sings it."""
    hits = [Stroke(f"r{n}", 1, p, "snare", "LH", "normal", 0.7) for n, p in enumerate(places)]
    line = _Drawn("", "brackets", _ABOVE if goes_on else 0, _contour(pitches))
    voices = [_voice(hits, meter, "up", "space" if goes_on else "rest", line)]
    if goes_on:
        beats = [
            Event(
                Fraction(b),
                _BEATS.get(meter.unit, 4),
                int(meter.is_compound),
                (Head(f"b{b}", "snare", 0, "beat"),),
            )
            for b in range(meter.beats)
        ]
        voices.append(Voice("none", tuple(Beam((Group((e,)),), False) for e in beats)))
    bar = Bar(0, meter, 0.0, (Staff(tuple(voices)),), False, False, (), (), "")
    return Page("", "", "quarter", "", (("", 1),), (System((bar,)),), ())


#: Half spaces: of a rhythm over slashes, and from its lowest to its highest note.
_ABOVE, _CONTOUR = 5, 6


def _contour(pitches: Sequence[int]) -> tuple[tuple[str, int], ...]:
    """By how many half spaces each head lies higher than the lowest."""
    if not pitches:
        return ()
    low, high = min(pitches), max(pitches)
    scale = _CONTOUR / max(_CONTOUR, high - low)
    return tuple((f"r{n}", round((p - low) * scale)) for n, p in enumerate(pitches))


_BEATS = {2: 2, 4: 4, 8: 8, 16: 16}  # the value of a beat, by the unit of the meter


def _limb_voice(strokes: Sequence[Stroke], meter: Meter, drawn: _Drawn) -> tuple[Voice, ...]:
    return (_voice(strokes, meter, "up", "rest", drawn),) if strokes else ()


def _voice(
    strokes: Sequence[Stroke], meter: Meter, stem: str, silence: str, drawn: _Drawn
) -> Voice:
    by_place: dict[Fraction, list[Stroke]] = defaultdict(list)
    for s in strokes:
        by_place[s.place].append(s)
    beams: list[Beam] = []
    groups: list[Group] = []
    start: Fraction | None = None

    def close() -> None:
        if groups:
            sounding = [e for g in groups for e in g.events if e.heads]
            joined = len(sounding) > 1 and all(e.value >= 8 for e in sounding)
            beams.append(Beam(tuple(groups), joined))

    for g in spell(by_place, meter):
        if g.beam != start:
            close()
            groups, start = [], g.beam
        at, events = g.start, []
        for e in g.events:
            events.append(
                _event(
                    at,
                    e.value,
                    e.dots,
                    by_place.get(e.place, ()) if e.place is not None else (),
                    silence,
                    drawn,
                )
            )
            at += e.quarters * g.ratio / meter.beat_quarters
        groups.append(Group(tuple(events), g.tuplet))
    close()
    return Voice(stem, tuple(beams))


def _event(
    place: Fraction,
    value: int,
    dots: int,
    strokes: Sequence[Stroke],
    silence: str,
    drawn: _Drawn,
) -> Event:
    sorted_strokes = sorted(
        strokes, key=lambda s: (loc_in(drawn.layout or "common", s.part), s.loudness)
    )
    marks = tuple(m for m in SIGNS if any(m in marks_of(s) for s in sorted_strokes))
    graces = tuple(
        (drawn.loc(s), GRACES[s.ornament]) for s in sorted_strokes if s.ornament in GRACES
    )
    stroked = next((s.ornament for s in sorted_strokes if s.ornament in STROKED), "") or ""
    return Event(
        place,
        value,
        dots,
        tuple(_head(s, drawn) for s in sorted_strokes),
        silence,
        marks,
        graces,
        stroked,
    )


def _head(s: Stroke, drawn: _Drawn) -> Head:
    ghost = drawn.ghosts if s.dynamic == "ghost" else ""
    return Head(s.id, s.part, drawn.loc(s), KIT[s.part].head, ghost, s.doubt == "layer")


def marks_of(s: Stroke) -> list[str]:
    """Signs over or under a head."""
    marks = []
    if s.dynamic == "accent" or s.ornament == "drop":
        marks.append("accent")
    if s.choked:
        marks.append("choked")
    if s.part in ("hat_open", "hat_splash"):
        marks.append("open")
    elif s.part == "hat_half":
        marks.append("half")
    return marks


_GHOST_SIGNS = {"brackets": "ghost", "small": "small_ghost"}
_PART_SIGNS = {
    "hat_foot": "foot",
    "hat_splash": "splash",
    "cross_stick": "cross_stick",
    "rimshot": "rimshot",
    "ride_bell": "bell",
}


def _signs_of(bar: Bar) -> set[str]:
    if bar.is_repeat:
        return {"repeat"}
    signs: set[str] = set()
    for staff in bar.staves:
        for e in (e for v in staff.voices for b in v.beams for e in b.events):
            signs |= set(e.marks)
            signs |= {name for _, count in e.graces for name, n in GRACES.items() if n == count}
            signs |= {e.stroked} - {""}
            for h in e.heads:
                signs |= {_GHOST_SIGNS[h.ghost]} if h.ghost else set()
                signs |= {"layer"} if h.small else set()
                signs |= {_PART_SIGNS[h.part]} if h.part in _PART_SIGNS else set()
    return signs


# -- words under the notes


def _counts(strokes: Sequence[Stroke], meter: Meter, look: Look) -> list[Word]:
    """The count row of a bar: what sounds is spoken, the beats always stand there."""
    if look.counts == "none" or not strokes:
        return []
    grids = [s.place.denominator for s in strokes]
    if look.counts == "hard" and max(grids) < _HARD:
        return []
    struck = {s.place for s in strokes}
    places = struck | {Fraction(b) for b in range(meter.beats)}
    counts = []
    for place in sorted(places):
        text = count_word(place, struck, meter, look.counting)
        if text:
            counts.append(Word(place, text, "count" if place in struck else "uncounted"))
    return counts


def _spoken(text: str, strokes: Sequence[Stroke], meter: Meter) -> list[Word]:
    """Rhythm words under the notes; none where the bar was changed so that they fit no more."""
    try:
        syllables = spoken_on(text, strokes, meter) if text else []
    except BadScore:
        return []
    return [Word(s.place, s.text.upper() if s.is_stressed else s.text, "spoken") for s in syllables]


def count_word(
    place: Fraction, struck: set[Fraction], meter: Meter, school: str = "letters"
) -> str:
    """What is said at a place of a bar; "" where nobody says anything there."""
    beat, inside = int(place), place % 1
    if inside == 0:
        return str(beat + 1)
    grid = max((p % 1).denominator for p in struck if int(p) == beat)
    at = inside * grid
    if at.denominator != 1:  # two divisions in one beat
        grid, at = inside.denominator, Fraction(inside.numerator)
    return words(grid, meter.is_compound, school)[int(at)]


def _sticking(strokes: Sequence[Stroke], brackets: Sequence[Bracket], look: Look) -> list[Word]:
    """The hands' letters under them; both at once: B, or both letters of another language."""
    if look.sticking == "none":
        return []
    letters_by_place: dict[Fraction, set[str]] = defaultdict(set)
    for s in strokes:
        inside = any(b.start <= s.place < b.end for b in brackets)
        if s.limb not in FEET and s.doubt != "layer" and (look.sticking == "all" or inside):
            letters_by_place[s.place].add(s.limb[0])
    both = "B" if look.letters == "RL" else look.letters
    letter_of = {"R": look.letters[0], "L": look.letters[1]}
    return [
        Word(place, letter_of.get("".join(hands), both), "stick")
        for place, hands in sorted(letters_by_place.items())
    ]
