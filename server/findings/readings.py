"""What the strokes mean: grooves, fills, feel, other takes, decisions and search.

Read from the newest score on asking and kept for that version; the rules are the core's.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable
from dataclasses import asdict
from fractions import Fraction
from functools import partial
from typing import Any, TypeVar

import orjson
from config.newest import NewestKept
from django.db.models import QuerySet
from library import sound
from library.models import Analysis, Song, Take
from transcription.models import Arrangement

from findings import by_worker
from orchesis import explanations, feel, fills, grooves, search
from orchesis.checks import kit_sounds, other_takes, review, unlikely
from orchesis.errors import BadScore
from orchesis.explanations import summary
from orchesis.fills import fill_facts
from orchesis.grooves import kick_and_bass
from orchesis.score import PulseMap
from orchesis.score.counting import place_text
from orchesis.score.decision import Decision, decided
from orchesis.teaching import passages, reuse

T = TypeVar("T")
_KEPT_BYTES = 64 * 1024 * 1024  # bytes of findings that one server process keeps

_SIZED = orjson.OPT_NON_STR_KEYS | orjson.OPT_SERIALIZE_NUMPY
_found = NewestKept(_KEPT_BYTES)


def kept(
    arrangement: Arrangement,
    what: str,
    make: Callable[[], T],
    *more: Any,
    version: int | None = None,
) -> T:
    """What was found in this version before, or finds it; older versions are forgotten."""
    name = (what, arrangement.pk, arrangement.created, *more)
    version = arrangement.version if version is None else version
    value = _found.get(name, version)
    if value is None:
        value = by_worker.found_in_time(arrangement, what, more, version, make)
        _found.put(name, version, value, len(orjson.dumps(value, default=str, option=_SIZED)))
    return value


def _document(arrangement: Arrangement) -> dict[str, Any]:
    """Empty where the song came as a score: nothing was heard."""
    row = Analysis.objects.filter(take=arrangement.take_id).first()
    return row.document if row is not None else {}


def heard(arrangement: Arrangement) -> dict[str, Any]:
    """The analysis of a song's first take; it stays as it was heard, whatever is edited."""
    return kept(
        arrangement, "analysis", lambda: _document(arrangement), arrangement.take_id, version=0
    )


def groove_book(arrangement: Arrangement, threshold: float) -> list[dict[str, Any]]:
    def make() -> list[dict[str, Any]]:
        score = arrangement.score
        levels = heard(arrangement).get("levels", [])
        tones = summary.bass_tones(heard(arrangement), score.bar_count)
        read = grooves.grooves(score, threshold, levels, tones)
        return [
            explanations.told_groove(
                g, score.meters[g.first_bar - 1], left_handed=score.player.hand == "left"
            )
            | explanations.told_reuse(reuse.read(score, g.first_bar, g.last_bar))
            for g in read
        ]

    return kept(arrangement, "grooves", make, round(threshold, 3))


def passages_of(arrangement: Arrangement) -> list[dict[str, Any]]:
    return kept(
        arrangement,
        "passages",
        lambda: [explanations.told_passage(p) for p in passages.of_song(arrangement.score)],
    )


def kick_and_bass_of(arrangement: Arrangement, first: int, last: int) -> dict[str, Any]:
    """The bass of some bars, heard once: it stays as it is, whatever is edited."""
    score = arrangement.score
    start, end = score.seconds(first), score.seconds(last + 1)
    heard = kept(
        arrangement,
        "bass",
        lambda: sound.bass_notes(arrangement.take, start - 0.3, end + 0.2),
        round(start, 2),
        round(end, 2),
        version=0,
    )
    together = kick_and_bass.read(score, first, last, heard)
    by_bar: dict[int, list[str]] = defaultdict(list)
    for note in together.notes:
        at = place_text(note.place, score.meters[note.bar - 1])
        by_bar[note.bar].append(f"{at}^{note.pitch}")
    return {
        "notes": [{"bar": n.bar, "place": str(n.place), "pitch": n.pitch} for n in together.notes],
        "together": together.together,
        "of_bass": together.of_bass,
        "of_kick": together.of_kick,
        "says": explanations.kick_and_bass(together, score.meters[first - 1]),
        "cues": [{"bar": bar, "text": " ".join(places)} for bar, places in sorted(by_bar.items())],
    }


