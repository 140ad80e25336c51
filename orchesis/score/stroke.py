"""One stroke: its written place, and what was measured of it."""

from __future__ import annotations

from dataclasses import dataclass, replace
from fractions import Fraction
from typing import Any, NamedTuple

from orchesis.errors import BadScore
from orchesis.score.kit import KIT, part
from orchesis.score.untrusted import (
    MOST_PARTS_READ,
    is_moment,
    read_place,
    shown,
    unprintable,
)

LIMBS = ("RH", "LH", "RF", "LF")
DYNAMICS = ("ghost", "normal", "accent")
ORNAMENTS = ("flam", "drag", "ruff", "buzz", "diddle", "drop")
#: What a person says of a stroke: nothing (heard or written), assumed, doubtful, left out; or that
#: it is a layer of the recording (a sampled shaker, a loop, a machine's clap): no limb plays it.
DOUBTS = ("", "assumed", "doubtful", "left_out", "layer")
#: What nobody plays from the chart.
NOBODYS = ("left_out", "layer")

#: Loudness (0..1) that a class stands for when nothing was measured.
CLASS_LOUDNESS = {"ghost": 0.3, "normal": 0.7, "accent": 0.95}


class Grace(NamedTuple):
    """A stroke that sounds with an ornament: its distance from the stroke in seconds (what hands
    do of themselves) and in beats (what goes by the tempo), and its share of the loudness."""

    seconds: float
    beats: float
    share: float


#: How an ornament sounds beside its stroke. A diddle is two strokes in the time of one 16th.
GRACES: dict[str, tuple[Grace, ...]] = {
    "flam": (Grace(-0.028, 0, 0.5),),
    "drag": (Grace(-0.056, 0, 0.42), Grace(-0.028, 0, 0.45)),
    "ruff": (Grace(-0.084, 0, 0.4), Grace(-0.056, 0, 0.42), Grace(-0.028, 0, 0.45)),
    "buzz": tuple(Grace(round(0.026 * k, 3), 0, round(0.87**k, 3)) for k in range(1, 8)),
    "diddle": (Grace(0, 1 / 8, 0.9),),
    "drop": (Grace(0.12, 0, 0.35),),
}
#: Loudness below which a stroke set by a person is a ghost, and above which an accent.
GHOST_BELOW, ACCENT_ABOVE = 0.45, 0.85
#: What a change of a stroke carries to the same stroke of another bar.
CARRIED = ("part", "place", "limb", "dynamic", "loudness", "ornament", "choked", "doubt", "reason")
#: Sounds that a song may have, also after many were split.
MOST_SOUNDS = 500
_LONGEST_ID, _LONGEST_REASON = 80, 120  # letters


def class_of(loudness: float) -> str:
    """The class that a loudness set by a person belongs to.

    >>> [class_of(x) for x in (0.3, 0.45, 0.85, 0.9)]
    ['ghost', 'normal', 'normal', 'accent']
    """
    return "ghost" if loudness < GHOST_BELOW else "accent" if loudness > ACCENT_ABOVE else "normal"


#: Who placed a stroke (its part, bar and place): the onset model, a person, or a rule of ours.
PLACERS = ("heard", "person", "rule")
#: Who chose its limb: a person (a constraint), or the program (a guess).
CHOOSERS = ("program", "person")


def is_id(value: Any) -> bool:
    """Whether something from outside can be a stroke's id."""
    return isinstance(value, str) and 1 <= len(value) <= _LONGEST_ID and value.isprintable()


@dataclass(frozen=True, slots=True)
class Measured:
    """What was measured of a stroke where it sounds in the recording.

    time: seconds from the file's start. level: dB against the whole recording. openness: of a
    hat, 0 shut to 1 wide open. sound: the number of its sound in the song (KitSound), 0 of none;
    half: 0 or 1, in which half of it it would be if that were two sounds.
    """

    time: float
    level: float | None = None
    openness: float | None = None
    sound: int = 0
    half: int = 0

    def to_json(self) -> dict[str, float | None]:
        """Without the sound of a stroke that has none: edits from before sounds say nothing of it,
        and are taken back only where a stroke is as they left it."""
        fields = {
            "time": round(self.time, 5),
            "level": None if self.level is None else round(self.level, 2),
            "openness": None if self.openness is None else round(self.openness, 3),
        }
        return fields | {"sound": self.sound, "half": self.half} if self.sound else fields

    @classmethod
    def from_json(cls, data: dict[str, Any]) -> Measured:
        """Raises BadScore where a value is no number, or the time no moment of a recording."""
        time, level, openness = data.get("time"), data.get("level"), data.get("openness")
        if not is_moment(time):
            raise BadScore(f"A stroke's time is seconds, not “{shown(time)}”.")
        if level is not None and not -300 <= level <= 100:
            raise BadScore(f"A level is dB against the recording, not “{shown(level)}”.")
        if openness is not None and not 0 <= openness <= 1:
            raise BadScore(f"An openness lies between 0 and 1, not at “{shown(openness)}”.")
        sound, half = data.get("sound", 0), data.get("half", 0)
        if not (isinstance(sound, int) and 0 <= sound <= MOST_SOUNDS and half in (0, 1)):
            raise BadScore(f"There is no sound “{shown(sound)}” with a half “{shown(half)}”.")
        return cls(time, level, openness, sound, half)


