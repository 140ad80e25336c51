"""Edits of who plays: the hand that leads, the school, the pedals."""

from __future__ import annotations

from dataclasses import replace
from typing import ClassVar, Literal

from orchesis.hands import with_limbs
from orchesis.score.edit import Edit
from orchesis.score.song import Score


class SetPlayer(Edit):
    """Who plays the song: all limbs that no person chose are solved anew. What is not given stays
    as it was."""

    words: ClassVar[str] = "player"
    operation: Literal["set_player"] = "set_player"
    hand: Literal["right", "left"] | None = None
    school: Literal["natural", "alternating", "lead", "fewest", "open"] | None = None
    pedals: Literal[1, 2] | None = None

    def apply(self, score: Score) -> Score:
        given = {"hand": self.hand, "school": self.school, "pedals": self.pedals}
        said = {k: v for k, v in given.items() if v is not None}
        return with_limbs(replace(score, player=replace(score.player, **said)))  # type: ignore[arg-type]
