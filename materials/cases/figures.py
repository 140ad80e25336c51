"""Sixty figures that have a name, and sixty that have none: written as count text before the rules were mended.

Each is a unit of one or two bars. The odd ones (counted from 0) served while the rules were mended (two of them
lacked a bar, two had a name after all, and were mended first); of the even ones only the share was seen.
"""

from __future__ import annotations

from collections.abc import Sequence

from orchesis.formats import count
from orchesis.grooves.named_patterns import figures

_SWUNG = "swing: eighth 0.66\n"

#: (count text, the name it must be told by)
NAMED = (
    ("hat: 8ths\nsnare: 2.> 4.>\nkick: 1 3", "backbeat"),
    ("hat: 16ths\nsnare: 2.> (2a) (3e) 4.>\nkick: 1 2& 3 4a", "backbeat"),
    ("ride: quarters\nclap: 2 4\nkick: quarters", "backbeat"),
    ("hat: 8ths\nrimshot: 2 4\nkick: 1 1& 3&", "backbeat"),
    ("hat: 8ths\ncross_stick: 2 4\nkick: 1 2& 4&", "backbeat"),
    ("hat: 8ths | =\nsnare: 2.> 4.> (4a) | =\nkick: 1 2a 3& | =", "backbeat"),
    ("hat: 8ths\nsnare: 3.>\nkick: 1", "half-time backbeat"),
    ("ride: 16ths\nsnare: (1a) (2e) 3.> (4a)\nkick: 1 1a 4&", "half-time backbeat"),
    ("crash: quarters\nsnare: 3\nkick: 1 2& 4", "half-time backbeat"),
    ("hat: 16ths | =\nrimshot: 3 | =\nkick: 1 2a | 1 4a", "half-time backbeat"),
    ("hat: quarters\nsnare: 1& 2& 3& 4&\nkick: quarters", "double-time backbeat"),
    ("ride: 8ths\nsnare: 1& 2& 3& 4&\nkick: 1 2 3 4", "double-time backbeat"),
    ("hat: 8ths\nsnare: 1.> 2.> 3.> 4.>\nkick: 1 3", "snare on all four"),
    ("hat: 8ths\nsnare: 1 2 3 4\nkick: 1 2& 3 4&", "snare on all four"),
    ("tambourine: 8ths\nsnare: 1 2 3 4 (4a)\nkick: 1 3", "snare on all four"),
    ("hat: 8ths\nsnare: 2 4\nkick: quarters", "four on the floor"),
    ("ride: offbeats\nkick: 1 2 3 4", "four on the floor"),
    ("hat: 16ths\nclap: 2 4\nkick: 1 2 3 4 4a", "four on the floor"),
    ("hat: 8ths\ncross_stick: 3\nkick: 3", "one-drop"),
    ("hat: 8ths\nsnare: 3\nkick: 3", "one-drop"),
    (f"{_SWUNG}hat: 8ths\ncross_stick: 3\nkick: 3", "one-drop"),
    ("hat: 1&.o 2&.o 3&.o 4&.o\nkick: quarters", "open off-beats"),
    ("hat: 8ths 1&.o 2&.o 3&.o 4&.o\nsnare: 2 4\nkick: quarters", "open off-beats"),
    ("hat: offbeats\nkick: quarters", "off-beat hats"),
    ("ride: offbeats\nsnare: 2 4\nkick: 1 3", "off-beat hats"),
    ("kick: 1 1a 2 2a 3 3a 4 4a\nride: 8ths", "samba feet"),
    ("kick: 1 1a 2 2a 3 3a 4 4a\nhat_foot: offbeats\nsnare: 16ths", "samba feet"),
    ("kick: 1 2& 3 4&\nhat: 8ths", "bossa feet"),
    ("kick: 1 2& 3 4&\nride: 8ths\ncross_stick: 1 2& 4", "bossa feet"),
    ("cross_stick: 1 2& 4 | 2 3\nkick: 1 3 | =", "3-2 son clave"),
    ("cross_stick: 2 3 | 1 2& 4\nkick: 1 3 | =", "2-3 son clave"),
    ("block: 1 2& 4& | 2 3\nkick: 1 3 | =", "3-2 rumba clave"),
    ("cross_stick: 1 2& 4 | 2 3&\nkick: 1 2& 3 4& | =", "3-2 bossa clave"),
    ("cross_stick: 1 1a 2& 3& 4\nkick: 1 3", "3-2 son clave"),
    ("cowbell: 1 2& 4 | 2 3\nhat: 8ths | =\nkick: 1 | =", "3-2 son clave"),
    ("kick: 1 1a 2& 3 3a 4&\nhat: 8ths", "tresillo in the kick"),
    ("snare: 1 1a 2& 3 3a 4&\nkick: quarters", "tresillo in the snare"),
    ("kick: 1 2& 4\nhat: 8ths", "whole-bar tresillo in the kick"),
    ("kick: 1 2& 4 | =\nhat: 8ths | =\nsnare: 2 4 | =", "whole-bar tresillo in the kick"),
    ("hat: 1 1l 2 2l 3 3l 4 4l\nsnare: 2 4\nkick: 1 3", "shuffle"),
    (f"{_SWUNG}hat: 8ths\nsnare: 2 4\nkick: 1 3", "shuffle"),
    (f"{_SWUNG}ride: 8ths\nsnare: 2 4\nkick: quarters", "shuffle"),
    ("meter: 12/8\nhat: 1 1l 2 2l 3 3l 4 4l\nsnare: 2 4\nkick: 1 3", "shuffle"),
    ("hat: 1 1l 2 2l 3 3l 4 4l\nsnare: 3\nkick: 1", "half-time shuffle"),
    ("hat: 1 1l 2 2l 3 3l 4 4l\nsnare: (1t) (2t) 3.> (3t) (4t)\nkick: 1 4l", "half-time shuffle"),
    (f"{_SWUNG}hat: 8ths\nsnare: 3.>\nkick: 1 2&", "half-time shuffle"),
    (
        "meter: 12/8\nhat: 1 1l 2 2l 3 3l 4 4l\nsnare: (1t) (2t) 3.> (4t)\nkick: 1",
        "half-time shuffle",
    ),
    ("ride: 1 2 2l 3 4 4l\nhat_foot: 2 4", "swung ride"),
    (f"{_SWUNG}ride: 1 2 2& 3 4 4&\nhat_foot: 2 4", "swung ride"),
    ("ride: 1 2 2l 3 4 4l\nsnare: (1l) (3l)\nkick: quarters", "swung ride"),
    ("ride: 8ths\nhat_foot: 2 4\nkick: 1 2& 3 4&", "foot hat on 2 and 4"),
    ("snare: 16ths\nhat_foot: 2 4\nkick: 1 3", "foot hat on 2 and 4"),
    ("ride: quarters\nhat_foot: offbeats\nkick: 1 3", "foot hat on the off-beats"),
    ("snare: 1 (1e) (1&) 1a 2 (2e) 2& (2a) 3 (3e) 3& (3a) 4 (4e) 4&\nkick: quarters", "train"),
    (
        "snare: (1) (1e) 1& (1a) (2) (2e) 2& (2a) (3) (3e) 3& (3a) (4) (4e) 4& (4a)\nkick: 1 2 3 4",
        "train",
    ),
    ("kick: 16ths\nsnare: 2 4\nride: 8ths", "double kick in 16ths"),
    ("kick: 16ths -4a\nsnare: 3\ncrash: quarters", "double kick in 16ths"),
    ("meter: 3/4\nhat: 8ths\nsnare: 2 3\nkick: 1", "waltz"),
    ("meter: 3/4\nride: 1 2 2l 3\ncross_stick: 3\nkick: 1", "waltz"),
    ("hat: 1 2& 3& 4&\nsnare: 1a 2.> (3) 4.>\nkick: 1e 2e 3e 4e", "linear"),
)

