"""What the sounds mean: bars, places, dynamics, fills, feel. Hearing -> Score."""

from orchesis.reading.analysis import analysis, score_of
from orchesis.reading.read import read, reread

__all__ = ["analysis", "read", "reread", "score_of"]
