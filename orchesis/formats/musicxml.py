"""Score -> MusicXML 4.0 (partwise): one drum part, hands in voice 1, feet in voice 2."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from fractions import Fraction
from xml.etree import ElementTree as ET

from orchesis.score import KIT, Meter, Score, Stroke
from orchesis.score.rhythm import Event, Group, spell
from orchesis.score.untrusted import printable

#: Parts of a quarter: divisible by 128ths, triplets, nonuplets, quintuplets, septuplets.
DIVISIONS = 64 * 9 * 5 * 7
_TYPES = {
    1: "whole", 2: "half", 4: "quarter", 8: "eighth", 16: "16th", 32: "32nd", 64: "64th",
    128: "128th",
}  # fmt: skip
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
    by_bar = score.by_bar()
    sections = {s.first_bar: s.name for s in score.sections}
    for bar, meter in enumerate(score.meters, 1):
        measure = ET.SubElement(part, "measure", number=str(bar))
        if bar == 1 or meter != score.meters[bar - 2]:
            _attributes(measure, meter, first=bar == 1)
        if bar in sections:
            _words(measure, "rehearsal", sections[bar])
        if bar == 1:
            _metronome(measure, score)
        _bar(measure, by_bar.get(bar, []), meter)
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


def _metronome(measure: ET.Element, score: Score) -> None:
    bpm = score.pulse.tempo()[0]
    meter = score.meters[0]
    direction = ET.SubElement(measure, "direction", placement="above")
    mark = ET.SubElement(ET.SubElement(direction, "direction-type"), "metronome")
    unit = "quarter" if meter.is_compound else _TYPES[meter.unit]
    ET.SubElement(mark, "beat-unit").text = unit
    if meter.is_compound:
        ET.SubElement(mark, "beat-unit-dot")
    ET.SubElement(mark, "per-minute").text = f"{bpm:.0f}"
    ET.SubElement(direction, "sound", tempo=f"{bpm * float(meter.beat_quarters):.2f}")


def _bar(measure: ET.Element, strokes: Sequence[Stroke], meter: Meter) -> None:
    voices: list[dict[Fraction, list[Stroke]]] = [defaultdict(list), defaultdict(list)]
    for s in strokes:
        voices[s.limb in ("RF", "LF")][s.place].append(s)
    if not strokes:
        note = ET.SubElement(measure, "note")
        ET.SubElement(note, "rest", measure="yes")
        ET.SubElement(note, "duration").text = str(int(meter.quarters * DIVISIONS))
        ET.SubElement(note, "voice").text = "1"
        return
    _voice(measure, voices[0], meter, 1)
    if voices[1]:
        back = ET.SubElement(measure, "backup")
        ET.SubElement(back, "duration").text = str(int(meter.quarters * DIVISIONS))
        _voice(measure, voices[1], meter, 2)


def _voice(
    measure: ET.Element, strokes: dict[Fraction, list[Stroke]], meter: Meter, voice: int
) -> None:
    for group in spell(strokes, meter):
        sounding = [e for e in group.events if e.place is not None]
        at = group.start * meter.beat_quarters * DIVISIONS
        for i, event in enumerate(group.events):
            start, at = at, at + event.quarters * group.ratio * DIVISIONS
            length = round(at) - round(start)  # rounded where it ends: the bar is always full
            if event.place is None:
                _silence(measure, event, length, voice, group)
                continue
            beam = _beam(sounding, sounding.index(event))
            for k, s in enumerate(sorted(strokes[event.place], key=lambda s: KIT[s.part].loc)):
                note = _note(measure, s, event, length, voice, group, chord=k > 0)
                if k == 0 and beam:
                    ET.SubElement(note, "beam", number="1").text = beam
                _notations(note, s, group, i, first=k == 0)


def _beam(sounding: list[Event], index: int) -> str | None:
    if len(sounding) < 2 or any(e.value < 8 for e in sounding):
        return None
    return "begin" if index == 0 else "end" if index == len(sounding) - 1 else "continue"


def _silence(measure: ET.Element, event: Event, length: int, voice: int, group: Group) -> None:
    if voice == 2 and not group.tuplet:
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


def _note(
    measure: ET.Element, s: Stroke, event: Event, length: int, voice: int, group: Group,
    *, chord: bool,
) -> ET.Element:  # fmt: skip
    known = KIT[s.part]
    note = ET.SubElement(measure, "note")
    if chord:
        ET.SubElement(note, "chord")
    pitch = ET.SubElement(note, "unpitched")
    step = 2 + 7 * 4 + known.loc  # the bottom line is read as E4
    ET.SubElement(pitch, "display-step").text = _STEPS[step % 7]
    ET.SubElement(pitch, "display-octave").text = str(step // 7)
    ET.SubElement(note, "duration").text = str(length)
    ET.SubElement(note, "instrument", id=f"P1-{s.part}")
    ET.SubElement(note, "voice").text = str(voice)
    _value(note, event, group)
    ET.SubElement(note, "stem").text = "up" if voice == 1 else "down"
    if known.head or s.dynamic == "ghost":
        head = ET.SubElement(note, "notehead")
        head.text = _HEADS.get(known.head, "normal")
        if s.dynamic == "ghost":
            head.set("parentheses", "yes")
    return note


def _notations(note: ET.Element, s: Stroke, group: Group, index: int, *, first: bool) -> None:
    marks = ET.Element("notations")
    if group.tuplet and first and index in (0, len(group.events) - 1):
        ET.SubElement(marks, "tuplet", type="start" if index == 0 else "stop")
    if s.part in ("hat_open", "hat_splash"):
        ET.SubElement(ET.SubElement(marks, "technical"), "open")
    elif s.part == "hat_half":
        ET.SubElement(ET.SubElement(marks, "technical"), "half-muted")
    if s.dynamic == "accent":
        ET.SubElement(ET.SubElement(marks, "articulations"), "accent")
    if len(marks):
        note.append(marks)
