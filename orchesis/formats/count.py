"""Count text: a song as text, in the words drummers count with (docs/count-text.md).

``read(text)`` gives a Score at the tempo of the text; errors name line and column.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction
from itertools import pairwise

from orchesis.errors import BadScore
from orchesis.score import KIT, Cue, Meter, PulseMap, Score, Section, Stroke
from orchesis.score.counting import SYLLABLES
from orchesis.score.stroke import CLASS_LOUDNESS
from orchesis.score.untrusted import MOST_PARTS, read_number, shown, unprintable

GROUPS = ("quarters", "8ths", "16ths", "offbeats", "triplets")
SWINGS = ("none", "eighth", "sixteenth")
FELT = ("straight", "half", "double")
ORNAMENT_MARKS = {"f": "flam", "d": "drag", "u": "ruff", "z": "buzz", "i": "diddle", "g": "drop"}
OPEN_MARKS = {"o": "hat_open", "h": "hat_half"}
_PLACE = re.compile(r"([0-9]{1,3})(?:([e&atl])|:([0-9]{1,4})/([0-9]{1,4}))?")
_CELLS = re.compile(r'\|(?=(?:[^"]*"[^"]*")*[^"]*$)')  # bars, but not a | inside quotes
_WORD = re.compile(r"\"[^\"]*\"|\S+")


@dataclass
class _Lane:
    part: str
    bars: list[list[dict]] = field(default_factory=list)
    cues: dict[int, Cue] = field(default_factory=dict)
    line: int = 0  # of the text


@dataclass
class _Head:
    meter: Meter = field(default_factory=Meter)
    tempo: float = 100.0
    swing: tuple[str, float] = ("none", 0.5)
    felt: str = "straight"
    pickup: int = 0


#: What a bar's note says where another feel begins.
FELT_WORDS = {"half": "half-time feel", "double": "double-time feel", "straight": "straight feel"}


@dataclass
class _Block:
    meter: Meter
    tempo: float
    swing: tuple[str, float]
    felt: str
    pickup: int
    lanes: list[_Lane]

    @property
    def bars(self) -> int:
        return max(len(lane.bars) for lane in self.lanes)


def _fail(line: int, column: int, what: str) -> BadScore:
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
            return _fail(line, column, what)

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


def _lane(
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
                raise _fail(line, words[0][0], "“=” repeats the bar before, but there is none.")
            bars.append(bars[-1])
        else:
            bars.append(_bar(words, meter_of(len(bars)), line))
    return bars


def read_bars(text: str, meters: Sequence[Meter]) -> list[list[Stroke]]:
    """The strokes of some bars from their lanes alone, a list a bar (bars counted from 1).

    meters: those of the bars. BadScore names line and column, also where the text has more
    bars than there are meters.
    """
    made: list[list[Stroke]] = [[] for _ in meters]
    taken: set[tuple[int, str, Fraction]] = set()
    for number, raw in enumerate(text.splitlines(), 1):
        content = raw.split("#", 1)[0].rstrip()
        if not content.strip():
            continue
        key, colon, rest = content.partition(":")
        name = _part_of(key.strip() if colon else content.strip(), number)
        if name == "cue":
            continue
        column = len(content) - len(rest) + 1
        if rest.count("|") >= len(meters):
            at = column + [i for i, sign in enumerate(rest) if sign == "|"][len(meters) - 1]
            there = "1 bar" if len(meters) == 1 else f"{len(meters)} bars"
            raise _fail(number, at, f"there is room for {there} here only.")
        for i, bar in enumerate(_lane(name, rest, column, lambda k: meters[k], number)):
            for fields in bar:
                stroke = _made(f"s{sum(map(len, made)) + 1}", i + 1, name, fields)
                if (i, stroke.part, stroke.place) in taken:
                    raise _fail(
                        number, column, f"{shown(key.strip())} has a stroke twice in one place."
                    )
                taken.add((i, stroke.part, stroke.place))
                made[i].append(stroke)
    return made


def read_cues(text: str, meters: Sequence[Meter]) -> dict[int, Cue]:
    """The cues of some bars (counted from 1) from the lane ``cue`` of their count text."""
    for number, raw in enumerate(text.splitlines(), 1):
        content = raw.split("#", 1)[0]
        key, _, rest = content.partition(":")
        if key.strip() == "cue":
            column = len(content) - len(rest) + 1
            return _cues(rest, column, lambda k: meters[min(k, len(meters) - 1)], number)
    return {}


def _cues(text: str, column: int, meter_of: Callable[[int], Meter], line: int) -> dict[int, Cue]:
    """Cues by bar, counted from 1: places, groups of places, and words in quotes."""
    found: dict[int, Cue] = {}
    for k, cell in enumerate(_CELLS.split(text)):
        words = [(column + m.start(), m.group()) for m in _WORD.finditer(cell)]
        column += len(cell) + 1
        if [w for _, w in words] == ["="]:
            if k not in found:
                raise _fail(line, words[0][0], "“=” repeats the bar before, which has no cue.")
            found[k + 1] = found[k]
            continue
        said = " ".join(w[1:-1] for _, w in words if w.startswith('"') and w.endswith('"'))
        beats = [(c, w) for c, w in words if not w.startswith('"') and w != "-"]
        sung = {w: w.partition("^") for _, w in beats}
        plain = [(c, sung[w][0]) for c, w in beats]
        places = tuple(f["place"] for f in _bar(plain, meter_of(k), line))
        pitches = []
        for c, w in beats:
            if not re.fullmatch(r"[0-9]{1,3}", sung[w][2] or "0") or int(sung[w][2] or 0) > 127:
                raise _fail(line, c, f"“{shown(w)}”: a pitch is a MIDI number, like 2&^38.")
            pitches += [int(sung[w][2])] if sung[w][2] else []
        if pitches and len(pitches) != len(places):
            raise _fail(line, beats[0][0], "every place of a cue has a pitch, or none has.")
        if said or places:
            found[k + 1] = Cue(places, said[:60], tuple(pitches))
    return found


def _meter(value: str, line: int, column: int) -> Meter:
    """“7/8 2+2+3”: a signature, and the groups it is counted in, which must add up to it."""
    text, _, groups = value.partition(" ")
    try:
        meter = Meter.parse(text)
    except BadScore as problem:
        raise _fail(line, column, str(problem)) from None
    if groups.strip():
        if not re.fullmatch(r"[0-9]{1,2}(\+[0-9]{1,2})*", groups.strip()):
            raise _fail(line, column, f"“{shown(groups)}” are no groups; write them like 2+2+3.")
        if sum(int(n) for n in groups.split("+")) != meter.count:
            raise _fail(line, column, f"{shown(groups)} does not add up to {meter.count}.")
    return meter


def _swing(value: str, line: int, column: int) -> tuple[str, float]:
    """“sixteenth 0.58”: the level that swings, and the long part of each pair."""
    level, _, ratio = value.partition(" ")
    if level not in SWINGS:
        raise _fail(line, column, f"“{shown(level)}” is not {', '.join(SWINGS)}.")
    try:
        return level, read_number(ratio.strip() or 0.5, 0.5, 0.8, "A swing's ratio")
    except BadScore as problem:
        raise _fail(line, column, str(problem)) from None


def _part_of(key: str, line: int) -> str:
    name = "hat_closed" if key == "hat" else key
    if name not in KIT and name != "cue":
        raise _fail(line, 1, f"“{shown(key)}” is neither a header nor a part of the kit.")
    return name


def _made(name: str, bar: int, part: str, fields: dict) -> Stroke:
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


def _always(meter: Meter) -> Callable[[int], Meter]:
    """Every bar of a block has the meter of its head."""
    return lambda _bar: meter


def _limb(part: str, side: str | None) -> str:
    if side is None or side == "B":
        return KIT[part].limb
    return side + ("F" if KIT[part].role.endswith("_foot") else "H")


def read(text: str) -> Score:
    """Count text -> Score (sections, strokes on their places, an even pulse a tempo).

    Limbs that the text does not give are the kit table's defaults.

    >>> score = read("tempo: 96\\nsnare: 2.> (3e)\\nkick: 1 2a")
    >>> for s in score.ordered():
    ...     print(s.part, s.place, s.dynamic)
    kick 0 normal
    snare 1 accent
    kick 7/4 normal
    snare 9/4 ghost
    """
    head = _Head()
    blocks: list[_Block] = []
    lanes: list[_Lane] = []
    sections: list[tuple[str, int]] = []
    title = artist = ""

    def close_block() -> None:
        if lanes:
            blocks.append(
                _Block(head.meter, head.tempo, head.swing, head.felt, head.pickup, list(lanes))
            )
            head.pickup = 0  # of the next bar alone
            lanes.clear()

    def bars_so_far() -> int:
        return sum(b.bars for b in blocks)

    if sign := unprintable(text):
        # By “\n” alone: some of those signs end a line themselves.
        at = next(n for n, line in enumerate(text.split("\n"), 1) if unprintable(line))
        raise _fail(at, 1, f"there is a sign that can't be printed ({sign}); take it out.")
    for number, raw in enumerate(text.splitlines(), 1):
        content = raw.split("#", 1)[0].rstrip()
        if not content.strip():
            close_block()
            continue
        if content.startswith("=="):
            close_block()
            sections.append((content[2:].strip() or "Section", bars_so_far() + 1))
            continue
        key, colon, rest = content.partition(":")
        key = key.strip()
        if not colon:
            raise _fail(number, 1, f"“{shown(content.strip())}” is neither a header nor a lane.")
        column = len(content) - len(rest) + 1
        value = rest.strip()
        if key in ("meter", "tempo", "swing", "felt", "pickup", "title", "artist"):
            close_block()
            if key == "meter":
                head.meter = _meter(value, number, column)
            elif key == "tempo":
                try:
                    head.tempo = float(value)
                except ValueError:
                    raise _fail(number, column, f"“{shown(value)}” is not a tempo.") from None
                if not 20 <= head.tempo <= 400:
                    raise _fail(number, column, f"{shown(value)} is no tempo between 20 and 400.")
            elif key == "swing":
                head.swing = _swing(value, number, column)
            elif key == "felt":
                if value not in FELT:
                    raise _fail(number, column, f"“{shown(value)}” is not {', '.join(FELT)}.")
                head.felt = value
            elif key == "pickup":
                if not re.fullmatch(r"[0-9]{1,2}", value) or int(value) >= head.meter.beats:
                    says = f"“{shown(value)}” is no number of beats below {head.meter.beats}."
                    raise _fail(number, column, says)
                head.pickup = int(value)
            elif key == "title":
                title = value
            elif key == "artist":
                artist = value
            continue
        name = _part_of(key, number)
        if name == "cue":
            lanes.append(_Lane(name, cues=_cues(rest, column, _always(head.meter), number),
                               line=number))  # fmt: skip
            lanes[-1].bars = [[] for _ in _CELLS.split(rest)]
            continue
        own = _lane(name, rest, column, _always(head.meter), number)
        lanes.append(_Lane(name, own, line=number))
    close_block()
    return _assemble(blocks, sections, title, artist)


def _assemble(
    blocks: list[_Block],
    sections: list[tuple[str, int]],
    title: str,
    artist: str,
) -> Score:
    meters: list[Meter] = []
    times = [0.0]
    strokes: list[Stroke] = []
    cues: dict[int, Cue] = {}
    notes: dict[int, str] = {}
    swing, felt = _most_bars(blocks), "straight"
    said = swing
    for b in blocks:
        first = len(meters) + 1
        # The last beats of a whole bar: what counts as 4 in it is the 1 of the short one.
        skipped = Fraction(b.meter.beats - b.pickup if b.pickup else 0)
        finer = Fraction(1)  # beats of the short bar in one of the whole bar: 3/8 counts its 8ths
        for k in range(b.bars):
            meter, length = b.meter, 1.0 if b.meter.is_compound else float(b.meter.beat_quarters)
            if b.pickup and k == 0:
                meter = _short(b.meter, b.pickup)
                finer = Fraction(meter.beats, b.pickup)
                length /= float(finer)
            meters.append(meter)
            for _ in range(meter.beats):
                times.append(times[-1] + length * 60.0 / b.tempo)

        def in_pickup(
            place: Fraction, lane: _Lane, skipped: Fraction = skipped, finer: Fraction = finer
        ) -> Fraction:
            """A place of the block's first bar, which may be a short one."""
            if place < skipped:
                begin = f"the pick-up begins on beat {int(skipped) + 1}"
                raise _fail(lane.line, 1, f"{begin}; nothing is before it.")
            return (place - skipped) * finer

        for lane in b.lanes:
            for k, cue in lane.cues.items():
                if k == 1:
                    cue = replace(cue, places=tuple(in_pickup(p, lane) for p in cue.places))
                cues[first + k - 1] = cue
            for i, bar in enumerate(lane.bars):
                for f in bar:
                    place = in_pickup(f["place"], lane) if i == 0 else f["place"]
                    own = _made(f"s{len(strokes) + 1}", first + i, lane.part, f)
                    strokes.append(own.changed(place=place))
        says = [FELT_WORDS[b.felt]] if b.felt != felt else []
        says += [_swing_words(b.swing)] if b.swing != said else []
        if says:
            notes[first] = ", ".join(says)
        felt, said = b.felt, b.swing
    if not meters:
        raise BadScore("There is no bar in this count text.")
    starts = [*sections, ("", len(meters) + 1)]
    if starts[0][1] > 1:
        starts.insert(0, ("Song", 1))
    labels: dict[str, str] = {}
    made: list[Section] = []
    for (name, start), (_, end) in pairwise(starts):
        if end > start:
            stem = re.sub(r"\s*\d+$", "", name)
            label = labels.setdefault(stem, chr(65 + len(labels) % 26))
            made.append(Section(f"sec{len(made) + 1}", name, label, start, end - start))
    return Score(
        meters=tuple(meters),
        pulse=PulseMap.of(times),
        strokes={s.id: s for s in strokes},
        sections=tuple(made),
        title=title,
        artist=artist,
        swing=swing,
        cues=cues,
        notes=notes,
    )


def _most_bars(blocks: list[_Block]) -> tuple[str, float]:
    """The swing of most bars: a song has one; where it is another, a note says so."""
    bars: dict[tuple[str, float], int] = {}
    for b in blocks:
        bars[b.swing] = bars.get(b.swing, 0) + b.bars
    return max(bars, key=lambda s: bars[s], default=("none", 0.5))


def _swing_words(swing: tuple[str, float]) -> str:
    level, ratio = swing
    if level == "none":
        return "not swung"
    which = "8ths" if level == "eighth" else "16ths"
    return f"{which} swung {100 * ratio:.0f} : {100 - 100 * ratio:.0f}"


def _short(meter: Meter, beats: int) -> Meter:
    """A bar of the last beats of another one."""
    return Meter(int(beats * meter.beat_quarters * meter.unit / 4), meter.unit)
