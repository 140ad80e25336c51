"""Scores in and out: one file a format, named for it."""
