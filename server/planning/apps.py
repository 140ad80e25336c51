from django.apps import AppConfig


class PlanningConfig(AppConfig):
    name = "planning"

    def ready(self) -> None:
        from jobs.kinds import register

        from planning import paper

        register(paper.KIND)
