"""Writes the kit table for the browser (web/src/kit/kit.json) from the core's one table."""

import json

from django.conf import settings
from django.core.management.base import BaseCommand

from orchesis.score import LAYERS
from orchesis.score.kit import kit_json
from orchesis.score.stroke import GRACES, ORNAMENTS
from orchesis.sounding import KIT_FOLDER


class Command(BaseCommand):
    help = __doc__

    def handle(self, **_options: object) -> None:
        samples = json.loads((KIT_FOLDER / "kit.json").read_text())
        table = {
            "layers": LAYERS, "parts": kit_json(), "samples": samples, "graces": GRACES,
            "ornaments": ORNAMENTS,
        }  # fmt: skip
        target = settings.ROOT / "web" / "src" / "kit" / "kit.json"
        target.write_text(json.dumps(table, indent=1) + "\n")
