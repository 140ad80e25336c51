"""Count text: a song as text, in the words drummers count with (docs/count-text.md).

``read(text)`` gives a Score at the tempo of the text; errors name line and column.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from fractions import Fraction
from itertools import pairwise

from orchesis.errors import BadScore
from orchesis.formats.count_lanes import CELLS, cues_of, fail, lane_bars, part_of, stroke_of
from orchesis.score import Cue, Meter, PulseMap, Score, Section, Stroke
from orchesis.score.untrusted import read_number, shown, unprintable

SWINGS = ("none", "eighth", "sixteenth")
FELT = ("straight", "half", "double")


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


def _meter(value: str, line: int, column: int) -> Meter:
    """“7/8 2+2+3”: a signature, and the groups it is counted in, which must add up to it."""
    text, _, groups = value.partition(" ")
    try:
        meter = Meter.parse(text)
    except BadScore as problem:
        raise fail(line, column, str(problem)) from None
    if groups.strip():
        if not re.fullmatch(r"[0-9]{1,2}(\+[0-9]{1,2})*", groups.strip()):
            raise fail(line, column, f"“{shown(groups)}” are no groups; write them like 2+2+3.")
        if sum(int(n) for n in groups.split("+")) != meter.count:
            raise fail(line, column, f"{shown(groups)} does not add up to {meter.count}.")
    return meter


def _swing(value: str, line: int, column: int) -> tuple[str, float]:
    """“sixteenth 0.58”: the level that swings, and the long part of each pair."""
    level, _, ratio = value.partition(" ")
    if level not in SWINGS:
        raise fail(line, column, f"“{shown(level)}” is not {', '.join(SWINGS)}.")
    try:
        return level, read_number(ratio.strip() or 0.5, 0.5, 0.8, "A swing's ratio")
    except BadScore as problem:
        raise fail(line, column, str(problem)) from None


def _always(meter: Meter) -> Callable[[int], Meter]:
    """Every bar of a block has the meter of its head."""
    return lambda _bar: meter


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
        raise fail(at, 1, f"there is a sign that can't be printed ({sign}); take it out.")
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
            raise fail(number, 1, f"“{shown(content.strip())}” is neither a header nor a lane.")
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
                    raise fail(number, column, f"“{shown(value)}” is not a tempo.") from None
                if not 20 <= head.tempo <= 400:
                    raise fail(number, column, f"{shown(value)} is no tempo between 20 and 400.")
            elif key == "swing":
                head.swing = _swing(value, number, column)
            elif key == "felt":
                if value not in FELT:
                    raise fail(number, column, f"“{shown(value)}” is not {', '.join(FELT)}.")
                head.felt = value
            elif key == "pickup":
                if not re.fullmatch(r"[0-9]{1,2}", value) or int(value) >= head.meter.beats:
                    says = f"“{shown(value)}” is no number of beats below {head.meter.beats}."
                    raise fail(number, column, says)
                head.pickup = int(value)
            elif key == "title":
                title = value
            elif key == "artist":
                artist = value
            continue
        name = part_of(key, number)
        if name == "cue":
            lanes.append(
                _Lane(name, cues=cues_of(rest, column, _always(head.meter), number), line=number)
            )
            lanes[-1].bars = [[] for _ in CELLS.split(rest)]
            continue
        bars_of_lane = lane_bars(name, rest, column, _always(head.meter), number)
        lanes.append(_Lane(name, bars_of_lane, line=number))
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
    swing_as_written = swing
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
                raise fail(lane.line, 1, f"{begin}; nothing is before it.")
            return (place - skipped) * finer

        for lane in b.lanes:
            for k, cue in lane.cues.items():
                if k == 1:
                    cue = replace(cue, places=tuple(in_pickup(p, lane) for p in cue.places))
                cues[first + k - 1] = cue
            for i, bar in enumerate(lane.bars):
                for f in bar:
                    place = in_pickup(f["place"], lane) if i == 0 else f["place"]
                    stroke = stroke_of(f"s{len(strokes) + 1}", first + i, lane.part, f)
                    strokes.append(stroke.changed(place=place))
        says = [FELT_WORDS[b.felt]] if b.felt != felt else []
        says += [_swing_words(b.swing)] if b.swing != swing_as_written else []
        if says:
            notes[first] = ", ".join(says)
        felt, swing_as_written = b.felt, b.swing
    if not meters:
        raise BadScore("There is no bar in this count text.")
    starts = [*sections, ("", len(meters) + 1)]
    if starts[0][1] > 1:
        starts.insert(0, ("Song", 1))
    labels: dict[str, str] = {}
    named_sections: list[Section] = []
    for (name, start), (_, end) in pairwise(starts):
        if end > start:
            stem = re.sub(r"\s*\d+$", "", name)
            label = labels.setdefault(stem, chr(65 + len(labels) % 26))
            named_sections.append(
                Section(f"sec{len(named_sections) + 1}", name, label, start, end - start)
            )
    return Score(
        meters=tuple(meters),
        pulse=PulseMap.of(times),
        strokes={s.id: s for s in strokes},
        sections=tuple(named_sections),
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