def fill_list(arrangement: Arrangement) -> list[dict[str, Any]]:
    def make() -> list[dict[str, Any]]:
        score = arrangement.score
        fills_told = []
        for fill in fill_facts.describe_fills(score):
            start, end = fills.seconds(score, fill.span)
            fills_told.append(
                {
                    **explanations.told_fill(fill, score),
                    "start": round(start, 4),
                    "end": round(end, 4),
                }
            )
        return fills_told

    return kept(arrangement, "fills", make)


def denied_fills(arrangement: Arrangement) -> list[dict[str, Any]]:
    """Stretches of which a person says that they are no fills."""
    score = arrangement.score
    denied = []
    for span in fills.said(score, False):
        start, end = fills.seconds(score, span)
        denied.append(
            {
                "bar": span.bar,
                "place": str(span.place),
                "last_bar": span.last_bar,
                "end_place": str(span.end),
                "start": round(start, 4),
                "end": round(end, 4),
            }
        )
    return denied


def sounds(arrangement: Arrangement) -> list[dict[str, Any]]:
    return kept(
        arrangement,
        "sounds",
        lambda: [
            {**asdict(s), "says": explanations.sound(s)}
            for s in kit_sounds.of_song(arrangement.score)
        ],
    )


def feel_of(arrangement: Arrangement) -> dict[str, Any]:
    def make() -> dict[str, Any]:
        score = arrangement.score
        shift = feel.shifts(score)
        return {
            "feels": [{**vars(f), "says": explanations.feel(f)} for f in feel.read(score)],
            "shifts": {s.id: round(shift(s), 5) for s in score.strokes.values()},
        }

    return kept(arrangement, "feel", make)


def others(arrangement: Arrangement) -> list[other_takes.Other]:
    """Further takes of the song that were heard and lie on its timeline."""
    takes = []
    for take in Take.objects.filter(song=arrangement.song_id).exclude(pk=arrangement.take_id):
        if take.heard:
            takes.append(other(take))
    return takes


def other(take: Take) -> other_takes.Other:
    heard = take.heard
    hits = tuple((float(t), str(p), float(x)) for t, p, x in heard["hits"])
    return other_takes.Other(take.name, heard["start"], heard["end"], hits)


def tally(arrangement: Arrangement) -> list[dict[str, Any]]:
    tallies = other_takes.tallies(arrangement.score, others(arrangement))
    return [{**t.to_json(), "says": explanations.tally(t)} for t in tallies]


def doubts(arrangement: Arrangement) -> list[review.Doubt]:
    """The review queue, with echoes, third hands and what other takes have."""
    score = arrangement.score
    echoes = unlikely.echo_doubts(score, lambda pairs: sound.alikeness(arrangement.take, pairs))
    special = [*echoes, *unlikely.third_hand(score)]
    return other_takes.told(review.queue(score, special), score, others(arrangement))


def decisions(arrangement: Arrangement) -> list[Decision]:
    """What was decided of single strokes, with who and when, in the order of the bars."""
    when: dict[str, tuple[str, str]] = {}
    lines = arrangement.edits.filter(decides=True).order_by("version")
    for line in lines.values("patch", "inverse", "author__username", "at"):
        was = line["inverse"].get("strokes", {})
        for key, now in line["patch"].get("strokes", {}).items():
            before = was.get(key)
            doubt_now = (now or {}).get("doubt", ""), (now or {}).get("reason", "")
            if doubt_now != ((before or {}).get("doubt", ""), (before or {}).get("reason", "")):
                when[key] = (line["author__username"] or "", line["at"].date().isoformat())
    return decided(arrangement.score, when)


