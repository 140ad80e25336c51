from django.apps import AppConfig


class KeepingConfig(AppConfig):
    name = "keeping"

    def ready(self) -> None:
        from jobs.kinds import register

        from keeping import backing_up

        register(backing_up.KIND)
