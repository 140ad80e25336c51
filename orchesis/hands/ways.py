"""Ways of playing a part otherwise: other parts, fewer strokes, or a plainer bar of its section.

Each is a change of some strokes (by id: the new stroke, None where it goes), made for a player.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections import defaultdict
from collections.abc import Callable, Iterable, Sequence
from fractions import Fraction
from itertools import pairwise

from orchesis.hands.pace import FOOT_SINGLE
from orchesis.score import KIT, Score, Stroke
from orchesis.score.player import Player
from orchesis.score.stroke import CLASS_LOUDNESS

_TOMS = ("tom_high", "tom_mid", "tom_low", "tom_floor")
#: What stands for a piece that the kit lacks, the best first.
_CYMBALS: dict[str, tuple[str, ...]] = {
    "crash": ("crash_2", "china", "ride", "hat_open"),
    "crash_2": ("crash", "china", "ride", "hat_open"),
    "splash": ("crash", "crash_2", "hat_open"),
    "china": ("crash", "crash_2", "ride", "hat_open"),
    "ride": ("hat_closed",),
    "ride_bell": ("cowbell", "hat_closed"),
}
_AUXILIARY: dict[str, tuple[str, ...]] = {
    "clap": ("snare",),
    "shaker": ("hat_closed",),
    "tambourine": ("hat_closed",),
    "cowbell": ("ride_bell", "hat_closed"),
    "block": ("cross_stick",),
}
_THINNED_BELOW_S = 0.115  # seconds between strokes of both hands from which on a fill is thinned
_ONE_HAND = 0.17  # seconds between strokes of one hand on the hat that are better shared

Change = Callable[[Score, list[Stroke], Player], dict[str, Stroke | None]]


def weight(s: Stroke) -> float:
    """What is kept first of strokes that can't all be played: backbeats and accents, then what
    moves (toms, crashes), then the time, then what is soft."""
    role = KIT[s.part].role
    base = {"backbeat": 3.0, "time": 1.0, "hand": 2.0}.get(role, 2.5)
    soft = -2.5 if s.dynamic == "ghost" else 0.0
    aux = -1.5 if KIT[s.part].family == "auxiliary" else 0.0
    return base + soft + aux + (1.5 if s.dynamic == "accent" else 0.0) + s.loudness / 10


def _one_part(
    score: Score, strokes_of_bars: list[Stroke], player: Player
) -> dict[str, Stroke | None]:
    """Out of two parts one: of each moment the two strokes that matter most."""
    changes: dict[str, Stroke | None] = {}
    for strokes in moments_of(strokes_of_bars).values():
        hands = sorted((s for s in strokes if is_hand(s)), key=weight, reverse=True)
        changes |= {s.id: None for s in hands[2:]}
        if len(hands) > 1:
            changes |= {
                s.id: s.changed(ornament=None)
                for s in hands[:2]
                if s.ornament in ("flam", "drag", "ruff")
            }
    return changes


def _single_pedal(score: Score, strokes: list[Stroke], player: Player) -> dict[str, Stroke | None]:
    """Kicks that one foot keeps up with: of fast ones those on the stronger places."""
    kicks = [s for s in strokes if s.part == "kick"]
    changes: dict[str, Stroke | None] = {}
    kept: list[Stroke] = []
    for s in kicks:
        at = score.seconds(s.bar, s.place)
        while kept and at - score.seconds(kept[-1].bar, kept[-1].place) < FOOT_SINGLE:
            if _strength(kept[-1]) >= _strength(s):
                changes[s.id] = None
                break
            changes[kept.pop().id] = None
        else:
            kept.append(s)
    return changes


def _strength(s: Stroke) -> int:
    """How strong a place is: the coarser its grid, the stronger."""
    return -s.place.denominator


def _toms(score: Score, strokes: list[Stroke], player: Player) -> dict[str, Stroke | None]:
    """Toms that the kit lacks on the nearest drum that it has; the snare is the highest of them, so
    that a way down the drums still goes down."""
    rank = {name: n for n, name in enumerate(("snare", *_TOMS))}
    have = [t for t in _TOMS if t not in player.lacking] + ["snare"]
    changes: dict[str, Stroke | None] = {}
    for s in strokes:
        if s.part in _TOMS and s.part in player.lacking:
            near = min(have, key=lambda t: abs(rank[t] - rank[s.part]))
            changes[s.id] = s.changed(part=near)
    return changes


def _instead(table: dict[str, tuple[str, ...]]) -> Change:
    """Other pieces for those that are lacked; what would double another stroke goes."""

    def change(score: Score, strokes: list[Stroke], player: Player) -> dict[str, Stroke | None]:
        changes: dict[str, Stroke | None] = {}
        moments = moments_of(strokes)
        timing: dict[int, set[str]] = defaultdict(set)
        for x in strokes:
            if KIT[x.part].role == "time":
                timing[x.bar].add(x.part)
        for s in strokes:
            if s.part not in table or s.part not in player.lacking:
                continue
            beside = [x for x in moments[s.bar, s.place] if x.id != s.id and is_hand(x)]
            stand = next((p for p in table[s.part] if p not in player.lacking), None)
            is_time = KIT[s.part].role == "time" and KIT[s.part].family == "auxiliary"
            timed = is_time and bool(timing[s.bar] - {s.part})
            doubled = any(x.part == stand for x in beside) or len(beside) > 1
            changes[s.id] = None if stand is None or timed or doubled else s.changed(part=stand)
        return changes

    return change


def _two_handed_hat(
    score: Score, strokes: list[Stroke], player: Player
) -> dict[str, Stroke | None]:
    """16ths on the hat by both hands; where the snare sounds, the hat does not."""
    hats = [s for s in strokes if KIT[s.part].family == "hat" and is_hand(s)]
    sixteenths = [s for s in hats if (4 * s.place).denominator == 1]
    if len(sixteenths) < 8 or _closest(score, hats) > _ONE_HAND:
        return {}
    lead, other = ("RH", "LH") if player.hand == "right" else ("LH", "RH")
    moments = moments_of(strokes)
    changes: dict[str, Stroke | None] = {}
    for s in sixteenths:
        beside = [x for x in moments[s.bar, s.place] if x.id != s.id and is_hand(x)]
        is_lead = (4 * s.place).numerator % 2 == 0
        limb = lead if is_lead else other
        changes[s.id] = None if beside else s.changed(limb=limb, limb_by="person")
        for x in beside:
            changes[x.id] = x.changed(limb=limb, limb_by="person")
    return changes


def _one_handed_hat(
    score: Score, strokes: list[Stroke], player: Player
) -> dict[str, Stroke | None]:
    """A hat of both hands by one: its 8ths stay."""
    hats = [s for s in strokes if KIT[s.part].family == "hat" and is_hand(s)]
    if len({s.limb for s in hats}) < 2:
        return {}
    lead = "RH" if player.hand == "right" else "LH"
    return {
        s.id: None if (2 * s.place).denominator != 1 else s.changed(limb=lead, limb_by="program")
        for s in hats
    }


def _thin_time(score: Score, strokes: list[Stroke], player: Player) -> dict[str, Stroke | None]:
    """The time half as dense: 16ths become 8ths, 8ths quarters, triplets the beat and its last."""
    changes: dict[str, Stroke | None] = {}
    by_bar: dict[int, list[Stroke]] = defaultdict(list)
    for s in strokes:
        if KIT[s.part].role == "time":
            by_bar[s.bar].append(s)
    for time in by_bar.values():
        finest = max((s.place.denominator for s in time), default=1)
        if finest in (2, 4, 8) and len(time) > 3:
            changes |= {s.id: None for s in time if s.place.denominator == finest}
        elif finest in (3, 6) and len(time) > 4:
            changes |= {s.id: None for s in time if s.place % 1 == Fraction(1, 3)}
    return changes


def _thin_fill(score: Score, strokes: list[Stroke], player: Player) -> dict[str, Stroke | None]:
    """Hands half as dense where they are very fast: 32nds become 16ths, sextuplets triplets."""
    changes: dict[str, Stroke | None] = {}
    hands = [s for s in strokes if is_hand(s) and KIT[s.part].role != "time"]
    timed = sorted(((score.seconds(s.bar, s.place), s) for s in hands), key=lambda t: t[0])
    times = [time for time, _ in timed]
    for time, s in timed:
        around = timed[
            bisect_right(times, time - _THINNED_BELOW_S) : bisect_left(
                times, time + _THINNED_BELOW_S
            )
        ]
        near = [x for _, x in around if x.id != s.id and x.place != s.place]
        if near and all(_strength(s) < _strength(x) for x in near):
            changes[s.id] = None
    return changes


def _plain_groove(score: Score, strokes: list[Stroke], player: Player) -> dict[str, Stroke | None]:
    """The bar that its section plays most, instead of these."""
    changes: dict[str, Stroke | None] = {}
    by_bar: dict[int, list[Stroke]] = defaultdict(list)
    for s in strokes:
        by_bar[s.bar].append(s)
    shapes: dict[tuple[str, object], _Shapes] = {}
    for bar in sorted(by_bar):
        typical = _typical(score, bar, shapes)
        if typical is None or typical == bar:
            continue
        changes |= {s.id: None for s in by_bar[bar]}
        for n, s in enumerate(score.strokes_of(typical)):
            name = f"a{bar}.{n}"
            changes[name] = s.changed(id=name, bar=bar, measured=None, placed_by="rule")
    return changes


#: Bars by what sounds in them.
_Shapes = dict[frozenset[tuple[Fraction, str]], list[int]]


def _typical(
    score: Score, bar: int, shapes_by_music: dict[tuple[str, object], _Shapes]
) -> int | None:
    """The first bar of those that sound most often in the section, where at least two sound so.
    known: the shapes of sections in a meter that were looked at before."""
    section = score.section_at(bar)
    if section is None:
        return None
    meter = score.meters[bar - 1]
    shapes = shapes_by_music.get((section.id, meter))
    if shapes is None:
        shapes = shapes_by_music[section.id, meter] = defaultdict(list)
        for b in range(section.first_bar, section.last_bar + 1):
            if score.meters[b - 1] == meter and score.strokes_of(b):
                shapes[frozenset((s.place, s.part) for s in score.strokes_of(b))].append(b)
    most = max(shapes.values(), key=len, default=[])
    return most[0] if len(most) > 1 and bar not in most else None


def _drop(which: Callable[[Stroke], bool]) -> Change:
    return lambda score, strokes, player: {s.id: None for s in strokes if which(s)}


def _turn(which: Callable[[Stroke], bool], **fields: object) -> Change:
    return lambda score, strokes, player: {s.id: s.changed(**fields) for s in strokes if which(s)}


def _foot(places: Callable[[int], list[Fraction]]) -> Change:
    """The hat's foot on some places of each bar, instead of what it plays."""

    def change(score: Score, strokes: list[Stroke], player: Player) -> dict[str, Stroke | None]:
        changes: dict[str, Stroke | None] = {
            s.id: None for s in strokes if KIT[s.part].role == "left_foot"
        }
        limb = "LF" if player.hand == "right" else "RF"
        struck = {
            (s.bar, s.place)
            for s in strokes
            if KIT[s.part].family == "hat" and KIT[s.part].layer == "openings"
        }
        for bar in sorted({s.bar for s in strokes}):
            for n, place in enumerate(places(score.meters[bar - 1].beats)):
                if (bar, place) not in struck:
                    name = f"f{bar}.{n}"
                    changes[name] = Stroke(
                        name,
                        bar,
                        place,
                        "hat_foot",
                        limb,
                        placed_by="rule",
                        loudness=CLASS_LOUDNESS["normal"],
                    )
        return changes

    return change


