"""Written grooves and fills, and what a teacher says of them: the hardest place, what comes first,
the usual mistake. Written before the rules (orchesis/teaching). The odd ones were looked at while
these were made, the even ones only at the end. The second twenty came a session later, again the list
first, and say also what comes second and from which stage on one can play along with the song.
"""

from __future__ import annotations

from dataclasses import dataclass

from orchesis.formats import count
from orchesis.hands import with_limbs
from orchesis.score import Score
from orchesis.teaching import stages


@dataclass(frozen=True)
class Lesson:
    """hardest: beats (from 1), one of which is the hardest place. first: what the first stage plays
    ("RH", "hands", "RF LH" ...), any of them. mistake: a word that its sentence holds, any of them
    behind "/". second: what the second stage plays; along: number of the stage from which on one plays
    along with the recording, any of them; () where the list does not say."""

    text: str
    hardest: tuple[int, ...]
    first: tuple[str, ...]
    mistake: str
    tempo: int = 100
    second: tuple[str, ...] = ()
    along: tuple[int, ...] = ()


LESSONS = (
    Lesson("hat: 8ths\nsnare: 2 4\nkick: 1 3", (1, 2, 3, 4), ("RH",), "together"),
    Lesson("hat: 8ths\nsnare: 2 4\nkick: 1 2a 3", (2,), ("RH",), "2a"),
    Lesson("hat: 8ths\nsnare: 2 4\nkick: 1 3e", (3,), ("RH",), "3e"),
    Lesson("hat: 8ths\nsnare: 2 (2a) 4\nkick: 1 3", (2,), ("RH",), "ghost"),
    Lesson("hat: 8ths\nsnare: 2 4 (4a)\nkick: 1 2& 3", (4,), ("RH",), "ghost"),
    Lesson("hat: 8ths 4&.o\nsnare: 2 4\nkick: 1 3", (4,), ("RH",), "open"),
    Lesson("hat: 8ths 2&.o\nsnare: 2 4\nkick: 1 3", (2,), ("RH",), "open"),
    Lesson("hat: 16ths\nsnare: 2 4\nkick: 1 3", (1, 2, 3, 4), ("RH",), "stiff", 104),
    Lesson(
        "ride: 1 2 2l 3 4 4l\nhat_foot: 2 4\nsnare: 3l\nkick: 1", (3,), ("RH", "RH LF"), "3l", 140
    ),
    Lesson("ride: 8ths\nsnare: 2 4\nkick: 1 1a 3", (1,), ("RH",), "1a"),
    Lesson(
        "snare: 1 1e 1& 1a 2:0/6 2:1/6 2:2/6 2:3/6 2:4/6 2:5/6 3",
        (2,),
        ("hands", "RH", "RH LH"),
        "subdivision",
        80,
    ),
    Lesson(
        "snare: 3 3e 3& 3a 4:0/6 4:1/6 4:2/6 4:3/6 4:4/6 4:5/6",
        (4,),
        ("hands", "RH", "RH LH"),
        "subdivision",
        80,
    ),
    Lesson("hat: 8ths\nsnare: 2 4\nkick: offbeats", (1, 2, 3, 4), ("RH",), "between/together"),
    Lesson("hat: 8ths\nsnare: 2 4\nkick: 1 3 4a", (4,), ("RH",), "4a"),
    Lesson("tom_floor: 8ths\nsnare: 2 (3e) 4\nkick: 1 3", (3,), ("RH",), "ghost"),
    Lesson("hat: 8ths\nsnare: 2 4.f\nkick: 1 3", (4,), ("RH",), "flam"),
    Lesson("hat: 8ths\nsnare: 2.d 4\nkick: 1 3", (2,), ("RH",), "drag"),
    Lesson("ride: quarters\nsnare: 2 (2e) 4\nkick: 1 3", (2,), ("RH",), "ghost"),
    Lesson("hat: 16ths\nsnare: 2 4\nkick: 1 2& 3 3a", (3,), ("RH",), "3a", 84),
    Lesson("hat: quarters\nsnare: 2 4\nkick: 1 4&", (4,), ("RH",), "4&"),
    # the second twenty
    Lesson(
        "hat: 8ths\nsnare: 2 4\nkick: 1 1& 3 3a",
        (3,),
        ("RH",),
        "3a",
        96,
        ("RH LH RF", "RH LH", "RH RF"),
        (2,),
    ),
    Lesson(
        "ride: 8ths\nsnare: 2 (2e) 4 (4e)\nkick: 1 3",
        (2, 4),
        ("RH",),
        "ghost",
        92,
        ("RH LH RF", "RH LH", "RH RF"),
        (2,),
    ),
    Lesson(
        "hat: 8ths\nsnare: 2 4\nkick: quarters",
        (1, 2, 3, 4),
        ("RH",),
        "together",
        118,
        ("RH LH RF", "RH RF"),
        (2,),
    ),
    Lesson(
        "hat: 16ths 4a.o\nsnare: 2 4\nkick: 1 3",
        (4,),
        ("RH",),
        "open",
        88,
        ("RH LH RF", "RH LH", "RH RF"),
        (2,),
    ),
    Lesson(
        "snare: 1 1e 1& 1a 2 2e 2& 2a 3 3e 3& 3a 4 4e 4& 4a",
        (1, 2, 3, 4),
        ("hands", "RH LH"),
        "stiff/even",
        150,
    ),
    Lesson(
        "snare: 3 3e 3& 3a\ntom_high: 4 4e\ntom_floor: 4& 4a\nhat: 8ths -3 -3& -4 -4&\nkick: 1 2",
        (3, 4),
        ("RH",),
        "between/together/stiff",
        110,
    ),
    Lesson(
        "tom_floor: 8ths\nsnare: 2 4\nkick: 1 2& 3",
        (2,),
        ("RH",),
        "2&/between/together",
        100,
        ("RH LH RF", "RH RF", "RH LH"),
        (2,),
    ),
    Lesson(
        "hat: offbeats\nsnare: 2 4\nkick: quarters",
        (1, 2, 3, 4),
        ("RH", "RF"),
        "between/together/next",
        124,
    ),
    Lesson(
        "hat: 8ths\nsnare: 3\nkick: 1 2&",
        (2,),
        ("RH",),
        "2&/between/together",
        72,
        ("RH LH RF", "RH RF", "RH LH"),
        (2,),
    ),
    Lesson("hat: 8ths\nsnare: 2 (3e) (3a) 4\nkick: 1 3", (3,), ("RH",), "ghost", 84),
    Lesson(
        "ride: 1 2 2l 3 4 4l\nhat_foot: 2 4\nkick: 1\nsnare: 1l 3l",
        (1, 3),
        ("RH", "RH LF"),
        "1l/3l",
        150,
    ),
    Lesson(
        "hat: quarters\nsnare: 2 4\nkick: 1 2& 4&",
        (2, 4),
        ("RH",),
        "2&/4&",
        100,
        ("RH LH RF", "RH LH", "RH RF"),
        (2,),
    ),
    Lesson(
        "snare: 1.f 2.f 3.f 4.f\nkick: quarters",
        (1, 2, 3, 4),
        ("RF", "RH", "hands", "RH LH", "LH"),
        "flam",
        100,
    ),
    Lesson("hat: 8ths\nsnare: 2 4 4:1/3 4:2/3\nkick: 1 3", (4,), ("RH",), "subdivision", 90),
    Lesson(
        "crash: 1\nhat: 1& 2 2& 3 3& 4 4&\nsnare: 2 4\nkick: 1 3",
        (1, 2, 3, 4),
        ("RH",),
        "together/between",
        104,
        ("RH LH RF", "RH LH", "RH RF"),
        (2,),
    ),
    Lesson(
        "hat: 8ths\nsnare: 2 4\nkick: 1 2e 3",
        (2,),
        ("RH",),
        "2e",
        96,
        ("RH LH RF", "RH LH", "RH RF"),
        (2,),
    ),
    Lesson(
        "hat: 8ths 1&.o 3&.o\nsnare: 2 4\nkick: 1 3\nhat_foot: 2 4",
        (1, 3),
        ("RH", "LF"),
        "open",
        108,
    ),
    Lesson(
        "hat: triplets\nsnare: 2 4\nkick: 1 3 3l",
        (3,),
        ("RH",),
        "3l/between",
        66,
        ("RH LH RF", "RH LH", "RH RF"),
        (2,),
    ),
    Lesson(
        "snare: 4 4e 4& 4a\nhat: 1 1& 2 2& 3 3&\nkick: 1 3",
        (4,),
        ("RH", "hands", "RH LH"),
        "stiff/between/together/even",
        120,
    ),
    Lesson(
        "hat: 8ths\nsnare: 2 4\nkick: 1 1a 2& 3e 4a",
        (1, 2, 3, 4),
        ("RH",),
        "1a/2&/3e/4a/next",
        100,
        ("RH LH RF", "RH LH", "RH RF"),
        (2, 3),
    ),
)


def score_of(lesson: Lesson) -> Score:
    return with_limbs(count.read(f"tempo: {lesson.tempo}\n== A\n{lesson.text}\n"))


def wrong(lesson: Lesson) -> list[str]:
    score = score_of(lesson)
    found = []
    place = stages.hardest(score, [1])
    if int(place.place) + 1 not in lesson.hardest:
        found.append(f"hardest {place}")
    plan = stages.plan(score, [1])
    if plan[0].plays not in lesson.first:
        found.append(f"first {plan[0].plays}")
    if lesson.second and plan[1].plays not in lesson.second:
        found.append(f"second {plan[1].plays}")
    along = next((n for n, x in enumerate(plan, 1) if x.with_song), 0)
    if lesson.along and along not in lesson.along:
        found.append(f"along from {along}")
    says = stages.mistake(score, [1])
    if not any(word in says for word in lesson.mistake.split("/")):
        found.append(f"mistake {says!r}")
    return found


def share_right(half: int | None = None) -> float:
    own = [x for n, x in enumerate(LESSONS) if half is None or n % 2 == half]
    return sum(not wrong(x) for x in own) / len(own)
