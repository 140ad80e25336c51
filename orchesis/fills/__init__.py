"""The fills of a song: where they lie, the cell each is made of, what it resolves to."""

from orchesis.fills.spans import fill_bars, find, inside, said, seconds, unit_of

__all__ = ["fill_bars", "find", "inside", "said", "seconds", "unit_of"]
