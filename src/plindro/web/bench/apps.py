"""The Bench as a Django app."""

from django.apps import AppConfig


class BenchConfig(AppConfig):
    """Registers its jobs with the queue when models are ready."""

    name = "plindro.web.bench"

    def ready(self) -> None:
        from plindro.web.bench.previews import register_jobs

        register_jobs()
