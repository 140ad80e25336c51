"""The ground floor: kit, limbs, exact time, strokes, bars, sections, song."""

from orchesis.score.cue import Cue
from orchesis.score.kit import KIT, LAYERS, KitPart, part
from orchesis.score.kit_sound import KitSound
from orchesis.score.meter import Meter
from orchesis.score.perhaps import Perhaps
from orchesis.score.pulse import PulseMap
from orchesis.score.song import Aside, AsideWords, Score, Section
from orchesis.score.stroke import DYNAMICS, LIMBS, ORNAMENTS, Measured, Stroke

__all__ = [
    "DYNAMICS",
    "KIT",
    "LAYERS",
    "LIMBS",
    "ORNAMENTS",
    "Aside",
    "AsideWords",
    "Cue",
    "KitPart",
    "KitSound",
    "Measured",
    "Meter",
    "Perhaps",
    "PulseMap",
    "Score",
    "Section",
    "Stroke",
    "part",
]
