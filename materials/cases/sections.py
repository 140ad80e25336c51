"""Sixty written sections and what kind a musician would call each.

Written after comping, stops and marks had their rules and before that of what is fixed; the odd ones (counted
from 0) were looked at while that one was mended, of the even ones only the share that is right. Lanes:
a row of words separated by | goes round for as many bars as the section has; "abca..." with the words given
lays them in that order.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from orchesis.formats import count
from orchesis.grooves import grooves


@dataclass(frozen=True)
class Written:
    """kind: of orchesis.score.groove.KINDS. lanes: count text of each part."""

    kind: str
    bars: int
    lanes: dict[str, str] = field(default_factory=dict)
    head: str = ""

    @property
    def text(self) -> str:
        rows = "\n".join(f"{part}: {_row(own, self.bars)}" for part, own in self.lanes.items())
        return f"tempo: 110\n{self.head}== A\n{rows}"


def _row(own: str, bars: int) -> str:
    words = [w.strip() for w in own.split("|")]
    return " | ".join(words[n % len(words)] for n in range(bars))


def laid(order: str, **words: str) -> str:
    """Words by letter in an order: "aab" with a="1 3" and b="1"."""
    return " | ".join(words[k] for k in order)


_BEAT = {"hat": "8ths", "snare": "2.> 4.>", "kick": "1 3"}
_RIDE = {"ride": "1 2 2l 3 4 4l", "hat_foot": "2 4"}
_COMP = {
    "a": "2& 4l",
    "b": "1l 3",
    "c": "2 3l",
    "d": "4",
    "e": "1l 3l",
    "f": "2l",
    "g": "1 2l 4l",
    "h": "3l",
}
_BOMB = {"a": "1", "b": "3l", "c": "-", "d": "2l", "e": "4", "f": "1l"}
_SNARE = {
    "a": "1 1a 2& 3 3a 4&",
    "b": "1& 2 2e 2a 3& 4 4e",
    "c": "1 1e 2 2& 3e 3& 4a",
    "d": "1a 2 3 3& 4& 4a",
    "e": "1 2e 2& 3a 4",
    "f": "1e 1& 2a 3 4e 4&",
}
_FREE = (
    "1 1e 2& 3a 4 | 1& 2 2a 3e 4& | 1a 2e 3 3& | 1 2 2& 3 4e 4a | 1e 2a 3& 4 | 1 1& 3e 3a 4& | 2 2e 3 4a | "
    "1& 1a 2& 4 4e | 1 2e 3e 3& 4 | 1a 2 3a 4e 4& | 1e 1& 2 3& 4a | 1 2a 3 3e 4 | 1& 2e 2& 3a | 1 1a 3& 4 4& | "
    "1e 2 2a 3e 4a | 1 2& 3a 4e"
)

WRITTEN = (
    # fixed
    Written("fixed", 8, _BEAT),
    Written("fixed", 8, {**_BEAT, "kick": "1 2& 3 | 1 3 4&"}),
    Written("fixed", 16, {**_BEAT, "kick": "1 3 | 1 2& 3 | 1 3 | 1 4&"}),
    Written("fixed", 8, {"hat": "16ths", "snare": "2.> (2a) (3e) 4.>", "kick": "1 2& 3 4a"}),
    Written("fixed", 8, {**_RIDE, "kick": "quarters"}),
    Written("fixed", 12, {"crash": "quarters", "snare": "2 4", "kick": "1 2& 3"}),
    Written("fixed", 8, {"tom_floor": "8ths 1.> 3.>", "snare": "2 4", "kick": "1 3"}),
    Written("fixed", 8, {"hat": "8ths", "cross_stick": "3", "kick": "3"}),
    Written("fixed", 8, {"hat": "8ths | 8ths 4&.o", "snare": "2 4", "kick": "1 3"}),
    Written("fixed", 8, {**_BEAT, "crash": "1 | - | - | - | - | - | - | -"}),
    Written("fixed", 8, {"hat": "8ths", "snare": "2 4 | 2 4.d", "kick": "1 3"}),
    Written("fixed", 8, {"hat": "8ths", "snare": "2 3", "kick": "1"}, "meter: 3/4\n"),
    Written("fixed", 8, {"hat": "8ths", "snare": "3 5", "kick": "1 4"}, "meter: 5/4\n"),
    Written("fixed", 8, {"kick": "quarters", "clap": "2 4"}),
    Written(
        "fixed", 8, {"hat": "1 1l 2 2l 3 3l 4 4l", "snare": "(1t) (2t) 3.> (4t)", "kick": "1 4l"}
    ),
    Written("fixed", 8, {"snare": "16ths 1.> 2&.> 4.>", "kick": "1 3"}),
    # core and options
    Written("options", 8, {**_BEAT, "kick": laid("abaabbab", a="1 3", b="1 3 4&")}),
    Written(
        "options", 16, {**_BEAT, "kick": laid("aabacabaacabaaba", a="1 3", b="1 2& 3", c="1 3 4a")}
    ),
    Written("options", 8, {**_BEAT, "hat": laid("abaaabab", a="8ths", b="8ths 4&.o")}),
    Written(
        "options",
        16,
        {
            **_BEAT,
            "snare": laid("abacabbacaabacab", a="2.> 4.>", b="2.> (2a) 4.>", c="2.> (3e) 4.>"),
        },
    ),
    Written(
        "options", 12, {**_BEAT, "kick": laid("abacabcaabca", a="1 3", b="1 2& 3", c="1 3 3&")}
    ),
    Written(
        "options", 8, {**_RIDE, "kick": "quarters", "cross_stick": laid("abaababa", a="-", b="4")}
    ),
    Written(
        "options",
        16,
        {
            "hat": "16ths",
            "snare": "2 4",
            "kick": laid("abcaabacbaacabca", a="1 2& 3", b="1 2& 3 4e", c="1 1a 2& 3"),
        },
    ),
    Written(
        "options",
        8,
        {"tom_floor": "8ths", "snare": laid("abababba", a="2 4", b="2 4 4a"), "kick": "1 3"},
    ),
    Written("options", 12, {**_BEAT, "ride": laid("aabaaabaabaa", a="-", b="4&")}),
    Written("options", 16, {**_BEAT, "hat_foot": laid("aabababaabbababa", a="-", b="2 4")}),
    Written(
        "options",
        8,
        {
            "hat": "offbeats",
            "snare": "2 4",
            "kick": laid("abbaabab", a="quarters", b="quarters 4&"),
        },
    ),
    Written(
        "options", 8, {"hat": "8ths", "cross_stick": "3", "kick": laid("aababbab", a="3", b="3 4&")}
    ),
    # vocabulary
    Written(
        "vocabulary",
        16,
        {
            **_RIDE,
            "snare": laid("abcdefghdagbfche", **_COMP),
            "kick": laid("abcdefabcdefabcd", **_BOMB),
        },
    ),
    Written("vocabulary", 16, {**_RIDE, "snare": laid("abcdabdcbadcabcd", **_COMP)}),
    Written(
        "vocabulary",
        16,
        {
            **_RIDE,
            "snare": laid("efghefhgfehgefgh", **_COMP),
            "kick": laid("aabcabcbacbabcab", **_BOMB),
        },
    ),
    Written(
        "vocabulary",
        16,
        {
            "ride": "8ths",
            "kick": "1 2& 3 4&",
            "cross_stick": laid("abcabdcdabdcbacd", a="1 2& 4", b="2 3&", c="1& 3 4&", d="2& 4"),
        },
    ),
    Written(
        "vocabulary",
        16,
        {"snare": laid("abacbbcacbacbaca", **_SNARE), "kick": "1 3 | 1 2& 4 | 1 3& 4a"},
    ),
    Written("vocabulary", 16, {"snare": laid("abcdabcdbadcabdc", **_SNARE), "kick": "1 3"}),
    Written("vocabulary", 12, {"snare": laid("ababbabaabba", **_SNARE)}),
    Written(
        "vocabulary",
        16,
        {
            "tom_floor": laid("abacabbacaabacab", a="1 2& 4", b="1& 2 3& 4a", c="1 1a 3 4e"),
            "kick": "1 3",
        },
    ),
    Written(
        "vocabulary", 16, {"hat": "2 4", "snare": laid("abcdeabcdeabcdea", **_SNARE), "kick": "1"}
    ),
    Written(
        "vocabulary",
        24,
        {
            **_RIDE,
            "snare": laid("abcdefabcdefbadcfeabcdef", **_COMP),
            "kick": laid("abcdefabcdefabcdefabcdef", **_BOMB),
        },
    ),
    Written(
        "vocabulary",
        16,
        {"ride": "quarters", "hat_foot": "2 4", "snare": laid("fedcfedcefdcfedc", **_SNARE)},
    ),
    Written(
        "vocabulary",
        16,
        {
            "hat": "8ths",
            "snare": laid("abcabcacbabcbcab", a="1a 2& 4", b="2 2a 3& 4e", c="1& 3 4a"),
            "kick": "1 3",
        },
    ),
    # ad lib round a skeleton
    Written("skeleton", 16, {"hat_foot": "2 4", "kick": "1 3", "snare": _FREE}),
    Written("skeleton", 16, {**_RIDE, "snare": _FREE}),
    Written("skeleton", 16, {"kick": "quarters", "tom_floor": _FREE}),
    Written("skeleton", 16, {"ride": "quarters", "snare": _FREE}),
    Written("skeleton", 12, {"hat_foot": "quarters", "snare": _FREE}),
    Written("skeleton", 16, {"hat": "8ths", "snare": _FREE, "kick": "1 3"}),
    # through-composed
    Written("through", 16, {"snare": _FREE}),
    Written(
        "through",
        12,
        {"tom_high": _FREE, "kick": "1 | 2& | 3a | 1e 4 | 2 | 3e | 4& | 1a 3 | 2e | 4a | 1& | 3"},
    ),
    Written(
        "through",
        12,
        {"snare": _FREE, "tom_floor": "4 | 1& | 3e | 2 | 4a | 1 | 3& | 2a | 1e | 4e | 2& | 3"},
    ),
    Written(
        "through",
        16,
        {
            "crash": "1 | 2& | - | 4 | 3 | - | 1& | 2 | 4& | - | 3e | 1 | - | 2a | 4 | 3&",
            "snare": _FREE,
        },
    ),
    # stops
    Written(
        "stops", 8, {"crash": "1 | - | - | -", "snare": "1 | - | - | -", "kick": "1 | - | - | -"}
    ),
    Written("stops", 8, {"snare": "1 2& | -", "kick": "1 2& | -"}),
    Written("stops", 16, {"crash": "1 2 3 | - | - | -", "kick": "1 2 3 | - | - | -"}),
    Written("stops", 8, {"tom_floor": "4 4& | -", "kick": "4 | -"}),
    Written("stops", 12, {"snare": "1 | - | -", "crash": "1 | - | -"}),
    Written("stops", 8, {"kick": "1 1a 2& | - | - | -", "snare": "2& | - | - | -"}),
    # silent
    Written("silent", 4, {"kick": "-"}),
    Written("silent", 8, {"hat": "-"}),
    Written("silent", 2, {"snare": "-"}),
    Written("silent", 6, {"ride": "-"}),
)


def told(written: Written) -> str:
    """The kind of the section's largest groove."""
    return max(grooves(count.read(written.text)), key=lambda g: g.bars).kind


def share_right(written: Sequence[Written] = WRITTEN) -> float:
    return sum(told(w) == w.kind for w in written) / len(written)
