"""Strokes before the kit enters: hand drums, clanks and plucks of an opening are no kit.

Nothing of a single stroke tells them from a kit's; their level does: where a first section is far
below the rest of the song in all that it plays, and its kick too (or it has none), what was heard
there is perhaps a stroke, for a person to judge.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from orchesis.hearing.types import Beat, HeardSection, Hit

_BELOW = 9.0  # dB below the rest of the song
_MIN_STROKES = 8  # of the rest, and of its kick, that a level is taken from


def of_intro(
    hits: Sequence[Hit], beats: Sequence[Beat], sections: Sequence[HeardSection]
) -> set[int]:
    """Indices of the strokes of a first section that is no kit's.

    hits: written, with their levels.
    """
    if len(sections) < 2:
        return set()
    border = next(b.time for b in beats if b.bar == sections[1].first_bar) - 0.05
    early = [i for i, h in enumerate(hits) if h.time < border]
    if not early:
        return set()

    def level(chosen: Sequence[Hit]) -> float:
        return float(np.median([h.level for h in chosen]))

    late = [h for h in hits if h.time >= border]
    kicks = [h for h in late if h.part == "kick"]
    if len(late) < _MIN_STROKES or len(kicks) < _MIN_STROKES:
        return set()
    own_kicks = [hits[i] for i in early if hits[i].part == "kick"]
    is_soft = level([hits[i] for i in early]) <= level(late) - _BELOW
    if is_soft and (not own_kicks or level(own_kicks) <= level(kicks) - _BELOW):
        return set(early)
    return set()
