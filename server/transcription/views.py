from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from typing import Any, TypeVar

from config.answers import answered, read
from config.files import attachment
from django.db.models import QuerySet
from django.http.response import HttpResponse, HttpResponseBase
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from library import sound
from library.access import must_be_allowed
from library.models import Song, Take
from rest_framework.exceptions import ValidationError
from rest_framework.generics import get_object_or_404
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from orchesis import charting, explanations, feel
from orchesis.checks import alike, other_takes, review
from orchesis.correcting.writing import cue_text
from orchesis.engraving import PAPERS, legend
from orchesis.errors import BadScore
from orchesis.explanations import summary
from orchesis.formats import count_writer, midi, registry
from orchesis.formats.file_names import file_name
from orchesis.formats.midi_keys import keys_of
from orchesis.grooves.compare import compare
from orchesis.page.model import GHOSTS
from orchesis.score import Score, Stroke, notation
from orchesis.score.kit import LAYOUTS
from orchesis.score.untrusted import read_whole, shown
from orchesis.sounding import part
from transcription import answers, findings, log, reckoning
from transcription.kept_answers import kept_answer
from transcription.models import Arrangement, Edit, Preferences

T = TypeVar("T")


def asked_arrangement(request: Request, pk: int, may: str | None = None) -> Arrangement:
    """What is played in a song that the asker sees: as it was recorded, or the arrangement that
    the request names by its number; 404 where there is none, 403 where they may not do that.

    may: of people.access; where it is not said, what the request's method wants.
    """
    found = _asked(request, pk)
    must_be_allowed(request, found.song, may)
    return found


def _asked(request: Request, pk: int) -> Arrangement:
    rows = Arrangement.objects.visible_to(request.user).select_related("song", "take")
    if number := request.query_params.get("arrangement"):
        try:
            wanted = read_whole(number, 1, 2**31, "An arrangement")
        except BadScore as problem:
            raise ValidationError(str(problem)) from None
        return get_object_or_404(rows, song=pk, pk=wanted)
    return get_object_or_404(rows, song=pk, name=Arrangement.RECORDED)


def read_arrangement(request: Request, pk: int, may: str | None = None) -> Arrangement:
    """The arrangement asked for, with its score read."""
    # The documents are fetched only where the score is not at hand.
    found = asked_arrangement(request, pk, may)
    try:
        found.score  # noqa: B018 (read once, and kept)
    except BadScore:
        found.mark_broken()
        raise
    return found


def arrangements_of(request: Request, pk: int, may: str | None = None) -> QuerySet[Arrangement]:
    """All arrangements of a song; as asked_arrangement has it where the asker may not."""
    must_be_allowed(request, get_object_or_404(Song.objects.visible_to(request.user), pk=pk), may)
    return Arrangement.objects.filter(song=pk).select_related("song", "take")


def asked_bar(request: Request, score: Score, name: str = "bar") -> int:
    """The bar that a request names; told in one sentence where the song has none such."""
    try:
        return read_whole(request.query_params.get(name, ""), 1, score.bar_count, "A bar")
    except BadScore:
        raise ValidationError(f"Name bars of the song (1 to {score.bar_count}).") from None


def _findings(found: Arrangement, user: Any, last: Edit | None = None) -> dict[str, Any]:
    """What follows from the score as it now is: tempo, fills, form, and what a user can undo."""
    return summary.summary(found.score, findings.heard(found)) | _steps(found, user, last)


def _steps(found: Arrangement, user: Any, last: Edit | None = None) -> dict[str, str]:
    undoes, redoes = log.steps(found, user, last)
    return {"undoes": undoes, "redoes": redoes}


class TranscriptionView(APIView):
    @extend_schema(responses=answers.Transcription)
    def get(self, request: Request, pk: int) -> HttpResponse:
        found = read_arrangement(request, pk)
        more = {"take": found.take_id, "arrangement": found.name, "duration": found.take.duration}
        steps = _steps(found, request.user)

        def make() -> dict[str, Any]:
            return {
                # The page judges nothing by what was heard before it was judged.
                "score": {k: v for k, v in found.score.to_json().items() if k != "evidence"},
                "hits": [
                    {k: h[k] for k in ("time", "part", "loudness", "confidence")}
                    for h in findings.heard(found).get("hits", [])
                ],
                **more,
                **steps,
                **summary.summary(found.score, findings.heard(found)),
            }

        return kept_answer(request, found, answers.Transcription, make, more, steps)


