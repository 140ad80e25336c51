"""The views of pages: the chart on the screen and as a file."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from typing import Any, TypeVar

from config import time_limits
from config.files import attachment
from django.http.response import HttpResponse, HttpResponseBase
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from findings import by_worker, readings
from findings.kept_answers import kept_answer
from rest_framework.exceptions import ValidationError
from rest_framework.request import Request
from rest_framework.views import APIView
from transcription.access import read_arrangement
from transcription.models import Arrangement, Preferences

from charts import answers
from orchesis import charting, explanations, feel
from orchesis.engraving import PAPERS, legend
from orchesis.errors import BadScore
from orchesis.formats import midi, registry
from orchesis.formats.file_names import file_name
from orchesis.formats.midi_keys import keys_of
from orchesis.page.model import GHOSTS
from orchesis.score import Score, notation
from orchesis.score.kit import LAYOUTS
from orchesis.score.untrusted import read_whole, shown
from orchesis.sounding import part

T = TypeVar("T")

_CHOICES = {
    "view": charting.VIEWS,
    "paper": tuple(PAPERS),
    "sticking": charting.STICKINGS,
    "counts": charting.COUNTS,
    "layout": tuple(LAYOUTS),
    "ghosts": GHOSTS,
}
_WISHED = [
    *(OpenApiParameter(name, str, enum=known) for name, known in _CHOICES.items()),
    OpenApiParameter("letters", str, description="of the right hand and of the left, like RL"),
    OpenApiParameter("bars_a_line", int, description="at the most; 0: as there is room"),
    OpenApiParameter("brackets", bool, description="fills under brackets, with their figures"),
    OpenApiParameter("bars", str, description="of a limb chart, first and last, like 5-12"),
    OpenApiParameter("count_row", bool, description="of a limb chart, between hands and feet"),
    OpenApiParameter("repeats", bool, description="bars that are the one before as a sign"),
    OpenApiParameter("footnotes", bool, description="print what was decided"),
]


def _wish(request: Request, score: Score) -> charting.Wish:
    """The pages that a request wants; told in one sentence where there are none such."""
    asked: dict[str, Any] = {
        k: request.query_params[k] for k in (*_CHOICES, "letters") if k in request.query_params
    }
    try:
        return charting.Wish(
            **asked,
            repeats=_is_on(request, "repeats"),
            brackets=_is_on(request, "brackets", usual=True),
            bars=_bars(request, score),
            count_row=_is_on(request, "count_row", usual=True),
            bars_a_line=read_whole(
                request.query_params.get("bars_a_line", "0"), 0, 99, "A number of bars"
            ),
            counting=Preferences.counting_of(request.user.pk, score.player),
        )
    except BadScore as problem:
        raise ValidationError(str(problem)) from None


def _bars(request: Request, score: Score) -> tuple[int, int] | None:
    """Bars that are asked for as “5-12”; none where the song has no such bars (any more)."""
    first, _, last = request.query_params.get("bars", "").partition("-")
    if not (first.isdecimal() and last.isdecimal() and len(first + last) < 10):
        return None
    return (int(first), int(last)) if 1 <= int(first) <= int(last) <= score.bar_count else None


def _is_on(request: Request, name: str, *, usual: bool = False) -> bool:
    asked = request.query_params.get(name)
    return usual if asked is None else asked in ("1", "true")


def _engraved(
    arrangement: Arrangement, what: str, wish: charting.Wish, noted: Sequence[Any]
) -> Any:
    """Pages of a part (what: of ENGRAVERS); of a long song by a worker."""
    asked = (wish, tuple(noted))
    return by_worker.found_in_time(
        arrangement,
        what,
        asked,
        arrangement.version,
        lambda: ENGRAVERS[what](arrangement.score, *asked),
        time_limits.FILE_SECONDS if what == "pdf" else None,
    )


def _in_time_of_a_file(make: Callable[[], T]) -> T:
    return time_limits.in_time(time_limits.FILE_SECONDS, make)


ENGRAVERS: dict[str, Callable[..., Any]] = {"sheets": charting.sheets, "pdf": charting.pdf}


class ChartView(APIView):
    @extend_schema(parameters=_WISHED, responses=answers.Chart)
    def get(self, request: Request, pk: int) -> HttpResponse:
        arrangement = read_arrangement(request, pk)
        wish, footnotes = _wish(request, arrangement.score), _is_on(request, "footnotes")
        make = partial(_chart, arrangement, wish, footnotes)
        return kept_answer(request, arrangement, answers.Chart, make, wish, footnotes)


def _chart(arrangement: Arrangement, wish: charting.Wish, footnotes: bool) -> dict[str, Any]:
    written = notation.as_written(arrangement.score)
    decisions = [
        (d, explanations.decision(d, arrangement.score)) for d in readings.decisions(arrangement)
    ]
    sheets = _engraved(arrangement, "sheets", wish, decisions if footnotes else ())
    return {
        "pages": sheets.svg,
        "signs": [{"sign": s, "says": legend.WORDS[s]} for s in sheets.signs],
        "items": [
            {"item": i.item, "name": i.name, "shown": i.said.shown, "words": i.said.words}
            for i in sheets.items
        ],
        "stretches": [
            {"name": name, "first": first, "last": last}
            for name, first, last in charting.stretches(arrangement.score)
        ]
        if wish.view == "limbs"
        else [],
        "decisions": [says for _, says in decisions],
        "bars": [written.seconds(b) for b in range(1, written.bar_count + 2)],
        "notation": arrangement.score.notation,
        "notations": notation.possible(arrangement.score),
        "breaks": {str(b): kind for b, kind in arrangement.score.breaks_by_bar().items()},
        "files": [
            {
                "ending": f.endings[0].removeprefix("."),
                "name": f.name,
                "lost": registry.lost(f, written),
            }
            for f in registry.FORMATS
            if f.write is not None
        ],
    }


#: Endings of the files that a chart is given as, and what they are.
WRITERS = {"pdf": "application/pdf", "mei": "application/xml"} | {
    f.endings[0].removeprefix("."): f.kind for f in registry.FORMATS if f.write is not None
}


_OF_MIDI = [
    OpenApiParameter("feel", str, enum=part.FEELS, description="when the strokes of MIDI sound"),
    OpenApiParameter("keys", str, description="MIDI keys of a kit: lines like “snare: 38, 40”"),
]


def _midi(request: Request, arrangement: Arrangement) -> bytes:
    """The part as MIDI: on its places, with the song's feel, or as it was measured."""
    feel_wanted = request.query_params.get("feel", part.FEELS[0])
    if feel_wanted not in part.FEELS:
        raise ValidationError(f"There is no feel “{shown(feel_wanted)}”.")
    score = (
        arrangement.score
        if feel_wanted != part.FEELS[0]
        else notation.as_written(arrangement.score)
    )
    score = score.played()
    try:
        keys = keys_of(request.query_params.get("keys", ""))
    except BadScore as problem:
        raise ValidationError(str(problem)) from None
    return midi.write(score, part.moments(score, feel_wanted, feel.shifts(score)), keys)


