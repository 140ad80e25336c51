"""The signs of a drum chart by their names, in the order of a legend."""

SIGNS = (
    "accent",
    "ghost",
    "small_ghost",
    "flam",
    "drag",
    "ruff",
    "buzz",
    "diddle",
    "drop",
    "open",
    "half",
    "foot",
    "splash",
    "choked",
    "cross_stick",
    "rimshot",
    "bell",
    "layer",
    "repeat",
)
