"""How long one can play today: ears and body.

Hearing: a daily dose by the two common rules, 85 dB(A) for eight hours with half the time for
each 3 dB more (NIOSH, 1998), or 90 dB(A) with 5 dB (OSHA 29 CFR 1910.95). This is arithmetic, no
advice: local rules and licensed professionals go before it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

#: rule -> (level that may last a working day, dB by which the time halves).
RULES = {"85/3": (85.0, 3.0), "90/5": (90.0, 5.0)}
_DAY = 8 * 3600.0
#: Levels at the drummer's ear that one can choose from where nobody measured: dB(A).
USUAL_LEVELS = {
    "practice pad": 80.0,
    "brushes, small kit": 90.0,
    "kit, moderate": 98.0,
    "kit, loud": 106.0,
}
BREAK_AFTER = 40 * 60.0  # seconds of playing behind which a break is due
_PAUSE = 5 * 60.0  # without a loop: that was a break


@dataclass(frozen=True)
class HearingLimits:
    """level: dB(A) at the ear without protection; protection: dB that it takes away."""

    level: float = 98.0
    protection: float = 20.0
    rule: str = "85/3"

    def allowed(self) -> float:
        """Seconds a day at this level."""
        limit, halving = RULES[self.rule]
        return _DAY * 2 ** ((limit - (self.level - self.protection)) / halving)

    def left(self, played: float) -> float:
        """Seconds left today after so many; never below 0."""
        return max(0.0, self.allowed() - played)


def since_break(spans: Sequence[tuple[float, float]], now: float) -> float:
    """Seconds played since the last break. spans: (start, end) of loops in order of time."""
    total, last = 0.0, now
    for start, end in reversed(spans):
        if last - end >= _PAUSE:
            break
        total += end - start
        last = start
    return total


def says(ears: HearingLimits, played: float, unbroken: float) -> list[str]:
    """What is worth a calm word now."""
    sentences = []
    left = ears.left(played)
    if left <= 0:
        sentences.append(
            "By the rule you chose your ears have had their share for today: a pad, or tomorrow."
        )
    elif left < 30 * 60:
        sentences.append(
            f"By the rule you chose your ears have {left / 60:.0f} minutes left today."
        )
    if unbroken >= BREAK_AFTER:
        sentences.append("Forty minutes without a break: put the sticks down for five.")
    return sentences
