"""What gunicorn serves."""

import gc
import os

import django

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "config.settings")
django.setup(set_prefix=False)

from config.handling import Handler  # noqa: E402 (it wants the settings)

application = Handler()

# Scores are hundreds of thousands of objects that live for long: with the usual thresholds every
# chart has them all looked through for garbage, which takes a tenth of a second.
gc.freeze()
gc.set_threshold(50_000, 20, 50)
