"""What was spent on songs and what is left, out of what is kept beside each."""

from __future__ import annotations

from typing import Any

from library.models import Song
from transcription.models import Arrangement

from orchesis.planning import Work, forecast

_MAX_SONGS = 300


def _work(arrangement: Arrangement) -> Work:
    """A song as the forecast sees it: what is to be confirmed of it, by how deep it is wanted."""
    is_outline = arrangement.song.depth == Song.OUTLINE and arrangement.wanted
    bars = arrangement.wanted if is_outline and arrangement.wanted else arrangement.bars
    done = arrangement.wanted_confirmed if is_outline else arrangement.confirmed
    return Work(
        bars,
        arrangement.doubts_heard or arrangement.doubts,
        arrangement.minutes,
        done / max(bars, 1),
    )


def told(user: Any) -> dict[str, Any]:
    rows = (
        Arrangement.objects.filter(
            song__owner=user.pk, song__removed=None, name=Arrangement.RECORDED, is_broken=False
        )
        .select_related("song")
        .defer("song__tags")
        .order_by("updated")
    )
    works = [(arrangement, _work(arrangement)) for arrangement in rows[:2000]]
    finished = [w for _, w in works if w.done >= 1]
    songs, likely = [], 0.0
    for arrangement, work in works:
        if work.done >= 1:
            continue
        left = forecast(finished, work)
        likely += left.likely
        songs.append(
            {
                "song": arrangement.song_id,
                "spent": round(work.minutes, 1),
                "likely": round(left.likely, 1),
                "low": round(left.low, 1),
                "high": round(left.high, 1),
            }
        )
    return {
        "finished": len(finished),
        "songs": songs[-_MAX_SONGS:],
        "says": _says(songs, likely, bool(finished)),
    }


def _says(songs: list[dict[str, Any]], likely: float, knows_pace: bool) -> str:
    """knows_pace: whether a song was finished, out of which the pace is known."""
    if not songs:
        return ""
    many = f"{len(songs)} song{'s' if len(songs) > 1 else ''} on the desk"
    pace = "at your pace" if knows_pace else "at the usual pace"
    return f"{many}: about {span(likely)} left {pace}."


def span(minutes: float) -> str:
    """Minutes as somebody says them who does not know them to the minute."""
    if minutes < 55:
        return f"{max(5, 5 * round(minutes / 5))} minutes"
    hours = 0.5 * round(minutes / 30)
    return "an hour" if hours == 1 else f"{hours:g} hours"
