"""The analysis file (docs/analysis-file.md): a hearing and its first reading as JSON."""

from __future__ import annotations

from collections import Counter
from dataclasses import asdict, replace
from fractions import Fraction
from typing import Any

from orchesis.checks import kit_sounds
from orchesis.errors import BadScore
from orchesis.feel import layback_ms
from orchesis.fills import fill_bars
from orchesis.formats.analysis_document import must_be_score
from orchesis.hands import with_limbs
from orchesis.hearing import Hearing, Hit
from orchesis.hearing.types import Beat, HeardBar, HeardMeter, Tempo
from orchesis.placing.requantise import nearest_place
from orchesis.score import (
    CandidateHit,
    KitSound,
    Measured,
    Meter,
    PulseMap,
    Score,
    Section,
    Stroke,
    document,
)
from orchesis.score.evidence import Evidence
from orchesis.score.untrusted import MOST_PARTS_READ, read_place

FORMAT, VERSION = "orchesis-analysis", 1


def analysis(hearing: Hearing, score: Score) -> dict[str, Any]:
    """Everything the contract of the analysis file asks for."""
    tempo = hearing.tempo
    heard = {(round(h.time, 4), h.part): h for h in hearing.hits}
    hits = sorted(
        [
            *(_hit(s, score) | _heard(s, heard) for s in score.ordered()),
            *(_perhaps(p, score) for p in score.perhaps.values() if p.is_shown),
        ],
        key=lambda h: (h["bar"], h["time"]),
    )
    return {
        "format": FORMAT,
        "version": VERSION,
        "audio": {"duration": round(hearing.duration, 3), "sample_rate": hearing.sample_rate},
        "tempo": {
            "bpm": tempo.bpm,
            "low": tempo.low,
            "high": tempo.high,
            "steady": tempo.steady,
            "confidence": tempo.confidence,
            "alternatives": list(tempo.alternatives),
        },
        "meter": [{"bar": m.bar, "beats": m.beats, "unit": m.unit} for m in hearing.meters],
        "beats": [{"time": b.time, "bar": b.bar, "beat": b.beat} for b in hearing.beats],
        "hits": hits,
        "sections": [
            {
                "start": round(score.seconds(s.first_bar), 3),
                "end": round(score.seconds(s.last_bar + 1), 3),
                "first_bar": s.first_bar,
                "bars": s.bars,
                "label": s.label,
            }
            for s in score.sections
        ],
        "fills": [
            {
                "bar": bar,
                "start": round(score.seconds(bar, Fraction(beat)), 3),
                "end": round(score.seconds(bar + 1), 3),
            }
            for bar, beat in fill_bars(score)
        ],
        "feel": {
            "swing": {"level": score.swing[0], "ratio": score.swing[1]},
            "layback_ms": layback_ms(score),
        },
        "levels": [list(pair) for pair in hearing.levels],
        "bars": [{**asdict(b), "chroma": list(b.chroma)} for b in hearing.bars],
        "ones": [list(one) for one in hearing.ones],
        "sounding": list(hearing.sounding) if hearing.sounding else None,
        "evidence": [
            {
                part: "".join(map(str, clearness))
                for part, clearness in score.evidence.of_bar(score, bar).items()
            }
            for bar in range(1, score.bar_count + 1)
        ],
        "sounds": _sounds(hearing, score, Counter(h["sound"] for h in hits)),
        "notes": list(hearing.notes),
    }


def _sounds(hearing: Hearing, score: Score, hits: Counter[int]) -> list[dict[str, Any]]:
    sounds_by_number = {s.number: s for s in kit_sounds.of_song(score)}
    return [
        {
            **asdict(s),
            "hits": hits[s.sound],
            "confidence": sounds_by_number[s.sound].sure,
            "doubt": sounds_by_number[s.sound].doubt or None,
        }
        for s in hearing.sounds
        if s.sound in sounds_by_number
    ]


def _heard(s: Stroke, hits: dict[tuple[float, str], Hit]) -> dict[str, Any]:
    """What was measured of a stroke beyond the score; nothing for one that a person wrote."""
    hit = hits.get((round(s.time, 4), s.part)) if s.time is not None else None
    if hit is None:
        return {}
    return {"level": hit.level, "openness": hit.openness, "recalled": hit.recalled}


def _perhaps(p: CandidateHit, score: Score) -> dict[str, Any]:
    """At the nearest 16th or triplet of the bars as they are."""
    bar, place = nearest_place(score, p.time)
    return {
        "state": "perhaps",
        "time": round(p.time, 4),
        "part": p.part,
        "loudness": p.loudness,
        "confidence": p.confidence,
        "bar": bar,
        "position": _fraction(place / score.meters[bar - 1].beats),
        "ghost": False,
        "accent": False,
        "ornament": None,
        "level": p.measured.level,
        "openness": p.measured.openness or 0.0,
        "recalled": False,
        "sound": p.measured.sound,
        "half": p.measured.half,
    }


