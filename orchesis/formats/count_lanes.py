"""The lanes of count text: what is written of one part in some bars (docs/count-text.md).

Errors name line and column.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from fractions import Fraction

from orchesis.errors import BadScore
from orchesis.score import KIT, Cue, Meter, Stroke
from orchesis.score.counting import SYLLABLES
from orchesis.score.stroke import CLASS_LOUDNESS
from orchesis.score.untrusted import MOST_PARTS, shown

GROUPS = ("quarters", "8ths", "16ths", "offbeats", "triplets")
ORNAMENT_MARKS = {"f": "flam", "d": "drag", "u": "ruff", "z": "buzz", "i": "diddle", "g": "drop"}
OPEN_MARKS = {"o": "hat_open", "h": "hat_half"}
_PLACE = re.compile(r"([0-9]{1,3})(?:([e&atl])|:([0-9]{1,4})/([0-9]{1,4}))?")
CELLS = re.compile(r'\|(?=(?:[^"]*"[^"]*")*[^"]*$)')  # bars, but not a | inside quotes
_WORD = re.compile(r"\"[^\"]*\"|\S+")


def fail(line: int, column: int, what: str) -> BadScore:
    return BadScore(f"Line {line}, column {column}: {what}")


def group_places(name: str, meter: Meter) -> list[Fraction]:
    n = meter.beats
    eighths = Fraction(1, 3) if meter.is_compound else Fraction(meter.unit, 8)
    step = {
        "quarters": Fraction(meter.unit, 4) if not meter.is_compound else Fraction(1),
        "8ths": eighths,
        "16ths": eighths / 2,
        "offbeats": eighths,
        "triplets": Fraction(1, 3),
    }[name]
    places = [k * step for k in range(int(n / step))]
    return places[1::2] if name == "offbeats" else places


def _place(word: str, meter: Meter, where: Callable[[str], BadScore]) -> Fraction:
    match = _PLACE.fullmatch(word)
    if not match:
        raise where(f"“{shown(word)}” is not a place in the bar; write it like 2, 2&, 2e or 2:3/8.")
    beat, syllable, part, parts = match.groups()
    if meter.is_compound and syllable == "&":
        raise where(f"“{shown(word)}”: a dotted beat has no &; its 8ths are 1, 1t and 1l.")
    if parts is not None and (int(parts) == 0 or int(part) >= int(parts)):
        raise where(f"“{shown(word)}” names part {part} of {parts}; parts are counted from 0.")
    if parts is not None and int(parts) > MOST_PARTS:
        raise where(f"“{shown(word)}” divides a beat in {parts}; the most is {MOST_PARTS} parts.")
    inside = SYLLABLES[syllable or ""] if parts is None else Fraction(int(part), int(parts))
    place = int(beat) - 1 + inside
    if not 0 <= place < meter.beats:
        raise where(f"“{shown(word)}” lies outside the bar of {meter}.")
    return Fraction(place)


def _stroke(word: str, meter: Meter, where: Callable[[str], BadScore]) -> dict:
    ghost = word.startswith("(") and word.endswith(")")
    body, _, marks = (word[1:-1] if ghost else word).partition(".")
    fields: dict = {"place": _place(body, meter, where), "dynamic": "ghost" if ghost else "normal"}
    fields["loudness"] = CLASS_LOUDNESS[fields["dynamic"]]
    while marks:
        mark, marks = marks[0], marks[1:]
        if mark == ">":
            fields |= {"dynamic": "accent", "loudness": CLASS_LOUDNESS["accent"]}
        elif mark in "oh":
            fields["open"] = OPEN_MARKS[mark]
        elif mark in ORNAMENT_MARKS:
            fields["ornament"] = ORNAMENT_MARKS[mark]
        elif mark in "RLB":
            fields["side"] = mark
        elif mark == "?":
            fields["doubt"] = "doubtful"
        elif mark == "~":
            fields["doubt"] = "layer"
        elif mark == "x":
            fields["choked"] = True
        elif mark == "@" and (digits := re.match(r"[0-9]{1,3}", marks)):
            fields["loudness"] = min(int(digits.group()), 100) / 100
            marks = marks[digits.end() :]
        else:
            raise where(f"“{shown(mark)}” in “{shown(word)}” is not a mark.")
    return fields


def _bar(words: list[tuple[int, str]], meter: Meter, line: int) -> list[dict]:
    strokes: dict[Fraction, dict] = {}
    written: set[Fraction] = set()
    for column, word in words:

        def where(what: str, column: int = column) -> BadScore:
            return fail(line, column, what)

        if word in GROUPS:
            for place in group_places(word, meter):
                strokes.setdefault(place, {"place": place, "dynamic": "normal", "loudness": 0.7})
        elif word.startswith("-"):
            strokes.pop(_place(word[1:], meter, where), None)
        else:
            fields = _stroke(word, meter, where)
            if fields["place"] in written:
                raise where(f"the place of “{shown(word)}” is given twice in this bar.")
            written.add(fields["place"])
            strokes[fields["place"]] = fields
    return [strokes[p] for p in sorted(strokes)]


def lane_bars(
    part: str, text: str, column: int, meter_of: Callable[[int], Meter], line: int
) -> list[list[dict]]:
    """The strokes of each bar of a lane. meter_of: the meter of a bar, counted from 0."""
    bars: list[list[dict]] = []
    for cell in text.split("|"):
        words = [(column + m.start(), m.group()) for m in _WORD.finditer(cell)]
        column += len(cell) + 1
        if [w for _, w in words] in ([], ["-"]):
            bars.append([])
        elif [w for _, w in words] == ["="]:
            if not bars:
                raise fail(line, words[0][0], "“=” repeats the bar before, but there is none.")
            bars.append(bars[-1])
        else:
            bars.append(_bar(words, meter_of(len(bars)), line))
    return bars


def read_bars(text: str, meters: Sequence[Meter]) -> list[list[Stroke]]:
    """The strokes of some bars from their lanes alone, a list a bar (bars counted from 1).

    meters: those of the bars. BadScore names line and column, also where the text has more
    bars than there are meters.
    """
    strokes_by_bar: list[list[Stroke]] = [[] for _ in meters]
    taken: set[tuple[int, str, Fraction]] = set()
    for number, raw in enumerate(text.splitlines(), 1):
        content = raw.split("#", 1)[0].rstrip()
        if not content.strip():
            continue
        key, colon, rest = content.partition(":")
        name = part_of(key.strip() if colon else content.strip(), number)
        if name == "cue":
            continue
        column = len(content) - len(rest) + 1
        if rest.count("|") >= len(meters):
            at = column + [i for i, sign in enumerate(rest) if sign == "|"][len(meters) - 1]
            there = "1 bar" if len(meters) == 1 else f"{len(meters)} bars"
            raise fail(number, at, f"there is room for {there} here only.")
        for i, bar in enumerate(lane_bars(name, rest, column, lambda k: meters[k], number)):
            for fields in bar:
                stroke = stroke_of(f"s{sum(map(len, strokes_by_bar)) + 1}", i + 1, name, fields)
                if (i, stroke.part, stroke.place) in taken:
                    raise fail(
                        number, column, f"{shown(key.strip())} has a stroke twice in one place."
                    )
                taken.add((i, stroke.part, stroke.place))
                strokes_by_bar[i].append(stroke)
    return strokes_by_bar


def read_cues(text: str, meters: Sequence[Meter]) -> dict[int, Cue]:
    """The cues of some bars (counted from 1) from the lane ``cue`` of their count text."""
    for number, raw in enumerate(text.splitlines(), 1):
        content = raw.split("#", 1)[0]
        key, _, rest = content.partition(":")
        if key.strip() == "cue":
            column = len(content) - len(rest) + 1
            return cues_of(rest, column, lambda k: meters[min(k, len(meters) - 1)], number)
    return {}


def cues_of(text: str, column: int, meter_of: Callable[[int], Meter], line: int) -> dict[int, Cue]:
    """Cues by bar, counted from 1: places, groups of places, and words in quotes."""
    cues: dict[int, Cue] = {}
    for k, cell in enumerate(CELLS.split(text)):
        words = [(column + m.start(), m.group()) for m in _WORD.finditer(cell)]
        column += len(cell) + 1
        if [w for _, w in words] == ["="]:
            if k not in cues:
                raise fail(line, words[0][0], "“=” repeats the bar before, which has no cue.")
            cues[k + 1] = cues[k]
            continue
        said = " ".join(w[1:-1] for _, w in words if w.startswith('"') and w.endswith('"'))
        beats = [(c, w) for c, w in words if not w.startswith('"') and w != "-"]
        sung = {w: w.partition("^") for _, w in beats}
        plain = [(c, sung[w][0]) for c, w in beats]
        places = tuple(f["place"] for f in _bar(plain, meter_of(k), line))
        pitches = []
        for c, w in beats:
            if not re.fullmatch(r"[0-9]{1,3}", sung[w][2] or "0") or int(sung[w][2] or 0) > 127:
                raise fail(line, c, f"“{shown(w)}”: a pitch is a MIDI number, like 2&^38.")
            pitches += [int(sung[w][2])] if sung[w][2] else []
        if pitches and len(pitches) != len(places):
            raise fail(line, beats[0][0], "every place of a cue has a pitch, or none has.")
        if said or places:
            cues[k + 1] = Cue(places, said[:60], tuple(pitches))
    return cues


def part_of(key: str, line: int) -> str:
    name = "hat_closed" if key == "hat" else key
    if name not in KIT and name != "cue":
        raise fail(line, 1, f"“{shown(key)}” is neither a header nor a part of the kit.")
    return name


def stroke_of(name: str, bar: int, part: str, fields: dict) -> Stroke:
    """One stroke of a lane from what its word says."""
    part = fields.get("open", part)
    return Stroke(
        id=name,
        bar=bar,
        place=fields["place"],
        part=part,
        limb=_limb(part, fields.get("side")),
        limb_by="person" if fields.get("side") in ("R", "L") else "program",
        dynamic=fields["dynamic"],
        loudness=fields["loudness"],
        ornament=fields.get("ornament"),
        choked=fields.get("choked", False),
        doubt=fields.get("doubt", ""),
    )


def _limb(part: str, side: str | None) -> str:
    if side is None or side == "B":
        return KIT[part].limb
    return side + ("F" if KIT[part].role.endswith("_foot") else "H")
