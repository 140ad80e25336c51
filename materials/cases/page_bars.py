"""Fifty bars to engrave, from plain to nasty, in three songs of sections; written before the page
model. Looked at as pages; collisions of drawn elements are counted by a program (bench/pages.py).
The odd ones were looked at while the rules were made, the even ones only at the end.
"""

from __future__ import annotations

from orchesis.formats import count
from orchesis.score import Score

#: (header lines, lanes of one bar)
BARS: tuple[tuple[str, str], ...] = (
    ("", "hat: 8ths\nsnare: 2 4\nkick: 1 3"),
    ("", "ride: quarters\nsnare: 2 4\nkick: 1 3\nhat_foot: 2 4"),
    ("", "hat: 16ths\nsnare: 2.> 4.>\nkick: 1 1a 2& 3"),
    ("", "hat: 8ths 4&.o\nsnare: 2.> (2a) (3e) 4.>\nkick: 1 2& 3"),
    ("", "crash: 1\nhat: 8ths -1\nsnare: 2 4\nkick: 1 3"),
    ("", "snare: 1.f 2.f 3.d 4.u"),
    ("", "snare: 1.f 1t 1l 2.f 2t 2l 3.f 3t 3l 4.f 4t 4l\nkick: quarters"),
    ("", "snare: 1.z 2.z 3.z\ncrash: 4\nkick: 4"),
    (
        "",
        "snare: 1 1e 1& 1a 2:0/6 2:1/6 2:2/6 2:3/6 2:4/6 2:5/6 3 3e 3& 3a 4:0/6 4:1/6 4:2/6 4:3/6 4:4/6 4:5/6",
    ),
    ("", "ride: 8ths\nhat_foot: offbeats\nsnare: (1e) 2 (2a) 4\nkick: 1 2& 3"),
    (
        "",
        "snare: 1:0/8 1:1/8 1:2/8 1:3/8 1:4/8 1:5/8 1:6/8 1:7/8 2:0/8 2:1/8 2:2/8 2:3/8 2:4/8 2:5/8 2:6/8 2:7/8\ntom_floor: 3 3e 3& 3a 4 4e 4& 4a",
    ),
    (
        "",
        "snare: 1.> 1e 1&.d 1a.> 2 2e.> 2& 2a.f 3.> 3e 3&.z 3a 4.> 4e 4& 4a.>\nkick: 1 3\nhat_foot: 2 4",
    ),
    ("meter: 5/4", "hat: 8ths\nsnare: 2 4 5&\nkick: 1 3 5"),
    ("meter: 7/8", "hat: 8ths\nsnare: 3 5\nkick: 1 4 6"),
    ("meter: 12/8", "hat: 1 1t 1l 2 2t 2l 3 3t 3l 4 4t 4l\nsnare: 2 4\nkick: 1 1l 3"),
    ("meter: 2/4", "snare: 1 1e 1& 1a 2 2e 2& 2a\nkick: 1 2"),
    ("", "hat: 1 1l 2 2l 3 3l 4 4l\nsnare: (1t) (2t) 3.> (3t) (4t)\nkick: 1 2l"),
    ("", "ride: 1 2 2l 3 4 4l\nsnare: 1l 2l.> 4\nhat_foot: 2 4\nkick: 1 3l"),
    ("", "snare: 1 1a 2& 3 3a 4&\ntom_high: 1e 2\ntom_floor: 1& 2a\nkick: 2e 3e 4"),
    ("", "snare: 1:0/5 1:1/5 1:2/5 1:3/5 1:4/5 2:0/5 2:1/5 2:2/5 2:3/5 2:4/5\ntom_floor: 3 4"),
    ("", "snare: 1:0/7 1:1/7 1:2/7 1:3/7 1:4/7 1:5/7 1:6/7 3.>\nkick: 3"),
    ("", "snare: 1 1& 1:9/12 1:10/12 1:11/12 2\nkick: 1 2"),
    ("", "snare: 1 1:1/12 1:2/12 1e 1& 1a 2 2:1/12 2:2/12 2e 2& 2a 3\nkick: 1 3"),
    ("", "hat: 1.o 1& 2.o 2& 3.h 3& 4.h 4&\nhat_foot: 1& 2&\nsnare: 2 4\nkick: 1 3"),
    ("", "crash: 1.x 3.x\nchina: 2 4\nkick: quarters\nsnare: 2 4"),
    (
        "",
        "ride_bell: offbeats\nsnare: (1e) 2 (2a) (3e) 4 (4a)\nkick: 1 1a 2& 3\nhat_foot: quarters",
    ),
    ("", "cross_stick: 1 1a 2& 3& 4\nhat: 8ths\nkick: 1 1a 2 2a 3 3a 4 4a"),
    ("", "tom_high: 1 1e 1& 1a\ntom_mid: 2 2e 2& 2a\ntom_low: 3 3e 3& 3a\ntom_floor: 4 4e 4& 4a"),
    ("", "snare: 1 2 3 4\ntom_floor: 1 2 3 4\nkick: offbeats"),
    ("", "snare: 1.f\ntom_floor: 2.f\ntom_high: 3.d\nsnare: 4.u"),
    ("", "kick: 16ths\nride: quarters\nsnare: 2 4"),
    ("", "hat: 16ths\nsnare: (1e) 2 (2e) (2a) (3e) (3a) 4 (4e)\nkick: 1 1a 2& 3 3a 4&"),
    ("", "clap: 2 4\nshaker: 16ths\ncowbell: quarters\nkick: 1 3"),
    ("", "tambourine: 2 4\nblock: 1 1& 2&\nhat: 8ths\nkick: 1 3"),
    ("", "hat: quarters\nsnare: 2 4\nkick: 1"),
    ("", "snare: 3\nkick: 1"),
    ("", "kick: 1"),
    ("", 'hat: 8ths\nsnare: 2 4\nkick: 1 3\ncue: "shout" 1 2& 4'),
    ("", "hat: -\nsnare: -\nkick: -"),
    ("", "snare: 1e 1a 2e 2a 3e 3a 4e 4a\nkick: 8ths"),
    (
        "",
        "snare: 1.R 1e.L 1&.R 1a.R 2.L 2e.R 2&.L 2a.L 3.R 3e.L 3&.R 3a.R 4.L 4e.R 4&.L 4a.L\nkick: quarters",
    ),
    ("", "snare: 1.i 1& 2.i 2& 3 3e.i 3& 4\nhat_foot: 2 4"),
    ("meter: 6/8", "hat: 1 1t 1l 2 2t 2l\nsnare: 2\nkick: 1 1l"),
    ("meter: 9/8", "ride: 1 1t 1l 2 2t 2l 3 3t 3l\nsnare: 2 3l\nkick: 1 3"),
    ("meter: 3/4", "ride: quarters\nsnare: 2& 3\nkick: 1"),
    ("", "crash: 1\ncrash_2: 1\nsplash: 2\nchina: 3\nkick: 1 3"),
    ("", "snare: 1 1:1/8 1e 1& 2 2:1/8 2:2/8 2& 3 3& 3:5/8 3a 4\nkick: 1 3"),
    ("", "hat: 8ths 2&.o 4&.o\nsnare: 2.> 4.f\nkick: 1 1& 3 3a\nhat_foot: 3 1"),
    (
        "",
        "snare: 1:0/6 1:1/6 1:2/6 2 2& 3:0/6 3:1/6 3:2/6 3:3/6 3:4/6 3:5/6 4.>\nkick: 1:3/6 1:5/6 4\ncrash: 4",
    ),
    ("", "ride: 8ths\nsnare: 2 4\nkick: 1 3&\nhat_foot: 2 4\ncrash: 4&"),
)


def song(bars: tuple[tuple[str, str], ...] = BARS, name: str = "Fifty bars") -> Score:
    """The bars one behind the other, ten a section."""
    from dataclasses import replace

    text = ["tempo: 96"]
    meter = "meter: 4/4"
    for n, (head, lanes) in enumerate(bars):
        if n % 10 == 0:
            text.append(f"== Page {n // 10 + 1}")
        wanted = head or "meter: 4/4"
        if wanted != meter or n == 0:
            text.append(wanted)
            meter = wanted
        text += [lanes, ""]
    return replace(count.read("\n".join(text) + "\n"), title=name, artist="The Ferrymen")
