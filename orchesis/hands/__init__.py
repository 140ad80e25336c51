"""Who plays what: limbs (solver), the way between the drums (plan), rudiments, rules between the
limbs, how hard it is (difficulty), what else could be played (alternatives, arranging)."""

from __future__ import annotations

from orchesis.hands.limbs import with_limbs
from orchesis.hands.solver import solve

__all__ = ["solve", "with_limbs"]
