from django.apps import AppConfig


class TranscriptionConfig(AppConfig):
    name = "transcription"

    def ready(self) -> None:
        from jobs.kinds import register

        from transcription.hearing import KIND

        register(KIND)
