"""Made-up drum parts by style: grooves in form, fills, ghosts, openings, feel, changing tempi.

A style is a row of the table STYLES: its tempi, its meter and, for each lane, rival patterns.
One sign is one cell of the beat:

    X loud   x plain   g ghost (nearly always)   , ghost (sometimes)   ? plain (sometimes)
    o opened (hats), bell (rides)   . nothing
"""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

#: Parts beyond the classes the network tells apart: toms by size, two crashes.
TOMS = ("tom1", "tom2", "tom3", "tom4")
_K16 = (
    "x.......x.......",
    "x..?..x?x..?..??",
    "x.....x.x.....?.",
    "x..x....x.x.....",
    "x.......x.x....?",
    "x...x...x...x...",
    "x?....xxx.?...?.",
    "x..x..x.x..x..x.",
    "x.....xx..x.....",
    "x.x.....x.x...?.",
)
_S24 = (
    "....X.......X...",
    "....X..,.,..X..,",
    "....X..g.g..X...",
    "....X.......X..?",
    "....X.,g.,..X.,g",
)
_T8 = ("x.x.x.x.x.x.x.x.",) * 4 + ("x.x.x.x.x.x.x.o.", "x.x.x.o.x.x.x.o.")
_T4 = ("x...x...x...x...",)
_T16 = ("xxxxxxxxxxxxxxxx",) * 3 + ("xxxxxxxxxxxxxxox", "x.xxx.xxx.xxx.xx")
_OFF = ("..x...x...x...x.", "..o...o...o...o.")
_FOOT = ("....x.......x...", "..x...x...x...x.", "................", "x...x...x...x...")
_KT = ("x.....x.....", "x....?x....?", "x....xx....x", "x..?..x..x.?")
_ST = ("...X.....X..", "..,X..,..X.,", "...X.,...X..", "..gX..g..X..")
_SH = ("x.xx.xx.xx.x",) * 3 + ("x.xx.xx.xx.o",)
_JAZZ = ("x..x.xx..x.x", "x..x.xx..x.x", "x..x.xx..x..", "x..x..x..x.x")


@dataclass(frozen=True)
class Style:
    """tempi: felt beats a minute. cells: cells of a beat. swing: range of the pair's ratio.

    surfaces: what the time hand plays on; backs: what the backbeat falls on. lanes: lane ->
    patterns of one or two bars. units: the beat is an eighth (7/8), so beats come fast.
    """

    name: str
    weight: float
    tempi: tuple[float, float]
    beats: int
    cells: int
    lanes: dict[str, tuple[str, ...]]
    surfaces: str = "hhhhhrrc"
    backs: str = "sssssx"
    swing: tuple[float, float] = (0.5, 0.5)


def _style(
    name: str,
    weight: float,
    low: float,
    high: float,
    beats: int,
    cells: int,
    time=(),
    back=(),
    kick=(),
    foot=(),
    *,
    surfaces="hhhhhrrc",
    backs="sssssx",
    swing=(0.5, 0.5),
    **more,
) -> Style:
    lanes = {
        k: tuple(v)
        for k, v in {"time": time, "back": back, "kick": kick, "foot": foot, **more}.items()
        if v
    }
    return Style(name, weight, (low, high), beats, cells, lanes, surfaces, backs, swing)


