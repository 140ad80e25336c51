"""All that is read from a score in one: grooves, fills, feel, doubts (`orchesis read`)."""

from __future__ import annotations

from typing import Any

from orchesis import explanations, feel, fills, grooves
from orchesis.checks import review, unlikely
from orchesis.fills import fill_facts
from orchesis.formats.count_writer import lanes
from orchesis.score import Meter, Score
from orchesis.score.counting import place_text
from orchesis.score.feel import Feel
from orchesis.score.fill import Fill
from orchesis.score.groove import Groove, Option


def judged(
    score: Score,
    threshold: float = grooves.THRESHOLD,
) -> dict[str, Any]:
    """The contract of `orchesis read` (docs/read-file.md): grooves, fills, feel, doubts."""
    special = [*unlikely.echo_doubts(score), *unlikely.third_hand(score)]
    whole, *sections = feel.read(score)
    return {
        "format": "orchesis-reading",
        "version": 1,
        "title": score.title,
        "grooves": [_groove(g, score) for g in grooves.grooves(score, threshold)],
        "fills": [_fill(f, score) for f in fill_facts.describe_fills(score)],
        "feel": {**_feel(whole, score), "sections": [_feel(f, score) for f in sections]},
        "doubts": [
            {
                "bar": d.bars[0],
                "position": str(d.place / score.meters[d.bars[0] - 1].beats),
                "part": d.part,
                "reason": explanations.doubt(d, score),
                "kind": d.kind,
                "bars": list(d.bars),
            }
            for d in review.queue(score, special)
        ],
    }


def _groove(g: Groove, score: Score) -> dict[str, Any]:
    meter = score.meters[g.first_bar - 1]
    words = explanations.told_groove(g, meter)
    return {
        "first_bar": g.first_bar,
        "bars": g.bars,
        "length": g.length,
        "core": lanes(g.core, [meter] * g.length),
        "options": [_option(o, meter) for o in g.options],
        "kind": g.kind,
        **{k: words[k] for k in ("says", "difference", "once")},
        "fills": list(g.fills),
        "unexplained": list(g.unexplained),
        "typical_bar": g.typical,
        "fullest_bar": g.fullest,
        "figures": list(g.figures),
        "never": list(g.never),
        **{k: words[k] for k in ("relation", "related", "phrases", "feet")},
    }


def _option(o: Option, meter: Meter) -> dict[str, Any]:
    return {
        "bar": o.bar or 1,
        "part": o.part,
        "place": place_text(o.place, meter),
        "share": round(o.share, 2),
        "bars": list(o.bars),
        "where": explanations.option_pattern(o),
        "goes": explanations.option_company(o, meter),
    }


def _fill(f: Fill, score: Score) -> dict[str, Any]:
    span = f.span
    start, end = fills.seconds(score, span)
    longest = max(f.cells, key=lambda c: c.strokes * c.turns, default=None)
    words = explanations.told_fill(f, score)
    return {
        "bar": span.bar,
        "start": round(start, 3),
        "end": round(end, 3),
        "subdivisions": list(f.subdivisions),
        "cell": {"strokes": longest.strokes, "grid": longest.grid} if longest else None,
        "linear": f.is_linear,
        **{
            k: words[k]
            for k in (
                "place",
                "last_bar",
                "end_place",
                "beats",
                "cells",
                "path",
                "accents",
                "ornaments",
                "rudiments",
                "starts",
                "resolves",
                "difficulty",
                "like",
            )
        },
    }


def _feel(f: Feel, score: Score) -> dict[str, Any]:
    claimed = next((s for s in f.swing if s.claimed and s.who == "all"), None)
    level, ratio = (claimed.level, claimed.ratio) if claimed else ("none", 0.5)
    if not f.swing and score.swing[0] != "none":
        level, ratio = score.swing  # only written, never measured
    names = {"backbeat": "snare", "time hand": "hat"}
    fields = {**f.to_json(), "says": explanations.feel(f)}
    return {
        "section": f.section,
        "first_bar": f.first_bar,
        "bars": f.bars,
        "swing": {"level": level, "ratio": ratio},
        "layback_ms": {names.get(p.voice, p.voice): p.ms for p in f.placement},
        **{
            k: fields[k]
            for k in (
                "says",
                "placement",
                "together",
                "levels",
                "gaps",
                "hand",
                "evenness",
                "loose",
                "bpm",
                "drift",
                "rush",
            )
        },
    }
