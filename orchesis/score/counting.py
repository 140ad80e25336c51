"""The words that drummers count with."""

from __future__ import annotations

from fractions import Fraction

from orchesis.score.meter import Meter

#: What is said behind the beat's number, and where in the beat it stands.
SYLLABLES = {
    "": Fraction(0),
    "e": Fraction(1, 4),
    "&": Fraction(1, 2),
    "a": Fraction(3, 4),
    "t": Fraction(1, 3),
    "l": Fraction(2, 3),
}
#: Counting schools: what is said at each place of a beat; "" is the beat's number. Count text and
#: all that is typed keep the letters.
SCHOOLS = ("letters", "ta_te", "ta_ka")
SAID: dict[str, dict[Fraction, str]] = {
    "letters": {place: name for name, place in SYLLABLES.items()},
    "ta_te": dict(zip(SYLLABLES.values(), ("", "ta", "te", "ta", "la", "li"), strict=True)),
    "ta_ka": dict(zip(SYLLABLES.values(), ("ta", "ka", "di", "mi", "ki", "da"), strict=True)),
}
_NAMES = {place: name for name, place in SYLLABLES.items()}


def place_text(place: Fraction, meter: Meter) -> str:
    """The shortest name of a place in beats.

    >>> [place_text(Fraction(p), Meter(4, 4)) for p in ("1", "3/2", "5/4", "4/3", "11/6")]
    ['2', '2&', '2e', '2t', '2:5/6']
    >>> place_text(Fraction(3, 2), Meter(12, 8))  # nobody says “&” in a dotted beat
    '2:1/2'
    """
    beat, inside = int(place) + 1, place % 1
    name = _NAMES.get(inside)
    if name is None or (meter.is_compound and name == "&"):
        return f"{beat}:{inside.numerator}/{inside.denominator}"
    return f"{beat}{name}"
