from django.apps import AppConfig


class KeepingConfig(AppConfig):
    name = "keeping"
