"""Random edits of every kind, as somebody in a hurry (or with ill will) would send them."""

from __future__ import annotations

import random
from collections.abc import Callable
from typing import Any

from orchesis.editing import EDITS
from orchesis.formats import count_writer
from orchesis.hands.rudiments import NAMES
from orchesis.hands.ways import WAYS
from orchesis.score import KIT, LIMBS, ORNAMENTS, Score
from orchesis.score.section import SOUND_KEYS
from orchesis.score.signs import SIGNS
from orchesis.score.stroke import DOUBTS, DYNAMICS

#: Equal parts of a beat that places are taken from: all grids that are accepted.
GRIDS = (1, 2, 3, 4, 5, 6, 7, 8, 9, 12, 16, 24, 32, 48)
METERS = (
    "4/4",
    "3/4",
    "7/8",
    "12/8",
    "6/8",
    "5/4",
    "2/2",
    "5/8",
    "15/16",
    "1/8",
    "9/8",
    "11/16",
    "1/4",
)


class Walker:
    """Makes the next random edit of a score: (operation, arguments)."""

    def __init__(self, seed: int) -> None:
        self.random = random.Random(seed)
        self.count = 0

    def edit(self, score: Score, name: str | None = None) -> tuple[str, dict[str, Any]]:
        name = name or self.random.choice(sorted(EDITS))
        return name, _ARGS[name](self, score)

    def new(self) -> str:
        self.count += 1
        return f"w{self.count}"

    def stroke(self, score: Score) -> str:
        return self.random.choice(list(score.strokes) or ["none"])

    def section(self, score: Score) -> str:
        return self.random.choice(score.sections).id if score.sections else "none"

    def bar(self, score: Score) -> int:
        return self.random.randint(1, score.bar_count)

    def spot(self, score: Score) -> dict[str, Any]:
        bar, grid = self.bar(score), self.random.choice(GRIDS)
        beat = self.random.randrange(score.meters[bar - 1].beats)
        return {"bar": bar, "place": f"{beat * grid + self.random.randrange(grid)}/{grid}"}

    def beat(self, score: Score) -> dict[str, Any]:
        bar = self.bar(score)
        return {"bar": bar, "beat": self.random.randint(1, score.meters[bar - 1].beats)}

    def bars(self, score: Score) -> dict[str, Any]:
        first = self.bar(score)
        return {"first": first, "last": min(score.bar_count, first + self.random.randint(0, 3))}

    def moment(self, score: Score) -> float:
        return round(self.random.uniform(0, score.pulse.times[-1]), 4)

    def sound(self, score: Score) -> int:
        return self.random.choice(score.sounds).number if score.sounds else 1

    def perhaps(self, score: Score) -> list[str]:
        return self.random.sample(list(score.perhaps), min(5, len(score.perhaps))) or ["none"]

    def one(self, *words: Any) -> Any:
        return self.random.choice(words)


def _stuck(w: Walker, score: Score) -> dict[str, Any]:
    bar = w.bar(score)
    own = [s.id for s in score.strokes_of(bar) if s.limb.endswith("H")]
    return {"bar": bar, "limbs": {i: w.one("RH", "LH") for i in own}}


def _taken(w: Walker, score: Score) -> dict[str, Any]:
    bar = w.bar(score)
    return {"bars": [bar], "strokes": [s.to_json() for s in score.strokes_of(bar)][:3]}


def _added(w: Walker, score: Score) -> dict[str, Any]:
    return {
        "id": w.new(),
        **w.spot(score),
        "part": w.one(*KIT),
        "limb": w.one(*LIMBS),
        "dynamic": w.one(*DYNAMICS),
        "ornament": w.one(None, *ORNAMENTS),
        "choked": w.one(True, False),
    }


def _many(w: Walker, score: Score) -> dict[str, Any]:
    names = w.random.sample(
        ["set_part", "set_limb", "set_dynamic", "set_ornament", "set_loudness", "set_doubt"], 3
    )
    return {"edits": [{"operation": n, **_ARGS[n](w, score)} for n in names]}


def _written(w: Walker, score: Score) -> dict[str, Any]:
    bar, source = w.bar(score), w.bar(score)
    return {"bar": bar, "text": count_writer.write(score, source, source), "new": w.new()}


def _taps(w: Walker, score: Score) -> dict[str, Any]:
    start, period = w.moment(score), w.random.uniform(0.25, 1.2)
    return {"taps": [round(start + k * period, 4) for k in range(w.random.randint(8, 16))]}


