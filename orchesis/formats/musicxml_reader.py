"""MusicXML -> Score: the percussion part, its ornaments, ghosts, openings, sections and tempo."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, field
from fractions import Fraction
from xml.etree import ElementTree as ET

from defusedxml import DefusedXmlException
from defusedxml import ElementTree as SafeET

from orchesis.errors import BadScore
from orchesis.score import KIT, Meter, PulseMap, Score, Section, Stroke
from orchesis.score.kit import MIDI_PARTS
from orchesis.score.stroke import CLASS_LOUDNESS
from orchesis.score.untrusted import printable

_STEPS = "CDEFGAB"
_MOST_BARS = 3000
_JUMPS = ("dacapo", "dalsegno", "tocoda", "fine")
_GRACES = {1: "flam", 2: "drag", 3: "ruff"}
#: Heads as MusicXML calls them -> as the kit table does.
_HEADS = {"x": "x", "diamond": "diamond", "triangle": "triangle", "slash": "slashed"}
_BY_PLACE = {(p.loc, p.head): name for name, p in reversed(KIT.items())}


@dataclass
class _Reading:
    """What was read so far. parts: instrument id -> part of the kit."""

    parts: dict[str, str] = field(default_factory=dict)
    meters: list[Meter] = field(default_factory=list)
    tempos: list[float] = field(default_factory=list)
    names: dict[int, str] = field(default_factory=dict)
    strokes: list[Stroke] = field(default_factory=list)
    lost: Counter[str] = field(default_factory=Counter)
    notes: dict[int, str] = field(default_factory=dict)
    swing: tuple[str, float] = ("none", 0.5)
    again: int = 0  # bars before, where a repeat sign stands for the notes
    divisions: int = 1
    tempo: float = 100.0


def read(data: bytes, title: str = "") -> tuple[Score, list[str]]:
    """(the score, what could not be kept). Raises BadScore where it is no MusicXML."""
    try:
        root = SafeET.fromstring(data)
    except DefusedXmlException:
        raise BadScore("A MusicXML file with entities of its own is not read.") from None
    except ET.ParseError as problem:
        raise BadScore(f"This is not XML ({problem}).") from None
    if root.tag != "score-partwise":
        raise BadScore("Only partwise MusicXML is read; export it so.")
    part = _part(root)
    r = _Reading(_instruments(root, part.get("id") or ""))
    try:
        for number, measure in enumerate(_as_played(r, part.findall("measure")), 1):
            if number > _MOST_BARS:
                raise BadScore(f"This file has more than {_MOST_BARS} bars.")
            _measure(r, measure, number)
    except (TypeError, ValueError, ZeroDivisionError) as problem:
        raise BadScore(f"Bar {len(r.meters)} can't be read ({problem}).") from None
    if not r.meters:
        raise BadScore("There is no bar in this file.")
    named = root.findtext("work/work-title") or root.findtext("movement-title") or ""
    artist = root.findtext("identification/creator") or ""
    score = Score(
        tuple(r.meters),
        PulseMap.of(_times(r)),
        {s.id: s for s in r.strokes},
        _sections(r),
        title=title or printable(named.strip()),
        artist=printable(artist.strip()),
        swing=r.swing,
        notes=r.notes,
    )
    return score, [f"{n} x {what}" if n > 1 else what for what, n in r.lost.items()]


def _part(root: ET.Element) -> ET.Element:
    """The part with unpitched notes, the first of them."""
    parts = root.findall("part")
    part = next((p for p in parts if p.find("measure/note/unpitched") is not None), None)
    if part is None and len(parts) == 1:
        part = parts[0]
    if part is None:
        raise BadScore("There is no percussion part in this file.")
    return part


def _as_played(r: _Reading, measures: list[ET.Element]) -> Iterator[ET.Element]:
    """Bars in the order in which they sound: repeats and their endings written out."""
    if any(s.get(jump) for m in measures for s in m.iter("sound") for jump in _JUMPS):
        r.lost["jump (da capo, segno or coda): the bars stand in the order of the page"] += 1
    first, turn, n, steps = 0, 1, 0, 0
    endings = _endings(measures)
    while n < len(measures) and steps <= _MOST_BARS:
        measure = measures[n]
        signs = measure.findall("barline/repeat")
        if any(s.get("direction") == "forward" for s in signs) and n != first:
            first, turn = n, 1
        if not endings[n] or turn in endings[n]:
            yield measure
            steps += 1
        back = next((s for s in signs if s.get("direction") == "backward"), None)
        times = int((back.get("times") if back is not None else None) or 2)
        if back is not None and (turn in endings[n] if endings[n] else turn < times):
            n, turn = first, turn + 1
            continue
        if back is not None and not endings[n]:
            first, turn = n + 1, 1
        n += 1
        if n < len(measures) and endings[n - 1] and not endings[n]:
            first, turn = n, 1  # behind the last ending


def _endings(measures: list[ET.Element]) -> list[set[int]]:
    """By bar, the turns in which it is played; none: in all of them."""
    endings: list[set[int]] = []
    now: set[int] = set()
    for measure in measures:
        marks = measure.findall("barline/ending")
        begins = next((e for e in marks if e.get("type") == "start"), None)
        if begins is not None:
            now = {int(k) for k in re.findall(r"[0-9]{1,2}", begins.get("number") or "1")}
        endings.append(now)
        if any(e.get("type") in ("stop", "discontinue") for e in marks):
            now = set()
    return endings


def _instruments(root: ET.Element, part: str) -> dict[str, str]:
    instruments = {}
    for i in root.iterfind(f"part-list/score-part[@id='{part}']/midi-instrument"):
        key = i.findtext("midi-unpitched")
        if key and key.isdigit() and int(key) - 1 in MIDI_PARTS:
            instruments[i.get("id") or ""] = MIDI_PARTS[int(key) - 1]
    return instruments


def _measure(r: _Reading, measure: ET.Element, bar: int) -> None:
    meter = r.meters[-1] if r.meters else Meter()
    for a in measure.iterfind("attributes"):
        r.divisions = int(a.findtext("divisions") or r.divisions)
        if a.find("time/beats") is not None:
            beats = [int(n) for n in (a.findtext("time/beats") or "4").split("+")]
            meter = Meter(sum(beats), int(a.findtext("time/beat-type") or 4))
    r.meters.append(meter)
    _repeat_sign(r, measure)
    if r.again:
        _again(r, bar)
        r.tempos.append(r.tempo)
        return
    at = Fraction(0)
    graces: list[str | None] = []  # parts of the grace notes that wait for what they belong to
    for child, chord in _with_chords(measure):
        length = Fraction(int(child.findtext("duration") or 0), r.divisions)
        if child.tag == "direction":
            _direction(r, child, bar)
        elif child.tag == "backup":
            at -= length
        elif child.tag == "forward":
            at += length
        elif child.tag == "note" and child.find("grace") is not None:
            graces.append(_part_of(r, child))
        elif child.tag == "note":
            heads = [child, *chord] if child.find("rest") is None else []
            for note, count in zip(heads, _graces_of(r, heads, graces), strict=True):
                _note(r, note, bar, at / meter.beat_quarters, count)
            graces = []
            at += length
    r.tempos.append(r.tempo)


def _with_chords(measure: ET.Element) -> Iterator[tuple[ET.Element, list[ET.Element]]]:
    """What stands in a bar, a note with the other notes of its chord."""
    children = list(measure)
    n = 0
    while n < len(children):
        end = n + 1
        while end < len(children) and children[end].find("chord") is not None:
            end += 1
        yield children[n], children[n + 1 : end]
        n = end


def _graces_of(r: _Reading, notes: list[ET.Element], graces: list[str | None]) -> list[int]:
    """How many grace notes belong to each note of a chord: those of its own drum. Where a file has
    them on another one, all go with the first note."""
    parts = [_part_of(r, note) for note in notes]
    counts = [graces.count(p) if p not in parts[:n] else 0 for n, p in enumerate(parts)]
    if notes and sum(counts) == 0:
        counts[0] = len(graces)
    return counts


def _repeat_sign(r: _Reading, measure: ET.Element) -> None:
    """A sign that the bars before are played once more, or its end."""
    for sign in measure.iterfind("attributes/measure-style/measure-repeat"):
        r.again = int(sign.text or 1) if sign.get("type") == "start" else 0


def _again(r: _Reading, bar: int) -> None:
    """The bar that lies as many bars before as the sign says, once more."""
    for s in [s for s in r.strokes if s.bar == bar - r.again]:
        r.strokes.append(s.changed(id=f"s{len(r.strokes) + 1}", bar=bar))


def _direction(r: _Reading, direction: ET.Element, bar: int) -> None:
    name = direction.findtext("direction-type/rehearsal")
    if name:
        r.names[bar] = printable(name.strip())
    sound = direction.find("sound")
    if sound is not None and sound.get("tempo"):
        r.tempo = min(400.0, max(10.0, float(sound.get("tempo") or 100)))
    swing = direction.find("sound/swing")
    if swing is not None:
        _swing(r, swing)
        return
    words = printable((direction.findtext("direction-type/words") or "").strip())
    if words:
        r.notes[bar] = f"{r.notes[bar]}, {words}" if bar in r.notes else words


def _swing(r: _Reading, swing: ET.Element) -> None:
    """The song's swing is the first that is told; it has one."""
    first, second = (int(swing.findtext(name) or 1) for name in ("first", "second"))
    ratio = first / (first + second)
    if r.swing[0] != "none":
        r.lost["another swing"] += 1
    elif 0.5 < ratio <= 0.8:
        kind = (swing.findtext("swing-type") or "eighth").strip()
        r.swing = ("sixteenth" if kind == "16th" else "eighth", round(ratio, 2))


