"""The one reader of numbers, places and words that come from outside, with bounds at the door.

A number written as text can cost a machine its breath (“1e12000000” as an exact fraction has
twelve million digits), and signs that look like digits are none to the reader behind. What
stands here accepts plain digits within stated bounds, and says in one sentence what is wrong.
"""

from __future__ import annotations

import math
import re
from fractions import Fraction
from functools import lru_cache
from typing import TypeGuard

from orchesis.errors import BadScore

#: Equal parts of a beat that a place may name: 48 are 16 parts of a triplet 8th.
MOST_PARTS = 48
#: The same where older documents and files are read, and for parts of a whole bar (48 x 32).
MOST_PARTS_READ = 1536
_PLACE = re.compile(r"([0-9]{1,3})(?:/([0-9]{1,4}))?")
_WHOLE = re.compile(r"-?[0-9]{1,9}")
_UNPRINTABLE = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\x7f-\x9f\ud800-\udfff\ufffe\uffff]")
_SHOWN = 40  # letters of a wrong word that a sentence repeats


def shown(value: object) -> str:
    """A wrong value as a sentence repeats it: short, and printable."""
    text = value if isinstance(value, str) else repr(value)
    text = "".join(c if c.isprintable() else "�" for c in text[: _SHOWN + 1])
    return text if len(text) <= _SHOWN else text[:_SHOWN] + "..."


def read_place(text: object, most_parts: int = MOST_PARTS) -> Fraction:
    """A place or a length in beats, “2” or “3/4”; BadScore if it is none.

    >>> read_place("3/4")
    Fraction(3, 4)
    """
    return _read_place(text if isinstance(text, str) else str(text)[:12], most_parts)


@lru_cache(maxsize=4096)  # a song has few places, each thousands of times
def _read_place(text: str, most_parts: int) -> Fraction:
    match = _PLACE.fullmatch(text)
    parts = int(match[2] or 1) if match else 0
    if match is None or parts == 0:
        raise BadScore(f"“{shown(text)}” is not a place; give beats as a fraction like 3/4.")
    place = Fraction(int(match[1]), parts)
    if place.denominator > most_parts:
        raise BadScore(f"“{shown(text)}” is finer than {most_parts} parts of a beat.")
    return place


def read_whole(text: object, low: int, high: int, what: str) -> int:
    """A whole number from low to high; BadScore says what it should have been.

    >>> read_whole("12", 1, 16, "A bar")
    12
    """
    plain = isinstance(text, str) and _WHOLE.fullmatch(text)
    value = int(text) if plain else text  # type: ignore[call-overload]
    if not isinstance(value, int) or isinstance(value, bool) or not low <= value <= high:
        raise BadScore(f"{what} is a whole number from {low} to {high}, not “{shown(text)}”.")
    return value


def read_number(text: object, low: float, high: float, what: str) -> float:
    """A number from low to high; BadScore says what it should have been.

    >>> read_number("0.5", 0, 1, "A share")
    0.5
    """
    try:
        is_short = not isinstance(text, str) or len(text) <= 30
        value = float(text) if is_short and not isinstance(text, bool) else math.nan  # type: ignore[arg-type]
    except (TypeError, ValueError, OverflowError):
        value = math.nan
    if not low <= value <= high:
        raise BadScore(f"{what} is a number from {low:g} to {high:g}, not “{shown(text)}”.")
    return value


def is_moment(value: object) -> TypeGuard[float]:
    """Whether a value can be a moment of a recording, in seconds (a day at the most)."""
    if not isinstance(value, (int, float)) or isinstance(value, bool):
        return False
    return -86_400 <= value <= 86_400


def unprintable(text: str) -> str | None:
    """The first sign of a text that no page can print, as U+0007; None if there is none.

    Control signs but tabs and line ends, halves of surrogate pairs, and non-characters.
    """
    sign = _UNPRINTABLE.search(text)
    return f"U+{ord(sign[0]):04X}" if sign else None


def printable(text: str) -> str:
    """A text without the signs that no page can print."""
    return _UNPRINTABLE.sub("", text)
