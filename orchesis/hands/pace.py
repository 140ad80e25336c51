"""What a hand and a foot can do at the most: how soon they strike again, and how far they go.

Rules of thumb of the trade, not measurements: a practised hand crosses the kit in about a tenth of
a second, the two strokes of a double may lie 55 ms apart, and ten to twelve strokes a second are
what one hand keeps up.
"""

from __future__ import annotations

#: Seconds that a hand needs at least between two strokes on one drum, by how many such fast steps
#: it has made already: a double, a triple, and what it keeps up.
_LEAST_S = (0.055, 0.07, 0.083, 0.09)
_FAST_STEP_S = 0.105  # seconds: a step as fast as this makes the next one harder
_REACH_S = 0.022  # seconds a reach to another drum takes besides: 2.5 reaches cross the kit
FOOT_DOUBLE, FOOT_SINGLE = 0.055, 0.1  # between the two kicks of a double; of one foot in a row


def shortest(fast: int, reach: float) -> float:
    """The least time (seconds) that a hand needs for a stroke behind its last one. fast: steps that
    it has made without a rest; reach: how far it has to go."""
    return _LEAST_S[min(fast, len(_LEAST_S) - 1)] + _REACH_S * reach


def fast_steps(before: int, gap: float) -> int:
    """Steps that a hand has made without a rest, behind one of so many seconds."""
    return min(before + 1, len(_LEAST_S) - 1) if gap < _FAST_STEP_S else 0
