from django.apps import AppConfig


class TranscriptionConfig(AppConfig):
    name = "transcription"

    def ready(self) -> None:
        from jobs.kinds import register

        from transcription import hearing

        register(hearing.KIND)