# One style a line, as a table.
# fmt: off
STYLES = (
    _style("rock eighths", 5, 72, 165, 4, 4, _T8, _S24, _K16),
    _style("rock quarters", 2, 120, 210, 4, 4, _T4, ("....X.......X...",), _K16, surfaces="hhoorc"),
    _style("fast", 2.5, 165, 214, 4, 4, _T4 + _T8[:2], ("....X.......X...",), ("x.......x.......", "x.......x.x.....", "x.....x.x.....x.", "x.x.....x.x.....", "x.....x...x...x."), surfaces="hhorrc"),
    _style("sixteenths", 3, 58, 108, 4, 4, _T16, _S24, _K16, surfaces="hhhhr"),
    _style("slow ballad", 2, 54, 82, 4, 4, _T8 + _T16[:2], ("....X.......X...", "....X..,....X..."), _K16[:6], backs="sssxx", surfaces="hhhrr"),
    _style("swung sixteenths", 2.5, 68, 110, 4, 4, _T8 + _T16, _S24, _K16, swing=(0.54, 0.68), surfaces="hhhhr"),
    _style("funk", 3.5, 82, 120, 4, 4, ("xx.xx.x.xxx.x..x", "x.xxx.xxx.xx?.xo", "x?x?x?x?x?x?x?x?", "x.x.x.xox.x.x.x.", "xxx.xxx.xxx.xxx."), ("....X..g.g..X...", "....X..g.g.g...X", "..,.X..g,g..X.,g", "....X..g.,g.X..g...X,..g.g..X.,.", "....X.g..g.X....", ".g..X..g.g..Xg.."), ("x.x...x...x..?..", "x..x...x..x.?...", "x.?...x..?x..x..", "x.x......xx...x."), surfaces="hhhhr", swing=(0.5, 0.56)),
    _style("linear", 2, 76, 122, 4, 4, ("x.x..xx..xx.x.x.", "x..x.x..xx..x..x", "x.x.x...x..x..x.", "xx..x.x..x.x..x."), (".,..X..g.g..X..,", "...gX..g..g.X...", "...,X.,..,..X.,."), ("...x......x...x.", ".x.....x.....x..", "..x..x.....x...x", ".x...x...x...x.."), surfaces="hhhhr"),
    _style("four on the floor", 3, 98, 142, 4, 4, _OFF + _T16 + _T8, ("....X.......X...",), ("x...x...x...x...",), surfaces="hhhho", backs="sssppx"),
    _style("half time", 2, 84, 122, 4, 4, _T8 + _T16[:2], ("........X.......", "........X..,..,.", "...,.,..X.......")  , ("x...............", "x.....x.........", "x.........x...x.", "x..x......x....."), surfaces="hhorrc"),
    _style("half-time shuffle", 2.5, 76, 124, 4, 3, _SH, (".g..g.X..g..", "......X.....", ".g..g.X..g.g", ".,..,.X..,.,"), ("x....x......", "x.x........x", "x....x.....x", "x...........", "x.......x.?."), surfaces="hhhr"),
    _style("shuffle", 3, 82, 168, 4, 3, _SH, _ST, _KT, surfaces="hhhrr"),
    _style("swing", 3, 96, 214, 4, 3, _JAZZ, ("..,.,...,..?", "............", "?....,..,..,", ".....X..,..?"), ("x..x..x..x..", "............", "?....?..?..x"), ("...x.....x..",), surfaces="rrrrh", backs="sssx"),
    _style("twelve-eight", 3, 44, 92, 4, 3, ("xxxxxxxxxxxx",) * 4 + ("xxxxxxxxxxxo",), ("...X.....X..", "...X.....X..", "......X.....", "..,X.,...X.,"), ("x.....x.....", "x....xx.....", "x.x...x..x.x", "x....x.....x"), surfaces="hhhrr"),
    _style("six-eight", 1.5, 44, 92, 2, 3, ("xxxxxx",) * 3 + ("x.xx.x",), ("...X..", "...X.,"), ("x.....", "x....x", "x.x...", "x....?"), surfaces="hhrr"),
    _style("bossa", 2, 104, 168, 4, 4, _T8[:4], ("x.....x.....x.......x.....x.....", "....x.....x...x.....x.....x...x.", "x.....x...x...x."), ("x.....x.x.....x.",), ("....x.......x...",), backs="xxxxs", surfaces="hhr"),
    _style("samba", 2, 84, 128, 4, 4, ("x.xxx.xxx.xxx.xx", "xxxxxxxxxxxxxxxx", "x.x.x.x.x.x.x.x."), ("..x....x..x....x", "..xg.x.g..xg.xg.", "x..x..x...x..x..", ".gx.,gx..gx.,gx."), ("x..xx..xx..xx..x", "x..xx..xx..xx..x", "x...x...x...x..."), ("..x...x...x...x.",), backs="xxs", surfaces="hrrr"),
    _style("one drop", 2.5, 60, 96, 4, 4, _T8 + _OFF + ("..x...xo..x...xo",), ("........X.......", "........X..,..,."), ("........x.......", "........x.......", "x.......x.......", "x...x...x...x..."), backs="xxsss", surfaces="hhhh", swing=(0.5, 0.6)),
    _style("one drop in three", 1.5, 60, 100, 4, 3, ("x.xx.xx.xx.x", "..xx....xx..", "..xx.x..xx.o"), ("......X.....", "......X....,"), ("......x.....", "......x.....", "x..x..x..x.."), backs="xxsss", surfaces="hhhh"),
    _style("train", 2.5, 84, 140, 4, 4, (), ("ggXgggXgggXgggXg", "gggXggXgggXgggXg", "xgXgxgXgxgXgxgXg", "ggXg.gXgggXg.gXg"), ("x...x...x...x...", "x.......x.......", "x...x...x...x.x."), ("..x...x...x...x.", "....x.......x..."), backs="s"),
    _style("march", 1.5, 92, 132, 4, 4, (), ("XgggXgggX.XgX...", "X.ggX.ggXgXgX.X.", "xxXxxxXxxxXxXxXx", "x..gx..gxxxxX..."), ("x...x...x...x...", "x.......x......."), ("....x.......x...",), backs="s"),
    _style("floor-tom time", 2, 84, 150, 4, 4, (*_T8[:4], "x.x...x.x.x...x.", "xxx.xxx.xxx.xxx."), ("....X.......X...", "............X...", "................"), ("x.......x.......", "x...x...x...x...", "x.....x...x....."), surfaces="t"),
    _style("tom pattern", 1.5, 80, 150, 4, 4, (), ("....X.......X...", "................", "............X..."), ("x.......x.......", "x...x...x...x...", "x..x....x..x...."), tom1=("x..x..x...x..x..", "x.....x.x.....x."), tom3=(".x..x....x..x...", "..x.x.....x.x..."), foot=_FOOT),
    _style("three three two", 2.5, 84, 150, 4, 4, (*_T8, "x.....x.....x..."), ("....X.......X...", "............X...", "......X.....X..."), ("x.....x.....x...", "x.....x.....x.x.", "x.....x...x.x..."), surfaces="hhrcc"),
    _style("double kick", 1.5, 100, 180, 4, 4, _T4 + _T8[:1], ("....X.......X...", "........X......."), ("xxxxxxxxxxxxxxxx", "x.x.x.x.x.x.x.x.", "x.xxx.xxx.xxx.xx"), surfaces="hrco"),
    _style("snare on every beat", 1.5, 100, 172, 4, 4, _T8 + _T4, ("X...X...X...X...",), _K16, surfaces="hhr"),
    _style("surf", 1.5, 132, 190, 4, 4, _T8[:3] + _T4, ("....X.X.....X...", "....X.X...X.X...", "....X.......X.X."), _K16[:4], surfaces="hrrt"),
    _style("break", 2, 88, 176, 4, 4, _T8[:3], ("....X..g.g..X..g", "....X..g.g....X...g.X..g.g....X.", "....X.....X.,g.X"), ("x.x.......xx....", "x.x.......x.....x.x.......x...x.", "x.........x....."), surfaces="hhrr"),
    _style("songo", 1.5, 80, 116, 4, 4, ("x...x...x...x...", "x.xxx.xxx.xx.xx."), ("....x..g.gx....g", "..x.g..x.g.xg..g"), ("...x..x....x..x.", "x.....x....x..x."), ("x...x...x...x...",), surfaces="rrhw"),
    _style("cha-cha", 1.5, 104, 140, 4, 4, ("x...x...x...x...", "x.x.x.x.x.x.x.x."), ("....x...........", "....x.......x..."), ("......x.......x.", "x.....x.x.....x."), surfaces="wwh", backs="xxs"),
    _style("afro twelve", 1.5, 84, 128, 4, 3, ("x.x.xx.x.x.x", "x.xx.x.xx.x."), ("...x..,..x..", "..x..x..x..x", "......x....."), ("x.....x.....", "x....x...x..", "x..x..x..x.."), ("x..x..x..x..",), surfaces="wrrb", backs="xss"),
    _style("second line", 1.5, 84, 116, 4, 4, (), ("xggXg.gXg.Xg.gXg", "X.gXggX.gXgXg.X."), ("x.....x.....x...", "x..x..x...x.x..."), ("....x.......x...",), backs="s", swing=(0.52, 0.6)),
    _style("waltz", 2.5, 84, 190, 3, 4, ("x.x.x.x.x.x.", "x...x...x...", "x...x.x.x..."), ("....x...x...", "........X...", "....X...x.,.", "....X......."), ("x...........", "x.....x.....", "x.x........."), ("....x...x...",), surfaces="hhrr"),
    _style("jazz waltz", 1.5, 110, 200, 3, 3, ("x..x.xx..", "x..x.xx.x", "x..x..x.."), ("....,...x", "...x.....", ".....X..,"), ("x........", "x....x..."), ("...x.....", "...x..x.."), surfaces="rrr"),
    _style("slow three", 1, 60, 100, 3, 4, ("x.x.x.x.x.x.", "xxxxxxxxxxxx"), ("........X...", "....X...X...", "....X..,.,.."), ("x.....x.....", "x...........", "x..x........"), surfaces="hhr"),
    _style("five", 2.2, 88, 190, 5, 4, ("x.x.x.x.x.x.x.x.x.x.", "x...x...x...x...x..."), ("....X.......X.......", "........X.......X...", "....X.......X..,..,.", "............X......."), ("x.......x.......x...", "x..........x....x...", "x.....x.....x......."), surfaces="hhrr"),
    _style("five swung", 1, 120, 200, 5, 3, ("x..x.xx..x..x.x", "x..x.xx..x.xx.."), (".........X.....", "......X.....x.,", "....,....X..,.."), ("x.....x........", "x........x....."), ("...x.....x.....",), surfaces="rr"),
    _style("seven", 2.2, 92, 200, 7, 4, ("x.x." * 7, "x..." * 7), ("........X...............X...", "....X.......X.......X...X...", "....X.......X.......X.......", "............X..............."), ("x...............x...........", "x..x............x...x.......", "x.......x.......x..........."), surfaces="hhrr"),
    _style("seven-eight", 2.2, 180, 255, 7, 2, ("xxxxxxxxxxxxxx", "x.x.x.x.x.x.x.", "x...x...x.x..."), ("....X.......X.", "....X.....X...", "........X.....", "....X...X....."), ("x.......x.....", "x..x....x.....", "x...........x."), surfaces="hhrr"),
    _style("five-eight", 0.8, 180, 250, 5, 2, ("x.x.x.x.x.", "x.....x..."), ("......X...", "....X....."), ("x.........", "x..x......"), surfaces="hhrr"),
    _style("six-four", 1.2, 88, 170, 6, 4, ("x.x." * 6, "x..." * 6), ("....X.......X.......X...", "........X...........X...", "............X..........."), ("x...............x.......", "x.......x.......x......."), surfaces="hhrr"),
    _style("nine-eight", 0.8, 50, 100, 3, 3, ("xxxxxxxxx", "x.xx.xx.x"), ("......X..", "...x..X.."), ("x........", "x....x..."), surfaces="hhr"),
    _style("shaker and cross-stick", 1.5, 66, 124, 4, 4, _T16 + _T8[:1], ("....X.......X...", "........X......."), _K16, surfaces="kkmm", backs="xxxxs"),
    _style("clap and tambourine", 1.5, 84, 138, 4, 4, _T8 + _T16, ("....X.......X...",), _K16, surfaces="hhmk", backs="psp"),
)
# fmt: on
_SURFACE = {
    "h": "hat_closed",
    "o": "hat_open",
    "r": "ride",
    "c": "crash",
    "t": "tom1",
    "b": "ride_bell",
    "w": "cowbell",
    "k": "shaker",
    "m": "tambourine",
}
_BACK = {"s": "snare", "x": "cross_stick", "p": "clap"}
_AUX = ("cowbell", "shaker", "tambourine", "block", "clap")


