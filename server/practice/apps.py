from django.apps import AppConfig


class PracticeConfig(AppConfig):
    name = "practice"

    def ready(self) -> None:
        from jobs.kinds import register
        from library import quota

        from practice import by_sound, exporting
        from practice.models import Clip, PlayAlong, PractisedSound

        register(exporting.KIND)
        register(by_sound.KIND)
        quota.count(Clip, "arrangement__song__owner")
        quota.count(PlayAlong, "arrangement__song__owner")
        quota.count(PractisedSound, "user")
