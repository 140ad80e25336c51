"""The feel of a song: swing, where the limbs lie against the beat, rushing, from measured times."""

from orchesis.feel.reader import db_of, lateness, layback_ms, read, shifts

__all__ = ["db_of", "lateness", "layback_ms", "read", "shifts"]
