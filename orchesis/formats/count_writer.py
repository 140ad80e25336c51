"""Count text written back: the bars of a score in the words of ``orchesis.formats.count``."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from itertools import groupby

from orchesis.formats.count import FELT_WORDS
from orchesis.formats.count_lanes import GROUPS, OPEN_MARKS, ORNAMENT_MARKS, group_places
from orchesis.score import KIT, Cue, Meter, Score, Stroke
from orchesis.score.counting import place_text
from orchesis.score.stroke import CLASS_LOUDNESS

_OPEN = {part: mark for mark, part in OPEN_MARKS.items()}
_GRACE = {name: mark for mark, name in ORNAMENT_MARKS.items()}
_FEWEST_OF_A_GROUP = 4


def stroke_text(stroke: Stroke, meter: Meter) -> str:
    """One stroke as a word: (2e), 4.>R, 2&.o."""
    marks = ""
    if stroke.dynamic == "accent":
        marks += ">"
    marks += _OPEN.get(stroke.part, "")
    marks += "x" if stroke.choked else ""
    marks += _GRACE.get(stroke.ornament or "", "")
    if stroke.limb != KIT[stroke.part].limb:
        marks += stroke.limb[0]
    marks += {"doubtful": "?", "layer": "~"}.get(stroke.doubt, "")
    usual = CLASS_LOUDNESS[stroke.dynamic]
    if stroke.placed_by == "person" and round(100 * stroke.loudness) != round(100 * usual):
        marks += f"@{round(100 * stroke.loudness)}"
    word = place_text(stroke.place, meter) + (f".{marks}" if marks else "")
    return f"({word})" if stroke.dynamic == "ghost" else word


def _bar_text(strokes: Sequence[Stroke], meter: Meter) -> str:
    """The shortest text of one bar of a lane: word by word, or round a group."""
    words = {s.place: stroke_text(s, meter) for s in sorted(strokes, key=lambda s: s.place)}
    texts: list[list[str]] = [list(words.values()) or ["-"]]
    for name in GROUPS:
        places = group_places(name, meter)
        missing = [p for p in places if p not in words]
        if len(places) < _FEWEST_OF_A_GROUP or 8 * len(missing) > len(places):
            continue
        other = [w for p, w in words.items() if p not in places or w != place_text(p, meter)]
        texts.append([name, *(f"-{place_text(p, meter)}" for p in missing), *other])
    shortest: list[str] = min(texts, key=len)
    return " ".join(shortest)


def lanes(strokes: Sequence[Stroke], meters: Sequence[Meter], first: int = 1) -> str:
    """Lanes of some bars as count text; what was left out is not written.

    strokes: those of the bars from ``first`` on, as many as there are meters.
    """
    kit = list(KIT)
    strokes_of_lane = sorted(
        (s for s in strokes if s.doubt != "left_out"), key=lambda s: (s.place, kit.index(s.part))
    )
    rows: dict[str, list[str]] = {}
    for lane in dict.fromkeys(_lane_of(part) for part in KIT):
        inside = [s for s in strokes_of_lane if _lane_of(s.part) == lane]
        if not inside:
            continue
        bars = [[s for s in inside if s.bar == first + k] for k in range(len(meters))]
        crowded = [s for bar in bars for s in _second(bar)]
        for part, others in groupby(sorted(crowded, key=lambda s: s.part), lambda s: s.part):
            extra = list(others)
            rows[part] = [
                _bar_text([s for s in extra if s.bar == first + k], m) for k, m in enumerate(meters)
            ]
        rows[lane] = [
            _bar_text([s for s in bar if s not in crowded], m)
            for bar, m in zip(bars, meters, strict=True)
        ]
    # As on the staff: cymbals, then drums, then feet.
    order = {_lane_of(p.name): (-p.loc, n) for n, p in enumerate(KIT.values())}
    order |= {p.name: (-p.loc, n) for n, p in enumerate(KIT.values())}
    width = max((len(lane) for lane in rows), default=0) + 1
    return "\n".join(
        f"{lane + ':':<{width}} {' | '.join(bars)}"
        for lane, bars in sorted(rows.items(), key=lambda row: order[row[0]])
    )


def _lane_of(part: str) -> str:
    return "hat" if part in ("hat_closed", *_OPEN) else part


def _second(bar: Sequence[Stroke]) -> list[Stroke]:
    """Strokes of a lane whose place is taken by another part of it (an open and a closed hat)."""
    taken: set[Fraction] = set()
    out = []
    for s in bar:
        if s.place in taken:
            out.append(s)
        taken.add(s.place)
    return out


def write(score: Score, first: int = 1, last: int | None = None) -> str:
    """Lanes of the bars first to last (the song's end if not given).

    >>> from orchesis.formats import count
    >>> print(write(count.read("hat: 1 1& 2 2& 3 3& 4 4&.o\\nkick: 1 3")))
    hat:  8ths 4&.o
    kick: 1 3
    """
    last = last or score.bar_count
    strokes = [s for s in score.ordered() if first <= s.bar <= last]
    meters = score.meters[first - 1 : last]
    text = lanes(strokes, meters, first)
    cues = [score.cues.get(first + k) for k in range(len(meters))]
    if any(cues):
        cue_lane = " | ".join(_cue_text(c, m) for c, m in zip(cues, meters, strict=True))
        text = f"cue: {cue_lane}\n{text}".rstrip()
    return text


def _cue_text(cue: Cue | None, meter: Meter) -> str:
    if cue is None:
        return "-"
    words = [f'"{cue.words}"'] if cue.words else []
    sung = [f"^{p}" for p in cue.pitches] or [""] * len(cue.places)
    places = [place_text(p, meter) + s for p, s in zip(cue.places, sung, strict=True)]
    return " ".join([*words, *places])


_BARS_A_BLOCK = 4
_FELT = {words: name for name, words in FELT_WORDS.items()}


def whole(score: Score) -> str:
    """A whole song as count text: its names, tempo, swing and meters, section by section."""
    head = [f"title: {score.title}"] if score.title else []
    head += [f"artist: {score.artist}"] if score.artist else []
    if score.swing[0] != "none":
        head.append(f"swing: {score.swing[0]} {score.swing[1]:.3f}")
    blocks = ["\n".join(head)] if head else []
    tempos = score.tempo_changes()
    names = {s.first_bar: s.name for s in score.sections}
    bar, meter = 1, None
    while bar <= score.bar_count:
        block = [f"== {names[bar]}"] if bar in names else []
        if score.meters[bar - 1] != meter:
            meter = score.meters[bar - 1]
            block.append(f"meter: {meter}")
        if score.notes.get(bar) in _FELT:
            block.append(f"felt: {_FELT[score.notes[bar]]}")
        if bar in tempos:
            block.append(f"tempo: {min(400.0, max(20.0, tempos[bar])):.2f}")
        last = bar
        while (
            last < score.bar_count
            and last - bar + 1 < _BARS_A_BLOCK
            and last + 1 not in names
            and last + 1 not in tempos
            and score.meters[last] == meter
            and score.notes.get(last + 1) not in _FELT
        ):
            last += 1
        text = write(score, bar, last)
        silent = "kick: " + " | ".join(["-"] * (last - bar + 1))
        lanes_of = [line for line in text.splitlines() if not line.startswith("cue:")]
        block += [text] if lanes_of else [*text.splitlines(), silent]
        blocks.append("\n".join(block))
        bar = last + 1
    return "\n\n".join(blocks) + "\n"
