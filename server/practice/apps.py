from django.apps import AppConfig


class PracticeConfig(AppConfig):
    name = "practice"

    def ready(self) -> None:
        from jobs.kinds import register
        from library import store

        from practice import by_sound, exporting
        from practice.models import Clip

        register(exporting.KIND)
        register(by_sound.KIND)
        store.ALSO_USED.append(Clip.bytes_of)
