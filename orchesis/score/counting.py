"""The words that drummers count with."""

from __future__ import annotations

import re
from fractions import Fraction

from orchesis.errors import BadScore
from orchesis.score.meter import Meter
from orchesis.score.untrusted import shown

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
#: Before the words of a school of one's own: what is said at e, &, a, t and l; "-": nothing.
OWN = "own "
_OWN_WORD = re.compile(r"-|&|[^\W\d_]{1,8}")
LONGEST_SCHOOL = len(OWN) + 5 * 9 - 1  # letters
#: Divisions of a beat that have words of their own.
GRIDS = (1, 2, 3, 4, 6, 8)


def said_in(school: str) -> dict[Fraction, str]:
    """What is said at each place of a beat in a school of SCHOOLS or in one of a person's own, like
    "own ta ti ta ka di". Raises BadScore where there is no such school.

    >>> said_in("own ti & ta - -")[Fraction(1, 3)]
    ''
    """
    if school in SAID:
        return SAID[school]
    words_of_ones_own = school.removeprefix(OWN).split(" ") if school.startswith(OWN) else []
    if len(words_of_ones_own) != len(SYLLABLES) - 1 or not all(
        _OWN_WORD.fullmatch(w) for w in words_of_ones_own
    ):
        raise BadScore(
            f"One can't count in “{shown(school.removeprefix(OWN))}”: give five words of letters "
            "with blanks between, for e, &, a and the two other parts of a triplet; - says nothing."
        )
    syllables = ("", *("" if w == "-" else w for w in words_of_ones_own))
    return dict(zip(SYLLABLES.values(), syllables, strict=True))


def rows(school: str) -> dict[str, dict[str, tuple[str, ...]]]:
    """All that is said in a school, by the meter's kind and the parts of a beat."""
    return {
        kind: {str(grid): words(grid, kind == "compound", school) for grid in GRIDS}
        for kind in ("simple", "compound")
    }


def words(grid: int, is_compound: bool, school: str = "letters") -> tuple[str, ...]:
    """What is said at each of ``grid`` equal parts of a beat behind its number, "" where nobody
    says anything.

    >>> words(4, False), words(3, False), words(3, True)
    (('', 'e', '&', 'a'), ('', 'trip', 'let'), ('', '&', 'a'))
    """
    places = [Fraction(k, grid) for k in range(grid)]
    if school != "letters":
        syllables = said_in(school)
        return ("", *(syllables.get(p, "") for p in places[1:]))
    if is_compound:
        thirds = {Fraction(1, 3): "&", Fraction(2, 3): "a"}
    elif grid % 3 == 0:
        row = _THIRDS if grid == 3 else _SIXTHS
        thirds = {Fraction(k, len(row)): word for k, word in enumerate(row)}
    else:
        thirds = {place: name for name, place in SYLLABLES.items() if place.denominator in (2, 4)}
    return ("", *(thirds.get(p, "") for p in places[1:]))


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
