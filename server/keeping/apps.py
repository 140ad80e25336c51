from django.apps import AppConfig


class KeepingConfig(AppConfig):
    name = "keeping"

    def ready(self) -> None:
        from jobs.kinds import register
        from library import trash

        from keeping import backing_up

        register(backing_up.KIND)
        trash.ALSO_EMPTIED.append(backing_up.forget_old)
