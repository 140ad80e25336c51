"""The ground floor: kit, limbs, exact time, strokes, bars, sections, song."""

from orchesis.score.candidate import CandidateHit
from orchesis.score.cue import Cue
from orchesis.score.kit import KIT, LAYERS, KitPart, part
from orchesis.score.kit_sound import KitSound
from orchesis.score.meter import Meter
from orchesis.score.pulse import PulseMap
from orchesis.score.section import Section, UnplacedStroke, UnplacedWords
from orchesis.score.song import Score
from orchesis.score.stroke import DYNAMICS, LIMBS, ORNAMENTS, Measured, Stroke

__all__ = [
    "DYNAMICS",
    "KIT",
    "LAYERS",
    "LIMBS",
    "ORNAMENTS",
    "CandidateHit",
    "Cue",
    "KitPart",
    "KitSound",
    "Measured",
    "Meter",
    "PulseMap",
    "Score",
    "Section",
    "Stroke",
    "UnplacedStroke",
    "UnplacedWords",
    "part",
]
