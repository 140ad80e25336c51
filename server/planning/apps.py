from django.apps import AppConfig


class PlanningConfig(AppConfig):
    name = "planning"

    def ready(self) -> None:
        from jobs.kinds import register
        from library import quota
        from practice import due

        from planning import paper
        from planning.models import SetList, due_by_song

        register(paper.KIND)
        quota.count(SetList, "owner", "pdf_size")
        due.SOURCES.append(due_by_song)