class ChartFileView(APIView):
    @extend_schema(
        parameters=[*_WISHED, *_OF_MIDI],
        responses={(200, "application/octet-stream"): OpenApiTypes.BINARY},
    )
    def get(self, request: Request, pk: int, ending: str) -> HttpResponseBase:
        arrangement = read_arrangement(request, pk)
        kind = WRITERS[ending]
        says = ""  # what of the song the file holds
        if ending == "pdf":
            wish = _wish(request, arrangement.score)
            decisions = [
                (d, explanations.decision(d, arrangement.score))
                for d in readings.decisions(arrangement)
            ]
            noted = decisions if _is_on(request, "footnotes") else ()
            content, says = _engraved(arrangement, "pdf", wish, noted), charting.name_of(wish)
        elif ending == "mei":
            wish = _wish(request, arrangement.score)
            content = _in_time_of_a_file(lambda: charting.mei(arrangement.score, wish))
        elif ending == "mid":
            content = _in_time_of_a_file(lambda: _midi(request, arrangement))
            asked = request.query_params.get("feel", part.FEELS[0])
            says = {"song": "with its feel", "measured": "as measured"}.get(asked, "")
        else:
            written = notation.as_written(arrangement.score)
            content, _ = _in_time_of_a_file(lambda: registry.write(f"chart.{ending}", written))
        version = "" if arrangement.is_recorded else arrangement.name
        name = file_name(arrangement.song.title, version, says, ending=f".{ending}")
        return attachment(content, kind, name)
