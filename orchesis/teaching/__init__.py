"""Learning a part: stages, their tempi, what was played in."""
