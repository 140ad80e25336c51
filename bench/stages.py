"""Written grooves and fills, and what a teacher says of them: the hardest place, what comes first,
the usual mistake. Written before the rules (orchesis/teaching). The odd ones were looked at while
these were made, the even ones only at the end.
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
    behind "/"."""

    text: str
    hardest: tuple[int, ...]
    first: tuple[str, ...]
    mistake: str
    tempo: int = 100


LESSONS = (
    Lesson("hat: 8ths\nsnare: 2 4\nkick: 1 3", (1, 2, 3, 4), ("RH",), "together"),
    Lesson("hat: 8ths\nsnare: 2 4\nkick: 1 2a 3", (2,), ("RH",), "2a"),
    Lesson("hat: 8ths\nsnare: 2 4\nkick: 1 3e", (3,), ("RH",), "3e"),
    Lesson("hat: 8ths\nsnare: 2 (2a) 4\nkick: 1 3", (2,), ("RH",), "ghost"),
    Lesson("hat: 8ths\nsnare: 2 4 (4a)\nkick: 1 2& 3", (4,), ("RH",), "ghost"),
    Lesson("hat: 8ths 4&.o\nsnare: 2 4\nkick: 1 3", (4,), ("RH",), "open"),
    Lesson("hat: 8ths 2&.o\nsnare: 2 4\nkick: 1 3", (2,), ("RH",), "open"),
    Lesson("hat: 16ths\nsnare: 2 4\nkick: 1 3", (1, 2, 3, 4), ("RH",), "stiff", 104),
    Lesson("ride: 1 2 2l 3 4 4l\nhat_foot: 2 4\nsnare: 3l\nkick: 1", (3,), ("RH", "RH LF"), "3l", 140),
    Lesson("ride: 8ths\nsnare: 2 4\nkick: 1 1a 3", (1,), ("RH",), "1a"),
    Lesson("snare: 1 1e 1& 1a 2:0/6 2:1/6 2:2/6 2:3/6 2:4/6 2:5/6 3", (2,), ("hands", "RH", "RH LH"), "subdivision", 80),
    Lesson("snare: 3 3e 3& 3a 4:0/6 4:1/6 4:2/6 4:3/6 4:4/6 4:5/6", (4,), ("hands", "RH", "RH LH"), "subdivision", 80),
    Lesson("hat: 8ths\nsnare: 2 4\nkick: offbeats", (1, 2, 3, 4), ("RH",), "between/together"),
    Lesson("hat: 8ths\nsnare: 2 4\nkick: 1 3 4a", (4,), ("RH",), "4a"),
    Lesson("tom_floor: 8ths\nsnare: 2 (3e) 4\nkick: 1 3", (3,), ("RH",), "ghost"),
    Lesson("hat: 8ths\nsnare: 2 4.f\nkick: 1 3", (4,), ("RH",), "flam"),
    Lesson("hat: 8ths\nsnare: 2.d 4\nkick: 1 3", (2,), ("RH",), "drag"),
    Lesson("ride: quarters\nsnare: 2 (2e) 4\nkick: 1 3", (2,), ("RH",), "ghost"),
    Lesson("hat: 16ths\nsnare: 2 4\nkick: 1 2& 3 3a", (3,), ("RH",), "3a", 84),
    Lesson("hat: quarters\nsnare: 2 4\nkick: 1 4&", (4,), ("RH",), "4&"),
)  # fmt: skip


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
    says = stages.mistake(score, [1])
    if not any(word in says for word in lesson.mistake.split("/")):
        found.append(f"mistake {says!r}")
    return found


def share_right(half: int | None = None) -> float:
    own = [x for n, x in enumerate(LESSONS) if half is None or n % 2 == half]
    return sum(not wrong(x) for x in own) / len(own)