def _note(r: _Reading, note: ET.Element, bar: int, place: Fraction, graces: int) -> None:
    part = _part_of(r, note)
    if part is None or not 0 <= place < r.meters[-1].beats:
        r.lost["note on no drum of ours" if part is None else "note outside of its bar"] += 1
        return
    if place.denominator > 48:
        r.lost["note on a grid finer than ours"] += 1
        return
    head = note.find("notehead")
    ghost = head is not None and head.get("parentheses") == "yes"
    accent = note.find("notations/articulations/accent") is not None
    dynamic = "ghost" if ghost else "accent" if accent else "normal"
    finger = (note.findtext("notations/technical/fingering") or "").strip()
    is_told = finger in ("R", "L") and not KIT[part].role.endswith("_foot")
    if any(s.bar == bar and s.place == place and s.part == part for s in r.strokes[-12:]):
        return
    r.strokes.append(
        Stroke(
            f"s{len(r.strokes) + 1}",
            bar,
            place,
            part,
            f"{finger}H" if is_told else KIT[part].limb,
            dynamic,
            CLASS_LOUDNESS[dynamic],
            _ornament(note, graces),
            choked=note.find("notations/articulations/staccatissimo") is not None,
            limb_by="person" if is_told else "program",
        )
    )


def _ornament(note: ET.Element, graces: int) -> str | None:
    tremolo = note.find("notations/ornaments/tremolo")
    if tremolo is not None:
        is_roll = tremolo.get("type") == "unmeasured" or (tremolo.text or "0").strip() in "03"
        return "buzz" if is_roll else "diddle"
    return _GRACES.get(min(graces, 3))


