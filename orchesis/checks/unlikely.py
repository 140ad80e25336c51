"""Strokes that were probably not played: a third hand's, and those of an echo."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable
from fractions import Fraction

from orchesis.checks.echo import echoes
from orchesis.checks.review import DOUBTFUL, Doubt
from orchesis.score import KIT, Score, Stroke

_GRACED = ("flam", "drag", "ruff")  # two hands on one drum


def third_hand(score: Score) -> list[Doubt]:
    """Hand strokes that no two hands can play together: a layered recording, or misheard.

    A flam, drag or ruff takes both hands to one drum. One doubt for each set of parts.
    """
    groups: dict[tuple[Fraction, tuple[str, ...]], list[list[Stroke]]] = defaultdict(list)
    moments: dict[tuple[int, Fraction], list[Stroke]] = defaultdict(list)
    for s in score.played().ordered():
        if s.doubt == "layer" or s.bar in score.confirmed:
            continue
        if not KIT[s.part].role.endswith("_foot"):
            moments[s.bar, s.place].append(s)
    for (_, place), strokes in moments.items():
        hands = sum(2 if s.ornament in _GRACED else 1 for s in strokes)
        is_sure = all(
            s.confidence >= DOUBTFUL for s in strokes
        )  # what is unsure is asked for itself
        if hands > 2 and is_sure and not all(s.doubt == "assumed" for s in strokes):
            groups[place, tuple(sorted(s.part for s in strokes))].append(strokes)
    doubts = []
    for (place, parts), strokes_of_kind in groups.items():
        softest = [
            min(strokes, key=lambda s: (s.confidence, s.loudness)) for strokes in strokes_of_kind
        ]
        doubts.append(
            Doubt(
                f"h{place}|{'+'.join(parts)}",
                "hands",
                softest[0].part,
                place,
                softest[0].limb,
                tuple(s.bar for s in softest),
                tuple(s.id for s in softest),
                float(len(strokes_of_kind)),
                parts=parts,
            )
        )
    return doubts


Spectra = Callable[[list[tuple[float, float]]], float | None]
_MAX_LIKENESS_OF_A_PLAYED_REPEAT = 0.4  # likeness of the spectra below which a repeat is no repeat


def echo_doubts(score: Score, spectra: Spectra | None = None) -> list[Doubt]:
    """Strokes that are probably a delay's (orchesis/checks/echo.py), one doubt for each drum.

    spectra: tells how alike the sounds at pairs of moments (seconds) are, -1 to 1, where the
    recording is at hand: a delay repeats the spectrum too.
    """
    doubts = []
    for e in echoes(score):
        certain = [score.strokes[i] for i in e.strokes if score.strokes[i].doubt != "assumed"]
        certain = [s for s in certain if s.bar not in score.confirmed]
        like = None
        if certain and spectra is not None:
            like = spectra(
                [(score.strokes[a].time or 0.0, score.strokes[b].time or 0.0) for a, b in e.pairs]
            )
            if like is not None and like < _MAX_LIKENESS_OF_A_PLAYED_REPEAT:
                continue
        if certain:
            first = min(certain, key=lambda s: (s.bar, s.place))
            doubts.append(
                Doubt(
                    f"e{e.part}|{round(1000 * e.delay)}",
                    "echo",
                    first.part,
                    first.place,
                    first.limb,
                    tuple(dict.fromkeys(s.bar for s in certain)),
                    tuple(s.id for s in certain),
                    float(len(certain)),
                    echo=e,
                    alike=like,
                )
            )
    return doubts
