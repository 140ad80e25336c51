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
SCHOOLS = ("letters", "ta_te", "ta_ka", "numbers")
SAID: dict[str, dict[Fraction, str]] = {
    "letters": {place: name for name, place in SYLLABLES.items()},
    "ta_te": dict(zip(SYLLABLES.values(), ("", "ta", "te", "ta", "la", "li"), strict=True)),
    "ta_ka": dict(zip(SYLLABLES.values(), ("ta", "ka", "di", "mi", "ki", "da"), strict=True)),
    "numbers": dict.fromkeys(SYLLABLES.values(), ""),
}
#: Divisions of a beat that have words of their own.
GRIDS = (1, 2, 3, 4, 6, 8)


def words(grid: int, is_compound: bool, school: str = "letters") -> tuple[str, ...]:
    """What is said at each of ``grid`` equal parts of a beat behind its number, "" where nobody
    says anything.

    >>> words(4, False), words(3, False), words(3, True)
    (('', 'e', '&', 'a'), ('', 'trip', 'let'), ('', '&', 'a'))
    """
    places = [Fraction(k, grid) for k in range(grid)]
    if school != "letters":
        return ("", *(SAID[school].get(p, "") for p in places[1:]))
    if is_compound:
        own = {Fraction(1, 3): "&", Fraction(2, 3): "a"}
    elif grid % 3 == 0:
        row = _THIRDS if grid == 3 else _SIXTHS
        own = {Fraction(k, len(row)): word for k, word in enumerate(row)}
    else:
        own = {place: name for name, place in SYLLABLES.items() if place.denominator in (2, 4)}
    return ("", *(own.get(p, "") for p in places[1:]))


_THIRDS = ("", "trip", "let")
_SIXTHS = ("", "trip", "let", "&", "trip", "let")
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
