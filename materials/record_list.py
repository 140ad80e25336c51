"""Real records to measure hearing with: which, and what is known of each without hearing it.

Freely licensed game music of six Debian packages; nothing of it is ever shipped. The pieces were split
by name before anybody looked at one (``side``): TUNE to choose rules and numbers by, BENCH for figures.
Tempo and phase come from a comb over the onsets (tempo to 0.002, the same phase in all quarters of the
piece), borders and stretches without drums from pictures of the onsets folded on 32nds, before any rule
was tuned. Of each piece the first five minutes count.
"""

from __future__ import annotations

import re
import zlib
from dataclasses import dataclass

#: Packages that may serve here, and where their music lies.
PACKAGES = (
    "warzone2100-music",
    "singularity-music",
    "hyperrogue-music",
    "colobot-common-sounds",
    "extremetuxracer-data",
    "asc-music",
)
LONGEST = 300.0  # seconds of a piece


def side(stem: str) -> str:
    """Whether a piece serves for tuning or for figures: by its name alone, versions together."""
    return "tune" if zlib.crc32(re.sub("_enhanced", "", stem).encode()) % 2 else "bench"


@dataclass(frozen=True)
class Record:
    """bpm: of its click, 0 where it has none; first: seconds of one of its beats. silent: spans (seconds)
    without drums. borders: seconds at which the drums plainly enter or stop, or everything does. folds: a
    span with a groove that repeats."""

    stem: str
    bpm: float = 0.0
    first: float = 0.0
    silent: tuple[tuple[float, float], ...] = ()
    borders: tuple[float, ...] = ()
    folds: tuple[float, float] | None = None


RECORDS = (
    # tuning
    Record("machine_wars", 0.0, 0.0, (), (8, 32, 44)),
    Record("time_to_strike", 119.988, 0.342, (), (16, 40, 44, 214, 248), (52, 150)),
    Record("music012", 120.0, 0.047, folds=(64, 120)),
    Record("music013", 89.018, 0.021),
    Record("calmrace-ks", 87.494, -0.007),
    Record("race1-jt", 124.998, 0.005),
    Record("hr3-graveyard", 0.0, 0.0, (), (112, 120)),
    Record("hr3-laboratory", 84.008, 0.016, (), (52,)),
    Record("hr3-rlyeh", 75.002, 0.005, (), (10, 22, 112)),
    Record("Aberrations", 100.0, 0.004, (), (39, 77, 115, 153, 230), (155, 228)),
    Record("Advanced Simulacra", 100.0, 0.005, ((0, 110),), (137,), (155, 212)),
    Record("Awakening", 120.0, 0.006),
    Record("Deprecation", 130.012, 0.004, folds=(75, 140)),
    Record("Inevitable", 140.022, 0.002, folds=(140, 215)),
    Record("Enemy Unknown", 119.994, 0.005, (), (80, 112, 160, 192)),
    Record("Coherence", 140.022, 0.004, (), (54, 82, 164, 191)),
    Record("Apex Aleph", 85.008, 0.003),
    Record("Through Space", 114.996, -0.005),
    Record("track18", 80.0, -0.011, ((73, 90),), (24, 72, 126, 174, 222, 270), (128, 172)),
    Record("track19", 80.0, 0.016, ((0, 23.5),), (24, 54, 156, 255), (60, 148)),
    Record("track27", 80.0, 0.0, ((0, 23.5),), (24, 168, 216, 264), (75, 166)),
    Record("track10", 80.0, 0.036, (), (24, 168, 264), (170, 260)),
    Record("track4", 80.0, 0.008, ((0, 23.5),), (24, 120), (122, 290)),
    Record("track5", 80.0, 0.012, ((0, 46),), (48, 168, 264), (75, 165)),
    Record("track13", 65.0, 0.007, (), (30, 118, 236, 265), (180, 234)),
    Record("track26", 120.0, 0.009, (), (16, 256), (50, 250)),
    Record("music005", silent=((0, 150),)),
    Record("music006", silent=((0, 170),)),
    Record("music007", silent=((0, 210),)),
    Record("Chimes They Fade", silent=((0, 42),)),
    Record("menu", silent=((0, 175),)),
    Record("track24", silent=((0, 70),)),
    # figures
    Record("frontiers", 79.992, 0.113, (), (39, 147, 156, 219), (165, 215)),
    Record("Quite", 65.0, 0.029, ((75, 95), (182, 191)), (15, 74, 103, 181, 192), (15, 72)),
    Record("music002", 114.0, 0.010),
    Record("Intro2", 100.0, 0.0),
    Record("hr3-mirror", 72.032, 0.031, (), (46.5, 60)),
    Record("hr3-icyland", 110.5, 0.002),
    Record("hr3-desert", 92.992, 0.311),
    Record("Nebula", 100.0, -0.005, (), (39,), (135, 210)),
    Record("Orbital Elevator", 83.333, 0.014, folds=(190, 230)),
    Record(
        "track17",
        80.0,
        0.005,
        ((0, 23.5), (277, 300)),
        (24, 54, 78, 126, 150, 156, 204, 276),
        (207, 274),
    ),
    Record("track20", 80.0, -0.005, (), (15, 87, 111, 183, 189, 213, 261), (215, 260)),
    Record("track21", 120.0, 0.014, ((0, 30),), (32, 96, 222), (98, 155)),
    Record("track22", 80.0, 0.001, ((0, 47),), (48, 144, 288), (146, 236)),
    Record("track14", 65.0, 0.036, (), (59, 118, 177, 236, 266), (60, 116)),
    Record("track15", 80.0, 0.048, ((0, 47),), (96, 192, 216, 264), (146, 190)),
    Record("track16", 125.0, 0.030, ((0, 30),), (31, 200, 262)),
    Record("track23", 90.0, 0.003, ((0, 84),), (85, 107, 128, 213, 256)),
    Record("music003", silent=((0, 85),)),
    Record("music008", silent=((0, 170),)),
    Record("March Thee to Dis", silent=((0, 42),)),
    Record("track1", silent=((0, 45),), borders=(50,)),
    Record("Hv2", 0.0, 0.0, (), (76, 84, 130, 217)),
    Record("track3", 0.0, 0.0, (), (35, 105, 141, 280)),
    Record("track2", 0.0, 0.0, (), (38,)),
)


@dataclass(frozen=True)
class Bed:
    """A stretch of a record without drums, whole bars of it, to set known drums on."""

    stem: str
    start: float
    beats: int
    bpm: float
    drums_db: float  # of the drums against the bed


BEDS = (
    Bed("track19", 0.016, 32, 80.0, 2.0),
    Bed("track27", 0.0, 28, 80.0, 0.0),
    Bed("track4", 0.008, 32, 80.0, 3.0),
    Bed("track5", 0.012, 60, 80.0, -1.0),
    Bed("Advanced Simulacra", 0.005, 180, 100.0, 1.0),
    Bed("track17", 0.005, 32, 80.0, 2.0),
    Bed("track22", 0.001, 60, 80.0, 0.0),
    Bed("track23", 0.003, 120, 90.0, -1.0),
    Bed("track16", 0.030, 60, 125.0, 3.0),
    Bed("track15", 0.048, 60, 80.0, 1.0),
)