@dataclass(frozen=True)
class Event:
    """One stroke: seconds, part (toms by size), loudness 0..1, ornament or "", openness 0..1."""

    time: float
    part: str
    loudness: float
    ornament: str = ""
    openness: float = 0.0


@dataclass
class Song:
    """beats: seconds; numbers: the beat's number in its bar (from 0); sections: bar's letter.

    bars: index of the first beat of each bar. ternary: the beat divides in three.
    """

    style: str
    beats: np.ndarray
    numbers: np.ndarray
    events: list[Event]
    bars: list[int]
    letters: list[str]
    ternary: bool
    chords: list[int] = field(default_factory=list)


Strokes = list[tuple[float, str, float, float]]  # place in beats, part, loudness, openness


def compose(
    rng: np.random.Generator, seconds: float, *, style: Style | None = None, plain: float = 0.25
) -> Song:
    """A song at least so long. plain: share of songs of random strokes without any style."""
    if style is None and rng.random() < plain:
        style = _random_style(rng)
    elif style is None:
        weights = np.array([s.weight for s in STYLES])
        style = STYLES[int(rng.choice(len(STYLES), p=weights / weights.sum()))]
    bpm = float(np.exp(rng.uniform(*np.log(style.tempi))))
    grooves = {}
    swing = rng.uniform(*style.swing)
    for letter in "ABC":
        grooves[letter] = _groove(rng, style)
    layout = _layout(rng, style, int(seconds * bpm / 60 / style.beats) + 2)
    return _play(rng, style, bpm, swing, grooves, layout)