class EditsView(APIView):
    """One edit; the answer holds every change since the page's version."""

    @extend_schema(request=answers.EditRequest, responses=answers.EditResult)
    def post(self, request: Request, pk: int) -> Response:
        asked = read(answers.EditRequest, request.data)
        found = asked_arrangement(request, pk)
        base = None if asked.over else asked.base
        done = log.edit(found, request.user, asked.edit, base=base, key=asked.key)
        offer = alike.offer(done.old, done.new, done.line.patch.get("strokes", ()))
        return _since(done.line, request.user, asked.base, offer)


class _StepView(APIView):
    step: Callable[[Arrangement, Any, str | None], Edit]

    @extend_schema(request=answers.StepRequest, responses=answers.EditResult)
    def post(self, request: Request, pk: int) -> Response:
        asked = read(answers.StepRequest, request.data)
        # Also of a song that can't be read any more: undo may open it again.
        found = asked_arrangement(request, pk)
        line = self.step(found, request.user, asked.key)
        return _since(line, request.user, asked.base)


class UndoView(_StepView):
    step = staticmethod(log.step_back)


class RedoView(_StepView):
    step = staticmethod(log.step_forward)


def _since(line: Edit, user: Any, base: int, offer: alike.Offer | None = None) -> Response:
    """Every change since a version, up to the one that was just done."""
    found = line.arrangement
    newer = found.edits.filter(version__gt=base, version__lte=found.version)
    return answered(
        answers.EditResult,
        **{
            "version": found.version,
            "patches": list(newer.values_list("patch", flat=True)),
            "alike": explanations.told_offer(offer) if offer else None,
            **_findings(found, user, line),
        },
    )


class CompareView(APIView):
    """What a bar has otherwise than another bar of the song, than was heard in it at first, or
    than another take has there."""

    @extend_schema(
        parameters=[
            OpenApiParameter("bar", int, required=True),
            OpenApiParameter(
                "with", str, required=True, description="a bar, “heard”, or “take” and its number"
            ),
        ],
        responses=answers.Comparison,
    )
    def get(self, request: Request, pk: int) -> Response:
        found = read_arrangement(request, pk)
        score = found.score
        bar, other = asked_bar(request, score), request.query_params.get("with", "")
        a: Sequence[Stroke]
        if other.startswith("take"):
            takes = Take.objects.filter(song=found.song_id).exclude(heard={})
            number = read_whole(other[4:], 1, 2**31, "A take")
            take = get_object_or_404(takes, pk=number)
            a = other_takes.strokes_of(findings.other(take), score, bar)
        elif other == "heard":
            a = found.heard_bar(bar)
        else:
            a = score.strokes_of(asked_bar(request, score, "with"))
        b = score.strokes_of(bar)
        meter, told = score.meters[bar - 1], compare(a, b)
        return answered(
            answers.Comparison,
            a=[s.to_json() for s in a],
            b=[s.to_json() for s in b],
            differences=[explanations.told_difference(d, meter) for d in told],
            says=explanations.differences(told, meter),
        )


class ReviewView(APIView):
    """The doubts that are open, those that settle most first."""

    @extend_schema(responses=answers.Review)
    def get(self, request: Request, pk: int) -> Response:
        found = read_arrangement(request, pk)
        doubts = findings.doubts(found)
        found.count_doubts(len(doubts))
        return answered(
            answers.Review,
            version=found.version,
            minutes=round(review.minutes(doubts), 1),
            doubts=[{**d.to_json(), "says": explanations.doubt(d, found.score)} for d in doubts],
        )


class CountTextView(APIView):
    """Some bars as count text."""

    @extend_schema(
        parameters=[OpenApiParameter(k, int, required=True) for k in ("first", "last")],
        responses=answers.CountText,
    )
    def get(self, request: Request, pk: int) -> Response:
        found = read_arrangement(request, pk)
        first, last = (asked_bar(request, found.score, k) for k in ("first", "last"))
        if first > last:
            raise ValidationError("The first bar comes before the last one.")
        text = count_writer.write(found.score, first, last)
        return answered(answers.CountText, version=found.version, text=text)


