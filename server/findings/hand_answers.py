"""What the API gives of hands."""

# Types that are made from the core's: a checker of types can't read them.
# mypy: disable-error-code="valid-type"

from __future__ import annotations

from config.answers import Answer, one_of

from orchesis.hands.moments import REASONS
from orchesis.hands.ways import WAYS
from orchesis.score.document import Stroke


class UnplayableStroke(Answer):
    stroke: str
    part: str
    bar: int
    place: str
    reason: one_of(REASONS)
    says: str


class Causes(Answer):
    """Their shares of the total."""

    speed: float
    independence: float
    moves: float
    dynamics: float
    changes: float


class Hard(Answer):
    """total: 0..10. hard_by: its first cause, in words."""

    total: float
    causes: Causes
    hard_by: str


class SectionHard(Hard):
    id: str
    name: str
    first_bar: int
    bars: int
    school: str


class BarHard(Answer):
    bar: int
    total: float


class Hands(Answer):
    """What no limb is left for, and how hard it is. chosen: strokes whose limb a person chose.
    layers: parts that are a layer of the recording."""

    version: int
    unplayable: list[UnplayableStroke]
    chosen: int
    layers: list[str]
    song: Hard
    sections: list[SectionHard]
    bars: list[BarHard]


class Alternative(Answer):
    """limbs: of the bar's hand strokes, by id; hands: the same as a row of R and L. cost: the
    solver's, to compare by."""

    name: str
    limbs: dict[str, str]
    hands: str
    cost: float
    is_now: bool
    says: list[str]


class Stickings(Answer):
    """heard: what the recording says of the hands. askable: rudiments that can be asked for.
    fastest: by limb, the tempo (beats a minute) up to which it stays inside its limits."""

    version: int
    alternatives: list[Alternative]
    heard: list[str]
    rudiments: list[str]
    askable: list[str]
    fastest: dict[str, float]
    harder_slow: bool
    hard: Hard


class Example(Answer):
    bar: int
    before: list[Stroke]
    after: list[Stroke]


class Proposal(Answer):
    """must: the part can't be played without it, or another like it."""

    way: one_of(WAYS)
    title: str
    bars: list[int]
    must: bool
    says: str
    example: Example


class Proposals(Answer):
    version: int
    proposals: list[Proposal]
