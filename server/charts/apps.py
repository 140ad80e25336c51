from django.apps import AppConfig


class ChartsConfig(AppConfig):
    name = "charts"

    def ready(self) -> None:
        from findings import by_worker

        from charts import views

        by_worker.FINDERS.update(
            {
                what: lambda found, *asked, draw=draw: draw(found.score, *asked)
                for what, draw in views.ENGRAVERS.items()
            }
        )
