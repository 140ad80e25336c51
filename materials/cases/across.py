"""Twenty written passages of grooves and solos, and the figure that runs across their bars.

Written before the rule that reads them (orchesis/grooves/across.py); the odd half was looked at
while it was made, the even half only at the end; one of them (kicks at 4/3 of a beat) turned out to
come round within the bar and was replaced. Each is count text of some bars, with how many
strokes the figure has and how many beats (a fraction) it takes; 0 where nothing runs across.
"""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

from orchesis.formats import count
from orchesis.grooves import across


@dataclass(frozen=True)
class Written:
    text: str
    strokes: int
    beats: Fraction = Fraction(0)
    of: str = ""


def _laid(figure: str, bars: int, grid: int = 4, beats: int = 4, **under: str) -> str:
    """A figure of letters laid end to end over a grid: S snare, K kick, T F toms, H hat, - rest."""
    names = {"S": "snare", "K": "kick", "T": "tom_high", "F": "tom_floor", "H": "hat"}
    words = figure.split()
    size = bars * beats * grid
    lanes: dict[str, list[list[str]]] = {}
    for i in range(size):
        word = words[i % len(words)]
        if word == "-":
            continue
        lane = lanes.setdefault(names[word[0]], [[] for _ in range(bars)])
        beat, step = divmod(i % (beats * grid), grid)
        lane[i // (beats * grid)].append(f"{beat + 1}:{step}/{grid}{'.>' if '>' in word else ''}")
    rows = [f"{n}: {' | '.join(' '.join(b) or '-' for b in own)}" for n, own in lanes.items()]
    rows += [f"{n}: {' | '.join([text] * bars)}" for n, text in under.items()]
    return "\n".join(rows)


HALF = {"hat": "8ths", "snare": "3.>"}
SHUFFLE = {"hat": "1 1l 2 2l 3 3l 4 4l", "snare": "3.>"}
F = Fraction
WRITTEN = (
    # figures that run across the bars
    Written(_laid("S T F F K K", 4), 6, F(3, 2)),
    Written(_laid("K S S", 4), 3, F(3, 4)),
    Written(_laid("S S K S S K K", 4), 7, F(7, 4)),
    Written(_laid("S T K K S", 4), 5, F(5, 4)),
    Written(_laid("K - -", 4, **HALF), 1, F(3, 4), "kick"),
    Written(_laid("K K -", 6, **HALF), 2, F(3, 4), "kick"),
    Written(_laid("K - K - -", 5, hat="quarters", snare="2 4"), 2, F(5, 4), "kick"),
    Written(_laid("K - - - -", 4, grid=3, **SHUFFLE), 1, F(5, 3), "kick"),
    Written(_laid("K - - - -", 6, grid=2, hat="8ths", snare="2 4"), 1, F(5, 2), "kick"),
    Written(_laid("S> S S", 4, kick="quarters"), 3, F(3, 4), "hands"),
    Written(_laid("S S T - S", 4, kick="1 2 3 4", hat_foot="2 4"), 4, F(5, 4), "hands"),
    Written(_laid("S T T S F F", 6, grid=4, beats=4, kick="quarters"), 6, F(3, 2), "hands"),
    # where nothing does
    Written("hat: 8ths | = | = | =\nsnare: 2 4 | = | = | =\nkick: 1 3 | = | = | =", 0),
    Written("hat: 16ths | = | = | =\nsnare: 2 4 | = | = | =\nkick: 1 1a 2& 3& | = | = | =", 0),
    Written(
        "ride: 1 2 2l 3 4 4l | = | = | =\nhat_foot: 2 4 | = | = | =\nkick: quarters | = | = | =", 0
    ),
    Written("hat: 8ths | = | = | =\nsnare: 2 4 | = | = | =\nkick: 1 2& | 1 3& | 1 2& | 1 3&", 0),
    Written("hat: 8ths | = | = | =\nsnare: 3 | = | = | =\nkick: 1 1& 4& | 2& 4 | 1 2& | 1& 4", 0),
    Written(
        "cross_stick: 1 2& 4 | 2 3& | 1 2& 4 | 2 3&\nkick: 1 2& 3 4& | = | = | =\nhat: 8ths | = | = | =",
        0,
    ),
    Written(
        "snare: 1 1e 1& 1a 2 2e 2& 2a 3 3e 3& 3a 4 4e 4& 4a | = | = | =\nkick: quarters | = | = | =",
        0,
    ),
    Written("hat: offbeats | = | = | =\nkick: quarters | = | = | =\nclap: 2 4 | = | = | =", 0),
)


def is_right(w: Written) -> bool:
    """Whether the figure is found (or nothing is, where there is none)."""
    score = count.read(f"tempo: 100\n== A\n{w.text}\n")
    found = across.figures(score, 1, score.bar_count)
    if not w.strokes:
        return not found
    return any(
        f.strokes == w.strokes
        and F(f.steps, f.beat_steps) == w.beats
        and (not w.of or f.of == w.of)
        for f in found
    )


def share_right(half: int | None = None) -> float:
    """Share of the passages that are told right; half: 0 the odd ones, 1 the even ones."""
    own = [w for n, w in enumerate(WRITTEN) if half is None or n % 2 == half]
    return sum(map(is_right, own)) / len(own)