@dataclass(frozen=True, slots=True)
class Stroke:
    """A stroke stands at ``place`` felt beats (exact) from the start of bar ``bar`` (from 1).

    measured: what was measured of it, only if it was heard. placed_by, limb_by: of PLACERS and
    CHOOSERS; the three are apart: a person who moves a heard stroke places it, and it stays
    measured; one who chooses its limb says nothing of the rest. loudness: 0..1 relative to the
    part within the song. confidence: 0..1, 1 for what a person wrote. ornament: of ORNAMENTS; a
    drop is an accent with its ghost behind it in one motion. choked: stopped by hand or foot
    at once (a crash; an open hat: a bark). doubt: of DOUBTS, with its reason; what is left out
    was heard, but is not part of what is played from the chart.
    """

    id: str
    bar: int
    place: Fraction
    part: str
    limb: str = "RH"
    dynamic: str = "normal"
    loudness: float = 0.7
    ornament: str | None = None
    measured: Measured | None = None
    confidence: float = 1.0
    placed_by: str = "person"
    limb_by: str = "program"
    choked: bool = False
    doubt: str = ""
    reason: str = ""

    def __post_init__(self) -> None:
        part(self.part)
        if self.limb not in LIMBS:
            raise BadScore(f"“{shown(self.limb)}” is not a limb; the limbs are RH, LH, RF and LF.")
        if self.dynamic not in DYNAMICS:
            raise BadScore(f"“{shown(self.dynamic)}” is not ghost, normal or accent.")
        if self.ornament is not None and self.ornament not in ORNAMENTS:
            raise BadScore(f"“{shown(self.ornament)}” is not an ornament ({', '.join(ORNAMENTS)}).")
        if self.placed_by not in PLACERS or self.limb_by not in CHOOSERS:
            both = f"“{shown(self.placed_by)}” or “{shown(self.limb_by)}”"
            raise BadScore(f"Nobody of ours is called {both}.")
        if self.doubt not in DOUBTS:
            raise BadScore(f"“{shown(self.doubt)}” is not assumed, doubtful, left_out or layer.")
        if not (0 <= self.loudness <= 1 and 0 <= self.confidence <= 1):
            raise BadScore(
                "Loudness and confidence lie between 0 and 1, not at "
                f"{shown(self.loudness)}, {shown(self.confidence)}."
            )
        if self.place.numerator < 0 or self.bar < 1:
            raise BadScore("A stroke can't stand before its bar.")

    @property
    def time(self) -> float | None:
        """The measured moment (seconds); None of a stroke that was not heard."""
        return self.measured.time if self.measured else None

    @property
    def layer(self) -> str:
        """The layer a drummer would count it to; what an ornament adds to it is another one's."""
        is_ghost = self.dynamic == "ghost" and KIT[self.part].layer == "backbeat"
        return "ghosts" if is_ghost else KIT[self.part].layer

    def to_json(self) -> dict[str, Any]:
        return {
            "id": self.id,
            "bar": self.bar,
            "place": str(self.place),
            "part": self.part,
            "limb": self.limb,
            "dynamic": self.dynamic,
            "loudness": round(self.loudness, 4),
            "ornament": self.ornament,
            "measured": self.measured.to_json() if self.measured else None,
            "confidence": round(self.confidence, 3),
            "placed_by": self.placed_by,
            "limb_by": self.limb_by,
            "choked": self.choked,
            "doubt": self.doubt,
            "reason": self.reason,
        }

    @classmethod
    def from_json(cls, data: dict[str, Any]) -> Stroke:
        """The stroke that JSON describes; BadScore if it describes none.

        Written out field by field: a song has thousands of strokes, and each edit reads it.
        """
        try:
            get = data.get
            measured = get("measured")
            stroke = cls(
                data["id"],
                data["bar"],
                read_place(data["place"], MOST_PARTS_READ),
                data["part"],
                get("limb", "RH"),
                get("dynamic", "normal"),
                get("loudness", 0.7),
                get("ornament"),
                None if measured is None else Measured.from_json(measured),
                get("confidence", 1.0),
                get("placed_by", "person"),
                get("limb_by", "program"),
                get("choked", False),
                get("doubt", ""),
                get("reason", ""),
            )
            if not stroke._is_plain():
                raise BadScore(f"This is not a stroke: {shown(data)}.")
            return stroke
        except (KeyError, TypeError, ValueError, AttributeError) as problem:
            raise BadScore(f"This is not a stroke: {shown(data)} ({problem}).") from None

    def _is_plain(self) -> bool:
        """Whether what came from outside has the right kinds; the rest is checked when made."""
        name, reason = self.id, self.reason
        return (
            is_id(name)
            and isinstance(self.bar, int)
            and isinstance(self.choked, bool)
            and isinstance(reason, str)
            and (not reason or (len(reason) <= _LONGEST_REASON and not unprintable(reason)))
        )

    def changed(self, **fields: Any) -> Stroke:
        return replace(self, **fields)
