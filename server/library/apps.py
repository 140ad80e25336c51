from django.apps import AppConfig


class LibraryConfig(AppConfig):
    name = "library"

    def ready(self) -> None:
        from library import store  # noqa: F401 (frees the files of takes that are deleted)
