"""What a link holds: its passages as stages, its pages, its sound."""

from __future__ import annotations

from dataclasses import asdict, dataclass, replace
from functools import lru_cache
from typing import Any

from config.time_limits import FILE_SECONDS, in_time
from transcription.models import Arrangement, Preferences

from orchesis import charting
from orchesis import explanations as words_of
from orchesis.errors import BadScore
from orchesis.grooves.compare import compare
from orchesis.score import Score, counting
from orchesis.score.bar_moves import moved_bar, moved_span
from orchesis.teaching import stages
from orchesis.teaching.ladder import Rung
from orchesis.teaching.stages import Stage
from practice.log import Standing
from practice.models import Clip, PlayerLink, StageNotes

_MAX_BARS = 8  # bars of a section that are learned at once
_KEPT_LINKS = 12  # links whose pages are kept


def given(link: PlayerLink) -> dict[str, Any]:
    """Everything that a player's page needs but its pages and its sound."""
    arrangement = link.arrangement
    score = link.score.played()
    tempo = score.pulse.tempo()[0]
    whole = not link.passages
    return {
        "title": link.title,
        "song": arrangement.song.title,
        "artist": arrangement.song.artist,
        "words": link.words,
        "tempo": round(tempo, 1),
        "period": 60 / tempo,
        "meters": [str(m) for m in score.meters],
        "pulse": list(score.pulse.times),
        "swing": list(score.swing),
        "counting": Preferences.counting_of(arrangement.song.owner_id, score.player),
        "sections": [
            {"name": s.name, "first": s.first_bar, "last": s.last_bar} for s in score.sections
        ],
        "passages": [
            _passage(arrangement, score, p) for p in (_whole(score) if whole else link.passages)
        ],
        "strokes": [s.to_json() for s in score.ordered()] if whole else [],
        "pages": len(pages(link)),
        "duration": arrangement.take.duration or 0.0,
        "sound": link.sounds,
    }


def words(link: PlayerLink) -> set[str]:
    """What is said where the lesson is counted aloud."""
    arrangement = link.arrangement
    school = Preferences.counting_of(arrangement.song.owner_id, link.score.player)
    return {
        word
        for grids in counting.rows(school).values()
        for row in grids.values()
        for word in row
        if word
    }


def _whole(score: Score) -> list[dict[str, Any]]:
    """A whole song as passages: the first bars of each section that is unlike those before it."""
    passages, seen = [], set()
    for section in score.sections:
        bars = [
            b
            for b in range(section.first_bar, section.last_bar + 1)
            if any(True for _ in score.strokes_of(b))
        ]
        if not bars or section.label in seen:
            continue
        seen.add(section.label)
        passages.append(
            {
                "first": bars[0],
                "last": min(bars[0] + 1, section.last_bar),
                "order": "computed",
                "words": "",
            }
        )
    return passages


def _passage(arrangement: Arrangement, score: Score, asked: dict[str, Any]) -> dict[str, Any]:
    first, last = asked["first"], min(asked["last"], score.bar_count)
    bars = range(first, last + 1)
    section = next((s for s in score.sections if s.first_bar <= first <= s.last_bar), None)
    span = f"bars {first}–{last}" if last > first else f"bar {first}"
    title = f"{section.name}, {span}" if section else span
    try:
        plan = plan_of(arrangement, score, bars, asked["order"])
        at = stages.hardest(score, bars)
    except BadScore:  # the bars were emptied since
        return {
            "title": title,
            "words": asked["words"],
            "first": first,
            "last": last,
            "order": asked["order"],
            "hardest": [first, 1],
            "stages": [],
            "why": "",
        }
    return {
        "title": title,
        "words": asked["words"],
        "first": first,
        "last": last,
        "order": asked["order"],
        "hardest": [at.bar, int(at.place) + 1],
        "why": stages.why_single(score, bars, asked["order"], plan.stages),
        "stages": [
            stage_told(s, Standing(Rung(s.ladder.start), [], [], None), w, c)
            for s, w, c in zip(plan.stages, plan.words, plan.clips, strict=True)
        ],
    }


def pages(link: PlayerLink) -> list[str]:
    """The pages of the chart: of the whole song, or the excerpts of the lesson's bars."""
    return _pages(link.arrangement_id, link.version, _of(link))


def sheet_pdf(link: PlayerLink) -> bytes:
    """The lesson as an excerpt sheet, or the whole chart, on paper: under its title, with the
    teacher's words."""
    score = link.score
    return in_time(FILE_SECONDS, lambda: charting.pdf(score, _sheet(link, "A4")))


def _sheet(link: PlayerLink, paper: str) -> charting.Wish:
    wish = charting.Wish(paper=paper, sticking="fills", title=link.title, words=link.words)
    if not link.passages:
        return replace(wish, counts="hard" if paper == "A4" else "none")
    chosen = tuple((p["first"], p["last"], p["words"]) for p in link.passages)
    return replace(wish, view="excerpts", counts="all", sticking="all", chosen=chosen)


