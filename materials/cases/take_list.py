"""Forty players whose practice is recorded: what is played, how, and what goes wrong. The list was
committed before it was measured; the second half was opened once, at the end (bench/RESULTS.md)."""

from __future__ import annotations

from dataclasses import dataclass, field

#: Steps and songs of several styles, tempi, meters and hands, as count text.
PARTS = {
    "rock": "tempo: 92\nhat: 8ths | 8ths 4&.o\nsnare: 2.> (2a) 4.> | 2.> (3e) 4.>\nkick: 1 2& 3 | 1 1& 3 3&",
    "straight": "tempo: 124\nhat: 8ths\nsnare: 2.> 4.>\nkick: 1 3",
    "funk": "tempo: 98\nhat: 16ths\nsnare: 2.> (2a) (3e) 4.>\nkick: 1 1a 2& 3a",
    "shuffle": "tempo: 116\nhat: 1 1l 2 2l 3 3l 4 4l\nsnare: 2.> 4.>\nkick: 1 2l 3",
    "ride": "tempo: 140\nride: 1 2 2& 3 4 4&\nhat_foot: 2 4\nkick: 1 3\nsnare: (2a) 4.",
    "bossa": "tempo: 132\nhat: 8ths | =\ncross_stick: 1 2& 4 | 2 3&\nkick: 1 2& 3 4& | =\nhat_foot: 2 4 | =",
    "waltz": "tempo: 108\nmeter: 3/4\nhat: 8ths | =\nsnare: 2 3 | 2 3 3&\nkick: 1 | 1 1&",
    "six": "tempo: 60\nmeter: 6/8\nhat: 1 1t 1l 2 2t 2l\nsnare: 2.>\nkick: 1 1l",
    "seven": "tempo: 126\nmeter: 7/8 2+2+3\nhat: 8ths | =\nsnare: 3.> 7.> | 3.> 6\nkick: 1 5 | 1 2 5",
    "toms": "tempo: 104\ntom_floor: 8ths | 8ths\nsnare: 2.> 4.> | 2.> 4 4a\nkick: 1 3 | 1 2& 3",
    "ballad": "tempo: 68\nhat: 8ths | =\nsnare: 2.> (2a) 4.> | 2.> (4e) 4.>\nkick: 1 2& 3 | 1 3 3a",
    "linear": "tempo: 88\nhat: 1 1& 2& 3 3a 4& | =\nsnare: 1a 2.> (2a) 4.> | =\nkick: 1e 2e 3e 4e | =",
    "song": "tempo: 110\n== Verse\nhat: 8ths | = | = | = | = | = | = | 1 1& 2 2&\n"
    "snare: 2.> 4.> | = | = | 2.> 4.> (4a) | 2.> 4.> | = | = | 3 3e 3& 3a 4 4e 4& 4a\n"
    "kick: 1 3 | 1 2& 3 | 1 3 | 1 3 3& | 1 3 | 1 2& 3 | 1 3 | 1\n"
    "== Chorus\ncrash: 1.> | - | - | - | 1.> | - | - | -\nride: 8ths -1 | 8ths | = | = | 8ths -1 | 8ths | = | =\n"
    "snare: 2.> 4.> | = | = | = | = | = | = | =\nkick: 1 1& 3 3& | = | = | = | 1 1& 3 | = | = | =",
}


@dataclass(frozen=True)
class Recorded:
    """part: of PARTS. seconds: that are played. kit: "ours" or one of materials/kits.py. band: dB of
    the band against the drums, None: none. percent: faster than written; drift: percent by which
    it becomes faster on the way. late (ms), gain (dB), missed and extra (shares), spread (ms): by
    limb. break_: "restart", "skip" (two bars are left out), "talk" (noise and a pause), or "".
    fault: what the advice has to name: limb and kind, "rush", "drag", or "" (faultless)."""

    part: str
    seconds: float
    kit: str = "ours"
    band: float | None = None
    percent: float = 0.0
    drift: float = 0.0
    late: dict[str, float] = field(default_factory=dict)
    gain: dict[str, float] = field(default_factory=dict)
    missed: dict[str, float] = field(default_factory=dict)
    extra: dict[str, float] = field(default_factory=dict)
    spread: dict[str, float] = field(default_factory=dict)
    break_: str = ""
    fault: str = ""


