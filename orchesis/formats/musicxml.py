"""Score -> MusicXML 4.0 (partwise): one drum part, hands in voice 1, feet in voice 2."""

from __future__ import annotations

from fractions import Fraction
from xml.etree import ElementTree as ET

from orchesis.page import Look, page_of
from orchesis.page.model import Bar, Event, Group, Head, Voice
from orchesis.page.voices import FEET, GRACES, STROKED, marks_of
from orchesis.score import KIT, Meter, Score, Stroke
from orchesis.score.untrusted import printable

#: Parts of a quarter: divisible by 128ths, triplets, nonuplets, quintuplets, septuplets.
DIVISIONS = 64 * 9 * 5 * 7
_TYPES = {
    1: "whole",
    2: "half",
    4: "quarter",
    8: "eighth",
    16: "16th",
    32: "32nd",
    64: "64th",
    128: "128th",
}
_STEPS = "CDEFGAB"
_HEADS = {"x": "x", "diamond": "diamond", "triangle": "triangle", "slashed": "slash"}
_DOCTYPE = (
    '<?xml version="1.0" encoding="UTF-8"?>\n'
    '<!DOCTYPE score-partwise PUBLIC "-//Recordare//DTD MusicXML 4.0 Partwise//EN" '
    '"http://www.musicxml.org/dtds/partwise.dtd">\n'
)


def write(score: Score) -> bytes:
    """The full chart as MusicXML 4.0."""
    root = ET.Element("score-partwise", version="4.0")
    work = ET.SubElement(root, "work")
    ET.SubElement(work, "work-title").text = printable(score.title or "Untitled")
    identification = ET.SubElement(root, "identification")
    ET.SubElement(identification, "creator", type="composer").text = printable(score.artist)
    encoding = ET.SubElement(identification, "encoding")
    ET.SubElement(encoding, "software").text = "Orchesis"
    used = [name for name in KIT if any(s.part == name for s in score.strokes.values())]
    _part_list(root, used)
    part = ET.SubElement(root, "part", id="P1")
    page = page_of(score, Look(counts="hard"))
    tempos = score.tempo_changes()
    sections = {s.first_bar: s.name for s in score.sections}
    for written in (b for system in page.systems for b in system.bars):
        bar, meter = written.number, written.meter
        measure = ET.SubElement(part, "measure", number=str(bar))
        if written.shows_meter:
            _attributes(measure, meter, first=bar == 1)
        if bar in sections:
            _words(measure, "rehearsal", sections[bar])
        if bar in tempos:
            _metronome(measure, score, bar, tempos[bar])
        if bar == 1 and score.swing[0] != "none":
            _swing(measure, *score.swing)
        for word in written.words:
            if word.kind in ("cue", "note"):
                _words(measure, "words", word.text)
        _bar(measure, written, score)
        if bar == score.bar_count:
            line = ET.SubElement(measure, "barline", location="right")
            ET.SubElement(line, "bar-style").text = "light-heavy"
    return _DOCTYPE.encode() + ET.tostring(root, encoding="utf-8")


def _part_list(root: ET.Element, used: list[str]) -> None:
    part = ET.SubElement(ET.SubElement(root, "part-list"), "score-part", id="P1")
    ET.SubElement(part, "part-name").text = "Drums"
    for name in used:
        instrument = ET.SubElement(part, "score-instrument", id=f"P1-{name}")
        ET.SubElement(instrument, "instrument-name").text = KIT[name].label
    for name in used:
        midi = ET.SubElement(part, "midi-instrument", id=f"P1-{name}")
        ET.SubElement(midi, "midi-channel").text = "10"
        ET.SubElement(midi, "midi-unpitched").text = str(KIT[name].midi + 1)


def _attributes(measure: ET.Element, meter: Meter, *, first: bool) -> None:
    attributes = ET.SubElement(measure, "attributes")
    if first:
        ET.SubElement(attributes, "divisions").text = str(DIVISIONS)
        ET.SubElement(ET.SubElement(attributes, "key"), "fifths").text = "0"
    time = ET.SubElement(attributes, "time")
    ET.SubElement(time, "beats").text = str(meter.count)
    ET.SubElement(time, "beat-type").text = str(meter.unit)
    if first:
        ET.SubElement(ET.SubElement(attributes, "clef"), "sign").text = "percussion"