def _part_of(r: _Reading, note: ET.Element) -> str | None:
    """A note's part: by its instrument, else by where it stands and its head; openings by sign."""
    instrument = note.find("instrument")
    part = r.parts.get(instrument.get("id") or "") if instrument is not None else None
    if part is None:
        step = note.findtext("unpitched/display-step")
        octave = note.findtext("unpitched/display-octave")
        if step is None or octave is None:
            return None
        loc = _STEPS.index(step.strip()) + 7 * int(octave) - (2 + 7 * 4)
        head = _HEADS.get((note.findtext("notehead") or "").strip(), "")
        part = _BY_PLACE.get((loc, head)) or _BY_PLACE.get((loc, ""))
    if part == "hat_closed":
        technical = note.find("notations/technical")
        if technical is not None and technical.find("open") is not None:
            return "hat_open"
        if technical is not None and technical.find("half-muted") is not None:
            return "hat_half"
    return part


def _times(r: _Reading) -> list[float]:
    """Beats by the tempo (quarters a minute) of each bar."""
    times = [0.0]
    for meter, tempo in zip(r.meters, r.tempos, strict=True):
        for _ in range(meter.beats):
            times.append(times[-1] + float(meter.beat_quarters) * 60 / tempo)
    return times


def _sections(r: _Reading) -> tuple[Section, ...]:
    names = {1: "Song", **r.names}
    firsts = sorted(names)
    labels: dict[str, str] = {}
    sections = []
    for n, first in enumerate(firsts):
        end = firsts[n + 1] if n + 1 < len(firsts) else len(r.meters) + 1
        stem = names[first].rstrip(" 0123456789")
        label = labels.setdefault(stem, chr(65 + len(labels) % 26))
        sections.append(Section(f"sec{n + 1}", names[first], label, first, end - first))
    return tuple(sections)