_F = "ForzeeStereo"
PLAYERS: tuple[Recorded, ...] = (
    # The first half.
    Recorded("rock", 60),
    Recorded("straight", 170, percent=0.35),
    Recorded("rock", 90, _F, percent=-1.2, break_="talk"),
    Recorded("funk", 45, band=-3.0, percent=0.8),
    Recorded("song", 75, _F, band=0.0, percent=-0.6),
    Recorded("shuffle", 40, percent=1.5, late={"RF": 25}, fault="RF late"),
    Recorded("straight", 120, _F, percent=-0.3, late={"RF": 22}, fault="RF late"),
    Recorded("bossa", 90, band=-4.0, percent=0.4, late={"RF": 20}, fault="RF late"),
    Recorded("funk", 60, percent=-2.0, late={"LH": 18}, fault="LH late"),
    Recorded("ride", 50, _F, percent=0.2, late={"RH": -20}, fault="RH early"),
    Recorded("waltz", 30, percent=-0.9, gain={"LH": -5}, fault="LH soft"),
    Recorded("rock", 150, percent=0.1, gain={"LH": -4}, fault="LH soft"),
    Recorded("straight", 60, _F, percent=1.0, gain={"RF": 6}, fault="RF loud"),
    Recorded("six", 60, percent=0.7, missed={"RF": 0.12}, fault="RF missed"),
    Recorded("rock", 240, _F, percent=-0.5, missed={"LH": 0.1}, fault="LH missed"),
    Recorded("seven", 70, band=-2.0, percent=1.2, extra={"RF": 0.15}, fault="RF extra"),
    Recorded("toms", 60, percent=-1.6, spread={"RH": 24}, fault="RH uneven"),
    Recorded("ballad", 120, percent=0.5, drift=2.2, fault="rush"),
    Recorded("linear", 45, percent=-0.2, break_="restart"),
    Recorded("song", 480, percent=0.3, break_="skip", late={"RF": -22}, fault="RF early"),
    # The second half.
    Recorded("funk", 20, percent=0.9),
    Recorded("ballad", 200, _F, percent=-0.7),
    Recorded("bossa", 60, percent=1.8, break_="restart"),
    Recorded("seven", 80, _F, band=-3.0, percent=0.6),
    Recorded("song", 100, band=-1.0, percent=-1.9, break_="skip"),
    Recorded("waltz", 75, _F, percent=0.2, late={"LH": 24}, fault="LH late"),
    Recorded("six", 40, percent=-1.1, late={"RF": 21}, fault="RF late"),
    Recorded("toms", 90, percent=0.8, late={"RF": -24}, fault="RF early"),
    Recorded("rock", 300, band=-2.0, percent=-0.4, late={"LH": 20}, fault="LH late"),
    Recorded("linear", 60, _F, percent=0.3, late={"RF": 26}, fault="RF late"),
    Recorded("shuffle", 65, percent=-0.8, gain={"RH": 5}, fault="RH loud"),
    Recorded("ballad", 50, percent=1.4, gain={"RF": -6}, fault="RF soft"),
    Recorded("funk", 100, _F, percent=-1.4, gain={"LH": -6}, fault="LH soft"),
    Recorded("straight", 35, percent=0.6, missed={"LH": 0.2}, fault="LH missed"),
    Recorded("ride", 110, percent=-0.1, missed={"RH": 0.1}, fault="RH missed"),
    Recorded("rock", 70, _F, percent=1.9, extra={"LH": 0.15}, fault="LH extra"),
    Recorded("six", 90, band=-4.0, percent=0.2, spread={"LH": 26}, fault="LH uneven"),
    Recorded("straight", 130, _F, percent=-0.6, drift=-2.4, fault="drag"),
    Recorded("shuffle", 55, percent=0.4, break_="talk", late={"LH": -22}, fault="LH early"),
    Recorded(
        "song", 360, _F, percent=-1.0, break_="restart", missed={"RF": 0.1}, fault="RF missed"
    ),
)
