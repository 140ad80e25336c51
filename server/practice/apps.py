from django.apps import AppConfig


class PracticeConfig(AppConfig):
    name = "practice"

    def ready(self) -> None:
        from jobs.kinds import register

        from practice import by_sound, exporting

        register(exporting.KIND)
        register(by_sound.KIND)
