"""Forty written passages, and what of them is new and what comes back.

A beat is a letter (its strokes stand in _BEATS), ' puts its hands on a tom, two letters joined are
two beats in the time of one, - is a rest. What a drummer would say of it stands behind: "N bar.beat+beats"
is new, "R bar.beat+beats<bar.beat how" is a return of the beats that begin there. The first twenty were
looked at when the rule (orchesis/teaching/reuse.py) was last touched, the other twenty only at the end.
"""

from __future__ import annotations

from fractions import Fraction

from orchesis.score import KIT, Meter, PulseMap, Score, Section, Stroke
from orchesis.score.stroke import CLASS_LOUDNESS
from orchesis.teaching import reuse

_BEATS = {
    "A": "S0 S1/4 S1/2 S3/4",
    "B": "S0 K1/2 K3/4",
    "C": "K0 S1/4 S1/2",
    "D": "S0 S1/2 G3/4",
    "E": "K0 S1/2 K3/4",
    "F": "K0 S1/3 S2/3",
    "G": "K0 K1/4 S1/2 S3/4",
    "H": "S1/4 K1/2 S3/4",
}
_PARTS = {"S": "snare", "K": "kick", "G": "snare"}

#: (beats, what is told)
WRITTEN = (
    # inside a bar
    ("A B A C", "N1.1+2, R1.3+1<1.1 moved, N1.4+1"),
    ("A B C B", "N1.1+3, R1.4+1<1.2 moved"),
    ("A A B C", "N1.1+1, R1.2+1<1.1 moved, N1.3+2"),
    ("A B A B", "N1.1+2, R1.3+2<1.1 moved"),
    ("A B C D", "N1.1+4"),
    ("E - E -", "N1.1+1, R1.3+1<1.1 moved"),
    ("A B - A", "N1.1+2, R1.4+1<1.1 moved"),
    ("A A A A", "N1.1+1, R1.2+1<1.1 moved, R1.3+2<1.1 moved"),
    # from bar to bar
    ("A B C D | A B C D", "N1.1+4, R2.1+4<1.1 same"),
    ("A B C D | A B C E", "N1.1+4, R2.1+3<1.1 same, N2.4+1"),
    ("A B C D | E B C D", "N1.1+4, N2.1+1, R2.2+3<1.2 same"),
    ("A B C D | C D A B", "N1.1+4, R2.1+2<1.3 moved, R2.3+2<1.1 moved"),
    ("A B C D | C F G H", "N1.1+4, R2.1+1<1.3 moved, N2.2+3"),
    ("A B C D | E F G H", "N1.1+4, N2.1+4"),
    ("A B - - | A B C D", "N1.1+2, R2.1+2<1.1 same, N2.3+2"),
    ("A B C - | - A B C", "N1.1+3, R2.2+3<1.1 moved"),
    ("E B E D | E B E D | E B E A", "N1.1+2, R1.3+1<1.1 moved, N1.4+1, R2.1+7<1.1 same, N3.4+1"),
    ("A B C D | E F G H | A B C D", "N1.1+4, N2.1+4, R3.1+4<1.1 same"),
    ("A B C D | E F G H | A B G H", "N1.1+4, N2.1+4, R3.1+2<1.1 same, R3.3+2<2.3 same"),
    # on other drums, faster
    ("A B C D | A' B C D", "N1.1+4, R2.1+4<1.1 drums"),
    # the second half
    ("C E D B", "N1.1+4"),
    ("D C D C", "N1.1+2, R1.3+2<1.1 moved"),
    ("C - - C", "N1.1+1, R1.4+1<1.1 moved"),
    ("G H E G", "N1.1+3, R1.4+1<1.1 moved"),
    ("F F H H", "N1.1+1, R1.2+1<1.1 moved, N1.3+1, R1.4+1<1.3 moved"),
    ("B D B - ", "N1.1+2, R1.3+1<1.1 moved"),
    ("C E D B | D B C E", "N1.1+4, R2.1+2<1.3 moved, R2.3+2<1.1 moved"),
    ("C E D B | C E D H", "N1.1+4, R2.1+3<1.1 same, N2.4+1"),
    ("C E D B | B E D B", "N1.1+4, R2.1+1<1.4 moved, R2.2+3<1.2 same"),
    ("C E D B | C E D B | C E D B", "N1.1+4, R2.1+8<1.1 same"),
    ("G E - - | G E - - ", "N1.1+2, R2.1+2<1.1 same"),
    ("H F A C | G G E B", "N1.1+4, N2.1+1, R2.2+1<2.1 moved, N2.3+2"),
    ("A B C D | F - - - | B C D -", "N1.1+4, N2.1+1, R3.1+3<1.2 moved"),
    ("A - - - | - A - - | - - A -", "N1.1+1, R2.2+1<1.1 moved, R3.3+1<1.1 moved"),
    ("D E F G | D' E F G", "N1.1+4, R2.1+4<1.1 drums"),
    ("A A' H E", "N1.1+1, R1.2+1<1.1 drums, N1.3+2"),
    ("A B C D | AB E F G", "N1.1+4, R2.1+1<1.1 faster, N2.2+3"),
    ("C E D B | H F CE G", "N1.1+4, N2.1+2, R2.3+1<1.1 faster, N2.4+1"),
    ("A' B C D | A B C E", "N1.1+4, R2.1+3<1.1 drums, N2.4+1"),
    ("E F E G | E F E G", "N1.1+2, R1.3+1<1.1 moved, N1.4+1, R2.1+4<1.1 same"),
)


def _strokes(word: str) -> list[tuple[Fraction, str, str]]:
    if word == "-":
        return []
    letters = [c for c in word if c != "'"]
    made = []
    for n, letter in enumerate(letters):
        for stroke in _BEATS[letter].split():
            at = (n + Fraction(stroke[1:])) / len(letters)
            part = "tom_floor" if "'" in word and stroke[0] == "S" else _PARTS[stroke[0]]
            made.append((at, part, "ghost" if stroke[0] == "G" else "normal"))
    return made


def score_of(text: str) -> Score:
    """A passage as a score of one section at 100 beats a minute."""
    bars = [bar.split() for bar in text.split("|")]
    strokes = [
        Stroke(
            f"s{bar}-{beat}-{n}",
            bar,
            beat + at,
            part,
            KIT[part].limb,
            dynamic,
            CLASS_LOUDNESS[dynamic],
        )
        for bar, words in enumerate(bars, 1)
        for beat, word in enumerate(words)
        for n, (at, part, dynamic) in enumerate(_strokes(word))
    ]
    return Score(
        (Meter(4, 4),) * len(bars),
        PulseMap.even(100, 4 * len(bars)),
        {s.id: s for s in strokes},
        (Section("a", "A", "A", 1, len(bars)),),
    )


def told(text: str) -> set[str]:
    """What the program says of a passage, in the list's notation."""
    found = reuse.read(score_of(text))
    made = {f"N{f.where.bar}.{f.where.beat}+{f.where.beats}" for f in found.figures}
    return made | {
        f"R{r.where.bar}.{r.where.beat}+{r.where.beats}<{r.source.bar}.{r.source.beat} {r.how}"
        for r in found.returns
    }


def f_measure(half: int | None = None) -> float:
    """F over all figures and returns; half: 0 the first twenty, 1 the others."""
    own = WRITTEN if half is None else WRITTEN[20 * half : 20 * half + 20]
    hits = have = want = 0
    for text, says in own:
        expected, found = {w.strip() for w in says.split(",")}, told(text)
        hits, have, want = hits + len(expected & found), have + len(found), want + len(expected)
    return 2 * hits / (have + want)
