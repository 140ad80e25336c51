"""The grooves of a song: the core of each, its options, and how they are related."""

from orchesis.grooves.reader import THRESHOLD, at, grooves

__all__ = ["THRESHOLD", "at", "grooves"]
