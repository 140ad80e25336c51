"""Celery: long work against the same database, broker and storage as the web server."""

import os

from celery import Celery

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "config.settings")
app = Celery("orchesis")
app.config_from_object("django.conf:settings", namespace="CELERY")
app.autodiscover_tasks()