class BandView(APIView):
    """The rhythm of the rest of the band in a bar, as the text of a cue."""

    @extend_schema(
        parameters=[OpenApiParameter("bar", int, required=True)], responses=answers.CountText
    )
    def get(self, request: Request, pk: int) -> Response:
        found = read_arrangement(request, pk)
        score = found.score
        bar = asked_bar(request, score)
        start, end = score.seconds(bar), score.seconds(bar + 1)
        moments = sound.band_onsets(found.take, start - 0.2, end + 0.1)
        text = cue_text(score, bar, moments)
        return answered(answers.CountText, version=found.version, text=text)


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


def _engraved(found: Arrangement, what: str, wish: charting.Wish, noted: Sequence[Any]) -> Any:
    """Pages of a part (what: of ENGRAVERS); of a long song by a worker."""
    asked = (wish, tuple(noted))
    return reckoning.found_in_time(
        found,
        what,
        asked,
        found.version,
        lambda: ENGRAVERS[what](found.score, *asked),
        reckoning.OF_A_FILE if what == "pdf" else None,
    )


def _in_time_of_a_file(make: Callable[[], T]) -> T:
    return reckoning.in_time(reckoning.OF_A_FILE, make)


ENGRAVERS: dict[str, Callable[..., Any]] = {"sheets": charting.sheets, "pdf": charting.pdf}


class ChartView(APIView):
    @extend_schema(parameters=_WISHED, responses=answers.Chart)
    def get(self, request: Request, pk: int) -> HttpResponse:
        found = read_arrangement(request, pk)
        wish, footnotes = _wish(request, found.score), _is_on(request, "footnotes")
        make = partial(_chart, found, wish, footnotes)
        return kept_answer(request, found, answers.Chart, make, wish, footnotes)


def _chart(found: Arrangement, wish: charting.Wish, footnotes: bool) -> dict[str, Any]:
    written = notation.as_written(found.score)
    told = [(d, explanations.decision(d, found.score)) for d in findings.decisions(found)]
    made = _engraved(found, "sheets", wish, told if footnotes else ())
    return {
        "pages": made.svg,
        "signs": [{"sign": s, "says": legend.WORDS[s]} for s in made.signs],
        "items": [
            {"item": i.item, "name": i.name, "shown": i.said.shown, "words": i.said.words}
            for i in made.items
        ],
        "stretches": [
            {"name": name, "first": first, "last": last}
            for name, first, last in charting.stretches(found.score)
        ]
        if wish.view == "limbs"
        else [],
        "decisions": [says for _, says in told],
        "bars": [written.seconds(b) for b in range(1, written.bar_count + 2)],
        "notation": found.score.notation,
        "notations": notation.possible(found.score),
        "breaks": {str(b): kind for b, kind in found.score.breaks_by_bar().items()},
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


def _midi(request: Request, found: Arrangement) -> bytes:
    """The part as MIDI: on its places, with the song's feel, or as it was measured."""
    feel_wanted = request.query_params.get("feel", part.FEELS[0])
    if feel_wanted not in part.FEELS:
        raise ValidationError(f"There is no feel “{shown(feel_wanted)}”.")
    score = found.score if feel_wanted != part.FEELS[0] else notation.as_written(found.score)
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
        found = read_arrangement(request, pk)
        kind = WRITERS[ending]
        says = ""  # what of the song the file holds
        if ending == "pdf":
            wish = _wish(request, found.score)
            told = [(d, explanations.decision(d, found.score)) for d in findings.decisions(found)]
            noted = told if _is_on(request, "footnotes") else ()
            content, says = _engraved(found, "pdf", wish, noted), charting.name_of(wish)
        elif ending == "mei":
            wish = _wish(request, found.score)
            content = _in_time_of_a_file(lambda: charting.mei(found.score, wish))
        elif ending == "mid":
            content = _in_time_of_a_file(lambda: _midi(request, found))
            asked = request.query_params.get("feel", part.FEELS[0])
            says = {"song": "with its feel", "measured": "as measured"}.get(asked, "")
        else:
            written = notation.as_written(found.score)
            content, _ = _in_time_of_a_file(lambda: registry.write(f"chart.{ending}", written))
        version = "" if found.is_recorded else found.name
        name = file_name(found.song.title, version, says, ending=f".{ending}")
        return attachment(content, kind, name)
