"""From a sound file to what sounds in it: pulse, hits, form.

The face of the room is ``listen(path) -> Hearing``; the steps behind it may be replaced.
"""

from orchesis.hearing.engine import STEPS, listen, listen_to
from orchesis.hearing.sound import Intake, take_in
from orchesis.hearing.types import Beat, HeardMeter, HeardSection, Hearing, Hit, Tempo

__all__ = [
    "STEPS",
    "Beat",
    "HeardMeter",
    "HeardSection",
    "Hearing",
    "Hit",
    "Intake",
    "Tempo",
    "listen",
    "listen_to",
    "take_in",
]