#: The ways by name, in the order in which they are offered where they are as good.
WAYS: dict[str, Change] = {
    "one_part": _one_part,
    "toms": _toms,
    "cymbals": _instead(_CYMBALS),
    "auxiliary": _instead(_AUXILIARY),
    "single_pedal": _single_pedal,
    "two_handed_hat": _two_handed_hat,
    "one_handed_hat": _one_handed_hat,
    "thin_time": _thin_time,
    "thin_fill": _thin_fill,
    "plain_groove": _plain_groove,
    "no_ghosts": _drop(lambda s: s.dynamic == "ghost"),
    "no_ornaments": _turn(lambda s: s.ornament is not None, ornament=None),
    "no_openings": _turn(lambda s: s.part in ("hat_open", "hat_half"), part="hat_closed"),
    "cross_stick_to_snare": _turn(lambda s: s.part == "cross_stick", part="snare"),
    "snare_to_cross_stick": _turn(
        lambda s: s.part == "snare" and s.dynamic != "ghost", part="cross_stick"
    ),
    "foot_on_2_and_4": _foot(lambda beats: [Fraction(k) for k in range(1, beats, 2)]),
    "foot_on_offbeats": _foot(lambda beats: [k + Fraction(1, 2) for k in range(beats)]),
    "foot_rests": _drop(lambda s: KIT[s.part].role == "left_foot"),
}


def moments_of(strokes: Iterable[Stroke]) -> dict[tuple[int, Fraction], list[Stroke]]:
    moments: dict[tuple[int, Fraction], list[Stroke]] = defaultdict(list)
    for s in strokes:
        moments[s.bar, s.place].append(s)
    return moments


def is_hand(s: Stroke) -> bool:
    return not KIT[s.part].role.endswith("_foot")


def _closest(score: Score, strokes: Sequence[Stroke]) -> float:
    """The shortest time between two of some strokes."""
    times = sorted({score.seconds(s.bar, s.place) for s in strokes})
    return min((b - a for a, b in pairwise(times)), default=9.0)
