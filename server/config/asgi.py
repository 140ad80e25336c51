"""What gunicorn serves."""

import os

import django

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "config.settings")
django.setup(set_prefix=False)

from config.handling import Handler  # noqa: E402 (it wants the settings)

application = Handler()
