"""What the log of practice says: where each ladder stands, today's time, what comes next."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from django.utils import timezone
from transcription.models import Arrangement

from orchesis.teaching import ladder, limits, today
from orchesis.teaching.ladder import Rung
from orchesis.teaching.stages import Stage
from practice import due
from practice.models import Loop, PracticeLimits

_DAYS = 28  # of history that are shown
_MOST_LOOPS = 200  # of a stage that are told


@dataclass(frozen=True)
class Standing:
    """Where a person stands with a stage. checks: of ladder.CHECKS that were passed. climb: (days
    ago, beats a minute) of each loop. days_left: to the ladder's top, at that pace."""

    rung: Rung
    checks: list[str]
    climb: list[tuple[float, float]]
    days_left: float | None


def standings(
    user: Any, arrangement: Arrangement, first: int, last: int, order: str, stages: Iterable[Stage]
) -> list[Standing]:
    """Where a person stands with each stage now."""
    loops = Loop.objects.of(user).filter(
        arrangement=arrangement, first=first, last=last, order=order
    )
    by_stage: dict[str, list[Loop]] = {}
    for loop in loops:
        by_stage.setdefault(loop.stage, []).append(loop)
    now = timezone.now()
    return [_standing(stage, by_stage.get(stage.title, []), now) for stage in stages]


def _standing(stage: Stage, loops: list[Loop], now: datetime) -> Standing:
    if not loops:
        return Standing(Rung(stage.ladder.start), [], [], None)
    passed = {loop.beside for loop in loops if loop.judgement == "relaxed"}
    climb = [(round(_days(now, loop.at), 2), loop.tempo) for loop in loops][-_MOST_LOOPS:]
    rung = stage.ladder.left_alone(loops[-1].rung, _days(now, loops[-1].at))
    left = None if rung.is_learned else ladder.days_left(climb, stage.ladder.goal)
    return Standing(rung, [c for c in ladder.CHECKS if c in passed], climb, left)


def care_of(user: Any) -> PracticeLimits:
    return PracticeLimits.objects.filter(user=user.pk).first() or PracticeLimits(user_id=user.pk)


def told(user: Any) -> dict[str, Any]:
    """Today, the last weeks, every passage that was practised."""
    now = timezone.now()
    loops = list(Loop.objects.of(user).filter(at__gte=now - timedelta(days=_DAYS)))
    midnight = timezone.localtime(now).replace(hour=0, minute=0, second=0, microsecond=0)
    todays = [loop for loop in loops if loop.at >= midnight]
    played = sum(loop.seconds for loop in todays)
    spans = [(loop.at.timestamp() - loop.seconds, loop.at.timestamp()) for loop in todays]
    unbroken = limits.since_break(spans, now.timestamp())
    care = care_of(user)
    days: dict[str, float] = {}
    for loop in loops:
        day = timezone.localtime(loop.at).date().isoformat()
        days[day] = days.get(day, 0.0) + loop.seconds / 60
    return {
        "today": {
            "minutes": round(played / 60, 1),
            "loops": len(todays),
            "ears_minutes_left": round(care.hearing.left(played) / 60),
            "says": limits.says(care.hearing, played, unbroken),
        },
        "days": [{"day": d, "minutes": round(m, 1)} for d, m in sorted(days.items())],
        "passages": [_passage_told(p, loop, now) for p, loop in _passages(user)],
        "care": {
            "level": care.level,
            "protection": care.protection,
            "rule": care.rule,
            "minutes": care.minutes,
        },
    }


def plan(user: Any, minutes: float) -> list[dict[str, Any]]:
    """What to do in so many minutes, with where to find it."""
    passages = {p.key: (p, loop) for p, loop in _passages(user)}
    blocks = today.plan(minutes, [p for p, _ in passages.values()])
    made = []
    for b in blocks:
        loop = passages[b.key][1] if b.key else None
        made.append(
            {
                "kind": b.kind,
                "minutes": round(b.minutes, 1),
                "says": b.says,
                "song": loop.arrangement.song_id if loop else None,
                "arrangement": loop.arrangement_id if loop else None,
                "first": loop.first if loop else None,
                "last": loop.last if loop else None,
                "order": loop.order if loop else None,
            }
        )
    return made


def _passages(user: Any) -> list[tuple[today.Passage, Loop]]:
    """Every passage that was practised, with its newest loop."""
    now = timezone.now()
    dates = due.by_song(user)
    rows: dict[str, list[Loop]] = {}
    for loop in Loop.objects.of(user).select_related("arrangement__song"):
        key = f"{loop.arrangement_id}.{loop.first}-{loop.last}.{loop.order}"
        rows.setdefault(key, []).append(loop)
    passages = []
    for key, loops in rows.items():
        newest = {loop.stage: loop for loop in loops}
        last = loops[-1]
        learned = sum(loop.is_learned for loop in newest.values())
        whole = last.stages <= learned
        span = f"bars {last.first}–{last.last}" if last.last > last.first else f"bar {last.first}"
        title = f"{last.arrangement.song.title}, {span}"
        date = dates.get(last.arrangement.song_id)
        passages.append(
            (
                today.Passage(
                    key,
                    title,
                    last.hard,
                    learned,
                    last.stages,
                    _days(now, last.at),
                    _returns(loops) if whole else 0,
                    float((date - timezone.localdate(now)).days) if date else None,
                ),
                last,
            )
        )
    return passages


def _returns(loops: list[Loop]) -> int:
    """On how many later days a learned passage was played relaxed."""
    days = {loop.at.date() for loop in loops if loop.is_learned and loop.judgement == "relaxed"}
    return max(0, len(days) - 1)


def _days(now: datetime, at: datetime) -> float:
    return (now - at) / timedelta(days=1)


def _passage_told(p: today.Passage, loop: Loop, now: datetime) -> dict[str, Any]:
    return {
        "song": loop.arrangement.song_id,
        "arrangement": loop.arrangement_id,
        "title": p.title,
        "first": loop.first,
        "last": loop.last,
        "order": loop.order,
        "learned": p.learned,
        "stages": p.stages,
        "tempo": round(loop.rung_tempo, 1),
        "days": round(p.days, 1),
        "is_back": p.is_back,
        "due_in": None if p.due is None else int(p.due),
    }
