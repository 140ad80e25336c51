"""Which foot plays what: the kick's, and the hat's, which helps where there is a second pedal."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Sequence
from fractions import Fraction

from orchesis.hands.moments import Unplayable
from orchesis.hands.pace import FOOT_DOUBLE, FOOT_SINGLE
from orchesis.score import KIT, Score, Stroke
from orchesis.score.player import Player

_FAST_KICKS_S = 0.138  # seconds between kicks that a second pedal's foot helps with
_HELD_SHUT_S = 0.12  # seconds round a stroke on the shut hat within which its foot can't leave it
_HAT_SHUT = ("hat_closed", "hat_half")


def feet_of(
    score: Score,
    player: Player,
    strokes: Sequence[Stroke],
    hands: Sequence[Stroke],
    unplayable: list[Unplayable],
) -> dict[str, str]:
    """The kick's foot and the hat's. With a second pedal the hat's foot helps with fast kicks,
    but not where it shuts or holds the hat. One foot plays doubles, but not three so fast.

    strokes: of the feet, hands: of the hands, in order of time; what no foot plays is added to
    unplayable.
    """
    kick, hat = ("RF", "LF") if player.hand == "right" else ("LF", "RF")
    limbs: dict[str, str] = {}
    last = {kick: -99.0, hat: -99.0}
    is_second = dict.fromkeys(last, False)  # whether the foot's last kick was one of a double's
    turn = kick
    shut = sorted(
        [score.seconds(s.bar, s.place) for s in hands if s.part in _HAT_SHUT]
        + [score.seconds(s.bar, s.place) for s in strokes if KIT[s.part].role == "left_foot"]
    )
    down: set[tuple[int, Fraction, str]] = set()  # feet that are on a pedal already
    for s in strokes:
        now = score.seconds(s.bar, s.place)
        held = False
        if s.limb_by == "person" and s.limb in (kick, hat):
            foot = s.limb
        elif KIT[s.part].role == "left_foot":
            foot = hat
        else:
            helps = player.pedals > 1 and now - max(last.values()) < _FAST_KICKS_S
            foot = hat if helps and turn == kick else kick
            held = foot == hat and _is_near(shut, now)
            foot = kick if held else foot
            turn = foot
        limbs[s.id] = foot
        gap = now - last[foot]
        if (s.bar, s.place, foot) in down:
            unplayable.append(Unplayable(s.id, s.bar, s.place, "foot"))
        elif gap < (FOOT_SINGLE if is_second[foot] else FOOT_DOUBLE):
            reason = "held" if held else "too fast"
            unplayable.append(Unplayable(s.id, s.bar, s.place, reason))
        is_second[foot] = gap < FOOT_SINGLE
        last[foot] = now
        down.add((s.bar, s.place, foot))
    return limbs


def _is_near(times: Sequence[float], now: float) -> bool:
    at = bisect_left(times, now - _HELD_SHUT_S)
    return at < len(times) and times[at] <= now + _HELD_SHUT_S
