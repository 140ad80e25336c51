"""Thirty written grooves and the rule between the limbs that is said first.

Written before the rule (orchesis/hands/rules.py); the odd ones were looked at while it was made, the
even ones at the end (.67; then ties were mended, and one of them whose second bar had no hat). A rule is its kind and its limbs: "always LF RH" (the left foot always lands
with the right hand), "never RF LH", "unison LF LH", "linear", "alone RF" (there is a place at which
only that limb sounds), "hands" (both bars have the same hands, the feet differ), "feet" (the other way
round); where more than one is as good a beginning, each stands behind a "/".
"""

from __future__ import annotations

from dataclasses import dataclass

from orchesis.formats import count
from orchesis.hands import rules, with_limbs


@dataclass(frozen=True)
class Written:
    text: str
    first: str


WRITTEN = (
    Written("hat: 8ths\nsnare: 2 4\nkick: 1 3", "never RF LH"),
    Written("ride: quarters\nsnare: 2 4\nhat_foot: 2 4\nkick: 1 3", "unison LF LH / unison LH LF"),
    Written("hat: 8ths\nsnare: 2 4\nkick: 1 2a 3&", "alone RF / never RF LH"),
    Written("hat: 1 1& 2& 3 3& 4&\nsnare: 2 4\nkick: 1e 3e 3a", "linear"),
    Written("ride: 1 2 2l 3 4 4l\nsnare: 1l 3l\nhat_foot: 2 4", "always LF RH"),
    Written("hat: 8ths | =\nsnare: 2 4 | 2 4\nkick: 1 3 | 1 2& 3&", "hands"),
    Written("hat: 16ths\nsnare: 2 (2a) (3e) 4\nkick: 1 2& 3", "never RF LH"),
    Written(
        "hat: offbeats\nsnare: 2 4\nkick: quarters", "never RH RF / never RF RH / always LH RF"
    ),
    Written(
        "ride: 8ths\ncross_stick: 1 2& 4\nkick: 1 2& 3 4&\nhat_foot: 2 4",
        "never LF RF / never RF LF",
    ),
    Written("tom_floor: 8ths\nsnare: 2 4\nkick: quarters", "always LH RF"),
    Written(
        "hat: quarters\nsnare: 2& 4&\nkick: 1& 3&",
        "linear / never RF LH / never LH RF / never RF RH / never RH LH / never LH RH",
    ),
    Written(
        "ride: quarters\nsnare: 1l 2l 3l 4l\nkick: 1 3\nhat_foot: 2 4",
        "never RF LF / never LF RF / never LH RH / never RH LH",
    ),
    Written("hat: 8ths | =\nsnare: 2 4 | 2 (2a) 4 4&\nkick: 1 3& | 1 3&", "feet"),
    Written("hat: 8ths\nsnare: quarters\nkick: offbeats", "never RF LH / never LH RF"),
    Written("tom_floor: 1 2 3 4\nsnare: 1e 2e 3e 4e\nkick: 1& 1a 2& 2a 3& 3a 4& 4a", "linear"),
    Written(
        "ride: 8ths\nsnare: 2 4\nkick: 1 2 3 4\nhat_foot: offbeats", "never RF LF / never LF RF"
    ),
    Written("ride_bell: quarters\nsnare: (1e) (1a) 2 (2a) (3e) 4\nkick: 1 2& 3&", "never RF LH"),
    Written("hat: 8ths\nsnare: 3\nkick: 1 2&", "never RF LH / never LH RF"),
    Written("crash: quarters\nsnare: 2 4\nkick: quarters", "unison RF RH / unison RH RF"),
    Written(
        "hat: 1 1& 2 2& 3 3& 4 4&\nsnare: 2 4\nkick: 1 1a 2e 3 3a 4e", "alone RF / never RF LH"
    ),
    Written("hat: quarters\nsnare: 2 4\nkick: offbeats", "never RF RH / never RH RF"),
    Written("ride: 1 2 3 4\nhat_foot: 2 4\nkick: 1 3", "never RF LF / never LF RF"),
    Written("hat: 8ths | =\nsnare: 2 4 | =\nkick: 1 2& | 1 1& 3", "hands"),
    Written("hat: 8ths\nsnare: 2 4\nkick: 2 4", "unison LH RF / unison RF LH"),
    Written("snare: 1 1a 2& 3& 4\nkick: 1e 2 3 4& ", "linear / never RF RH / never RF LH"),
    Written(
        "ride: 1 2 2l 3 4 4l\nhat_foot: 2 4\nsnare: 2l 4l\nkick: 1 3",
        "unison LF / always LH RH / always LF RH / never RF LF",
    ),
    Written("hat: 16ths -2 -4\nsnare: 2 4\nkick: 1 3", "never RF LH / never LH RF / alone"),
    Written("hat: 8ths\nsnare: 2 4 4a\nkick: 1 3", "alone LH / never RF LH"),
    Written("tom_floor: quarters\nsnare: quarters\nkick: offbeats", "unison LH RH / unison RH LH"),
    Written(
        "hat: 8ths | = | = | =\nsnare: 2 4 | = | = | =\nkick: 1 3 | 1 3 | 1 3 | 1 2 3",
        "never RF LH",
    ),
)


def first(w: Written) -> str:
    """The rule that is said first, in the list's notation."""
    score = with_limbs(count.read(f"tempo: 92\n== A\n{w.text}\n"))
    bars = range(1, score.bar_count + 1)
    found = rules.between(score, bars, bars if len(bars) == 2 else ())
    if not found:
        return ""
    r = found[0]
    return " ".join([r.kind, *r.limbs])


def is_right(w: Written) -> bool:
    told = first(w)
    return any(
        told == one.strip() or told.startswith(one.strip() + " ") for one in w.first.split("/")
    )


def share_right(half: int | None = None) -> float:
    own = [w for n, w in enumerate(WRITTEN) if half is None or n % 2 == half]
    return sum(map(is_right, own)) / len(own)