def _random_style(rng: np.random.Generator) -> Style:
    beats = int(rng.choice([4, 4, 4, 3, 5, 6, 7]))
    cells = int(rng.choice([4, 4, 3]))

    def lane(chance: float, on_beat: float, sign: str) -> str:
        return "".join(
            sign if rng.random() < (on_beat if k % cells == 0 else chance) else "."
            for k in range(beats * cells)
        )

    lanes = {
        "time": (lane(rng.uniform(0, 1), rng.uniform(0.3, 1), "x"),),
        "kick": (lane(rng.uniform(0.03, 0.25), 0.4, "x"),),
        "back": (lane(rng.uniform(0.02, 0.15), 0.35, "X"),),
        "ghost": (lane(rng.choice([0, 0.1, 0.3]), 0, "g"),),
    }
    if rng.random() < 0.3:
        lanes["foot"] = (lane(0.05, 0.6, "x"),)
    surfaces = str(
        rng.choice(
            ["h", "r", "b", "c", "o", "t", "k", "m", "w"],
            p=[0.4, 0.2, 0.07, 0.06, 0.09, 0.08, 0.04, 0.03, 0.03],
        )
    )
    return Style(
        "random",
        0,
        (58, 200),
        beats,
        cells,
        lanes,
        surfaces,
        "sssxp",
        (0.5, 0.62) if cells == 4 else (0.5, 0.5),
    )