# -- search over the shelf


def _rows_of(arrangement: Arrangement) -> search.Rows:
    return search.rows(arrangement.score)


def _clock_of(arrangement: Arrangement) -> tuple[PulseMap, list[int]]:
    """What tells the seconds of a place, without the strokes."""
    return arrangement.score.pulse, arrangement.score.bar_beats()


def _shelf(user: Any) -> QuerySet[Arrangement]:
    recorded = Arrangement.objects.visible_to(user).filter(name=Arrangement.RECORDED)
    return recorded.select_related("song")


def _index_of(songs: Iterable[Arrangement]) -> tuple[dict[int, Arrangement], search.Index]:
    arrangement_by_song = {t.song_id: t for t in songs}
    rows = ((k, kept(t, "rows", partial(_rows_of, t))) for k, t in arrangement_by_song.items())
    return arrangement_by_song, search.Index(rows)


_VOLUNTEERED = 3  # other songs that are named with a groove


def elsewhere(arrangement: Arrangement, user: Any) -> list[dict[str, Any]]:
    """Other songs of the shelf that play the kick and snare of a groove's typical bar."""
    arrangement_by_song, index = _index_of(_shelf(user))
    places = []
    for n, g in enumerate(groove_book(arrangement, grooves.THRESHOLD)):
        if not g["typical"]:
            continue
        try:
            wanted = search.figure(arrangement.score, g["typical"], "kick and snare")
        except BadScore:
            continue  # too little is played to be looked for
        bars: dict[int, list[int]] = defaultdict(list)
        for match in index.search(wanted):
            if (
                match.song != arrangement.song_id
                and match.how == "same"
                and not match.more + match.less
            ):
                bars[match.song].append(match.bar)
        best = sorted(bars.items(), key=lambda bars_of_song: -len(bars_of_song[1]))[:_VOLUNTEERED]
        places += [
            {
                "groove": n,
                "song": song,
                "title": arrangement_by_song[song].song.title,
                "bar": min(bars_of_song),
                "bars": len(bars_of_song),
            }
            for song, bars_of_song in best
        ]
    return places


def searched(
    arrangement: Arrangement,
    user: Any,
    bar: int,
    scope: str,
    first: Fraction,
    length: Fraction | None,
    over_shelf: bool,
) -> list[dict[str, Any]]:
    """Where else a figure of a bar is played, in the song or over its owner's whole shelf."""
    wanted = search.figure(arrangement.score, bar, scope, first, length)
    songs: Iterable[Arrangement] = _shelf(user) if over_shelf else [arrangement]
    arrangement_by_song, index = _index_of(songs)
    matches = []
    for match in index.search(wanted):
        there = arrangement_by_song[match.song]
        if match.song == arrangement.song_id and match.bar == bar and match.how == "same":
            continue
        pulse, beats = kept(there, "clock", partial(_clock_of, there))
        start = pulse.seconds(beats[match.bar - 1] + match.place)
        matches.append({**match.to_json(), "title": there.song.title, "start": round(start, 4)})
    return matches


def lifted(song: Song, arrangement: Arrangement, number: int) -> dict[str, Any] | None:
    """A fill of a song as it is kept in a collection: its strokes from its own bar 1 on."""
    fills_told = fill_list(arrangement)
    if not 0 <= number < len(fills_told):
        return None
    fill, score = fills_told[number], arrangement.score
    spans = fills.find(score.played())
    strokes = [
        s.to_json() | {"bar": s.bar - fill["bar"] + 1, "measured": None}
        for s in fills.inside(score.played(), spans[number])
    ]
    meters = [str(m) for m in score.meters[fill["bar"] - 1 : fill["last_bar"]]]
    return {
        "title": song.title,
        "bar": fill["bar"],
        "tempo": round(score.pulse.tempo()[0], 1),
        "document": {"fill": fill, "strokes": strokes, "meters": meters},
    }
