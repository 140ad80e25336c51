from django.apps import AppConfig


class ArrangementsConfig(AppConfig):
    name = "arrangements"

    def ready(self) -> None:
        from findings import by_worker

        from arrangements import log

        by_worker.FINDERS[by_worker.LIMBS] = log.choose_limbs