def _hit(s: Stroke, score: Score) -> dict[str, Any]:
    return {
        "state": "written",
        "time": round(s.time if s.time is not None else score.seconds(s.bar, s.place), 4),
        "part": s.part,
        "loudness": s.loudness,
        "confidence": s.confidence,
        "bar": s.bar,
        "position": _fraction(s.place / score.meters[s.bar - 1].beats),
        "ghost": s.dynamic == "ghost",
        "accent": s.dynamic == "accent",
        "ornament": s.ornament,
        "limb": s.limb,
        "sound": s.measured.sound if s.measured else 0,
        "half": s.measured.half if s.measured else 0,
    }


def _fraction(value: Fraction) -> str:
    return f"{value.numerator}/{value.denominator}"


def hearing_of(data: dict[str, Any]) -> Hearing:
    """What an analysis file of our own keeps of its hearing: enough to align other takes."""
    tempo = data["tempo"]
    return Hearing(
        duration=data["audio"]["duration"],
        sample_rate=data["audio"]["sample_rate"],
        tempo=Tempo(**{k: tempo[k] for k in ("bpm", "low", "high", "steady", "confidence")}),
        meters=tuple(HeardMeter(m["bar"], m["beats"], m["unit"]) for m in data["meter"]),
        beats=tuple(Beat(b["time"], b["bar"], b["beat"]) for b in data["beats"]),
        hits=tuple(
            Hit(h["time"], h["part"], h["loudness"], h["confidence"]) for h in _written(data)
        ),
        sections=(),
        bars=tuple(HeardBar(**{**b, "chroma": tuple(b["chroma"])}) for b in data.get("bars", ())),
    )


def score_of(data: Any, *, title: str = "") -> Score:
    """The score that an analysis file describes; BadScore if it is not one."""
    if not isinstance(data, dict) or data.get("format") != FORMAT:
        raise BadScore("This file is not an analysis of ours (its “format” is missing).")
    if data.get("version") != VERSION:
        raise BadScore(f"This analysis has version {data.get('version')}; we read version 1.")
    must_be_score(data, "The analysis file")
    try:
        score = _score(data, title)
    except KeyError as problem:
        raise BadScore(f"The analysis file is damaged: {problem} is missing.") from None
    except (LookupError, TypeError, ValueError, AttributeError) as problem:
        raise BadScore(f"The analysis file is damaged: {problem}.") from None
    document.must_hold(score, "The analysis file")
    return score


def _score(data: dict[str, Any], title: str) -> Score:
    beats = data["beats"]
    changes = {m["bar"]: Meter(m["beats"], m["unit"]) for m in data["meter"]}
    bars = beats[-1]["bar"] - 1 if beats[-1]["beat"] == 1 else beats[-1]["bar"]
    meter, meters = Meter(), []
    for bar in range(1, bars + 1):
        meter = changes.get(bar, meter)
        meters.append(meter)
    times = [b["time"] for b in beats]
    needed = sum(m.beats for m in meters) + 1
    while len(times) < needed:
        times.append(2 * times[-1] - times[-2])
    strokes = [
        Stroke(
            id=f"h{i + 1}",
            bar=h["bar"],
            place=read_place(h["position"], MOST_PARTS_READ) * meters[h["bar"] - 1].beats,
            part=h["part"],
            limb=h.get("limb", "RH"),
            dynamic="ghost" if h["ghost"] else "accent" if h["accent"] else "normal",
            loudness=h["loudness"],
            ornament=h["ornament"],
            measured=_measured(h),
            confidence=h.get("confidence", 1.0),
            placed_by="heard",
        )
        for i, h in enumerate(_written(data))
    ]
    swing = data.get("feel", {}).get("swing", {"level": "none", "ratio": 0.5})
    score = Score(
        meters=tuple(meters),
        pulse=PulseMap.of(times[:needed]),
        strokes={s.id: s for s in strokes},
        sections=tuple(
            Section(f"sec{i + 1}", s.get("name", s["label"]), s["label"], s["first_bar"], s["bars"])
            for i, s in enumerate(data["sections"])
        ),
        title=data.get("title", title),
        artist=data.get("artist", ""),
        swing=(swing["level"], swing["ratio"]),
        ones=tuple((float(t), float(p)) for t, p in data.get("ones", ())),
        sounding=tuple(data["sounding"]) if data.get("sounding") else None,
        perhaps={
            f"p{k}": CandidateHit(f"p{k}", h["part"], _measured(h), h["loudness"], h["confidence"])
            for k, h in enumerate((h for h in data["hits"] if h.get("state") == "perhaps"), 1)
        },
        sounds=tuple(
            KitSound(
                s["sound"],
                s["part"],
                "",
                s["picture"],
                (s["first_half"], s["second_half"]) if s["second_half"] else (),
            )
            for s in data.get("sounds", ())
        ),
    )
    evidence = [
        {part: [int(x) for x in clearness] for part, clearness in bar.items()}
        for bar in data.get("evidence", ())
    ]
    if not all("limb" in h for h in _written(data)):
        score = with_limbs(score)
    return replace(score, evidence=Evidence.laid(score, evidence[: score.bar_count]))


def _measured(hit: dict[str, Any]) -> Measured:
    return Measured.from_json(
        {k: hit[k] for k in ("time", "level", "openness", "sound", "half") if k in hit}
    )


def _written(data: dict[str, Any]) -> list[dict[str, Any]]:
    """The hits that are written; files from before there were others say nothing of it."""
    return [h for h in data["hits"] if h.get("state", "written") == "written"]