#: Nothing of these has a common name.
UNNAMED = (
    "hat: 8ths\nsnare: 2\nkick: 1 3&",
    "hat: 8ths\nsnare: 4.>\nkick: 1 2 3",
    "hat: 8ths\nsnare: 2& 4.>\nkick: 1 3",
    "hat: 8ths\nsnare: 2e 4\nkick: 1 2&",
    "hat: quarters\nsnare: 1 4\nkick: 2 3",
    "ride: 8ths\nsnare: 1& 3 4a\nkick: 1 2a 4",
    "ride: 16ths\nsnare: 1a 2& 4e\nkick: 1 3e",
    "hat: 8ths\nclap: 1 2 3 4\nkick: 1 3",
    "hat: 8ths\nclap: quarters\nkick: 1 2& 3",
    "tambourine: quarters\nclap: quarters\nkick: 1 3",
    "snare: 16ths 1.> 2.> 3.> 4.>\nkick: 1 3",
    "snare: 16ths\nkick: 1 3",
    "snare: 16ths 1a.> 2&.> 4e.>\nkick: 1 3",
    "snare: 8ths 1.> 2&.> 4.>\nkick: 1 3",
    "snare: 8ths\nkick: 1 3",
    "hat: 8ths\ncross_stick: 2\nkick: 1",
    "tom_floor: 8ths\nkick: 1 3",
    "tom_floor: 16ths 1.> 2&.> 4.>\nkick: 1 2 4",
    "tom_floor: 1 2 3\nsnare: 4&\nkick: 1",
    "hat: 16ths\nkick: 1 1e 2& 4a",
    "hat: 8ths\nkick: 1",
    "ride: quarters\nkick: 1 3",
    "crash: 1\nkick: 1",
    "hat: 1 3\nkick: 2",
    "hat: triplets\nsnare: 2l 4\nkick: 1",
    "hat: triplets\nkick: 1 3",
    "ride: 1 1l 2 3 4 4l\nkick: 1",
    "ride: 1 2 2l 3 3l 4\nkick: 1 3",
    "kick: 1 1a 2 3 3a 4\nhat: 8ths",
    "kick: 1 2& 3\nhat: 8ths",
    "kick: 1 2 2& 3 4&\nhat: 8ths",
    "kick: 1 2& 3& 4\nride: 8ths",
    "kick: 1 1a 2&\nhat: 8ths",
    "kick: 1 1a 3 3a\nhat: 8ths",
    "kick: 1& 2& 3& 4&\nhat: 16ths",
    "kick: 2 4\nhat: 8ths\nsnare: 1 3",
    "kick: quarters -3\nhat: 8ths",
    "kick: 8ths\nsnare: 3&\nhat: quarters",
    "kick: 16ths -1e -2e -3e -4e\nhat: 8ths",
    "cross_stick: 1 2& 4 | 2 4\nkick: 1 3 | =",
    "cross_stick: 1 2 4 | 2 3\nkick: 1 3 | =",
    "cross_stick: 1 2& 4 | 1 3\nkick: 1 3 | =",
    "block: 1 2 2& 4 | 2 3\nkick: 1 | =",
    "hat_foot: 1 3\nride: 8ths\nkick: 1 2a",
    "hat_foot: 2\nride: 8ths\nkick: 1 3",
    "hat_foot: 2 3 4\nride: quarters\nkick: 1",
    "hat: 1&.o\nkick: 1 3\nride: quarters",
    "hat: 8ths 4&.o\nkick: 1 3\nsnare: 3&",
    "hat: 8ths 2&.o 4&.o\nkick: 1 2& 4\nsnare: 1a",
    "meter: 3/4\nhat: 8ths\nsnare: 1\nkick: 2 3",
    "meter: 3/4\nhat: 8ths\nkick: 1 2 3",
    "meter: 3/4\nride: quarters\nsnare: 1 2\nkick: 3",
    "meter: 5/4\nhat: 8ths\nsnare: 2 4\nkick: 1 5",
    "meter: 7/8\nhat: 8ths\nsnare: 3\nkick: 1",
    "meter: 6/8\nhat: 8ths\nsnare: 2\nkick: 1",
    "hat: 8ths\nsnare: 1e 2& 4\nkick: 3",
    "snare: (1) (1e) (2) (2e) (3) (3e)\nkick: 1",
    "snare: 1.f 2.f 4&.f\nkick: 1 3",
    "tom_high: 1 2\ntom_floor: 3 4\nkick: 1& 3&",
    "ride_bell: 1 2& 3& 4\nkick: 1 4\nsnare: 2a",
)


def told(text: str) -> list[str]:
    score = count.read("tempo: 100\n" + text)
    return figures(list(score.ordered()), score.meters[0], score.bar_count, score.swing)


def named_right(written: Sequence[tuple[str, str]] = NAMED) -> float:
    return sum(name in told(text) for text, name in written) / len(written)


def none_claimed(written: Sequence[str] = UNNAMED) -> float:
    return sum(not told(text) for text in written) / len(written)