def _spread(w: Walker, score: Score) -> dict[str, Any]:
    was = score.strokes.get(w.stroke(score))
    data = None if was is None else was.to_json()
    now = (
        None
        if data is None or w.one(True, False)
        else {**data, "dynamic": w.one(*DYNAMICS), "part": w.one(*KIT)}
    )
    return {"bars": [w.bar(score) for _ in range(4)], "changes": [{"was": data, "now": now}]}


def _aside(w: Walker, score: Score) -> str:
    return w.random.choice(score.aside).stroke.id if score.aside else "none"


def _words(w: Walker, score: Score) -> str:
    return w.random.choice(score.aside_words).id if score.aside_words else "none"


def _bars(w: Walker, score: Score) -> dict[str, int]:
    first = w.bar(score)
    return {"bar": first, "last": w.random.randint(first, score.bar_count)}


def _stretch(w: Walker, score: Score) -> dict[str, Any]:
    spot = w.spot(score)
    last = min(score.bar_count, spot["bar"] + w.one(0, 0, 1))
    return {**spot, "last_bar": last, "end": str(w.random.randint(1, score.meters[last - 1].beats))}


_ARGS: dict[str, Callable[[Walker, Score], dict[str, Any]]] = {
    "add_stroke": _added,
    "remove_stroke": lambda w, s: {"id": w.stroke(s)},
    "move_stroke": lambda w, s: {"id": w.stroke(s), **w.spot(s)},
    "set_part": lambda w, s: {"id": w.stroke(s), "part": w.one(*KIT)},
    "set_limb": lambda w, s: {"id": w.stroke(s), "limb": w.one(*LIMBS)},
    "set_dynamic": lambda w, s: {"id": w.stroke(s), "dynamic": w.one(*DYNAMICS)},
    "set_loudness": lambda w, s: {"id": w.stroke(s), "loudness": round(w.random.random(), 3)},
    "set_ornament": lambda w, s: {"id": w.stroke(s), "ornament": w.one(None, *ORNAMENTS)},
    "set_choked": lambda w, s: {"id": w.stroke(s), "choked": w.one(True, False)},
    "set_doubt": lambda w, s: {
        "id": w.stroke(s),
        "doubt": w.one(*DOUBTS),
        "reason": w.one("", "the bass hides it"),
    },
    "many": _many,
    "rename_section": lambda w, s: {
        "id": w.section(s),
        "name": w.one("Verse", "Chorus", "Solo à la minute"),
    },
    "move_border": lambda w, s: {"id": w.section(s), "first_bar": w.bar(s)},
    "split_section": lambda w, s: {"id": w.section(s), "bar": w.bar(s), "new": w.new()},
    "merge_section": lambda w, s: {"id": w.section(s)},
    "link_section": lambda w, s: {"id": w.section(s), "like": w.section(s)},
    "unlink_section": lambda w, s: {"id": w.section(s)},
    "note_section": lambda w, s: {"id": w.section(s), "note": w.one("", "lay back")},
    "note_bar": lambda w, s: {"bar": w.bar(s), "note": w.one("", "watch the singer")},
    "note_sound": lambda w, s: {
        "key": w.one(*SOUND_KEYS),
        "note": w.one("", "brushes"),
        **w.one({}, {"id": w.section(s)}),
    },
    "set_notation": lambda w, s: {
        "notation": w.one(
            "counted", "short", "long", "triplets", "compound", "swung_triplets", "swung_dotted"
        )
    },
    "confirm_bars": lambda w, s: {**_bars(w, s), "confirmed": w.one(True, False)},
    "halve_tempo": lambda w, s: {},
    "double_tempo": lambda w, s: {},
    "retime": lambda w, s: {"factor": w.one("3/2", "2/3", "4/3", "3/4", "2", "1/2")},
    "shift_one": lambda w, s: {"beats": w.one(-3, -2, -1, 1, 2, 3)},
    "shift_half": lambda w, s: {"later": w.one(True, False)},
    "set_one": lambda w, s: w.beat(s),
    "set_meter": lambda w, s: {"meter": w.one(*METERS), **w.one({}, _bars(w, s))},
    "insert_beat": lambda w, s: w.beat(s),
    "remove_beat": lambda w, s: w.beat(s),
    "drag_beat": lambda w, s: {
        **(b := w.beat(s)),
        "seconds": s.pulse.seconds(s.start_of(b["bar"]) + b["beat"] - 1)
        + w.random.uniform(-0.2, 0.2),
    },
    "tap": _taps,
    "lock": _bars,
    "unlock": lambda w, s: {"bar": w.bar(s)},
    "put_back": lambda w, s: {"id": _aside(w, s), **w.spot(s)},
    "put_back_words": lambda w, s: {"id": _words(w, s), "bar": w.bar(s)},
    "drop_aside_words": lambda w, s: {"id": _words(w, s)},
    "drop_aside": lambda w, s: {"id": _aside(w, s)},
    "name_sound": lambda w, s: {"sound": w.sound(s), "part": w.one(*KIT)},
    "dismiss_sound": lambda w, s: {"sound": w.sound(s)},
    "split_sound": lambda w, s: {"sound": w.sound(s)},
    "join_sounds": lambda w, s: {"sound": w.sound(s), "same": w.sound(s)},
    "write_perhaps": lambda w, s: {"ids": w.perhaps(s)},
    "drop_perhaps": lambda w, s: {"ids": w.perhaps(s)},
    "spread": _spread,
    "settle": lambda w, s: {"key": w.one("u|kick|0", "gA|snare|1|2")},
    "write_bars": _written,
    "play_in": lambda w, s: {
        "hits": [
            {"time": w.moment(s), "part": w.one(*KIT), "loudness": w.random.random()}
            for _ in range(9)
        ],
        "new": w.new(),
    },
    "set_cue": lambda w, s: {"bar": w.bar(s), "text": w.one("", '1 "hey"', '"stop"')},
    "mark_fill": _stretch,
    "deny_fill": _stretch,
    "forget_fill": _stretch,
    "judge_groove": lambda w, s: {
        "id": w.section(s),
        "name": w.one("", "the walk"),
        "length": w.one(0, 1, 2, 4),
        "kind": w.one("", "fixed", "thinned", "vocabulary"),
        **w.one({}, {"figures": ["rolling feet"]}),
    },
    "set_core": lambda w, s: {
        "id": w.section(s),
        "in_bar": w.one(0, 1, 2),
        "place": w.spot(s)["place"],
        "part": w.one(*KIT),
        "ghost": w.one(True, False),
        "standing": w.one("core", "option", "found"),
    },
    "forget_groove": lambda w, s: {"id": w.section(s)},
    "set_swing": lambda w, s: {
        "level": w.one("found", "none", "eighth", "sixteenth"),
        "ratio": w.one(0.5, 0.6, 0.667),
    },
    "set_player": lambda w, s: {
        "hand": w.one("right", "left"),
        "school": w.one(None, "alternating", "open"),
        "pedals": w.one(1, 2),
        "lacks": w.one(None, [], ["ride", "tom_high"]),
        "plan": w.one(None, [["ride", 0.5, 1.0]]),
        "counting": w.one(None, "", "ta_ka", "own ti & ta - -"),
        "reads": w.one(None, "limbs"),
        "note_names": w.one(None, "h"),
    },
    "set_spoken": lambda w, s: {
        "bar": w.bar(s),
        "text": w.one("", "TEA BREAD", "KET-tle TEA BOAT a-WAKE"),
    },
    "set_on_paper": lambda w, s: {
        "item": w.one("section sec1", "groove 8.25", "option 8.25 snare 1 3/2", "fill 12.50"),
        "shown": w.one(True, False),
        "text": w.one("", "as on the demo"),
    },
    "set_how_to": lambda w, s: {"sign": w.one(*SIGNS), "text": w.one("", "with the butt end")},
    "set_break": lambda w, s: {"bar": w.bar(s), "kind": w.one("line", "page", "joined", "found")},
    "set_school": lambda w, s: {"id": w.section(s), "school": w.one("", "lead", "open")},
    "stick_as": lambda w, s: {**w.bars(s), "rudiment": w.one(*NAMES)},
    "stick_bar": lambda w, s: _stuck(w, s),
    "free_limbs": lambda w, s: w.bars(s),
    "set_layer": lambda w, s: {**w.bars(s), "part": w.one(*KIT), "is_layer": w.one(True, False)},
    "arrange": lambda w, s: {"way": w.one(*WAYS), "bars": [w.bar(s), w.bar(s)]},
    "simplify": lambda w, s: {"level": w.one(1, 2, 3, 4)},
    "take_bars": lambda w, s: _taken(w, s),
    "set_cues": lambda w, s: {"cues": [{"bar": w.bar(s), "text": "1 2"} for _ in range(3)]},
    "tap_cue": lambda w, s: {"moments": [w.moment(s) for _ in range(6)]},
}