def _words(measure: ET.Element, kind: str, text: str) -> None:
    direction = ET.SubElement(measure, "direction", placement="above")
    ET.SubElement(ET.SubElement(direction, "direction-type"), kind).text = text


def _metronome(measure: ET.Element, score: Score, bar: int, tempo: float) -> None:
    """tempo: quarters a minute, dotted ones in a compound meter."""
    compound = score.meters[bar - 1].is_compound
    direction = ET.SubElement(measure, "direction", placement="above")
    mark = ET.SubElement(ET.SubElement(direction, "direction-type"), "metronome")
    ET.SubElement(mark, "beat-unit").text = "quarter"
    if compound:
        ET.SubElement(mark, "beat-unit-dot")
    ET.SubElement(mark, "per-minute").text = f"{tempo:.0f}"
    ET.SubElement(direction, "sound", tempo=f"{tempo * (1.5 if compound else 1):.2f}")


def _swing(measure: ET.Element, level: str, ratio: float) -> None:
    direction = ET.SubElement(measure, "direction", placement="above")
    share = round(100 * ratio)
    words = ET.SubElement(ET.SubElement(direction, "direction-type"), "words")
    words.text = f"swing {share} : {100 - share}"
    swing = ET.SubElement(ET.SubElement(direction, "sound"), "swing")
    ET.SubElement(swing, "first").text = str(share)
    ET.SubElement(swing, "second").text = str(100 - share)
    ET.SubElement(swing, "swing-type").text = "eighth" if level == "eighth" else "16th"


def _bar(measure: ET.Element, bar: Bar, score: Score) -> None:
    counts = {w.place: w.text for w in bar.words if w.kind == "count"}
    voices = bar.staves[0].voices
    if not voices:
        note = ET.SubElement(measure, "note")
        ET.SubElement(note, "rest", measure="yes")
        ET.SubElement(note, "duration").text = str(int(bar.meter.quarters * DIVISIONS))
        ET.SubElement(note, "voice").text = "1"
        return
    for number, voice in enumerate(voices, 1):
        if number > 1:
            back = ET.SubElement(measure, "backup")
            ET.SubElement(back, "duration").text = str(int(bar.meter.quarters * DIVISIONS))
        _voice(measure, voice, bar.meter, number, score, counts)


def _voice(
    measure: ET.Element,
    voice: Voice,
    meter: Meter,
    number: int,
    score: Score,
    counts: dict[Fraction, str],
) -> None:
    """counts: what is still to be said under a note, by place."""
    for beam in voice.beams:
        sounding = [e for e in beam.events if e.heads]
        for group in beam.groups:
            at = group.events[0].place * meter.beat_quarters * DIVISIONS
            ratio = Fraction(group.tuplet[1], group.tuplet[0]) if group.tuplet else Fraction(1)
            for i, event in enumerate(group.events):
                start, at = at, at + event.quarters * ratio * DIVISIONS
                length = round(at) - round(start)  # rounded where it ends: the bar is always full
                if not event.heads:
                    _silence(measure, event, length, number, group)
                    continue
                beams = _beam(sounding, event) if beam.is_joined else None
                _graces(measure, event, number, score)
                for k, head in enumerate(event.heads):
                    note = _note(measure, head, event, length, number, group, chord=k > 0)
                    if k == 0 and beams:
                        ET.SubElement(note, "beam", number="1").text = beams
                    _notations(note, group, i, score.strokes[head.id], first=k == 0)
                    if k == 0 and event.place in counts:
                        lyric = ET.SubElement(note, "lyric", name="count")
                        ET.SubElement(lyric, "syllabic").text = "single"
                        ET.SubElement(lyric, "text").text = counts.pop(event.place)


def _beam(sounding: list[Event], event: Event) -> str:
    index = sounding.index(event)
    return "begin" if index == 0 else "end" if index == len(sounding) - 1 else "continue"


