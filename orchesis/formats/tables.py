"""Tables: strokes as CSV, and time lists (start, end, text, tabs between) of sections, beats and
strokes, as sound editors take them."""

from __future__ import annotations

import csv
from fractions import Fraction
from io import StringIO

from orchesis.errors import BadScore
from orchesis.score import KIT, Meter, PulseMap, Score, Section, Stroke
from orchesis.score.counting import place_text
from orchesis.score.untrusted import printable, read_place, shown

COLUMNS = (
    "bar",
    "meter",
    "place",
    "count",
    "seconds",
    "part",
    "limb",
    "dynamic",
    "loudness",
    "ornament",
)
_STROKE = 0.05  # seconds that a stroke's line lasts
_MOST_BARS = 3000


def write_csv(score: Score) -> bytes:
    """Every stroke a line, an empty bar one without a part. place: felt beats from the bar's start,
    as a fraction."""
    out = StringIO()
    rows = csv.writer(out, lineterminator="\n")
    rows.writerow(COLUMNS)
    for bar, meter in enumerate(score.meters, 1):
        if not score.strokes_of(bar):
            rows.writerow([bar, meter, "", "", f"{score.seconds(bar):.4f}", *[""] * 5])
        for s in score.strokes_of(bar):
            rows.writerow(
                [
                    s.bar,
                    meter,
                    s.place,
                    place_text(s.place, meter),
                    f"{score.seconds(s.bar, s.place):.4f}",
                    s.part,
                    s.limb,
                    s.dynamic,
                    f"{s.loudness:.3f}",
                    s.ornament or "",
                ]
            )
    return out.getvalue().encode()


def read_csv(data: bytes, title: str = "") -> tuple[Score, list[str]]:
    """(the score, what could not be kept). Raises BadScore with the line. Bars that no line names
    are empty ones of the meter before; the tempo is what the seconds say."""
    try:
        rows = list(csv.DictReader(StringIO(data.decode("utf-8"))))
    except (UnicodeDecodeError, csv.Error) as problem:
        raise BadScore(f"This is no table of strokes ({problem}).") from None
    if not rows or not {"bar", "place", "part"} <= rows[0].keys():
        raise BadScore(f"A table of strokes has the columns {', '.join(COLUMNS)}.")
    meters: dict[int, Meter] = {}
    strokes: dict[str, Stroke] = {}
    moments: list[tuple[int, Fraction, float]] = []
    for line, row in enumerate(rows, 2):
        try:
            bar = int(row["bar"])
            if not 1 <= bar <= _MOST_BARS:
                raise BadScore(f"there is no bar {bar}")
            meter = Meter.parse(row.get("meter") or "4/4")
            meters[bar] = meter
            if not row["part"]:
                continue
            place = read_place(row["place"])
            if place >= meter.beats:
                raise BadScore(f"the place {place} lies outside of the bar")
            part = row["part"]
            limb = row.get("limb") or (KIT[part].limb if part in KIT else "RH")
            stroke = Stroke(
                f"s{line - 1}",
                bar,
                place,
                part,
                limb,
                row.get("dynamic") or "normal",
                float(row.get("loudness") or 0.7),
                row.get("ornament") or None,
            )
            if row.get("seconds"):
                moments.append((bar, place, float(row["seconds"])))
        except (BadScore, ValueError, TypeError) as problem:
            raise BadScore(f"Line {line}: {shown(str(problem))}") from None
        strokes[stroke.id] = stroke
    rows_of_bar, last = [], Meter()
    for bar in range(1, max(meters) + 1):
        last = meters.get(bar, last)
        rows_of_bar.append(last)
    pulse = _pulse(rows_of_bar, moments)
    return (
        Score(
            tuple(rows_of_bar),
            pulse,
            strokes,
            (Section("sec1", "Song", "A", 1, len(rows_of_bar)),),
            title=title,
        ),
        [],
    )


def _pulse(meters: list[Meter], moments: list[tuple[int, Fraction, float]]) -> PulseMap:
    """Even beats between the first and the last moment that are told, 100 a minute where none."""
    starts = [0]
    for m in meters:
        starts.append(starts[-1] + m.beats)
    at = [(float(starts[bar - 1] + place), seconds) for bar, place, seconds in moments]
    first, last = min(at, default=(0.0, 0.0)), max(at, default=(0.0, 0.0))
    beats = last[0] - first[0]
    each = (last[1] - first[1]) / beats if beats > 0 and last[1] > first[1] else 0.6
    begin = max(0.0, first[1] - first[0] * each) if at else 0.0
    return PulseMap.of([begin + k * each for k in range(starts[-1] + 1)])


def write_sections(score: Score) -> bytes:
    return _list(
        (score.seconds(s.first_bar), score.seconds(s.last_bar + 1), s.name) for s in score.sections
    )


def write_beats(score: Score) -> bytes:
    rows = []
    for bar, meter in enumerate(score.meters, 1):
        for k in range(meter.beats):
            start, end = (score.seconds(bar, Fraction(n)) for n in (k, k + 1))
            rows.append((start, end, f"{bar}.{k + 1}"))
    return _list(rows)


def write_strokes(score: Score) -> bytes:
    return _list(
        (at, at + _STROKE, s.part)
        for s in score.ordered()
        for at in (s.time if s.time is not None else score.seconds(s.bar, s.place),)
    )


def _list(rows) -> bytes:  # type: ignore[no-untyped-def]
    return "".join(f"{a:.4f}\t{b:.4f}\t{printable(text)}\n" for a, b, text in rows).encode()