def _of(link: PlayerLink) -> tuple[int, charting.Wish]:
    """What decides a lesson's pages."""
    return link.pk, _sheet(link, "tablet")


@lru_cache(maxsize=_KEPT_LINKS)
def _pages(arrangement: int, version: int, of: tuple[int, charting.Wish]) -> list[str]:
    pk, wish = of
    link = PlayerLink.objects.select_related("arrangement__song").get(pk=pk)
    score = link.score
    return in_time(FILE_SECONDS, lambda: charting.pages(score, wish))


# -- what changed since it was given


@dataclass(frozen=True)
class Changes:
    """passages: in the bars of today, those that are still there. says: what changed in them, a
    sentence each."""

    passages: list[dict[str, Any]]
    says: list[str]


def changes(link: PlayerLink) -> Changes:
    """What a lesson would hold if it were given today."""
    if link.version == link.arrangement.version:
        return Changes(link.passages, [])
    then, now = link.score, link.arrangement.score
    if not link.passages:
        return Changes([], _changed_bars(then, now, range(1, then.bar_count + 1)))
    moved, says = [], []
    for p in link.passages:
        span = moved_span(then, now, p["first"], p["last"])
        was = charting.bars_text(p["first"], p["last"])
        if span is None:
            says.append(f"{was.capitalize()} are no longer in the song.")
            continue
        if span != (p["first"], p["last"]):
            says.append(f"{was.capitalize()} are {charting.bars_text(*span)} now.")
        moved.append({**p, "first": span[0], "last": span[1]})
        says += _changed_bars(then, now, range(p["first"], p["last"] + 1))
    return Changes(moved, list(dict.fromkeys(says)))


_MOST_SAID = 12


def _changed_bars(then: Score, now: Score, bars: range) -> list[str]:
    sentences = []
    for bar in bars:
        new = moved_bar(then, now, bar)
        if new is None:
            sentences.append(f"Bar {bar} is gone.")
        elif differences := words_of.differences(
            compare(then.strokes_of(bar), now.strokes_of(new)), now.meters[new - 1]
        ):
            sentences.append(f"Bar {new}: {'; '.join(differences)}.")
    more = len(sentences) - _MOST_SAID
    return [*sentences[:_MOST_SAID], *([f"And {more} more bars."] if more > 0 else [])]


@dataclass(frozen=True)
class Planned:
    """The stages of some bars as the teacher wants them, with words and clips; dropped: titles left
    out."""

    stages: list[Stage]
    words: list[str]
    dropped: list[str]
    clips: list[list[Clip]]


def plan_of(arrangement: Arrangement, score: Score, bars: range, order: str) -> Planned:
    """A stage plan, as the core makes it and the teacher changed it. Stages that a later change
    of the part brought stand at the end. Raises BadScore where there is nothing to learn."""
    stages_by_title = {s.title: s for s in stages.plan(score, bars, order)}
    notes = StageNotes.objects.filter(
        arrangement=arrangement, first=bars[0], last=bars[-1], order=order
    ).first()
    shown: dict[str, list[Clip]] = {}
    for clip in arrangement.clips.filter(first=bars[0], last=bars[-1], order=order):
        shown.setdefault(clip.stage, []).append(clip)
    if notes is None:
        plain = [shown.get(t, []) for t in stages_by_title]
        return Planned(list(stages_by_title.values()), [""] * len(stages_by_title), [], plain)
    dropped = [
        t
        for t in notes.dropped
        if t in stages_by_title and len(stages_by_title) > len(notes.dropped)
    ]
    titles = [t for t in notes.titles if t in stages_by_title and t not in dropped]
    titles += [t for t in stages_by_title if t not in titles and t not in dropped]
    return Planned(
        [stages_by_title[t] for t in titles],
        [notes.words.get(t, "") for t in titles],
        dropped,
        [shown.get(t, []) for t in titles],
    )


def stage_told(stage: Stage, stands: Standing, words: str, clips: list[Clip]) -> dict[str, Any]:
    """A stage on the song's own bars."""
    strokes = sorted(stage.strokes, key=lambda x: (x.bar, x.place))
    return {
        "title": stage.title,
        "plays": stage.plays,
        "strokes": [x.to_json() for x in strokes],
        "rungs": stage.ladder.rungs(),
        "run": stage.ladder.run,
        "rung": asdict(stands.rung),
        "checks": stands.checks,
        "climb": [list(p) for p in stands.climb],
        "days_left": stands.days_left,
        "first_beat": stage.first,
        "beats": stage.beats,
        "says": stage.says,
        "words": words,
        "with_song": stage.with_song,
        "clips": [c.told() for c in clips],
    }