def _groove(rng: np.random.Generator, style: Style) -> list[Strokes]:
    """The strokes of one or two bars (lists by bar); what was sometimes is decided here."""
    size = style.beats * style.cells
    surface = _SURFACE[str(rng.choice(list(style.surfaces)))]
    back = _BACK[str(rng.choice(list(style.backs)))]
    on, off = rng.uniform(0.5, 0.95), rng.uniform(0.25, 0.85)
    ghost, feather = rng.uniform(0.12, 0.36), rng.uniform(0.4, 1)
    accent = rng.uniform(0.8, 1)
    plain = rng.uniform(0.5, 0.85)
    opened = rng.uniform(0.3, 1)
    bars: list[Strokes] = [[], []]
    for lane, rivals in style.lanes.items():
        pattern = str(rng.choice(list(rivals)))
        pattern = pattern if len(pattern) == 2 * size else pattern * 2
        for k, sign in enumerate(pattern):
            if (
                sign == "."
                or (sign == "?" and rng.random() > 0.4)
                or (sign == "," and rng.random() > 0.4)
            ):
                continue
            if sign == "g" and rng.random() > 0.9:
                continue
            place = (k % size) / style.cells
            part, loud, openness = lane, plain, 0.0
            if lane == "time":
                part = surface
                loud = on if place % 1 == 0 else off
                if sign == "o" and surface == "hat_closed":
                    part, openness = "hat_open", opened
                elif sign == "o" and surface == "ride":
                    part = "ride_bell"
                elif surface == "hat_open":
                    openness = opened
            elif lane in ("back", "ghost"):
                part = back if sign not in "g," else "snare"
            elif lane == "foot":
                part, loud = "hat_foot", rng.uniform(0.35, 0.8)
            elif lane == "kick":
                loud = feather * rng.uniform(0.8, 1)
            if sign == "X":
                loud = accent
            if sign in "g,":
                loud = ghost * rng.uniform(0.8, 1.25)
            bars[k // size].append((place, part, loud, openness))
    if rng.random() < 0.1:  # something more is shaken or struck along
        part = str(rng.choice(_AUX))
        step = (
            int(rng.choice([1, style.cells, 2 * style.cells]))
            if part != "clap"
            else 2 * style.cells
        )
        for bar in bars:
            bar += [(k / style.cells, part, plain, 0.0) for k in range(0, size, step)]
    if surface == "hat_closed" and rng.random() < 0.2:
        _opened(rng, bars, opened)
    if rng.random() < 0.12 and surface.startswith("ride"):
        for bar in bars:
            bar += [(float(b), "hat_foot", 0.6, 0.0) for b in range(1, style.beats, 2)]
    return bars


def _opened(rng: np.random.Generator, bars: list[Strokes], openness: float) -> None:
    """Opens one or two of the hat's strokes, in every bar."""
    places = sorted({s[0] for bar in bars for s in bar if s[1] == "hat_closed"})
    if not places:
        return
    chosen = set(rng.choice(places, min(len(places), int(rng.integers(1, 3))), replace=False))
    for bar in bars:
        bar[:] = [
            (at, "hat_open", loud, openness)
            if part == "hat_closed" and at in chosen
            else (at, part, loud, held)
            for at, part, loud, held in bar
        ]


def _layout(rng: np.random.Generator, style: Style, bars: int) -> list[tuple[str, int, str]]:
    """Bars as (letter, beats, kind): kind is play, fill, silent, stop, count or pick-up."""
    out: list[tuple[str, int, str]] = []
    if rng.random() < 0.15:
        out += [("A", style.beats, "silent")] * int(rng.integers(1, 5))
    if rng.random() < 0.15:
        out.append(("A", style.beats, "count"))
    if rng.random() < 0.1:
        out.append(("A", style.beats, "pick-up"))
    letters = str(rng.choice(["AB", "AAB", "ABC", "AB", "A"]))
    length = int(rng.choice([4, 8, 8, 8, 6, 7, 12, 16]))
    k = 0
    while len(out) < bars:
        letter = letters[k % len(letters)]
        for n in range(length):
            kind = "play"
            if (n == length - 1 and rng.random() < 0.75) or (
                length >= 8 and n == 3 and rng.random() < 0.4
            ):
                kind = "fill"
            elif rng.random() < 0.01:
                kind = "stop"
            beats = style.beats
            if rng.random() < 0.006 and style.beats > 2:
                beats = int(rng.choice([2, style.beats - 1, style.beats + 1]))
            out.append((letter, beats, kind))
        if rng.random() < 0.06:
            out += [(letter, style.beats, "silent")] * int(rng.integers(1, 4))
        k += 1
    return out


def _play(
    rng, style: Style, bpm: float, swing: float, grooves: dict[str, list[Strokes]], layout
) -> Song:
    count = sum(b for _, b, _ in layout)
    kind = str(rng.choice(["click", "steady", "loose", "accelerando"], p=[0.45, 0.3, 0.18, 0.07]))
    steps = np.full(count + 1, 60 / bpm)
    if kind in ("steady", "loose"):
        walk = np.convolve(rng.normal(0, 1, count + 16), np.ones(16) / 4, "valid")[: count + 1]
        steps *= 1 + walk * (0.006 if kind == "steady" else 0.02)
    elif kind == "accelerando":
        steps /= np.linspace(1, rng.uniform(0.8, 1.3), count + 1)
    times = np.concatenate([[rng.uniform(0.02, 1.0)], steps]).cumsum()
    spread = rng.uniform(0.001, 0.009)
    late = {"snare": rng.normal(0, 0.006), "kick": rng.normal(0, 0.003)}
    uneven = rng.uniform(0.02, 0.07)
    events: list[Event] = []
    numbers: list[int] = []
    starts: list[int] = []
    letters: list[str] = []
    crash_next, at = rng.random() < 0.3, 0
    crash = str(rng.choice(["crash", "crash", "crash", "crash2", "china", "splash"]))
    spice = rng.uniform(0, 0.2) if rng.random() < 0.4 else 0.0  # how often ornaments come
    before = ""
    for n, (letter, beats, kind) in enumerate(layout):
        starts.append(at)
        letters.append(letter)
        numbers += range(beats)
        strokes = [s for s in grooves[letter][n % 2] if s[0] < beats - 1e-6]
        strokes = [s for s in strokes if rng.random() > 0.025]
        if kind == "fill":
            strokes = _filled(rng, strokes, beats, style.cells)
        elif kind == "silent":
            strokes = []
        elif kind == "stop":
            strokes = [(0.0, "kick", 0.9, 0.0), (0.0, "crash", 0.9, 0.0)]
        elif kind == "count":
            part = str(rng.choice(["block", "hat_closed", "hat_foot", "cross_stick"]))
            strokes = [(float(b), part, 0.8, 0.0) for b in range(beats)]
        elif kind == "pick-up":
            strokes = [(beats - 1 + k / 2, "snare", 0.8, 0.0) for k in range(2)]
        elif rng.random() < 0.15:
            place = float(rng.integers(0, beats * style.cells)) / style.cells
            part = str(
                rng.choice(
                    [
                        "kick",
                        "kick",
                        "crash",
                        "snare",
                        "tom2",
                        "hat_open",
                        "splash",
                        "china",
                        "ride_bell",
                    ]
                )
            )
            strokes = [s for s in strokes if s[0] != place or s[1] != part] + [
                (place, part, 0.75, 0.8)
            ]
        if kind in ("play", "fill") and (crash_next or (letter != before and rng.random() < 0.5)):
            strokes = [s for s in strokes if s[0] > 0 or not s[1].startswith(("hat", "ride"))]
            strokes.append((0.0, crash, rng.uniform(0.7, 1), 0.0))
            if all(s[0] > 0 or s[1] != "kick" for s in strokes) and rng.random() < 0.9:
                strokes.append((0.0, "kick", 0.85, 0.0))
        crash_next = kind == "fill" and rng.random() < 0.75
        before = letter
        for place, part, loud, openness in strokes:
            shown = _swung(place, swing, style.cells)
            k = min(int(shown), beats - 1)
            a, b = times[at + k], times[at + k + 1]
            time = a + (shown - k) * (b - a) + rng.normal(0, spread) + late.get(part, 0)
            loud = float(np.clip(loud + rng.normal(0, uneven), 0.06, 1))
            ornament = ""
            if part in ("snare", "tom1", "tom2", "tom3") and loud > 0.45 and rng.random() < spice:
                ornament = str(rng.choice(["flam", "drag", "buzz"]))
            events.append(Event(float(time), part, loud, ornament, openness))
        at += beats
    chords = [int(c) for c in rng.choice([0, 2, 3, 5, 7, 8, 10], len(layout))]
    events = sorted(_clean(events), key=lambda e: e.time)
    return Song(
        style.name,
        times[: len(numbers)],
        np.array(numbers),
        events,
        starts,
        letters,
        style.cells == 3,
        chords,
    )


def _clean(events: list[Event]) -> list[Event]:
    """One stroke of a part at a time: of two nearer than 30 ms the louder stays."""
    kept: dict[str, Event] = {}
    out: list[Event] = []
    for event in sorted(events, key=lambda e: e.time):
        family = "hat" if event.part.startswith("hat") and event.part != "hat_foot" else event.part
        last = kept.get(family)
        if last is not None and event.time - last.time < 0.03:
            if event.loudness <= last.loudness:
                continue
            out.remove(last)
        kept[family] = event
        out.append(event)
    return [e for e in out if e.time > 0]


def _swung(place: float, swing: float, cells: int) -> float:
    inside = place % 0.5
    return place + (swing - 0.5) / 2 if cells == 4 and abs(inside - 0.25) < 1e-6 else place


def _filled(rng: np.random.Generator, strokes: Strokes, beats: int, cells: int) -> Strokes:
    start = float(rng.integers(max(0, beats - 4), beats))
    if rng.random() < 0.25:
        start += 0.5
    steps = (
        [1 / 3, 1 / 3, 1 / 6, 1.0] if cells == 3 else [0.5, 0.25, 0.25, 0.25, 1 / 6, 1 / 3, 0.125]
    )
    step = float(rng.choice(steps))
    keeps = rng.random()
    out = [
        s
        for s in strokes
        if s[0] < start or (s[1] in ("kick", "hat_foot") and rng.random() < keeps)
    ]
    drums = ["snare", "tom3", "tom2", "tom1"]
    which = 0 if rng.random() < 0.6 else int(rng.integers(0, 4))
    rise = rng.random() < 0.3
    run = 0
    p = start
    density, kicks = rng.uniform(0.6, 1), rng.random() < 0.2
    while p < beats - 1e-6:
        if rng.random() < density:
            loud = (
                rng.uniform(0.45, 1)
                if not rise
                else 0.3 + 0.7 * (p - start) / (beats - start + 1e-6)
            )
            part = "kick" if kicks and run % 3 == 2 else drums[which]
            out = [s for s in out if abs(s[0] - p) > 1e-6 or s[1] != part]
            out.append((p, part, float(loud), 0.0))
        run += 1
        if rng.random() < 0.3:
            which = min(3, which + 1) if rng.random() < 0.8 else int(rng.integers(0, 4))
        p += step
    return out
