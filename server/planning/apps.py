from django.apps import AppConfig


class PlanningConfig(AppConfig):
    name = "planning"

    def ready(self) -> None:
        from jobs.kinds import register
        from practice import due

        from planning import paper
        from planning.models import due_by_song

        register(paper.KIND)
        due.SOURCES.append(due_by_song)