def _silence(measure: ET.Element, event: Event, length: int, voice: int, group: Group) -> None:
    if event.silence == "space" and not group.tuplet:
        ET.SubElement(ET.SubElement(measure, "forward"), "duration").text = str(length)
        return
    note = ET.SubElement(measure, "note")
    ET.SubElement(note, "rest")
    ET.SubElement(note, "duration").text = str(length)
    ET.SubElement(note, "voice").text = str(voice)
    _value(note, event, group)


def _value(note: ET.Element, event: Event, group: Group) -> None:
    ET.SubElement(note, "type").text = _TYPES[event.value]
    for _ in range(event.dots):
        ET.SubElement(note, "dot")
    if group.tuplet:
        change = ET.SubElement(note, "time-modification")
        ET.SubElement(change, "actual-notes").text = str(group.tuplet[0])
        ET.SubElement(change, "normal-notes").text = str(group.tuplet[1])


def _graces(measure: ET.Element, event: Event, voice: int, score: Score) -> None:
    """Flams, drags and ruffs as grace notes of their own drum before what they belong to."""
    for head in event.heads:
        count = GRACES.get(score.strokes[head.id].ornament or "", 0)
        for _ in range(count):
            note = ET.SubElement(measure, "note")
            grace = ET.SubElement(note, "grace")
            if count == 1:
                grace.set("slash", "yes")
            _unpitched(note, head.loc)
            ET.SubElement(note, "instrument", id=f"P1-{head.part}")
            ET.SubElement(note, "voice").text = str(voice)
            ET.SubElement(note, "type").text = "eighth" if count == 1 else "16th"


def _unpitched(note: ET.Element, loc: int) -> None:
    pitch = ET.SubElement(note, "unpitched")
    step = 2 + 7 * 4 + loc  # the bottom line is read as E4
    ET.SubElement(pitch, "display-step").text = _STEPS[step % 7]
    ET.SubElement(pitch, "display-octave").text = str(step // 7)


def _note(
    measure: ET.Element,
    head: Head,
    event: Event,
    length: int,
    voice: int,
    group: Group,
    *,
    chord: bool,
) -> ET.Element:
    note = ET.SubElement(measure, "note")
    if chord:
        ET.SubElement(note, "chord")
    _unpitched(note, head.loc)
    ET.SubElement(note, "duration").text = str(length)
    ET.SubElement(note, "instrument", id=f"P1-{head.part}")
    ET.SubElement(note, "voice").text = str(voice)
    _value(note, event, group)
    ET.SubElement(note, "stem").text = "up" if voice == 1 else "down"
    if head.shape or head.ghost:
        shape = ET.SubElement(note, "notehead")
        shape.text = _HEADS.get(head.shape, "normal")
        if head.ghost:
            shape.set("parentheses", "yes")
    return note


def _notations(note: ET.Element, group: Group, index: int, stroke: Stroke, *, first: bool) -> None:
    """Signs of one stroke: in a chord each stands at the note that it belongs to."""
    marks = ET.Element("notations")
    if group.tuplet and first and index in (0, len(group.events) - 1):
        ET.SubElement(marks, "tuplet", type="start" if index == 0 else "stop")
    if stroke.ornament in STROKED:
        ornaments = ET.SubElement(marks, "ornaments")
        kind = "unmeasured" if stroke.ornament == "buzz" else "single"
        ET.SubElement(ornaments, "tremolo", type=kind).text = "0" if kind == "unmeasured" else "1"
    technical = ET.Element("technical")
    if stroke.limb_by == "person" and stroke.limb not in FEET:
        ET.SubElement(technical, "fingering").text = stroke.limb[0]
    if stroke.part in ("hat_open", "hat_splash"):
        ET.SubElement(technical, "open")
    elif stroke.part == "hat_half":
        ET.SubElement(technical, "half-muted")
    if len(technical):
        marks.append(technical)
    articulations = ET.Element("articulations")
    if "accent" in marks_of(stroke):
        ET.SubElement(articulations, "accent")
    if stroke.choked:
        ET.SubElement(articulations, "staccatissimo")
    if len(articulations):
        marks.append(articulations)
    if len(marks):
        note.append(marks)
