"""The rules and facts that the page must know by itself, as data: written into
``web/src/kit/rules.json`` by ``make generate``, so that none of them is told twice."""

from __future__ import annotations

import json
from typing import Any

from orchesis.checks.review import DOUBTFUL
from orchesis.hands.plan import PLAN
from orchesis.hearing import STEPS
from orchesis.hearing.sounds import COLUMNS, ROWS
from orchesis.score import LAYERS
from orchesis.score.candidate import SHOWN
from orchesis.score.counting import SCHOOLS, SYLLABLES, rows
from orchesis.score.kit import PIECE, kit_json
from orchesis.score.pitch import NOTE_NAMES
from orchesis.score.player import MAY_LACK
from orchesis.score.shapes import SHAPES
from orchesis.score.stroke import ACCENT_ABOVE, CLASS_LOUDNESS, GHOST_BELOW, GRACES, ORNAMENTS
from orchesis.sounding import KIT_FOLDER
from orchesis.sounding.part import CLICK, CLICKS, CUE, VOICE
from orchesis.sounding.render import APART, FADE, HELD
from orchesis.teaching.ladder import CHECKS, FORGOTTEN, JUDGED
from orchesis.teaching.stages import LABELS


def rules() -> dict[str, Any]:
    """Layers, parts, one-shots, ornaments, classes of loudness, syllables, click, choke, doubt."""
    return {
        "layers": LAYERS,
        "steps": [[key, label] for key, label, _ in STEPS],
        "parts": kit_json(),
        "samples": json.loads((KIT_FOLDER / "kit.json").read_text()),
        "graces": {name: [g._asdict() for g in graces] for name, graces in GRACES.items()},
        "ornaments": ORNAMENTS,
        "loudness": {**CLASS_LOUDNESS, "ghost_below": GHOST_BELOW, "accent_above": ACCENT_ABOVE},
        "doubtful_below": DOUBTFUL,
        "perhaps_from": SHOWN,
        "picture": {"rows": ROWS, "columns": COLUMNS},
        "syllables": {name: str(place) for name, place in SYLLABLES.items()},
        "counting": {school: rows(school) for school in SCHOOLS},
        "note_names": NOTE_NAMES,
        "orders": LABELS,
        "ladder": {"judged": JUDGED, "checks": CHECKS, "forgotten_days": FORGOTTEN},
        "shapes": {name: s._asdict() for name, s in SHAPES.items()},
        "may_lack": MAY_LACK,
        "pieces": PIECE,
        "click": {**CLICK, "parts": CLICKS},
        "voice": json.loads((VOICE / "voice.json").read_text()),
        "stop": {"fade": FADE, "held": HELD, "apart": APART},
        "plan": PLAN,
        "cue": {"part": CUE[0], "loudness": CUE[1]},
    }
