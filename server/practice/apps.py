from django.apps import AppConfig


class PracticeConfig(AppConfig):
    name = "practice"

    def ready(self) -> None:
        from jobs.kinds import register

        from practice.exporting import KIND

        register(KIND)
